import fc from 'fast-check';
import { closingKeys, type Offset } from './closing';

/** What closes the gap of a pivot that lies at (x, y) beside its joint. */
const closes = ([x, y]: readonly [number, number], turn: number): Offset => ({
  x: x - (Math.cos(turn) * x - Math.sin(turn) * y),
  y: y - (Math.sin(turn) * x + Math.cos(turn) * y),
  turn,
});

describe('keys that close gaps', () => {
  test('agree on a pivot, however far they go; what does not agree and goes far is meant', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.005, max: 0.03, noNaN: true }),
        fc.double({ min: 0, max: 2 * Math.PI, noNaN: true }),
        fc.double({ min: 0, max: 2 * Math.PI, noNaN: true }),
        (far, at, aside) => {
          const pivot = [far * Math.cos(at), far * Math.sin(at)] as const;
          const turned = [-2, -1.2, 0.9, 1.7, 2.4].map((t) => closes(pivot, t));
          const meant = { x: 0.3 * Math.cos(aside), y: 0.3 * Math.sin(aside), turn: 0.2 };
          expect(closingKeys([...turned, meant], 1, 0.02)).toEqual([true, true, true, true, true, false]);
        },
      ),
    );
  });

  test('what is held off does not explain itself', () => {
    const held = [0.4, 0.42, 0.45, 0.5].map((turn) => ({ x: 0.03, y: 0.01, turn }));
    expect(closingKeys(held, 1, 0.02)).toEqual([false, false, false, false]);
  });

  test('what leaves the attachment and comes back to it, past gaps that it opens, is meant though the pivot would explain it', () => {
    const pivot = [0.02, 0.01] as const;
    const turned = [-2, -1.2, 0.9, 1.7].map((t) => closes(pivot, t));
    const on = (turn: number): Offset => ({ x: 0, y: 0, turn });
    const off = closes(pivot, 2.2);
    expect(closingKeys([...turned, on(1.5), off, on(-1.4)], 1, 0.02)[5]).toBe(false);
    // hardly turned, the attachment itself leaves no gap: then it only closes one
    expect(closingKeys([...turned, on(0.02), off, on(-1.4)], 1, 0.02)[5]).toBe(true);
  });

  test('a joint that never turns tells by size alone', () => {
    const keys = [0.001, 0.015, 0.05].map((x) => ({ x, y: 0, turn: 0 }));
    expect(closingKeys(keys, 1, 0.02)).toEqual([true, true, false]);
    expect(closingKeys([], 1, 0.02)).toEqual([]);
  });
});
