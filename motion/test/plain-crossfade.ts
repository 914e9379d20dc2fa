import type { Party } from '../body/party';
import type { Laid } from '../join/laid';
import { type Lane, layLane } from '../join/lane';

/** What a join is compared with: the same alignment and crossfade, with nothing done for the feet. */
export function mixOnly(party: Party, laid: readonly Laid[], frames: number): Lane {
  const { map } = party;
  const slots = { ...map.slots };
  const full = layLane(party, laid, frames);
  // without feet on its body map a body has none to hold
  for (const slot of ['footL', 'footR'] as const) delete slots[slot];
  const plain = layLane({ ...party, map: { ...map, slots } }, laid, frames);
  return { ...plain, held: full.held };
}
