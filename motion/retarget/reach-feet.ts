import { mul64, norm, rotate64 } from '../math/fast';
import { invertQuat, rotate3 } from '../math/quat';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import { placesOf } from '../motion/move-joint';
import { PlaneReader } from '../motion/plane-pose';
import { reachFlat } from '../motion/reach-flat';
import { TurnWriter } from '../motion/turn-writer';
import { turnedRound } from '../motion/turned-round';
import type { CutoutRig } from '../rig/rig';
import { envelope } from './envelope';
import type { FootPlan } from './foot-plan';
import type { FootTrack } from './foot-track';
import { FULL_REACH, newLegTurns, solveLeg, swivelLeg } from './leg';
import type { RetargetPlan } from './plan';
import { type LegTrack, quietFoot, SWING_REACH } from './quiet-foot';

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

/** Share of full length that a planted leg may use before the body gives way. */
const SOFT_REACH = 0.997;
const GIVE_WAY_S = 0.12;

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
    turnedRound(plan.target.cutout, motion),
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

/** Distance of two joints in a pose, metres. @param p world places, 3 numbers a joint */
export function boneLength(p: Float64Array, a: number, b: number): number {
  return norm(p[3 * a]! - p[3 * b]!, p[3 * a + 1]! - p[3 * b + 1]!, p[3 * a + 2]! - p[3 * b + 2]!);
}

/**
 * Bends the legs so that the ankles come to the planned places; the hips come down by `drop`.
 * @param swivel F for each leg: how far it is turned besides about the line from hip to ankle, radians
 */
export function bendLegs(
  plan: RetargetPlan,
  motion: Motion,
  tracks: FootTrack[],
  plans: readonly Pick<FootPlan, 'goal' | 'held'>[],
  drop: Float64Array,
  swivel?: readonly Float64Array[],
): Omit<HoldResult, 'drop'> {
  const { rig } = plan.target;
  const { parents } = rig;
  const writer = new TurnWriter(motion);
  const hips = plan.carrier;
  const lowered = placesOf(rig, motion, hips);
  const places = [...motion.places.filter((t) => t.joint !== hips), { joint: hips, values: lowered }];
  if (plan.target.cutout) return bendFlat(plan.target.cutout, { ...motion, places }, tracks, plans, lowered, drop);
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
      const more = swivel ? swivel[i]![f]! : 0;
      if (more !== 0) swivelLeg(turns, p, 3 * thigh, more);
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

/** The same in the plane of a cut-out. @param lowered places of its hips, which are among those of the motion, written here */
function bendFlat(
  cutout: CutoutRig,
  motion: Motion,
  tracks: readonly FootTrack[],
  plans: readonly Pick<FootPlan, 'goal' | 'held'>[],
  lowered: Float32Array,
  drop: Float64Array,
): Omit<HoldResult, 'drop'> {
  const frames = motion.frameCount;
  for (let f = 0; f < frames; f++) lowered[3 * f + 1] = lowered[3 * f + 1]! - drop[f]!;
  const limbs = tracks.map(({ thigh, shin, sole }) => ({ chain: [thigh, shin, sole.foot] as const }));
  const goals = plans.map(({ goal }) =>
    Float64Array.from({ length: 2 * frames }, (_, i) => goal[3 * (i >> 1) + (i % 2)]!),
  );
  const x = new Float64Array(3);
  const ways = tracks.map(({ turn }) =>
    Float64Array.from({ length: frames }, (_, f) => {
      rotate64(x, 0, turn, 4 * f, ACROSS, 0);
      return Math.atan2(x[1]!, x[0]!);
    }),
  );
  const bent = reachFlat(cutout, motion, limbs, goals, ways);
  const reach = { max: 0, frame: 0 };
  const short = new Float32Array(frames);
  const shins = tracks.map(() => new Float64Array(6 * frames));
  const reader = new PlaneReader(cutout, bent);
  for (let f = 0; f < frames; f++) {
    const at = reader.read(f / motion.fps);
    limbs.forEach(({ chain: [, shin, foot] }, i) => {
      for (let k = 0; k < 2; k++) {
        shins[i]![6 * f + k] = at[6 * shin + 4 + k]! + k * drop[f]!;
        shins[i]![6 * f + 3 + k] = at[6 * foot + 4 + k]! + k * drop[f]!;
      }
      if (!plans[i]!.held[f]) return;
      const off = norm(goals[i]![2 * f]! - at[6 * foot + 4]!, goals[i]![2 * f + 1]! - at[6 * foot + 5]!, 0);
      short[f] = Math.max(short[f]!, off);
      if (off > reach.max) {
        reach.max = off;
        reach.frame = f;
      }
    });
  }
  return { motion: bent, reach, short, shins };
}

const ACROSS = Float64Array.of(1, 0, 0);

/** The knee's hinge in the thigh's frame: the body's left-right axis in the aligned pose. */
function hingeOf(plan: RetargetPlan, thigh: number): Float64Array {
  const back = new Float64Array(4);
  const out = new Float64Array(3);
  invertQuat(back, 0, plan.targetAligned, 4 * thigh);
  rotate3(out, 0, back, 0, [1, 0, 0], 0);
  return out;
}
