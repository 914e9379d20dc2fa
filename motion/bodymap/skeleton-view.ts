import { distance3 } from '../math/vec';
import { childrenOf, restPose, type SkeletonRig, tipOf, type WorldPose } from '../rig/rig';
import { type NameReading, readNames } from './names';

/** What the body map looks at: tree, names, and one pose that looks like a standing body. */
export interface SkeletonView {
  readonly rig: SkeletonRig;
  readonly pose: WorldPose;
  readonly children: readonly (readonly number[])[];
  readonly names: readonly NameReading[];
  /** Length of the longest chain of bones that hangs from each joint, its tip included. */
  readonly reach: Float64Array;
  readonly size: number;
}

/** What guesses look at: children, depths and lengths of a rig in a pose (its rest where left out). */
export function viewSkeleton(rig: SkeletonRig, pose: WorldPose = restPose(rig)): SkeletonView {
  const n = rig.names.length;
  const reach = new Float64Array(n);
  let size = 0;
  for (let j = n - 1; j >= 0; j--) {
    const tip = tipOf(rig, pose, j);
    if (tip && reach[j] === 0) reach[j] = distance3(tip, 0, pose.p, 3 * j);
    const p = rig.parents[j]!;
    if (p >= 0) reach[p] = Math.max(reach[p]!, reach[j]! + distance3(pose.p, 3 * j, pose.p, 3 * p));
    size = Math.max(size, reach[j]!);
  }
  return { rig, pose, children: childrenOf(rig), names: withoutCarriers(rig, readNames(rig.names)), reach, size };
}

/**
 * A branch is foreign as a whole: a joint called a helper that carries other joints, or one with any other foreign name that
 * carries named parts of a body, belongs to the body.
 */
function withoutCarriers(rig: SkeletonRig, names: readonly NameReading[]): NameReading[] {
  const n = names.length;
  const named = new Uint8Array(n);
  const carries = new Uint8Array(n);
  for (let j = n - 1; j >= 0; j--) {
    const { foreign, parts, end } = names[j]!;
    const above = rig.parents[j]!;
    if (above < 0) continue;
    if (named[j] || (!foreign && [...parts.values()].some((w) => w >= 0.9))) named[above] = 1;
    if (carries[j] || (!foreign && !end)) carries[above] = 1;
  }
  return names.map((r, j) =>
    r.foreign && (named[j] || (r.helper && carries[j])) ? { ...r, foreign: false, parts: new Map() } : r,
  );
}

/** Distance of two joints in the pose, metres. */
export const boneLength = (view: SkeletonView, a: number, b: number): number =>
  distance3(view.pose.p, 3 * a, view.pose.p, 3 * b);

/** Whether a joint hangs from another, or is it. */
export function isBelow(view: SkeletonView, joint: number, ancestor: number): boolean {
  for (let j = joint; j >= 0; j = view.rig.parents[j]!) if (j === ancestor) return true;
  return false;
}

/** Joints from `from` (excluded) down to `to` (included); empty where `to` is not below. */
export function pathDown(view: SkeletonView, from: number, to: number): number[] {
  const path: number[] = [];
  for (let j = to; j !== from; j = view.rig.parents[j]!) {
    if (j < 0) return [];
    path.unshift(j);
  }
  return path;
}

/** The chain from a joint downwards along the longest branch, twist joints and things that are no body left aside. */
export function longestChain(view: SkeletonView, start: number): number[] {
  const chain = [start];
  for (let j = start; ; ) {
    const next = view.children[j]!.filter(
      (c) => !(view.names[c]!.twist && view.children[c]!.length === 0) && !view.names[c]!.foreign,
    )
      .map((c) => ({ c, length: view.reach[c]! + boneLength(view, j, c) }))
      .sort((a, b) => b.length - a.length || a.c - b.c)[0];
    if (!next) return chain;
    j = next.c;
    chain.push(j);
  }
}
