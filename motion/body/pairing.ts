import { sideStem } from '../bodymap/names';
import { type BodyMap, mirrorSlot, sideOfSlot, slotLabel } from '../bodymap/slots';
import { restPose, type SkeletonRig, type WorldPose } from '../rig/rig';

/** Two joints that are each other's partner, and what says so. */
export interface Pair {
  readonly left: number;
  readonly right: number;
  readonly by: 'hand' | 'slot' | 'name' | 'place';
}

/** The left/right partners of a rig. Every joint stands in exactly one of pairs, centre and unpaired. */
export interface Pairing {
  /** J: the partner of each joint, itself for a centre joint, −1 where there is none. */
  readonly partner: Int16Array;
  readonly pairs: readonly Pair[];
  readonly centre: readonly number[];
  readonly unpaired: readonly number[];
}

/** How far a reflected joint may lie from its partner, as a share of the body's size. */
const NEAR = 0.03;

/**
 * Finds the left/right partners of a rig: by the body map's slots, then by names that differ in their side mark alone, then
 * by reflected rest place below joints that are partners already. A joint with no side mark that reflects onto itself is in
 * the centre.
 * @param pose world pose in which left and right are alike; the rest pose unless told otherwise. Y up, facing +Z.
 * @param given pairs set by hand, left joint first; they come before everything that is found
 */
export function findPairing(
  rig: SkeletonRig,
  map: BodyMap,
  pose: WorldPose = restPose(rig),
  given: readonly (readonly [number, number])[] = [],
): Pairing {
  const n = rig.names.length;
  const partner = new Int16Array(n).fill(-2);
  const pairs: Pair[] = [];
  const join = (left: number, right: number, by: Pair['by']): void => {
    partner[left] = right;
    partner[right] = left;
    pairs.push({ left, right, by });
  };
  // (0) by hand
  for (const [left, right] of given)
    if (left !== right && partner[left] === -2 && partner[right] === -2) join(left, right, 'hand');
  // (1) slots
  const inSlot = new Set<number>();
  for (const [slot, entry] of Object.entries(map.slots)) {
    if (entry.joint < 0) continue;
    inSlot.add(entry.joint);
    const side = sideOfSlot(slot);
    if (!side) {
      if (partner[entry.joint] === -2) partner[entry.joint] = entry.joint;
      continue;
    }
    const other = map.slots[mirrorSlot(slot)]?.joint ?? -1;
    if (side === 'L' && other >= 0 && partner[entry.joint] === -2 && partner[other] === -2)
      join(entry.joint, other, 'slot');
  }
  // (2) names
  const stems = rig.names.map(sideStem);
  const waiting = new Map<string, number>();
  stems.forEach(({ side, stem }, j) => {
    if (!side || partner[j] !== -2) return;
    const key = `${side === 'L' ? 'R' : 'L'} ${stem}`;
    const other = waiting.get(key);
    if (other === undefined) waiting.set(`${side} ${stem}`, j);
    else {
      waiting.delete(key);
      join(side === 'L' ? j : other, side === 'L' ? other : j, 'name');
    }
  });
  // (3) places, parents first: below partners look for partners, below the centre for both
  const middle = middleOf(partner, pose);
  const size = sizeOf(pose);
  for (let j = 0; j < n; j++) {
    if (partner[j] !== -2 || inSlot.has(j)) continue;
    const p = rig.parents[j]!;
    const above = p < 0 ? -1 : partner[p]!;
    const x = 2 * middle - pose.p[3 * j]!;
    // how far it lies from its own mirror image: a joint just beside the middle may be a partner's rather than a centre one
    const own = Math.abs(x - pose.p[3 * j]!);
    let best = -1;
    let nearest = NEAR * size;
    for (let k = 0; k < n; k++) {
      if (k === j || partner[k] !== -2 || rig.parents[k] !== (p < 0 ? -1 : above)) continue;
      const d = Math.hypot(
        pose.p[3 * k]! - x,
        pose.p[3 * k + 1]! - pose.p[3 * j + 1]!,
        pose.p[3 * k + 2]! - pose.p[3 * j + 2]!,
      );
      if (d < nearest) {
        nearest = d;
        best = k;
      }
    }
    if (!stems[j]!.side && (p < 0 || above === p) && own < 2 * NEAR * size && (best < 0 || own <= nearest)) {
      partner[j] = j;
      continue;
    }
    if (best >= 0) {
      const left = pose.p[3 * j]! >= pose.p[3 * best]! ? j : best;
      join(left, left === j ? best : j, 'place');
    }
  }
  const unpaired: number[] = [];
  const centre: number[] = [];
  for (let j = 0; j < n; j++) {
    if (partner[j] === -2) {
      partner[j] = -1;
      unpaired.push(j);
    } else if (partner[j] === j) centre.push(j);
  }
  return { partner, pairs, centre, unpaired };
}

/** The body's middle: mean x of what is in the centre, else of everything. */
function middleOf(partner: Int16Array, pose: WorldPose): number {
  let sum = 0;
  let count = 0;
  for (let j = 0; j < partner.length; j++) {
    if (partner[j] !== j) continue;
    sum += pose.p[3 * j]!;
    count++;
  }
  if (count > 0) return sum / count;
  for (let j = 0; j < partner.length; j++) sum += pose.p[3 * j]! / partner.length;
  return sum;
}

function sizeOf(pose: WorldPose): number {
  let size = 0;
  for (let k = 0; k < 3; k++) {
    let low = Number.POSITIVE_INFINITY;
    let high = Number.NEGATIVE_INFINITY;
    for (let o = k; o < pose.p.length; o += 3) {
      low = Math.min(low, pose.p[o]!);
      high = Math.max(high, pose.p[o]!);
    }
    size = Math.max(size, high - low);
  }
  return size;
}

/** Pairing in words, for a person: counts, and every joint that has no partner. */
export function pairingSummary(rig: SkeletonRig, pairing: Pairing): { text: string; unpaired: string[] } {
  const unpaired = pairing.unpaired.map((j) => rig.names[j]!);
  const n = pairing.pairs.length;
  return {
    text: `${n} left, ${n} right, ${pairing.centre.length} in the centre${unpaired.length > 0 ? `, ${unpaired.length} without a partner` : ''}`,
    unpaired,
  };
}

/** Why a rig cannot be mirrored, in words; undefined where it can. */
export function mirrorTrouble(map: BodyMap, pairing: Pairing): string | undefined {
  if (pairing.pairs.length > 0) return undefined;
  const sided = Object.entries(map.slots).filter(([slot, e]) => sideOfSlot(slot) && e.joint >= 0);
  return sided.length > 0
    ? `Only one side of the body is mapped (${sided.map(([s]) => slotLabel(s)).join(', ')}): there is nothing to mirror it with.`
    : 'No joint has a partner on the other side: map at least one limb on both sides.';
}
