import fc from 'fast-check';
import { borrowTurns, poseOfTurns, straightenAll, turnsOfPose } from '../body/match-pose';
import { correct, HANDLES } from '../layer/correct';
import { type Motion, PoseReader } from '../motion/motion';
import { moveJoint } from '../motion/move-joint';
import { importanceAt } from '../retarget/hand-goals';
import { scoreReport } from '../retarget/report-score';
import { restPose } from '../rig/rig';
import { party, posedRig, wander, withOddAxes } from '../test/bodies';
import {
  FITTING_DEFAULTS,
  type FittingEdits,
  type FittingSettings,
  FLAT_DEFAULTS,
  LEAVE_WORDS,
  NO_EDITS,
  stretchEdits,
} from './document';
import { evaluateFitting, reportOfFitting } from './evaluate';

const source = party(posedRig(90));
const bodies = [party(posedRig(45, 0.8, true)), party(posedRig(20, 1.3)), party(withOddAxes(posedRig(90, 0.6)))];
const motion = wander(source.rig, 31, 7, 30, 0.3);

const settings: fc.Arbitrary<FittingSettings> = fc.record({
  plants: fc.boolean(),
  travel: fc.constantFrom('leg' as const, 'path' as const, 'none' as const, 'speed' as const),
  hands: fc.constantFrom('free' as const, 'together' as const, 'head' as const, 'hips' as const),
  clear: fc.boolean(),
  limits: fc.boolean(),
  lower: fc.double({ min: -0.1, max: 0.15, noNaN: true }),
  leave: fc.uniqueArray(fc.constantFrom(...LEAVE_WORDS), { maxLength: 3 }),
  tuning: fc.record({
    energy: fc.double({ min: 0.4, max: 1.6, noNaN: true }),
    arms: fc.double({ min: -20, max: 30, noNaN: true }),
    stance: fc.double({ min: 0.7, max: 1.5, noNaN: true }),
    stride: fc.double({ min: 0.6, max: 1.3, noNaN: true }),
    speed: fc.constantFrom(1, 0.5, 2),
    lean: fc.double({ min: -15, max: 15, noNaN: true }),
  }),
  flat: fc.constant(FLAT_DEFAULTS),
});
const move = fc.tuple(...[0, 1, 2].map(() => fc.double({ min: -0.3, max: 0.3, noNaN: true }))) as fc.Arbitrary<
  [number, number, number]
>;
const keys = fc
  .uniqueArray(fc.integer({ min: 0, max: 30 }), { minLength: 1, maxLength: 4 })
  .chain((frames) => fc.tuple(...frames.sort((a, b) => a - b).map((frame) => move.map((m) => ({ frame, move: m })))));

const finite = (m: Motion): boolean =>
  m.turns.every(Number.isFinite) && m.places.every((t) => t.values.every(Number.isFinite));
const unit = (m: Motion): number => {
  let worst = 0;
  for (let o = 0; o < m.turns.length; o += 4)
    worst = Math.max(worst, Math.abs(Math.hypot(...m.turns.subarray(o, o + 4)) - 1));
  return worst;
};

test('whatever is set, the result is a motion: finite, unit turns, measured', () => {
  fc.assert(
    fc.property(settings, fc.constantFrom(...bodies), keys, fc.constantFrom(...HANDLES), (s, body, k, handle) => {
      const edits: FittingEdits = { ...NO_EDITS, frames: 31, corrections: [{ handle, keys: k }] };
      const fitted = evaluateFitting(source, motion, body, s, edits);
      expect(finite(fitted.motion)).toBe(true);
      expect(unit(fitted.motion)).toBeLessThan(1e-4);
      const report = reportOfFitting(fitted);
      expect(report.lanes.every((l) => l.values.length === fitted.motion.frameCount)).toBe(true);
      for (const l of report.lanes) expect([l.name, l.values.every(Number.isFinite)]).toEqual([l.name, true]);
      const score = scoreReport(report);
      expect(score).toBeGreaterThanOrEqual(0);
      expect(score).toBeLessThanOrEqual(100);
    }),
    { numRuns: 40 },
  );
});

test('no handle ever changes the length of a bone', () => {
  const body = bodies[0]!;
  const lengths = (m: Motion, f: number): number[] => {
    const { p } = new PoseReader(body.rig, m).at(f);
    return body.rig.parents.reduce<number[]>((out, parent, j) => {
      if (parent >= 0) out.push(Math.hypot(...[0, 1, 2].map((k) => p[3 * j + k]! - p[3 * parent + k]!)));
      return out;
    }, []);
  };
  const own = wander(body.rig, 31, 5, 30, 0.3);
  fc.assert(
    fc.property(fc.constantFrom(...HANDLES), keys, fc.integer({ min: 0, max: 30 }), (handle, k, f) => {
      const done = correct(body, own, [{ handle, keys: k }]);
      const [a, b] = [lengths(done, f), lengths(own, f)];
      a.forEach((x, i) => expect(Math.abs(x - b[i]!)).toBeLessThan(1e-4));
    }),
    { numRuns: 40 },
  );
});

test('a joint moved through the world goes exactly as far as it was told, whatever hangs above it', () => {
  const body = bodies[2]!;
  const own = wander(body.rig, 12, 3, 30, 0.4);
  fc.assert(
    fc.property(fc.integer({ min: 0, max: body.rig.names.length - 1 }), move, (joint, by) => {
      const done = moveJoint(body.rig, own, joint, () => by);
      for (const f of [0, 11]) {
        const at = (m: Motion): number[] => [...new PoseReader(body.rig, m).at(f).p.subarray(3 * joint, 3 * joint + 3)];
        const [a, b] = [at(done), at(own)];
        a.forEach((x, k) => expect(x - b[k]!).toBeCloseTo(by[k]!, 4));
      }
    }),
  );
});

test('importance stays between its keys and within 0 and 1', () => {
  const key = fc.record({ frame: fc.integer({ min: 0, max: 60 }), weight: fc.double({ min: 0, max: 1, noNaN: true }) });
  fc.assert(
    fc.property(fc.array(key, { minLength: 1, maxLength: 6 }), fc.integer({ min: -10, max: 80 }), (list, f) => {
      const w = importanceAt(list, f);
      const all = list.map((k) => k.weight);
      expect(w).toBeGreaterThanOrEqual(Math.min(...all) - 1e-9);
      expect(w).toBeLessThanOrEqual(Math.max(...all) + 1e-9);
    }),
  );
  expect(importanceAt([], 3)).toBe(0);
  expect(importanceAt(4, 3)).toBe(1);
});

test('edits stretched to any length keep their order and stay within the motion', () => {
  fc.assert(
    fc.property(keys, fc.integer({ min: 2, max: 300 }), (k, frames) => {
      const edits: FittingEdits = {
        ...NO_EDITS,
        frames: 31,
        plants: k.map((x) => ({ part: 'heelL' as const, start: x.frame, end: Math.min(30, x.frame + 3) })),
        corrections: [{ handle: 'hips', keys: k }],
      };
      const out = stretchEdits(edits, frames);
      const at = out.corrections[0]!.keys.map((x) => x.frame);
      at.forEach((f, i) => {
        expect(f).toBeGreaterThanOrEqual(0);
        expect(f).toBeLessThan(frames);
        if (i > 0) expect(f).toBeGreaterThan(at[i - 1]!);
      });
      for (const p of out.plants!) expect(p.end).toBeLessThan(frames);
    }),
  );
});

test('a pose that was borrowed and lent back is the pose it was', () => {
  const a = posedRig(60);
  const b = withOddAxes(posedRig(60));
  for (const pose of [turnsOfPose(a, restPose(a)), straightenAll(a, party(a).map, turnsOfPose(a, restPose(a)))]) {
    const there = borrowTurns(b, a, pose).turns;
    const back = poseOfTurns(a, borrowTurns(a, b, there).turns);
    const was = poseOfTurns(a, pose);
    back.p.forEach((x, i) => expect(x).toBeCloseTo(was.p[i]!, 4));
  }
});

test('a score never rises when a fault grows', () => {
  const report = reportOfFitting(evaluateFitting(source, motion, bodies[0]!, FITTING_DEFAULTS));
  const worse = fc.record({
    slip: fc.double({ min: 0, max: 20, noNaN: true }),
    floor: fc.double({ min: 0, max: 20, noNaN: true }),
    reach: fc.double({ min: 0, max: 20, noNaN: true }),
    crossing: fc.double({ min: 0, max: 20, noNaN: true }),
    snap: fc.double({ min: 0, max: 10, noNaN: true }),
  });
  fc.assert(
    fc.property(worse, (w) => {
      const more = {
        ...report,
        slip: { ...report.slip, maxPercentLeg: report.slip.maxPercentLeg + w.slip },
        floor: { maxDepthCm: report.floor.maxDepthCm + w.floor },
        reach: { ...report.reach, maxCm: report.reach.maxCm + w.reach },
        crossing: { maxCm: report.crossing.maxCm + w.crossing },
        snap: { ...report.snap, ratio: report.snap.ratio + w.snap },
      };
      expect(scoreReport(more)).toBeLessThanOrEqual(scoreReport(report));
    }),
  );
});
