import { apart, handsOf, handsTogether } from '../analysis/hands-together';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import type { RetargetPlan } from './plan';

/** Two hands that hold one thing: how far their distance departs from the source's. */
export interface HandsMeasure {
  /** Frames in which the source's hands hold one thing. */
  readonly together: number;
  /** Largest difference of their distance to the source's, metres, and its frame. */
  readonly apart: number;
  readonly frame: number;
}

/** Measures the distance of hands that hold one thing on the result. */
export function measureHands(plan: RetargetPlan, source: Motion, result: Motion): HandsMeasure {
  const its = handsOf(plan.target);
  const none = { together: 0, apart: 0, frame: 0 };
  if (!its) return none;
  const together = handsTogether(plan.source, source, plan.source.body.arm || 1);
  if (together.count === 0) return none;
  const reader = new ChainReader(plan.target.rig, result, its);
  let most = 0;
  let frame = 0;
  for (let f = 0; f < Math.min(source.frameCount, result.frameCount); f++) {
    if (!together.marks[f]) continue;
    const off = Math.abs(apart(reader.at(f).p, its) - together.distance[f]!);
    if (off > most) {
      most = off;
      frame = f;
    }
  }
  return { together: together.count, apart: most, frame };
}
