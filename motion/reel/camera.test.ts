import fc from 'fast-check';
import { type CameraKey, shotAt } from './camera';

const key = (frame: number, eye: [number, number, number], more: Partial<CameraKey> = {}): CameraKey => ({
  frame,
  eye,
  target: [0, 1, 0],
  fov: 30,
  ...more,
});
const far = (a: readonly number[], b: readonly number[]): number => Math.hypot(...a.map((x, k) => x - b[k]!));

test('before the first and after the last key theirs holds; without one there is no shot', () => {
  const keys = [key(10, [0, 1, 4]), key(40, [4, 1, 0], { fov: 50 })];
  expect(shotAt([], 5)).toBeUndefined();
  expect(shotAt(keys, 0)).toEqual({ eye: [0, 1, 4], target: [0, 1, 0], fov: 30 });
  const end = shotAt(keys, 99)!;
  expect(far(end.eye, [4, 1, 0])).toBeLessThan(1e-9);
  expect(end.fov).toBe(50);
});

test('round somebody the eye keeps its distance, and halfway it is halfway round', () => {
  const keys = [key(0, [0, 1, 4], { ease: 'linear' }), key(30, [4, 1, 0])];
  for (let f = 0; f <= 30; f++) expect(far(shotAt(keys, f)!.eye, [0, 1, 0])).toBeCloseTo(4, 9);
  const half = shotAt(keys, 15)!.eye;
  expect(half[0]).toBeCloseTo(half[2], 9);
});

test('from one side to the opposite it goes round, not through', () => {
  const keys = [key(0, [0, 1, 4], { ease: 'linear' }), key(30, [0, 1, -4])];
  for (let f = 0; f <= 30; f++) expect(far(shotAt(keys, f)!.eye, [0, 1, 0])).toBeCloseTo(4, 9);
  const above = [key(0, [0, 5, 0], { ease: 'linear' }), key(30, [0, -3, 0])];
  expect(far(shotAt(above, 15)!.eye, [0, 1, 0])).toBeCloseTo(4, 9);
});

test('what is between two keys is as near as the nearer and no farther than the farther, and goes on without a jump', () => {
  const spot = fc.tuple(...([0, 1, 2] as const).map(() => fc.double({ min: -5, max: 5, noNaN: true }))) as fc.Arbitrary<
    [number, number, number]
  >;
  fc.assert(
    fc.property(spot, spot, spot, spot, (eyeA, eyeB, a, b) => {
      const keys: CameraKey[] = [
        { frame: 0, eye: eyeA, target: a, fov: 20, ease: 'linear' },
        { frame: 100, eye: eyeB, target: b, fov: 60 },
      ];
      const [near, wide] = [far(eyeA, a), far(eyeB, b)].sort((x, y) => x - y) as [number, number];
      let last = shotAt(keys, 0)!;
      expect(far(last.eye, eyeA)).toBeLessThan(1e-6);
      for (let f = 1; f <= 100; f++) {
        const now = shotAt(keys, f)!;
        const distance = far(now.eye, now.target);
        if (distance < near - 1e-6 || distance > wide + 1e-6) throw new Error(`${distance} m away at ${f}`);
        // a hundredth of the way, and of half a turn about what is looked at
        if (far(now.eye, last.eye) > 0.2 + 0.04 * wide + 1e-6) throw new Error(`a jump at ${f}`);
        last = now;
      }
      expect(far(last.eye, eyeB)).toBeLessThan(1e-5);
    }),
    { numRuns: 60 },
  );
});
