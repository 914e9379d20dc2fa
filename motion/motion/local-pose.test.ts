import fc from 'fast-check';
import { MotionError } from '../errors';
import { angleBetweenQuats, axisAngleQuat, invMulQuat, mulQuat } from '../math/quat';
import { newWorldPose } from '../rig/rig';
import { buildRig, wander } from '../test/bodies';
import {
  addPose,
  blendPoses,
  copyPose,
  type LocalPose,
  meanPose,
  newLocalPose,
  PoseSampler,
  worldOf,
  writePose,
} from './local-pose';
import { PoseReader } from './motion';

const rig = buildRig();
const n = rig.names.length;
const motion = wander(rig, 60, 5, 30, 1.1);
const sampler = new PoseSampler(rig, motion);
const poseAt = (seconds: number): LocalPose => {
  const pose = newLocalPose(rig);
  sampler.read(pose, seconds);
  return pose;
};
const apart = (a: LocalPose, b: LocalPose): number => {
  let most = 0;
  for (let o = 0; o < 4 * n; o += 4) most = Math.max(most, angleBetweenQuats(a.turns, o, b.turns, o));
  for (let i = 0; i < 3 * n; i++) most = Math.max(most, Math.abs(a.places[i]! - b.places[i]!));
  return most;
};
const seconds = fc.double({ min: 0, max: 2, noNaN: true });

describe('reading and writing', () => {
  test('at whole frames a pose is what stands there, to the bit; its world is the reader’s', () => {
    const reader = new PoseReader(rig, motion);
    const world = newWorldPose(n);
    for (let f = 0; f < 60; f++) {
      const pose = poseAt(f / 30);
      expect([...pose.turns]).toEqual([...motion.turns.subarray(4 * n * f, 4 * n * (f + 1))]);
      expect([...pose.places.subarray(0, 3)]).toEqual([...motion.places[0]!.values.subarray(3 * f, 3 * f + 3)]);
      worldOf(rig, pose, world);
      const { r, p } = reader.at(f);
      expect(apart({ turns: world.r, places: world.p }, { turns: r, places: p })).toBeLessThan(1e-6);
    }
  });

  test('between frames turns go the shortest way at an even pace, also across a change of sign', () => {
    const flipped = { ...motion, turns: motion.turns.map((x, i) => (Math.floor(i / (4 * n)) === 11 ? -x : x)) };
    const reader = new PoseSampler(rig, flipped);
    const [a, b, q] = [poseAt(10 / 30), poseAt(11 / 30), newLocalPose(rig)];
    reader.read(q, 10.25 / 30);
    for (let o = 0; o < 4 * n; o += 4) {
      const whole = angleBetweenQuats(a.turns, o, b.turns, o);
      expect(angleBetweenQuats(a.turns, o, q.turns, o)).toBeCloseTo(whole / 4, 5);
      expect(angleBetweenQuats(q.turns, o, b.turns, o)).toBeCloseTo((3 * whole) / 4, 5);
    }
  });

  test('what is written is read again, with signs that go on', () => {
    const copy = {
      ...motion,
      turns: motion.turns.slice(),
      places: motion.places.map((t) => ({ ...t, values: t.values.slice() })),
    };
    const pose = poseAt(0.7);
    for (let i = 0; i < 4 * n; i++) pose.turns[i] = -pose.turns[i]!;
    writePose(copy, 22, pose);
    const again = newLocalPose(rig);
    new PoseSampler(rig, copy).read(again, 22 / 30);
    expect(apart(pose, again)).toBeLessThan(1e-6);
    for (let o = 0; o < 4 * n; o += 4) {
      let dot = 0;
      for (let k = 0; k < 4; k++) dot += copy.turns[4 * n * 22 + o + k]! * copy.turns[4 * n * 21 + o + k]!;
      expect(dot).toBeGreaterThan(0);
    }
  });
});

describe('blends', () => {
  test('weights 0 and 1 give what went in, to the bit, into either of both; a mask keeps its joints', () => {
    const [a, b] = [poseAt(0.3), poseAt(1.4)];
    for (const [weight, want] of [
      [0, a],
      [1, b],
    ] as const) {
      const out = newLocalPose(rig);
      blendPoses(out, a, b, weight);
      expect(out).toEqual(want);
      const own = newLocalPose(rig);
      copyPose(own, a);
      blendPoses(own, own, b, weight);
      expect(own).toEqual(want);
    }
    const mask = Float64Array.from({ length: n }, (_, j) => (j === 4 ? 1 : 0));
    const out = newLocalPose(rig);
    blendPoses(out, a, b, 1, mask);
    for (let j = 0; j < n; j++)
      expect(out.turns.subarray(4 * j, 4 * j + 4)).toEqual((j === 4 ? b : a).turns.subarray(4 * j, 4 * j + 4));
  });

  test('from either side they are the same', () => {
    fc.assert(
      fc.property(seconds, seconds, fc.double({ min: 0, max: 1, noNaN: true }), (s, t, w) => {
        const [a, b, x, y] = [poseAt(s), poseAt(t), newLocalPose(rig), newLocalPose(rig)];
        blendPoses(x, a, b, w);
        blendPoses(y, b, a, 1 - w);
        expect(apart(x, y)).toBeLessThan(1e-6);
      }),
    );
  });
});

describe('what is laid on', () => {
  test('a pose laid on its own reference is that pose, by half halfway, and none where the mask says so', () => {
    const [rest, over, out, half] = [newLocalPose(rig), poseAt(0.9), newLocalPose(rig), newLocalPose(rig)];
    addPose(out, rest, over, rest);
    expect(apart(out, over)).toBeLessThan(1e-7);
    addPose(half, rest, over, rest, 0.5);
    for (let o = 0; o < 4 * n; o += 4)
      expect(angleBetweenQuats(half.turns, o, rest.turns, o)).toBeCloseTo(
        angleBetweenQuats(over.turns, o, rest.turns, o) / 2,
        5,
      );
    addPose(out, over, poseAt(0.1), rest, 1, new Float64Array(n));
    expect(out).toEqual(over);
  });
});

describe('means', () => {
  test('the order of poses and the signs of their quaternions do not matter', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(seconds, fc.double({ min: 0.05, max: 3, noNaN: true }), fc.boolean()), {
          minLength: 2,
          maxLength: 6,
        }),
        (all) => {
          const poses = all.map(([s]) => poseAt(s));
          const weights = all.map(([, w]) => w);
          const [x, y] = [newLocalPose(rig), newLocalPose(rig)];
          meanPose(x, poses, weights);
          const turned = all.map(([s, , flip]) => {
            const pose = poseAt(s);
            if (flip) for (let i = 0; i < 4 * n; i++) pose.turns[i] = -pose.turns[i]!;
            return pose;
          });
          meanPose(y, turned.reverse(), weights.slice().reverse());
          expect(apart(x, y)).toBeLessThan(1e-6);
        },
      ),
    );
  });

  test('all the weight on one gives that one, to the bit; halves lie halfway', () => {
    const [a, b, out] = [poseAt(0.2), poseAt(1.7), newLocalPose(rig)];
    meanPose(out, [a, b, poseAt(1)], [0, 2, 0]);
    expect(out).toEqual(b);
    meanPose(out, [a, b], [1, 1]);
    for (let o = 0; o < 4 * n; o += 4) {
      const whole = angleBetweenQuats(a.turns, o, b.turns, o);
      expect(angleBetweenQuats(a.turns, o, out.turns, o)).toBeCloseTo(whole / 2, 4);
    }
  });

  test('turns about one axis average by their angle', () => {
    const poses = [0.1, 0.4, 0.7].map((angle) => {
      const pose = newLocalPose(rig);
      axisAngleQuat(pose.turns, 0, 0, 1, 0, angle);
      return pose;
    });
    const out = newLocalPose(rig);
    meanPose(out, poses, [1, 1, 1]);
    const want = [0, 0, 0, 1];
    axisAngleQuat(want, 0, 0, 1, 0, 0.4);
    expect(angleBetweenQuats(out.turns, 0, want, 0)).toBeLessThan(1e-7);
  });

  test('turning all of them turns the mean', () => {
    const by = [0, 0, 0, 1];
    axisAngleQuat(by, 0, 0.6, 0, 0.8, 1.1);
    const poses = [0.3, 0.8, 1.9].map(poseAt);
    const [plain, turned] = [newLocalPose(rig), newLocalPose(rig)];
    meanPose(plain, poses, [3, 1, 2]);
    for (const p of poses) for (let o = 0; o < 4 * n; o += 4) mulQuat(p.turns, o, by, 0, p.turns, o);
    meanPose(turned, poses, [3, 1, 2]);
    const back = [0, 0, 0, 1];
    for (let o = 0; o < 4 * n; o += 4) {
      invMulQuat(back, 0, by, 0, turned.turns, o);
      expect(angleBetweenQuats(back, 0, plain.turns, o)).toBeLessThan(1e-6);
    }
  });

  test.each([[[0, 0]], [[-1, 2]], [[Number.NaN, 1]]])('weights %p are refused', (weights) => {
    expect(() => meanPose(newLocalPose(rig), [poseAt(0), poseAt(1)], weights)).toThrow(MotionError);
  });
});
