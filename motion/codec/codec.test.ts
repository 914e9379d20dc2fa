import fc from 'fast-check';
import { MotionError } from '../errors';
import type { Motion } from '../motion/motion';
import { posedRig, wander } from '../test/bodies';
import { BitReader, BitWriter, zigzag } from './bits';
import { unpackMotion, unpackRange } from './decode';
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

  test('is much smaller than float32', () => {
    const motion = wander(rig, 600);
    expect(
      (motion.turns.byteLength + motion.places[0]!.values.byteLength) / packMotion(rig, motion).length,
    ).toBeGreaterThan(7);
  });

  test('keeps rate, scalars and signs', () => {
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
    const rounds = process.env.NIGHTLY ? 20_000 : 1200;
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

describe('bits', () => {
  test('runs come back whatever prediction and parameter', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: -3_000_000, max: 3_000_000 }), { minLength: 1, maxLength: 60 }),
        fc.integer({ min: 0, max: 2 }),
        fc.integer({ min: 0, max: 28 }),
        (values, order, k) => {
          const out = new BitWriter();
          let v1 = 0;
          let v2 = 0;
          values.forEach((v, i) => {
            const guess = order === 0 || i === 0 ? 0 : order === 1 || i === 1 ? v1 : 2 * v1 - v2;
            out.rice(zigzag((v - guess) | 0), k);
            v2 = v1;
            v1 = v;
          });
          const bytes = out.finish();
          const back = new Float32Array(values.length);
          new BitReader(bytes, 0, bytes.length).run(back, 0, 1, values.length, k, order, 1);
          expect([...back]).toEqual(values);
        },
      ),
    );
  });
});
