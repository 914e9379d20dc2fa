import Papa from 'papaparse';
import { type IndexTable, readTable, readTextIndex } from '@/naming/table-join';

const MOST_BYTES = 20 * 2 ** 20;
export const isTable = (name: string): boolean => /\.(csv|tsv|txt|xlsx)$/i.test(name);

/** Reads a table file into rows. @throws Error with a sentence for people */
export async function readTableFile(file: File): Promise<IndexTable> {
  if (file.size > MOST_BYTES) throw new Error(`${file.name}: a table can have at most 20 MiB.`);
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
  if (fault) throw new Error(`${file.name}, row ${(fault.row ?? 0) + 1}: a quote is not closed.`);
  const table = readTable(parsed.data);
  if (table.rows.length === 0) throw new Error(`${file.name}: there are no rows in it.`);
  return table;
}

/** The first sheet; loaded when it is needed, for it is large. */
async function sheetOf(file: File): Promise<string[][]> {
  const { Workbook } = await import('exceljs');
  const book = new Workbook();
  try {
    await book.xlsx.load(await file.arrayBuffer());
  } catch {
    throw new Error(`${file.name}: this workbook cannot be read. Save it as XLSX or CSV and try again.`);
  }
  const sheet = book.worksheets[0];
  if (!sheet) throw new Error(`${file.name}: there is no sheet in it.`);
  const rows: string[][] = [];
  sheet.eachRow((row) => {
    const cells: string[] = [];
    row.eachCell({ includeEmpty: true }, (cell, k) => {
      cells[k - 1] = cell.text;
    });
    rows.push(Array.from(cells, (c) => c ?? ''));
  });
  return rows;
}
