import {
  checkJoin,
  guessBodyMap,
  JOIN_DEFAULTS,
  layLane,
  type Motion,
  type Party,
  reportOf,
  resample,
  retarget,
  trim,
  worldPositions,
} from '../motion/index';
import { closeLoop } from '../motion/join/loop-close';
import { findLoops } from '../motion/join/loop-find';
import { seamOf } from '../motion/join/seam';
import { normalizeQuat } from '../motion/math/quat';
import { tune } from '../motion/tune/tune';
import { normal, seeded } from './random';
import { performAll } from './world';

const CYCLES = [
  'About turn',
  'Crate lift and carry',
  'Deck walk',
  'Mopping the deck',
  'Quay run',
  'Tarred rope haul',
  'Walk turning left',
];
const { actor, performances } = performAll((s) => CYCLES.includes(s.name));
const self: Party = { rig: actor.rig, map: guessBodyMap(actor.rig) };
const cycle = (name: string): Motion => performances.find((p) => p.score.name === name)!.motion;

/** The same with noise of so many radians on every turn. */
function noisy(motion: Motion, size: number, seed: number): Motion {
  const random = seeded(seed);
  const turns = motion.turns.map((x) => x + size * normal(random));
  for (let o = 0; o < turns.length; o += 4) normalizeQuat(turns, o);
  return { ...motion, turns };
}

describe('loops in generated cycles with noise', () => {
  test.each([
    ['Deck walk', 32],
    ['Tarred rope haul', 48],
    ['Mopping the deck', 54],
  ])('%s: period within a frame, seam closed', (name, period) => {
    const take = noisy(cycle(name), 0.001, 5);
    const [best] = findLoops(self, take);
    expect(Math.abs(best!.end - best!.start - period)).toBeLessThanOrEqual(1);
    expect(best!.repeats).toBe(true);
    const cut = tune(self, take, [{ op: 'trim', start: best!.start, end: best!.end }]);
    const closed = closeLoop(self, cut);
    const seam = seamOf(self, closed);
    expect([seam.angleDeg < 0.1, seam.distancePercentLeg < 0.1, seam.speedStep < 0.05]).toEqual([true, true, true]);
  });

  test('a gait loops over as many left as right steps', () => {
    const [best] = findLoops(self, cycle('Deck walk'));
    expect(best!.steps).toBe(2);
  });

  test('what is seamless already is left untouched', () => {
    const mop = cycle('Mopping the deck');
    expect(closeLoop(self, mop)).toBe(mop);
  });

  test('a take that never repeats names no period', () => {
    expect(findLoops(self, cycle('Crate lift and carry')).some((l) => l.repeats && l.end - l.start > 150)).toBe(false);
  });

  test('closing holds plants across the seam', () => {
    const run = tune(self, cycle('Quay run'), [{ op: 'trim', start: 60, end: 60 + 83 }]);
    const closed = closeLoop(self, run);
    const seam = seamOf(self, closed);
    expect([seam.angleDeg < 0.1, seam.distancePercentLeg < 0.1]).toEqual([true, true]);
    const slip = (m: Motion): number =>
      reportOf(retarget(self, m, self, { plants: false })).slip.meanPercentLegPerPlantSecond;
    expect(slip(closed)).toBeLessThan(0.4 * slip(run));
  });
});

test.each([
  // neither what is before it nor what is behind it goes round: it starts, and it stops
  ['Walk turning left', 55, 45],
  // the heel stands while the ball swings round
  ['About turn', 45, 21],
])('a bridge through %s: nothing slides, and no foot goes under the ground', (name, last, gap) => {
  const whole = resample(actor.rig, cycle(name), 30);
  const join = { ...JOIN_DEFAULTS, kind: 'bridge', meet: 'world' } as const;
  const lane = layLane(
    self,
    [
      { motion: trim(actor.rig, whole, 0, last), at: 0, join },
      { motion: trim(actor.rig, whole, last + gap + 1, whole.frameCount - 1), at: last + gap + 1, join },
    ],
    whole.frameCount,
  );
  const check = checkJoin(self, lane, lane.joins[0]!);
  expect(check.slipPercentLeg).toBeLessThan(0.2);
  expect(check.floorCm).toBeLessThan(0.1);
  const [made, true_] = [worldPositions(actor.rig, lane.motion), worldPositions(actor.rig, whole)];
  let off = 0;
  const [from, to] = [last + 1, last + gap + 1].map((f) => 3 * actor.rig.names.length * f);
  for (let i = from!; i < to!; i += 3)
    off += Math.hypot(...[0, 1, 2].map((k) => made[i + k]! - true_[i + k]!)) / ((to! - from!) / 3);
  expect(off).toBeLessThan(0.1);
});
