import fc from 'fast-check';
import { MotionError } from '../errors';
import { normalizeQuat } from '../math/quat';
import { type Motion, PoseReader } from '../motion/motion';
import { buildRig, posedRig, wander } from '../test/bodies';
import { openPacked, unpackMotion, unpackRange } from './decode';
import { packMotion } from './encode';
import { largestError } from './error';
import { adler32 } from './layout';

const rig = posedRig(60, 1, true);

describe('packing', () => {
  test.each([0.0005, 0.0001, 0.005])('keeps the bound of %s m', (bound) => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 300 }), fc.integer({ min: 1, max: 300 }), (seed, frames) => {
        const motion = wander(rig, frames, seed, 60, 1.2);
        const back = unpackMotion(packMotion(rig, motion, { bound }));
        expect(back.frameCount).toBe(frames);
        expect(largestError(rig, motion, back)).toBeLessThanOrEqual(bound);
      }),
      { numRuns: 6 },
    );
  });

  test('what a joint lies off its place does not add up along a limb', () => {
    const count = 24;
    const chain = buildRig(
      Array.from({ length: count }, (_, j) => [`link${j}`, j ? `link${j - 1}` : null, 0, 0.1 * j, 0]),
    );
    const motion = wander(chain, 256, 4, 60, 0.2);
    const back = unpackMotion(packMotion(chain, motion));
    const [truth, seen] = [new PoseReader(chain, motion), new PoseReader(chain, back)];
    const off = new Float64Array(count);
    for (let f = 0; f < motion.frameCount; f++) {
      const [a, b] = [truth.at(f).p, seen.at(f).p];
      for (let o = 0; o < a.length; o += 3)
        off[o / 3] = off[o / 3]! + Math.hypot(a[o]! - b[o]!, a[o + 1]! - b[o + 1]!, a[o + 2]! - b[o + 2]!);
    }
    expect(off[count - 1]! / off[5]!).toBeLessThan(1.35);
  });

  test('is much smaller than float32', () => {
    const motion = wander(rig, 600);
    expect(
      (motion.turns.byteLength + motion.places[0]!.values.byteLength) / packMotion(rig, motion).length,
    ).toBeGreaterThan(7);
  });

  test('keeps rate, numbers and signs', () => {
    const motion: Motion = {
      ...wander(rig, 200, 2, 29.97),
      numbers: [{ name: 'blink l\u00e4ft', values: Float32Array.from({ length: 200 }, (_, f) => Math.sin(f / 9)) }],
    };
    const back = unpackMotion(packMotion(rig, motion));
    expect(back.fps).toBeCloseTo(29.97, 4);
    expect(back.numbers[0]!.name).toBe('blink l\u00e4ft');
    back.numbers[0]!.values.forEach((x, f) => {
      expect(Math.abs(x - motion.numbers[0]!.values[f]!)).toBeLessThan(6e-4);
    });
    for (let o = 4 * rig.names.length; o < back.turns.length; o += 4) {
      let dot = 0;
      for (let k = 0; k < 4; k++) dot += back.turns[o + k]! * back.turns[o - 4 * rig.names.length + k]!;
      expect(dot).toBeGreaterThan(0);
    }
  });

  test('any range of frames can be read alone', () => {
    const motion = wander(rig, 400);
    const bytes = packMotion(rig, motion);
    const whole = unpackMotion(bytes);
    for (const [from, to] of [
      [0, 1],
      [127, 129],
      [250, 400],
      [0, 400],
    ] as const) {
      const part = unpackRange(bytes, from, to);
      expect([...part.turns]).toEqual([
        ...whole.turns.subarray(4 * rig.names.length * from, 4 * rig.names.length * to),
      ]);
      expect([...part.places[0]!.values]).toEqual([...whole.places[0]!.values.subarray(3 * from, 3 * to)]);
    }
    expect(() => unpackRange(bytes, 10, 401)).toThrow(MotionError);
  });

  test('labels come back exactly, numbers and sizes within half a 2000th of their largest, all with their names and ways', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 260 }),
        fc.array(fc.string({ maxLength: 12 }), { minLength: 1, maxLength: 9 }),
        fc.integer({ min: 1, max: 90 }),
        (frames, labels, stay) => {
          const motion: Motion = {
            ...wander(rig, frames, 5),
            scales: [
              {
                joint: 3,
                values: Float32Array.from({ length: 3 * frames }, (_, i) => 1 + 0.4 * Math.sin(i / 7)),
                between: 'curve',
              },
            ],
            numbers: [
              {
                name: 'exposure',
                values: Float32Array.from({ length: frames }, (_, f) => 2 + (f % 3)),
                between: 'hold',
              },
            ],
            steps: [
              {
                name: 'left eye',
                labels,
                values: Uint16Array.from({ length: frames }, (_, f) => Math.floor(f / stay) % labels.length),
              },
            ],
          };
          const back = unpackMotion(packMotion(rig, motion));
          expect(back.steps).toEqual(motion.steps);
          expect([back.scales[0]!.joint, back.scales[0]!.between]).toEqual([3, 'curve']);
          expect([back.numbers[0]!.name, back.numbers[0]!.between]).toEqual(['exposure', 'hold']);
          for (const [a, b] of [
            [motion.scales[0]!.values, back.scales[0]!.values],
            [motion.numbers[0]!.values, back.numbers[0]!.values],
          ] as const) {
            const most = Math.max(...a.map(Math.abs));
            a.forEach((x, i) => expect(Math.abs(x - b[i]!)).toBeLessThanOrEqual(most / 4000 + 1e-6));
          }
        },
      ),
      { numRuns: 8 },
    );
  });

  test('a quiet stretch beside a lively one gets steps of its own', () => {
    const lively = wander(rig, 256, 4, 60, 1.4);
    const n = 4 * rig.names.length;
    const quiet: Motion = {
      ...lively,
      // half of it stands nearly still
      turns: lively.turns.map((x, i) => (i < 128 * n ? x : lively.turns[128 * n + (i % n)]! * 0.999 + 0.001 * x)),
    };
    for (let o = 0; o < quiet.turns.length; o += 4) normalizeQuat(quiet.turns, o);
    const bytes = packMotion(rig, quiet);
    expect(largestError(rig, quiet, unpackMotion(bytes))).toBeLessThanOrEqual(0.0005);
    const { starts } = openPacked(bytes) as { starts: Uint32Array };
    expect(starts[2]! - starts[1]!).toBeLessThan(0.6 * (starts[1]! - starts[0]!));
  });

  test('half turns back and forth survive', () => {
    const motion = wander(rig, 150, 3, 60, 12);
    expect(largestError(rig, motion, unpackMotion(packMotion(rig, motion)))).toBeLessThanOrEqual(0.0005);
  });
});

describe('hostile bytes', () => {
  const good = packMotion(rig, wander(rig, 300));

  /** Puts the right checksum on, so that what comes after it is tested too. */
  function sealed(bytes: Uint8Array): Uint8Array {
    if (bytes.length > 44) new DataView(bytes.buffer).setUint32(40, adler32(bytes, 44), true);
    return bytes;
  }

  test('a wrong byte is noticed by the checksum', () => {
    const bad = good.slice();
    bad[bad.length >> 1] = bad[bad.length >> 1]! ^ 1;
    expect(() => unpackMotion(bad)).toThrow(/checksum/);
  });

  test('mutated bytes give a typed error or a motion, and nothing else', () => {
    const rounds = process.env.NIGHTLY ? 20_000 : 500;
    let seed = 7;
    const random = (): number => {
      seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0;
      return seed / 2 ** 32;
    };
    for (let i = 0; i < rounds; i++) {
      let bytes = good.slice();
      for (let k = 0; k <= random() * 6; k++)
        bytes[Math.floor(random() * (random() < 0.5 ? 300 : bytes.length))] = Math.floor(random() * 256);
      if (random() < 0.3) bytes = bytes.slice(0, Math.floor(random() * bytes.length));
      try {
        const motion = unpackMotion(random() < 0.9 ? sealed(bytes) : bytes);
        const joints = motion.turns.length / (4 * motion.frameCount);
        expect(Number.isInteger(joints)).toBe(true);
        for (const values of [motion.turns, ...motion.places.map((t) => t.values)])
          expect(values.findIndex((x) => !Number.isFinite(x))).toBe(-1);
        for (const t of motion.places) expect(t.values).toHaveLength(3 * motion.frameCount);
      } catch (error) {
        if (!(error instanceof MotionError)) throw new Error(`round ${i}: ${(error as Error).stack}`);
      }
    }
  });
});
