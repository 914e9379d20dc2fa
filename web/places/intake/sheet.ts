import { unzipSync } from 'fflate';
import { readSheet } from 'read-excel-file/universal';
import { sheet as texts } from './texts';

// A workbook is an archive of XML from a stranger: a few kilobytes can unpack to gigabytes, and one cell far out makes a table
// of millions. What it holds is looked at before anything is made of it.

const MOST_UNPACKED = 100 * 2 ** 20;
const MOST_ROWS = 50_000;
const MOST_COLUMNS = 200;

/** "AB" is the 28th column. */
const columnOf = (letters: string): number => [...letters].reduce((n, c) => 26 * n + c.charCodeAt(0) - 64, 0);

/** @throws Error with a sentence where a workbook is too large to be read */
function demandBounds(bytes: Uint8Array): void {
  let total = 0;
  const parts = unzipSync(bytes, {
    filter: ({ name, originalSize }) => {
      total += originalSize;
      if (total > MOST_UNPACKED) throw new TooLarge(texts.itIsTooLarge);
      return /^xl\/worksheets\/[^/]+\.xml$/.test(name);
    },
  });
  const text = new TextDecoder();
  for (const sheet of Object.values(parts))
    for (const [, letters, row] of text.decode(sheet).matchAll(/<c\b[^>]*?\br="([A-Z]{1,4})(\d{1,8})"/g))
      if (columnOf(letters!) > MOST_COLUMNS || Number(row) > MOST_ROWS)
        throw new TooLarge(texts.itHasMoreThan(MOST_COLUMNS, MOST_ROWS.toLocaleString('en')));
}

class TooLarge extends Error {}

/**
 * The first sheet of a workbook (XLSX), as text.
 * @throws Error with what is wrong with it, to follow the file's name
 */
export async function sheetRows(bytes: ArrayBuffer): Promise<string[][]> {
  try {
    demandBounds(new Uint8Array(bytes));
    const rows = await readSheet(bytes);
    return rows.map((row) =>
      row.map((cell: unknown) =>
        cell === null ? '' : cell instanceof Date ? cell.toISOString().slice(0, 10) : String(cell),
      ),
    );
  } catch (error) {
    if (error instanceof TooLarge) throw new Error(texts.saveLessOfIt(error.message));
    throw new Error(texts.thisWorkbookCannotBe);
  }
}
