import { MotionError } from '../errors';
import { alignSigns, mulQuat, normalizeQuat, rotate3 } from '../math/quat';
import { newWorldPose, type Rig, type SkeletonRig, type WorldPose } from '../rig/rig';
import { assertTracks, firstNotFinite, NO_TRACKS, type Tracks } from './tracks';

/**
 * Motion on a rig of J joints over F frames: a track of turns for every joint, and tracks of other kinds where something
 * else changes. Operations that treat all kinds alike go through tracks.ts.
 * turns: frame-major, [frame][joint] x y z w, 4 J F numbers, joint turn in its parent's frame, signs continuous in time; one
 * array, for every joint turns in nearly every motion and everything reads poses frame by frame. Between frames: shortest arc.
 * Joints without a track of places stay at the rig's rest place, those without one of scales at their size.
 */
export interface Motion extends Tracks {
  readonly fps: number;
  readonly frameCount: number;
  readonly turns: Float32Array;
}

export const MAX_FRAMES = 1_000_000;
/** Most numbers one motion may hold (frames × joints × 4): bounds what a hostile file can make us allocate. */
export const MAX_NUMBERS = 120_000_000;

/** Time from the first frame to the last, seconds; 0 for a single frame. */
export const durationOf = (motion: Motion): number => Math.max(0, motion.frameCount - 1) / motion.fps;

/**
 * Checks the promises of a Motion against its rig; throws a MotionError naming joint and frame.
 * @throws MotionError 'bad-number', 'no-motion', 'wrong-count' or 'bad-structure', with joint and frame
 */
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
  assertTracks(rig.names, motion);
}

/** Reads one pose after another without allocating. Frames of reference as in WorldPose. */
export class PoseReader<R extends Rig = SkeletonRig> {
  readonly pose: WorldPose;
  private readonly localT: Float32Array;

  constructor(
    readonly rig: R,
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
  const places = motion.places.map(({ joint, between, values }) => {
    const moved = values.map((x) => x * scale);
    if (roots.has(joint)) for (let o = 0; o < moved.length; o += 3) rotate3(moved, o, q, 0, moved, o);
    return { joint, between, values: moved };
  });
  return { ...motion, turns, places };
}

/** A motion that holds the rig's rest pose for one frame. */
export function restMotion(rig: Rig, fps = 30): Motion {
  const places = [...rig.parents.keys()]
    .filter((j) => rig.parents[j]! < 0)
    .map((joint) => ({ joint, values: rig.restT.slice(3 * joint, 3 * joint + 3) }));
  return { fps, frameCount: 1, turns: rig.restR.slice(), ...NO_TRACKS, places };
}
