import { MotionError } from '../errors';
import { type FitSketch, MOMENT_WIDTH, MOMENTS } from './fit-sketch';
import { PLANT_PARTS, type PlantPart } from './plants';

// 0  u8  form, 1
// 1  u8  plants, n
// 2  u16 words of the parts that move: bytes of their text, t
// 4  f32 × 5  leg, arm, hands apart, hand to head, hand to hips
// 24 n × (u8 part, u8 0, i16 height in millimetres)
//    n × moments × 18 i16: hip centre in millimetres, directions in 32767ths
//    t bytes of text, parts with commas between
const FORM = 1;
const HEAD = 24;
const LENGTHS = 3;
const UNIT = 32767;

const clamp16 = (x: number): number => Math.max(-UNIT, Math.min(UNIT, Math.round(x)));

/** A sketch as bytes, a kilobyte or two, little endian. */
export function sketchToBytes(sketch: FitSketch): Uint8Array {
  const text = new TextEncoder().encode(sketch.moves.join(','));
  const n = sketch.plants.length;
  const out = new Uint8Array(HEAD + 4 * n + 2 * sketch.moments.length + text.length);
  const view = new DataView(out.buffer);
  view.setUint8(0, FORM);
  view.setUint8(1, n);
  view.setUint16(2, text.length, true);
  [sketch.leg, sketch.arm, sketch.handsApart, sketch.handToHead, sketch.handToHips].forEach((x, i) => {
    view.setFloat32(4 + 4 * i, x, true);
  });
  let at = HEAD;
  for (const { part, height } of sketch.plants) {
    view.setUint8(at, PLANT_PARTS.indexOf(part));
    view.setInt16(at + 2, clamp16(1000 * height), true);
    at += 4;
  }
  sketch.moments.forEach((x, i) => {
    view.setInt16(at, clamp16(i % MOMENT_WIDTH < LENGTHS ? 1000 * x : UNIT * x), true);
    at += 2;
  });
  out.set(text, at);
  return out;
}

/** Reads a sketch back. @throws MotionError 'not-this-format' on bytes that are none */
export function sketchFromBytes(bytes: Uint8Array): FitSketch {
  const fail = (): never => {
    throw new MotionError('not-this-format', 'These bytes hold no sketch of a motion.');
  };
  if (bytes.length < HEAD) fail();
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const n = view.getUint8(1);
  const textLength = view.getUint16(2, true);
  const numbers = n * MOMENTS.length * MOMENT_WIDTH;
  if (view.getUint8(0) !== FORM || bytes.length !== HEAD + 4 * n + 2 * numbers + textLength) fail();
  const [leg, arm, handsApart, handToHead, handToHips] = [0, 1, 2, 3, 4].map((i) =>
    view.getFloat32(4 + 4 * i, true),
  ) as [number, number, number, number, number];
  let at = HEAD;
  const plants = Array.from({ length: n }, () => {
    const part: PlantPart = PLANT_PARTS[view.getUint8(at)] ?? fail();
    const height = view.getInt16(at + 2, true) / 1000;
    at += 4;
    return { part, height };
  });
  const moments = new Float32Array(numbers);
  for (let i = 0; i < numbers; i++, at += 2) {
    const x = view.getInt16(at, true);
    moments[i] = i % MOMENT_WIDTH < LENGTHS ? x / 1000 : x / UNIT;
  }
  const text = new TextDecoder().decode(bytes.subarray(at));
  return { leg, arm, handsApart, handToHead, handToHips, plants, moments, moves: text === '' ? [] : text.split(',') };
}
