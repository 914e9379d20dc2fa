import type { HoldTracks } from '../analysis/holds';
import type { Plant } from '../analysis/plants';
import { jointOf, SIDES } from '../bodymap/slots';
import { rotate3 } from '../math/quat';
import { ChainReader } from '../motion/chain-reader';
import { type Motion, PoseReader } from '../motion/motion';
import { weightOf } from './arms';
import { fillBetween, runningMean } from './envelope';
import type { Plan } from './plan';
import { rootJoint } from './transfer';

const FADE_S = 0.35;

/**
 * Brings knees that rest on the ground to their height on the target: legs of other proportions would hover or sink, so the
 * body is lowered or raised by what the lowest held knee asks for, smoothly, and back again outside.
 * @param floor height of the ground under the source, metres
 */
export function settleKnees(
  plan: Plan,
  moved: Motion,
  plants: readonly Plant[],
  tracks: HoldTracks,
  floor: number,
): Motion {
  const frames = moved.frameCount;
  const knees = SIDES.flatMap((side) => {
    const spans = plants.filter((p) => p.part === `knee${side}`);
    const joint = jointOf(plan.target.map, `shin${side}`);
    return spans.length > 0 && joint >= 0 ? [{ side, joint, spans, track: tracks[`knee${side}`]! }] : [];
  });
  if (knees.length === 0) return moved;
  const reader = new ChainReader(
    plan.target.rig,
    moved,
    knees.map((k) => k.joint),
  );
  const fade = Math.max(1, Math.round(FADE_S * moved.fps));
  const ask = new Float64Array(frames).fill(Number.NaN);
  const held = knees.map((k) => weightOf(k.spans, frames, 0));
  for (let f = 0; f < frames; f++) {
    const { p } = reader.at(f);
    knees.forEach(({ joint, track }, i) => {
      if (held[i]![f] !== 1) return;
      const want = Math.max(0, track[3 * f + 1]! - floor) * plan.scale;
      const by = want - p[3 * joint + 1]!;
      // the knee that would sink deepest decides
      ask[f] = Number.isNaN(ask[f]!) ? by : Math.max(ask[f]!, by);
    });
  }
  fillBetween(ask, fade);
  const course = runningMean(runningMean(ask, fade >> 2), fade >> 2);
  return raise(plan, moved, course);
}

function raise(plan: Plan, moved: Motion, by: Float64Array): Motion {
  const hips = rootJoint(plan);
  const above = plan.target.rig.parents[hips]!;
  const reader = above >= 0 ? new PoseReader(plan.target.rig, moved) : undefined;
  const v = [0, 0, 0];
  return {
    ...moved,
    translations: moved.translations.map((t) => {
      if (t.joint !== hips) return t;
      const values = t.values.slice();
      for (let f = 0; f < moved.frameCount; f++) {
        v[0] = 0;
        v[1] = by[f]!;
        v[2] = 0;
        if (reader) {
          const { r } = reader.at(f);
          rotate3(v, 0, [-r[4 * above]!, -r[4 * above + 1]!, -r[4 * above + 2]!, r[4 * above + 3]!], 0, v, 0);
        }
        for (let k = 0; k < 3; k++) values[3 * f + k] = values[3 * f + k]! + v[k]!;
      }
      return { joint: hips, values };
    }),
  };
}
