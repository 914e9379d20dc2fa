import { mirror } from '../mirror/mirror';
import { buildRig, PLAIN, party, wander } from '../test/bodies';
import { tune } from '../tune/tune';
import { findPairing, pairingSummary } from './pairing';

// a body with two hooks that nothing tells apart: no side mark, not where a mirror would have them
const SPEC = [
  ...PLAIN,
  ['HookOne', 'Hips', 0.3, 0.8, 0.1],
  ['HookTwo', 'Hips', -0.22, 0.6, -0.15],
] as unknown as typeof PLAIN;
const rig = buildRig(SPEC);
const { map } = party(rig);
const [one, two] = ['HookOne', 'HookTwo'].map((n) => rig.names.indexOf(n)) as [number, number];

test('what cannot be found can be said, and comes before what is found', () => {
  expect(findPairing(rig, map).unpaired).toEqual([one, two]);
  const said = findPairing(rig, map, undefined, [[one, two]]);
  expect(said.unpaired).toEqual([]);
  expect(said.partner[one]).toBe(two);
  expect(said.pairs.find((p) => p.left === one)!.by).toBe('hand');
  expect(pairingSummary(rig, said).text).not.toMatch(/without/);
});

test('a pair against the map wins, and what it took apart is told as single', () => {
  const [arm, other] = [rig.names.indexOf('LeftHand'), rig.names.indexOf('RightForeArm')];
  const said = findPairing(rig, map, undefined, [[arm, other]]);
  expect(said.partner[arm]).toBe(other);
  expect(said.unpaired).toEqual(
    expect.arrayContaining([rig.names.indexOf('LeftForeArm'), rig.names.indexOf('RightHand')]),
  );
});

test('nonsense is passed over: a joint with itself, a joint twice', () => {
  const said = findPairing(rig, map, undefined, [
    [one, one],
    [one, two],
    [two, one],
  ]);
  expect(said.pairs.filter((p) => p.by === 'hand')).toEqual([{ left: one, right: two, by: 'hand' }]);
});

test('a mirror of a party with pairs of its own exchanges them', () => {
  const motion = wander(rig, 10, 3);
  const own = tune({ rig, map, pairs: [[one, two]] }, motion, [{ op: 'mirror' }]);
  const plain = tune({ rig, map }, motion, [{ op: 'mirror' }]);
  const at = (m: typeof motion, j: number): number[] => [...m.turns.subarray(4 * j, 4 * j + 4)];
  expect(at(own, one)).not.toEqual(at(plain, one));
  expect(at(plain, one)).toEqual(at(motion, one));
  // twice is the motion again
  const back = mirror(rig, map, own, { pairing: findPairing(rig, map, undefined, [[one, two]]) });
  at(back, one).forEach((x, k) => expect(Math.abs(x)).toBeCloseTo(Math.abs(at(motion, one)[k]!), 4));
});
