import { MotionError } from '../errors';
import { MAX_FRAMES, MAX_NUMBERS, type Motion } from '../motion/motion';
import { sliceTracks } from '../motion/tracks';
import { MAX_JOINTS } from '../rig/rig';
import { BitReader } from './bits';
import { SymbolReader } from './entropy';
import { adler32, BETWEEN, HEADER_BYTES, KINDS, MAGIC, MAX_NUMBERS_PER_BYTE, STILL, VERSION } from './layout';
import { finishQuat, stepOf } from './quantise';
import { readGroup } from './runs';
import { open1, type Packed1, unpackFrames1 } from './version-1';

type Kind = (typeof KINDS)[number];

/** What the table says of a track beside the turns. */
interface PackedTrack {
  readonly kind: Kind;
  readonly between: (typeof BETWEEN)[number];
  /** Of places and scales. */
  readonly joint: number;
  /** Of numbers and steps. */
  readonly name: string;
  readonly labels: readonly string[];
  /** Of scales and numbers. */
  readonly step: number;
}

/** A packed motion whose table is read and whose blocks are not. */
export interface Packed {
  readonly version: 2;
  readonly bytes: Uint8Array;
  readonly frames: number;
  readonly joints: number;
  readonly fps: number;
  readonly blockFrames: number;
  /** J: step at coarseness 1, or 0 for a still joint. */
  readonly relative: Float32Array;
  /** 4 J: turns of still joints. */
  readonly stillTurns: Float32Array;
  readonly tracks: readonly PackedTrack[];
  /** Byte at which each block starts, and the end of the last. */
  readonly starts: Uint32Array;
}

const damaged = (why: string, byte: number): never => {
  throw new MotionError('bad-structure', `The packed motion is damaged: ${why}.`, { byte });
};

/**
 * Checks and reads everything in front of the blocks, of either version; allocates nothing that depends on the frames promised.
 * @throws MotionError 'not-this-format', 'unsupported' or 'bad-structure', with the byte
 */
export function openPacked(bytes: Uint8Array): Packed | Packed1 {
  if (bytes.length < HEADER_BYTES || MAGIC.some((x, i) => bytes[i] !== x))
    throw new MotionError('not-this-format', 'These bytes are not a packed motion.', { byte: 0 });
  if (bytes[4] === 1) return open1(bytes);
  if (bytes[4] !== VERSION)
    throw new MotionError(
      'unsupported',
      `The packed motion has version ${bytes[4]}; versions 1 and ${VERSION} are read.`,
      {
        byte: 4,
      },
    );
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const [frames, joints, blockFrames, trackCount, tableBytes] = [8, 12, 20, 24, 28].map((o) =>
    view.getUint32(o, true),
  ) as [number, number, number, number, number];
  const fps = view.getFloat32(16, true);
  if (frames < 1 || frames > MAX_FRAMES || joints < 1 || joints > MAX_JOINTS || blockFrames < 1 || blockFrames > 65536)
    damaged('its counts are out of range', 8);
  if (!(fps > 0) || !Number.isFinite(fps)) damaged('its frame rate is not a number above 0', 16);
  if (trackCount > 2 * joints + 8192) damaged('its track counts are out of range', 24);
  const numbers = frames * (4 * joints + 3 * trackCount);
  if (numbers > MAX_NUMBERS || numbers > bytes.length * MAX_NUMBERS_PER_BYTE)
    damaged('it promises more frames than its size allows', 8);
  if (tableBytes > bytes.length - HEADER_BYTES) damaged('its table reaches beyond the end', 28);
  if (view.getUint32(40, true) !== adler32(bytes, HEADER_BYTES)) damaged('its checksum does not match', 40);
  const end = HEADER_BYTES + tableBytes;
  const table = new TableReader(bytes, view, HEADER_BYTES, end);
  const relative = new Float32Array(joints);
  const stillTurns = new Float32Array(4 * joints);
  for (let j = 0; j < joints; j++) {
    if (table.u8() === STILL) for (let k = 0; k < 4; k++) stillTurns[4 * j + k] = table.f32();
    else relative[j] = table.positive('a step');
  }
  const tracks = Array.from({ length: trackCount }, () => table.track(joints));
  const blocks = Math.ceil(frames / blockFrames);
  const starts = new Uint32Array(blocks + 1);
  starts[0] = end;
  for (let b = 0; b < blocks; b++) {
    const next = starts[b]! + table.u32();
    if (next > bytes.length) damaged('a block reaches beyond the end', table.at - 4);
    starts[b + 1] = next;
  }
  return { version: 2, bytes, frames, joints, fps, blockFrames, relative, stillTurns, tracks, starts };
}

/** Reads the table byte by byte and never past its end. */
class TableReader {
  constructor(
    private readonly bytes: Uint8Array,
    private readonly view: DataView,
    public at: number,
    private readonly end: number,
  ) {}

  private take(n: number): number {
    if (this.at + n > this.end) damaged('its table is too short', this.at);
    this.at += n;
    return this.at - n;
  }

  u8 = (): number => this.bytes[this.take(1)]!;
  u16 = (): number => this.view.getUint16(this.take(2), true);
  u32 = (): number => this.view.getUint32(this.take(4), true);

  f32(): number {
    const x = this.view.getFloat32(this.take(4), true);
    return Number.isFinite(x) ? x : damaged('a number is not finite', this.at - 4);
  }

  positive(what: string): number {
    const x = this.f32();
    return x > 0 ? x : damaged(`${what} is not above 0`, this.at - 4);
  }

  text(): string {
    const length = this.u16();
    const from = this.take(length);
    return new TextDecoder().decode(this.bytes.subarray(from, from + length));
  }

  track(joints: number): PackedTrack {
    const at = this.at;
    const kind = KINDS[this.u8()] ?? damaged('a track is of an unknown kind', at);
    const between = BETWEEN[this.u8()] ?? damaged('a track has an unknown interpolation', at);
    const ofJoint = kind === 'place' || kind === 'scale';
    const joint = ofJoint ? this.u32() : -1;
    if (joint >= joints) damaged('a track names a joint that is not there', at);
    const name = ofJoint ? '' : this.text();
    const labels = kind === 'step' ? Array.from({ length: this.u16() }, () => this.text()) : [];
    if (kind === 'step' && labels.length === 0) damaged('a track of steps has no labels', at);
    const step = kind === 'scale' || kind === 'number' ? this.positive('the step of a track') : 0;
    return { kind, between, joint, name, labels, step };
  }
}

/** Unpacks a whole motion into typed arrays. Throws MotionError only. */
export function unpackMotion(bytes: Uint8Array): Motion {
  const packed = openPacked(bytes);
  return unpackBlocks(packed, 0, packed.frames);
}

/**
 * Unpacks the blocks that hold frames from … to − 1 and returns just those frames.
 * @throws MotionError 'bad-argument' for frames that are not there; what is wrong with the bytes
 */
export function unpackRange(bytes: Uint8Array, from: number, to: number): Motion {
  const packed = openPacked(bytes);
  if (!(Number.isInteger(from) && Number.isInteger(to) && from >= 0 && from < to && to <= packed.frames))
    throw new MotionError('bad-argument', `Frames ${from} to ${to} are not within 0 to ${packed.frames}.`);
  const first = Math.floor(from / packed.blockFrames) * packed.blockFrames;
  const last = Math.min(packed.frames, Math.ceil(to / packed.blockFrames) * packed.blockFrames);
  const whole = unpackBlocks(packed, first, last);
  return {
    fps: whole.fps,
    frameCount: to - from,
    turns: whole.turns.slice(4 * packed.joints * (from - first), 4 * packed.joints * (to - first)),
    ...sliceTracks(whole, from - first, to - first),
  };
}

/** from and to lie on block borders (or the end). */
const unpackBlocks = (packed: Packed | Packed1, from: number, to: number): Motion =>
  'version' in packed ? unpackBlocks2(packed, from, to) : unpackFrames1(packed, from, to);

function unpackBlocks2(packed: Packed, from: number, to: number): Motion {
  const { joints, blockFrames, relative, stillTurns } = packed;
  const frames = to - from;
  const turns = new Float32Array(4 * joints * frames);
  for (let j = 0; j < joints; j++) {
    if (relative[j]! > 0) continue;
    for (let f = 0; f < frames; f++)
      for (let k = 0; k < 4; k++) turns[4 * (f * joints + j) + k] = stillTurns[4 * j + k]!;
  }
  const tracks = packed.tracks.map((track) => ({
    ...track,
    values: new Float32Array(track.kind === 'step' ? 0 : (track.kind === 'number' ? 1 : 3) * frames),
    shows: new Uint16Array(track.kind === 'step' ? frames : 0),
  }));
  for (let b = from / blockFrames; b * blockFrames < to; b++) {
    const first = b * blockFrames - from;
    const count = Math.min(blockFrames, packed.frames - b * blockFrames);
    const { coarseness, placeStep, plain, symbols } = openBlock(packed, b);
    for (let j = 0; j < joints; j++) {
      if (relative[j] === 0) continue;
      const mode = plain.bits(4);
      if ((mode & 7) > 4)
        throw new MotionError('bad-structure', 'The packed motion is damaged: a turn has an unknown form.');
      const start = 4 * (first * joints + j);
      readGroup(turns, OFFSETS[mode & 7]!, start, 4 * joints, count, stepOf(relative[j]!, coarseness), symbols, plain);
      for (let f = 0, o = start; f < count; f++, o += 4 * joints) finishQuat(turns, o, mode);
    }
    for (const { kind, values, shows, step, labels } of tracks) {
      if (kind === 'step') readSteps(shows, first, count, labels.length, plain);
      else if (kind === 'number') readGroup(values, ONE_WIDE, first, 1, count, step, symbols, plain);
      else readGroup(values, THREE_WIDE, 3 * first, 3, count, kind === 'place' ? placeStep : step, symbols, plain);
    }
  }
  const of = <K extends Kind>(kind: K) => tracks.filter((t) => t.kind === kind);
  const way = (between: PackedTrack['between']) => (between === 'line' ? {} : { between });
  return {
    fps: packed.fps,
    frameCount: frames,
    turns,
    places: of('place').map(({ joint, values, between }) => ({ joint, values, ...way(between) })),
    scales: of('scale').map(({ joint, values, between }) => ({ joint, values, ...way(between) })),
    numbers: of('number').map(({ name, values, between }) => ({ name, values, ...way(between) })),
    steps: of('step').map(({ name, labels, shows }) => ({ name, labels, values: shows })),
  };
}

/** Components that are told, by the one that is left out; 4: none is. */
const OFFSETS = [0, 1, 2, 3, 4].map((left) => [0, 1, 2, 3].filter((k) => k !== left));
const ONE_WIDE = [0];
const THREE_WIDE = [0, 1, 2];

function openBlock({ bytes, starts }: Packed, b: number) {
  const start = starts[b]!;
  const end = starts[b + 1]!;
  if (end - start < 12) damaged('a block is too short', start);
  const view = new DataView(bytes.buffer, bytes.byteOffset + start, 12);
  const [coarseness, placeStep] = [view.getFloat32(0, true), view.getFloat32(4, true)];
  if (!(coarseness > 0 && coarseness < 1e3 && placeStep > 0 && placeStep < 1e3))
    damaged('a step is out of range', start);
  const told = view.getUint32(8, true);
  if (told > end - start - 12) damaged('a block reaches beyond its end', start + 8);
  const middle = start + 12 + told;
  return {
    coarseness,
    placeStep,
    plain: new BitReader(bytes, start + 12, middle),
    symbols: new SymbolReader(bytes, middle, end),
  };
}

function readSteps(shows: Uint16Array, first: number, count: number, labels: number, plain: BitReader): void {
  for (let f = 0; f < count; ) {
    const length = plain.gamma() + 1;
    const label = plain.gamma();
    if (length > count - f || label >= labels) damaged('a track of steps names a label or a length that cannot be', 0);
    shows.fill(label, first + f, first + f + length);
    f += length;
  }
}
