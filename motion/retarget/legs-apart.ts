import { norm } from '../math/fast';
import type { Motion } from '../motion/motion';
import type { FootPlan } from './foot-plan';
import type { FootTrack } from './foot-track';
import { spreadKnees } from './knees-clear';
import { passLegs, shinOverlap } from './legs-clear';
import type { RetargetPlan } from './plan';
import { bendLegs, type HoldResult, reachFeet } from './reach-feet';

/** A leg that was moved meets the other in another place: looked at again so often. */
const ROUNDS = 3;
/** Moving has to take this much of the overlap away, and may make knees swing so much more sharply, or it is let be. */
const GAIN = 0.8;
const HARM = 1.15;

/**
 * Keeps both legs out of each other, as far as the source's are: feet go aside, then bent knees. Each proves on this very
 * motion that it takes overlap away and makes no knee swing more sharply, or lets go. Changes the goals of the plans.
 * @param standing the motion whose legs were bent, its hips at their height
 * @param fixed of each foot, frames in which it may not move: its knee is held, or its spot was chosen by hand
 */
export function keepLegsApart(
  plan: RetargetPlan,
  source: Motion,
  standing: Motion,
  tracks: FootTrack[],
  plans: FootPlan[],
  bent: HoldResult,
  fixed: readonly (ArrayLike<number> | undefined)[] = [],
): HoldResult {
  const { fps } = standing;
  let held = bent;
  for (let round = 0; round < ROUNDS; round++) {
    const before = plans.map((p) => p.goal.slice());
    const overlap = passLegs(plan, source, held.shins, plans, fixed);
    if (overlap === 0) break;
    const aside = reachFeet(plan, standing, tracks, plans);
    if (
      shinOverlap(plan, source, aside.shins) > GAIN * overlap ||
      sharpest(aside.shins, fps) > HARM * sharpest(held.shins, fps)
    ) {
      plans.forEach((p, i) => p.goal.set(before[i]!));
      break;
    }
    held = aside;
  }
  const swivel = tracks.map(() => new Float64Array(standing.frameCount));
  let last = Number.POSITIVE_INFINITY;
  let spread = held;
  for (let round = 0; round <= ROUNDS; round++) {
    const overlap = spreadKnees(plan, source, standing, tracks, spread.shins, swivel, fixed);
    if (overlap > GAIN * last) break;
    held = spread;
    last = overlap;
    if (overlap === 0 || round === ROUNDS) break;
    spread = { ...bendLegs(plan, standing, tracks, plans, held.drop, swivel), drop: held.drop };
    if (sharpest(spread.shins, fps) > HARM * sharpest(held.shins, fps)) break;
  }
  return held;
}

/** A knee that swings no more sharply than this is not seen to, metres a second squared. */
const STILL = 4;

/**
 * Largest second difference of a knee's place, metres a frame squared, but no less than what is seen; the first frame is often
 * a pose for calibration.
 */
function sharpest(shins: readonly Float64Array[], fps: number): number {
  let most = STILL / fps ** 2;
  for (const s of shins)
    for (let o = 12; o + 6 < s.length; o += 6)
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
