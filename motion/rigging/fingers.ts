import { FINGERS } from '../bodymap/slots';
import { Groups } from '../math/groups';
import { type HandGraph, handGraph, waysFrom } from './hand-graph';
import type { Surface } from './solid';

type V3 = readonly [number, number, number];

/** A finger that sticks out of a hand. */
export interface Finger {
  readonly name: (typeof FINGERS)[number];
  /** Its three joints, from the palm outward, and where it ends. */
  readonly joints: readonly [V3, V3, V3];
  readonly tip: V3;
  /** Its points of the graph. */
  readonly points: readonly number[];
}

export interface FingeredHand {
  readonly graph: HandGraph;
  readonly fingers: readonly Finger[];
  /** The points of the hand itself, without what lies beside it. */
  readonly piece: readonly number[];
}

/** How far from the wrist fingers can end, in lengths of the forearm. */
const REACH = 1.1;
/** What sticks out by less than this share of the longest way is no finger. */
const STICKS_OUT = 0.13;
/** A thumb begins and ends at most so far ahead of the wrist, of how far the next one does. */
const THUMB = 0.9;
/** How far within the row of the others it may begin, of the row's length. */
const BESIDE = 0.25;
const FEWEST = 4;

/**
 * The fingers of a hand, by the shape of its surface: places that are farther from the wrist than all around them, on ways
 * along the surface, and that part from one another; so fingers that touch are still apart. Undefined where it shows no
 * thumb beside three or four fingers: a fist, a mitten, a hook.
 * Source: merge tree of a distance along the surface, as in Morse theory for shapes by Hilaga et al. 2001 (Topology matching).
 * @param surfaces of the whole body, and the joints, in the body's frame
 */
export function findFingers(surfaces: readonly Surface[], elbow: V3, wrist: V3): FingeredHand | undefined {
  const fore = Math.hypot(...minus(wrist, elbow));
  if (!(fore > 0)) return undefined;
  const reach = REACH * fore;
  const ahead = unit(minus(wrist, elbow));
  const graph = handGraph(surfaces, wrist, ahead, reach);
  const { far, pieces } = waysFrom(graph, wrist, ahead, reach);
  // the piece of surface that begins nearest to the wrist: a thigh beside it is another
  for (const piece of pieces) {
    const fingers = fingersOf(graph, far, piece, wrist);
    if (fingers) return { graph, fingers, piece };
  }
  return undefined;
}

function fingersOf(graph: HandGraph, far: Float64Array, piece: readonly number[], wrist: V3): Finger[] | undefined {
  const found = branches(graph, far, piece);
  if (found.length < FEWEST || found.length > FINGERS.length) return undefined;
  const lines = found.flatMap((b) => {
    const line = lineOf(graph, far, b);
    return line ? [line] : [];
  });
  const names = lines.length === found.length ? named(lines, wrist) : undefined;
  return names
    ?.map((name, i): Finger => ({ name, ...jointsOf(lines[i]!, name, wrist), points: found[i]!.points }))
    .sort((x, y) => FINGERS.indexOf(x.name) - FINGERS.indexOf(y.name));
}

const minus = (a: readonly number[], b: readonly number[]): V3 => [a[0]! - b[0]!, a[1]! - b[1]!, a[2]! - b[2]!];
const along = (a: readonly number[], b: readonly number[], t: number): V3 =>
  [0, 1, 2].map((k) => a[k]! + t * (b[k]! - a[k]!)) as unknown as V3;
const dot = (a: readonly number[], b: readonly number[]): number => a[0]! * b[0]! + a[1]! * b[1]! + a[2]! * b[2]!;

interface Branch {
  /** The point farthest from the wrist. */
  readonly tip: number;
  /** How far from the wrist it parts from the others. */
  readonly parts: number;
  readonly points: readonly number[];
}

/** What sticks out of the hand: the parts of the surface beyond where they meet. */
function branches({ points, first, next }: HandGraph, far: Float64Array, piece: readonly number[]): Branch[] {
  const n = points.length / 3;
  const order = [...piece].sort((a, b) => far[b]! - far[a]!);
  const least = STICKS_OUT * (far[order[0] ?? 0] ?? 0);
  const groups = new Groups(n);
  const passed = new Uint8Array(n);
  // by the tip of a piece: where it first met another that sticks out as well
  const parts = new Map<number, number>();
  for (const i of order) {
    passed[i] = 1;
    for (let e = first[i]!; e < first[i + 1]!; e++) {
      if (!passed[next[e]!]) continue;
      const [a, b] = [groups.nameOf(next[e]!), groups.nameOf(i)];
      if (a === b) continue;
      const [old, young] = far[a]! >= far[b]! ? [a, b] : [b, a];
      if (far[young]! - far[i]! > least) for (const tip of [old, young]) if (!parts.has(tip)) parts.set(tip, far[i]!);
      groups.join(old, young);
    }
  }
  return [...parts].map(([tip, level]) => ({ tip, parts: level, points: beyond(tip, level, far, first, next) }));
}

/** What hangs together with a tip beyond a distance. */
function beyond(tip: number, level: number, far: Float64Array, first: Int32Array, next: Int32Array): number[] {
  const out = [tip];
  const seen = new Set(out);
  for (let at = 0; at < out.length; at++)
    for (let e = first[out[at]!]!; e < first[out[at]! + 1]!; e++) {
      const j = next[e]!;
      if (seen.has(j) || !(far[j]! > level)) continue;
      seen.add(j);
      out.push(j);
    }
  return out;
}

/** The middle line of a finger, from where it parts from the hand to its tip. */
type Line = readonly V3[];
const BINS = 6;
/** Points across a triangle's edge of which the middle line is told. */
const FINE = 4;

function lineOf({ points, triangles }: HandGraph, far: Float64Array, branch: Branch): Line | undefined {
  const own = new Set(branch.points);
  const span = far[branch.tip]! - branch.parts;
  const sums = Array.from({ length: BINS }, () => [0, 0, 0, 0]);
  for (let t = 0; t < triangles.length; t += 3) {
    const three = [triangles[t]!, triangles[t + 1]!, triangles[t + 2]!];
    if (!three.some((p) => own.has(p))) continue;
    const area = areaOf(points, three);
    for (let i = 0; i <= FINE; i++)
      for (let j = 0; j <= FINE - i; j++) {
        const share = [i / FINE, j / FINE, (FINE - i - j) / FINE];
        const d = share.reduce((sum, s, c) => sum + s * far[three[c]!]!, 0);
        const bin = Math.min(BINS - 1, Math.floor((BINS * (d - branch.parts)) / span));
        if (!(bin >= 0)) continue;
        const at = sums[bin]!;
        for (let k = 0; k < 3; k++)
          at[k]! += area * share.reduce((sum, s, c) => sum + s * points[3 * three[c]! + k]!, 0);
        at[3]! += area;
      }
  }
  const middles = sums.flatMap(([x, y, z, w]): V3[] => (w! > 0 ? [[x! / w!, y! / w!, z! / w!]] : []));
  if (middles.length < 2) return undefined;
  const tip: V3 = [points[3 * branch.tip]!, points[3 * branch.tip + 1]!, points[3 * branch.tip + 2]!];
  // the first middle lies half a bin beyond where the finger parts
  const start = along(middles[0]!, middles[1]!, -0.5);
  return [start, ...middles, along(middles.at(-1)!, tip, 0.7)];
}

function areaOf(p: Float64Array, [a, b, c]: readonly number[]): number {
  const u = [0, 1, 2].map((k) => p[3 * b! + k]! - p[3 * a! + k]!);
  const v = [0, 1, 2].map((k) => p[3 * c! + k]! - p[3 * a! + k]!);
  return Math.hypot(u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!) / 2;
}

/** Which finger is which: the thumb begins and ends nearest to the wrist, and the others lie in a row from it. */
function named(lines: readonly Line[], wrist: V3): Finger['name'][] | undefined {
  const ahead = unit(lines.reduce((sum, l) => sum.map((x, k) => x + l.at(-1)![k]! - wrist[k]!), [0, 0, 0]));
  const advanced = (i: number): number =>
    dot(minus(lines[i]![0]!, wrist), ahead) + dot(minus(lines[i]!.at(-1)!, wrist), ahead);
  const [thumb, ...others] = [...lines.keys()].sort((i, j) => advanced(i) - advanced(j)) as [number, ...number[]];
  if (advanced(thumb) > THUMB * advanced(others[0]!)) return undefined;
  const base = (i: number): V3 => lines[i]![0]!;
  // across the palm: along the two bases that are farthest apart
  let [a, b] = [others[0]!, others[1]!];
  const gap = (i: number, j: number): number => Math.hypot(...minus(base(i), base(j)));
  for (const i of others) for (const j of others) if (gap(i, j) > gap(a, b)) [a, b] = [i, j];
  const by = minus(base(b), base(a));
  const across = unit(
    minus(
      by,
      ahead.map((x) => x * dot(by, ahead)),
    ),
  );
  const place = (i: number): number => dot(minus(base(i), base(a)), across);
  const middle = others.reduce((sum, i) => sum + place(i), 0) / others.length;
  const side = Math.sign(place(thumb) - middle) || 1;
  const row = others.sort((i, j) => side * (place(j) - place(i)));
  // a thumb stands at the end of the row, not in it
  if (side * (place(thumb) - place(row[0]!)) < -BESIDE * gap(a, b)) return undefined;
  const out: Finger['name'][] = [];
  out[thumb] = 'thumb';
  row.forEach((i, at) => {
    out[i] = FINGERS[at + 1]!;
  });
  return out;
}

const unit = (v: readonly number[]): V3 => {
  const l = Math.max(1e-12, Math.hypot(...v));
  return [v[0]! / l, v[1]! / l, v[2]! / l];
};

/** How far behind where it parts from the others a finger's first joint lies, in lengths of what sticks out. */
const KNUCKLE = 0.4;
/** Where the second and third joints lie between the first one and the tip. */
const THUMB_KNUCKLE = 0.35;
const THUMB_JOINT = 0.4;
/** A thumb's first bone lies in the palm: how far from the wrist to its second joint it begins. */
const THUMB_ROOT = 0.5;
const FINGER_JOINTS = [0.5, 0.77] as const;

function jointsOf(line: Line, name: Finger['name'], wrist: V3): Pick<Finger, 'joints' | 'tip'> {
  const tip = line.at(-1)!;
  const long = lengthOf(line);
  const heel = along(line[0]!, line[Math.min(3, line.length - 1)]!, -1);
  const back = unit(minus(heel, line[0]!));
  const behind = (share: number): V3 => [0, 1, 2].map((k) => line[0]![k]! + share * long * back[k]!) as unknown as V3;
  if (name === 'thumb') {
    const second = behind(THUMB_KNUCKLE);
    return { joints: [along(wrist, second, THUMB_ROOT), second, pointAt(line, THUMB_JOINT * long)], tip };
  }
  const whole = [behind(KNUCKLE), ...line];
  const all = lengthOf(whole);
  return { joints: [whole[0]!, pointAt(whole, FINGER_JOINTS[0] * all), pointAt(whole, FINGER_JOINTS[1] * all)], tip };
}

const lengthOf = (line: Line): number =>
  line.reduce((sum, p, i) => (i > 0 ? sum + Math.hypot(...minus(p, line[i - 1]!)) : 0), 0);

function pointAt(line: Line, distance: number): V3 {
  let left = distance;
  for (let i = 1; i < line.length; i++) {
    const step = Math.hypot(...minus(line[i]!, line[i - 1]!));
    if (left <= step || i === line.length - 1) return along(line[i - 1]!, line[i]!, step > 0 ? left / step : 0);
    left -= step;
  }
  return line.at(-1)!;
}
