import { MotionError } from '../errors';
import { assertMotion, type Motion } from '../motion/motion';
import type { StepTrack } from '../motion/tracks';
import type { Rig } from '../rig/rig';
import { BitWriter } from './bits';
import { SymbolWriter } from './entropy';
import { adler32, BETWEEN, BLOCK_FRAMES, HEADER_BYTES, KINDS, MAGIC, MOVING, STILL, VERSION } from './layout';
import { BlockQuantiser, type QuantisedBlock, relativeSteps, stillJoints } from './quantise';
import { writeGroup } from './runs';

export interface PackOptions {
  /** Largest distance, in metres, by which any joint or any point 10 cm beyond a leaf may move. */
  readonly bound?: number;
}

export const PACK_DEFAULTS = { bound: 0.0005 } as const satisfies Required<PackOptions>;

/** How often the coarseness of a block is tried; it begins where the block before ended, so two or three do. */
const TRIES = 6;
/** Near enough to the bound. */
const NEAR = 0.97;
/** Numbers and scales keep this share of the largest of their track: half of it is the most they come back off by. */
const PARTS = 2000;

/**
 * Packs a motion so that no point of the body moves by more than the bound; the bound is checked on what a reader will get.
 * Each block of 128 frames gets the coarsest steps that keep the bound in it; blocks are quantised, coded and forgotten one by
 * one, so memory beyond the result does not grow with the length. Labels of steps come back exactly, numbers and scales within
 * a 4000th of the largest of their track.
 * @returns bytes of the layout in layout.ts
 * @throws MotionError what assertMotion finds; 'bad-argument' for a bound outside 0.000001 to 1; 'too-large' where places lie
 *   too far out for float32 to keep the bound
 */
export function packMotion(rig: Rig, motion: Motion, options: PackOptions = {}): Uint8Array {
  assertMotion(rig, motion);
  const bound = options.bound ?? PACK_DEFAULTS.bound;
  if (!(bound >= 1e-6) || bound > 1)
    throw new MotionError('bad-argument', 'The bound must lie between 0.000001 and 1 metre.');
  const still = stillJoints(rig, motion);
  const relative = relativeSteps(rig, still);
  const quantiser = new BlockQuantiser(rig, motion, still, relative);
  const steps = valueSteps(motion);
  const symbols = new SymbolWriter();
  const bodies: Uint8Array[] = [];
  let coarseness = 2 * bound;
  for (let from = 0; from < motion.frameCount; from += BLOCK_FRAMES) {
    const to = Math.min(motion.frameCount, from + BLOCK_FRAMES);
    const block = coarsest(quantiser, from, to, coarseness, bound);
    coarseness = block.coarseness;
    bodies.push(writeBlock(motion, still, block, steps, from, to, symbols));
  }
  const table = writeTable(rig, motion, still, relative, steps, bodies);
  return assemble(rig, motion, bound, table, bodies);
}

/** The coarsest block that keeps the bound, as far as a few tries find it: the error grows about linearly with coarseness. */
function coarsest(quantiser: BlockQuantiser, from: number, to: number, first: number, bound: number): QuantisedBlock {
  const at = (c: number): QuantisedBlock =>
    quantiser.quantise(from, to, Math.fround(c), Math.fround(Math.min(bound * 0.4, c * 0.7)));
  let c = first;
  let kept = 0;
  let tooFar = Number.POSITIVE_INFINITY;
  let last: QuantisedBlock | undefined;
  for (let i = 0; i < TRIES; i++) {
    last = at(c);
    if (last.error <= bound) {
      kept = c;
      if (last.error > NEAR * bound) return last;
    } else tooFar = c;
    const next = c * Math.min(6, (0.985 * bound) / Math.max(last.error, 1e-9));
    c = Math.min(Math.max(next, kept * 1.01), tooFar * 0.99);
    if (c <= kept * 1.005 || c > 40 * bound) break;
  }
  if (kept > 0) return at(kept);
  const fine = at(bound / 64);
  if (!(fine.error <= bound))
    throw new MotionError(
      'too-large',
      `The motion reaches too far from the origin to be kept to ${bound * 1000} mm: it would come back ${fine.error.toPrecision(2)} m off. Move it closer to the origin.`,
    );
  return fine;
}

/** Steps of the tracks of scales and numbers, in that order. */
const valueSteps = ({ scales, numbers }: Motion): Float32Array =>
  Float32Array.from([...scales, ...numbers], ({ values }) => {
    let most = 0;
    for (let i = 0; i < values.length; i++) most = Math.max(most, Math.abs(values[i]!));
    return Math.max(1e-6, most / PARTS);
  });

/** Coarseness and step of places; what is told plainly, with its length; then the coded symbols. */
function writeBlock(
  motion: Motion,
  still: Uint8Array,
  block: QuantisedBlock,
  steps: Float32Array,
  from: number,
  to: number,
  symbols: SymbolWriter,
): Uint8Array {
  const count = to - from;
  const plain = new BitWriter();
  for (let j = 0; j < still.length; j++) {
    if (still[j]) continue;
    const mode = block.modes[j]!;
    plain.bits(mode, 4);
    const kept = [0, 1, 2, 3].filter((k) => k !== (mode & 7));
    writeGroup(
      kept.map((k) => block.turns[4 * j + k]!),
      count,
      symbols,
      plain,
    );
  }
  for (let i = 0; i < motion.places.length; i++)
    writeGroup(block.places.slice(3 * i, 3 * i + 3), count, symbols, plain);
  motion.scales.forEach(({ values }, i) => {
    writeGroup(
      [0, 1, 2].map((k) => wholes(values, 3, k, from, to, steps[i]!)),
      count,
      symbols,
      plain,
    );
  });
  motion.numbers.forEach(({ values }, i) => {
    writeGroup([wholes(values, 1, 0, from, to, steps[motion.scales.length + i]!)], count, symbols, plain);
  });
  for (const track of motion.steps) writeSteps(track, from, to, plain);
  const told = plain.finish();
  const coded = symbols.finish();
  const bytes = new Uint8Array(12 + told.length + coded.length);
  const view = new DataView(bytes.buffer);
  view.setFloat32(0, block.coarseness, true);
  view.setFloat32(4, block.placeStep, true);
  view.setUint32(8, told.length, true);
  bytes.set(told, 12);
  bytes.set(coded, 12 + told.length);
  return bytes;
}

const wholes = (values: Float32Array, width: number, k: number, from: number, to: number, step: number): Int32Array =>
  Int32Array.from({ length: to - from }, (_, i) => Math.round(values[width * (from + i) + k]! / step));

/** A track of labels: how long each shows, and which. */
function writeSteps({ values }: StepTrack, from: number, to: number, plain: BitWriter): void {
  for (let f = from; f < to; ) {
    let end = f + 1;
    while (end < to && values[end] === values[f]) end++;
    plain.gamma(end - f - 1);
    plain.gamma(values[f]!);
    f = end;
  }
}

/** Bytes written one after another, growing as they must. */
class Bytes {
  private readonly parts: Uint8Array[] = [];
  length = 0;

  bytes(part: Uint8Array): this {
    this.parts.push(part);
    this.length += part.length;
    return this;
  }

  u8 = (x: number): this => this.bytes(Uint8Array.of(x));
  u16 = (x: number): this => this.number(2, (v) => v.setUint16(0, x, true));
  u32 = (x: number): this => this.number(4, (v) => v.setUint32(0, x, true));
  f32 = (x: number): this => this.number(4, (v) => v.setFloat32(0, x, true));

  /** A text with its length; at most 65,535 bytes, cut between characters. */
  text(text: string): this {
    let cut = text;
    let bytes = new TextEncoder().encode(cut);
    while (bytes.length > 65_535) {
      cut = cut.slice(0, Math.floor(cut.length / 2));
      bytes = new TextEncoder().encode(cut);
    }
    return this.u16(bytes.length).bytes(bytes);
  }

  private number(size: number, write: (view: DataView) => void): this {
    const bytes = new Uint8Array(size);
    write(new DataView(bytes.buffer));
    return this.bytes(bytes);
  }

  finish(): Uint8Array {
    const out = new Uint8Array(this.length);
    let at = 0;
    for (const part of this.parts) {
      out.set(part, at);
      at += part.length;
    }
    return out;
  }
}

function writeTable(
  rig: Rig,
  motion: Motion,
  still: Uint8Array,
  relative: Float32Array,
  steps: Float32Array,
  bodies: readonly Uint8Array[],
): Uint8Array {
  const out = new Bytes();
  for (let j = 0; j < rig.names.length; j++) {
    out.u8(still[j] ? STILL : MOVING);
    if (still[j]) for (let k = 0; k < 4; k++) out.f32(motion.turns[4 * j + k]!);
    else out.f32(relative[j]!);
  }
  const head = (kind: (typeof KINDS)[number], between: (typeof BETWEEN)[number] = 'line'): Bytes =>
    out.u8(KINDS.indexOf(kind)).u8(BETWEEN.indexOf(between));
  for (const { joint, between } of motion.places) head('place', between).u32(joint);
  motion.scales.forEach(({ joint, between }, i) => {
    head('scale', between).u32(joint).f32(steps[i]!);
  });
  motion.numbers.forEach(({ name, between }, i) => {
    head('number', between)
      .text(name)
      .f32(steps[motion.scales.length + i]!);
  });
  for (const { name, labels } of motion.steps) {
    head('step').text(name).u16(labels.length);
    for (const label of labels) out.text(label);
  }
  for (const body of bodies) out.u32(body.length);
  return out.finish();
}

function assemble(
  rig: Rig,
  motion: Motion,
  bound: number,
  table: Uint8Array,
  bodies: readonly Uint8Array[],
): Uint8Array {
  const bytes = new Uint8Array(HEADER_BYTES + table.length + bodies.reduce((s, x) => s + x.length, 0));
  const view = new DataView(bytes.buffer);
  bytes.set(MAGIC, 0);
  bytes[4] = VERSION;
  view.setUint32(8, motion.frameCount, true);
  view.setUint32(12, rig.names.length, true);
  view.setFloat32(16, motion.fps, true);
  view.setUint32(20, BLOCK_FRAMES, true);
  view.setUint32(24, motion.places.length + motion.scales.length + motion.numbers.length + motion.steps.length, true);
  view.setUint32(28, table.length, true);
  view.setFloat32(32, bound, true);
  bytes.set(table, HEADER_BYTES);
  let at = HEADER_BYTES + table.length;
  for (const body of bodies) {
    bytes.set(body, at);
    at += body.length;
  }
  view.setUint32(40, adler32(bytes, HEADER_BYTES), true);
  return bytes;
}
