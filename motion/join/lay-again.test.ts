import type { Party } from '../body/party';
import { guessBodyMap } from '../bodymap/guess';
import { type Motion, worldPositions } from '../motion/motion';
import { trim } from '../motion/timing';
import { buildRig, party, wander } from '../test/bodies';
import { type Case, legsAndSpineAreSiblings, underRoot, walking, zUpArmature } from '../test/variants';
import { JOIN_DEFAULTS } from './laid';
import { layLane } from './lane';
import { layAgain } from './lay-again';

/** Every repeat passed into the next on its own. */
function oneByOne(who: Party, motion: Motion, times: number): Motion {
  const lap = motion.frameCount - 1;
  const join = { ...JOIN_DEFAULTS, kind: 'decay', frames: Math.min(lap >> 1, Math.round(0.4 * motion.fps)) } as const;
  const laid = Array.from({ length: times }, (_, i) => ({ motion, at: i * lap, join }));
  return layLane(who, laid, lap * times + 1).motion;
}

/** How far any joint is from where it is in the other motion, metres. */
function apart({ rig }: Party, a: Motion, b: Motion): number {
  const [p, q] = [worldPositions(rig, a), worldPositions(rig, b)];
  expect(p).toHaveLength(q.length);
  return p.reduce((most, x, i) => Math.max(most, Math.abs(x - q[i]!)), 0);
}

const self = (c: Case): Case => c;
test.each([
  ['hips as the root', self],
  ['a root above the hips', underRoot],
  ['an armature with Z up', zUpArmature],
  ['legs and spine side by side', legsAndSpineAreSiblings],
])('%s: a walk that breaks off in mid-step is as if every repeat were passed into the next on its own', (_, build) => {
  const { rig, motion } = build(walking());
  const who = { rig, map: guessBodyMap(rig) };
  const stretch = trim(rig, motion, 7, 100);
  for (const times of [2, 3, 6]) {
    const laid = layAgain(who, stretch, times);
    expect(laid.frameCount).toBe(93 * times + 1);
    expect(apart(who, laid, oneByOne(who, stretch, times))).toBeLessThan(1e-4);
  }
});

test('where a foot stands through whole repeats, each is passed into the next on its own', () => {
  const who = party(buildRig());
  const motion = wander(who.rig, 40, 3, 30, 0.05);
  expect(apart(who, layAgain(who, motion, 5), oneByOne(who, motion, 5))).toBeLessThan(1e-4);
});
