import fc from 'fast-check';
import { MotionError } from '../errors';
import { buildRig, wander } from '../test/bodies';
import { BitReader, BitWriter, zigzag } from './bits';
import { openPacked, type Packed, unpackMotion, unpackRange } from './decode';
import { packMotion } from './encode';
import { largestError } from './error';
import { adler32, BLOCK_FRAMES, HEADER_BYTES } from './layout';

/** Rice code with parameter k, as version 1 has it: quotient in ones, a zero, k low bits; 24 ones and 32 plain bits beyond. */
function rice(w: BitWriter, value: number, k: number): void {
  const quotient = value >>> k;
  const plain = (x: number, n: number): void => {
    if (n > 16) {
      w.bits(x & 0xffff, 16);
      w.bits((x >>> 16) & ((1 << (n - 16)) - 1), n - 16);
    } else if (n > 0) w.bits(x & ((1 << n) - 1), n);
  };
  if (quotient >= 24) {
    w.bits(0xffffff, 24);
    plain(value, 32);
    return;
  }
  w.bits((1 << quotient) - 1, quotient);
  w.bits(0, 1);
  plain(value, k);
}

const u32 = fc.integer({ min: 0, max: 0xffffffff });

describe('bits', () => {
  test('come back in their order, whatever their widths', () => {
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.integer({ min: 1, max: 24 }), u32), { maxLength: 200 }), (pieces) => {
        const w = new BitWriter();
        for (const [n, v] of pieces) w.bits(v, n);
        const bytes = w.finish();
        const r = new BitReader(bytes, 0, bytes.length);
        for (const [n, v] of pieces) expect(r.bits(n)).toBe(v & ((1 << n) - 1));
      }),
    );
  });

  test('gamma codes of any size come back', () => {
    fc.assert(
      fc.property(fc.array(fc.oneof(fc.constant(0xffffffff), u32), { maxLength: 60 }), (values) => {
        const w = new BitWriter();
        for (const v of values) w.gamma(v);
        const bytes = w.finish();
        const r = new BitReader(bytes, 0, bytes.length);
        for (const v of values) expect(r.gamma()).toBe(v);
      }),
    );
  });

  test('numbers of one Rice-coded run come back as they were, for every parameter', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: -(2 ** 30), max: 2 ** 30 - 1 }), { minLength: 1, maxLength: 60 }),
        fc.integer({ min: 0, max: 28 }),
        (values, k) => {
          const w = new BitWriter();
          for (const v of values) rice(w, zigzag(v), k);
          const bytes = w.finish();
          const out = new Float32Array(values.length);
          new BitReader(bytes, 0, bytes.length).run(out, 0, 1, values.length, k, 0, 1);
          values.forEach((v, i) => expect(out[i]).toBe(Math.fround(v)));
        },
      ),
    );
  });

  test('prediction of every order is undone on the way', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: -5000, max: 5000 }), { minLength: 1, maxLength: 80 }),
        fc.integer({ min: 0, max: 2 }),
        fc.integer({ min: 0, max: 12 }),
        (values, order, k) => {
          const w = new BitWriter();
          values.forEach((v, i) => {
            const [v1, v2] = [values[i - 1] ?? 0, values[i - 2] ?? 0];
            const guess = order === 0 || i === 0 ? 0 : order === 1 || i === 1 ? v1 : 2 * v1 - v2;
            rice(w, zigzag(v - guess), k);
          });
          const bytes = w.finish();
          const out = new Float32Array(3 * values.length);
          new BitReader(bytes, 0, bytes.length).run(out, 1, 3, values.length, k, order, 0.5);
          values.forEach((v, i) => {
            expect(out[1 + 3 * i]).toBe(v * 0.5);
            expect([out[3 * i], out[2 + 3 * i]]).toEqual([0, 0]);
          });
        },
      ),
    );
  });

  test('zigzag puts small numbers of either sign first', () => {
    expect([0, -1, 1, -2, 2].map(zigzag)).toEqual([0, 1, 2, 3, 4]);
  });

  test('reading on and on past the end is refused, not endless', () => {
    const r = new BitReader(Uint8Array.of(1), 0, 1);
    expect(() => {
      for (let i = 0; i < 1000; i++) r.bits(24);
    }).toThrow(MotionError);
  });

  test('the checksum is the well-known one', () => {
    const text = new TextEncoder().encode('Wikipedia');
    expect(adler32(text, 0)).toBe(0x11e60398);
    expect(adler32(new Uint8Array(0), 0)).toBe(1);
    expect(adler32(text, 4)).toBe(adler32(text.slice(4), 0));
  });
});

describe('packed motions', () => {
  const rig = buildRig();

  test.each([1, 2, 3, BLOCK_FRAMES - 1, BLOCK_FRAMES, BLOCK_FRAMES + 1, 3 * BLOCK_FRAMES + 5])(
    '%d frames keep their bound',
    (frames) => {
      const motion = wander(rig, frames, frames);
      const back = unpackMotion(packMotion(rig, motion));
      expect(back.frameCount).toBe(frames);
      expect(largestError(rig, motion, back)).toBeLessThanOrEqual(0.0005 + 1e-7);
    },
  );

  test('any stretch read alone is that stretch of the whole, in whatever order they are read', () => {
    const motion = wander(rig, 300, 3);
    const bytes = packMotion(rig, motion);
    const whole = unpackMotion(bytes);
    const n = 4 * rig.names.length;
    fc.assert(
      fc.property(fc.nat(299), fc.nat(299), (a, b) => {
        const [from, to] = [Math.min(a, b), Math.max(a, b)];
        const part = unpackRange(bytes, from, to + 1);
        expect(part.frameCount).toBe(to - from + 1);
        expect(part.turns).toEqual(whole.turns.slice(n * from, n * (to + 1)));
        expect(part.places[0]!.values).toEqual(whole.places[0]!.values.slice(3 * from, 3 * (to + 1)));
      }),
      { numRuns: 40 },
    );
  });

  test.each([
    [-1, 5],
    [5, 4],
    [0, 301],
    [0.5, 3],
  ])('a stretch from %d to %d that is not there is refused', (from, to) => {
    const bytes = packMotion(rig, wander(rig, 300, 3));
    expect(() => unpackRange(bytes, from, to)).toThrow(MotionError);
  });

  test('what is said in front is what is inside, without unpacking it', () => {
    const motion = {
      ...wander(rig, 50, 4),
      numbers: [{ name: 'jaw', values: Float32Array.from({ length: 50 }, (_, f) => Math.sin(f)) }],
    };
    const bytes = packMotion(rig, motion);
    const packed = openPacked(bytes);
    expect(packed).toMatchObject({ frames: 50, fps: 60, joints: rig.names.length });
    expect((packed as Packed).tracks.map((t) => [t.kind, t.name])).toEqual([
      ['place', ''],
      ['number', 'jaw'],
    ]);
    expect(bytes.length).toBeGreaterThan(HEADER_BYTES);
    const back = unpackMotion(bytes);
    back.numbers[0]!.values.forEach((x, f) => expect(x).toBeCloseTo(motion.numbers[0]!.values[f]!, 2));
  });

  test('a tighter bound costs more bytes and is kept', () => {
    const motion = wander(rig, 200, 7);
    const sizes = [0.002, 0.0005, 0.0001].map((bound) => {
      const bytes = packMotion(rig, motion, { bound });
      expect(largestError(rig, motion, unpackMotion(bytes))).toBeLessThanOrEqual(bound + 1e-7);
      return bytes.length;
    });
    expect(sizes[0]!).toBeLessThan(sizes[1]!);
    expect(sizes[1]!).toBeLessThan(sizes[2]!);
  });

  test('the same motion gives the same bytes', () => {
    const motion = wander(rig, 64, 9);
    expect(packMotion(rig, motion)).toEqual(packMotion(rig, { ...motion, turns: motion.turns.slice() }));
  });

  test('no prefix of a packed motion is taken for one', () => {
    const bytes = packMotion(rig, wander(rig, 40, 2));
    for (let cut = 0; cut < bytes.length; cut += Math.max(1, bytes.length >> 6))
      expect(() => unpackMotion(bytes.slice(0, cut))).toThrow(MotionError);
  });
});
