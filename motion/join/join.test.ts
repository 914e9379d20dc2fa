import { angleBetweenQuats, axisAngleQuat, mulQuat } from '../math/quat';
import { type Motion, PoseReader } from '../motion/motion';
import { trim } from '../motion/timing';
import { buildRig, party, posedRig, withOddAxes } from '../test/bodies';
import { moveRoots } from '../tune/place';
import { closeLoop, lapOf, layLaps } from './loop-close';
import { findLoops } from './loop-find';
import { seamOf } from './seam';

const rig = buildRig();
const who = party(rig);
const n = rig.names.length;

/** Limbs that swing with a period, hips that go ahead by so much a lap, with a drift that does not come round. */
function swinging(frames: number, period: number, drift = 0, travel = 0, body = rig, turn = 0): Motion {
  const turns = new Float32Array(4 * n * frames);
  const values = new Float32Array(3 * frames);
  const q = [0, 0, 0, 1];
  for (let f = 0; f < frames; f++) {
    const a = (2 * Math.PI * f) / period;
    for (let j = 0; j < n; j++) {
      const size = j === 0 ? 0 : 0.25 * Math.sin(j * 1.7);
      axisAngleQuat(q, 0, 1, 0, 0, size * Math.sin(a + j) + (j === 0 ? 0 : (drift * f) / frames));
      mulQuat(turns, 4 * (f * n + j), body.restR, 4 * j, q, 0);
    }
    const heading = (turn * f) / period;
    axisAngleQuat(q, 0, 0, 1, 0, heading);
    mulQuat(turns, 4 * f * n, q, 0, body.restR, 0);
    values.set([0.02 * Math.sin(a), body.restT[1]! + 0.02 * Math.cos(2 * a), (travel * f) / period], 3 * f);
  }
  return { fps: 60, frameCount: frames, turns, places: [{ joint: 0, values }], numbers: [], scales: [], steps: [] };
}

describe('seams', () => {
  test('of a whole number of periods are nothing, travel aside', () => {
    const seam = seamOf(who, swinging(61, 60, 0, 1.2));
    expect(seam.angleDeg).toBeLessThan(0.01);
    expect(seam.distancePercentLeg).toBeLessThan(0.05);
    expect(seam.speedStep).toBeLessThan(0.05);
  });

  test('are as large as what does not come round, in its joint', () => {
    const seam = seamOf(who, swinging(61, 60, 0.2));
    expect(seam.angleDeg).toBeCloseTo((0.2 * (60 / 61) * 180) / Math.PI, 0);
    expect(seam.joint).not.toBe('');
  });

  test('do not depend on where the motion stands or looks', () => {
    const motion = swinging(55, 60, 0.1, 0.8);
    const a = seamOf(who, motion);
    const b = seamOf(who, moveRoots(who, motion, [4, 0, -2], 1.3));
    expect(b.angleDeg).toBeCloseTo(a.angleDeg, 3);
    expect(b.distanceM).toBeCloseTo(a.distanceM, 4);
  });

  test('of stretches within are those of the stretch taken alone', () => {
    const motion = swinging(150, 60, 0.1);
    expect(seamOf(who, motion, 10, 70).angleDeg).toBeCloseTo(seamOf(who, trim(rig, motion, 10, 70)).angleDeg, 3);
  });
});

describe('finding', () => {
  test.each([[48], [60], [75]])('a period of %d frames is found within one', (period) => {
    const loops = findLoops(who, swinging(3 * period + 20, period, 0, 0.6));
    expect(loops.length).toBeGreaterThan(0);
    const length = loops[0]!.end - loops[0]!.start;
    expect(Math.abs(length - period * Math.round(length / period))).toBeLessThanOrEqual(1);
  });

  test('only what was asked for: no shorter, no longer, no more', () => {
    const motion = swinging(400, 50);
    for (const l of findLoops(who, motion, { minSeconds: 1.2, maxSeconds: 3, count: 3 })) {
      const seconds = (l.end - l.start) / 60;
      expect(seconds).toBeGreaterThanOrEqual(1.2 - 0.02);
      expect(seconds).toBeLessThanOrEqual(3 + 0.02);
    }
    expect(findLoops(who, motion, { count: 2 }).length).toBeLessThanOrEqual(2);
    expect(findLoops(who, swinging(8, 60))).toEqual([]);
  });

  test('a period comes first, then ends that are more alike', () => {
    const loops = findLoops(who, swinging(300, 60, 0.3));
    expect(loops.length).toBeGreaterThan(2);
    const rest = loops.filter((l) => !l.repeats).map((l) => l.apartPercentLeg);
    expect(loops.findLastIndex((l) => l.repeats)).toBeLessThanOrEqual(0);
    expect(rest).toEqual([...rest].sort((x, y) => x - y));
    expect(new Set(rest).size).toBeGreaterThan(1);
  });
});

describe('closing', () => {
  test.each([
    ['plain', rig],
    ['odd axes', withOddAxes(posedRig(60))],
  ])('leaves no seam, and little changed in the middle: %s', (_, body) => {
    const own = party(body);
    const open = swinging(61, 60, 0.15, 0.9, body);
    const closed = closeLoop(own, open);
    const seam = seamOf(own, closed);
    expect(seam.angleDeg).toBeLessThanOrEqual(0.1);
    expect(seam.distancePercentLeg).toBeLessThanOrEqual(0.1);
    expect(seam.speedStep).toBeLessThanOrEqual(0.08);
    let middle = 0;
    for (let j = 0; j < n; j++)
      middle = Math.max(middle, angleBetweenQuats(open.turns, 4 * (30 * n + j), closed.turns, 4 * (30 * n + j)));
    expect(middle).toBeLessThan(0.12);
    for (let o = 0; o < closed.turns.length; o += 4)
      expect(Math.hypot(...closed.turns.subarray(o, o + 4))).toBeCloseTo(1, 4);
  });

  test('what is seamless already stays untouched', () => {
    const seamless = swinging(61, 60, 0, 0.7);
    expect(closeLoop(who, seamless)).toBe(seamless);
  });

  test('laps laid one after the other go on without a jump, straight or round a bend', () => {
    for (const turn of [0, 0.4]) {
      const lap = closeLoop(who, swinging(61, 60, 0, 0.8, rig, turn), { straightenDeg: 0 });
      const course = lapOf(who, lap, 0);
      const three = layLaps(who, lap, course, 3);
      expect(three.frameCount).toBe(3 * 60 + 1);
      const reader = new PoseReader(rig, three);
      let last = [...reader.at(0).p.slice(0, 3)];
      for (let f = 1; f < three.frameCount; f++) {
        const now = [...reader.at(f).p.slice(0, 3)];
        expect(Math.hypot(...now.map((x, k) => x - last[k]!))).toBeLessThan(0.03);
        last = now;
      }
      // three laps lead about three times as far along the way
      if (turn === 0) expect(Math.abs(last[2]! - 3 * 0.8)).toBeLessThan(0.05);
    }
  });
});
