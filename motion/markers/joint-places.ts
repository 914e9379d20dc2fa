import { type NamePart, readNames } from '../bodymap/names';
import type { Side } from '../bodymap/slots';
import { MotionError } from '../errors';
import { mul64, normalize64, rotate64 } from '../math/fast';
import { arcQuat } from '../math/quat';
import { rigidFit } from '../math/rigid-fit';
import type { Motion } from '../motion/motion';
import { TurnWriter } from '../motion/turn-writer';
import type { SkeletonRig } from '../rig/rig';
import { type Markers, seenShare } from './markers';

/** A skeleton and its motion from places of joints, in their own space and unit. */
export interface JointsSolved {
  readonly rig: SkeletonRig;
  readonly motion: Motion;
  /** What was left out or put between, in sentences. */
  readonly words: readonly string[];
}

const FEWEST = 6;
/** A joint that is seen in less than this share of the frames is left out. */
const SEEN = 0.05;

type Place = 'hips' | 'neck' | `${string}`;
interface Node {
  readonly name: string;
  readonly parent: number;
  /** 3 F numbers. */
  readonly at: Float64Array;
}

/** From the trunk outwards; what a table lacks is passed over. */
const ARM = ['collar', 'upperArm', 'forearm', 'hand'] as const;
const LEG = ['thigh', 'shin', 'foot', 'toes'] as const;

/**
 * A skeleton from the places of its joints: names say what hangs on what, the frame in which the body is spread out most is the
 * rest, lengths are the usual ones, and every joint turns so that what hangs on it lies where it was. About their own length bones
 * are not turned: places do not tell that.
 * @throws MotionError 'wrong-count' for too few joints, 'unmappable' where names tell neither hips nor legs
 */
export function solveJoints(given: Markers): JointsSolved {
  const words: string[] = [];
  const seldom = given.labels.filter((_, i) => seenShare(given, i) < SEEN);
  if (seldom.length > 0) words.push(`Hardly ever seen and left out: ${seldom.join(', ')}.`);
  const kept = given.labels.flatMap((label, i) => (seldom.includes(label) ? [] : [i]));
  if (kept.length < FEWEST)
    throw new MotionError('wrong-count', `The table has ${kept.length} joints; a body needs at least ${FEWEST}.`);
  const frames = given.frameCount;
  const courses = kept.map((i) => courseOf(given, i));
  const labels = kept.map((i) => given.labels[i]!);
  const nodes = grow(labels, courses, frames, words);
  const n = nodes.length;
  const parents = Int16Array.from(nodes, (x) => x.parent);
  const rest = restOf(nodes, frames);
  const restT = new Float32Array(3 * n);
  for (let j = 0; j < n; j++)
    for (let k = 0; k < 3; k++)
      restT[3 * j + k] = rest[3 * j + k]! - (parents[j]! < 0 ? 0 : rest[3 * parents[j]! + k]!);
  const rig: SkeletonRig = {
    kind: 'skeleton',
    names: nodes.map((x) => x.name),
    parents,
    restT,
    restR: Float32Array.from({ length: 4 * n }, (_, i) => (i % 4 === 3 ? 1 : 0)),
    tips: new Float32Array(3 * n).fill(Number.NaN),
    found: { unitScale: 1, unitWhy: 'as in the table', upAxis: '+Y', facing: '+Z', certainty: 'assumed' },
  };
  const places = new Float32Array(3 * frames);
  places.set(Float32Array.from(nodes[0]!.at));
  const turns = turnsOf(rig, nodes, rest, given.fps, frames);
  const motion: Motion = {
    fps: given.fps,
    frameCount: frames,
    turns,
    places: [{ joint: 0, values: places }],
    numbers: [],
    scales: [],
    steps: [],
  };
  return { rig, motion, words };
}

/** A joint's course; between the frames in which it was seen it goes straight on. */
function courseOf({ places, labels, frameCount }: Markers, i: number): Float64Array {
  const out = new Float64Array(3 * frameCount);
  let last = -1;
  for (let f = 0; f < frameCount; f++) {
    const o = 3 * (f * labels.length + i);
    if (Number.isNaN(places[o]! + places[o + 1]! + places[o + 2]!)) continue;
    for (let k = 0; k < 3; k++) out[3 * f + k] = places[o + k]!;
    for (let g = last + 1; g < f; g++) {
      const t = last < 0 ? 1 : (g - last) / (f - last);
      for (let k = 0; k < 3; k++) out[3 * g + k] = (last < 0 ? 0 : (1 - t) * out[3 * last + k]!) + t * out[3 * f + k]!;
    }
    last = f;
  }
  for (let g = last + 1; g < frameCount; g++) for (let k = 0; k < 3; k++) out[3 * g + k] = out[3 * last + k]!;
  return out;
}

/** Who is what, by name: each label one part, each part one label, the surest first. */
function partsOf(labels: readonly string[]): Map<Place, number> {
  const readings = readNames(labels);
  const votes = readings.flatMap(({ parts, side, twist, foreign }, label) =>
    twist || foreign ? [] : [...parts].map(([part, weight]) => ({ label, part, side, weight })),
  );
  const has = (part: NamePart, side: Side | undefined): boolean =>
    votes.some((v) => v.part === part && v.side === side && v.weight >= 0.9);
  // "shoulder" is where the arm begins, unless another joint is called so; "leg" and "hip" alike
  for (const v of votes) {
    if (
      v.part === 'collar' &&
      v.weight < 1 &&
      !has('upperArm', v.side) &&
      !votes.some((w) => w.part === 'upperArm' && w.side === v.side && w.label !== v.label)
    )
      v.weight = 0.1;
    if (v.part === 'thigh' && v.weight < 1 && !has('thigh', v.side)) v.weight = 0.8;
    if (v.part === 'hips' && v.side) v.weight = 0;
  }
  votes.sort((a, b) => b.weight - a.weight);
  const out = new Map<Place, number>();
  const used = new Set<number>();
  for (const { label, part, side, weight } of votes) {
    if (weight <= 0 || used.has(label)) continue;
    const key = part === 'spine' ? `spine ${label}` : `${part}${side ?? ''}`;
    if (out.has(key)) continue;
    out.set(key, label);
    used.add(label);
  }
  return out;
}

function grow(labels: readonly string[], courses: readonly Float64Array[], frames: number, words: string[]): Node[] {
  const parts = partsOf(labels);
  const nodes: Node[] = [];
  const used = new Set<number>();
  const add = (name: string, parent: number, at: Float64Array): number => nodes.push({ name, parent, at }) - 1;
  const take = (part: Place, parent: number): number => {
    const label = parts.get(part);
    if (label === undefined) return parent;
    used.add(label);
    return add(labels[label]!, parent, courses[label]!);
  };
  const middle = (a: number, b: number): Float64Array => courses[a]!.map((x, i) => 0.5 * (x + courses[b]![i]!));
  const pair = (part: string): [number, number] | undefined => {
    const [l, r] = [parts.get(`${part}L`), parts.get(`${part}R`)];
    return l === undefined || r === undefined ? undefined : [l, r];
  };
  // (1) the trunk
  const [legs, arms] = [pair('thigh'), pair('upperArm')];
  if (parts.has('hips')) take('hips', -1);
  else if (legs) {
    add('hips', -1, middle(...legs));
    words.push('The table has no hips, so they were placed midway between the thighs.');
  } else
    throw new MotionError(
      'unmappable',
      'The table names neither hips nor a pair of thighs: say which columns they are.',
    );
  const spine = [...parts].filter(([part]) => part.startsWith('spine ')).map(([part, label]) => ({ part, label }));
  const far = (label: number): number => median(frames, (f) => apart(courses[label]!, nodes[0]!.at, f));
  spine.sort((a, b) => far(a.label) - far(b.label));
  let chest = 0;
  for (const { part } of spine) chest = take(part, chest);
  if (chest === 0 && arms && !parts.has('neck')) {
    chest = add('chest', 0, middle(...arms));
    words.push('The table has no spine, so a chest was placed midway between the shoulders.');
  }
  take('head', take('neck', chest));
  // (2) limbs
  for (const side of ['L', 'R']) {
    let on = chest;
    for (const part of ARM) on = take(`${part}${side}`, on);
    on = 0;
    for (const part of LEG) on = take(`${part}${side}`, on);
  }
  // (3) whatever else hangs on the joint to which it keeps its distance best
  const body = nodes.length;
  labels.forEach((label, i) => {
    if (used.has(i)) return;
    let [best, parent] = [Number.POSITIVE_INFINITY, 0];
    for (let j = 0; j < body; j++) {
      const usual = median(frames, (f) => apart(courses[i]!, nodes[j]!.at, f));
      const varies = median(frames, (f) => Math.abs(apart(courses[i]!, nodes[j]!.at, f) - usual)) + 0.02 * usual;
      if (varies < best) [best, parent] = [varies, j];
    }
    add(label, parent, courses[i]!);
  });
  return nodes;
}

const apart = (a: Float64Array, b: Float64Array, f: number): number =>
  Math.hypot(a[3 * f]! - b[3 * f]!, a[3 * f + 1]! - b[3 * f + 1]!, a[3 * f + 2]! - b[3 * f + 2]!);

/** The usual value over time, from at most some hundred frames. */
function median(frames: number, value: (f: number) => number): number {
  const step = Math.max(1, Math.floor(frames / 200));
  const list: number[] = [];
  for (let f = 0; f < frames; f += step) list.push(value(f));
  list.sort((a, b) => a - b);
  return list[list.length >> 1]!;
}

/** Places at rest, 3 J: as in the frame in which the body is spread out most, every bone as long as it usually is. */
function restOf(nodes: readonly Node[], frames: number): Float64Array {
  let [most, start] = [-1, 0];
  for (let f = 0; f < frames; f++) {
    const spread = nodes.reduce((sum, x) => sum + apart(x.at, nodes[0]!.at, f), 0);
    if (spread > most) [most, start] = [spread, f];
  }
  const out = new Float64Array(3 * nodes.length);
  nodes.forEach(({ at, parent }, j) => {
    if (parent < 0) return void out.set(at.subarray(3 * start, 3 * start + 3), 3 * j);
    const from = nodes[parent]!.at;
    const now = apart(at, from, start);
    const by = now > 1e-12 ? median(frames, (f) => apart(at, from, f)) / now : 1;
    for (let k = 0; k < 3; k++)
      out[3 * j + k] = out[3 * parent + k]! + by * (at[3 * start + k]! - from[3 * start + k]!);
  });
  return out;
}

/** Turns of all joints so that what hangs on each lies where it was: by all of it, or along the one bone there is. */
function turnsOf(
  rig: SkeletonRig,
  nodes: readonly Node[],
  rest: Float64Array,
  fps: number,
  frames: number,
): Float32Array {
  const n = nodes.length;
  const still: Motion = {
    fps,
    frameCount: frames,
    turns: Float32Array.from({ length: 4 * n * frames }, (_, i) => (i % 4 === 3 ? 1 : 0)),
    places: [],
    numbers: [],
    scales: [],
    steps: [],
  };
  const writer = new TurnWriter(still);
  const children = nodes.map((_, j) => nodes.flatMap((x, c) => (x.parent === j ? [c] : [])));
  const world = new Float64Array(4 * n);
  const arc = new Float64Array(4);
  const [from, to] = [new Float64Array(3), new Float64Array(3)];
  for (let f = 0; f < frames; f++)
    for (let j = 0; j < n; j++) {
      const parent = rig.parents[j]!;
      const own = world.subarray(4 * j, 4 * j + 4);
      own.set(parent < 0 ? [0, 0, 0, 1] : world.subarray(4 * parent, 4 * parent + 4));
      const list = children[j]!;
      const fit = list.length > 1 ? fitOf(j, list, nodes, rest, f) : undefined;
      if (fit) own.set(fit);
      else if (list.length > 0) {
        const c = list[0]!;
        for (let k = 0; k < 3; k++) {
          from[k] = rest[3 * c + k]! - rest[3 * j + k]!;
          to[k] = nodes[c]!.at[3 * f + k]! - nodes[j]!.at[3 * f + k]!;
        }
        rotate64(from, 0, own, 0, from, 0);
        arcQuat(arc, 0, from, 0, to, 0);
        mul64(own, 0, arc, 0, own, 0);
        normalize64(own, 0);
      }
      writer.write(f, j, world, parent < 0 ? -1 : 4 * parent, world, 4 * j);
    }
  return writer.turns;
}

/** The turn that brings all that hangs on a joint nearest to where it is; undefined where all of it lies on one line. */
function fitOf(
  j: number,
  list: readonly number[],
  nodes: readonly Node[],
  rest: Float64Array,
  f: number,
): Float64Array | undefined {
  const [a, b] = [new Float64Array(3 * list.length + 3), new Float64Array(3 * list.length + 3)];
  list.forEach((c, i) => {
    for (let k = 0; k < 3; k++) {
      a[3 * i + k] = rest[3 * c + k]! - rest[3 * j + k]!;
      b[3 * i + k] = nodes[c]!.at[3 * f + k]! - nodes[j]!.at[3 * f + k]!;
    }
  });
  let flat = true;
  for (let i = 1; i < list.length && flat; i++) {
    const [x, y, z] = [0, 1, 2].map(
      (k) => a[(k + 1) % 3]! * a[3 * i + ((k + 2) % 3)]! - a[(k + 2) % 3]! * a[3 * i + ((k + 1) % 3)]!,
    );
    const size = Math.hypot(a[0]!, a[1]!, a[2]!) * Math.hypot(a[3 * i]!, a[3 * i + 1]!, a[3 * i + 2]!);
    flat = Math.hypot(x!, y!, z!) < 0.1 * size;
  }
  // the joint itself is the last point, and holds
  return flat ? undefined : rigidFit(a, b, new Float64Array(list.length + 1).fill(1))?.turn;
}
