import {
  type CutoutKeys,
  closeLoop,
  inPlace,
  keepKeys,
  keepRegions,
  type Motion,
  type Party,
  tune,
} from '@velvet-reel/motion';
import { type ChangeWish, changeSteps, keysSurvive } from './wishes';

/** Carries a change out on a motion's own rig. Pure; used for the preview in the browser and for the result on the server. */
export function applyChange(party: Party, motion: Motion, wish: ChangeWish): Motion {
  const tuned = tune(party, motion, changeSteps(wish));
  const looped = wish.loop ? closeLoop(party, tuned) : tuned;
  const placed = wish.inPlace ? inPlace(party, looped) : looped;
  const { cutout } = party;
  return keepRegions(party.rig, party.map, placed, wish.regions, wish.joints, { cutout, what: wish.what });
}

/** What becomes of keyed animation: keys, where the change only takes a part of it; else undefined, and it goes on as samples. */
export const changeKeys = ({ cutout, map }: Party, keys: CutoutKeys, wish: ChangeWish): CutoutKeys | undefined =>
  cutout && keysSurvive(wish) ? keepKeys(cutout, map, keys, { ...wish, span: wish.trim }) : undefined;
