import type { Box } from '../art/mask';
import type { Matrix } from '../art/matrix';
import { keyFrames } from '../motion/key-frames';
import type { Motion } from '../motion/motion';
import type { CutoutDrawing, CutoutFigure } from './figure';
import { lottieShapes } from './lottie-shapes';
import { boxOverTime, SVG_HEAD } from './render-svg';
import { CutoutShow } from './show';

export interface LottieOptions {
  readonly name?: string;
  /** The part of the picture that is shown; everything that is ever drawn where left out. */
  readonly box?: Box;
}

/** A Lottie animation with what of the figure it could not say as shapes. */
export interface LottieFile {
  readonly animation: Record<string, unknown>;
  /** Drawings that went out as embedded pictures instead: part and label. */
  readonly asPictures: readonly string[];
}

/** A drawing that shows without a break, and keeps its place among those beside it. */
interface Instance {
  readonly part: number;
  readonly drawing: CutoutDrawing;
  readonly start: number;
  end: number;
  readonly matrices: Matrix[];
}

/**
 * A cut-out's motion in the Lottie format (Lottie Animation Community, specification 1.0): a layer for each drawing that
 * shows without a break, its way as keyframes, its shapes as the format's own. Since layers keep their order, a part that is
 * drawn in another order goes on as a new layer.
 */
export function toLottie(
  figure: CutoutFigure,
  motion: Motion,
  { name = 'cut-out', box }: LottieOptions = {},
): LottieFile {
  const show = new CutoutShow(figure.rig, figure.art, motion);
  const frame = box ?? boxOverTime(show);
  const stacked = stackedInstances(show);
  const known = new Map<CutoutDrawing, { shapes?: unknown[]; picture?: string }>();
  const assets: Record<string, unknown>[] = [];
  const asPictures: string[] = [];
  const contentOf = (drawing: CutoutDrawing): { shapes?: unknown[]; picture?: string } => {
    const before = known.get(drawing);
    if (before) return before;
    const shapes = lottieShapes(figure.art.defs, drawing.svg);
    const made = shapes ? { shapes } : { picture: `picture${assets.length}` };
    if (made.picture) {
      const [x, y, w, h] = drawing.box;
      const svg = `<svg ${SVG_HEAD} viewBox="${x} ${y} ${w} ${h}" width="${w}" height="${h}"><defs>${figure.art.defs}</defs>${drawing.svg}</svg>`;
      assets.push({ id: made.picture, w, h, e: 1, u: '', p: `data:image/svg+xml,${encodeURIComponent(svg)}` });
      asPictures.push(`${drawing.part}: ${drawing.label}`);
    }
    known.set(drawing, made);
    return made;
  };
  // the uppermost layer comes first
  const layers = [...stacked].reverse().map((instance, i) => {
    const content = contentOf(instance.drawing);
    const [x, y] = content.picture ? instance.drawing.box : [0, 0];
    return {
      ty: content.picture ? 2 : 4,
      ind: i + 1,
      nm: `${figure.rig.parts[instance.part]!.name}: ${instance.drawing.label}`,
      ip: instance.start,
      op: instance.end + 1,
      st: 0,
      ks: transformOf(instance, figure.art.pivots[instance.part]!, frame, [x, y]),
      ...(content.picture ? { refId: content.picture } : { shapes: content.shapes }),
    };
  });
  return {
    animation: {
      v: '5.9.0',
      nm: name,
      fr: motion.fps,
      ip: 0,
      op: motion.frameCount,
      w: Math.ceil(frame[2]),
      h: Math.ceil(frame[3]),
      ddd: 0,
      assets,
      layers,
    },
    asPictures,
  };
}

/** Drawings that show, cut where they vanish or change places with others, in an order that holds in every frame. */
function stackedInstances(show: CutoutShow): Instance[] {
  const all: Instance[] = [];
  const above = new Map<Instance, Set<Instance>>();
  let before: Instance[] = [];
  for (let f = 0; f < show.motion.frameCount; f++) {
    const shown = show.at(f / show.motion.fps);
    const place = new Map(before.map((b, i) => [b.drawing, i]));
    // those that keep their order among themselves go on: the longest rising row of former places
    const kept = longestRising(shown.map((s) => place.get(s.drawing) ?? -1));
    const now = shown.map(({ part, drawing, matrix }, i): Instance => {
      const old = kept.has(i) ? before[place.get(drawing)!] : undefined;
      if (old) {
        old.end = f;
        old.matrices.push(matrix);
        return old;
      }
      const made: Instance = { part, drawing, start: f, end: f, matrices: [matrix] };
      all.push(made);
      above.set(made, new Set());
      return made;
    });
    for (let i = 0; i + 1 < now.length; i++) above.get(now[i]!)!.add(now[i + 1]!);
    before = now;
  }
  return sorted(all, above);
}

/** From the bottom up. Pairs that show together keep one order, and what shows in turn cannot go round in a circle. */
function sorted(all: readonly Instance[], above: ReadonlyMap<Instance, ReadonlySet<Instance>>): Instance[] {
  const below = new Map<Instance, number>(all.map((x) => [x, 0]));
  for (const set of above.values()) for (const x of set) below.set(x, below.get(x)! + 1);
  const ready = all.filter((x) => below.get(x) === 0);
  const out: Instance[] = [];
  while (ready.length > 0) {
    const next = ready.shift()!;
    out.push(next);
    for (const x of above.get(next)!) {
      const left = below.get(x)! - 1;
      below.set(x, left);
      if (left === 0) ready.push(x);
    }
  }
  return out;
}

/** Indices of a longest rising row among numbers of 0 and more. */
function longestRising(values: readonly number[]): Set<number> {
  const tails: number[] = [];
  const from: number[] = [];
  values.forEach((v, i) => {
    if (v < 0) return;
    let low = 0;
    let high = tails.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (values[tails[middle]!]! < v) low = middle + 1;
      else high = middle;
    }
    from[i] = low > 0 ? tails[low - 1]! : -1;
    tails[low] = i;
  });
  const out = new Set<number>();
  for (let i = tails.at(-1) ?? -1; i >= 0; i = from[i] ?? -1) out.add(i);
  return out;
}

const DEG = 180 / Math.PI;
/** How far keyframes may stray: the picture's units, degrees, and hundredths of a size. */
const TOLERANCE = { place: 0.02, angle: 0.02, size: 0.02 };

/**
 * The way of a drawing as anchor, place, turn, size and skew, told about its part's pivot.
 * @param corner where the layer's own coordinates begin in the picture
 */
function transformOf(
  { start, matrices }: Instance,
  pivot: readonly [number, number],
  frame: Box,
  corner: readonly [number, number],
): Record<string, unknown> {
  const turns: number[] = [];
  const places: number[][] = [];
  const sizes: number[][] = [];
  const skews: number[] = [];
  for (const m of matrices) {
    const [a, b, c, d] = m;
    const size = Math.hypot(a, b) || 1e-9;
    let turn = Math.atan2(b, a) * DEG;
    const last = turns.at(-1);
    if (last !== undefined) turn += 360 * Math.round((last - turn) / 360);
    const [cos, sin] = [a / size, b / size];
    const [x, y] = [c * cos + d * sin, d * cos - c * sin];
    turns.push(turn);
    skews.push(-Math.atan2(x, y) * DEG + (y < 0 ? 180 : 0));
    sizes.push([100 * size, 100 * y, 100]);
    places.push([
      m[0] * pivot[0] + m[2] * pivot[1] + m[4] - frame[0],
      m[1] * pivot[0] + m[3] * pivot[1] + m[5] - frame[1],
      0,
    ]);
  }
  return {
    o: { a: 0, k: 100 },
    a: { a: 0, k: [fixed(pivot[0] - corner[0]), fixed(pivot[1] - corner[1]), 0] },
    r: keyed(
      turns.map((t) => [t]),
      start,
      TOLERANCE.angle,
      true,
    ),
    p: keyed(places, start, TOLERANCE.place, false),
    s: keyed(sizes, start, TOLERANCE.size, false),
    sk: keyed(
      skews.map((k) => [Math.abs(k % 360) < 1e-6 ? 0 : k]),
      start,
      TOLERANCE.angle,
      true,
    ),
    sa: { a: 0, k: 0 },
  };
}

const fixed = (x: number): number => Math.round(x * 1e4) / 1e4;

/** Values a frame as a property: still where nothing moves, else keyframes with straight ways between, as few as may stray so far. */
function keyed(values: readonly (readonly number[])[], start: number, tolerance: number, plain: boolean): unknown {
  const told = (v: readonly number[]): unknown => (plain ? fixed(v[0]!) : v.map(fixed));
  const first = values[0]!;
  if (values.every((v) => v.every((x, k) => Math.abs(x - first[k]!) <= tolerance / 4))) return { a: 0, k: told(first) };
  const keep = keyFrames(values.length, tolerance, (a, b, f) => {
    const t = (f - a) / (b - a);
    return Math.max(...first.map((_, k) => Math.abs(values[f]![k]! - (1 - t) * values[a]![k]! - t * values[b]![k]!)));
  });
  const ease = { i: { x: [1], y: [1] }, o: { x: [0], y: [0] } };
  const k = [...keep].map((i, n, all) => ({
    t: start + i,
    s: values[i]!.map(fixed),
    ...(n + 1 < all.length ? ease : {}),
  }));
  return { a: 1, k };
}
