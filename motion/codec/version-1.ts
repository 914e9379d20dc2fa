// Reads version 1 of the packed motion, which libraries of before hold: Rice codes instead of an entropy coder, one coarseness for
// all blocks, no steps and no scales. Nothing writes it any more. Layout: docs/formats/packed-motion.md.

import { MotionError } from '../errors';
import { MAX_FRAMES, MAX_NUMBERS, type Motion } from '../motion/motion';
import { MAX_JOINTS } from '../rig/rig';
import { BitReader } from './bits';
import { adler32, HEADER_BYTES, MAX_NUMBERS_PER_BYTE, STILL } from './layout';
import { finishQuat } from './quantise';

/** A packed motion of version 1, its table read. */
export interface Packed1 {
  readonly bytes: Uint8Array;
  readonly frames: number;
  readonly joints: number;
  readonly fps: number;
  readonly blockFrames: number;
  /** J: step, or 0 for a still joint. */
  readonly steps: Float32Array;
  /** 4 J: turns of still joints. */
  readonly stillTurns: Float32Array;
  readonly placeStep: number;
  readonly placeJoints: readonly number[];
  readonly scalarNames: readonly string[];
  readonly scalarSteps: readonly number[];
  /** Byte at which each block starts, and the end of the last. */
  readonly starts: Uint32Array;
}

/**
 * Checks and reads everything in front of the blocks; see openPacked.
 * @throws MotionError 'bad-structure' with the byte
 */
export function open1(bytes: Uint8Array): Packed1 {
  const damaged = (why: string, byte: number): never => {
    throw new MotionError('bad-structure', `The packed motion is damaged: ${why}.`, { byte });
  };
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const [frames, joints, blockFrames, placeCount, scalarCount, tableBytes] = [8, 12, 20, 24, 28, 32].map((o) =>
    view.getUint32(o, true),
  ) as [number, number, number, number, number, number];
  const fps = view.getFloat32(16, true);
  if (frames < 1 || frames > MAX_FRAMES || joints < 1 || joints > MAX_JOINTS || blockFrames < 1 || blockFrames > 65536)
    damaged('its counts are out of range', 8);
  if (!(fps > 0) || !Number.isFinite(fps)) damaged('its frame rate is not a number above 0', 16);
  if (placeCount > joints || scalarCount > 4096) damaged('its track counts are out of range', 24);
  const numbers = frames * (4 * joints + 3 * placeCount + scalarCount);
  if (numbers > MAX_NUMBERS || numbers > bytes.length * MAX_NUMBERS_PER_BYTE)
    damaged('it promises more frames than its size allows', 8);
  if (tableBytes > bytes.length - HEADER_BYTES) damaged('its table reaches beyond the end', 32);
  if (view.getUint32(40, true) !== adler32(bytes, HEADER_BYTES)) damaged('its checksum does not match', 40);
  const end = HEADER_BYTES + tableBytes;
  let at = HEADER_BYTES;
  const need = (n: number): void => {
    if (at + n > end) damaged('its table is too short', at);
  };
  const steps = new Float32Array(joints);
  const stillTurns = new Float32Array(4 * joints);
  for (let j = 0; j < joints; j++) {
    need(5);
    const still = bytes[at++] === STILL;
    if (still) {
      need(16);
      for (let k = 0; k < 4; k++) stillTurns[4 * j + k] = view.getFloat32(at + 4 * k, true);
      at += 16;
    } else {
      steps[j] = view.getFloat32(at, true);
      if (!(steps[j]! > 0) || !Number.isFinite(steps[j]!)) damaged('a step is not above 0', at);
      at += 4;
    }
  }
  if (stillTurns.some((x) => !Number.isFinite(x))) damaged('the turn of a still joint is not a number', at);
  need(4 + 4 * placeCount);
  const placeStep = view.getFloat32(at, true);
  if (!(placeStep > 0) || !Number.isFinite(placeStep)) damaged('the step of places is not above 0', at);
  at += 4;
  const placeJoints = Array.from({ length: placeCount }, (_, i) => view.getUint32(at + 4 * i, true));
  if (placeJoints.some((j) => j >= joints)) damaged('a travel track names a joint that is not there', at);
  at += 4 * placeCount;
  const scalarNames: string[] = [];
  const scalarSteps: number[] = [];
  for (let i = 0; i < scalarCount; i++) {
    need(5);
    const length = bytes[at]!;
    need(5 + length);
    scalarNames.push(new TextDecoder().decode(bytes.subarray(at + 1, at + 1 + length)));
    const step = view.getFloat32(at + 1 + length, true);
    if (!(step > 0) || !Number.isFinite(step)) damaged('a scalar step is not above 0', at);
    scalarSteps.push(step);
    at += 5 + length;
  }
  const blocks = Math.ceil(frames / blockFrames);
  need(4 * blocks);
  const starts = new Uint32Array(blocks + 1);
  starts[0] = end;
  for (let b = 0; b < blocks; b++) {
    const next = starts[b]! + view.getUint32(at + 4 * b, true);
    if (next > bytes.length) damaged('a block reaches beyond the end', at + 4 * b);
    starts[b + 1] = next;
  }
  return {
    bytes,
    frames,
    joints,
    fps,
    blockFrames,
    steps,
    stillTurns,
    placeStep,
    placeJoints,
    scalarNames,
    scalarSteps,
    starts,
  };
}

/**
 * from and to lie on block borders (or the end).
 * @throws MotionError 'bad-structure' or 'truncated' where a block is damaged
 */
export function unpackFrames1(packed: Packed1, from: number, to: number): Motion {
  const { joints, blockFrames, steps, stillTurns } = packed;
  const frames = to - from;
  const turns = new Float32Array(4 * joints * frames);
  const places = packed.placeJoints.map((joint) => ({ joint, values: new Float32Array(3 * frames) }));
  const numberTracks = packed.scalarNames.map((name) => ({ name, values: new Float32Array(frames) }));
  for (let j = 0; j < joints; j++) {
    if (steps[j]! > 0) continue;
    for (let f = 0; f < frames; f++)
      for (let k = 0; k < 4; k++) turns[4 * (f * joints + j) + k] = stillTurns[4 * j + k]!;
  }
  for (let b = from / blockFrames; b * blockFrames < to; b++) {
    const first = b * blockFrames - from;
    const count = Math.min(blockFrames, packed.frames - b * blockFrames);
    const reader = new BitReader(packed.bytes, packed.starts[b]!, packed.starts[b + 1]!);
    const run = (dst: Float32Array, offset: number, stride: number, step: number): void => {
      const order = reader.bits(2);
      const k = reader.bits(5);
      if (order > 2 || k > 28)
        throw new MotionError('bad-structure', 'The packed motion is damaged: a run has an unknown coding.');
      reader.run(dst, offset, stride, count, k, order, step);
    };
    for (let j = 0; j < joints; j++) {
      if (steps[j] === 0) continue;
      const mode = reader.bits(4);
      if ((mode & 7) > 4)
        throw new MotionError('bad-structure', 'The packed motion is damaged: a turn has an unknown form.');
      const start = 4 * (first * joints + j);
      for (let k = 0; k < 4; k++) if (k !== (mode & 7)) run(turns, start + k, 4 * joints, steps[j]!);
      for (let f = 0, o = start; f < count; f++, o += 4 * joints) finishQuat(turns, o, mode);
    }
    for (const t of places) for (let k = 0; k < 3; k++) run(t.values, 3 * first + k, 3, packed.placeStep);
    numberTracks.forEach((s, i) => {
      run(s.values, first, 1, packed.scalarSteps[i]!);
    });
  }
  return { fps: packed.fps, frameCount: frames, turns, places, scales: [], numbers: numberTracks, steps: [] };
}
