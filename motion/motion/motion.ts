import { MotionError } from '../errors';
import { alignSigns, mulQuat, normalizeQuat, rotate3, slerp } from '../math/quat';
import { newWorldPose, type Rig, type WorldPose } from '../rig/rig';

/** Local places of one joint over time: 3 F numbers, metres, in the parent's frame. */
export interface PlaceTrack {
  readonly joint: number;
  readonly values: Float32Array;
}

/** A named number over time (a face shape, for one): F numbers. */
export interface NumberTrack {
  readonly name: string;
  readonly values: Float32Array;
}

/**
 * Motion on a rig of J joints over F frames.
 * turns: frame-major, [frame][joint] x y z w, 4 J F numbers, joint turn in its parent's frame, signs continuous in time.
 * Joints without a translation track stay at the rig's rest place.
 */
export interface Motion {
  readonly fps: number;
  readonly frameCount: number;
  readonly turns: Float32Array;
  readonly places: readonly PlaceTrack[];
  readonly numbers: readonly NumberTrack[];
}

export const MAX_FRAMES = 1_000_000;
/** Most numbers one motion may hold (frames × joints × 4): bounds what a hostile file can make us allocate. */
export const MAX_NUMBERS = 120_000_000;

export const durationOf = (motion: Motion): number => Math.max(0, motion.frameCount - 1) / motion.fps;

/** Checks the promises of a Motion against its rig; throws a MotionError naming joint and frame. */
export function assertMotion(rig: Rig, motion: Motion): void {
  const n = rig.names.length;
  const f = motion.frameCount;
  if (!(motion.fps > 0) || !Number.isFinite(motion.fps))
    throw new MotionError('bad-number', 'The frame rate is not above 0.');
  if (f < 1) throw new MotionError('no-motion', 'The motion has no frames.');
  if (motion.turns.length !== 4 * n * f) {
    throw new MotionError(
      'wrong-count',
      `The motion holds ${motion.turns.length} rotation numbers; it needs ${4 * n * f}.`,
    );
  }
  const firstBad = firstNotFinite(motion.turns);
  if (firstBad >= 0) {
    const joint = rig.names[(firstBad >> 2) % n]!;
    throw new MotionError('bad-number', 'A rotation is not a finite number.', {
      joint,
      frame: Math.floor(firstBad / (4 * n)),
    });
  }
  for (const track of motion.places) {
    const joint = rig.names[track.joint];
    if (joint === undefined || track.values.length !== 3 * f)
      throw new MotionError('wrong-count', 'A travel track does not fit the rig.');
    const bad = firstNotFinite(track.values);
    if (bad >= 0)
      throw new MotionError('bad-number', 'A place is not a finite number.', { joint, frame: Math.floor(bad / 3) });
  }
  for (const { name, values } of motion.numbers) {
    if (values.length !== f)
      throw new MotionError('wrong-count', `The track "${name}" holds ${values.length} numbers for ${f} frames.`);
    const bad = firstNotFinite(values);
    if (bad >= 0)
      throw new MotionError('bad-number', `The track "${name}" holds a number that is not finite.`, { frame: bad });
  }
}

/** Index of the first number that is not finite, −1 where all are; a plain loop, for every motion goes through it. */
function firstNotFinite(values: Float32Array): number {
  for (let i = 0; i < values.length; i++) if (values[i]! - values[i]! !== 0) return i;
  return -1;
}

/** Reads one pose after another without allocating. Frames of reference as in WorldPose. */
export class PoseReader {
  readonly pose: WorldPose;
  private readonly localT: Float32Array;

  constructor(
    readonly rig: Rig,
    readonly motion: Motion,
  ) {
    this.pose = newWorldPose(rig.names.length);
    this.localT = rig.restT.slice();
  }

  /** World pose at a whole frame; the returned object is reused by the next call. */
  at(frame: number): WorldPose {
    const n = this.rig.names.length;
    for (const { joint, values } of this.motion.places) {
      this.localT[3 * joint] = values[3 * frame]!;
      this.localT[3 * joint + 1] = values[3 * frame + 1]!;
      this.localT[3 * joint + 2] = values[3 * frame + 2]!;
    }
    composeFrame(this.rig.parents, this.motion.turns, 4 * n * frame, this.localT, this.pose.r, this.pose.p);
    return this.pose;
  }
}

/** composePose for turns that start at an offset; the hot loop of everything, hence written out. */
export function composeFrame(
  parents: Int16Array,
  turns: Float32Array,
  offset: number,
  localT: Float32Array,
  dstR: Float64Array,
  dstP: Float64Array,
): void {
  const n = parents.length;
  for (let j = 0, q = 0, t = 0; j < n; j++, q += 4, t += 3) {
    const p = parents[j]!;
    const bx = turns[offset + q]!;
    const by = turns[offset + q + 1]!;
    const bz = turns[offset + q + 2]!;
    const bw = turns[offset + q + 3]!;
    const x = localT[t]!;
    const y = localT[t + 1]!;
    const z = localT[t + 2]!;
    if (p < 0) {
      dstR[q] = bx;
      dstR[q + 1] = by;
      dstR[q + 2] = bz;
      dstR[q + 3] = bw;
      dstP[t] = x;
      dstP[t + 1] = y;
      dstP[t + 2] = z;
      continue;
    }
    const pq = 4 * p;
    const pt = 3 * p;
    const ax = dstR[pq]!;
    const ay = dstR[pq + 1]!;
    const az = dstR[pq + 2]!;
    const aw = dstR[pq + 3]!;
    dstR[q] = aw * bx + ax * bw + ay * bz - az * by;
    dstR[q + 1] = aw * by - ax * bz + ay * bw + az * bx;
    dstR[q + 2] = aw * bz + ax * by - ay * bx + az * bw;
    dstR[q + 3] = aw * bw - ax * bx - ay * by - az * bz;
    const tx = 2 * (ay * z - az * y);
    const ty = 2 * (az * x - ax * z);
    const tz = 2 * (ax * y - ay * x);
    dstP[t] = dstP[pt]! + x + aw * tx + ay * tz - az * ty;
    dstP[t + 1] = dstP[pt + 1]! + y + aw * ty + az * tx - ax * tz;
    dstP[t + 2] = dstP[pt + 2]! + z + aw * tz + ax * ty - ay * tx;
  }
}

/** World places of all joints over time: [frame][joint] x y z, metres. */
export function worldPositions(rig: Rig, motion: Motion): Float32Array {
  const n = rig.names.length;
  const out = new Float32Array(3 * n * motion.frameCount);
  const reader = new PoseReader(rig, motion);
  for (let f = 0; f < motion.frameCount; f++) out.set(reader.at(f).p, 3 * n * f);
  return out;
}

/** The motion turned and scaled with its rig (see transformRig). Pure. */
export function transformMotion(rig: Rig, motion: Motion, q: readonly number[], scale: number): Motion {
  const n = rig.names.length;
  const turns = motion.turns.slice();
  const roots = new Set<number>();
  rig.parents.forEach((p, j) => {
    if (p < 0) roots.add(j);
  });
  for (const j of roots) {
    for (let f = 0; f < motion.frameCount; f++) {
      const o = 4 * (f * n + j);
      mulQuat(turns, o, q, 0, turns, o);
      normalizeQuat(turns, o);
    }
    alignSigns(turns, 4 * j, 4 * n, motion.frameCount);
  }
  const places = motion.places.map(({ joint, values }) => {
    const moved = values.map((x) => x * scale);
    if (roots.has(joint)) for (let o = 0; o < moved.length; o += 3) rotate3(moved, o, q, 0, moved, o);
    return { joint, values: moved };
  });
  return { ...motion, turns: turns, places: places };
}

/** The same motion at another frame rate: turns by shortest arc, places and numbers linearly. First frame kept. */
export function resample(rig: Rig, motion: Motion, fps: number): Motion {
  if (!(fps > 0) || fps > 1000)
    throw new MotionError('bad-argument', 'The frame rate must lie above 0 and at most 1000.');
  if (Math.abs(fps - motion.fps) < 1e-6) return motion;
  const n = rig.names.length;
  const frameCount = Math.max(1, Math.floor(durationOf(motion) * fps + 1e-6) + 1);
  if (frameCount * n * 4 > MAX_NUMBERS)
    throw new MotionError('too-large', 'The motion would grow too large at this frame rate.');
  const turns = new Float32Array(4 * n * frameCount);
  const linear = (values: Float32Array, width: number): Float32Array => {
    const out = new Float32Array(width * frameCount);
    for (let f = 0; f < frameCount; f++) {
      const { a, b, t } = sampleAt(motion, f / fps);
      for (let k = 0; k < width; k++)
        out[width * f + k] = (1 - t) * values[width * a + k]! + t * values[width * b + k]!;
    }
    return out;
  };
  for (let f = 0; f < frameCount; f++) {
    const { a, b, t } = sampleAt(motion, f / fps);
    for (let j = 0; j < n; j++) {
      slerp(turns, 4 * (f * n + j), motion.turns, 4 * (a * n + j), motion.turns, 4 * (b * n + j), t);
    }
  }
  for (let j = 0; j < n; j++) alignSigns(turns, 4 * j, 4 * n, frameCount);
  return {
    fps,
    frameCount,
    turns: turns,
    places: motion.places.map((t) => ({ joint: t.joint, values: linear(t.values, 3) })),
    numbers: motion.numbers.map((s) => ({ name: s.name, values: linear(s.values, 1) })),
  };
}

/** The two frames around a time in seconds and the share of the second one. Times outside are clamped. */
export function sampleAt(
  motion: Pick<Motion, 'fps' | 'frameCount'>,
  seconds: number,
): { a: number; b: number; t: number } {
  const x = Math.min(Math.max(seconds * motion.fps, 0), motion.frameCount - 1);
  const near = Math.round(x);
  if (Math.abs(x - near) < 1e-6) return { a: near, b: near, t: 0 };
  const a = Math.floor(x);
  return { a, b: Math.min(a + 1, motion.frameCount - 1), t: x - a };
}

/** A motion that holds the rig's rest pose for one frame. */
export function restMotion(rig: Rig, fps = 30): Motion {
  return { fps, frameCount: 1, turns: rig.restR.slice(), places: rootTracks(rig, 1), numbers: [] };
}

function rootTracks(rig: Rig, frameCount: number): PlaceTrack[] {
  const tracks: PlaceTrack[] = [];
  rig.parents.forEach((p, joint) => {
    if (p >= 0) return;
    const values = new Float32Array(3 * frameCount);
    for (let f = 0; f < frameCount; f++) values.set(rig.restT.subarray(3 * joint, 3 * joint + 3), 3 * f);
    tracks.push({ joint, values });
  });
  return tracks;
}
