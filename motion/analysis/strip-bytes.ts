import { MotionError } from '../errors';
import { PLANT_PARTS, type Plant } from './plants';
import { type Strip, WIDTH } from './strip';

const STRIP_MAGIC = 0x5356; // "VS"
const PLANT_BYTES = 9;

/** A strip as bytes, some five kilobytes: see docs/formats/strip.md. */
export function stripToBytes(strip: Strip): Uint8Array {
  const s = strip.frames.length;
  const bytes = new Uint8Array(
    24 + 4 * s + 6 * s + 4 * WIDTH * s + strip.poses.length + PLANT_BYTES * strip.plants.length,
  );
  const view = new DataView(bytes.buffer);
  view.setUint16(0, STRIP_MAGIC, true);
  view.setUint8(2, 2);
  view.setUint8(3, s);
  view.setUint32(4, strip.frameCount, true);
  view.setFloat32(8, strip.fps, true);
  view.setFloat32(12, strip.view, true);
  view.setUint16(16, strip.poses.length, true);
  view.setUint16(18, Math.min(65535, strip.plants.length), true);
  // as fine as the way allows: 1/500 leg up to 65 legs, coarser beyond
  const unit = strip.places.reduce((most, x) => Math.max(most, Math.abs(x) / 32767), 1 / 500);
  view.setFloat32(20, unit, true);
  let at = 24;
  for (const f of strip.frames) {
    view.setUint32(at, f, true);
    at += 4;
  }
  for (const x of strip.places) {
    view.setInt16(at, Math.max(-32767, Math.min(32767, Math.round(x / unit))), true);
    at += 2;
  }
  for (let o = 0; o < strip.turns.length; o += 4) {
    view.setUint32(at, packTurn(strip.turns, o), true);
    at += 4;
  }
  for (const p of strip.poses) bytes[at++] = p;
  for (const p of strip.plants.slice(0, 65535)) {
    bytes[at] = PLANT_PARTS.indexOf(p.part);
    view.setUint32(at + 1, p.start, true);
    view.setUint32(at + 5, p.end, true);
    at += PLANT_BYTES;
  }
  return bytes;
}

/** Throws MotionError where the bytes are no whole strip. */
export function stripFromBytes(bytes: Uint8Array): Strip {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < 24 || view.getUint16(0, true) !== STRIP_MAGIC || (bytes[2] !== 1 && bytes[2] !== 2))
    throw new MotionError('not-this-format', 'These bytes are not a strip.');
  const s = bytes[3]!;
  const poseCount = view.getUint16(16, true);
  const plantCount = view.getUint16(18, true);
  if (s < 1 || bytes.length !== 24 + (10 + 4 * WIDTH) * s + poseCount + PLANT_BYTES * plantCount)
    throw new MotionError('truncated', 'The strip is not whole.');
  const unit = bytes[2] === 1 ? 1 / 500 : view.getFloat32(20, true);
  if (!(unit > 0) || !Number.isFinite(unit)) throw new MotionError('bad-number', 'The strip states no unit of place.');
  let at = 24;
  const frames = Uint32Array.from({ length: s }, (_, i) => view.getUint32(at + 4 * i, true));
  at += 4 * s;
  const places = Float32Array.from({ length: 3 * s }, (_, i) => unit * view.getInt16(at + 2 * i, true));
  at += 6 * s;
  const turns = new Float32Array(4 * WIDTH * s);
  for (let o = 0; o < turns.length; o += 4) {
    unpackTurn(turns, o, view.getUint32(at, true));
    at += 4;
  }
  const poses = [...bytes.subarray(at, at + poseCount)].filter((p) => p < s);
  at += poseCount;
  const plants: Plant[] = [];
  for (let i = 0; i < plantCount; i++, at += PLANT_BYTES) {
    const part = PLANT_PARTS[bytes[at]!];
    if (part) plants.push({ part, start: view.getUint32(at + 1, true), end: view.getUint32(at + 5, true) });
  }
  return {
    frameCount: view.getUint32(4, true),
    fps: view.getFloat32(8, true),
    frames,
    turns,
    places,
    poses,
    view: view.getFloat32(12, true),
    plants,
  };
}

const HALF = Math.SQRT1_2;

/** Largest component left out (2 bits), the others in 10 bits each over ±1/√2. */
function packTurn(q: Float32Array, o: number): number {
  let drop = 0;
  for (let k = 1; k < 4; k++) if (Math.abs(q[o + k]!) > Math.abs(q[o + drop]!)) drop = k;
  const sign = q[o + drop]! < 0 ? -1 : 1;
  let out = drop;
  let shift = 2;
  for (let k = 0; k < 4; k++) {
    if (k === drop) continue;
    const v = Math.max(0, Math.min(1023, Math.round(((q[o + k]! * sign) / HALF) * 511 + 511)));
    out |= v << shift;
    shift += 10;
  }
  return out >>> 0;
}

function unpackTurn(q: Float32Array, o: number, packed: number): void {
  const drop = packed & 3;
  let sum = 0;
  let shift = 2;
  for (let k = 0; k < 4; k++) {
    if (k === drop) continue;
    const v = ((((packed >>> shift) & 1023) - 511) / 511) * HALF;
    q[o + k] = v;
    sum += v * v;
    shift += 10;
  }
  q[o + drop] = Math.sqrt(Math.max(0, 1 - sum));
}
