import { rotate3 } from '../math/quat';
import { type Motion, PoseReader } from '../motion/motion';
import { childrenOf, type Rig } from '../rig/rig';

/** How far beyond a leaf joint its error is still measured, metres. */
export const LEAF_REACH = 0.1;

/**
 * Largest distance between two motions of one rig over all frames, of any joint or any point 10 cm beyond a leaf along its
 * three axes. The codec's oracle. Lengths differing are a caller's mistake.
 */
export function largestError(rig: Rig, a: Motion, b: Motion): number {
  const ra = new PoseReader(rig, a);
  const rb = new PoseReader(rig, b);
  const leaves = childrenOf(rig).flatMap((c, j) => (c.length === 0 ? [j] : []));
  const ua = [0, 0, 0];
  const ub = [0, 0, 0];
  let worst = 0;
  for (let f = 0; f < a.frameCount; f++) {
    const pa = ra.at(f);
    const pb = rb.at(f);
    for (let o = 0; o < pa.p.length; o += 3) {
      const x = pa.p[o]! - pb.p[o]!;
      const y = pa.p[o + 1]! - pb.p[o + 1]!;
      const z = pa.p[o + 2]! - pb.p[o + 2]!;
      worst = Math.max(worst, x * x + y * y + z * z);
    }
    for (const j of leaves) {
      for (const axis of AXES) {
        rotate3(ua, 0, pa.r, 4 * j, axis, 0);
        rotate3(ub, 0, pb.r, 4 * j, axis, 0);
        let sum = 0;
        for (let k = 0; k < 3; k++) sum += (pa.p[3 * j + k]! + ua[k]! - pb.p[3 * j + k]! - ub[k]!) ** 2;
        worst = Math.max(worst, sum);
      }
    }
  }
  return Math.sqrt(worst);
}

const AXES = [
  [LEAF_REACH, 0, 0],
  [0, LEAF_REACH, 0],
  [0, 0, LEAF_REACH],
];
