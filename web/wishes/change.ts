import { closeLoop, inPlace, keepRegions, type Motion, type Party, tune } from '@velvet-reel/motion';
import { type ChangeWish, changeSteps } from './wishes';

/** Carries a change out on a motion's own rig. Pure; used for the preview in the browser and for the result on the server. */
export function applyChange(party: Party, motion: Motion, wish: ChangeWish): Motion {
  const tuned = tune(party, motion, changeSteps(wish));
  const looped = wish.loop ? closeLoop(party, tuned) : tuned;
  const placed = wish.inPlace ? inPlace(party, looped) : looped;
  return keepRegions(party.rig, party.map, placed, wish.regions, wish.joints);
}
