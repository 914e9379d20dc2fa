import { angleBetweenQuats } from '../math/quat';
import type { Motion } from '../motion/motion';
import type { SkeletonRig } from '../rig/rig';
import { type BodyMap, jointOf } from './slots';

/** Turn by which a joint has to leave its rest to count, radians (half a degree). */
const LEAVES_RAD = 0.009;

/** Joints of which a motion or pose holds something: that leave their rest turn in some frame, or move by tracks of their own. */
export function heldJoints(rig: SkeletonRig, motion: Motion): number[] {
  const n = rig.names.length;
  const moved = new Set(motion.places.map((t) => t.joint));
  const held: number[] = [];
  for (let j = 0; j < n; j++) {
    let holds = moved.has(j);
    for (let f = 0; f < motion.frameCount && !holds; f++)
      holds = angleBetweenQuats(rig.restR, 4 * j, motion.turns, 4 * (f * n + j)) > LEAVES_RAD;
    if (holds) held.push(j);
  }
  return held;
}

/** One side of a carry: joints and the parts they play. */
interface Mapped {
  readonly rig: SkeletonRig;
  readonly map: BodyMap;
}

/**
 * Joints of one rig on another: those that play the same part of the body, else those of the same name.
 * @returns joints of the other rig, each once, in its order; names of those that have no like there
 */
export function carryJoints(
  from: Mapped,
  joints: readonly number[],
  to: Mapped,
): { joints: number[]; missing: string[] } {
  const slotOf = new Map(
    Object.keys(from.map.slots).flatMap((slot): [number, string][] => {
      const j = jointOf(from.map, slot);
      return j >= 0 ? [[j, slot]] : [];
    }),
  );
  const found = new Set<number>();
  const missing: string[] = [];
  for (const j of joints) {
    const slot = slotOf.get(j);
    const like = slot === undefined ? -1 : jointOf(to.map, slot);
    const there = like >= 0 ? like : to.rig.names.indexOf(from.rig.names[j]!);
    if (there >= 0) found.add(there);
    else missing.push(from.rig.names[j]!);
  }
  return { joints: [...found].sort((a, b) => a - b), missing };
}
