// Descriptions from a separate table, joined onto files. Pure: rows and file names in, matches out.

/** What a column of a table can be. */
export const ROLES = [
  'file',
  'subject',
  'number',
  'name',
  'description',
  'category',
  'tags',
  'rate',
  'nothing',
] as const;
export type Role = (typeof ROLES)[number];

export interface IndexTable {
  /** Titles of the columns; made up where the table has none. */
  columns: string[];
  rows: IndexRow[];
}

export interface IndexRow {
  cells: string[];
  /** The heading it stands under, where the table has headings between its rows. */
  heading: string;
  /** Line in the table, from 1. */
  line: number;
}

const NUMBER = /^#?\d{1,6}$/;
const FILE = /\.(bvh|glb|gltf|amc|asf|c3d|trc)$/i;

/** Words of titles by which a column shows its role. */
const TITLES: readonly (readonly [Role, RegExp])[] = [
  ['file', /^(file|filename|clip|path|asset)/i],
  ['subject', /(subject|performer|actor|person|session|char)/i],
  ['number', /^(number|no\.?|nr\.?|#|trial|take|motion ?(number|no)?|id|index)/i],
  ['rate', /(rate|fps|hz|frames? ?(a|per) ?second)/i],
  ['category', /(categor|family|group|class|type)/i],
  ['tags', /(tag|keyword|label)/i],
  ['name', /^(name|title)/i],
  ['description', /(descr|what|action|content|note|comment|motion)/i],
];

/**
 * Reads cells into a table: finds whether the first row is titles, and takes rows with one filled cell among fuller ones
 * for headings.
 */
export function readTable(cells: readonly (readonly string[])[]): IndexTable {
  const all = cells
    .map((row, i) => ({ cells: row.map((c) => c.trim()), line: i + 1 }))
    .filter((r) => r.cells.some((c) => c !== ''));
  const width = all.reduce((w, r) => Math.max(w, r.cells.length), 0);
  const full = all.filter((r) => r.cells.filter((c) => c !== '').length > 1);
  const first = full[0];
  const titled =
    first !== undefined &&
    first.cells.filter((c) => TITLES.some(([, t]) => t.test(c))).length >= Math.min(2, width) &&
    !first.cells.some((c) => NUMBER.test(c) || FILE.test(c));
  const columns = Array.from({ length: width }, (_, k) => (titled ? (first.cells[k] ?? '') : '') || `column ${k + 1}`);
  const rows: IndexRow[] = [];
  let heading = '';
  for (const r of all) {
    if (titled && r === first) continue;
    const filled = r.cells.filter((c) => c !== '');
    if (width > 1 && filled.length === 1 && !FILE.test(filled[0]!) && !NUMBER.test(filled[0]!)) {
      heading = filled[0]!.replace(/[:\s]+$/, '');
      continue;
    }
    rows.push({ cells: Array.from({ length: width }, (_, k) => r.cells[k] ?? ''), heading, line: r.line });
  }
  return { columns, rows };
}

/** Reads an index in plain text: a name or number, blanks, then what it is; lines without a number are headings. */
export function readTextIndex(text: string): IndexTable {
  const lines = text.split(/\r?\n/);
  const entry = /^\s*((?:[A-Za-z]*\d[\w.-]*|\S+\.(?:bvh|glb|gltf|amc)))[\s:)-]+(\S.*)$/;
  return readTable(
    lines.map((line) => {
      const m = entry.exec(line);
      return m ? [m[1]!, m[2]!] : [line.trim(), ''];
    }),
  );
}

/** A good guess at what each column is; every role but 'nothing' is given once. */
export function guessRoles(table: IndexTable): Role[] {
  const roles: Role[] = table.columns.map(() => 'nothing');
  const taken = new Set<Role>();
  const give = (k: number, role: Role): void => {
    if (roles[k] !== 'nothing' || taken.has(role)) return;
    roles[k] = role;
    taken.add(role);
  };
  const values = table.columns.map((_, k) => table.rows.map((r) => r.cells[k]!).filter((c) => c !== ''));
  const share = (k: number, test: (c: string) => boolean): number =>
    values[k]!.length === 0 ? 0 : values[k]!.filter(test).length / values[k]!.length;
  table.columns.forEach((_, k) => {
    if (share(k, (c) => FILE.test(c)) > 0.6) give(k, 'file');
  });
  table.columns.forEach((title, k) => {
    for (const [role, test] of TITLES) if (test.test(title)) give(k, role);
  });
  // what titles do not say the values may
  const length = (k: number): number => values[k]!.reduce((s, c) => s + c.length, 0) / Math.max(1, values[k]!.length);
  const open = table.columns.map((_, k) => k).filter((k) => roles[k] === 'nothing');
  for (const k of open) {
    if (share(k, (c) => NUMBER.test(c)) > 0.8) give(k, taken.has('number') ? 'subject' : 'number');
    else if (!taken.has('file') && share(k, (c) => /^[\w.-]*\d[\w.-]*$/.test(c)) > 0.8) give(k, 'file');
  }
  // of two columns of numbers the one that repeats is the subject
  const [s, n] = [roles.indexOf('subject'), roles.indexOf('number')];
  if (s >= 0 && n >= 0 && /^column/.test(table.columns[s]!) && distinct(values[s]!) > distinct(values[n]!)) {
    roles[s] = 'number';
    roles[n] = 'subject';
  }
  const texts = table.columns
    .map((_, k) => k)
    .filter((k) => roles[k] === 'nothing' && share(k, (c) => /\p{L}/u.test(c)) > 0.5)
    .sort((a, b) => length(b) - length(a));
  for (const k of texts) give(k, taken.has('description') ? 'category' : 'description');
  return roles;
}

const distinct = (values: readonly string[]): number => new Set(values).size / Math.max(1, values.length);

export interface Joinable {
  id: string;
  /** File it came from, with its folder. */
  file: string;
  name: string;
}

export type JoinRule = 'file' | 'numbers' | 'alike';

export interface Joined {
  row: IndexRow;
  item: Joinable;
  by: JoinRule;
}

export interface JoinResult {
  joined: Joined[];
  rowsWithoutFile: IndexRow[];
  filesWithoutRow: Joinable[];
  /** Rows for which several files match equally well. */
  doubtful: { row: IndexRow; files: Joinable[] }[];
}

const bareName = (file: string): string =>
  file
    .replace(/^.*[\\/]/, '')
    .replace(/\.\w+$/, '')
    .toLowerCase();
const numbersOf = (text: string): number[] => (text.match(/\d+/g) ?? []).map(Number);

/** Letter pairs in common, 0 … 1. */
export function likeness(a: string, b: string): number {
  const pairs = (t: string): string[] => {
    const s = ` ${t
      .toLowerCase()
      .replace(/[^\p{L}\p{N}]+/gu, ' ')
      .trim()} `;
    return Array.from({ length: Math.max(0, s.length - 1) }, (_, i) => s.slice(i, i + 2));
  };
  const [x, y] = [pairs(a), pairs(b)];
  if (x.length === 0 || y.length === 0) return 0;
  const left = new Map<string, number>();
  for (const p of x) left.set(p, (left.get(p) ?? 0) + 1);
  let both = 0;
  for (const p of y) {
    const n = left.get(p) ?? 0;
    if (n > 0) {
      both++;
      left.set(p, n - 1);
    }
  }
  return (2 * both) / (x.length + y.length);
}

const ALIKE = 0.72;

/**
 * Joins rows onto files: by file name; by the numbers of subject and take at the end of the file name; else by similarity of
 * words. Each row and each file is used once; what could go to several is left in doubt rather than guessed.
 */
export function joinTable(
  table: IndexTable,
  roles: readonly Role[],
  items: readonly Joinable[],
  rules: readonly JoinRule[] = ['file', 'numbers', 'alike'],
): JoinResult {
  const cell = (row: IndexRow, role: Role): string => {
    const k = roles.indexOf(role);
    return k < 0 ? '' : row.cells[k]!;
  };
  const free = new Set(items);
  const open = new Set(table.rows);
  const joined: Joined[] = [];
  const doubtful: JoinResult['doubtful'] = [];
  const take = (row: IndexRow, found: readonly Joinable[], by: JoinRule): void => {
    if (found.length === 0) return;
    if (found.length > 1) {
      doubtful.push({ row, files: [...found] });
      open.delete(row);
      return;
    }
    joined.push({ row, item: found[0]!, by });
    open.delete(row);
    free.delete(found[0]!);
  };
  if (rules.includes('file')) {
    const byName = new Map<string, Joinable[]>();
    for (const item of items) byName.set(bareName(item.file), [...(byName.get(bareName(item.file)) ?? []), item]);
    for (const row of [...open]) {
      const name = bareName(cell(row, 'file'));
      if (name !== '')
        take(
          row,
          (byName.get(name) ?? []).filter((i) => free.has(i)),
          'file',
        );
    }
  }
  if (rules.includes('numbers')) {
    const ends = new Map<string, Joinable[]>();
    for (const item of free) {
      const numbers = numbersOf(bareName(item.file));
      for (const count of [1, 2]) {
        if (numbers.length < count) continue;
        const key = numbers.slice(-count).join('_');
        ends.set(`${count}:${key}`, [...(ends.get(`${count}:${key}`) ?? []), item]);
      }
    }
    for (const row of [...open]) {
      const own = numbersOf(`${cell(row, 'subject')} ${cell(row, 'number') || cell(row, 'file')}`);
      // a subject may stand in the heading
      const heading = numbersOf(row.heading);
      const wanted =
        own.length === 1 && heading.length > 0 && cell(row, 'subject') === '' ? [heading[0]!, own[0]!] : own;
      for (const key of [wanted.slice(-2), own.slice(-1)]) {
        if (key.length === 0 || !open.has(row)) continue;
        const found = (ends.get(`${key.length}:${key.join('_')}`) ?? []).filter((i) => free.has(i));
        // the last number alone counts only where there is no subject to go by
        if (key.length === 1 && wanted.length > 1) continue;
        take(row, found, 'numbers');
      }
    }
  }
  if (rules.includes('alike')) {
    const pairs: { row: IndexRow; item: Joinable; score: number }[] = [];
    for (const row of open) {
      const text = cell(row, 'file') || cell(row, 'name') || cell(row, 'description');
      if (text === '') continue;
      for (const item of free) {
        const score = Math.max(likeness(text, bareName(item.file)), likeness(text, item.name));
        if (score >= ALIKE) pairs.push({ row, item, score });
      }
    }
    for (const { row, item } of pairs.sort((a, b) => b.score - a.score))
      if (open.has(row) && free.has(item)) take(row, [item], 'alike');
  }
  for (const d of doubtful) for (const f of d.files) free.delete(f);
  return { joined, rowsWithoutFile: [...open], filesWithoutRow: [...free], doubtful };
}

export interface Description {
  name?: string;
  note?: string;
  heading?: string;
  addTags?: string[];
}

const LONGEST_NAME = 90;

/** What a row says of its item. */
export function descriptionOf(row: IndexRow, roles: readonly Role[]): Description {
  const cell = (role: Role): string => {
    const k = roles.indexOf(role);
    return k < 0 ? '' : row.cells[k]!;
  };
  const description = cell('description');
  const short = description.split(/[.;(]/)[0]!.trim();
  const name = cell('name') || (short.length <= LONGEST_NAME ? short : '');
  const tags = [...cell('tags').split(/[,;]/), cell('category')].map((t) => t.trim()).filter(Boolean);
  const subject = cell('subject');
  const heading = row.heading || (subject === '' ? '' : /^\d+$/.test(subject) ? `Subject ${subject}` : subject);
  return {
    ...(name && { name }),
    ...(description && { note: description }),
    ...(heading && { heading }),
    ...(tags.length > 0 && { addTags: tags }),
  };
}
