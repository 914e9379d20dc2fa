import { MotionError } from '../errors';
import type { SkeletonRig } from '../rig/rig';
import { type BodyMap, isSlot, type SlotEntry, type SlotState, unusedJoints } from './slots';

/** A body map as it is kept and exchanged: joints by name, so that it fits every rig with the same joints. */
export interface BodyMapJson {
  slots: Record<string, { joint: string | null; state: SlotState; why: string }>;
  unused: string[];
  warnings: string[];
}

/** A body map as plain JSON, joints by their names. */
export function bodyMapToJson(map: BodyMap, rig: SkeletonRig): BodyMapJson {
  const slots: BodyMapJson['slots'] = {};
  for (const [slot, e] of Object.entries(map.slots))
    slots[slot] = { joint: rig.names[e.joint] ?? null, state: e.state, why: e.why };
  return { slots, unused: unusedJoints(map, rig.names.length).map((j) => rig.names[j]!), warnings: [...map.warnings] };
}

/** Reads a map for a rig. Throws MotionError for unknown slots, joints the rig lacks, and joints named twice. */
export function bodyMapFromJson(json: unknown, rig: SkeletonRig): BodyMap {
  const source = (json as { slots?: unknown } | null)?.slots;
  if (typeof source !== 'object' || source === null)
    throw new MotionError('bad-structure', 'A body map needs an object "slots".');
  const slots: Record<string, SlotEntry> = {};
  const owner = new Map<number, string>();
  for (const [slot, value] of Object.entries(source)) {
    if (!isSlot(slot))
      throw new MotionError('bad-structure', `"${slot.slice(0, 40)}" is not a slot of the common body.`);
    const entry = (typeof value === 'string' || value === null ? { joint: value } : value) as {
      joint?: unknown;
      state?: unknown;
      why?: unknown;
    };
    const name = entry?.joint ?? null;
    if (name !== null && typeof name !== 'string')
      throw new MotionError('bad-structure', `The slot ${slot} needs a joint name or null.`);
    const joint = name === null ? -1 : rig.names.indexOf(name);
    if (name !== null && joint < 0)
      throw new MotionError(
        'unmappable',
        `The map gives ${slot} to "${name.slice(0, 60)}", which this rig does not have.`,
        { joint: name },
      );
    if (joint >= 0 && owner.has(joint))
      throw new MotionError('unmappable', `The map gives "${name}" to both ${owner.get(joint)} and ${slot}.`);
    if (joint >= 0) owner.set(joint, slot);
    const states: SlotState[] = ['sure', 'guessed', 'missing', 'empty'];
    const given = states.find((s) => s === entry.state);
    const state: SlotState =
      joint >= 0 ? (given === 'guessed' ? 'guessed' : 'sure') : given === 'missing' ? 'missing' : 'empty';
    slots[slot] = { joint, state, why: typeof entry.why === 'string' ? entry.why.slice(0, 300) : 'from a saved map' };
  }
  return { slots, warnings: [] };
}
