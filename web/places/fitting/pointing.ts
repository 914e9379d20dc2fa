import type { RigAnswer } from '@/contract';
import { rigView } from '@/stage/rig-view';
import type { Pointed } from './braid';

/** The slot that a joint of either side serves. */
export function slotOf(
  joint: string | undefined,
  source: RigAnswer | undefined,
  target: RigAnswer | undefined,
): string | undefined {
  if (!joint) return undefined;
  for (const rig of [target, source])
    for (const [slot, e] of Object.entries(rig?.map.slots ?? {})) if (e.joint === joint) return slot;
  return undefined;
}

/** What lights up on either side for what is pointed at: a joint's partner by its slot, or the joint alone. */
export function litJoints(
  pointed: Pointed,
  source: RigAnswer,
  target: RigAnswer,
): { source: number | undefined; target: number | undefined } {
  const find = (rig: RigAnswer, name: string | null | undefined): number | undefined => {
    const at = name ? rigView(rig).rig.names.indexOf(name) : -1;
    return at >= 0 ? at : undefined;
  };
  if (pointed.slot)
    return {
      source: find(source, source.map.slots[pointed.slot]?.joint),
      target: find(target, target.map.slots[pointed.slot]?.joint),
    };
  return { source: find(source, pointed.joint), target: find(target, pointed.joint) };
}
