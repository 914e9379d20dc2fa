import { restPose, type SkeletonRig, type WorldPose } from '../rig/rig';
import { type BodyMap, chainOf, jointOf, LIMB_PARTS, SIDES, type Slot, slotLabel } from './slots';

/** A slot whose joint cannot be right, whoever put it there. */
export interface MapFault {
  readonly slot: Slot;
  readonly joint: string;
  readonly text: string;
}

const ARM = LIMB_PARTS.slice(0, 4);
const LEG = LIMB_PARTS.slice(4);

/**
 * Looks for joints in slots where they cannot belong: hips that do not carry the back, a part of a limb that does not hang
 * from the part before it, and one that lies on the other side of the body.
 */
export function mapFaults(rig: SkeletonRig, map: BodyMap, pose: WorldPose = restPose(rig)): MapFault[] {
  const out: MapFault[] = [];
  const hips = jointOf(map, 'hips');
  const middle = hips >= 0 ? pose.p[3 * hips]! : 0;
  const back = chainOf(map, 'spine')[0] ?? -1;
  if (hips >= 0 && back >= 0 && !hangsFrom(rig, back, hips))
    out.push({
      slot: 'hips',
      joint: rig.names[hips]!,
      text: `hips is ${rig.names[hips]}, which does not carry ${rig.names[back]} of the back`,
    });
  for (const side of SIDES) {
    for (const parts of [ARM, LEG]) {
      let above: Slot | undefined;
      for (const part of parts) {
        const slot = part + side;
        const joint = jointOf(map, slot);
        if (joint < 0) continue;
        const name = rig.names[joint]!;
        const beside = (pose.p[3 * joint]! - middle) * (side === 'L' ? 1 : -1);
        if (above !== undefined && !hangsFrom(rig, joint, jointOf(map, above)))
          out.push({
            slot,
            joint: name,
            text: `${slotLabel(slot)} is ${name}, which does not hang from the ${slotLabel(above)}`,
          });
        else if (beside < -0.02 * span(pose))
          out.push({ slot, joint: name, text: `${slotLabel(slot)} is ${name}, which lies on the other side` });
        above = slot;
      }
    }
  }
  return out;
}

function hangsFrom(rig: SkeletonRig, joint: number, ancestor: number): boolean {
  for (let p = rig.parents[joint]!; p >= 0; p = rig.parents[p]!) if (p === ancestor) return true;
  return false;
}

function span(pose: WorldPose): number {
  let low = Number.POSITIVE_INFINITY;
  let high = Number.NEGATIVE_INFINITY;
  for (let o = 1; o < pose.p.length; o += 3) {
    low = Math.min(low, pose.p[o]!);
    high = Math.max(high, pose.p[o]!);
  }
  return high - low;
}
