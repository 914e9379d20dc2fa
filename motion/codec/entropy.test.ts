import fc from 'fast-check';
import { BitReader, BitWriter } from './bits';
import { levelOf, ONE, SymbolReader, SymbolWriter, TOP } from './entropy';
import { readGroup, writeGroup } from './runs';

describe('symbols under widths', () => {
  test('whatever is written under whatever width is read', () => {
    const piece = fc.tuple(
      fc.oneof(
        fc.integer({ min: 0, max: 40 }),
        fc.integer({ min: 0, max: 100_000 }),
        fc.integer({ min: 0, max: 0xffffffff }),
      ),
      fc.integer({ min: 0, max: TOP }),
    );
    fc.assert(
      fc.property(fc.array(piece, { maxLength: 300 }), (pieces) => {
        const symbols = new SymbolWriter();
        const plain = new BitWriter();
        for (const [value, level] of pieces) symbols.add(value | 0, level, plain);
        const [coded, told] = [symbols.finish(), plain.finish()];
        const reader = new SymbolReader(coded, 0, coded.length);
        const bits = new BitReader(told, 0, told.length);
        for (const [value, level] of pieces) expect(reader.next(level, bits)).toBe(value | 0);
      }),
    );
  });

  test('what fits its width costs little: some two bits at a mean of one, next to nothing where all is 0', () => {
    const cost = (value: (i: number) => number, mean: number): number => {
      const symbols = new SymbolWriter();
      const plain = new BitWriter();
      for (let i = 0; i < 10_000; i++) symbols.add(value(i), levelOf(mean * ONE), plain);
      return (8 * (symbols.finish().length + plain.finish().length)) / 10_000;
    };
    expect(cost((i) => [0, 1, 2, 0, 3, 0, 1, 2][i % 8]!, 1)).toBeLessThan(2.4);
    expect(cost(() => 0, 1 / 16)).toBeLessThan(0.15);
    expect(cost((i) => (i * 7919) % 2000, 500)).toBeLessThan(11.6);
  });

  test('levels rise with means, four an octave', () => {
    for (let mean = 4; mean < 5000; mean++) {
      expect(levelOf(2 * mean) - levelOf(mean)).toBe(4);
      expect(levelOf(mean + 1)).toBeGreaterThanOrEqual(levelOf(mean));
    }
  });
});

describe('groups of runs', () => {
  test('come back to the number, leaps over the whole range of 32 bits included', () => {
    const value = fc.oneof(fc.integer({ min: -20, max: 20 }), fc.integer({ min: -(2 ** 31), max: 2 ** 31 - 1 }));
    const group = fc
      .integer({ min: 1, max: 140 })
      .chain((count) =>
        fc.array(fc.array(value, { minLength: count, maxLength: count }), { minLength: 1, maxLength: 4 }),
      );
    fc.assert(
      fc.property(group, (runs) => {
        const count = runs[0]!.length;
        const symbols = new SymbolWriter();
        const plain = new BitWriter();
        writeGroup(
          runs.map((r) => Int32Array.from(r)),
          count,
          symbols,
          plain,
        );
        const [told, coded] = [plain.finish(), symbols.finish()];
        const out = new Float32Array(5 * count + 1);
        readGroup(
          out,
          runs.map((_, k) => k),
          1,
          5,
          count,
          1,
          new SymbolReader(coded, 0, coded.length),
          new BitReader(told, 0, told.length),
        );
        runs.forEach((run, k) => {
          run.forEach((v, i) => expect(out[1 + 5 * i + k]).toBe(Math.fround(v)));
        });
      }),
    );
  });

  test('a parabola costs next to nothing', () => {
    const run = Int32Array.from({ length: 128 }, (_, i) => 3 * i * i - 50 * i + 7);
    const symbols = new SymbolWriter();
    const plain = new BitWriter();
    writeGroup([run], 128, symbols, plain);
    expect(symbols.finish().length + plain.finish().length).toBeLessThan(32);
  });
});
