import { applied, IDENTITY, inverse, type Matrix, multiply } from '../art/matrix';
import type { Ease } from '../motion/curve';
import { keyFrames } from '../motion/key-frames';
import { ORDER_TRACK, viewTrack } from '../motion/tracks';
import { endOf } from '../rig/flat';
import { orderLabel } from './drive-order';
import { type CutoutFigure, inWorld } from './figure';
import { type CutoutKey, type CutoutKeys, type KeyTrack, keyedAt, type StepKeys, WIDTH } from './keys';
import type { LottieLayer, LottieMovie } from './lottie-layers';
import { GONE, type Piece, type PieceLayer, type Way } from './lottie-pieces';
import type { LottieValue } from './lottie-values';

// What moves a Lottie animation's layers, as keys of a figure's joints.

/** How far keys may stray: radians, the picture's units, and shares of a size. */
const TOLERANCE = { turn: 0.02 * (Math.PI / 180), place: 0.02, scale: 2e-4, length: 2e-4 };

type Channel = KeyTrack['channel'];

/** A joint by frame: its turn, its place in its parent's frame (metres), and its size or its length along its bone. */
type JointWay = Readonly<Partial<Record<Channel, Float64Array>>>;

/** Keys of a figure from what a movie does to its parts; a layer's own keyframes stay keys where they give the same values. */
export function keysOf(
  movie: LottieMovie,
  figure: CutoutFigure,
  places: readonly number[],
  pieces: readonly Piece[],
  ways: readonly Way[],
): CutoutKeys {
  const { rig, art } = figure;
  const n = movie.frameCount;
  const drivers = rig.names.map((_, joint) => driversOf(figure, joint));
  const matrixOf = (joint: number, f: number): Matrix => {
    const list = drivers[joint]!;
    const there = list.find((p) => ways[places[p]!]!.layer[f]! >= 0) ?? list[0];
    return there === undefined ? IDENTITY : ways[places[there]!]!.matrices[f]!;
  };
  const pivots = rig.names.map((_, joint) => drivers[joint]!.map((p) => art.pivots[p]!)[0] ?? ([0, 0] as const));
  const joints = jointWays(figure, n, matrixOf, pivots);
  const tracks: KeyTrack[] = [];
  rig.names.forEach((joint, j) => {
    const [driver, second] = drivers[j]!;
    const piece = driver === undefined ? undefined : pieces[places[driver]!];
    const lone = piece && second === undefined && piece.layers.length === 1 ? piece.layers[0]!.layer : undefined;
    for (const channel of ['turn', 'place', 'scale', 'length'] as const) {
      const values = joints[j]![channel];
      if (!values) continue;
      const atRest =
        channel === 'turn' ? [0] : channel === 'place' ? [rig.restT[3 * j]!, rig.restT[3 * j + 1]!] : [1, 1];
      const tolerance = channel === 'place' ? TOLERANCE.place * art.unit : TOLERANCE[channel];
      const width = WIDTH[channel];
      const still = values.every((v, i) => Math.abs(v - atRest[i % width]!) <= tolerance / 4);
      if (still) continue;
      const keys =
        (lone && keysAsMade(movie, lone, channel, values, width, tolerance)) ?? sparse(values, width, n, tolerance);
      tracks.push({ joint, channel, keys });
    }
  });
  return { fps: movie.fps, frameCount: n, tracks, steps: stepsOf(movie, figure, places, pieces, ways) };
}

/** Parts that a joint goes by, the one that carries others first; what lies loose on it does not lead. */
function driversOf({ rig }: CutoutFigure, joint: number): number[] {
  const on = rig.parts.flatMap((p, i) => (p.joint === joint ? [i] : []));
  const main = on.filter((i) => rig.parts[i]!.attachments.length > 0);
  const views = on.filter((i) => rig.parts[i]!.view !== undefined && !main.includes(i));
  return main.length > 0 ? [...main, ...views] : on.slice(0, 1);
}

/**
 * What joints do, so that their parts lie where the layers lay. A joint has no skew: it is drawn longer or shorter along its
 * bone, or given a size along its own axes, whichever comes nearer over the whole.
 */
function jointWays(
  { rig, art }: CutoutFigure,
  n: number,
  matrixOf: (joint: number, f: number) => Matrix,
  pivots: readonly (readonly [number, number])[],
): JointWay[] {
  const frames: Float64Array[] = [];
  return rig.names.map((_, j) => {
    const parent = frames[rig.parents[j]!];
    const wanted: Matrix[] = Array.from({ length: n }, (_, f) => {
      const m = matrixOf(j, f);
      const [x, y] = inWorld(art, applied(m, ...pivots[j]!));
      const above = parent ? (Array.from(parent.subarray(6 * f, 6 * f + 6)) as unknown as Matrix) : IDENTITY;
      return multiply(inverse(above) ?? IDENTITY, [m[0], -m[1], -m[2], m[3], x, y]);
    });
    const end = endOf(rig, j);
    const sized = wanted.map(bySize);
    const along = end && wanted.map((m) => byLength(m, end));
    const off = (list: readonly Split[]): number => list.reduce((most, s) => Math.max(most, s.off), 0);
    const lengthened = along !== undefined && off(along) < off(sized) - 1e-6;
    const chosen = lengthened ? along : sized;
    const turn = new Float64Array(n);
    const place = new Float64Array(2 * n);
    const scale = new Float64Array((lengthened ? 1 : 2) * n);
    const own = new Float64Array(6 * n);
    chosen.forEach((split, f) => {
      const last = f > 0 ? turn[f - 1]! : 0;
      turn[f] = split.turn + 2 * Math.PI * Math.round((last - split.turn) / (2 * Math.PI));
      const [x, y] = [wanted[f]![4], wanted[f]![5]];
      place.set([x, y], 2 * f);
      scale.set(lengthened ? [split.size[0]] : split.size, scale.length === n ? f : 2 * f);
      const [sx, sy] = lengthened ? [1, 1] : split.size;
      const [cos, sin] = [Math.cos(split.turn), Math.sin(split.turn)];
      const above = parent ? (Array.from(parent.subarray(6 * f, 6 * f + 6)) as unknown as Matrix) : IDENTITY;
      own.set(multiply(above, [cos * sx, sin * sx, -sin * sy, cos * sy, x, y]), 6 * f);
    });
    frames.push(own);
    return lengthened ? { turn, place, length: scale } : { turn, place, scale };
  });
}

/** What a joint does about its own place, and how far that is from what it should do. */
interface Split {
  readonly turn: number;
  /** Sizes along both axes, or along the bone and across it. */
  readonly size: readonly [number, number];
  readonly off: number;
}

/** A turn and sizes along the joint's own axes; skew is what is left. */
function bySize([a, b, c, d]: Matrix): Split {
  const sx = Math.hypot(a, b);
  const turn = sx > 1e-9 ? Math.atan2(b, a) : 0;
  const [cos, sin] = [Math.cos(turn), Math.sin(turn)];
  return { turn, size: [sx, cos * d - sin * c], off: Math.abs(cos * c + sin * d) };
}

/** A turn and a length along the bone (the nearest turn: Higham, 1986); what is left is size across it, and skew. */
function byLength([a, b, c, d]: Matrix, [ex, ey]: readonly [number, number]): Split {
  const turn = Math.atan2(b - c, a + d);
  const [cos, sin] = [Math.cos(turn), Math.sin(turn)];
  const size = Math.hypot(ex, ey) || 1;
  const [ux, uy] = [ex / size, ey / size];
  // what is left when the turn is taken back, along the bone and across it
  const [p, q, r, s] = [cos * a + sin * b, cos * b - sin * a, cos * c + sin * d, cos * d - sin * c];
  const along = [p * ux + r * uy, q * ux + s * uy] as const;
  const across = [-p * uy + r * ux, -q * uy + s * ux] as const;
  const length = along[0] * ux + along[1] * uy;
  const skew = Math.abs(along[1] * ux - along[0] * uy);
  const width = across[1] * ux - across[0] * uy;
  return { turn, size: [length, width], off: Math.max(skew, Math.abs(width - 1)) };
}

/** The layer's own keyframes, if a joint that has values only at these and eases as they do goes where it should in every frame. */
function keysAsMade(
  movie: LottieMovie,
  layer: LottieLayer,
  channel: Channel,
  values: Float64Array,
  width: number,
  tolerance: number,
): CutoutKey[] | undefined {
  const { transform, line } = layer;
  const property: LottieValue =
    channel === 'turn' ? transform.turn : channel === 'place' ? transform.place : transform.size;
  if (!line || property.keys.length < 2 || (channel === 'place' && transform.placeY)) return undefined;
  const keys: CutoutKey[] = [];
  for (const key of property.keys) {
    const frame = (key.time - line.offset) / line.rate - movie.start;
    const whole = Math.round(frame);
    if (Math.abs(frame - whole) > 1e-3 || key.way || !sameEases(key.eases)) return undefined;
    if (whole < 0 || whole > movie.frameCount - 1) continue;
    keys.push({ frame: whole, value: [...values.subarray(width * whole, width * whole + width)], ease: key.eases[0] });
  }
  if (keys.length === 0) return undefined;
  for (let f = 0; f < movie.frameCount; f++) {
    const now = keyedAt({ keys }, f)!;
    for (let i = 0; i < width; i++) if (Math.abs(now[i]! - values[width * f + i]!) > tolerance) return undefined;
  }
  return keys;
}

const sameEases = (eases: readonly Ease[]): boolean =>
  eases.every((e) => JSON.stringify(e) === JSON.stringify(eases[0]));

/** As few keys with straight ways between as may stray so far. */
function sparse(values: Float64Array, width: number, n: number, tolerance: number): CutoutKey[] {
  const at = (f: number, i: number): number => values[width * f + i]!;
  const kept = keyFrames(n, tolerance, (a, b, f) => {
    const t = (f - a) / (b - a);
    let worst = 0;
    for (let i = 0; i < width; i++) worst = Math.max(worst, Math.abs(at(f, i) - (1 - t) * at(a, i) - t * at(b, i)));
    return worst;
  });
  return [...kept].map((frame) => ({
    frame,
    value: Array.from({ length: width }, (_, i) => at(frame, i)),
    ease: 'linear',
  }));
}

/** Which drawing shows when, in which view, and what lies before what. */
function stepsOf(
  movie: LottieMovie,
  { rig }: CutoutFigure,
  places: readonly number[],
  pieces: readonly Piece[],
  ways: readonly Way[],
): StepKeys[] {
  const n = movie.frameCount;
  const steps: StepKeys[] = [];
  const add = (name: string, labelAt: (f: number) => string | undefined): void => {
    const keys: { frame: number; label: string }[] = [];
    for (let f = 0; f < n; f++) {
      const label = labelAt(f);
      if (label !== undefined && label !== keys.at(-1)?.label) keys.push({ frame: keys.length === 0 ? 0 : f, label });
    }
    if (keys.length > 0) steps.push({ name, keys });
  };
  const showing = (i: number, f: number): PieceLayer | undefined => {
    const piece = pieces[places[i]!]!;
    return piece.layers[ways[places[i]!]!.layer[f]!];
  };
  rig.parts.forEach((part, i) => {
    if (part.drawings.length < 2) return;
    add(part.name, (f) => showing(i, f)?.label ?? (part.view ? undefined : GONE));
  });
  rig.names.forEach((name, joint) => {
    const viewed = rig.parts.flatMap((p, i) => (p.joint === joint && p.view ? [i] : []));
    if (viewed.length > 1) add(viewTrack(name), (f) => rig.parts[viewed.find((i) => showing(i, f)) ?? -1]?.view);
  });
  const heights = rig.parts.map((_, i) => pieces[places[i]!]!.layers[0]!.z);
  const orders: string[] = [];
  for (let f = 0; f < n; f++) {
    rig.parts.forEach((_, i) => {
      heights[i] = showing(i, f)?.z ?? heights[i]!;
    });
    orders.push(orderLabel(rig.parts.map((_, i) => i).sort((a, b) => heights[a]! - heights[b]!)));
  }
  const plain = orderLabel(rig.parts.map((_, i) => i));
  if (orders.some((o) => o !== plain)) add(ORDER_TRACK, (f) => orders[f]);
  return steps;
}
