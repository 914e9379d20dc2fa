import { MotionError } from '../errors';
import { invMulQuat, mulQuat, normalizeQuat } from '../math/quat';
import { assertMotion, type Motion } from '../motion/motion';
import type { Rig } from '../rig/rig';
import { BitWriter, riceCost, zigzag } from './bits';
import { LEAF_REACH, largestError } from './error';
import { adler32, BLOCK_FRAMES, HEADER_BYTES, MAGIC, MOVING, STILL, VERSION } from './layout';

export interface PackOptions {
  /** Largest distance, in metres, by which any joint or any point 10 cm beyond a leaf may move. */
  readonly bound?: number;
}

export const PACK_DEFAULTS = { bound: 0.0005 } as const satisfies Required<PackOptions>;

/** How often steps are tried: see packMotion. */
const TRIES = 7;

/** Drops a constant track whose turn departs by less than this, in radians (quaternion halves). */
const STILL_TOLERANCE = 1e-6;

/**
 * Packs a motion so that no point of the body moves by more than the bound; the bound is checked on what a reader will get.
 * Turns are quantised with steps inverse to what hangs rigidly on the joint, and each joint's turn is taken relative to its
 * parent as the reader will see it, so errors do not add up along a limb. Values are predicted over time and Rice-coded.
 * @returns bytes of the layout in layout.ts
 */
export function packMotion(rig: Rig, motion: Motion, options: PackOptions = {}): Uint8Array {
  assertMotion(rig, motion);
  const bound = options.bound ?? PACK_DEFAULTS.bound;
  if (!(bound >= 1e-6) || bound > 1)
    throw new MotionError('bad-argument', 'The bound must lie between 0.000001 and 1 metre.');
  const still = stillJoints(rig, motion);
  const extents = rigidExtents(rig, still);
  // (1) find the coarsest steps that keep the bound: the error grows about linearly with them, so a few tries do
  let c = 2 * bound;
  let best: Quantised | undefined;
  let bestC = 0;
  let tooFar = Number.POSITIVE_INFINITY;
  for (let i = 0; i < TRIES; i++) {
    const q = quantise(rig, motion, still, extents, c, bound);
    const error = largestError(rig, motion, q.decoded);
    if (error <= bound) {
      best = q;
      bestC = c;
      if (error > 0.9 * bound) break;
    } else tooFar = c;
    const next = c * Math.min(6, (0.95 * bound) / Math.max(error, 1e-9));
    c = Math.min(Math.max(next, bestC * 1.02), tooFar * 0.98);
    if (c <= bestC * 1.01 || c > 40 * bound) break;
  }
  if (!best) {
    best = quantise(rig, motion, still, extents, bound / 64, bound / 8);
    const error = largestError(rig, motion, best.decoded);
    if (!(error <= bound))
      throw new MotionError(
        'too-large',
        `The motion reaches too far from the origin to be kept to ${bound * 1000} mm: it would come back ${error.toPrecision(2)} m off. Move it closer to the origin.`,
      );
  }
  return write(rig, motion, best, bound);
}

interface Quantised {
  /** What the reader will see, for the check. */
  decoded: Motion;
  still: Uint8Array;
  /** J: step of a quaternion component. */
  steps: Float32Array;
  /** J arrays of 4 F quantised components; empty for still joints. The left-out component is worked out by the reader. */
  turns: Int32Array[];
  /** [block][joint]: left-out component 0…3, or 4 where all are kept; +8 where the sign is turned. */
  modes: Uint8Array;
  placeStep: number;
  places: Int32Array[];
  scalarSteps: Float32Array;
  numbers: Int32Array[];
}

function stillJoints(rig: Rig, motion: Motion): Uint8Array {
  const n = rig.names.length;
  const out = new Uint8Array(n);
  for (let j = 0; j < n; j++) {
    let still = true;
    for (let f = 1; still && f < motion.frameCount; f++) {
      const o = 4 * (f * n + j);
      for (let k = 0; k < 4; k++)
        if (Math.abs(motion.turns[o + k]! - motion.turns[4 * j + k]!) > STILL_TOLERANCE) still = false;
    }
    out[j] = still ? 1 : 0;
  }
  return out;
}

/** How far what turns rigidly with a joint reaches from it: its children's origins, and beyond them where they are still. */
function rigidExtents(rig: Rig, still: Uint8Array): Float64Array {
  const n = rig.names.length;
  const out = new Float64Array(n);
  const hasChild = new Uint8Array(n);
  for (let j = n - 1; j >= 0; j--) {
    if (!hasChild[j])
      out[j] = Math.max(
        LEAF_REACH,
        Number.isNaN(rig.tips[3 * j]!) ? 0 : Math.hypot(rig.tips[3 * j]!, rig.tips[3 * j + 1]!, rig.tips[3 * j + 2]!),
      );
    const p = rig.parents[j]!;
    if (p < 0) continue;
    hasChild[p] = 1;
    const bone = Math.hypot(rig.restT[3 * j]!, rig.restT[3 * j + 1]!, rig.restT[3 * j + 2]!);
    out[p] = Math.max(out[p]!, bone + (still[j] ? out[j]! : 0), 0.01);
  }
  return out;
}

/** Steps for a given coarseness; a parent is not much coarser than its children, whose tracks would carry its noise. */
function stepsFor(rig: Rig, still: Uint8Array, extents: Float64Array, c: number): Float32Array {
  const n = rig.names.length;
  const steps = new Float32Array(n);
  for (let j = n - 1; j >= 0; j--) {
    const own = Math.min(c / extents[j]!, 0.02);
    steps[j] = steps[j]! > 0 ? Math.min(own, steps[j]!) : own;
    const p = rig.parents[j]!;
    if (p < 0) continue;
    const cap = still[j] ? steps[j]! : 1.6 * steps[j]!;
    steps[p] = steps[p]! > 0 ? Math.min(steps[p]!, cap) : cap;
  }
  return steps;
}

function quantise(
  rig: Rig,
  motion: Motion,
  still: Uint8Array,
  extents: Float64Array,
  c: number,
  bound: number,
): Quantised {
  const n = rig.names.length;
  const frames = motion.frameCount;
  const blocks = Math.ceil(frames / BLOCK_FRAMES);
  const steps = stepsFor(rig, still, extents, c);
  const turns: Int32Array[] = [];
  const modes = new Uint8Array(blocks * n);
  const decoded = new Float32Array(4 * n * frames);
  // world turns as they are and as the reader will have them, per joint: 4 F
  const truth: Float64Array[] = [];
  const seen: Float64Array[] = [];
  for (let j = 0; j < n; j++) {
    const p = rig.parents[j]!;
    const w = new Float64Array(4 * frames);
    const s = new Float64Array(4 * frames);
    for (let f = 0; f < frames; f++) {
      if (p < 0) for (let k = 0; k < 4; k++) w[4 * f + k] = motion.turns[4 * (f * n + j) + k]!;
      else mulQuat(w, 4 * f, truth[p]!, 4 * f, motion.turns, 4 * (f * n + j));
    }
    const ints = new Int32Array(still[j] ? 0 : 4 * frames);
    if (still[j])
      for (let f = 0; f < frames; f++)
        for (let k = 0; k < 4; k++) decoded[4 * (f * n + j) + k] = motion.turns[4 * j + k]!;
    else {
      const local = new Float64Array(4 * frames);
      for (let f = 0; f < frames; f++) {
        if (p < 0) for (let k = 0; k < 4; k++) local[4 * f + k] = w[4 * f + k]!;
        else invMulQuat(local, 4 * f, seen[p]!, 4 * f, w, 4 * f);
        normalizeQuat(local, 4 * f);
        // keep the sign of the source track
        const o = 4 * (f * n + j);
        let dot = 0;
        for (let k = 0; k < 4; k++) dot += local[4 * f + k]! * motion.turns[o + k]!;
        if (dot < 0) for (let k = 0; k < 4; k++) local[4 * f + k] = -local[4 * f + k]!;
      }
      for (let b = 0; b < blocks; b++)
        modes[b * n + j] = quantiseBlock(
          local,
          ints,
          b * BLOCK_FRAMES,
          Math.min(frames, (b + 1) * BLOCK_FRAMES),
          steps[j]!,
        );
      for (let f = 0; f < frames; f++)
        restore(ints, f, modes[Math.floor(f / BLOCK_FRAMES) * n + j]!, steps[j]!, decoded, 4 * (f * n + j));
    }
    for (let f = 0; f < frames; f++) {
      if (p < 0) for (let k = 0; k < 4; k++) s[4 * f + k] = decoded[4 * (f * n + j) + k]!;
      else mulQuat(s, 4 * f, seen[p]!, 4 * f, decoded, 4 * (f * n + j));
    }
    truth.push(w);
    seen.push(s);
    turns.push(ints);
  }
  const placeStep = Math.fround(Math.min(bound * 0.4, c * 0.7));
  const places = motion.places.map((t) => Int32Array.from(t.values, (x) => Math.round(x / placeStep)));
  const scalarSteps = Float32Array.from(motion.numbers, ({ values }) =>
    Math.max(1e-6, values.reduce((m, x) => Math.max(m, Math.abs(x)), 0) / 2000),
  );
  const numbers = motion.numbers.map(({ values }, i) =>
    Int32Array.from(values, (x) => Math.round(x / scalarSteps[i]!)),
  );
  return {
    decoded: {
      ...motion,
      turns: decoded,
      places: motion.places.map((t, i) => ({
        joint: t.joint,
        values: Float32Array.from(places[i]!, (x) => x * placeStep),
      })),
    },
    still,
    steps,
    turns,
    modes,
    placeStep,
    places,
    scalarSteps,
    numbers,
  };
}

/** Leaves out the component that stays farthest from 0 over the block, if it stays far enough; returns the mode. */
function quantiseBlock(local: Float64Array, ints: Int32Array, from: number, to: number, step: number): number {
  let drop = 4;
  let sign = 1;
  let best = 0.35;
  for (let k = 0; k < 4; k++) {
    let low = Number.POSITIVE_INFINITY;
    const s = Math.sign(local[4 * from + k]!);
    for (let f = from; f < to; f++) low = Math.min(low, local[4 * f + k]! * s);
    if (low > best) {
      best = low;
      drop = k;
      sign = s;
    }
  }
  for (let f = from; f < to; f++)
    for (let k = 0; k < 4; k++) ints[4 * f + k] = k === drop ? 0 : Math.round(local[4 * f + k]! / step);
  return drop + (sign < 0 ? 8 : 0);
}

/** Exactly the reader's arithmetic: components to float32, the left-out one from the unit length. */
function restore(ints: Int32Array, f: number, mode: number, step: number, dst: Float32Array, o: number): void {
  for (let k = 0; k < 4; k++) dst[o + k] = ints[4 * f + k]! * step;
  finishQuat(dst, o, mode);
}

/** Works out the left-out component, or normalises where all four were kept. Shared by writer and reader. */
export function finishQuat(dst: Float32Array, o: number, mode: number): void {
  const drop = mode & 7;
  const x = dst[o]!;
  const y = dst[o + 1]!;
  const z = dst[o + 2]!;
  const w = dst[o + 3]!;
  const sum = x * x + y * y + z * z + w * w;
  if (drop < 4) {
    const rest = Math.sqrt(Math.max(0, 1 - sum));
    dst[o + drop] = mode & 8 ? -rest : rest;
  } else {
    const l = sum > 0 ? 1 / Math.sqrt(sum) : 0;
    dst[o] = x * l;
    dst[o + 1] = y * l;
    dst[o + 2] = z * l;
    dst[o + 3] = sum > 0 ? w * l : 1;
  }
}

function write(rig: Rig, motion: Motion, q: Quantised, bound: number): Uint8Array {
  const n = rig.names.length;
  const frames = motion.frameCount;
  const blocks = Math.ceil(frames / BLOCK_FRAMES);
  const bodies: Uint8Array[] = [];
  for (let b = 0; b < blocks; b++) {
    const from = b * BLOCK_FRAMES;
    const count = Math.min(frames - from, BLOCK_FRAMES);
    const out = new BitWriter();
    for (let j = 0; j < n; j++) {
      if (q.still[j]) continue;
      const mode = q.modes[b * n + j]!;
      out.bits(mode, 4);
      for (let k = 0; k < 4; k++) if (k !== (mode & 7)) writeRun(out, q.turns[j]!, 4 * from + k, 4, count);
    }
    for (const places of q.places) for (let k = 0; k < 3; k++) writeRun(out, places, 3 * from + k, 3, count);
    for (const values of q.numbers) writeRun(out, values, from, 1, count);
    bodies.push(out.finish());
  }
  const table = writeTable(rig, motion, q, bodies);
  const total = HEADER_BYTES + table.length + bodies.reduce((s, x) => s + x.length, 0);
  const bytes = new Uint8Array(total);
  const view = new DataView(bytes.buffer);
  bytes.set(MAGIC, 0);
  bytes[4] = VERSION;
  view.setUint32(8, frames, true);
  view.setUint32(12, n, true);
  view.setFloat32(16, motion.fps, true);
  view.setUint32(20, BLOCK_FRAMES, true);
  view.setUint32(24, motion.places.length, true);
  view.setUint32(28, motion.numbers.length, true);
  view.setUint32(32, table.length, true);
  view.setFloat32(36, bound, true);
  bytes.set(table, HEADER_BYTES);
  let at = HEADER_BYTES + table.length;
  for (const body of bodies) {
    bytes.set(body, at);
    at += body.length;
  }
  view.setUint32(40, adler32(bytes, HEADER_BYTES), true);
  return bytes;
}

/** Chooses prediction order and Rice parameter for one run and writes it: 2 bits order, 5 bits k, residuals. */
function writeRun(out: BitWriter, values: Int32Array, offset: number, stride: number, count: number): void {
  let best: { cost: number; order: number; k: number; residuals: Uint32Array } | undefined;
  for (let order = 0; order <= 2; order++) {
    const residuals = new Uint32Array(count);
    let sum = 0;
    let v1 = 0;
    let v2 = 0;
    for (let i = 0; i < count; i++) {
      const v = values[offset + i * stride]!;
      const guess = order === 0 || i === 0 ? 0 : order === 1 || i === 1 ? v1 : 2 * v1 - v2;
      residuals[i] = zigzag((v - guess) | 0);
      if (i > 0) sum += residuals[i]!;
      v2 = v1;
      v1 = v;
    }
    const mean = sum / Math.max(1, count - 1);
    const near = Math.max(0, Math.round(Math.log2(mean * 0.69 + 1e-9)));
    for (let k = Math.max(0, near - 1); k <= Math.min(28, near + 1); k++) {
      let cost = 0;
      for (const r of residuals) cost += riceCost(r, k);
      if (!best || cost < best.cost) best = { cost, order, k, residuals };
    }
  }
  out.bits(best!.order, 2);
  out.bits(best!.k, 5);
  for (const r of best!.residuals) out.rice(r, best!.k);
}

function writeTable(rig: Rig, motion: Motion, q: Quantised, bodies: Uint8Array[]): Uint8Array {
  const n = rig.names.length;
  const names = motion.numbers.map((s) => new TextEncoder().encode(s.name).slice(0, 255));
  const size =
    n + 16 * n + 4 + 4 * motion.places.length + names.reduce((s, x) => s + x.length + 5, 0) + 4 * bodies.length;
  const bytes = new Uint8Array(size);
  const view = new DataView(bytes.buffer);
  let at = 0;
  for (let j = 0; j < n; j++) {
    bytes[at++] = q.still[j] ? STILL : MOVING;
    if (q.still[j]) for (let k = 0; k < 4; k++) view.setFloat32(at + 4 * k, motion.turns[4 * j + k]!, true);
    else view.setFloat32(at, q.steps[j]!, true);
    at += q.still[j] ? 16 : 4;
  }
  view.setFloat32(at, q.placeStep, true);
  at += 4;
  for (const t of motion.places) {
    view.setUint32(at, t.joint, true);
    at += 4;
  }
  names.forEach((name, i) => {
    bytes[at] = name.length;
    bytes.set(name, at + 1);
    view.setFloat32(at + 1 + name.length, q.scalarSteps[i]!, true);
    at += name.length + 5;
  });
  for (const body of bodies) {
    view.setUint32(at, body.length, true);
    at += 4;
  }
  return bytes.slice(0, at);
}
