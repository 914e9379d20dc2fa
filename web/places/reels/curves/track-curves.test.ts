import { easeAt, type OffsetKey } from '@velvet-reel/motion';
import fc from 'fast-check';
import {
  addKey,
  bendPoints,
  bentTo,
  type Channel,
  keyValue,
  putKey,
  retimed,
  setEase,
  valueAtFrame,
  withValue,
} from './track-curves';

const CHANNELS: Channel[] = (['move', 'turn'] as const).flatMap((kind) =>
  ([0, 1, 2] as const).map((axis): Channel => ({ kind, axis })),
);
const number = (most: number) => fc.double({ min: -most, max: most, noNaN: true });
const ease = fc.oneof(
  fc.constantFrom('smooth' as const, 'linear' as const, 'step' as const),
  fc.tuple(
    fc.double({ min: 0.05, max: 0.95, noNaN: true }),
    fc.double({ min: 0, max: 1, noNaN: true }),
    fc.double({ min: 0.05, max: 0.95, noNaN: true }),
    fc.double({ min: 0, max: 1, noNaN: true }),
  ),
);
/** Keys that say where a part is moved and turned to; so far apart that a bend beyond both of them is still below half a turn. */
const keysOf = fc
  .uniqueArray(fc.integer({ min: 0, max: 200 }), { minLength: 2, maxLength: 6 })
  .chain((frames) =>
    fc.tuple(
      ...[...frames]
        .sort((a, b) => a - b)
        .map((frame) =>
          fc.record({
            frame: fc.constant(frame),
            vector: fc.tuple(number(25), number(25), number(25)),
            move: fc.tuple(number(0.5), number(0.5), number(0.5)),
            ease,
          }),
        ),
    ),
  )
  .map((all) =>
    all.map(({ frame, vector, move, ease }): OffsetKey => {
      let key: OffsetKey = { frame, move, ease, turn: [0, 0, 0, 1] };
      vector.forEach((v, axis) => {
        key = withValue(key, { kind: 'turn', axis: axis as 0 | 1 | 2 }, v);
      });
      return key;
    }),
  );

test('a value that is set is the value that is read, and the other channels stay', () => {
  fc.assert(
    fc.property(keysOf, fc.constantFrom(...CHANNELS), number(50), ([key], channel, value) => {
      const next = withValue(key!, channel, value);
      for (const other of CHANNELS) {
        const due = other.kind === channel.kind && other.axis === channel.axis ? value : keyValue(key!, other)!;
        expect(keyValue(next, other)).toBeCloseTo(due, 6);
      }
    }),
  );
});

test('a key added between others leaves every curve as it was', () => {
  fc.assert(
    fc.property(keysOf, fc.double({ min: 0.01, max: 0.99, noNaN: true }), (keys, share) => {
      const [first, last] = [keys[0]!.frame, keys.at(-1)!.frame];
      const frame = Math.round(first + share * (last - first));
      // where a bend passes the value of either end, what is left cannot be told as a share of nothing; see splitEase
      const from = keys.findLast((k) => k.frame < frame);
      const to = keys.find((k) => k.frame > frame);
      if (from && to && from.ease !== 'step') {
        const way = easeAt(from.ease!, (frame - from.frame) / (to.frame - from.frame));
        fc.pre(Math.abs(way) > 0.02 && Math.abs(1 - way) > 0.02);
      }
      const more = addKey(keys, frame)!;
      expect(more.some((k) => k.frame === frame)).toBe(true);
      let most = 0;
      for (const channel of CHANNELS)
        for (let f = first - 5; f <= last + 5; f += 0.5) {
          // where the way jumps, a hair before and after are far apart
          if (keys.some((k) => Math.abs(k.frame - f) < 1e-9)) continue;
          most = Math.max(most, Math.abs(valueAtFrame(more, channel, f)! - valueAtFrame(keys, channel, f)!));
        }
      expect(most).toBeLessThan(1e-3);
    }),
    { numRuns: 60 },
  );
});

test('a key that is put where another stands replaces it', () => {
  const keys: OffsetKey[] = [{ frame: 3 }, { frame: 8 }, { frame: 12 }];
  expect(putKey(keys, 3, { frame: 8, move: [1, 0, 0] })).toEqual([{ frame: 8, move: [1, 0, 0] }, { frame: 12 }]);
});

test('keys of a range are moved and stretched as a group; what stands in their way goes', () => {
  const keys: OffsetKey[] = [0, 10, 20, 30, 40].map((frame) => ({ frame, move: [frame, 0, 0] }));
  const next = retimed(keys, { start: 10, end: 30 }, { start: 12, end: 52 });
  expect(next.map((k) => [k.frame, k.move![0]])).toEqual([
    [0, 0],
    [12, 10],
    [32, 20],
    [40, 40],
    [52, 30],
  ]);
  const onto = retimed(keys, { start: 10, end: 20 }, { start: 30, end: 40 });
  expect(onto.map((k) => [k.frame, k.move![0]])).toEqual([
    [0, 0],
    [30, 10],
    [40, 20],
  ]);
  // squeezed onto fewer frames than there are keys: the later one of those that meet
  expect(retimed(keys, { start: 0, end: 40 }, { start: 5, end: 6 }).map((k) => [k.frame, k.move![0]])).toEqual([
    [5, 10],
    [6, 40],
  ]);
});

describe('bends', () => {
  const up: Channel = { kind: 'move', axis: 1 };
  const keys: OffsetKey[] = [
    { frame: 10, move: [0, 0, 0] },
    { frame: 30, move: [0, 0.2, 0] },
  ];

  test('stand a third of the time away and are level for a smooth way', () => {
    const [a, b] = bendPoints(keys[0]!, keys[1]!, up)!;
    expect([a.value, b.value]).toEqual([0, 20]);
    expect(a.frame).toBeCloseTo(10 + 20 / 3, 9);
    expect(b.frame).toBeCloseTo(30 - 20 / 3, 9);
  });

  test('go where they are put, within the stretch, and the curve follows', () => {
    const bent = bentTo(keys[0]!, keys[1]!, up, 0, { frame: 26, value: -4 });
    const next = setEase(keys, 10, bent);
    const [a] = bendPoints(next[0]!, next[1]!, up)!;
    expect(a.frame).toBeCloseTo(26, 9);
    expect(a.value).toBeCloseTo(-4, 9);
    expect(valueAtFrame(next, up, 20)).toBeCloseTo(20 * easeAt(bent, 0.5), 9);
    expect(valueAtFrame(next, up, 20)).toBeLessThan(valueAtFrame(keys, up, 20)!);
    const outside = bentTo(keys[0]!, keys[1]!, up, 1, { frame: 99, value: 5 });
    expect((outside as readonly number[])[2]).toBe(1);
  });

  test('there are none where nothing changes, and none for a hold', () => {
    expect(bendPoints(keys[0]!, keys[1]!, { kind: 'move', axis: 0 })).toBeUndefined();
    expect(bendPoints({ ...keys[0]!, ease: 'step' }, keys[1]!, up)).toBeUndefined();
  });
});
