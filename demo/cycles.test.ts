import { guessBodyMap, type Motion, type Party, reportOf, retarget } from '../motion/index';
import { closeLoop } from '../motion/join/loop-close';
import { findLoops } from '../motion/join/loop-find';
import { seamOf } from '../motion/join/seam';
import { normalizeQuat } from '../motion/math/quat';
import { tune } from '../motion/tune/tune';
import { normal, seeded } from './random';
import { performAll } from './world';

const CYCLES = ['Crate lift and carry', 'Deck walk', 'Mopping the deck', 'Quay run', 'Tarred rope haul'];
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
