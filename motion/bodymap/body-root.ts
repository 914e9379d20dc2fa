import type { SkeletonRig } from '../rig/rig';
import { type BodyMap, jointOf, SIDES } from './slots';

/** Nearest joint that carries all of these, itself among them; −1 where none does. */
export function commonAncestor(parents: Int16Array, joints: readonly number[]): number {
  const above = (joint: number): number[] => {
    const path: number[] = [];
    for (let j = joint; j >= 0; j = parents[j]!) path.push(j);
    return path;
  };
  if (joints.length === 0) return -1;
  let shared = above(joints[0]!);
  for (const j of joints.slice(1)) {
    const own = new Set(above(j));
    shared = shared.filter((x) => own.has(x));
  }
  return shared[0] ?? -1;
}

/**
 * Joint whose turn is the pelvis's: the one from which both legs hang, where the mapped hips carry it; else the hips. In files
 * whose legs and spine hang side by side from a root, the root may stand still while the pelvis turns. −1 without either.
 */
export function pelvisOf(rig: SkeletonRig, map: BodyMap): number {
  const hips = jointOf(map, 'hips');
  const thighs = SIDES.map((s) => jointOf(map, `thigh${s}`));
  if (hips < 0 || thighs.some((j) => j < 0)) return hips;
  const pelvis = commonAncestor(rig.parents, thighs);
  return pelvis >= 0 && commonAncestor(rig.parents, [pelvis, hips]) === hips ? pelvis : hips;
}

/**
 * Joint that takes the travel: the lowest one that carries every mapped part and all of the skin, so that nothing is left
 * behind. Where there is none, the first joint above the hips that has no parent.
 * @param skinned joints that skin hangs on, where known
 */
export function carrierOf(rig: SkeletonRig, map: BodyMap, skinned: readonly number[] = []): number {
  const mapped = Object.values(map.slots)
    .map((e) => e.joint)
    .filter((j) => j >= 0);
  const all = commonAncestor(rig.parents, [...new Set([...mapped, ...skinned])]);
  if (all >= 0) return all;
  // parts of several trees: the tree of the hips, or of most of the body
  const start = jointOf(map, 'hips') >= 0 ? jointOf(map, 'hips') : (mapped[0] ?? 0);
  const top = (joint: number): number => {
    let j = joint;
    while (rig.parents[j]! >= 0) j = rig.parents[j]!;
    return j;
  };
  const root = top(start);
  const own = [...mapped, ...skinned].filter((j) => top(j) === root);
  return own.length > 0 ? commonAncestor(rig.parents, own) : root;
}
