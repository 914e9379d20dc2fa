import type { Plant } from '../analysis/plants';
import { jointOf, type Side } from '../bodymap/slots';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import { moveJoint } from '../motion/move-joint';
import { type WristGoal, weightOf } from './arms';
import { standFoot, swingFoot } from './foot-plan';
import { trackFeet } from './foot-track';
import { holdKnees, type KneeHeights } from './hold-knees';
import { keepLegsApart } from './legs-apart';
import type { RetargetPlan } from './plan';
import { boneLength, type HoldResult, reachFeet } from './reach-feet';
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
  /** Wrists of hands that rest on the ground, as a motion has its arms: the hips go where those arms keep their directions, too. */
  readonly hands?: ((moved: Motion) => readonly WristGoal[]) | undefined;
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
  const seats = plants.filter((p) => p.part === 'seat');
  const seated = seats.length > 0 ? weightOf(seats, motion.frameCount, Math.round(SEAT_S * motion.fps)) : undefined;
  const settle = (from: Motion, arms: readonly HeldLimb[]): Motion => {
    const legs = tracks.map((t, i) => standingLeg(t, stands[i]!, motion.fps));
    const course = settleHips([...legs, ...arms], motion.frameCount, motion.fps, plan.target.body.leg, seated);
    for (const { hip, knee, ankle } of tracks)
      for (const points of [hip, knee, ankle])
        for (let o = 0; o < course.length; o++) points[o] = points[o]! + course[o]!;
    return moveJoint(plan.target.rig, from, plan.carrier, (f) => [
      course[3 * f]!,
      course[3 * f + 1]!,
      course[3 * f + 2]!,
    ]);
  };
  let settled = settle(steady, []);
  // where palms rest tells only once the legs have brought the body to its height; on hands and knees the knees tell
  if (hands && !plants.some((p) => p.part.startsWith('knee'))) {
    const arms = hands(settled).flatMap((goal) => heldArm(plan, settled, goal) ?? []);
    if (arms.length > 0) settled = settle(settled, arms);
  }
  const plans = tracks.map((t, i) => swingFoot(t, stands[i]!, motion.fps));
  const lowered = lower === 0 ? settled : lowerHips(plan, settled, lower);
  const kneeling = knees && holdKnees(plan, lowered, plants, knees, tracks, plans);
  const standing = kneeling?.motion ?? lowered;
  const held = reachFeet(plan, standing, tracks, plans, allowed, kneeling?.held);
  if (!source) return held;
  const fixed = tracks.map((t, i) => pinned(plants, t.side, motion.frameCount) ?? kneeling?.held[i]);
  return keepLegsApart(plan, source, standing, tracks, plans, held, fixed);
}

/** F: 1 where a foot stands on a spot chosen by hand; undefined where it never does. */
function pinned(plants: readonly Plant[], side: Side, frames: number): Uint8Array | undefined {
  const spans = plants.filter((p) => p.pin && (p.part === `heel${side}` || p.part === `ball${side}`));
  if (spans.length === 0) return undefined;
  const out = new Uint8Array(frames);
  for (const { start, end } of spans) out.fill(1, start, end + 1);
  return out;
}

/** Time over which a seat comes to hold the hips, and lets them go. */
const SEAT_S = 0.25;

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

/** The motion with its hips lower by so many metres, told in their parent's frame. */
export function lowerHips(plan: RetargetPlan, motion: Motion, by: number): Motion {
  return moveJoint(plan.target.rig, motion, plan.carrier, () => [0, -by, 0]);
}
