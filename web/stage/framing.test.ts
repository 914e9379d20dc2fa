import { expect, test } from '@jest/globals';
import { distanceFor, reshaped } from './framing';

const body = { height: 1.8, width: 1.2 };
const length = (v: readonly number[]): number => Math.hypot(...v);

test('everything is in the picture, whatever its shape', () => {
  for (const ratio of [0.3, 0.8, 1, 2.5])
    for (const shown of [body, { height: 1, width: 6 }]) {
      const far = distanceFor(shown, 30, ratio);
      const high = 2 * far * Math.tan((15 * Math.PI) / 180);
      expect(high).toBeGreaterThan(shown.height * 1.2);
      expect(high * ratio).toBeGreaterThan(shown.width * 1.05);
    }
});

test('a picture of another shape shows the same from the same side; a pixel more changes next to nothing', () => {
  const eye = [2.2, 0.9, 4.1] as const;
  // somebody has gone nearer by half: that stays
  const narrow = reshaped(eye, { height: 1, width: 4 }, 30, 1.6, 0.8);
  expect(length(narrow)).toBeGreaterThan(length(eye));
  for (const k of [0, 1, 2]) expect(narrow[k]! / length(narrow)).toBeCloseTo(eye[k]! / length(eye), 9);
  const back = reshaped(narrow, { height: 1, width: 4 }, 30, 0.8, 1.6);
  for (const k of [0, 1, 2]) expect(back[k]!).toBeCloseTo(eye[k]!, 9);
  const pixel = reshaped(eye, body, 30, 800 / 500, 801 / 500);
  expect(length(pixel.map((x, k) => x - eye[k]!))).toBeLessThan(0.01);
});
