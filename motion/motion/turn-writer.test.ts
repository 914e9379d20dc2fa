import { angleBetweenQuats } from '../math/quat';
import { buildRig } from '../test/bodies';
import type { Motion } from './motion';
import { TurnWriter } from './turn-writer';

describe('turns written back in their parents’ frames', () => {
  const rig = buildRig();
  const n = rig.names.length;
  const motion: Motion = {
    fps: 30,
    frameCount: 3,
    turns: Float32Array.from({ length: 12 * n }, (_, i) => (i % 4 === 3 ? 1 : 0)),
    places: [],
    numbers: [],
    scales: [],
    steps: [],
  };
  const half = Math.SQRT1_2;

  it('stores above⁻¹ · own, unit, and leaves the motion and other joints alone', () => {
    const writer = new TurnWriter(motion);
    // the parent looks along X turned by 90°, the joint by 180° about the same axis, given at twice its length
    writer.write(1, 2, Float64Array.of(half, 0, 0, half), 0, Float64Array.of(9, 2, 0, 0, 0), 1);
    const o = 4 * (n + 2);
    const stored = writer.turns.slice(o, o + 4);
    expect(angleBetweenQuats(stored, 0, [half, 0, 0, half], 0)).toBeLessThan(1e-6);
    expect(Math.hypot(...stored)).toBeCloseTo(1, 6);
    expect(motion.turns[o + 3]).toBe(1);
    expect(writer.turns.filter((x, i) => x !== motion.turns[i] && (i < o || i > o + 3))).toHaveLength(0);
  });

  it('takes the turn as it is where there is no parent', () => {
    const writer = new TurnWriter(motion);
    writer.write(0, 0, Float64Array.of(half, 0, 0, half), -4, Float64Array.of(0, half, 0, half), 0);
    expect([...writer.turns.slice(0, 4)]).toEqual([0, Math.fround(half), 0, Math.fround(half)]);
  });

  it('goes on with the sign of the frame before, written or kept', () => {
    const writer = new TurnWriter(motion);
    const none = Float64Array.of(0, 0, 0, 1);
    writer.write(0, 1, none, 0, Float64Array.of(0, 0, 0, -1), 0);
    expect(writer.turns[7]).toBe(-1);
    writer.write(1, 1, none, 0, Float64Array.of(0, 0.1, 0, 1), 0);
    expect(writer.turns[4 * (n + 1) + 3]).toBeLessThan(0);
    writer.keep(2, 1);
    expect(writer.turns[4 * (2 * n + 1) + 3]).toBe(-1);
  });
});
