import { unpackMotion, unpackRange } from './decode';
import { adler32 } from './layout';
import stored from './version-1.json' with { type: 'json' };

/** Motions that the release before packed, with sums of what it read back from them. */
const motions = stored.map((m) => ({ ...m, bytes: Uint8Array.from(Buffer.from(m.packed, 'hex')) }));
const sum = (values: Float32Array): number =>
  adler32(new Uint8Array(values.buffer, values.byteOffset, values.byteLength), 0);

describe('motions that were packed before', () => {
  test.each(motions.map((m) => [m.name, m] as const))('%s: every number is what it was', (_, m) => {
    const back = unpackMotion(m.bytes);
    expect([back.fps, back.frameCount]).toEqual([m.fps, m.frameCount]);
    expect(sum(back.turns)).toBe(m.turns);
    expect(back.places.map((t) => ({ joint: t.joint, values: sum(t.values) }))).toEqual(m.places);
    expect(back.numbers.map((t) => ({ name: t.name, values: sum(t.values) }))).toEqual(m.numbers);
    expect([back.scales, back.steps]).toEqual([[], []]);
  });

  test('a stretch of one is that stretch of the whole', () => {
    const { bytes } = motions[0]!;
    const whole = unpackMotion(bytes);
    const n = whole.turns.length / whole.frameCount;
    const part = unpackRange(bytes, 60, 140);
    expect(part.turns).toEqual(whole.turns.slice(60 * n, 140 * n));
    expect(part.numbers[0]!.values).toEqual(whole.numbers[0]!.values.slice(60, 140));
  });

  test('damage is noticed as ever', () => {
    const bad = motions[1]!.bytes.slice();
    bad[bad.length - 9] = bad[bad.length - 9]! ^ 4;
    expect(() => unpackMotion(bad)).toThrow(/checksum/);
  });
});
