import type { Shape } from './svg-shapes';

/** A rectangle in the picture: left, top, width, height, in its units, y downwards. */
export type Box = readonly [x: number, y: number, width: number, height: number];

/** The smallest box about shapes, paint beyond their outlines and clipping included; undefined where nothing is drawn. */
export function boxOf(shapes: readonly Shape[]): Box | undefined {
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const { rings, reach, clips, pixels } of shapes) {
    const own = extent(rings, reach);
    if (pixels) {
      const [x, y, w, h] = pixels.box;
      own.splice(0, 4, x, y, x + w, y + h);
    }
    for (const clip of clips) {
      const c = extent(clip, 0);
      own[0] = Math.max(own[0], c[0]);
      own[1] = Math.max(own[1], c[1]);
      own[2] = Math.min(own[2], c[2]);
      own[3] = Math.min(own[3], c[3]);
    }
    if (!(own[2] >= own[0]) || !(own[3] >= own[1])) continue;
    x0 = Math.min(x0, own[0]);
    y0 = Math.min(y0, own[1]);
    x1 = Math.max(x1, own[2]);
    y1 = Math.max(y1, own[3]);
  }
  return x1 >= x0 && y1 >= y0 ? [x0, y0, x1 - x0, y1 - y0] : undefined;
}

function extent(rings: readonly Float64Array[], reach: number): [number, number, number, number] {
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const ring of rings)
    for (let i = 0; i < ring.length; i += 2) {
      x0 = Math.min(x0, ring[i]!);
      x1 = Math.max(x1, ring[i]!);
      y0 = Math.min(y0, ring[i + 1]!);
      y1 = Math.max(y1, ring[i + 1]!);
    }
  return [x0 - reach, y0 - reach, x1 + reach, y1 + reach];
}

/** The box about both. */
export function joinBoxes(a: Box, b: Box): Box {
  const [x, y] = [Math.min(a[0], b[0]), Math.min(a[1], b[1])];
  return [x, y, Math.max(a[0] + a[2], b[0] + b[2]) - x, Math.max(a[1] + a[3], b[1] + b[3]) - y];
}

/** A grid over the picture in which parts are compared: cells of equal size, rows from the top. */
export interface Grid {
  readonly box: Box;
  readonly cell: number;
  readonly columns: number;
  readonly rows: number;
}

/** A grid whose longer side has so many cells. */
export function gridOver(box: Box, cells = 320): Grid {
  const cell = Math.max(box[2], box[3], 1e-9) / cells;
  return {
    box,
    cell,
    columns: Math.max(1, Math.ceil(box[2] / cell)),
    rows: Math.max(1, Math.ceil(box[3] / cell)),
  };
}

/** Which cells of a grid are painted: 1 or 0, row after row. */
export type Mask = Uint8Array;

/** Middle of a cell, in the picture's units. */
export const cellPlace = ({ box, cell, columns }: Grid, index: number): [number, number] => [
  box[0] + ((index % columns) + 0.5) * cell,
  box[1] + (Math.floor(index / columns) + 0.5) * cell,
];

/** Cells whose middle lies in a shape; outlines count where paint reaches beyond them. */
export function maskOf(grid: Grid, shapes: readonly Shape[]): Mask {
  const out = new Uint8Array(grid.columns * grid.rows);
  for (const { rings, reach, clips, pixels } of shapes) {
    const own = new Uint8Array(out.length);
    if (pixels) paint(grid, pixels, own);
    fill(grid, rings, own);
    if (reach > 0) stroke(grid, rings, Math.max(reach, 0.5 * grid.cell), own);
    for (const clip of clips) {
      const window = new Uint8Array(out.length);
      fill(grid, clip, window);
      for (let i = 0; i < own.length; i++) own[i]! &= window[i]!;
    }
    for (let i = 0; i < own.length; i++) out[i]! |= own[i]!;
  }
  return out;
}

/** Cells whose middle lies on a painted pixel. */
function paint(grid: Grid, { alpha, columns, rows, box }: NonNullable<Shape['pixels']>, out: Mask): void {
  for (let i = 0; i < out.length; i++) {
    const [x, y] = cellPlace(grid, i);
    const c = Math.floor(((x - box[0]) / box[2]) * columns);
    const r = Math.floor(((y - box[1]) / box[3]) * rows);
    if (c >= 0 && r >= 0 && c < columns && r < rows && alpha[r * columns + c]) out[i] = 1;
  }
}

/** Scan lines through the middles of rows, inside by the even-odd rule. */
function fill({ box, cell, columns, rows }: Grid, rings: readonly Float64Array[], out: Mask): void {
  const crossings: number[][] = Array.from({ length: rows }, () => []);
  for (const ring of rings) {
    const n = ring.length / 2;
    for (let i = 0; i < n; i++) {
      const k = (i + 1) % n;
      const [x0, y0] = [(ring[2 * i]! - box[0]) / cell, (ring[2 * i + 1]! - box[1]) / cell - 0.5];
      const [x1, y1] = [(ring[2 * k]! - box[0]) / cell, (ring[2 * k + 1]! - box[1]) / cell - 0.5];
      const [low, high] = y0 < y1 ? [y0, y1] : [y1, y0];
      for (let r = Math.max(0, Math.ceil(low)); r < Math.min(rows, Math.ceil(high)); r++)
        crossings[r]!.push(x0 + ((r - y0) / (y1 - y0)) * (x1 - x0));
    }
  }
  crossings.forEach((xs, r) => {
    xs.sort((a, b) => a - b);
    for (let i = 0; i + 1 < xs.length; i += 2) {
      const from = Math.max(0, Math.ceil(xs[i]! - 0.5));
      const to = Math.min(columns - 1, Math.floor(xs[i + 1]! - 0.5));
      for (let c = from; c <= to; c++) out[r * columns + c] = 1;
    }
  });
}

/** Cells within a distance of the outlines. */
function stroke({ box, cell, columns, rows }: Grid, rings: readonly Float64Array[], reach: number, out: Mask): void {
  const w = reach / cell;
  for (const ring of rings)
    for (let i = 0; i + 3 < ring.length; i += 2) {
      const [x0, y0] = [(ring[i]! - box[0]) / cell, (ring[i + 1]! - box[1]) / cell];
      const [x1, y1] = [(ring[i + 2]! - box[0]) / cell, (ring[i + 3]! - box[1]) / cell];
      const [dx, dy] = [x1 - x0, y1 - y0];
      const square = dx * dx + dy * dy;
      for (let r = Math.max(0, Math.floor(Math.min(y0, y1) - w)); r <= Math.min(rows - 1, Math.max(y0, y1) + w); r++)
        for (
          let c = Math.max(0, Math.floor(Math.min(x0, x1) - w));
          c <= Math.min(columns - 1, Math.max(x0, x1) + w);
          c++
        ) {
          const [px, py] = [c + 0.5 - x0, r + 0.5 - y0];
          const t = square > 0 ? Math.max(0, Math.min(1, (px * dx + py * dy) / square)) : 0;
          if ((px - t * dx) ** 2 + (py - t * dy) ** 2 <= w * w) out[r * columns + c] = 1;
        }
    }
}

/** How a shape lies: how many cells it has, its middle, and its long axis (unit vector) with the extents along and across. */
export interface Lie {
  readonly cells: number;
  readonly middle: readonly [number, number];
  readonly axis: readonly [number, number];
  /** From the middle to either end along the axis: backwards (below 0) and forwards. */
  readonly back: number;
  readonly fore: number;
  /** Standard deviation across the axis, in the picture's units. */
  readonly across: number;
  /** And along it. */
  readonly along: number;
}

/** Moments of a mask; undefined where it is empty. */
export function lieOf(grid: Grid, mask: Mask): Lie | undefined {
  let [n, mx, my] = [0, 0, 0];
  for (let i = 0; i < mask.length; i++) {
    if (!mask[i]) continue;
    const [x, y] = cellPlace(grid, i);
    n++;
    mx += x;
    my += y;
  }
  if (n === 0) return undefined;
  mx /= n;
  my /= n;
  let [xx, xy, yy] = [0, 0, 0];
  for (let i = 0; i < mask.length; i++) {
    if (!mask[i]) continue;
    const [x, y] = cellPlace(grid, i);
    xx += (x - mx) ** 2;
    xy += (x - mx) * (y - my);
    yy += (y - my) ** 2;
  }
  const angle = 0.5 * Math.atan2(2 * xy, xx - yy);
  const axis: [number, number] = [Math.cos(angle), Math.sin(angle)];
  let [back, fore, along, across] = [0, 0, 0, 0];
  for (let i = 0; i < mask.length; i++) {
    if (!mask[i]) continue;
    const [x, y] = cellPlace(grid, i);
    const t = (x - mx) * axis[0] + (y - my) * axis[1];
    back = Math.min(back, t);
    fore = Math.max(fore, t);
    along += t * t;
    across += ((y - my) * axis[0] - (x - mx) * axis[1]) ** 2;
  }
  return {
    cells: n,
    middle: [mx, my],
    axis,
    back,
    fore,
    across: Math.sqrt(across / n),
    along: Math.sqrt(along / n),
  };
}

/** A mask with its painted cells in a list. */
export interface Cells {
  readonly mask: Mask;
  readonly cells: Int32Array;
}

/** Cells that two masks share: how many, and their middle. */
export function overlapOf(grid: Grid, a: Cells, b: Cells): { cells: number; middle: [number, number] } {
  const [few, many] = a.cells.length < b.cells.length ? [a, b] : [b, a];
  let [n, mx, my] = [0, 0, 0];
  for (const i of few.cells) {
    if (!many.mask[i]) continue;
    const [x, y] = cellPlace(grid, i);
    n++;
    mx += x;
    my += y;
  }
  return { cells: n, middle: n > 0 ? [mx / n, my / n] : [Number.NaN, Number.NaN] };
}

/** Points of an outline that are compared. */
const COMPARED = 200;

/** Shortest way between two masks, in the picture's units, and the points at its ends; found on some points of their outlines. */
export function nearestOf(
  grid: Grid,
  a: Cells,
  b: Cells,
): { distance: number; from: [number, number]; to: [number, number] } {
  const [own, others] = [borderOf(grid, a), borderOf(grid, b)];
  let least = Number.POSITIVE_INFINITY;
  let [i, k] = [0, 0];
  for (let m = 0; m < own.length; m += 2)
    for (let n = 0; n < others.length; n += 2) {
      const [dx, dy] = [own[m]! - others[n]!, own[m + 1]! - others[n + 1]!];
      const square = dx * dx + dy * dy;
      if (square < least) [least, i, k] = [square, m, n];
    }
  const at = (points: Float64Array, m: number): [number, number] => [points[m] ?? 0, points[m + 1] ?? 0];
  return { distance: Math.sqrt(least), from: at(own, i), to: at(others, k) };
}

/** A mask is compared with many others. */
const borders = new WeakMap<Mask, Float64Array>();

/** Some cells of an outline, x and y by turns. */
function borderOf(grid: Grid, { mask, cells }: Cells): Float64Array {
  const known = borders.get(mask);
  if (known) return known;
  const edge = cells.filter((i) => !(mask[i - 1] && mask[i + 1] && mask[i - grid.columns] && mask[i + grid.columns]));
  const step = Math.max(1, Math.ceil(edge.length / COMPARED));
  const out: number[] = [];
  for (let k = 0; k < edge.length; k += step) out.push(...cellPlace(grid, edge[k]!));
  const points = Float64Array.from(out);
  borders.set(mask, points);
  return points;
}
