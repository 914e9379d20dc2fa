import fc from 'fast-check';
import { type Bend, type Ease, easeAt, splitEase, stretchAt, valueAt } from './curve';

const share = fc.double({ min: 0, max: 1, noNaN: true });
const bend: fc.Arbitrary<Bend> = fc.tuple(
  share,
  fc.double({ min: -1, max: 2, noNaN: true }),
  share,
  fc.double({ min: -1, max: 2, noNaN: true }),
);
const anyEase: fc.Arbitrary<Ease> = fc.oneof(fc.constantFrom<Ease>('smooth', 'linear', 'step'), bend);

describe('easing', () => {
  test('begins at 0 and ends at 1, whatever the way', () => {
    fc.assert(fc.property(anyEase, (ease) => expect([easeAt(ease, 0), easeAt(ease, 1)]).toEqual([0, 1])));
  });

  test('the named ways are bends, too', () => {
    fc.assert(
      fc.property(share, (x) => {
        expect(easeAt([1 / 3, 0, 2 / 3, 1], x)).toBeCloseTo(easeAt('smooth', x), 9);
        expect(easeAt([1 / 3, 1 / 3, 2 / 3, 2 / 3], x)).toBeCloseTo(x, 9);
      }),
    );
  });

  test('a stretch cut in two runs as the whole did', () => {
    fc.assert(
      fc.property(anyEase, fc.double({ min: 0.02, max: 0.98, noNaN: true }), share, (ease, cut, x) => {
        const { before, after, share: at } = splitEase(ease, cut);
        fc.pre(ease === 'step' || (Math.abs(at) > 1e-3 && Math.abs(1 - at) > 1e-3));
        const parts = x < cut ? at * easeAt(before, x / cut) : at + (1 - at) * easeAt(after, (x - cut) / (1 - cut));
        // the curve may be upright: then a time's rounding is a value's leap
        const steep = Math.abs(easeAt(ease, Math.min(1, x + 1e-9)) - easeAt(ease, Math.max(0, x - 1e-9)));
        expect(Math.abs(parts - easeAt(ease, x))).toBeLessThan(1e-6 + 2 * steep);
      }),
      { numRuns: 2000 },
    );
  });
});

describe('a time among keys', () => {
  const keys = [
    { at: 1, value: 10 },
    { at: 2, value: 20, ease: 'linear' as const },
    { at: 4, value: 0, ease: 'step' as const },
    { at: 5, value: 7 },
  ];
  const read = {
    time: (k: (typeof keys)[number]) => k.at,
    value: (k: (typeof keys)[number]) => k.value,
    ease: (k: (typeof keys)[number]): Ease => k.ease ?? 'smooth',
  };

  test.each([
    [-3, 10],
    [1, 10],
    [1.5, 15],
    [1.25, 10 + 10 * (3 / 16 - 2 / 64)],
    [3, 10],
    [4.999, 0],
    [5, 7],
    [99, 7],
  ])('at %d the value is %d', (at, value) => {
    expect(valueAt(keys, read, at)).toBeCloseTo(value, 9);
  });

  test('without keys there is none', () => {
    expect(stretchAt([], read.time, read.ease, 1)).toBeUndefined();
    expect(valueAt([], read, 1, 5)).toBe(5);
  });
});
