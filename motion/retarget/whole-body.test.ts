import {
  guessBodyMap,
  jointOf,
  type Motion,
  PoseReader,
  reportOf,
  retarget,
  type SkeletonRig,
  scoreReport,
} from '../index';
import { smoothCourse } from '../math/smooth-course';
import { buildRig, PLAIN, party } from '../test/bodies';
import { helperJoints, legsAndSpineAreSiblings, walking } from '../test/variants';
import { settleHips } from './settle-hips';

const walk = walking(120);
const source = party(walk.rig);

/** The plain body with a joint under the root at each hand, as the goals of a control rig lie. */
function withGoals(): SkeletonRig {
  const spec = [...PLAIN];
  for (const side of ['Left', 'Right']) {
    const [, , x, y, z] = PLAIN.find(([n]) => n === `${side}Hand`)!;
    spec.push([`${side}Wrist_target`, 'Hips', x, y, z] as never);
  }
  return buildRig(spec as never);
}

const distance = (p: ArrayLike<number>, a: number, b: number): number =>
  Math.hypot(...[0, 1, 2].map((k) => p[3 * a + k]! - p[3 * b + k]!));

describe('a body stays whole', () => {
  test('hips that carry the legs alone: travel still goes to what carries everything', () => {
    const { rig } = legsAndSpineAreSiblings(walking(2));
    const map = guessBodyMap(rig);
    const legs = rig.parents[jointOf(map, 'thighL')]!;
    const given = { ...map, slots: { ...map.slots, hips: { ...map.slots.hips!, joint: legs } } };
    for (const m of [map, given]) {
      const report = reportOf(retarget(source, walk.motion, { rig, map: m }));
      expect(report.body.apartPercent).toBeLessThan(1);
      expect(report.body.trunkDeg).toBeLessThan(5);
      expect(report.slip.meanPercentLegPerPlantSecond).toBeLessThan(0.1);
    }
  });

  test('a goal that lies on the hand and carries skin goes where the hand goes, one without skin stays', () => {
    const rig = withGoals();
    const target = party(rig);
    const [hand, goal] = ['LeftHand', 'LeftWrist_target'].map((n) => rig.names.indexOf(n)) as [number, number];
    const off = (skinned: number[]): number => {
      const { motion } = retarget(source, walk.motion, { ...target, skinned });
      const reader = new PoseReader(rig, motion);
      let most = 0;
      for (let f = 0; f < motion.frameCount; f++) most = Math.max(most, distance(reader.at(f).p, hand, goal));
      return most;
    };
    expect(off([goal])).toBeLessThan(1e-4);
    expect(off([])).toBeGreaterThan(0.02);
  });

  test('a torn limb and a folded trunk are told, lead their lanes, and spoil the score', () => {
    const target = party(buildRig());
    const done = retarget(source, walk.motion, target);
    expect(scoreReport(reportOf(done))).toBeGreaterThan(95);
    const hand = target.rig.names.indexOf('LeftHand');
    const torn: Motion = {
      ...done.motion,
      places: [...done.motion.places, { joint: hand, values: new Float32Array(3 * done.motion.frameCount).fill(0.4) }],
    };
    const report = reportOf({ ...done, motion: torn });
    expect(report.body.apartPercent).toBeGreaterThan(50);
    expect(report.troubles[0]!.text).toContain('come apart');
    expect(scoreReport(report)).toBeLessThan(30);
    const spine = jointOf(target.map, 'spine1');
    const folded: Motion = { ...done.motion, turns: done.motion.turns.slice() };
    const n = target.rig.names.length;
    for (let f = 0; f < folded.frameCount; f++)
      folded.turns.set([Math.SQRT1_2, 0, 0, Math.SQRT1_2], 4 * (f * n + spine));
    const bent = reportOf({ ...done, motion: folded });
    expect(bent.body.trunkDeg).toBeGreaterThan(40);
    expect(bent.troubles.some((t) => t.kind === 'body')).toBe(true);
    expect(scoreReport(bent)).toBeLessThan(30);
  });

  test('helpers of no length between hips and thighs change nothing about the legs', () => {
    const plain = reportOf(retarget(source, walk.motion, party(buildRig())));
    const helped = helperJoints(walk);
    const report = reportOf(retarget(source, walk.motion, party(helped.rig)));
    expect(report.direction.meanDeg).toBeCloseTo(plain.direction.meanDeg, 1);
    expect(report.snap.ratio).toBeLessThan(1.2);
  });
});

describe('the hips settle where held legs want them', () => {
  const frames = 120;
  /** A straight leg of 0.9 m under the origin whose foot is to stand elsewhere by `away`, held from frame `from` on. */
  const leg = (away: readonly number[], from: number) => {
    const points = (y: number): Float64Array =>
      Float64Array.from({ length: 3 * frames }, (_, i) => (i % 3 === 1 ? y : 0));
    return {
      root: points(0.9),
      middle: points(0.45),
      end: points(0),
      bones: [0.45, 0.45] as [number, number],
      weight: Float32Array.from({ length: frames }, (_, f) => (f >= from ? 1 : 0)),
      away: Float64Array.from({ length: 3 * frames }, (_, i) => away[i % 3]!),
    };
  };

  test('nothing held, nothing moves', () => {
    const course = settleHips([leg([0.1, 0, 0], frames)], frames, 60, 0.9);
    expect(Math.max(...course.map(Math.abs))).toBeLessThan(1e-9);
  });

  test('one foot that stands elsewhere takes the hips along, smoothly', () => {
    const course = settleHips([leg([0.06, 0, -0.04], 40)], frames, 60, 0.9);
    const at = (f: number, k: number): number => course[3 * f + k]!;
    expect(at(90, 0)).toBeCloseTo(0.06, 2);
    expect(at(90, 2)).toBeCloseTo(-0.04, 2);
    for (let f = 1; f + 1 < frames; f++)
      expect(Math.abs(at(f - 1, 0) - 2 * at(f, 0) + at(f + 1, 0))).toBeLessThan(0.002);
  });

  test('between two feet that want it elsewhere it stays in the middle', () => {
    const course = settleHips([leg([0.06, 0, 0], 0), leg([-0.06, 0, 0], 0)], frames, 60, 0.9);
    expect(Math.abs(course[3 * 60]!)).toBeLessThan(0.005);
  });
});

test('a smooth course keeps to what counts, runs on where nothing does, and holds no fast swings', () => {
  const n = 200;
  const slow = Float64Array.from({ length: n }, (_, f) => Math.sin((2 * Math.PI * f) / 120));
  const noisy = slow.map((x, f) => x + (f % 2 === 0 ? 0.1 : -0.1));
  const weights = new Float64Array(n).fill(1).fill(0, 80, 100);
  const course = smoothCourse(noisy, weights, 1, 4.5, 60);
  for (let f = 10; f < n - 10; f++) expect(Math.abs(course[f]! - slow[f]!)).toBeLessThan(0.06);
  const jerk = Math.max(
    ...Array.from({ length: n - 2 }, (_, i) => Math.abs(course[i]! - 2 * course[i + 1]! + course[i + 2]!)),
  );
  expect(jerk).toBeLessThan(0.02);
});
