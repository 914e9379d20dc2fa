import { invMulQuat, mulQuat, normalizeQuat, rotate3 } from '../math/quat';
import type { SkeletonRig } from '../rig/rig';
import { restPose } from '../rig/rig';
import { ChainReader } from './chain-reader';
import type { Motion } from './motion';
import { placesOf } from './move-joint';

/** The topmost joint on the way from the root down to `joint` that moves at all; `joint` where none above it does. */
export function topMover(rig: SkeletonRig, motion: Motion, joint: number): number {
  const path: number[] = [];
  for (let j = joint; j >= 0; j = rig.parents[j]!) path.unshift(j);
  return path.find((j) => jointMoves(rig, motion, j)) ?? joint;
}

/** Whether a joint's turn or place changes at all. */
export function jointMoves(rig: SkeletonRig, motion: Motion, joint: number): boolean {
  const n = rig.names.length;
  for (let f = 1; f < motion.frameCount; f++)
    for (let k = 0; k < 4; k++)
      if (Math.abs(motion.turns[4 * (f * n + joint) + k]! - motion.turns[4 * joint + k]!) > 1e-6) return true;
  const values = motion.places.find((t) => t.joint === joint)?.values;
  return values?.some((x, o) => Math.abs(x - values[o % 3]!) > 1e-6) ?? false;
}

/** J: 1 for a joint and everything that hangs from it. */
export function hangingFrom(rig: SkeletonRig, joint: number): Uint8Array {
  const out = new Uint8Array(rig.names.length);
  for (let j = joint; j < out.length; j++)
    if (j === joint || (rig.parents[j]! >= 0 && out[rig.parents[j]!])) out[j] = 1;
  return out;
}

/** A motion whose moving part hangs from nothing, and the way back. */
export interface Unhung {
  readonly rig: SkeletonRig;
  readonly motion: Motion;
  /** The topmost joint that moves: now without a parent. */
  readonly top: number;
  /** Hangs a motion of that rig, of any length, from where it hung. */
  readonly rehang: (motion: Motion) => Motion;
}

/**
 * Takes off what stands still above a motion (a root on the ground, an armature with other axes), so that the joint that
 * travels holds world turns and places. Joints keep their numbers; nothing moves in the world.
 * @param joint the joint that travels
 */
export function unhang(rig: SkeletonRig, motion: Motion, joint: number): Unhung {
  const top = topMover(rig, motion, joint);
  const above = rig.parents[top]!;
  if (above < 0) return { rig, motion, top, rehang: (m) => m };
  const n = rig.names.length;
  const { r, p } = new ChainReader(rig, motion, [above]).at(0);
  const turn = [...r.subarray(4 * above, 4 * above + 4)];
  const inverse = [-turn[0]!, -turn[1]!, -turn[2]!, turn[3]!];
  const place = [...p.subarray(3 * above, 3 * above + 3)];
  const rest = restPose(rig);
  const restT = rig.restT.slice();
  const restR = rig.restR.slice();
  restT.set(rest.p.subarray(3 * top, 3 * top + 3), 3 * top);
  restR.set(rest.r.subarray(4 * top, 4 * top + 4), 4 * top);
  const parents = rig.parents.slice();
  parents[top] = -1;
  const alone: SkeletonRig = { ...rig, parents, restT, restR };
  const turns = motion.turns.slice();
  const values = placesOf(rig, motion, top);
  for (let f = 0; f < motion.frameCount; f++) {
    const o = 4 * (f * n + top);
    mulQuat(turns, o, turn, 0, turns, o);
    normalizeQuat(turns, o);
    rotate3(values, 3 * f, turn, 0, values, 3 * f);
    for (let k = 0; k < 3; k++) values[3 * f + k] = values[3 * f + k]! + place[k]!;
  }
  return {
    rig: alone,
    motion: withTrack({ ...motion, turns }, top, values),
    top,
    rehang: (done) => {
      const back = done.turns.slice();
      const track = placesOf(alone, done, top);
      for (let f = 0; f < done.frameCount; f++) {
        const o = 4 * (f * n + top);
        invMulQuat(back, o, turn, 0, back, o);
        normalizeQuat(back, o);
        for (let k = 0; k < 3; k++) track[3 * f + k] = track[3 * f + k]! - place[k]!;
        rotate3(track, 3 * f, inverse, 0, track, 3 * f);
      }
      return withTrack({ ...done, turns: back }, top, track);
    },
  };
}

const withTrack = (motion: Motion, joint: number, values: Float32Array): Motion => ({
  ...motion,
  places: [...motion.places.filter((t) => t.joint !== joint), { joint, values }],
});
