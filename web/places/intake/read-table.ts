import { looksLikeJointTable, TABLE_HEAD } from '@velvet-reel/motion';
import { transfer, wrap } from 'comlink';
import Papa from 'papaparse';
import { type IndexTable, readTable, readTextIndex } from '@/naming/table-join';
import { readTable as texts } from './texts';

const MOST_BYTES = 20 * 2 ** 20;
const isText = (name: string): boolean => /\.(csv|tsv|txt)$/i.test(name);

/** Whether a file is a list of takes; a table of joint places is a take itself. */
export async function isTable(file: File): Promise<boolean> {
  if (!isText(file.name)) return /\.xlsx$/i.test(file.name);
  return !looksLikeJointTable(await file.slice(0, TABLE_HEAD).text());
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

/** A workbook that takes longer is given up. */
const MOST_MS = 20_000;

/** The first sheet, read in a thread of its own: what is wrong with a stranger's file ends there. */
async function sheetOf(file: File): Promise<string[][]> {
  const worker = new Worker(new URL('./sheet-worker.ts', import.meta.url), { type: 'module' });
  const late = new Promise<never>((_, reject) => {
    worker.onerror = () => reject(new Error(texts.thisWorkbookCannotBe));
    setTimeout(() => reject(new Error(texts.itTakesTooLong)), MOST_MS);
  });
  late.catch(() => undefined);
  try {
    const bytes = await file.arrayBuffer();
    const reader = wrap<{ sheetRows: (bytes: ArrayBuffer) => Promise<string[][]> }>(worker);
    return await Promise.race([reader.sheetRows(transfer(bytes, [bytes])), late]);
  } catch (error) {
    throw new Error(`${file.name}: ${(error as Error).message}`);
  } finally {
    worker.terminate();
  }
}
