import type { Plant } from '../analysis/plants';
import { jointOf } from '../bodymap/slots';
import { load4, mul64, norm, normalize64, rotate64, storeLocal, storeNear } from '../math/fast';
import { lowPass } from '../math/low-pass';
import { invertQuat, rotate3 } from '../math/quat';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import { moveJoint, placesOf } from '../motion/move-joint';
import { TurnWriter } from '../motion/turn-writer';
import { childrenOf } from '../rig/rig';
import type { WristGoal } from './arms';
import { envelope } from './envelope';
import { type FootPlan, standFoot, swingFoot } from './foot-plan';
import { type FootTrack, trackFeet } from './foot-track';
import { holdKnees, type KneeHeights } from './hold-knees';
import { FULL_REACH, newLegTurns, solveLeg } from './leg';
import { passLegs, shinOverlap } from './legs-clear';
import type { RetargetPlan } from './plan';
import { quietKnee } from './quiet-knees';
import { restingHips } from './resting-hips';
import { type HeldLimb, settleHips, standingLeg } from './settle-hips';

export interface HoldResult {
  readonly motion: Motion;
  /** Largest distance between a held foot's goal and where the leg could bring it, metres, and its frame. */
  readonly reach: { readonly max: number; readonly frame: number };
  /** How far the body gave way downwards, per frame, metres. */
  readonly drop: Float64Array;
  /** How far a held foot stays from its goal, per frame, metres. */
  readonly short: Float32Array;
  /** Of each leg, 6 a frame: knee and ankle, metres, above where the body would be if it had not given way. */
  readonly shins: readonly Float64Array[];
}

/** Where a leg hangs and how long its bones are. */
interface LegTrack {
  /** 3 F: hip joint, world, metres. */
  readonly hip: Float64Array;
  readonly bones: [number, number];
}

/** Share of full length that a planted leg may use before the body gives way. */
const SOFT_REACH = 0.997;
/** The same for a swinging leg: near full length a knee turns fast, so it keeps farther away unless the source goes there. */
const SWING_REACH = 0.99;
const GIVE_WAY_S = 0.12;

export interface HoldOptions {
  /** How much lower than carried over the hips shall be throughout, metres; the feet stay where they are. */
  readonly lower?: number;
  /** Largest second difference of a knee's bend that free feet are eased to, radians a frame squared. */
  readonly allowed?: number | undefined;
  /** Knees that are held, too, at these heights. */
  readonly knees?: KneeHeights | undefined;
  /** The motion that was carried over, where a swinging leg shall pass beside the other one as it does there. */
  readonly source?: Motion | undefined;
  /** Wrists of hands that rest on the ground: the hips go where those arms keep their directions, too. */
  readonly hands?: readonly WristGoal[] | undefined;
}

/**
 * Holds the plants on the target: plans both feet, lets the body give way smoothly where a leg would not reach, then
 * bends the legs. Everything above the hips is left as transferred.
 * @param heights height of each plant above the target's ground, metres
 */
export function holdPlants(
  plan: RetargetPlan,
  motion: Motion,
  plants: readonly Plant[],
  heights: readonly number[],
  { lower = 0, allowed, knees, source, hands }: HoldOptions = {},
): HoldResult {
  const steady = steadyHips(plan, motion);
  const tracks = trackFeet(plan, steady);
  const stands = tracks.map((t) => standFoot(t, plants, heights, motion.fps));
  const limbs = [
    ...tracks.map((t, i) => standingLeg(t, stands[i]!, motion.fps)),
    // on hands and knees the knees tell
    ...(plants.some((p) => p.part.startsWith('knee'))
      ? []
      : (hands ?? []).flatMap((goal) => heldArm(plan, steady, goal) ?? [])),
  ];
  const rest = restingHips(plan, steady, tracks, plants);
  const course = settleHips(limbs, motion.frameCount, motion.fps, plan.target.body.leg, rest);
  for (const { hip, knee, ankle } of tracks)
    for (const points of [hip, knee, ankle])
      for (let o = 0; o < course.length; o++) points[o] = points[o]! + course[o]!;
  const plans = tracks.map((t, i) => swingFoot(t, stands[i]!, motion.fps));
  const settled = moveJoint(plan.target.rig, steady, plan.carrier, (f) => [
    course[3 * f]!,
    course[3 * f + 1]!,
    course[3 * f + 2]!,
  ]);
  const lowered = lower === 0 ? settled : lowerHips(plan, settled, lower);
  const kneeling = knees && holdKnees(plan, lowered, plants, knees, tracks, plans);
  const standing = kneeling?.motion ?? lowered;
  let held = reachFeet(plan, standing, tracks, plans, allowed, kneeling?.held);
  for (let round = 0; round < ROUNDS && source; round++) {
    const before = plans.map((p) => p.goal.slice());
    const overlap = passLegs(plan, source, held.shins, plans, kneeling?.held);
    if (overlap === 0) break;
    const aside = { ...bendLegs(plan, standing, tracks, plans, held.drop), drop: held.drop };
    if (
      shinOverlap(plan, source, aside.shins) > GAIN * overlap ||
      sharpest(aside.shins) > HARM * sharpest(held.shins)
    ) {
      plans.forEach((p, i) => p.goal.set(before[i]!));
      break;
    }
    held = aside;
  }
  return held;
}
/** Going aside has to take this much of the overlap away, and may make knees swing so much more sharply, or it is let be. */
const GAIN = 0.8;
const HARM = 1.15;

/** Largest second difference of a knee's place, metres a frame squared. */
function sharpest(shins: readonly Float64Array[]): number {
  let most = 1e-4;
  for (const s of shins)
    for (let o = 6; o + 6 < s.length; o += 6)
      most = Math.max(
        most,
        norm(
          s[o - 6]! - 2 * s[o]! + s[o + 6]!,
          s[o - 5]! - 2 * s[o + 1]! + s[o + 7]!,
          s[o - 4]! - 2 * s[o + 2]! + s[o + 8]!,
        ),
      );
  return most;
}

/** Arms count less than legs, since the trunk can pitch for them afterwards. */
const ARM_SHARE = 0.2;

/** An arm whose hand rests on the ground, for the hips to settle by. */
function heldArm(plan: RetargetPlan, motion: Motion, { side, at, weight }: WristGoal): HeldLimb | undefined {
  const { rig, map } = plan.target;
  const [upper, fore, hand] = ['upperArm', 'forearm', 'hand'].map((s) => jointOf(map, s + side)) as [
    number,
    number,
    number,
  ];
  if (upper < 0 || fore < 0 || hand < 0 || !weight.some((w) => w > 0)) return undefined;
  const [root, middle, end, away] = [0, 1, 2, 3].map(() => new Float64Array(3 * motion.frameCount)) as [
    Float64Array,
    Float64Array,
    Float64Array,
    Float64Array,
  ];
  const bones: [number, number] = [0, 0];
  const reader = new ChainReader(rig, motion, [hand]);
  for (let f = 0; f < motion.frameCount; f++) {
    if (weight[f]! <= 0) continue;
    const { p } = reader.at(f);
    bones[0] = boneLength(p, upper, fore);
    bones[1] = boneLength(p, fore, hand);
    for (let k = 0; k < 3; k++) {
      root[3 * f + k] = p[3 * upper + k]!;
      middle[3 * f + k] = p[3 * fore + k]!;
      end[3 * f + k] = p[3 * hand + k]!;
      away[3 * f + k] = at[3 * f + k]! - p[3 * hand + k]!;
    }
  }
  return { root, middle, end, bones, weight: weight.map((w) => ARM_SHARE * w), away };
}

/** A leg that went aside meets the other in another place: looked at again so often. */
const ROUNDS = 3;

/** The motion with its hips lower by so many metres, told in their parent's frame. */
export function lowerHips(plan: RetargetPlan, motion: Motion, by: number): Motion {
  return moveJoint(plan.target.rig, motion, plan.carrier, () => [0, -by, 0]);
}

/**
 * Brings the feet of a motion to planned places: the body gives way smoothly, the legs bend. See holdPlants.
 * @param kneeling of each foot, how much its knee is held: such a leg is not eased
 */
export function reachFeet(
  plan: RetargetPlan,
  motion: Motion,
  tracks: FootTrack[],
  plans: FootPlan[],
  allowed?: number,
  kneeling: readonly (Float32Array | undefined)[] = [],
): HoldResult {
  const legs: LegTrack[] = tracks.map(() => ({ hip: new Float64Array(3 * motion.frameCount), bones: [0, 0] }));
  const drop = giveWay(plan, motion, tracks, plans, legs);
  if (allowed !== undefined)
    for (const [i, leg] of legs.entries()) quietFoot(tracks[i]!, leg, plans[i]!, drop, allowed, kneeling[i]);
  return { ...bendLegs(plan, motion, tracks, plans, drop), drop };
}

/** Above this a hip's place holds noise only; below this rate of frames noise is too coarse to tell. */
const HIP_CUTOFF_HZ = 10;
const FAST_FPS = 48;

/**
 * Takes the tremble out of the hips' place and turn; what hangs from them keeps its turn in the world. On a foot that stands
 * still every tremble of the hips is one of the knee, and the straighter the leg the larger: where a capture's feet trembled
 * along with its hips, a held foot no longer does.
 */
export function steadyHips(plan: RetargetPlan, motion: Motion): Motion {
  if (motion.fps < FAST_FPS || motion.frameCount < 8) return motion;
  const filter = lowPass(HIP_CUTOFF_HZ, motion.fps);
  return {
    ...motion,
    turns: steadyTurn(plan, motion, filter),
    places: motion.places.map((t) => {
      if (t.joint !== plan.carrier) return t;
      const values = t.values.slice();
      for (let k = 0; k < 3; k++) filter(values, k, 3, motion.frameCount);
      return { joint: t.joint, values };
    }),
  };
}

/**
 * The turns with the tremble out of the hips' own. Mapped joints below keep their turn in the world; helpers between, which
 * swing with a capture's glitches, go with the hips.
 */
function steadyTurn(plan: RetargetPlan, motion: Motion, filter: ReturnType<typeof lowPass>): Float32Array {
  const { rig, map } = plan.target;
  const { parents } = rig;
  const hips = jointOf(map, 'hips');
  if (hips < 0) return motion.turns;
  const n = parents.length;
  const frames = motion.frameCount;
  const turns = new Float32Array(4 * frames);
  const own = new Float64Array(4);
  for (let f = 0; f < frames; f++) {
    const o = 4 * (f * n + hips);
    // neighbours in one half of the sphere, so that they can be averaged
    load4(own, 0, motion.turns, o);
    storeNear(turns, 4 * f, own, 0, 4 * f - 4);
  }
  for (let k = 0; k < 4; k++) filter(turns, k, 4, frames);
  const below = nextMapped(plan, hips);
  const rotations = motion.turns.slice();
  const steady = new Float64Array(4);
  const before = new Float64Array(4);
  const after = new Float64Array(4);
  const local = new Float64Array(4);
  for (let f = 0; f < frames; f++) {
    const o = 4 * (f * n + hips);
    load4(steady, 0, turns, 4 * f);
    load4(own, 0, motion.turns, o);
    normalize64(steady, 0);
    storeNear(rotations, o, steady, 0, f > 0 ? o - 4 * n : -1);
    for (const { joint, between } of below) {
      const c = 4 * (f * n + joint);
      for (let k = 0; k < 4; k++) {
        before[k] = own[k]!;
        after[k] = steady[k]!;
      }
      for (const j of between) {
        const b = 4 * (f * n + j);
        load4(local, 0, motion.turns, b);
        mul64(before, 0, before, 0, local, 0);
        load4(local, 0, rig.restR, 4 * j);
        mul64(after, 0, after, 0, local, 0);
        storeNear(rotations, b, local, 0, f > 0 ? b - 4 * n : -1);
      }
      load4(local, 0, motion.turns, c);
      mul64(before, 0, before, 0, local, 0);
      storeLocal(rotations, c, after, 0, before, 0, f > 0 ? c - 4 * n : -1);
    }
  }
  return rotations;
}

/** Joints below one that slots name, or that end a branch without any, each with the helpers between, from above. */
function nextMapped(plan: RetargetPlan, from: number): { joint: number; between: number[] }[] {
  const { rig, map } = plan.target;
  const mapped = new Set(Object.values(map.slots).map((e) => e.joint));
  const carries = new Uint8Array(rig.names.length);
  for (let j = rig.names.length - 1; j >= 0; j--)
    if ((carries[j] || mapped.has(j)) && rig.parents[j]! >= 0) carries[rig.parents[j]!] = 1;
  const kids = childrenOf(rig);
  const walk = (joint: number, between: number[]): { joint: number; between: number[] }[] =>
    mapped.has(joint) || !carries[joint]
      ? [{ joint, between }]
      : kids[joint]!.flatMap((c) => walk(c, [...between, joint]));
  return kids[from]!.flatMap((c) => walk(c, []));
}

/** How far the hips must come down in each frame so that both feet are within reach, as a smooth course that is never less. */
function giveWay(
  plan: RetargetPlan,
  motion: Motion,
  tracks: FootTrack[],
  plans: FootPlan[],
  legs: LegTrack[],
): Float64Array {
  const { rig } = plan.target;
  const frames = motion.frameCount;
  const need = new Float64Array(frames);
  const reader = new ChainReader(
    rig,
    motion,
    tracks.map((t) => t.sole.foot),
  );
  for (let f = 0; f < frames; f++) {
    const { p } = reader.at(f);
    tracks.forEach((t, i) => {
      // swinging feet count too: a leg that snaps straight in the air shows as much as one on the ground
      const { goal } = plans[i]!;
      const h = 3 * t.thigh;
      const leg = legs[i]!;
      leg.bones[0] = boneLength(p, t.thigh, t.shin);
      leg.bones[1] = boneLength(p, t.shin, t.sole.foot);
      for (let k = 0; k < 3; k++) leg.hip[3 * f + k] = p[h + k]!;
      const dx = goal[3 * f]! - p[h]!;
      const dy = p[h + 1]! - goal[3 * f + 1]!;
      const dz = goal[3 * f + 2]! - p[h + 2]!;
      const full = leg.bones[0] + leg.bones[1];
      // a leg that is as straight in the transferred pose may stay so
      const now = norm(t.ankle[3 * f]! - p[h]!, t.ankle[3 * f + 1]! - p[h + 1]!, t.ankle[3 * f + 2]! - p[h + 2]!);
      const soft = plans[i]!.held[f] ? SOFT_REACH : SWING_REACH;
      const reach = Math.min(FULL_REACH * full, Math.max(soft * full, now));
      const flat = dx * dx + dz * dz;
      const room = reach * reach - flat;
      if (dx * dx + dy * dy + dz * dz <= reach * reach) return;
      const lowest = room > 0 ? Math.sqrt(room) : 0.5 * reach;
      need[f] = Math.max(need[f]!, Math.min(dy - lowest, 0.25 * full));
    });
  }
  return envelope(need, Math.max(1, Math.round(GIVE_WAY_S * motion.fps)));
}

/** Most by which a free foot comes nearer or goes farther to ease its knee, as a share of the leg. */
const EASE = 0.015;
/** Most by which a foot that stands on heel or ball alone turns about it for that, radians. */
const EASE_TURN = 0.07;

/**
 * Moves a free foot along the line to its hip, and turns one that stands on heel or ball alone about that, where its knee
 * would bend too suddenly; see quietKnee. Changes goal and turns.
 */
function quietFoot(
  track: FootTrack,
  { hip, bones }: LegTrack,
  planned: FootPlan,
  drop: Float64Array,
  allowed: number,
  kneeling: Float32Array | undefined,
): void {
  const { goal, held, clear, pivot } = planned;
  const { sole } = track;
  const full = bones[0] + bones[1];
  const u = new Float64Array(3);
  /** From the hip, lowered, to the ankle's goal; the same array every time. */
  const way = (f: number): Float64Array => {
    for (let k = 0; k < 3; k++) u[k] = goal[3 * f + k]! - hip[3 * f + k]! + (k === 1 ? drop[f]! : 0);
    return u;
  };
  const far = (v: Float64Array): number => norm(v[0]!, v[1]!, v[2]!);
  const arm = new Float64Array(3);
  const other = new Float64Array(3);
  /** Axis across the foot about which the end that does not stand rises; how far away the ankle goes by it, metres a radian. */
  const lever = (f: number): { axis: [number, number]; by: number; length: number } => {
    const [own, its] = pivot[f] === 1 ? [sole.heel, sole.ball] : [sole.ball, sole.heel];
    rotate64(arm, 0, track.turn, 4 * f, own, 0);
    rotate64(other, 0, track.turn, 4 * f, its, 0);
    for (let k = 0; k < 3; k++) {
      other[k] = other[k]! - arm[k]!;
      arm[k] = -arm[k]!;
    }
    const flat = Math.hypot(other[0]!, other[2]!) || 1;
    const [x, z] = [-other[2]! / flat, other[0]! / flat];
    way(f);
    const gain = (u[0]! * -z * arm[1]! + u[1]! * (z * arm[0]! - x * arm[2]!) + u[2]! * x * arm[1]!) / far(u);
    return { axis: [x, z], by: gain, length: flat };
  };
  const distance = new Float64Array(held.length);
  for (let f = 0, o = 0; f < held.length; f++, o += 3) {
    const d = norm(goal[o]! - hip[o]!, goal[o + 1]! - hip[o + 1]! + drop[f]!, goal[o + 2]! - hip[o + 2]!);
    distance[f] = Math.min(FULL_REACH * full, d);
  }
  const room = (f: number): readonly [number, number] => {
    if (kneeling?.[f]) return [0, 0];
    const straight = SWING_REACH * full - distance[f]!;
    if (!held[f]) return [EASE * full, Math.max(0, Math.min(EASE * full, clear[f]!, straight))];
    if (!pivot[f]) return [0, 0];
    const { by, length } = lever(f);
    const up = by * EASE_TURN;
    const down = -by * Math.min(EASE_TURN, clear[f]! / length);
    return [Math.max(0, -Math.min(up, down)), Math.max(0, Math.min(Math.max(up, down), straight))];
  };
  const change = quietKnee({ distance, bones, room }, allowed);
  if (!change) return;
  const turn = new Float64Array(4);
  for (let f = 0; f < held.length; f++) {
    const by = change[f]!;
    if (by === 0) continue;
    if (!held[f]) {
      const v = way(f);
      for (let k = 0; k < 3; k++) goal[3 * f + k] = goal[3 * f + k]! + (by / far(v)) * v[k]!;
      continue;
    }
    const { axis, by: gain } = lever(f);
    const half = by / gain / 2;
    turn.set([axis[0] * Math.sin(half), 0, axis[1] * Math.sin(half), Math.cos(half)]);
    rotate64(other, 0, turn, 0, arm, 0);
    for (let k = 0; k < 3; k++) goal[3 * f + k] = goal[3 * f + k]! + other[k]! - arm[k]!;
    mul64(track.turn, 4 * f, turn, 0, track.turn, 4 * f);
    if (track.toeTurn.length > 0 && pivot[f] === 1) mul64(track.toeTurn, 4 * f, turn, 0, track.toeTurn, 4 * f);
  }
}

function boneLength(p: Float64Array, a: number, b: number): number {
  return norm(p[3 * a]! - p[3 * b]!, p[3 * a + 1]! - p[3 * b + 1]!, p[3 * a + 2]! - p[3 * b + 2]!);
}

/** Bends the legs so that the ankles come to the planned places; the hips come down by `drop`. */
export function bendLegs(
  plan: RetargetPlan,
  motion: Motion,
  tracks: FootTrack[],
  plans: readonly Pick<FootPlan, 'goal' | 'held'>[],
  drop: Float64Array,
): Omit<HoldResult, 'drop'> {
  const { rig } = plan.target;
  const { parents } = rig;
  const writer = new TurnWriter(motion);
  const hips = plan.carrier;
  const lowered = placesOf(rig, motion, hips);
  const places = [...motion.places.filter((t) => t.joint !== hips), { joint: hips, values: lowered }];
  const reader = new ChainReader(
    rig,
    motion,
    tracks.flatMap(({ sole }) => (sole.toes >= 0 ? [sole.foot, sole.toes] : [sole.foot])),
  );
  const turns = newLegTurns();
  const hinges = tracks.map((t) => hingeOf(plan, t.thigh));
  const hinge = new Float64Array(3);
  const above = new Float64Array(4);
  const world = new Float64Array(4);
  const q = new Float64Array(4);
  const v = new Float64Array(3);
  const reach = { max: 0, frame: 0 };
  const short = new Float32Array(motion.frameCount);
  const shins = tracks.map(() => new Float64Array(6 * motion.frameCount));
  for (let f = 0; f < motion.frameCount; f++) {
    const { p, r } = reader.at(f);
    const down = drop[f]!;
    if (down > 0) {
      v[0] = 0;
      v[1] = -down;
      v[2] = 0;
      const parent = parents[hips]!;
      if (parent >= 0) {
        invertQuat(q, 0, r, 4 * parent);
        rotate64(v, 0, q, 0, v, 0);
      }
      for (let k = 0; k < 3; k++) lowered[3 * f + k] = lowered[3 * f + k]! + v[k]!;
    }
    for (let i = 0; i < tracks.length; i++) {
      const { thigh, shin, sole, turn, toeTurn } = tracks[i]!;
      const { goal, held } = plans[i]!;
      // solve relative to the lowered body: raise the goal instead
      goal[3 * f + 1] = goal[3 * f + 1]! + down;
      rotate64(hinge, 0, r, 4 * thigh, hinges[i]!, 0);
      solveLeg(turns, p, 3 * thigh, 3 * shin, 3 * sole.foot, goal, 3 * f, hinge);
      goal[3 * f + 1] = goal[3 * f + 1]! - down;
      const bent = shins[i]!;
      for (let k = 0; k < 6; k++) bent[6 * f + k] = turns.places[k]!;
      if (held[f]) {
        short[f] = Math.max(short[f]!, turns.short);
        if (turns.short > reach.max) {
          reach.max = turns.short;
          reach.frame = f;
        }
      }
      mul64(world, 0, turns.upper, 0, r, 4 * thigh);
      writer.write(f, thigh, r, 4 * parents[thigh]!, world, 0);
      mul64(above, 0, turns.upper, 0, r, 4 * parents[shin]!);
      mul64(world, 0, turns.lower, 0, r, 4 * shin);
      writer.write(f, shin, above, 0, world, 0);
      mul64(above, 0, turns.lower, 0, r, 4 * parents[sole.foot]!);
      writer.write(f, sole.foot, above, 0, turn, 4 * f);
      if (sole.toes >= 0 && parents[sole.toes] === sole.foot) writer.write(f, sole.toes, turn, 4 * f, toeTurn, 4 * f);
    }
  }
  return { motion: { ...motion, turns: writer.turns, places }, reach, short, shins };
}

/** The knee's hinge in the thigh's frame: the body's left-right axis in the aligned pose. */
function hingeOf(plan: RetargetPlan, thigh: number): Float64Array {
  const back = new Float64Array(4);
  const out = new Float64Array(3);
  invertQuat(back, 0, plan.targetAligned, 4 * thigh);
  rotate3(out, 0, back, 0, [1, 0, 0], 0);
  return out;
}
