import {
  type BodyMap,
  mirrorSlot,
  type Side,
  type Slot,
  type SlotEntry,
  sideOfSlot,
  slotLabel,
} from '../bodymap/slots';
import type { SkeletonRig } from '../rig/rig';
import { findPairing } from './pairing';

/**
 * Fills the slots of one side from the other: the partner of each joint by its name's side mark or by where it lies. Slots
 * that are sure or empty on purpose already stay.
 * @returns the map, the slots that were filled, and those for which no partner was found
 */
export function fillSide(
  rig: SkeletonRig,
  map: BodyMap,
  from: Side,
): { map: BodyMap; filled: Slot[]; missing: Slot[] } {
  const slots: Record<Slot, SlotEntry> = { ...map.slots };
  // what the other side holds must not decide who is whose partner
  const own = Object.fromEntries(
    Object.entries(map.slots).filter(([slot, e]) => sideOfSlot(slot) !== other(from) || e.state === 'sure'),
  );
  const { partner } = findPairing(rig, { ...map, slots: own });
  const filled: Slot[] = [];
  const missing: Slot[] = [];
  for (const [slot, e] of Object.entries(map.slots)) {
    if (sideOfSlot(slot) !== from) continue;
    const there = mirrorSlot(slot);
    const before = slots[there];
    if (before?.state === 'sure' || before?.state === 'empty') continue;
    if (e.state === 'empty') {
      slots[there] = { joint: -1, state: 'empty', why: `as ${slotLabel(slot)}` };
      filled.push(there);
      continue;
    }
    if (e.joint < 0) continue;
    const joint = partner[e.joint]!;
    if (joint < 0 || joint === e.joint) {
      missing.push(there);
      continue;
    }
    for (const [name, entry] of Object.entries(slots))
      if (entry.joint === joint && name !== there)
        slots[name] = { joint: -1, state: 'missing', why: `its joint now belongs to ${slotLabel(there)}` };
    slots[there] = { joint, state: e.state, why: `the partner of ${rig.names[e.joint]}` };
    filled.push(there);
  }
  return { map: { ...map, slots }, filled, missing };
}

const other = (side: Side): Side => (side === 'L' ? 'R' : 'L');
