import { measureBody } from '../body/body';
import { restKind } from '../body/rest-kind';
import { applySpace, findSpace } from '../body/space';
import { guessBodyMap } from '../bodymap/guess';
import { MotionError } from '../errors';
import { basisQuat } from '../math/quat';
import { PoseReader, transformMotion } from '../motion/motion';
import { resample } from '../motion/timing';
import { buildRig, posedRig, wander, withOddAxes } from '../test/bodies';
import { strongestFour } from './figure';
import { assertRig, restPose, type SkeletonRig, transformRig } from './rig';
import { rigFromJson, rigIdentity, rigToJson, skeletonFromJson } from './rig-json';

const Z_UP = [0, 0, 0, 1];
basisQuat(Z_UP, 0, [1, 0, 0], [0, 0, 1], [0, -1, 0]);
const found = (rig: SkeletonRig, stated = false) => findSpace(rig, guessBodyMap(rig), restPose(rig), stated);

describe('units, axes and facing', () => {
  const plain = buildRig();
  test.each([
    ['metres', 1, 1],
    ['centimetres', 100, 0.01],
    ['inches', 1 / 0.0254, 0.0254],
    ['decimetres', 10, 0.1],
    ['millimetres', 1000, 0.001],
    ['feet', 1 / 0.3048, 0.3048],
  ])('%s', (name, units, scale) => {
    const answer = found(transformRig(plain, [0, 0, 0, 1], units));
    expect(answer.scale).toBeCloseTo(scale, 9);
    expect(answer.found.unitWhy).toContain(name);
  });

  test('a stated unit is believed unless the body would be absurd', () => {
    expect(found(transformRig(plain, [0, 0, 0, 1], 2), true).scale).toBe(1);
    const absurd = found(transformRig(plain, [0, 0, 0, 1], 100), true);
    expect(absurd.scale).toBe(0.01);
    expect(absurd.warnings[0]).toMatch(/centimetres/);
  });

  test('a size that fits nothing is scaled to a person, and said so', () => {
    const answer = found(transformRig(plain, [0, 0, 0, 1], 7e5));
    expect(answer.scale * 7e5 * 1.75).toBeCloseTo(1.65, 1);
    expect(answer.warnings[0]).toMatch(/fits no customary unit/);
  });

  test('Z up is found and turned upright, motion with it', () => {
    const rig = transformRig(plain, Z_UP, 1);
    const answer = found(rig);
    expect(answer.found.upAxis).toBe('+Z');
    expect(answer.found.facing).toBe('-Y');
    const motion = wander(plain, 10);
    const done = applySpace(rig, [transformMotion(plain, motion, Z_UP, 1)], undefined, answer);
    const a = new PoseReader(plain, motion).at(7).p;
    const b = new PoseReader(done.rig, done.motions[0]!).at(7).p;
    a.forEach((x, i) => {
      expect(b[i]).toBeCloseTo(x, 5);
    });
  });

  test.each([
    ['-Z', Math.PI],
    ['+X', Math.PI / 2],
    ['-X', -Math.PI / 2],
  ])('facing %s is found', (facing, angle) => {
    expect(found(transformRig(plain, [0, Math.sin(angle / 2), 0, Math.cos(angle / 2)], 1)).found.facing).toBe(facing);
  });
});

describe('rest pose and lengths', () => {
  test.each([
    [90, 'T'],
    [45, 'A'],
    [10, 'hanging'],
    [150, 'other'],
  ] as const)('arms at %s° are %s', (degrees, kind) => {
    const rig = posedRig(degrees);
    expect(restKind(restPose(rig), guessBodyMap(rig))).toBe(kind);
  });

  test('a leg is hip to ankle and ankle to floor; odd axes do not change it', () => {
    const rig = posedRig(45);
    const odd = withOddAxes(rig);
    const leg = measureBody(rig, guessBodyMap(rig)).leg;
    expect(leg).toBeCloseTo(0.42 + 0.41 + 0.09, 2);
    expect(measureBody(odd, guessBodyMap(odd)).leg).toBeCloseTo(leg, 5);
  });
});

describe('rig as JSON', () => {
  const rig = posedRig(45, 1, true);
  test('comes back equal', () => {
    const back = skeletonFromJson(JSON.parse(JSON.stringify(rigToJson(rig))));
    expect(back.names).toEqual(rig.names);
    back.restR.forEach((x, i) => {
      expect(x).toBeCloseTo(rig.restR[i]!, 6);
    });
    expect(Number.isNaN(back.tips[0]!)).toBe(true);
    expect(rigIdentity(back)).toBe(rigIdentity(rig));
  });

  test('a rig that differs in a name or a length is another', () => {
    expect(rigIdentity(posedRig(45))).not.toBe(rigIdentity(posedRig(46)));
    expect(rigIdentity(buildRig(undefined, (n) => `${n}x`))).not.toBe(rigIdentity(buildRig()));
  });

  test.each([
    ['nothing', null],
    ['no joints', { kind: 'skeleton' }],
    ['a joint without place', { kind: 'skeleton', joints: [{ name: 'a', parent: -1 }] }],
    [
      'a child before its parent',
      {
        kind: 'skeleton',
        joints: [
          { name: 'a', parent: 1, place: [0, 0, 0], turn: [0, 0, 0, 1] },
          { name: 'b', parent: -1, place: [0, 0, 0], turn: [0, 0, 0, 1] },
        ],
      },
    ],
  ])('refuses %s', (_, json) => {
    expect(() => rigFromJson(json)).toThrow(MotionError);
  });

  test('tables of different lengths are noticed', () => {
    expect(() => assertRig({ ...rig, tips: new Float32Array(3) })).toThrow(/different lengths/);
  });
});

describe('another frame rate', () => {
  const rig = buildRig();
  test('keeps the first frame, the duration and the course', () => {
    const motion = wander(rig, 121);
    const slow = resample(rig, motion, 24);
    expect(slow.frameCount).toBe(49);
    const a = new PoseReader(rig, motion);
    const b = new PoseReader(rig, slow);
    for (const s of [0, 0.5, 1, 2]) {
      const [pa, pb] = [a.at(s * 60).p.slice(), b.at(s * 24).p];
      pa.forEach((x, i) => {
        expect(pb[i]).toBeCloseTo(x, 3);
      });
    }
    expect(resample(rig, motion, 60)).toBe(motion);
    expect(() => resample(rig, motion, 0)).toThrow(MotionError);
  });
});

test('four strongest weights: merged, cut, normalised, ties by joint', () => {
  expect(strongestFour([1, 2, 1, 3, 4, 5], [0.1, 0.2, 0.1, 0.2, 0.2, 0.2], 0)).toEqual({
    joints: [1, 2, 3, 4],
    weights: [0.25, 0.25, 0.25, 0.25],
  });
  expect(strongestFour([7], [0], 3)).toEqual({ joints: [3, 0, 0, 0], weights: [1, 0, 0, 0] });
});
