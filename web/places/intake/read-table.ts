import {
  looksLikeJointTable,
  looksLikeNumbers,
  TABLE_HEAD,
  type TableColumns,
  type TableSample,
} from '@velvet-reel/motion';
import { transfer, wrap } from 'comlink';
import Papa from 'papaparse';
import { type IndexTable, readTable, readTextIndex } from '@/naming/table-join';
import type { TableReader } from './sheet-worker';
import { jointColumns as jointTexts, readTable as texts } from './texts';

const MOST_BYTES = 20 * 2 ** 20;
const isText = (name: string): boolean => /\.(csv|tsv|txt)$/i.test(name);

/**
 * What a file is: a take, a list that describes takes, or numbers of which nobody has said yet which joints they are. A table
 * whose headings name joints is a take itself.
 */
export async function kindOf(file: File): Promise<'take' | 'list' | 'numbers'> {
  if (!isText(file.name)) return /\.xlsx$/i.test(file.name) ? 'list' : 'take';
  const head = await file.slice(0, TABLE_HEAD).text();
  return looksLikeJointTable(head) ? 'take' : looksLikeNumbers(head) ? 'numbers' : 'list';
}

/** Reads a table file into rows. @throws Error with a sentence for people */
export async function readTableFile(file: File): Promise<IndexTable> {
  if (file.size > MOST_BYTES) throw new Error(texts.aTableCanHave(file.name));
  if (/\.xlsx$/i.test(file.name)) return readTable(await sheetOf(file));
  const text = (await file.text()).replace(/^\uFEFF/, '');
  if (/\.txt$/i.test(file.name) && !/\t/.test(text)) {
    const index = readTextIndex(text);
    if (index.rows.length > 0) return index;
  }
  const parsed = Papa.parse<string[]>(text, {
    skipEmptyLines: true,
    ...(/\.tsv$/i.test(file.name) && { delimiter: '\t' }),
  });
  const fault = parsed.errors.find((e) => e.type === 'Quotes');
  if (fault) throw new Error(texts.rowAQuoteIs(file.name, (fault.row ?? 0) + 1));
  const table = readTable(parsed.data);
  if (table.rows.length === 0) throw new Error(texts.thereAreNoRows(file.name));
  return table;
}

/** A file that takes longer is given up. */
const MOST_MS = 20_000;

/** The first sheet, read in a thread of its own: what is wrong with a stranger's file ends there. */
async function sheetOf(file: File): Promise<string[][]> {
  try {
    return await away(file, (reader, bytes) => reader.sheetRows(bytes), texts.thisWorkbookCannotBe);
  } catch (error) {
    throw new Error(`${file.name}: ${(error as Error).message}`);
  }
}

/** What a table of numbers holds, to choose its columns by. @throws Error with a sentence for people */
export const sampleOf = (file: File): Promise<TableSample> =>
  away(file, (reader, bytes) => reader.sampleTable(bytes), jointTexts.itTakesTooLong);

/** A table of numbers as one whose headings name its joints, under the same name. @throws Error with a sentence for people */
export async function asJointTable(file: File, columns: TableColumns): Promise<File> {
  const text = await away(file, (reader, bytes) => reader.jointTable(bytes, columns), jointTexts.itTakesTooLong);
  return new File([text], file.name.replace(/\.\w+$/, '.csv'), { type: 'text/csv' });
}

/** Reads a file in a thread of its own, which ends with it. */
async function away<T>(
  file: File,
  read: (reader: TableReader, bytes: ArrayBuffer) => Promise<T>,
  broken: string,
): Promise<T> {
  const worker = new Worker(new URL('./sheet-worker.ts', import.meta.url), { type: 'module' });
  const late = new Promise<never>((_, reject) => {
    worker.onerror = () => reject(new Error(broken));
    setTimeout(() => reject(new Error(texts.itTakesTooLong)), MOST_MS);
  });
  late.catch(() => undefined);
  try {
    const bytes = await file.arrayBuffer();
    return await Promise.race([
      read(wrap<TableReader>(worker) as unknown as TableReader, transfer(bytes, [bytes])),
      late,
    ]);
  } finally {
    worker.terminate();
  }
}
