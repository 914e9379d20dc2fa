import { largestError } from '../codec/error';
import { MotionError } from '../errors';
import { FITTING_DEFAULTS, NO_EDITS } from '../fitting/document';
import { evaluateFitting } from '../fitting/evaluate';
import { type Motion, PoseReader } from '../motion/motion';
import { party, posedRig, wander } from '../test/bodies';
import { type CorrectionTrack, correct } from './correct';
import { moveAt } from './offsets';

const body = party(posedRig(70, 1, true));
const motion = wander(body.rig, 41, 2, 60, 0.25);
const place = (m: Motion, f: number, name: string): number[] => {
  const j = body.rig.names.indexOf(name);
  return [...new PoseReader(body.rig, m).at(f).p.subarray(3 * j, 3 * j + 3)];
};
const apart = (a: number[], b: number[]): number => Math.hypot(...a.map((x, k) => x - b[k]!));
const pull = (handle: 'hips' | 'head' | 'handL' | 'footR', move: [number, number, number]): CorrectionTrack => ({
  handle,
  keys: [
    { frame: 0, move: [0, 0, 0] },
    { frame: 20, move },
    { frame: 40, move: [0, 0, 0] },
  ],
});

describe('corrections by hand', () => {
  test('nothing set changes nothing', () => {
    expect(correct(body, motion, [])).toBe(motion);
    expect(correct(body, motion, [{ handle: 'hips', keys: [] }])).toBe(motion);
  });

  test('a pulled hand comes to where it was pulled, and is back where the keys say nothing', () => {
    const by: [number, number, number] = [0.03, -0.06, 0.05];
    const done = correct(body, motion, [pull('handL', by)]);
    const want = place(motion, 20, 'LeftHand').map((x, k) => x + by[k]!);
    expect(apart(place(done, 20, 'LeftHand'), want)).toBeLessThan(0.005);
    expect(apart(place(done, 0, 'LeftHand'), place(motion, 0, 'LeftHand'))).toBeLessThan(1e-4);
    expect(apart(place(done, 20, 'RightHand'), place(motion, 20, 'RightHand'))).toBeLessThan(1e-6);
  });

  test('a pulled foot comes along, the hips stay', () => {
    const done = correct(body, motion, [pull('footR', [0.05, 0.08, 0.1])]);
    const want = place(motion, 20, 'RightFoot').map((x, k) => x + [0.05, 0.08, 0.1][k]!);
    expect(apart(place(done, 20, 'RightFoot'), want)).toBeLessThan(0.01);
    expect(place(done, 20, 'Hips')).toEqual(place(motion, 20, 'Hips'));
  });

  test('hips that are lowered leave both feet where they are', () => {
    const done = correct(body, motion, [pull('hips', [0, -0.08, 0.02])]);
    expect(place(done, 20, 'Hips')[1]! - place(motion, 20, 'Hips')[1]!).toBeCloseTo(-0.08, 3);
    for (const foot of ['LeftFoot', 'RightFoot'])
      expect(apart(place(done, 20, foot), place(motion, 20, foot))).toBeLessThan(0.005);
  });

  test('a pulled head bends the back towards it and keeps its own turn', () => {
    const done = correct(body, motion, [pull('head', [0, -0.05, 0.15])]);
    const before = place(motion, 20, 'Head');
    const after = place(done, 20, 'Head');
    expect(after[2]! - before[2]!).toBeGreaterThan(0.08);
    const j = body.rig.names.indexOf('Head');
    const turn = (m: Motion): number[] => [...new PoseReader(body.rig, m).at(20).r.subarray(4 * j, 4 * j + 4)];
    const [a, b] = [turn(done), turn(motion)];
    expect(Math.abs(a.reduce((s, x, k) => s + x * b[k]!, 0))).toBeCloseTo(1, 5);
    expect(place(done, 20, 'Hips')).toEqual(place(motion, 20, 'Hips'));
  });

  test('bones keep their lengths under every handle', () => {
    const done = correct(
      body,
      motion,
      (['hips', 'head', 'handL', 'footR'] as const).map((h) => pull(h, [0.06, -0.05, 0.07])),
    );
    body.rig.parents.forEach((p, j) => {
      if (p < 0) return;
      const [a, b] = [body.rig.names[p]!, body.rig.names[j]!];
      const length = (m: Motion): number => apart(place(m, 20, a), place(m, 20, b));
      expect([b, Math.abs(length(done) - length(motion)) < 1e-4]).toEqual([b, true]);
    });
  });

  test('a joint turns in its own frame; what hangs from it goes along', () => {
    const s = Math.sin(0.2);
    const c = Math.cos(0.2);
    const done = correct(body, motion, [{ joint: 'LeftForeArm', keys: [{ frame: 5, turn: [0, 0, s, c] }] }]);
    expect(apart(place(done, 30, 'LeftForeArm'), place(motion, 30, 'LeftForeArm'))).toBeLessThan(1e-6);
    expect(apart(place(done, 30, 'LeftHand'), place(motion, 30, 'LeftHand'))).toBeGreaterThan(0.03);
  });

  test('a joint that the rig lacks is passed over', () => {
    const done = correct(body, motion, [{ joint: 'Tail', keys: [{ frame: 1, turn: [0, 0, 1, 0] }] }]);
    expect(largestError(body.rig, done, motion)).toBeLessThan(1e-12);
  });

  test('keys out of order and numbers that are none are refused', () => {
    const wrong = [{ frame: 9 }, { frame: 3 }];
    expect(() => correct(body, motion, [{ handle: 'hips', keys: wrong }])).toThrow(MotionError);
    expect(() => correct(body, motion, [{ handle: 'hips', keys: [{ frame: 1, move: [Number.NaN, 0, 0] }] }])).toThrow(
      'finite',
    );
  });

  test.each([
    ['linear', 0.5],
    ['step', 0],
    ['smooth', 0.5],
  ] as const)('half way between two keys a %s passage is at %d', (ease, share) => {
    const keys = [
      { frame: 0, move: [0, 0, 0] as const, ease },
      { frame: 10, move: [1, 2, 3] as const },
    ];
    expect(moveAt(keys, 5)).toEqual([share, 2 * share, 3 * share]);
    expect(moveAt(keys, 30)).toEqual([1, 2, 3]);
    expect(moveAt(keys, 0)).toEqual([0, 0, 0]);
  });

  test('a correction survives a solve with other settings', () => {
    const source = party(posedRig(90));
    const walk = wander(source.rig, 41, 4, 60, 0.2);
    const edits = { ...NO_EDITS, frames: 41, corrections: [pull('handL', [0, 0.06, 0])] };
    for (const lower of [0, 0.04]) {
      const settings = { ...FITTING_DEFAULTS, lower };
      const plain = evaluateFitting(source, walk, body, settings).motion;
      const done = evaluateFitting(source, walk, body, settings, edits).motion;
      expect(place(done, 20, 'LeftHand')[1]! - place(plain, 20, 'LeftHand')[1]!).toBeGreaterThan(0.05);
    }
  });
});
