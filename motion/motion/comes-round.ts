import { angleBetweenQuats } from '../math/quat';
import type { SkeletonRig } from '../rig/rig';
import type { Motion } from './motion';

/** Poses this near are one pose, radians. */
const LOOP_ANGLE = 0.07;

/** Whether the last pose is the first one again, roots aside (they may travel and turn). */
export function comesRound(rig: SkeletonRig, motion: Motion): boolean {
  const n = rig.names.length;
  if (motion.frameCount < 8) return false;
  const end = 4 * n * (motion.frameCount - 1);
  for (let j = 0; j < n; j++) {
    if (rig.parents[j]! < 0) continue;
    if (angleBetweenQuats(motion.turns, 4 * j, motion.turns, end + 4 * j) > LOOP_ANGLE) return false;
  }
  return true;
}
