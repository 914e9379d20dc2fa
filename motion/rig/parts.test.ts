import fc from 'fast-check';
import { findTPose, restKind } from '../body/rest-kind';
import { MotionError } from '../errors';
import { PoseReader, transformMotion } from '../motion/motion';
import { skeletonsOf, takeMotion, takeSkeleton } from '../motion/skeletons';
import { betweenFrames } from '../motion/tracks';
import { buildRig, PLAIN, party, posedRig, wander } from '../test/bodies';
import { strongestFour } from './figure';
import { assertRig, childrenOf, composePose, newWorldPose, restPose, tipOf, transformRig } from './rig';
import { rigFromJson, rigIdentity, rigToJson } from './rig-json';

const rig = buildRig();
const n = rig.names.length;

describe('a rig', () => {
  test('is checked before it is used', () => {
    expect(() => assertRig(rig)).not.toThrow();
    const broken = [
      { ...rig, parents: Int16Array.from(rig.parents, (p, j) => (j === 3 ? 7 : p)) },
      { ...rig, parents: Int16Array.from(rig.parents, (p, j) => (j === 3 ? 3 : p)) },
      { ...rig, restT: rig.restT.slice(3) },
      { ...rig, restT: Float32Array.from(rig.restT, (x, i) => (i === 4 ? Number.NaN : x)) },
      { ...rig, restR: new Float32Array(4 * n) },
      { ...rig, names: [] },
    ];
    for (const bad of broken) expect(() => assertRig(bad)).toThrow(MotionError);
  });

  test('knows its children, and every joint but the roots is somebody’s child once', () => {
    const children = childrenOf(rig);
    const all = children.flat();
    expect(all.sort((a, b) => a - b)).toEqual([...rig.parents.keys()].filter((j) => rig.parents[j]! >= 0));
    children.forEach((own, j) => {
      for (const c of own) expect(rig.parents[c]).toBe(j);
    });
  });

  test('stands where its bones add up', () => {
    const { p } = restPose(rig);
    PLAIN.forEach(([, , x, y, z], j) => {
      [x, y, z].forEach((v, k) => expect(p[3 * j + k]!).toBeCloseTo(v as number, 5));
    });
    const out = newWorldPose(n);
    composePose(rig.parents, rig.restR, rig.restT, out.r, out.p);
    expect([...out.p]).toEqual([...p]);
  });

  test('turned and scaled as a whole keeps its proportions', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.1, max: 10, noNaN: true }),
        fc.double({ min: -3, max: 3, noNaN: true }),
        (scale, angle) => {
          const q = [0, Math.sin(angle / 2), 0, Math.cos(angle / 2)];
          const turned = transformRig(rig, q, scale);
          const [a, b] = [restPose(rig).p, restPose(turned).p];
          const distance = (p: Float64Array, i: number, j: number): number =>
            Math.hypot(...[0, 1, 2].map((k) => p[3 * i + k]! - p[3 * j + k]!));
          for (const [i, j] of [
            [0, 4],
            [8, 12],
            [16, 20],
          ] as const)
            expect(distance(b, i, j)).toBeCloseTo(scale * distance(a, i, j), 4);
        },
      ),
      { numRuns: 30 },
    );
  });

  test('and a motion on it moves along', () => {
    const motion = wander(rig, 10, 3);
    const q = [0, Math.SQRT1_2, 0, Math.SQRT1_2];
    const turned = transformMotion(rig, motion, q, 2);
    const [a, b] = [
      new PoseReader(rig, motion).at(5).p.slice(),
      new PoseReader(transformRig(rig, q, 2), turned).at(5).p,
    ];
    // a quarter turn about y takes x to −z and z to x
    for (let j = 0; j < n; j++) {
      expect(b[3 * j]!).toBeCloseTo(2 * a[3 * j + 2]!, 4);
      expect(b[3 * j + 1]!).toBeCloseTo(2 * a[3 * j + 1]!, 4);
      expect(b[3 * j + 2]!).toBeCloseTo(-2 * a[3 * j]!, 4);
    }
  });

  test('tells where its leaves end', () => {
    const pose = restPose(rig);
    const hand = rig.names.indexOf('LeftHand');
    expect(tipOf(rig, pose, hand)!.map((x) => Math.round(100 * x))).toEqual([88, 140, 0]);
    expect(tipOf(rig, pose, rig.names.indexOf('Spine'))).toBeUndefined();
  });
});

describe('rigs as JSON', () => {
  test('their identity is that of their joints, not of where they came from', () => {
    expect(rigIdentity({ ...rig, found: { ...rig.found, unitScale: 0.01 } })).toBe(rigIdentity(rig));
    expect(rigIdentity(posedRig(90, 1.001))).not.toBe(rigIdentity(rig));
    expect(rigIdentity(rigFromJson(JSON.parse(JSON.stringify(rigToJson(rig)))))).toBe(rigIdentity(rig));
  });

  test('whatever stands in place of one is refused with a typed error', () => {
    const good = JSON.parse(JSON.stringify(rigToJson(rig))) as Record<string, unknown>;
    fc.assert(
      fc.property(fc.constantFrom(...Object.keys(good)), fc.jsonValue(), (key, value) => {
        try {
          rigFromJson({ ...good, [key]: value });
        } catch (error) {
          expect(error).toBeInstanceOf(MotionError);
        }
      }),
      { numRuns: 300 },
    );
    for (const nothing of [null, 1, 'x', [], {}]) expect(() => rigFromJson(nothing)).toThrow(MotionError);
  });
});

describe('several skeletons in one', () => {
  const two = buildRig([
    ...PLAIN,
    ...PLAIN.map(
      ([name, parent, x, y, z]) => [`${name}_2`, parent === null ? null : `${parent}_2`, x + 2, y, z] as const,
    ),
  ]);

  test('are told apart, and each is taken with its own motion', () => {
    const found = skeletonsOf(two);
    expect(found.map((s) => [s.name, s.joints])).toEqual([
      ['Hips', n],
      ['Hips_2', n],
    ]);
    const motion = wander(two, 8, 5);
    const taken = takeSkeleton(two, found[1]!.root);
    expect(taken.rig.names).toEqual(PLAIN.map(([name]) => `${name}_2`));
    assertRig(taken.rig);
    const own = takeMotion(taken, motion, two.names.length);
    const [a, b] = [new PoseReader(two, motion).at(6).p.slice(), new PoseReader(taken.rig, own).at(6).p];
    taken.from.forEach((j, i) => {
      for (let k = 0; k < 3; k++) expect(b[3 * i + k]!).toBeCloseTo(a[3 * j + k]!, 5);
    });
  });
});

describe('rest poses', () => {
  test.each([
    [90, 'T'],
    [75, 'T'],
    [45, 'A'],
    [5, 'hanging'],
  ])('arms at %d° are judged: %s', (degrees, kind) => {
    const own = posedRig(degrees);
    expect(restKind(restPose(own), party(own).map)).toBe(kind);
  });

  test('the first frame in T is found in a motion that has one', () => {
    const own = posedRig(10);
    const motion = wander(own, 30, 2, 60, 0.05);
    expect(findTPose(own, party(own).map, motion)).toBe(-1);
    const t = wander(rig, 30, 2, 60, 0.02);
    expect(findTPose(rig, party(rig).map, t)).toBe(0);
  });
});

describe('influences', () => {
  test('are at most four, sum to one, the strongest kept', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.nat(30), fc.double({ min: -1, max: 2, noNaN: true })), { maxLength: 12 }),
        (pairs) => {
          const { joints, weights } = strongestFour(
            pairs.map(([j]) => j),
            pairs.map(([, w]) => w),
            9,
          );
          expect([joints.length, weights.length]).toEqual([4, 4]);
          expect(weights.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 6);
          expect(weights.every((w, i) => w >= 0 && (i === 0 || w <= weights[i - 1]! + 1e-12))).toBe(true);
          if (!pairs.some(([, w]) => w > 0)) expect(joints[0]).toBe(9);
        },
      ),
    );
  });
});

test('a time between frames is a share of the later one; times outside stay at the ends', () => {
  const motion = { fps: 30, frameCount: 31 };
  expect(betweenFrames(0.5 * motion.fps, motion.frameCount)).toEqual({ a: 15, b: 15, t: 0 });
  expect(betweenFrames(0.55 * motion.fps, motion.frameCount)).toMatchObject({
    a: 16,
    b: 17,
    t: expect.closeTo(0.5, 6),
  });
  expect(betweenFrames(-3 * motion.fps, motion.frameCount)).toMatchObject({ a: 0, t: 0 });
  expect(betweenFrames(99 * motion.fps, motion.frameCount)).toMatchObject({ a: 30, t: 0 });
});
