import type { Slot } from '../bodymap/slots';
import type { Motion } from '../motion/motion';
import { PoseReader } from '../motion/motion';
import { moveJoint } from '../motion/move-joint';
import type { RetargetPlan } from './plan';

/** What of the source is not taken: parts keep their rest turn, and travel stays where it began along some world axes. */
export interface LeaveOut {
  readonly slots?: readonly Slot[];
  readonly travel?: readonly ('x' | 'y' | 'z')[];
}

/** Holds the hips along world axes where the first frame has them. Plants are held on the spots that follow from it. */
export function leaveTravel(plan: RetargetPlan, motion: Motion, axes: LeaveOut['travel'] = []): Motion {
  if (axes.length === 0) return motion;
  const { rig } = plan.target;
  const hips = plan.carrier;
  const reader = new PoseReader(rig, motion);
  const first = [...reader.at(0).p.subarray(3 * hips, 3 * hips + 3)];
  const at = new Float64Array(3 * motion.frameCount);
  for (let f = 0; f < motion.frameCount; f++) at.set(reader.at(f).p.subarray(3 * hips, 3 * hips + 3), 3 * f);
  return moveJoint(rig, motion, hips, (f) =>
    (['x', 'y', 'z'] as const).map((axis, k) => (axes.includes(axis) ? first[k]! - at[3 * f + k]! : 0)),
  );
}
