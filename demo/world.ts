import type { Motion } from '../motion/index';
import { Actor, type Score } from './actor';
import { buildBody } from './body-spec';
import { CAST } from './cast';
import { braceOnSwell, crateLift, mop, ropeHaul, waveToShore } from './motions/deckwork';
import { deckWalk, gangwayWalk, quayRun } from './motions/locomotion';
import * as passages from './motions/passages';
import * as stations from './motions/stations';
import { watch } from './motions/watch';

/** A haul taken on a bad day: markers jitter. */
const noisyHaul: Score = {
  ...ropeHaul,
  name: 'Rope haul, noisy capture',
  kind: 'take',
  fps: 120,
  seconds: 4.8,
  noise: 9,
  note: 'The same haul with a badly lit stage: jitter in every joint.',
  tags: ['rope', 'noisy'],
};
/** A walk whose capture lost an arm and a shin for a while. */
const gappyWalk: Score = {
  ...passages.turnLeft,
  name: 'Walk turning left, with gaps',
  note: 'The capture lost the right forearm and the left shin for a moment.',
  tags: ['walk', 'turn', 'gaps'],
  gaps: [
    ['forearmR', 1.6, 2.0],
    ['shinL', 3.1, 3.35],
    ['handR', 1.6, 2.1],
  ],
};

export const SCORES: readonly Score[] = [
  deckWalk,
  gangwayWalk,
  quayRun,
  ropeHaul,
  crateLift,
  mop,
  waveToShore,
  braceOnSwell,
  passages.turnLeft,
  passages.turnRight,
  passages.aboutTurn,
  passages.backOff,
  passages.sideStep,
  passages.stairsUp,
  passages.stairsDown,
  passages.swellWalk,
  passages.limp,
  passages.jumpLanding,
  passages.hopUp,
  passages.crawl,
  stations.waiting,
  stations.lantern,
  stations.fogBell,
  stations.cleat,
  stations.sitDown,
  stations.standUp,
  stations.scrub,
  stations.castLine,
  stations.pointOut,
  stations.countCrates,
  stations.stirPot,
  stations.tellTale,
  noisyHaul,
  gappyWalk,
  watch,
];

export interface Performance {
  score: Score;
  motion: Motion;
}

/** Every demo motion, played by the standard performer. */
export function performAll(wanted: (score: Score) => boolean = () => true): {
  actor: Actor;
  performances: Performance[];
} {
  const { rig, map } = buildBody(CAST[0]!.spec, CAST[0]!.seed);
  const actor = new Actor(rig, map);
  const performances = SCORES.flatMap((score, i) =>
    wanted(score) ? [{ score, motion: actor.play(score, 1000 + i) }] : [],
  );
  return { actor, performances };
}
