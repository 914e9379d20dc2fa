import type { Motion } from '../motion/motion';

/** Values that differ by less than these parts are one: of a quaternion's component, a metre, a size or a number. */
const PARTS = 1e5;

/**
 * A motion's values as bytes that say nothing of how it is kept: the same motion gives the same bytes whatever codec packs it,
 * so a hash of them is an address that outlives the codec. Turns in the half of the sphere where the largest component is
 * positive; every value rounded to a 100,000th (turns to some 0.001°, places to 0.01 mm).
 * @returns bytes to be hashed; they cannot be turned back into the motion
 */
export function canonicalBytes(motion: Motion): Uint8Array {
  const { turns, places, scales, numbers, steps } = motion;
  const head = new TextEncoder().encode(
    JSON.stringify([
      motion.frameCount,
      Math.round(motion.fps * PARTS),
      turns.length,
      places.map((t) => [t.joint, t.between ?? 'line']),
      scales.map((t) => [t.joint, t.between ?? 'line']),
      numbers.map((t) => [t.name, t.between ?? 'line']),
      steps.map((t) => [t.name, t.labels]),
    ]),
  );
  const tracks = [...places, ...scales, ...numbers];
  const count = turns.length + [...tracks, ...steps].reduce((sum, t) => sum + t.values.length, 0);
  const bytes = new Uint8Array(4 * Math.ceil(head.length / 4) + 4 * count);
  bytes.set(head);
  const view = new DataView(bytes.buffer);
  let at = bytes.length - 4 * count;
  const put = (x: number): void => {
    view.setInt32(at, x, true);
    at += 4;
  };
  for (let o = 0; o < turns.length; o += 4) {
    let largest = o;
    for (let k = 1; k < 4; k++) if (Math.abs(turns[o + k]!) > Math.abs(turns[largest]!) + 1e-6) largest = o + k;
    const sign = turns[largest]! < 0 ? -1 : 1;
    for (let k = 0; k < 4; k++) put(Math.round(sign * turns[o + k]! * PARTS));
  }
  for (const { values } of tracks) for (let i = 0; i < values.length; i++) put(Math.round(values[i]! * PARTS));
  for (const { values } of steps) for (let i = 0; i < values.length; i++) put(values[i]!);
  return bytes;
}
