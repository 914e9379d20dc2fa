import { cellPlace, type Grid, type Lie, lieOf, type Mask, nearestOf, overlapOf } from '../art/mask';

export type Point = readonly [x: number, y: number];

/** A part's shape on the grid. */
export interface Laid {
  readonly mask: Mask;
  /** Painted cells, rising. */
  readonly cells: Int32Array;
  readonly lie: Lie;
}

/** A part's shape on the grid; undefined where it covers no cell. */
export function laid(grid: Grid, mask: Mask): Laid | undefined {
  const lie = lieOf(grid, mask);
  if (!lie) return undefined;
  const cells = new Int32Array(lie.cells);
  for (let i = 0, n = 0; i < mask.length; i++) if (mask[i]) cells[n++] = i;
  return { mask, cells, lie };
}

/** Ends of a part along its long axis, half its width inside the outline. */
export function endsOf({ lie }: Laid): [Point, Point] {
  // a rounded end's middle lies about twice the deviation across from its tip
  const inset = Math.min(1.9 * lie.across, 0.45 * (lie.fore - lie.back));
  const at = (t: number): Point => [lie.middle[0] + t * lie.axis[0], lie.middle[1] + t * lie.axis[1]];
  return [at(lie.back + inset), at(lie.fore - inset)];
}

const distance = (a: Point, b: Point): number => Math.hypot(a[0] - b[0], a[1] - b[1]);

/** Overlap of more than this share of the smaller part says that one lies on the other, not where they are pinned. */
const COVERED = 0.5;

/**
 * Where a part turns on the one it hangs on. Two pieces that overlap at their ends are pinned in the middle of what they
 * share; a piece that lies on its parent is pinned at the end nearest to where it comes from; pieces apart, halfway.
 * @param away a point that the free end is near to: the next part outwards, or undefined for the outermost
 * @param towards where the parent would have it, used where shapes do not tell
 */
export function pivotBetween(grid: Grid, child: Laid, parent: Laid, away: Point | undefined, towards: Point): Point {
  const shared = overlapOf(grid, child, parent);
  const smaller = Math.min(child.lie.cells, parent.lie.cells);
  const long = child.lie.along > 1.25 * child.lie.across;
  const [a, b] = endsOf(child);
  const near = away
    ? distance(a, away) > distance(b, away)
      ? a
      : b
    : distance(a, towards) < distance(b, towards)
      ? a
      : b;
  if (shared.cells >= 3 && shared.cells < COVERED * smaller) {
    if (!long) return shared.middle;
    // the middle of a lens lies a little towards the longer overlap: take it across to the bone's own line
    const { middle, axis } = child.lie;
    const t = (shared.middle[0] - middle[0]) * axis[0] + (shared.middle[1] - middle[1]) * axis[1];
    const on: Point = [middle[0] + t * axis[0], middle[1] + t * axis[1]];
    return distance(on, shared.middle) < 2 * child.lie.across ? mix(on, shared.middle, 0.5) : shared.middle;
  }
  if (shared.cells >= 3) return long ? near : mix(shared.middle, towards, 0.5);
  const gap = nearestOf(grid, child, parent);
  return mix(gap.from, gap.to, 0.5);
}

const mix = (a: Point, b: Point, t: number): Point => [a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1])];

/** The part's point farthest from another, in a direction. */
export function farthest(grid: Grid, { cells }: Laid, from: Point, direction: Point): Point {
  let best: Point = from;
  let most = Number.NEGATIVE_INFINITY;
  for (const i of cells) {
    const at = cellPlace(grid, i);
    const t = (at[0] - from[0]) * direction[0] + (at[1] - from[1]) * direction[1];
    if (t > most) {
      most = t;
      best = at;
    }
  }
  return best;
}

/** Far end of a part seen from its pivot, along its long axis. */
export function farEnd(part: Laid, pivot: Point): Point {
  const { middle, axis, back, fore } = part.lie;
  const a: Point = [middle[0] + back * axis[0], middle[1] + back * axis[1]];
  const b: Point = [middle[0] + fore * axis[0], middle[1] + fore * axis[1]];
  return distance(a, pivot) > distance(b, pivot) ? a : b;
}
