import type { HoldTracks } from '../analysis/holds';
import type { Plant } from '../analysis/plants';
import { jointOf, SIDES } from '../bodymap/slots';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import { moveJoint } from '../motion/move-joint';
import { weightOf } from './arms';
import { fillBetween, runningMean } from './envelope';
import type { KneeHeights } from './hold-knees';
import type { RetargetPlan } from './plan';

const KNEE_SETTLE_S = 0.35;

/** How high a knee that rests on the ground carries its joint at most where no skin tells, as a share of the leg. */
const THICK = 0.085;

/**
 * Height of each held knee's joint on the target in every frame, metres. A knee rests on its own skin, where that is known,
 * else as high as the source's, scaled; what the source's is higher than that (on a cushion, rolling) is kept, scaled.
 * @param floor height of the ground under the source, metres
 */
export function kneeHeights(
  plan: RetargetPlan,
  plants: readonly Plant[],
  tracks: HoldTracks,
  floor: number,
): KneeHeights {
  const out: KneeHeights = {};
  for (const side of SIDES) {
    const spans = plants.filter((p) => p.part === `knee${side}`);
    const track = tracks[`knee${side}`];
    if (spans.length === 0 || !track || jointOf(plan.target.map, `shin${side}`) < 0) continue;
    const own: number[] = [];
    for (const { start, end } of spans) for (let f = start; f <= end; f++) own.push(track[3 * f + 1]! - floor);
    own.sort((a, b) => a - b);
    const rests = own[own.length >> 1]!;
    const theirs = plan.source.radii?.[`knee${side}`] ?? Math.min(rests, THICK * plan.source.body.leg);
    const thick = plan.target.radii?.[`knee${side}`] ?? theirs * plan.scale;
    out[side] = Float64Array.from({ length: track.length / 3 }, (_, f) =>
      Math.max(0, thick + (track[3 * f + 1]! - floor - theirs) * plan.scale),
    );
  }
  return out;
}

/**
 * Brings knees that rest on the ground to their height on the target: legs of other proportions would hover or sink, so the
 * body is lowered or raised by what the lowest held knee asks for, smoothly, and back again outside.
 */
export function settleKnees(plan: RetargetPlan, moved: Motion, plants: readonly Plant[], heights: KneeHeights): Motion {
  const frames = moved.frameCount;
  const knees = SIDES.flatMap((side) => {
    const height = heights[side];
    const spans = plants.filter((p) => p.part === `knee${side}`);
    return height ? [{ joint: jointOf(plan.target.map, `shin${side}`), held: weightOf(spans, frames, 0), height }] : [];
  });
  if (knees.length === 0) return moved;
  const reader = new ChainReader(
    plan.target.rig,
    moved,
    knees.map((k) => k.joint),
  );
  const fade = Math.max(1, Math.round(KNEE_SETTLE_S * moved.fps));
  const ask = new Float64Array(frames).fill(Number.NaN);
  for (let f = 0; f < frames; f++) {
    const { p } = reader.at(f);
    for (const { joint, held, height } of knees) {
      if (held[f] !== 1) continue;
      const by = height[f]! - p[3 * joint + 1]!;
      // the knee that would sink deepest decides
      ask[f] = Number.isNaN(ask[f]!) ? by : Math.max(ask[f]!, by);
    }
  }
  fillBetween(ask, fade);
  const course = runningMean(runningMean(ask, fade >> 2), fade >> 2);
  return moveJoint(plan.target.rig, moved, plan.carrier, (f) => [0, course[f]!, 0]);
}
