import { cubesAlong, flood } from './flood';
import { cubeAt, type Solid } from './solid';

/** A flat solid drawn row by row, # where it is filled. */
function drawn(...rows: string[]): Solid {
  const [nx, ny, nz] = [rows[0]!.length, rows.length, 3];
  const cubes = new Uint8Array(nx * ny * nz);
  rows.forEach((row, y) => {
    [...row].forEach((c, x) => {
      if (c === '#') cubes[x + nx * (y + ny)] = 1;
    });
  });
  return { nx, ny, nz, cell: 1, low: [0, 0, 0], cubes };
}
const solid = drawn('.......', '.#####.', '.#...#.', '.#.#.#.', '.......');
const at = (x: number, y: number): number => cubeAt(solid, [x + 0.5, y + 0.5, 1.5]);

test('ways lead through the solid alone, corners counted for what they are', () => {
  const { far } = flood(solid, [[at(1, 3), 7]]);
  expect(far[at(1, 1)]).toBeCloseTo(2, 5);
  // over both bends, each cut by a diagonal
  expect(far[at(5, 3)]).toBeCloseTo(2 + 2 * Math.SQRT2 + 2, 5);
  expect(far[at(3, 3)]).toBe(Number.POSITIVE_INFINITY);
  expect(far[at(2, 2)]).toBe(Number.POSITIVE_INFINITY);
});

test('of two beginnings a cube belongs to the nearer one, and empty ones stop both', () => {
  const { label } = flood(solid, [
    [at(1, 3), 1],
    [at(5, 3), 2],
  ]);
  expect([label[at(1, 1)], label[at(5, 1)], label[at(3, 3)]]).toEqual([1, 2, -1]);
  const shut = flood(drawn('.......', '.##.##.', '.#...#.', '.#.#.#.', '.......'), [[at(1, 3), 1]]);
  expect([shut.label[at(2, 1)], shut.label[at(3, 1)]]).toEqual([1, -1]);
});

test('a line passes every cube between its ends, and stays within the grid', () => {
  const passed = new Set(cubesAlong(solid, [1.5, 1.5, 1.5], [5.5, 1.5, 1.5]));
  expect(passed).toEqual(new Set([1, 2, 3, 4, 5].map((x) => at(x, 1))));
  for (const cube of cubesAlong(solid, [-9, 40, 1.5], [90, 2, 1.5])) expect(solid.cubes[cube]).toBeDefined();
});
