import { MotionError } from '../errors';
import { alignSigns, arcQuat, invMulQuat, mulInvQuat, mulQuat, normalizeQuat, rotate3, slerp } from '../math/quat';
import { rigidFit } from '../math/rigid-fit';
import type { Motion } from '../motion/motion';
import { NORMAL_SPACE, type SkeletonRig } from '../rig/rig';
import { growTree, type Limb } from './body-tree';
import { type Cleaning, cleanMarkers } from './clean';
import { type Markers, seen, seenShare } from './markers';
import { nameLimbs } from './name-limbs';
import { groupMarkers, intoSegment, outOfSegment, stands, USUAL_LOOSENESS } from './segments';

/** A skeleton and its motion, solved from markers, in the space of the markers. */
export interface Solved {
  readonly rig: SkeletonRig;
  readonly motion: Motion;
  readonly report: SolveReport;
}

export interface SolveReport {
  readonly frames: number;
  readonly markers: readonly {
    readonly label: string;
    /** The joint that carries it; undefined for one that no bone could be found for. */
    readonly joint: string | undefined;
    readonly seenPercent: number;
    /** How far it is from where its bone says, root mean square and most, millimetres. */
    readonly offMm: number;
    readonly mostOffMm: number;
    /** The same over time, in a hundred stretches of the take; NaN where it was not seen. */
    readonly overTimeMm: readonly number[];
  }[];
  readonly joints: readonly { readonly joint: string; readonly offMm: number }[];
  readonly cleaned: readonly Cleaning[];
}

const FEWEST_MARKERS = 8;
const FEWEST_FRAMES = 30;
const STRETCHES = 100;
/** Of an arm whose hand is not told apart: forearm to upper arm, and how far out its markers have to reach. */
const FOREARM = 0.79;
const REACHES = 0.6;
const LEAST_REACH = 0.18;

/**
 * A skeleton with its motion from the places of markers, in one go: tracks are cleaned, markers grouped into bones by the
 * distances that they keep, joints found where bones turn about one another. Labels are not needed.
 * @throws MotionError 'wrong-count' for too few markers or frames, 'no-joints' where nothing moves as a body does
 */
export function solveMarkers(given: Markers): Solved {
  if (given.labels.length < FEWEST_MARKERS || given.frameCount < FEWEST_FRAMES)
    throw new MotionError(
      'wrong-count',
      `The file has ${given.labels.length} markers over ${given.frameCount} frames; a body needs at least ${FEWEST_MARKERS} over ${FEWEST_FRAMES}.`,
    );
  const { markers, done } = cleanMarkers(given);
  const groups = groupMarkers(markers, USUAL_LOOSENESS);
  // of two ways to hang limbs on one another the one that makes a body; the second is seldom needed
  let best: Built | undefined;
  for (const forks of ['large', 'all'] as const) {
    const built = build(growTree(markers, groups, forks), markers);
    if (built && (!best || built.known > best.known)) best = built;
    if (best && best.known === best.limbs.length) break;
  }
  if (!best)
    throw new MotionError(
      'no-joints',
      'No body could be made out: the markers do not move as bones do that hang together.',
    );
  const { limbs, poses, rig, turns, places, nameOf } = best;
  const frames = markers.frameCount;
  const motion: Motion = {
    fps: markers.fps,
    frameCount: frames,
    turns,
    places: [{ joint: 0, values: places }],
    numbers: [],
    scales: [],
    steps: [],
  };
  return { rig, motion, report: reportOf(markers, given, limbs, poses, nameOf, done) };
}

/** A body from a tree of limbs. */
interface Built extends Assembled {
  readonly limbs: readonly Limb[];
  readonly poses: readonly Course[];
  /** How many limbs are known for what they are. */
  readonly known: number;
}

function build(limbs: readonly Limb[], markers: Markers): Built | undefined {
  if (limbs.length < 3) return undefined;
  const poses: Course[] = [];
  for (const l of limbs) poses.push(whole(l, poses[l.parent], markers));
  const made = assemble(limbs, poses, standingFrame(limbs, poses, markers.frameCount), markers.frameCount);
  return { ...made, limbs, poses, known: made.nameOf.filter((n) => !n.startsWith('bone ')).length };
}

interface Course {
  readonly turns: Float64Array;
  readonly places: Float64Array;
}

/** How far a marker may be from where its distance to the joint says before it counts as another one, metres. */
const STRANGER = 0.03;

/**
 * A limb's turns and places in every frame. Where too few of its markers were seen it stays on its joint, and what was seen
 * turns it from where it would be between the frames around.
 * @param parent the course of the limb that it hangs on, whole already
 */
function whole(limb: Limb, parent: Course | undefined, markers: Markers): Course {
  const { turns, places } = limb;
  const frames = markers.frameCount;
  const out: Course = { turns: turns.slice(), places: places.slice() };
  if (!places.some((x) => !Number.isNaN(x))) {
    // one whose frame was never known goes with its parent, turned by what was seen of it
    for (let f = 0; f < frames; f++) {
      if (parent) out.turns.set(parent.turns.subarray(4 * f, 4 * f + 4), 4 * f);
      else out.turns.set([0, 0, 0, 1], 4 * f);
      out.places.fill(0, 3 * f, 3 * f + 3);
      steer(limb, parent, markers, f, out);
    }
    return out;
  }
  let last = -1;
  for (let f = 0; f <= frames; f++) {
    if (f < frames && Number.isNaN(places[3 * f]!)) continue;
    for (let g = last + 1; g < f; g++) {
      // before the first and after the last it stays as it was then
      const [a, b] = [last < 0 ? f : last, f >= frames ? last : f];
      if (a < 0 || b < 0 || a >= frames) continue;
      const t = a === b ? 0 : (g - a) / (b - a);
      slerp(out.turns, 4 * g, turns, 4 * a, turns, 4 * b, t);
      for (let k = 0; k < 3; k++)
        out.places[3 * g + k] = places[3 * a + k]! + t * (places[3 * b + k]! - places[3 * a + k]!);
      steer(limb, parent, markers, g, out);
    }
    last = f;
  }
  return out;
}

/** Brings a limb in one frame onto its joint and towards those of its markers that were seen. */
function steer(limb: Limb, parent: Course | undefined, markers: Markers, f: number, out: Course): void {
  const m = markers.labels.length;
  const p = new Float64Array(3);
  const points: { own: Float64Array; at: number[] }[] = [];
  limb.markers.forEach((marker, k) => {
    const o = 3 * (f * m + marker);
    if (!Number.isNaN(markers.places[o]!))
      points.push({ own: limb.shape.subarray(3 * k, 3 * k + 3), at: [0, 1, 2].map((c) => markers.places[o + c]!) });
  });
  if (!parent) {
    // nothing holds the first limb: it moves with what was seen of it
    if (points.length === 0) return;
    const by = [0, 0, 0];
    for (const { own, at } of points) {
      outOfSegment(out, f, own, p);
      for (let k = 0; k < 3; k++) by[k]! += (at[k]! - p[k]!) / points.length;
    }
    if (Math.hypot(...by) < 10 * STRANGER) for (let k = 0; k < 3; k++) out.places[3 * f + k]! += by[k]!;
    return;
  }
  const joint = new Float64Array(3);
  outOfSegment(parent, f, limb.joint, joint);
  const far = (a: ArrayLike<number>, b: ArrayLike<number>): number =>
    Math.hypot(a[0]! - b[0]!, a[1]! - b[1]!, a[2]! - b[2]!);
  const held = points.filter(({ own, at }) => Math.abs(far(own, limb.own) - far(at, joint)) < STRANGER);
  held.sort((a, b) => far(b.own, limb.own) - far(a.own, limb.own));
  const turn = out.turns.subarray(4 * f, 4 * f + 4);
  const [from, to, arc] = [new Float64Array(3), new Float64Array(3), new Float64Array(4)];
  const aim = ({ own, at }: (typeof held)[number]): void => {
    const way = own.map((x, k) => x - limb.own[k]!);
    rotate3(from, 0, turn, 0, way, 0);
    for (let k = 0; k < 3; k++) to[k] = at[k]! - joint[k]!;
    if (Math.hypot(...from) < 0.02) return;
    arcQuat(arc, 0, from, 0, to, 0);
    mulQuat(turn, 0, arc, 0, turn, 0);
  };
  // towards the farthest one first; a second one beside it then turns the limb about that way
  if (held[0]) aim(held[0]);
  if (held[1]) {
    const n = held.length + 1;
    const [a, b] = [new Float64Array(3 * n), new Float64Array(3 * n)];
    held.forEach(({ own, at }, i) => {
      rotate3(
        a,
        3 * i,
        turn,
        0,
        own.map((x, k) => x - limb.own[k]!),
        0,
      );
      for (let k = 0; k < 3; k++) b[3 * i + k] = at[k]! - joint[k]!;
    });
    const more = wide(a) > LEAST_WIDE ? rigidFit(a, b, new Float64Array(n).fill(1)) : undefined;
    if (more) mulQuat(turn, 0, more.turn, 0, turn, 0);
  }
  rotate3(p, 0, turn, 0, limb.own, 0);
  for (let k = 0; k < 3; k++) out.places[3 * f + k] = joint[k]! - p[k]!;
}

/** How far points lie off the line through the first of them and the origin, metres: the most of them. */
function wide(points: Float64Array): number {
  const [x, y, z] = [points[0]!, points[1]!, points[2]!];
  const long = Math.hypot(x, y, z) || 1;
  let most = 0;
  for (let i = 3; i + 2 < points.length; i += 3) {
    const [u, v, w] = [points[i]!, points[i + 1]!, points[i + 2]!];
    most = Math.max(most, Math.hypot(y * w - z * v, z * u - x * w, x * v - y * u) / long);
  }
  return most;
}

const LEAST_WIDE = 0.02;

/** A frame in which the body is stretched out as when it stands: its ends are far from the middle. */
function standingFrame(limbs: readonly Limb[], poses: readonly Course[], frames: number): number {
  const ends = limbs.map((_, i) => i).filter((i) => !limbs.some((l) => l.parent === i));
  let best = 0;
  let most = -1;
  const step = Math.max(1, Math.floor(frames / 2000));
  for (let f = 0; f < frames; f += step) {
    let far = limbs.every((l) => stands(l, f)) ? limbs.length : 0;
    for (const e of ends)
      far += Math.hypot(...[0, 1, 2].map((k) => poses[e]!.places[3 * f + k]! - poses[0]!.places[3 * f + k]!));
    if (far > most) {
      most = far;
      best = f;
    }
  }
  return best;
}

/** A joint of the rig to be: how it turns, and where it is at rest. */
interface Joint {
  readonly name: string;
  readonly parent: number;
  readonly at: readonly number[];
  readonly tip?: readonly number[] | undefined;
  /** The limb whose turns it has; a link between two points of others; or undefined for one that never turns by itself. */
  readonly limb?: number;
  readonly link?: Link;
}

/** A bone without markers between two limbs, such as a collar bone: from a point of the one to a point of the other. */
interface Link {
  readonly from: number;
  readonly start: ArrayLike<number>;
  readonly to: number;
  readonly end: ArrayLike<number>;
}

/** How far from where two limbs turn about one another the bone between them begins and ends, as shares of the way. */
const SPINE = { down: 0.25, up: 0.3 };
/** How far up the way from between the shoulders to where the head turns the neck begins. */
const NECK = 0.35;
/** How far out a collar bone begins, as a share of the way from the neck to the shoulder. */
const COLLAR = 0.2;
/** How far above the hip joints the hips lie, in lengths of a leg. */
const HIPS_ABOVE = 0.07;
/** How far below the markers of a head its joint lies, metres. */
const SKULL = 0.12;

interface Assembled {
  readonly rig: SkeletonRig;
  readonly turns: Float32Array;
  readonly places: Float32Array;
  /** By limb: the joint that it became. */
  readonly nameOf: readonly string[];
}

/** The rig at rest as the body stood in one frame, and the turns of its joints from there. */
function assemble(limbs: readonly Limb[], poses: readonly Course[], start: number, frames: number): Assembled {
  const world = (i: number, at: ArrayLike<number>): number[] => {
    const p = new Float64Array(3);
    outOfSegment(poses[i]!, start, at, p);
    return [...p];
  };
  const inLimb = (i: number, at: readonly number[]): Float64Array => {
    const p = new Float64Array(3);
    intoSegment(poses[i]!, start, at, 0, p);
    return p;
  };
  // joints in the standing frame; a limb's place is where it is joined to its parent, the first one's its middle
  const at = limbs.map((l, i) => (i === 0 ? world(0, [0, 0, 0]) : world(i, l.own)));
  const tips = limbs.map((l, i) => tipOf(l, i, limbs, at, world));
  const slots = nameLimbs(limbs.map((l, i) => ({ parent: l.parent, at: at[i]!, tip: tips[i] })));
  const names = limbs.map((_, i) => slots?.[i] ?? `bone ${i + 1}`);
  if (slots) at[0] = hipsOf(limbs, at, names);
  const joints: Joint[] = [];
  /** By limb: its joint. */
  const jointOf: number[] = [];
  const between = (a: readonly number[], b: readonly number[], t: number): number[] =>
    a.map((x, k) => x + t * (b[k]! - x));
  const middle = (list: readonly number[][]): number[] =>
    [0, 1, 2].map((k) => list.reduce((sum, p) => sum + p[k]!, 0) / list.length);
  const childrenAt = (i: number): number[][] => limbs.flatMap((l, j) => (l.parent === i ? [at[j]!] : []));
  /** Where the neck rises from the chest: between both shoulders, somewhat up the way to where the head turns. */
  const neckAt = (head: number): number[] => {
    const arms = at.filter((_, j) => /^upperArm/.test(names[j]!));
    return arms.length === 2 ? between(middle(arms), at[head]!, NECK) : at[head]!;
  };
  limbs.forEach((l, i) => {
    const name = names[i]!;
    const parent = l.parent < 0 ? -1 : jointOf[l.parent]!;
    const own = (p: readonly number[], on: number, rest: Partial<Joint> = {}): void => {
      jointOf[i] = joints.push({ name, parent: on, at: p, tip: tips[i], limb: i, ...rest }) - 1;
    };
    /** A bone from a point of the parent to one of this limb. */
    const linked = (bone: string, from: readonly number[], to: readonly number[], called = name): void => {
      const link: Link = { from: l.parent, start: inLimb(l.parent, from), to: i, end: inLimb(i, to) };
      const j = joints.push({ name: bone, parent, at: from, link }) - 1;
      own(to, j, { name: called });
    };
    if (name === 'spine1' && l.parent === 0) {
      const legs = childrenAt(0).filter((p) => p !== at[i]);
      linked(
        'spine1',
        between(at[i]!, middle(legs), SPINE.down),
        between(at[i]!, middle(childrenAt(i)), SPINE.up),
        'spine2',
      );
    } else if (name === 'head' && tips[i]) {
      const far = Math.hypot(...tips[i]!.map((x, k) => x - at[i]![k]!));
      linked('neck1', neckAt(i), between(tips[i]!, at[i]!, Math.min(1, SKULL / Math.max(1e-6, far))));
    } else if (/^upperArm/.test(name) && l.parent > 0) {
      const head = limbs.findIndex((_, j) => names[j] === 'head');
      const neck = head >= 0 ? neckAt(head) : middle(childrenAt(l.parent));
      linked(name.replace('upperArm', 'collar'), between(neck, at[i]!, COLLAR), at[i]!);
    } else own(at[i]!, parent);
  });
  limbs.forEach((l, i) => {
    const tip = tips[i];
    // where the shape tells which bones are forearms, no other one ends in a hand
    if (!tip || l.parent < 0 || (slots && !/^forearm/.test(names[i]!))) return;
    const upper = Math.hypot(...at[i]!.map((x, k) => x - at[l.parent]![k]!));
    const reach = Math.hypot(...tip.map((x, k) => x - at[i]![k]!));
    if (reach < REACHES * upper || reach < LEAST_REACH) return;
    const name = names[i]!.replace(/^forearm/, 'hand').replace(/^bone/, 'end of bone');
    joints.push({ name, parent: jointOf[i]!, at: between(at[i]!, tip, Math.min(0.9, (FOREARM * upper) / reach)), tip });
    joints[jointOf[i]!] = { ...joints[jointOf[i]!]!, tip: undefined };
  });
  const n = joints.length;
  const restT = new Float32Array(3 * n);
  const restR = new Float32Array(4 * n);
  const ends = new Float32Array(3 * n).fill(Number.NaN);
  joints.forEach(({ parent, at: own, tip }, j) => {
    restR[4 * j + 3] = 1;
    for (let k = 0; k < 3; k++) {
      restT[3 * j + k] = own[k]! - (parent >= 0 ? joints[parent]!.at[k]! : 0);
      if (tip) ends[3 * j + k] = tip[k]! - own[k]!;
    }
  });
  const rig: SkeletonRig = {
    kind: 'skeleton',
    names: unique(joints.map((j) => j.name)),
    parents: Int16Array.from(joints, (j) => j.parent),
    restT,
    restR,
    tips: ends,
    found: NORMAL_SPACE,
  };
  const turns = new Float32Array(4 * n * frames);
  const places = new Float32Array(3 * frames);
  const now = joints.map(() => Float64Array.from([0, 0, 0, 1]));
  const local = new Float64Array(4);
  const [a, b, way, was, arc] = [3, 3, 3, 3, 4].map((c) => new Float64Array(c)) as [
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
  ];
  const hips = inLimb(0, at[0]!);
  for (let f = 0; f < frames; f++) {
    joints.forEach(({ parent, limb, link }, j) => {
      const turn = now[j]!;
      if (limb !== undefined) {
        mulInvQuat(turn, 0, poses[limb]!.turns, 4 * f, poses[limb]!.turns, 4 * start);
        normalizeQuat(turn, 0);
      } else if (link) {
        // turned with the limb that it begins at, and from there the shortest way to point at where it ends
        outOfSegment(poses[link.from]!, f, link.start, a);
        outOfSegment(poses[link.to]!, f, link.end, b);
        const rest = joints.findIndex((c) => c.parent === j);
        for (let k = 0; k < 3; k++) {
          way[k] = b[k]! - a[k]!;
          was[k] = joints[rest]!.at[k]! - joints[j]!.at[k]!;
        }
        rotate3(a, 0, now[parent]!, 0, was, 0);
        if (Math.hypot(...way) > 1e-6 && Math.hypot(...a) > 1e-6) {
          arcQuat(arc, 0, a, 0, way, 0);
          mulQuat(turn, 0, arc, 0, now[parent]!, 0);
        } else turn.set(now[parent]!);
      } else turn.set(now[parent]!);
      if (parent < 0) local.set(turn);
      else invMulQuat(local, 0, now[parent]!, 0, turn, 0);
      turns.set(local, 4 * (f * n + j));
    });
    outOfSegment(poses[0]!, f, hips, a);
    places.set(a, 3 * f);
  }
  for (let j = 0; j < n; j++) alignSigns(turns, 4 * j, 4 * n, frames);
  return { rig, turns, places, nameOf: limbs.map((_, i) => rig.names[jointOf[i]!]!) };
}

/** Hips of the common body: between the hip joints, and above them. */
function hipsOf(limbs: readonly Limb[], at: readonly number[][], names: readonly string[]): number[] {
  const of = (slot: string): number[] | undefined => at[names.indexOf(slot)];
  const [l, r, back] = [of('thighL'), of('thighR'), of('spine1')];
  const leg = ['thigh', 'shin'].flatMap((part) =>
    of(`${part}L`) && of(`${next(part)}L`) ? [[of(`${part}L`)!, of(`${next(part)}L`)!]] : [],
  );
  if (!l || !r || !back || limbs.length === 0) return at[0]!;
  const long = leg.reduce((s, [a, b]) => s + Math.hypot(...a!.map((x, k) => x - b![k]!)), 0);
  const middle = l.map((x, k) => (x + r[k]!) / 2);
  const up = back.map((x, k) => x - middle[k]!);
  const far = Math.hypot(...up) || 1;
  return middle.map((x, k) => x + (HIPS_ABOVE * long * up[k]!) / far);
}

const next = (part: string): string => (part === 'thigh' ? 'shin' : 'foot');

const unique = (names: readonly string[]): string[] =>
  names.map((name, i) => (names.indexOf(name) < i ? `${name} ${i + 1}` : name));

/** Where a last bone ends: beyond its markers; undefined for a bone that others hang on. */
function tipOf(
  limb: Limb,
  i: number,
  limbs: readonly Limb[],
  at: readonly number[][],
  world: (i: number, at: ArrayLike<number>) => number[],
): number[] | undefined {
  if (i === 0 || limbs.some((l) => l.parent === i)) return undefined;
  // the farthest markers, and the way to the middle of all of them
  const points = Array.from({ length: limb.shape.length / 3 }, (_, m) =>
    world(i, limb.shape.subarray(3 * m, 3 * m + 3)),
  );
  const from = at[i]!;
  const far = (p: readonly number[]): number => Math.hypot(...p.map((x, k) => x - from[k]!));
  const most = Math.max(...points.map(far));
  const outer = points.filter((p) => far(p) > 0.7 * most);
  const middle = [0, 1, 2].map((k) => outer.reduce((s, p) => s + p[k]!, 0) / outer.length);
  return middle;
}

function reportOf(
  markers: Markers,
  given: Markers,
  limbs: readonly Limb[],
  poses: readonly Course[],
  nameOf: readonly string[],
  cleaned: readonly Cleaning[],
): SolveReport {
  const m = markers.labels.length;
  const carrier = new Map(limbs.flatMap((l, i) => l.markers.map((marker, k) => [marker, { i, k }] as const)));
  const p = new Float64Array(3);
  const round = (x: number): number => Math.round(1e4 * x) / 10;
  return {
    frames: markers.frameCount,
    cleaned,
    joints: limbs.flatMap((l, i) => (l.parent < 0 ? [] : [{ joint: nameOf[i]!, offMm: round(l.off) }])),
    markers: markers.labels.map((label, marker) => {
      const on = carrier.get(marker);
      const sums = new Float64Array(STRETCHES);
      const counts = new Float64Array(STRETCHES);
      let [sum, count, most] = [0, 0, 0];
      if (on)
        for (let f = 0; f < markers.frameCount; f++) {
          if (!seen(markers, f, marker)) continue;
          outOfSegment(poses[on.i]!, f, limbs[on.i]!.shape.subarray(3 * on.k, 3 * on.k + 3), p);
          const d = Math.hypot(...[0, 1, 2].map((k) => p[k]! - markers.places[3 * (f * m + marker) + k]!));
          const s = Math.floor((STRETCHES * f) / markers.frameCount);
          sums[s]! += d;
          counts[s]!++;
          sum += d * d;
          count++;
          most = Math.max(most, d);
        }
      return {
        label,
        joint: on && nameOf[on.i]!,
        seenPercent: Math.round(1000 * seenShare(given, marker)) / 10,
        offMm: count > 0 ? round(Math.sqrt(sum / count)) : 0,
        mostOffMm: round(most),
        overTimeMm: Array.from(sums, (s, i) => (counts[i]! > 0 ? round(s / counts[i]!) : Number.NaN)),
      };
    }),
  };
}

/** What was done to the tracks, and what they leave open, in sentences. */
export function solveWords({ cleaned, markers }: SolveReport): string[] {
  const count = (what: Cleaning['what']): number => cleaned.filter((c) => c.what === what).length;
  const [swaps, spikes] = [count('swap'), count('spike')];
  const lost = markers.filter((m) => m.joint === undefined).map((m) => m.label);
  const gaps = markers.reduce((s, m) => s + (100 - m.seenPercent), 0) / Math.max(1, markers.length);
  return [
    ...(swaps > 0
      ? [`Markers that exchanged their tracks were put right ${swaps === 1 ? 'once' : `${swaps} times`}.`]
      : []),
    ...(spikes > 0
      ? [
          `${spikes === 1 ? 'One place' : `${spikes} places`} that no movement explains ${spikes === 1 ? 'was' : 'were'} left out.`,
        ]
      : []),
    ...(gaps >= 0.05
      ? [`${gaps.toFixed(1)} % of all places were not seen; there the body follows its other markers.`]
      : []),
    ...(lost.length > 0 ? [`On no bone: ${lost.slice(0, 12).join(', ')}.`] : []),
  ];
}
