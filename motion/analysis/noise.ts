import { angleBetweenQuats, slerp } from '../math/quat';
import type { Motion } from '../motion/motion';
import type { SkeletonRig } from '../rig/rig';

/**
 * Root mean square of what a motion holds above a frequency, in degrees: how noisy it is. Limited to the joints given. Below
 * five times that many frames a second noise cannot be told from movement: 0.
 */
export function noiseLevel(rig: SkeletonRig, motion: Motion, joints: readonly number[], aboveHz = 10): number {
  const n = rig.names.length;
  if (motion.fps < 5 * aboveHz || motion.frameCount < 12) return 0;
  // third differences: white noise of deviation s gives s · √20, smooth motion next to nothing
  let sum = 0;
  let count = 0;
  const q = [0, 0, 0, 1];
  for (const j of joints) {
    for (let f = 2; f + 2 < motion.frameCount; f += 3) {
      const o = (i: number): number => 4 * (i * n + j);
      slerp(q, 0, motion.turns, o(f - 1), motion.turns, o(f + 1), 0.5);
      const near = angleBetweenQuats(q, 0, motion.turns, o(f));
      slerp(q, 0, motion.turns, o(f - 2), motion.turns, o(f + 2), 0.5);
      const far = angleBetweenQuats(q, 0, motion.turns, o(f));
      // a smooth bend grows four times with twice the span; noise does not grow
      const noise = Math.max(0, near - far / 4);
      sum += noise * noise;
      count++;
    }
  }
  return count > 0 ? (Math.sqrt(sum / count) * 180) / Math.PI : 0;
}
