import { strToU8, type Zippable, zipSync } from 'fflate';
import { sheetRows } from './sheet';

const CONTENT = `<?xml version="1.0"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"/>`;
const NS = 'xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"';
const REL = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';

/** A workbook with one sheet of these rows, as XML. */
function workbook(rows: string, more: Zippable = {}): ArrayBuffer {
  const bytes = zipSync({
    '[Content_Types].xml': strToU8(CONTENT),
    'xl/workbook.xml': strToU8(
      `<workbook ${NS} xmlns:r="${REL}"><sheets><sheet name="Takes" sheetId="1" r:id="rId1"/></sheets></workbook>`,
    ),
    'xl/_rels/workbook.xml.rels': strToU8(
      `<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Id="rId1" Type="${REL}/worksheet" Target="worksheets/sheet1.xml"/></Relationships>`,
    ),
    'xl/worksheets/sheet1.xml': strToU8(`<worksheet ${NS}><sheetData>${rows}</sheetData></worksheet>`),
    ...more,
  });
  return bytes.slice().buffer as ArrayBuffer;
}
const cell = (at: string, text: string): string => `<c r="${at}" t="inlineStr"><is><t>${text}</t></is></c>`;
const row = (n: number, ...cells: string[]): string => `<row r="${n}">${cells.join('')}</row>`;

test('the first sheet comes as text, empty cells too', async () => {
  const rows =
    row(1, cell('A1', 'name'), cell('B1', 'note')) + row(2, cell('A2', 'Deck walk'), '<c r="C2"><v>3.5</v></c>');
  expect(await sheetRows(workbook(rows))).toEqual([
    ['name', 'note', ''],
    ['Deck walk', '', '3.5'],
  ]);
});

test('one cell far out does not make a table of millions', async () => {
  await expect(sheetRows(workbook(row(1, cell('XFD1048576', 'x'))))).rejects.toThrow(
    /more than 200 columns or 50,000 rows/,
  );
});

test('a workbook that bursts is not unpacked', async () => {
  const zeros = new Uint8Array(101 * 2 ** 20);
  await expect(sheetRows(workbook('', { 'xl/sharedStrings.xml': [zeros, { level: 0 }] }))).rejects.toThrow(
    /too large when unpacked/,
  );
});

test.each([
  ['no archive', new TextEncoder().encode('not a workbook')],
  ['an archive of something else', zipSync({ 'a.txt': strToU8('x') })],
])('%s is refused with a sentence', async (_, bytes) => {
  await expect(sheetRows(bytes.slice().buffer as ArrayBuffer)).rejects.toThrow(/cannot be read/);
});
