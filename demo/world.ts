import type { Motion } from '../motion/index';
import { Actor, type Score } from './actor';
import { buildBody } from './body-spec';
import { CAST } from './cast';
import { braceOnSwell, crateLift, mop, ropeHaul, waveToShore } from './motions/deckwork';
import { deckWalk, gangwayWalk, quayRun } from './motions/locomotion';

export const SCORES: readonly Score[] = [
  deckWalk,
  gangwayWalk,
  quayRun,
  ropeHaul,
  crateLift,
  mop,
  waveToShore,
  braceOnSwell,
];

export interface Performance {
  score: Score;
  motion: Motion;
}

/** Every demo motion, played by the standard performer. */
export function performAll(): { actor: Actor; performances: Performance[] } {
  const { rig, map } = buildBody(CAST[0]!.spec, CAST[0]!.seed);
  const actor = new Actor(rig, map);
  return { actor, performances: SCORES.map((score, i) => ({ score, motion: actor.play(score, 1000 + i) })) };
}
