import { handGraph, waysFrom } from './hand-graph';
import { weld } from './weld';

/** A strip of squares along x, two triangles each, from nought to `long`; `apart` gives every triangle its own vertices. */
function strip(long: number, z = 0, apart = false, y = 0) {
  const positions: number[] = [];
  const indices: number[] = [];
  const corner = (x: number, side: number): number => {
    positions.push(x, y, z + side);
    return positions.length / 3 - 1;
  };
  let [a, b] = [corner(0, 0), corner(0, 0.2)];
  for (let x = 1; x <= long; x++) {
    const [c, d] = [corner(x, 0), corner(x, 0.2)];
    indices.push(a, c, b, b, c, d);
    [a, b] = apart ? [corner(x, 0), corner(x, 0.2)] : [c, d];
  }
  return { positions, indices };
}
const AHEAD = [1, 0, 0];

test('vertices at one place are one, within a surface and between them', () => {
  const { welded, count } = weld([strip(3, 0, true), strip(3)]);
  expect(count).toBe(8);
  expect(welded[0]![2]).toBe(welded[0]![4]);
  expect(welded[1]![0]).toBe(welded[0]![0]);
});

test('what lies beyond the wrist hangs together over the edges of its triangles', () => {
  const graph = handGraph([strip(6, 0, true)], [2, 0, 0.1], AHEAD, 10);
  // from a little behind the wrist on
  const xs = [...graph.points].filter((_, i) => i % 3 === 0);
  expect([Math.min(...xs), Math.max(...xs)]).toEqual([1, 6]);
  expect(graph.pointOf[0]![0]).toBe(-1);
  const { far, pieces } = waysFrom(graph, [2, 0, 0.1], AHEAD, 10);
  expect(pieces).toHaveLength(1);
  const end = xs.indexOf(6);
  expect(far[end]).toBeCloseTo(4, 1);
});

test('a surface beside the hand is a piece of its own, and comes after the nearer one', () => {
  const graph = handGraph([strip(6, 3), strip(6)], [0, 0, 0.1], AHEAD, 10);
  const { far, pieces } = waysFrom(graph, [0, 0, 0.1], AHEAD, 10);
  expect(pieces).toHaveLength(2);
  const zOf = (piece: readonly number[]): number => graph.points[3 * piece[0]! + 2]!;
  expect(zOf(pieces[0]!)).toBeLessThan(1);
  expect(zOf(pieces[1]!)).toBeGreaterThan(2);
  expect([...far].every(Number.isFinite)).toBe(true);
});

test('a glove that begins beyond the wrist begins at its own end', () => {
  const glove = { ...strip(4), positions: strip(4).positions.map((v, i) => (i % 3 === 0 ? v + 2 : v)) };
  const { far } = waysFrom(handGraph([glove], [0, 0, 0.1], AHEAD, 10), [0, 0, 0.1], AHEAD, 10);
  expect(Math.min(...far)).toBeCloseTo(2, 5);
  expect(Math.max(...far)).toBeCloseTo(6, 1);
});
