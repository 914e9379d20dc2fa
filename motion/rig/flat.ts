import type { CutoutRig, Rig, SkeletonRig } from './rig';
import { rigFromJson } from './rig-json';

/**
 * A cut-out as a skeleton in its plane, joint by joint, so that whatever reads skeletons (plants, strips, likeness, search)
 * reads a cut-out's motion as it is.
 */
export function flatSkeleton(rig: CutoutRig): SkeletonRig {
  const { names, parents, restT, restR, found } = rig;
  const tips = new Float32Array(3 * names.length).fill(Number.NaN);
  names.forEach((_, j) => {
    const end = endOf(rig, j);
    if (end && !parents.includes(j)) tips.set([end[0], end[1], 0], 3 * j);
  });
  return { kind: 'skeleton', names, parents, restT, restR, tips, found };
}

/** The far end of a joint's part in the joint's own frame, metres; undefined where no part tells. */
export function endOf(rig: CutoutRig, joint: number): readonly [number, number] | undefined {
  for (const part of rig.parts)
    if (part.joint === joint) {
      const end = part.attachments.find((a) => a.name === 'end');
      if (end) return end.at;
    }
  return undefined;
}

/** A rig as something that skeletons' readers take: a skeleton as it is, a cut-out in its plane. */
export const asSkeleton = (rig: Rig): SkeletonRig => (rig.kind === 'skeleton' ? rig : flatSkeleton(rig));

/** Reads rigToJson's form; see asSkeleton. @throws MotionError as rigFromJson does */
export const anySkeletonFromJson = (json: unknown): SkeletonRig => asSkeleton(rigFromJson(json));

/** Which way a figure is drawn: towards the eye, or in profile. */
export type Facing = 'front' | 'left' | 'right';

/** The way a figure is drawn, as its rig keeps it. */
export const facingOf = (rig: CutoutRig): Facing =>
  rig.found.facing === '+X' ? 'right' : rig.found.facing === '-X' ? 'left' : 'front';
