import type { BodyMap } from '../bodymap/slots';
import type { CutoutRig, SkeletonRig, WorldPose } from '../rig/rig';
import type { SkinEdges } from '../rig/skin-edges';
import type { Radii } from './capsules';

/** A rig that is understood: the rig, its body map, and the pose that counts as its rest. */
export interface Party {
  readonly rig: SkeletonRig;
  readonly map: BodyMap;
  /** The cut-out that the rig is the plane of, joint by joint; undefined for a body in space. */
  readonly cutout?: CutoutRig | undefined;
  /** World pose to align from; the rig's rest pose where left out. */
  readonly pose?: WorldPose | undefined;
  /** Height of the ground in that pose, where known better than from the joints (from a mesh). */
  readonly floor?: number | undefined;
  /** Turns by hand: joint → turn (x y z w, world axes) put in front of its aligned turn, where the pose found is not the same. */
  readonly adjust?: ReadonlyMap<number, readonly number[]> | undefined;
  /** Left and right partners set by hand, left joint first; see findPairing. */
  readonly pairs?: readonly (readonly [number, number])[] | undefined;
  /** How thick limbs are, where a mesh tells; see radiiOf. */
  readonly radii?: Radii | undefined;
  /** Joints that skin hangs on, where a mesh tells. */
  readonly skinned?: readonly number[] | undefined;
  /** Edges of the skin that joints pull at, where a mesh tells; see skinStretch. */
  readonly edges?: SkinEdges | undefined;
}
