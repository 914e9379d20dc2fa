import fc from 'fast-check';
import { quietKnee } from './quiet-knees';

const BONES = [0.45, 0.43] as const;
const FULL = BONES[0] + BONES[1];
const bendOf = (d: number): number =>
  Math.acos(Math.max(-1, Math.min(1, (d * d - BONES[0] ** 2 - BONES[1] ** 2) / (2 * BONES[0] * BONES[1]))));
const sharpest = (distance: ArrayLike<number>): number => {
  let most = 0;
  for (let f = 1; f + 1 < distance.length; f++)
    most = Math.max(most, Math.abs(bendOf(distance[f - 1]!) - 2 * bendOf(distance[f]!) + bendOf(distance[f + 1]!)));
  return most;
};
/** A leg that stretches slowly and jumps by 4 mm in one frame. */
const course = (): Float64Array =>
  Float64Array.from({ length: 40 }, (_, f) => FULL * (0.95 + 0.02 * Math.sin(f / 8)) + (f === 20 ? 0.004 : 0));
const after = (distance: Float64Array, change: Float64Array): Float64Array => distance.map((d, f) => d + change[f]!);

test('nothing is changed where no knee bends too suddenly', () => {
  const distance = course();
  expect(quietKnee({ distance, bones: BONES, room: () => [1, 1] }, sharpest(distance) + 1e-9)).toBeUndefined();
});

test('a jump of one frame is eased to what is allowed, by no more than the jump, near it alone', () => {
  const distance = course();
  const allowed = sharpest(distance) / 4;
  const change = quietKnee({ distance, bones: BONES, room: () => [0.02, 0.02] }, allowed)!;
  expect(sharpest(after(distance, change))).toBeLessThanOrEqual(allowed * 1.001);
  expect(Math.max(...change.map(Math.abs))).toBeLessThan(0.004);
  expect([...change.keys()].filter((f) => change[f] !== 0).every((f) => Math.abs(f - 20) < 8)).toBe(true);
});

test('frames without room stay, those with room on one side keep to it', () => {
  const distance = course();
  const room = (f: number): readonly [number, number] => (f >= 20 ? [0, 0] : [0, 0.002]);
  const change = quietKnee({ distance, bones: BONES, room }, sharpest(distance) / 4)!;
  expect(change.some((x) => x > 0)).toBe(true);
  change.forEach((x, f) => {
    expect(x).toBeGreaterThanOrEqual(-1e-12);
    expect(x).toBeLessThanOrEqual((f >= 20 ? 0 : 0.002) + 1e-12);
  });
});

test('whatever the course, distances stay within their room and no knee bends more suddenly than before', () => {
  fc.assert(
    fc.property(
      fc.array(fc.double({ min: 0.7, max: 0.995, noNaN: true }), { minLength: 3, maxLength: 40 }),
      fc.double({ min: 0.01, max: 0.5, noNaN: true }),
      fc.double({ min: 0, max: 0.02, noNaN: true }),
      (shares, allowed, room) => {
        const distance = Float64Array.from(shares, (x) => x * FULL);
        const change = quietKnee({ distance, bones: BONES, room: () => [room, room] }, allowed);
        if (!change) return;
        for (const x of change) expect(Math.abs(x)).toBeLessThanOrEqual(room + 1e-9);
        expect(sharpest(after(distance, change))).toBeLessThanOrEqual(sharpest(distance) + 1e-9);
      },
    ),
    { numRuns: 200 },
  );
});
