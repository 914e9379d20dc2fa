import { dequal } from 'dequal';

/**
 * A document that several people edit is a set of cells: small values with names, each of which makes sense alone. What two
 * people set in different cells stands side by side; in the same cell the later one stands. See docs/architecture.
 */
export type Cells = Readonly<Record<string, unknown>>;

/** One cell written. */
export interface Write {
  readonly cell: string;
  /** The new value; null takes the cell away. */
  readonly to: unknown;
  /** Written only where the cell holds this now (null: where it is missing). Taking a step back asks for it. */
  readonly was?: unknown;
}

/** How documents of a kind become cells and come back. Cells hold JSON, never null; `join(split(x))` says the same as x. */
export interface DocumentKind<C> {
  readonly empty: C;
  readonly split: (content: C) => Cells;
  readonly join: (cells: Cells) => C;
  /** Drops cells that make no sense without others that are gone. */
  readonly tidy?: (cells: Cells) => Cells;
}

const held = (cells: Cells, cell: string): unknown => (Object.hasOwn(cells, cell) ? cells[cell] : null);

/** The writes that make one set of cells into another. */
export function diffCells(before: Cells, after: Cells): Write[] {
  const writes: Write[] = [];
  for (const cell of Object.keys(before)) if (!Object.hasOwn(after, cell)) writes.push({ cell, to: null });
  for (const [cell, to] of Object.entries(after)) if (!dequal(held(before, cell), to)) writes.push({ cell, to });
  return writes;
}

/** The cells after some writes, taken in order. Pure; the same object where nothing differs. */
export function applyWrites(cells: Cells, writes: readonly Write[]): Cells {
  let out: Record<string, unknown> | undefined;
  for (const { cell, to, was } of writes) {
    const now = held(out ?? cells, cell);
    if ((was !== undefined && !dequal(now, was)) || dequal(now, to)) continue;
    out ??= { ...cells };
    if (to === null) delete out[cell];
    else out[cell] = to;
  }
  return out ?? cells;
}

/** What some cells held before they were written: the way back, each only where nobody has written over it since. */
export function wayBack(before: Cells, writes: readonly Write[]): Write[] {
  const last = new Map(writes.map((w) => [w.cell, w.to]));
  return [...last].map(([cell, to]) => ({ cell, to: held(before, cell), was: to }));
}

/** The same writes turned round: from what they wrote to what they found. */
export const turnedRound = (writes: readonly Write[]): Write[] =>
  writes.map(({ cell, to, was }) => ({ cell, to: was ?? null, was: to }));

/** Writes one after the other as few as possible: a cell written again outright needs only the last. */
export function condense(writes: readonly Write[]): Write[] {
  const out: Write[] = [];
  const seen = new Set<string>();
  for (let i = writes.length - 1; i >= 0; i--) {
    const write = writes[i]!;
    if (seen.has(write.cell)) continue;
    // what is written only under a condition needs what was written before it
    if (write.was === undefined) seen.add(write.cell);
    out.unshift(write);
  }
  return out;
}

/** Which writes would change nothing, for somebody has written over their cells. */
export const overtaken = (cells: Cells, writes: readonly Write[]): Write[] =>
  writes.filter(({ cell, was }) => was !== undefined && !dequal(held(cells, cell), was));
