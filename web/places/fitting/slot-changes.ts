import type { RigAnswer } from '@/client/types';

export type Slots = RigAnswer['map']['slots'];
export type SlotChange = (slots: Slots) => Slots;

/** Puts the slots that a change touched back to what they were; others keep what has become of them. */
export function takesBack(before: Slots, after: Slots): SlotChange {
  const touched = [...new Set([...Object.keys(before), ...Object.keys(after)])].filter(
    (name) => JSON.stringify(before[name]) !== JSON.stringify(after[name]),
  );
  return (slots) => {
    for (const name of touched) {
      const was = before[name];
      if (was) slots[name] = was;
      else delete slots[name];
    }
    return slots;
  };
}
