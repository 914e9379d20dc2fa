import { readNames } from '../bodymap/names';
import type { BodyMap, Slot } from '../bodymap/slots';
import { mulQuat, rotate3 } from '../math/quat';
import { dot3, normalize3 } from '../math/vec';
import { childrenOf, type SkeletonRig, tipOf, type WorldPose } from '../rig/rig';

/** A chain of joints that no slot knows: a tail, an ear, a skirt's edge. */
export interface ExtraChain {
  /** Slot of the mapped joint from which it hangs, numbers dropped: hips, spine, head, handL … */
  readonly anchor: string;
  readonly joints: readonly number[];
  /** Unit direction from its root to its end in the aligned pose, body axes. */
  readonly direction: readonly number[];
  readonly side: 'L' | 'R' | undefined;
}

/** Chains of at least two joints (or one with a tip) that hang from mapped joints and have no slot themselves. */
export function extraChains(rig: SkeletonRig, map: BodyMap, pose: WorldPose, aligned: Float64Array): ExtraChain[] {
  const slotOf = new Map<number, Slot>();
  for (const [slot, entry] of Object.entries(map.slots)) if (entry.joint >= 0) slotOf.set(entry.joint, slot);
  const children = childrenOf(rig);
  const names = readNames(rig.names);
  const out: ExtraChain[] = [];
  for (let j = 0; j < rig.names.length; j++) {
    const p = rig.parents[j]!;
    if (slotOf.has(j) || p < 0 || !slotOf.has(p) || names[j]!.twist || names[j]!.end) continue;
    const chain = [j];
    for (let at = j; ; ) {
      const next = children[at]!.filter((c) => !slotOf.has(c) && !names[c]!.end);
      if (next.length !== 1 || children[at]!.some((c) => slotOf.has(c))) break;
      at = next[0]!;
      chain.push(at);
    }
    const last = chain.at(-1)!;
    const tip = tipOf(rig, pose, last);
    if (chain.length < 2 && !tip) continue;
    const end = tip ?? [0, 1, 2].map((k) => pose.p[3 * last + k]!);
    const d = [0, 1, 2].map((k) => end[k]! - pose.p[3 * j + k]!);
    if (normalize3(d, 0) < 1e-6) continue;
    // as it would stand in the aligned pose: turned by what its anchor is turned
    const turn = [0, 0, 0, 1];
    mulQuat(
      turn,
      0,
      aligned,
      4 * p,
      [-pose.r[4 * p]!, -pose.r[4 * p + 1]!, -pose.r[4 * p + 2]!, pose.r[4 * p + 3]!],
      0,
    );
    rotate3(d, 0, turn, 0, d, 0);
    const slot = slotOf.get(p)!;
    out.push({ anchor: slot.replace(/^(spine|neck)\d+$/, '$1'), joints: chain, direction: d, side: names[j]!.side });
  }
  return out;
}

/** Pairs chains of two rigs that hang from the same part: the nearer in direction, the sooner; at most 70° apart. */
export function matchChains(
  source: readonly ExtraChain[],
  target: readonly ExtraChain[],
): { source: ExtraChain; target: ExtraChain }[] {
  const candidates = target
    .flatMap((t) => source.map((s) => ({ source: s, target: t, near: dot3(s.direction, 0, t.direction, 0) })))
    .filter(
      (c) =>
        c.near > 0.34 &&
        c.source.anchor === c.target.anchor &&
        !(c.source.side && c.target.side && c.source.side !== c.target.side),
    )
    .sort(
      (a, b) =>
        b.near - a.near || a.source.joints[0]! - b.source.joints[0]! || a.target.joints[0]! - b.target.joints[0]!,
    );
  const used = new Set<ExtraChain>();
  return candidates.filter((c) => {
    if (used.has(c.source) || used.has(c.target)) return false;
    used.add(c.source).add(c.target);
    return true;
  });
}
