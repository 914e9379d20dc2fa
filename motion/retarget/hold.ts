import type { Plant } from '../analysis/plants';
import { jointOf } from '../bodymap/slots';
import { norm } from '../math/fast';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import { moveJoint } from '../motion/move-joint';
import { type WristGoal, weightOf } from './arms';
import { standFoot, swingFoot } from './foot-plan';
import { trackFeet } from './foot-track';
import { holdKnees, type KneeHeights } from './hold-knees';
import { passLegs, shinOverlap } from './legs-clear';
import type { RetargetPlan } from './plan';
import { bendLegs, boneLength, type HoldResult, reachFeet } from './reach-feet';
import { type HeldLimb, settleHips, standingLeg } from './settle-hips';
import { steadyHips } from './steady-hips';

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
  const seats = plants.filter((p) => p.part === 'seat');
  const seated = seats.length > 0 ? weightOf(seats, motion.frameCount, Math.round(SEAT_S * motion.fps)) : undefined;
  const course = settleHips(limbs, motion.frameCount, motion.fps, plan.target.body.leg, seated);
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
/** Time over which a seat comes to hold the hips, and lets them go. */
const SEAT_S = 0.25;

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
