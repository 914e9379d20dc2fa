import { MotionError } from '../errors';
import type { Markers } from '../markers/markers';

/** Which columns hold what, where their headings do not tell. Columns are told by heading, or by number from 1. */
export interface TableColumns {
  /** Joint → its three columns, or the beginning that their headings share. */
  readonly joints?: Readonly<Record<string, string | readonly (string | number)[]>> | undefined;
  /** The column of time, in seconds or milliseconds. */
  readonly time?: string | number | undefined;
  readonly fps?: number | undefined;
}

const MOST_NUMBERS = 60_000_000;
const MOST_COLUMNS = 6000;
const TIME = /^(time|t|secs?|seconds?|timestamp|time ?stamp)\b/i;
const AXIS =
  /^(.+?)(?:[\s._:[(-]+(?:position|pos|translation|trans|location|loc|t))?([\s._:[(-]*)([xyz])[\])]?(?:\s*\((?:m|cm|mm|in|ft)\))?$/i;
/** Columns of turns and speeds are headed alike: hip.qx, hip rotation X. */
const NO_PLACE = /[\s._:-](?:quat|quaternion|rot|rotation|euler|vel|velocity|acc|acceleration)$/i;
const TURN = /[\s._:-][qrv]$/i;
const AXIS_FIRST = /^([xyz])[\s._:(-]+(.+?)\)?$/i;

/** So many characters of a table tell whether it is one of places: headings of many joints are long. */
export const TABLE_HEAD = 200_000;

/** Whether text begins as a table of places does: headings, at least three joints with x, y and z. */
export function looksLikeJointTable(head: string): boolean {
  const lines = head.split(/\r\n|\n|\r/).slice(0, 12);
  const by = separatorOf(lines);
  if (!by) return false;
  const rows = lines.map((l) => cellsOf(l, by));
  const at = rows.findIndex((r) => r.length > 9 && r.every((c) => !isNumber(c)));
  return at >= 0 && triplesOf(headings(rows, at).names).size >= 3;
}

/** Whether text begins with rows of numbers, enough columns of them for three joints: frames of a movement rather than a list. */
export function looksLikeNumbers(head: string): boolean {
  // the last line may be cut off
  const lines = head
    .split(/\r\n|\n|\r/)
    .slice(0, -1)
    .filter((l) => l.trim() !== '')
    .slice(0, 30);
  const by = separatorOf(lines);
  if (!by) return false;
  const rows = lines.map((l) => cellsOf(l, by)).filter((r) => r.length >= 9);
  const full = rows.filter((r) => r.filter((c) => isNumber(c)).length >= 0.8 * r.length);
  return full.length >= 3 && full.length >= 0.6 * lines.length;
}

/** A table of numbers as far as it takes to tell its columns apart. */
export interface TableSample {
  /** By column; their numbers from 1 where the table has no headings. */
  readonly headings: readonly string[];
  readonly rows: number;
  /** Some rows from all over the table, all columns of each; NaN where a cell holds no number. */
  readonly numbers: readonly (readonly number[])[];
  /** Joints whose three columns are headed alike. */
  readonly joints: Readonly<Record<string, readonly number[]>>;
  /** The column of time, counted from 0; −1 where no heading tells. */
  readonly time: number;
}

const SAMPLED = 60;

/** What a table holds, as far as it takes to choose its columns by. @throws MotionError as {@link readJointTable} does */
export function sampleTable(bytes: Uint8Array): TableSample {
  const { lines, by, names, first } = openTable(bytes, true);
  const rows = lines.slice(first).filter((l) => l.trim() !== '');
  const step = Math.max(1, Math.floor(rows.length / SAMPLED));
  return {
    headings: names,
    rows: rows.length,
    numbers: rows
      .filter((_, i) => i % step === 0)
      .map((l) => {
        const cells = cellsOf(l, by);
        return names.map((_, c) => {
          const cell = cells[c] ?? '';
          return cell === '' ? Number.NaN : Number(by === ',' ? cell : cell.replace(',', '.'));
        });
      }),
    joints: Object.fromEntries(triplesOf(names)),
    time: names.findIndex((n) => TIME.test(n)),
  };
}

/** A table of joint places with headings that tell, for {@link readJointTable}. */
export function writeJointTable({ labels, fps, frameCount, places }: Markers): string {
  const lines = [['time', ...labels.flatMap((l) => ['x', 'y', 'z'].map((a) => `${l}.${a}`))].join(',')];
  for (let f = 0; f < frameCount; f++) {
    const row = places.subarray(3 * f * labels.length, 3 * (f + 1) * labels.length);
    lines.push([(f / fps).toFixed(6), ...Array.from(row, (x) => (Number.isNaN(x) ? '' : String(x)))].join(','));
  }
  return `${lines.join('\n')}\n`;
}

/**
 * A table's lines, its headings and where its rows begin.
 * @param bare whether it may come without headings: columns then go by their numbers from 1
 */
function openTable(bytes: Uint8Array, bare: boolean) {
  const lines = new TextDecoder()
    .decode(bytes)
    .replace(/^\ufeff/, '')
    .split(/\r\n|\n|\r/);
  const by = separatorOf(lines.slice(0, 12));
  if (!by)
    throw new MotionError('not-this-format', 'The text is no table: no line is parted by commas, semicolons or tabs.');
  const head = lines.slice(0, 60).map((l) => cellsOf(l, by));
  const at = head.findIndex(
    (r) => r.length >= 4 && r.filter((c) => c !== '').every((c) => !isNumber(c)) && r.some((c) => c !== ''),
  );
  if (at < 0 && !bare) throw new MotionError('bad-structure', 'The table has no line of headings.', { line: 1 });
  const told = at < 0 ? undefined : headings(head, at);
  const begin = head.findIndex((r) => r.length >= 4 && r.some(isNumber));
  const names = told?.names ?? Array.from({ length: head[begin]?.length ?? 0 }, (_, i) => String(i + 1));
  if (names.length > MOST_COLUMNS)
    throw new MotionError('too-large', `The table has ${names.length} columns; at most ${MOST_COLUMNS} are taken.`);
  return { lines, by, names, first: told ? at + told.rows : Math.max(0, begin) };
}

/**
 * Reads a table of joint places: a row a frame, three columns a joint, headings above unless columns are told by number.
 * Separated by commas, semicolons (with decimal commas, too) or tabs; names of joints may stand in a row of their own above x, y
 * and z. Empty cells are places not seen. Places are in the table's own unit.
 * @throws MotionError 'not-this-format', 'bad-structure', 'bad-number', 'wrong-count' or 'too-large', with the line
 */
export function readJointTable(bytes: Uint8Array, columns: TableColumns = {}): Markers {
  const { lines, by, names, first } = openTable(bytes, columns.joints !== undefined);
  const chosen = columns.joints ? told(names, columns.joints) : triplesOf(names);
  if (chosen.size === 0)
    throw new MotionError('bad-structure', 'No three columns are headed as x, y and z of one joint.', { line: first });
  const timeAt = columns.time === undefined ? names.findIndex((n) => TIME.test(n)) : columnOf(names, columns.time);
  const labels = [...chosen.keys()];
  const wanted = [...chosen.values()].flat();
  const numbers: number[] = [];
  const times: number[] = [];
  for (let n = first; n < lines.length; n++) {
    const text = lines[n]!;
    if (text.trim() === '') continue;
    const row = cellsOf(text, by);
    if (numbers.length + wanted.length > MOST_NUMBERS)
      throw new MotionError('too-large', 'The table has too many numbers.');
    for (const c of wanted) numbers.push(numberOf(row[c] ?? '', by, n + 1));
    if (timeAt >= 0) times.push(numberOf(row[timeAt] ?? '', by, n + 1));
  }
  const frameCount = wanted.length > 0 ? numbers.length / wanted.length : 0;
  if (frameCount < 1) throw new MotionError('wrong-count', 'The table has headings and no rows.', { line: first });
  return { labels, fps: columns.fps ?? rateOf(times), frameCount, places: Float32Array.from(numbers) };
}

const isNumber = (cell: string): boolean => cell !== '' && Number.isFinite(Number(cell.replace(',', '.')));

/** Commas part a table only where nothing else does: they may stand in its numbers. */
const separatorOf = (lines: readonly string[]): string | undefined =>
  ['\t', ';', ','].find((by) => lines.some((l) => l.split(by).length > 3));

const cellsOf = (line: string, by: string): string[] =>
  line.split(by).map((c) =>
    c
      .trim()
      .replace(/^"(.*)"$/, '$1')
      .trim(),
  );

/** Headings of all columns, and over how many rows they go: names may stand above x, y and z, one for each three or once. */
function headings(rows: readonly string[][], at: number): { names: string[]; rows: number } {
  const own = rows[at]!;
  const next = rows[at + 1] ?? [];
  const axes = next.filter((c) => /^[xyz]\d*$/i.test(c)).length;
  if (axes < 3 || axes < 0.6 * next.filter((c) => c !== '').length) return { names: [...own], rows: 1 };
  let name = '';
  const names = next.map((axis, i) => {
    if (own[i]) name = own[i]!;
    return /^[xyz]\d*$/i.test(axis) ? `${name}.${axis[0]}` : own[i] || axis;
  });
  return { names, rows: 2 };
}

/** Joints whose x, y and z are headed alike: their three columns. */
function triplesOf(names: readonly string[]): Map<string, number[]> {
  const found = new Map<string, number[]>();
  names.forEach((heading, i) => {
    const after = AXIS.exec(heading);
    const before = after ? undefined : AXIS_FIRST.exec(heading);
    const [joint, axis] = after ? [after[1]!, after[3]!] : before ? [before[2]!, before[1]!] : [];
    if (joint === undefined || axis === undefined || NO_PLACE.test(joint)) return;
    if (after && after[2] === '' && TURN.test(joint)) return;
    const list = found.get(joint) ?? [-1, -1, -1];
    found.set(joint, list);
    const k = 'xyz'.indexOf(axis.toLowerCase());
    if (list[k] === -1) list[k] = i;
  });
  return new Map([...found].filter(([, list]) => list.every((i) => i >= 0)));
}

function columnOf(names: readonly string[], at: string | number): number {
  const i = typeof at === 'number' ? at - 1 : names.indexOf(at);
  if (i < 0 || i >= names.length || !Number.isInteger(i))
    throw new MotionError('bad-argument', `The table has no column ${typeof at === 'number' ? at : `"${at}"`}.`);
  return i;
}

function told(names: readonly string[], joints: NonNullable<TableColumns['joints']>): Map<string, number[]> {
  const triples = triplesOf(names);
  return new Map(
    Object.entries(joints).map(([joint, at]) => {
      if (typeof at === 'string') {
        const list = triples.get(at);
        if (!list) throw new MotionError('bad-argument', `The table has no x, y and z of "${at}".`);
        return [joint, list];
      }
      if (at.length !== 3)
        throw new MotionError('bad-argument', `"${joint}" needs three columns; ${at.length} are given.`);
      return [joint, at.map((c) => columnOf(names, c))];
    }),
  );
}

function numberOf(cell: string, by: string, line: number): number {
  if (cell === '' || /^(nan|null|none|-)$/i.test(cell)) return Number.NaN;
  const value = Number(by === ',' ? cell : cell.replace(',', '.'));
  if (!Number.isFinite(value)) throw new MotionError('bad-number', `"${cell.slice(0, 20)}" is no number.`, { line });
  return value;
}

/** Frames a second by the usual distance of two times; a step of 3 and more is one of milliseconds. */
function rateOf(times: readonly number[]): number {
  const steps = times
    .slice(1)
    .map((t, i) => t - times[i]!)
    .filter((d) => d > 0);
  steps.sort((a, b) => a - b);
  const step = steps[steps.length >> 1];
  if (step === undefined)
    throw new MotionError('bad-structure', 'The table has no column of time: say how many frames a second it has.');
  const fps = step >= 3 ? 1000 / step : 1 / step;
  const whole = Math.round(fps);
  return Math.abs(fps - whole) < 0.02 * whole && whole > 0 ? whole : fps;
}
