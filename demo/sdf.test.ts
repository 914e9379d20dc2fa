import { type Blob, distanceTo, surfaceNets } from './sdf';

const blob = (more: Partial<Blob>): Blob => ({
  joint: 0,
  a: [0, 1, 0],
  b: [0, 1, 0],
  ra: 0.2,
  rb: 0.2,
  color: [1, 1, 1],
  soft: 0,
  ...more,
});

test('distances of a ball, a box and a flattened ball', () => {
  expect(distanceTo(blob({}), 0.5, 1, 0)).toBeCloseTo(0.3, 12);
  expect(distanceTo(blob({ box: [0.1, 0.2, 0.3], ra: 0.05 }), 0, 1, 0.45)).toBeCloseTo(0.1, 12);
  expect(distanceTo(blob({ squash: [1, 0.25, 1] }), 0, 1.05, 0)).toBeCloseTo(0, 12);
});

test.each([
  ['a ball', {}, [0.2, 0.2, 0.2]],
  ['a flattened ball', { squash: [1, 0.25, 1] }, [0.2, 0.05, 0.2]],
  ['a plate', { squash: [2, 0.1, 1], ra: 0.4, rb: 0.4 }, [0.8, 0.04, 0.4]],
] as const)('%s has a whole surface of its size, however the room about it is divided', (_, more, half) => {
  for (const cell of [0.01, 0.017]) {
    const body = blob(more as Partial<Blob>);
    const { positions, indices } = surfaceNets([body], [-0.9, 0.5, -0.5], [0.9, 1.5, 0.5], cell);
    const edges = new Map<string, number>();
    for (let t = 0; t < indices.length; t += 3)
      for (let k = 0; k < 3; k++) {
        const key = [indices[t + k]!, indices[t + ((k + 1) % 3)]!].sort((a, b) => a - b).join();
        edges.set(key, (edges.get(key) ?? 0) + 1);
      }
    expect([...edges.values()].every((count) => count % 2 === 0)).toBe(true);
    for (let k = 0; k < 3; k++) {
      let most = 0;
      for (let o = k; o < positions.length; o += 3) most = Math.max(most, positions[o]! - body.a[k]!);
      expect(Math.abs(most - half[k]!)).toBeLessThan(cell);
    }
  }
});
