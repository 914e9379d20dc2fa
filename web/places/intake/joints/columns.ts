import type { TableSample } from '@velvet-reel/motion';
import { jointColumns as texts } from '../texts';

/** Joints in the order in which they are asked for; what they are called in a table that is handed on, and to people. */
export const JOINTS: readonly { readonly name: string; readonly word: string }[] = [
  { name: 'hips', word: texts.hips },
  { name: 'spine1', word: texts.chest },
  { name: 'neck1', word: texts.neck },
  { name: 'head', word: texts.head },
  ...(['L', 'R'] as const).flatMap((side) =>
    (
      [
        ['upperArm', texts.shoulder],
        ['forearm', texts.elbow],
        ['hand', texts.wrist],
        ['thigh', texts.hip],
        ['shin', texts.knee],
        ['foot', texts.ankle],
        ['toes', texts.toes],
      ] as const
    ).map(([part, word]) => ({ name: part + side, word: word(side) })),
  ),
];

/** How the numbers of a joint stand in a row: side by side, or all x, then all y, then all z. */
export type Order = 'together' | 'apart';

/** Three columns that may be a joint. */
export interface Dot {
  /** Counted from 1, as people and the reader count them. */
  readonly columns: readonly [number, number, number];
  readonly label: string;
  /** By sampled row. */
  readonly places: readonly (readonly [number, number, number])[];
}

/** The column of time, counted from 1: by its heading, or the first one where it rises from row to row and one is left over. */
export function timeColumn({ headings, numbers, time }: TableSample): number | undefined {
  if (time >= 0) return time + 1;
  const rises = numbers.every((row, i) => i === 0 || row[0]! > numbers[i - 1]![0]!);
  return headings.length % 3 === 1 && numbers.length > 1 && rises ? 1 : undefined;
}

/** All that may be a joint. @param time the column of time, counted from 1 */
export function dotsOf(sample: TableSample, order: Order, time: number | undefined): Dot[] {
  const places = (columns: readonly number[]): Dot['places'] =>
    sample.numbers.map((row) => columns.map((c) => row[c] ?? Number.NaN) as [number, number, number]);
  const dot = (columns: readonly number[], label?: string): Dot => ({
    columns: columns.map((c) => c + 1) as unknown as Dot['columns'],
    label: label ?? texts.columns(columns.map((c) => c + 1)),
    places: places(columns),
  });
  const known = Object.entries(sample.joints);
  if (known.length >= 3) return known.map(([name, columns]) => dot(columns, name));
  const free = sample.headings.flatMap((_, c) => (c + 1 === time ? [] : [c]));
  const count = Math.floor(free.length / 3);
  return Array.from({ length: count }, (_, i) =>
    dot([0, 1, 2].map((k) => free[order === 'together' ? 3 * i + k : count * k + i]!)),
  );
}

/** The axis that goes up, along which a body is largest, and of the others the broader one first. */
export function axesOf(dots: readonly Dot[], row: number): { up: number; across: number; ahead: number } {
  const spread = [0, 1, 2].map((k) => {
    const all = dots.map((d) => d.places[row]?.[k] ?? Number.NaN).filter(Number.isFinite);
    return all.length > 0 ? Math.max(...all) - Math.min(...all) : 0;
  });
  const [up, across, ahead] = [0, 1, 2].sort((a, b) => spread[b]! - spread[a]!) as [number, number, number];
  return { up, across, ahead };
}

/** Joint → the number of its dot. */
export type Chosen = Readonly<Record<string, number>>;

/** Why a choice does not make a body yet; undefined where it does. */
export function missing(chosen: Chosen): string | undefined {
  const has = (name: string): boolean => chosen[name] !== undefined;
  if (!has('hips') && !(has('thighL') && has('thighR'))) return texts.needsHips;
  const count = Object.keys(chosen).length;
  return count < FEWEST ? texts.needsMore(FEWEST - count) : undefined;
}
const FEWEST = 6;
