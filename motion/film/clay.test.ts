import { clayPicture, fromPicture, inPicture } from './clay';

const frame = { width: 40, height: 50, scale: 40 };
const square = (z: number, size = 0.4) => ({
  positions: [-size, 0.1, z, size, 0.1, z, size, 0.9, z, -size, 0.9, z],
  indices: [0, 1, 2, 0, 2, 3],
});
const at = (picture: Uint8ClampedArray, p: number[]): number[] => {
  const [x, y] = inPicture('front', frame, p).map(Math.round) as [number, number];
  return [...picture.slice(4 * (y * 40 + x), 4 * (y * 40 + x) + 4)];
};

test('a place in the picture is the place on the body again, and the other way is kept', () => {
  for (const view of ['front', 'side'] as const) {
    const p: [number, number, number] = [0.21, 0.63, -0.12];
    const back = fromPicture(view, frame, inPicture(view, frame, p), p);
    back.forEach((x, k) => expect(x).toBeCloseTo(p[k]!, 9));
  }
});

test('what is nearer hides what is behind it, however its faces are turned', () => {
  const tilted = { positions: [-0.1, 0.3, 0.3, 0.1, 0.3, 0.3, 0, 0.7, 0.1], indices: [0, 2, 1] };
  const alone = clayPicture('front', frame, [square(0)]);
  const both = clayPicture('front', frame, [tilted, square(0)]);
  expect(at(alone, [0.3, 0.5, 0])).toEqual(at(both, [0.3, 0.5, 0]));
  expect(at(alone, [0, 0.45, 0])).not.toEqual(at(both, [0, 0.45, 0]));
  expect(clayPicture('front', frame, [square(0), tilted])).toEqual(both);
  expect(at(both, [0.48, 0.95, 0])[3]).toBe(0);
});
