import fc from 'fast-check';
import { closeLoop } from '../join/loop-close';
import { mirror } from '../mirror/mirror';
import { buildRig, party, wander } from '../test/bodies';
import type { Motion } from './motion';
import { hold, pickFrames, resample, retime, reverse, trim } from './timing';
import { type Between, betweenFrames, labelAt, sampleValues } from './tracks';

const rig = buildRig();
const FRAMES = 90;
const labels = ['open', 'half', 'shut', 'half, left'];

/** A motion that has tracks of every kind. */
const every = (seed = 3): Motion => ({
  ...wander(rig, FRAMES, seed, 30),
  scales: [{ joint: 2, values: Float32Array.from({ length: 3 * FRAMES }, (_, i) => 1 + Math.sin(i / 20) / 3) }],
  numbers: [
    { name: 'jaw', values: Float32Array.from({ length: FRAMES }, (_, f) => Math.sin(f / 6)) },
    { name: 'lid L', values: Float32Array.from({ length: FRAMES }, (_, f) => f % 2), between: 'hold' },
    { name: 'lid R', values: Float32Array.from({ length: FRAMES }, (_, f) => f % 5), between: 'curve' },
  ],
  steps: [
    { name: 'eye L', labels, values: Uint16Array.from({ length: FRAMES }, (_, f) => Math.floor(f / 7) % 4) },
    { name: 'eye R', labels, values: Uint16Array.from({ length: FRAMES }, (_, f) => Math.floor(f / 11) % 4) },
  ],
});

describe('reading at any time', () => {
  const motion = every();

  test('at whole frames everything is what stands there, to the bit', () => {
    const whole = pickFrames(
      rig,
      motion,
      Float64Array.from({ length: FRAMES }, (_, f) => f + 3e-7),
    );
    expect(whole).toEqual(motion);
  });

  test('places and numbers lie on their line, hold what they had, or follow a curve without corners', () => {
    const values = Float32Array.of(0, 1, 4, 9, 16, 25);
    const at = (between: Between, x: number): number => {
      const out = new Float64Array(1);
      sampleValues(out, 0, values, 1, between, betweenFrames(x, 6));
      return out[0]!;
    };
    expect(at('line', 2.25)).toBeCloseTo(5.25, 9);
    expect(at('hold', 2.999)).toBe(4);
    // the spline is exact on parabolas within
    for (const x of [1.1, 2.5, 3.9]) expect(at('curve', x)).toBeCloseTo(x * x, 5);
    const slope = (x: number): number => (at('curve', x + 1e-4) - at('curve', x - 1e-4)) / 2e-4;
    for (const x of [1, 2, 3, 4]) expect(slope(x)).toBeCloseTo(2 * x, 2);
    expect([at('curve', -5), at('curve', 99)]).toEqual([0, 25]);
  });

  test('a label holds until the next frame', () => {
    const eye = motion.steps[0]!;
    const read = pickFrames(rig, motion, Float64Array.of(6.99, 7, 7.5, 13.999));
    expect([0, 1, 2, 3].map((f) => labelAt(read.steps[0]!, f))).toEqual(['open', 'half', 'half', 'half']);
    expect(read.steps[0]!.labels).toBe(eye.labels);
  });
});

describe('labels and numbers go through everything that changes time', () => {
  const changes: [string, (m: Motion) => Motion, (f: number) => number][] = [
    ['trimmed', (m) => trim(rig, m, 12, 60), (f) => 12 + f],
    ['held', (m) => hold(rig, m, 5, 9), (f) => Math.min(FRAMES - 1, Math.max(0, f - 5))],
    ['backwards', (m) => reverse(rig, m), (f) => FRAMES - 1 - f],
    ['at four times the rate', (m) => resample(rig, m, 120), (f) => f / 4],
    ['at half the speed', (m) => retime(rig, m, 0.5), (f) => f / 2],
  ];
  test.each(changes)('%s: each label as it was, whole frames of numbers and sizes as they were', (_, change, from) => {
    const motion = every();
    const done = change(motion);
    for (let f = 0; f < done.frameCount; f++) {
      const x = from(f);
      const near = Math.round(x);
      const whole = Math.abs(x - near) < 1e-6;
      motion.steps.forEach((t, i) => {
        expect([f, labelAt(done.steps[i]!, f)]).toEqual([f, labelAt(t, whole ? near : Math.floor(x))]);
      });
      if (!whole) continue;
      motion.numbers.forEach((t, i) => expect(done.numbers[i]!.values[f]).toBe(t.values[near]));
      expect(done.scales[0]!.values[3 * f + 1]).toBe(motion.scales[0]!.values[3 * near + 1]);
    }
    expect(done.numbers.map((t) => t.between)).toEqual([undefined, 'hold', 'curve']);
  });

  test('mirrored: what has a side in its name changes sides, and twice is as before', () => {
    const { map } = party(rig);
    const motion = every();
    const done = mirror(rig, map, motion);
    expect(done.steps.map((t) => t.name)).toEqual(['eye L', 'eye R']);
    expect(done.steps[0]!.values).toEqual(motion.steps[1]!.values);
    expect(done.numbers[1]).toEqual({ ...motion.numbers[2], name: 'lid L' });
    const again = mirror(rig, map, done);
    expect([again.steps, again.numbers, again.scales]).toEqual([motion.steps, motion.numbers, motion.scales]);
  });

  test('closed to a loop: labels stay, numbers meet at the seam', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 40 }), (seed) => {
        const self = party(rig);
        const motion = every(seed);
        const done = closeLoop(self, motion);
        expect(done.steps.map((t) => t.values)).toEqual(motion.steps.map((t) => t.values));
        const jaw = done.numbers[0]!.values;
        expect(jaw[FRAMES - 1]).toBeCloseTo(jaw[0]!, 5);
      }),
      { numRuns: 5 },
    );
  });
});
