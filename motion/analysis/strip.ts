import { alignmentTurns } from '../body/alignment';
import { type Body, measureBody } from '../body/body';
import { headingOf, yawQuat } from '../body/root-frame';
import { type BodyMap, chainOf, jointOf, type Slot } from '../bodymap/slots';
import { MotionError } from '../errors';
import { mulInvQuat, mulQuat, normalizeQuat, rotate3, slerp } from '../math/quat';
import { type Motion, PoseReader } from '../motion/motion';
import { composePose, newWorldPose, type Rig, type WorldPose } from '../rig/rig';
import { PLANT_PARTS, type Plant } from './plants';

// A strip is a motion in the common body's own terms, small enough to travel with every list row and free of any skeleton:
// world turns of the slots beyond the aligned pose, and the hip centre in legs. Whoever draws it puts it on a performer.

/** Slots that a strip holds; 'chest' is the last spine joint. */
export const STRIP_SLOTS = [
  'hips',
  'chest',
  'head',
  'collarL',
  'upperArmL',
  'forearmL',
  'handL',
  'thighL',
  'shinL',
  'footL',
  'toesL',
  'collarR',
  'upperArmR',
  'forearmR',
  'handR',
  'thighR',
  'shinR',
  'footR',
  'toesR',
] as const;
const WIDTH = STRIP_SLOTS.length;
export const STRIP_SAMPLES = 72;
export const STRIP_POSES = 13;

/**
 * frames: S frame numbers, rising. turns: [sample][slot] x y z w. places: 3 S, hip centre, in legs of the source, ground at 0,
 * first sample over the origin and looking along +Z. poses: samples worth drawing. view: azimuth of the eye in radians from
 * the body's front (0) towards its left.
 */
export interface Strip {
  readonly frameCount: number;
  readonly fps: number;
  readonly frames: Uint32Array;
  readonly turns: Float32Array;
  readonly places: Float32Array;
  readonly poses: readonly number[];
  readonly view: number;
  readonly plants: readonly Plant[];
}

function slotJoint(map: BodyMap, slot: Slot): number {
  return slot === 'chest' ? (chainOf(map, 'spine').at(-1) ?? -1) : jointOf(map, slot);
}

/** Draws the strip of a motion; missing slots follow what carries them. */
export function makeStrip(
  rig: Rig,
  map: BodyMap,
  motion: Motion,
  plants: readonly Plant[],
  floor: number,
  body: Body = measureBody(rig, map),
  rest?: WorldPose,
): Strip {
  const aligned = alignmentTurns(rig, map, rest);
  const joints = STRIP_SLOTS.map((s) => slotJoint(map, s));
  const samples = Math.min(STRIP_SAMPLES, motion.frameCount);
  const frames = Uint32Array.from({ length: samples }, (_, i) =>
    samples === 1 ? 0 : Math.round((i * (motion.frameCount - 1)) / (samples - 1)),
  );
  const turns = new Float32Array(4 * WIDTH * samples);
  const places = new Float32Array(3 * samples);
  const reader = new PoseReader(rig, motion);
  const leg = body.leg || Math.max(0.1, body.hipHeight) || 1;
  const start = [0, 0];
  const q = [0, 0, 0, 1];
  let yawBack = [0, 0, 0, 1];
  for (let i = 0; i < samples; i++) {
    const pose = reader.at(frames[i]!);
    const c = [0, 1, 2].map((k) => body.hipJoints.reduce((s, j) => s + pose.p[3 * j + k]!, 0) / body.hipJoints.length);
    if (i === 0) {
      start.splice(0, 2, c[0]!, c[2]!);
      const hips = joints[0]!;
      yawBack = yawQuat(hips < 0 ? 0 : -headingOf(pose.r, 4 * hips, aligned, 4 * hips));
    }
    const v = [(c[0]! - start[0]!) / leg, (c[1]! - floor) / leg, (c[2]! - start[1]!) / leg];
    rotate3(places, 3 * i, yawBack, 0, v, 0);
    for (let s = 0; s < WIDTH; s++) {
      const j = joints[s]!;
      const o = 4 * (i * WIDTH + s);
      if (j >= 0) {
        mulInvQuat(q, 0, pose.r, 4 * j, aligned, 4 * j);
        mulQuat(turns, o, yawBack, 0, q, 0);
        normalizeQuat(turns, o);
      } else copyFrom(turns, o, i, carrierOf(s));
    }
  }
  return {
    frameCount: motion.frameCount,
    fps: motion.fps,
    frames,
    turns,
    places,
    poses: choosePoses(turns, samples),
    view: chooseView(turns, samples),
    plants,
  };
}

/** Slot that carries another where the latter is missing. */
function carrierOf(s: number): number {
  const name = STRIP_SLOTS[s]!;
  if (name === 'hips') return -1;
  if (name === 'chest') return 0;
  if (name === 'head' || name.startsWith('collar')) return 1;
  if (name.startsWith('thigh')) return 0;
  return s - 1;
}

function copyFrom(turns: Float32Array, o: number, sample: number, slot: number): void {
  for (let k = 0; k < 4; k++) turns[o + k] = slot < 0 ? (k === 3 ? 1 : 0) : turns[4 * (sample * WIDTH + slot) + k]!;
}

/** Evenly spaced samples, each moved to the most telling one near it: where limbs turn round. After Assa, Caspi, Cohen-Or 2005 in spirit. */
function choosePoses(turns: Float32Array, samples: number): number[] {
  if (samples <= STRIP_POSES) return Array.from({ length: samples }, (_, i) => i);
  const apart = (a: number, b: number): number => {
    let sum = 0;
    for (let o = 0; o < 4 * WIDTH; o += 4) {
      let dot = 0;
      for (let k = 0; k < 4; k++) dot += turns[4 * WIDTH * a + o + k]! * turns[4 * WIDTH * b + o + k]!;
      sum += 1 - dot * dot;
    }
    return sum;
  };
  const out: number[] = [];
  const gap = (samples - 1) / (STRIP_POSES - 1);
  for (let i = 0; i < STRIP_POSES; i++) {
    const middle = Math.round(i * gap);
    const room = i === 0 || i === STRIP_POSES - 1 ? 0 : Math.floor(gap * 0.3);
    let best = middle;
    let bestScore = -1;
    for (let s = middle - room; s <= middle + room; s++) {
      const score =
        apart(s, Math.max(0, s - 3)) +
        apart(s, Math.min(samples - 1, s + 3)) -
        apart(Math.max(0, s - 3), Math.min(samples - 1, s + 3));
      if (score > bestScore + 1e-6) {
        bestScore = score;
        best = s;
      }
    }
    out.push(best);
  }
  return out;
}

/** The azimuth that shows most movement of the limbs, between front (0) and nearly side. */
function chooseView(turns: Float32Array, samples: number): number {
  let across = 0;
  let along = 0;
  const v = [0, 0, 0];
  const limbs: [number, number[]][] = [
    'upperArmL',
    'forearmL',
    'upperArmR',
    'forearmR',
    'thighL',
    'shinL',
    'thighR',
    'shinR',
  ].map((name) => [
    STRIP_SLOTS.indexOf(name as (typeof STRIP_SLOTS)[number]),
    /^(upper|fore)/.test(name) ? [name.endsWith('L') ? 1 : -1, 0, 0] : [0, -1, 0],
  ]);
  for (const [s, axis] of limbs) {
    let mx = 0;
    let mz = 0;
    let xx = 0;
    let zz = 0;
    for (let i = 0; i < samples; i++) {
      rotate3(v, 0, turns, 4 * (i * WIDTH + s), axis, 0);
      mx += v[0]! / samples;
      mz += v[2]! / samples;
      xx += (v[0]! * v[0]!) / samples;
      zz += (v[2]! * v[2]!) / samples;
    }
    across += xx - mx * mx;
    along += zz - mz * mz;
  }
  const share = along / Math.max(1e-9, along + across);
  return share > 0.6 ? 1.25 : share > 0.4 ? 0.85 : 0.35;
}

/** Puts strips on one performer. Allocates once. */
export class StripPoser {
  readonly pose: WorldPose;
  readonly body: Body;
  private readonly aligned: Float64Array;
  private readonly source: Int16Array;
  private readonly local: Float32Array;
  private readonly places: Float32Array;

  constructor(
    readonly rig: Rig,
    readonly map: BodyMap,
    floor?: number,
  ) {
    this.body = measureBody(rig, map, undefined, floor);
    this.aligned = alignmentTurns(rig, map);
    this.pose = newWorldPose(rig.names.length);
    this.local = rig.restR.slice();
    this.places = rig.restT.slice();
    this.source = new Int16Array(rig.names.length).fill(-1);
    STRIP_SLOTS.forEach((slot, s) => {
      const j = slotJoint(map, slot);
      if (j >= 0) this.source[j] = s;
    });
  }

  /** World pose of the performer at a place in the strip, 0 … S − 1, fractions allowed; hips over the origin unless `travel`. */
  at(strip: Strip, sample: number, travel = false): WorldPose {
    const { rig, pose, source, aligned, local } = this;
    const a = Math.max(0, Math.min(strip.frames.length - 1, Math.floor(sample)));
    const b = Math.min(strip.frames.length - 1, a + 1);
    const t = Math.min(1, Math.max(0, sample - a));
    const spine = chainOf(this.map, 'spine');
    const q = [0, 0, 0, 1];
    for (let j = 0; j < rig.names.length; j++) {
      const p = rig.parents[j]!;
      let s = source[j]!;
      let share = 1;
      const rank = spine.indexOf(j);
      if (rank >= 0 && rank < spine.length - 1) {
        s = 1;
        share = (rank + 1) / spine.length;
      }
      if (s < 0) {
        // no slot: keeps its rest
        if (p < 0) for (let k = 0; k < 4; k++) pose.r[4 * j + k] = rig.restR[4 * j + k]!;
        else mulQuat(pose.r, 4 * j, pose.r, 4 * p, rig.restR, 4 * j);
      } else {
        slerp(q, 0, strip.turns, 4 * (a * WIDTH + s), strip.turns, 4 * (b * WIDTH + s), t);
        if (share < 1) slerp(q, 0, strip.turns, 4 * a * WIDTH, q, 0, share);
        mulQuat(pose.r, 4 * j, q, 0, aligned, 4 * j);
      }
      if (p < 0) for (let k = 0; k < 4; k++) local[4 * j + k] = pose.r[4 * j + k]!;
      else {
        const inverse = [-pose.r[4 * p]!, -pose.r[4 * p + 1]!, -pose.r[4 * p + 2]!, pose.r[4 * p + 3]!];
        mulQuat(local, 4 * j, inverse, 0, pose.r, 4 * j);
      }
    }
    composePose(rig.parents, local, this.places, pose.r, pose.p);
    const leg = this.body.leg || this.body.hipHeight || 1;
    const target = [0, 1, 2].map((k) => ((1 - t) * strip.places[3 * a + k]! + t * strip.places[3 * b + k]!) * leg);
    const gap = this.body.hipHeight - leg;
    const now = [0, 1, 2].map(
      (k) => this.body.hipJoints.reduce((x, j) => x + pose.p[3 * j + k]!, 0) / this.body.hipJoints.length,
    );
    const move = [
      (travel ? target[0]! : 0) - now[0]!,
      target[1]! + (this.body.leg ? gap : 0) - now[1]!,
      (travel ? target[2]! : 0) - now[2]!,
    ];
    for (let o = 0; o < pose.p.length; o++) pose.p[o] = pose.p[o]! + move[o % 3]!;
    return pose;
  }
}

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
    throw new MotionError('not-this-format', 'These bytes are no strip.');
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
