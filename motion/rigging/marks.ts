import { MotionError } from '../errors';

/** The joints that are asked for; all others follow from these and from the shape. */
export const MARK_SLOTS = [
  'hips',
  'head',
  'forearmL',
  'forearmR',
  'handL',
  'handR',
  'shinL',
  'shinR',
  'footL',
  'footR',
] as const;
export type MarkSlot = (typeof MARK_SLOTS)[number];

/** By slot: where its joint lies. */
export type Marks = Readonly<Partial<Record<MarkSlot, readonly [x: number, y: number, z: number]>>>;

/** @throws MotionError 'bad-structure' for slots that are no marks, and places that are not three numbers */
export function marksFromJson(json: unknown): Marks {
  if (typeof json !== 'object' || json === null || Array.isArray(json))
    throw new MotionError('bad-structure', 'Marks are an object: slot to [x, y, z].');
  const marks: Partial<Record<MarkSlot, [number, number, number]>> = {};
  for (const [slot, at] of Object.entries(json)) {
    if (!(MARK_SLOTS as readonly string[]).includes(slot))
      throw new MotionError('bad-structure', `"${slot.slice(0, 40)}" is no mark; marks are ${MARK_SLOTS.join(', ')}.`);
    if (!Array.isArray(at) || at.length !== 3 || !at.every((x) => typeof x === 'number' && Number.isFinite(x)))
      throw new MotionError('bad-structure', `The mark ${slot} needs three numbers.`);
    marks[slot as MarkSlot] = [at[0], at[1], at[2]];
  }
  return marks;
}

/** The mark on the other side, or the same for the middle ones. */
export const mirroredSlot = (slot: MarkSlot): MarkSlot =>
  (slot.endsWith('L') ? `${slot.slice(0, -1)}R` : slot.endsWith('R') ? `${slot.slice(0, -1)}L` : slot) as MarkSlot;
