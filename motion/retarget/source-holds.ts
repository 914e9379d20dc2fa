import { findHolds, type HoldTracks, holdTracks } from '../analysis/holds';
import { isSole, type Plant } from '../analysis/plants';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import { restPose } from '../rig/rig';
import type { RetargetPlan } from './plan';

/**
 * Where the source rests hands and knees on the ground, or sits.
 * @param given plants to go by instead of those found
 */
export function sourceHolds(
  plan: RetargetPlan,
  source: Motion,
  feet: readonly Float64Array[],
  floor: number,
  given?: readonly Plant[],
): { plants: Plant[]; tracks: HoldTracks } {
  const { rig, body, map, pose } = plan.source;
  const own = given?.filter((p) => !isSole(p.part));
  if (own ? own.length === 0 : !goesLow(plan, source, floor)) return { plants: [], tracks: {} };
  const tracks = holdTracks({ rig, map, pose }, source, body, pose ?? restPose(rig));
  if (own) return { plants: own, tracks };
  return { plants: findHolds(tracks, feet, source.fps, body.leg, floor), tracks };
}

/** Share of the standing height to which hips come down before hands or knees get to the ground, or a seat is taken. */
const LOW_HIPS = 0.82;

/** Whether the hips ever come down: spares the look at hands and knees in nearly every walk and run. */
function goesLow(plan: RetargetPlan, source: Motion, floor: number): boolean {
  const { rig, body } = plan.source;
  const reader = new ChainReader(rig, source, body.hipJoints);
  const step = Math.max(1, Math.round(source.fps / 20));
  for (let f = 0; f < source.frameCount; f += step) {
    const { p } = reader.at(f);
    let y = 0;
    for (const a of body.hipJoints) y += p[3 * a + 1]! / body.hipJoints.length;
    if (y - floor < LOW_HIPS * body.hipHeight) return true;
  }
  return false;
}
