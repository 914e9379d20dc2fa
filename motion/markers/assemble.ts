import { alignTurns, arcQuat, invMulQuat, mulInvQuat, mulQuat, normalizeQuat, rotate3 } from '../math/quat';
import { NORMAL_SPACE, type SkeletonRig } from '../rig/rig';
import type { Limb } from './body-tree';
import type { Course } from './limb-course';
import { nameLimbs } from './name-limbs';
import { intoSegment, outOfSegment, stands } from './segments';

/** Of an arm whose hand is not told apart: forearm to upper arm, and how far out its markers have to reach. */
const FOREARM = 0.79;
const REACHES = 0.6;
const LEAST_REACH = 0.18;

/** A frame in which the body is stretched out as when it stands: its ends are far from the middle. */
export function standingFrame(limbs: readonly Limb[], poses: readonly Course[], frames: number): number {
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

/** A point on the way from one to another, 0 at the first and 1 at the second. */
export const between = (a: ArrayLike<number>, b: ArrayLike<number>, t: number): number[] =>
  [0, 1, 2].map((k) => a[k]! + t * (b[k]! - a[k]!));
/** The middle of some points. */
export const middle = (list: readonly ArrayLike<number>[]): number[] =>
  [0, 1, 2].map((k) => list.reduce((sum, p) => sum + p[k]!, 0) / list.length);

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
export const NECK = 0.35;
/** How far out a collar bone begins, as a share of the way from the neck to the shoulder. */
export const COLLAR = 0.2;
/** How far above the hip joints the hips lie, in lengths of a leg. */
const HIPS_ABOVE = 0.07;
/** How far below the markers of a head its joint lies, metres. */
const SKULL = 0.12;

/** A rig at rest, and what its joints do from there. */
export interface Assembled {
  readonly rig: SkeletonRig;
  readonly turns: Float32Array;
  readonly places: Float32Array;
  /** By limb: the joint that it became. */
  readonly nameOf: readonly string[];
}

/** What each limb is, as far as it is known. */
export const namesAt = (limbs: readonly Limb[], poses: readonly Course[], start: number): (string | undefined)[] =>
  standingAt(limbs, poses, start).slots ?? [];

/** Joints, ends and names of limbs in one frame; a limb's place is where it is joined to its parent, the first one's its middle. */
function standingAt(limbs: readonly Limb[], poses: readonly Course[], start: number) {
  const world = (i: number, at: ArrayLike<number>): number[] => {
    const p = new Float64Array(3);
    outOfSegment(poses[i]!, start, at, p);
    return [...p];
  };
  const at = limbs.map((l, i) => (i === 0 ? world(0, [0, 0, 0]) : world(i, l.own)));
  const tips = limbs.map((l, i) => tipOf(l, i, limbs, at, world));
  const slots = nameLimbs(limbs.map((l, i) => ({ parent: l.parent, at: at[i]!, tip: tips[i] })));
  return { at, tips, slots };
}

/** The rig at rest as the body stood in one frame, and the turns of its joints from there. */
export function assemble(limbs: readonly Limb[], poses: readonly Course[], start: number, frames: number): Assembled {
  const inLimb = (i: number, at: readonly number[]): Float64Array => {
    const p = new Float64Array(3);
    intoSegment(poses[i]!, start, at, 0, p);
    return p;
  };
  const { at, tips, slots } = standingAt(limbs, poses, start);
  const names = limbs.map((_, i) => slots?.[i] ?? `bone ${i + 1}`);
  if (slots) at[0] = hipsOf(at, names);
  const joints: Joint[] = [];
  /** By limb: its joint. */
  const jointOf: number[] = [];
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
    // as long as the other one, where that one's hand is told apart
    const other = names.indexOf(names[i]!.endsWith('L') ? 'handR' : 'handL');
    const long =
      other >= 0 ? Math.hypot(...at[other]!.map((x, k) => x - at[limbs[other]!.parent]![k]!)) : FOREARM * upper;
    joints.push({ name, parent: jointOf[i]!, at: between(at[i]!, tip, Math.min(0.9, long / reach)), tip });
    joints[jointOf[i]!] = { ...joints[jointOf[i]!]!, tip: undefined };
  });
  const n = joints.length;
  const restT = new Float32Array(3 * n);
  const restR = new Float32Array(4 * n);
  const tipsAt = new Float32Array(3 * n).fill(Number.NaN);
  joints.forEach(({ parent, at: own, tip }, j) => {
    restR[4 * j + 3] = 1;
    for (let k = 0; k < 3; k++) {
      restT[3 * j + k] = own[k]! - (parent >= 0 ? joints[parent]!.at[k]! : 0);
      if (tip) tipsAt[3 * j + k] = tip[k]! - own[k]!;
    }
  });
  const rig: SkeletonRig = {
    kind: 'skeleton',
    names: unique(joints.map((j) => j.name)),
    parents: Int16Array.from(joints, (j) => j.parent),
    restT,
    restR,
    tips: tipsAt,
    found: NORMAL_SPACE,
  };
  const turns = new Float32Array(4 * n * frames);
  const places = new Float32Array(3 * frames);
  const now = joints.map(() => Float64Array.from([0, 0, 0, 1]));
  const local = new Float64Array(4);
  const [a, b, direction, was, arc] = [3, 3, 3, 3, 4].map((c) => new Float64Array(c)) as [
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
  ];
  // a link points at the one joint that hangs on it
  const ends = joints.map((_, j) => joints.find((c) => c.parent === j) ?? joints[j]!);
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
        for (let k = 0; k < 3; k++) {
          direction[k] = b[k]! - a[k]!;
          was[k] = ends[j]!.at[k]! - joints[j]!.at[k]!;
        }
        rotate3(a, 0, now[parent]!, 0, was, 0);
        if (Math.hypot(...direction) > 1e-6 && Math.hypot(...a) > 1e-6) {
          arcQuat(arc, 0, a, 0, direction, 0);
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
  alignTurns(turns, n, frames);
  return { rig, turns, places, nameOf: limbs.map((_, i) => rig.names[jointOf[i]!]!) };
}

/** Hips of the common body: between the hip joints, and above them. */
function hipsOf(at: readonly number[][], names: readonly string[]): number[] {
  const of = (slot: string): number[] | undefined => at[names.indexOf(slot)];
  const [l, r, back] = [of('thighL'), of('thighR'), of('spine1')];
  const leg = ['thigh', 'shin'].flatMap((part) =>
    of(`${part}L`) && of(`${next(part)}L`) ? [[of(`${part}L`)!, of(`${next(part)}L`)!]] : [],
  );
  if (!l || !r || !back) return at[0]!;
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
