import { holdTracks } from '../analysis/holds';
import type { Plant } from '../analysis/plants';
import type { Motion } from '../motion/motion';
import { moveJoint } from '../motion/move-joint';
import { restPose } from '../rig/rig';
import { weightOf } from './arms';
import type { RetargetPlan } from './plan';

const SEAT_FADE_S = 0.25;

/**
 * Keeps a body that sits on its spot: the hips move over the ground so that the point on which they sit stays where it is
 * on the middle of the plant; the pelvis still rolls over it. Heights are left as they are.
 */
export function holdSeat(plan: RetargetPlan, moved: Motion, plants: readonly Plant[]): Motion {
  const spans = plants.filter((p) => p.part === 'seat');
  const { target } = plan;
  if (spans.length === 0) return moved;
  const { seat } = holdTracks(target, moved, target.body, target.pose ?? restPose(target.rig));
  if (!seat) return moved;
  const frames = moved.frameCount;
  const fade = Math.max(1, Math.round(SEAT_FADE_S * moved.fps));
  const by = new Float64Array(2 * frames);
  const sum = new Float64Array(frames);
  for (const span of spans) {
    const spot = span.pin ?? meanSpot(seat, span);
    const weight = weightOf([span], frames, fade);
    for (let f = Math.max(0, span.start - fade); f <= Math.min(frames - 1, span.end + fade); f++) {
      sum[f] = sum[f]! + weight[f]!;
      for (const k of [0, 1]) by[2 * f + k] = by[2 * f + k]! + weight[f]! * (spot[k]! - seat[3 * f + 2 * k]!);
    }
  }
  return moveJoint(target.rig, moved, plan.carrier, (f) => {
    if (sum[f] === 0) return undefined;
    // two plants that follow each other closely share the frames between them
    const share = 1 / Math.max(1, sum[f]!);
    return [share * by[2 * f]!, 0, share * by[2 * f + 1]!];
  });
}

function meanSpot(track: Float64Array, { start, end }: Plant): readonly [number, number] {
  const spot: [number, number] = [0, 0];
  for (let f = start; f <= end; f++)
    for (const k of [0, 1]) spot[k] = spot[k]! + track[3 * f + 2 * k]! / (end - start + 1);
  return spot;
}
