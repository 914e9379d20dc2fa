import { keepRegions } from '../body/regions';
import { buildRig, PLAIN, party, wander } from '../test/bodies';
import { carryJoints, heldJoints } from './joint-sets';

const rig = buildRig();
const own = party(rig);
const namesOf = (joints: readonly number[], r = rig): string[] => joints.map((j) => r.names[j]!);

test('a motion holds the joints that leave their rest, and the hips that travel', () => {
  const arm = keepRegions(rig, own.map, wander(rig, 40, 3), ['left arm']);
  const held = namesOf(heldJoints(rig, arm));
  expect(held).toEqual(expect.arrayContaining(['LeftArm', 'LeftForeArm']));
  expect(held.some((n) => /Right|Leg|Foot|Head/.test(n))).toBe(false);
  expect(namesOf(heldJoints(rig, wander(rig, 40, 3)))).toContain('Hips');
});

test('a pose holds what is away from its rest, though nothing moves', () => {
  const turns = rig.restR.slice();
  turns.set([0, 0, Math.sin(0.2), Math.cos(0.2)], 4 * rig.names.indexOf('RightForeArm'));
  expect(
    namesOf(heldJoints(rig, { fps: 30, frameCount: 1, turns, places: [], numbers: [], scales: [], steps: [] })),
  ).toEqual(['RightForeArm']);
});

test('joints are carried by the part they play, else by name; what has no like is named', () => {
  const other = buildRig(
    PLAIN.filter(([n]) => !/Toe/.test(n)).map((j) => j),
    (n) => (n === 'LeftForeArm' ? 'elbow.l' : n),
  );
  const wanted = ['LeftForeArm', 'RightHand', 'LeftToe'].map((n) => rig.names.indexOf(n));
  const { joints, missing } = carryJoints(own, wanted, party(other));
  expect(namesOf(joints, other).sort()).toEqual(['RightHand', 'elbow.l']);
  expect(missing).toEqual(['LeftToe']);
});
