import { MotionError } from '../errors';
import { mul64, normalize64, slerp64, storeNear } from '../math/fast';
import { composePose, type Rig, type WorldPose } from '../rig/rig';
import type { Motion } from './motion';
import { type BetweenFrames, betweenFrames, sampleValues } from './tracks';

/**
 * One pose of a rig of J joints: each joint's turn and place in its parent's frame. Poses are filled in place by what reads,
 * mixes and edits them, so that nothing is allocated from frame to frame.
 */
export interface LocalPose {
  /** 4 J: x y z w, unit. */
  readonly turns: Float64Array;
  /** 3 J: metres. */
  readonly places: Float64Array;
}

/** How much of a change reaches each joint: J numbers from 0 to 1. */
export type PoseMask = ArrayLike<number>;

/** The rig's rest, as a pose to be written over. */
export const newLocalPose = (rig: Rig): LocalPose => ({
  turns: Float64Array.from(rig.restR),
  places: Float64Array.from(rig.restT),
});

/** dst = from, number by number. */
export function copyPose(dst: LocalPose, from: LocalPose): void {
  dst.turns.set(from.turns);
  dst.places.set(from.places);
}

/** Reads poses of a motion at any time. Joints without a track of places stay at their rest place. */
export class PoseSampler {
  private readonly at: BetweenFrames = { a: 0, b: 0, t: 0 };
  private readonly first = new Float64Array(4);
  private readonly second = new Float64Array(4);

  constructor(
    private readonly rig: Rig,
    private readonly motion: Motion,
  ) {}

  /**
   * Reads the pose at a time into `dst`; at whole frames it is what stands there, to the bit. Turns go the shortest way.
   * @param seconds clamped to the motion
   */
  read(dst: LocalPose, seconds: number): void {
    const { rig, motion, at, first, second } = this;
    const n = rig.names.length;
    betweenFrames(seconds * motion.fps, motion.frameCount, at);
    const a = 4 * n * at.a;
    const b = 4 * n * at.b;
    const { turns } = motion;
    if (at.t === 0) for (let i = 0; i < 4 * n; i++) dst.turns[i] = turns[a + i]!;
    else
      for (let o = 0; o < 4 * n; o += 4) {
        for (let k = 0; k < 4; k++) {
          first[k] = turns[a + o + k]!;
          second[k] = turns[b + o + k]!;
        }
        slerp64(dst.turns, o, first, 0, second, 0, at.t);
      }
    dst.places.set(rig.restT);
    for (const { joint, values, between } of motion.places)
      sampleValues(dst.places, 3 * joint, values, 3, between ?? 'line', at);
  }
}

/** World turns and places of a pose. */
export function worldOf(rig: Rig, pose: LocalPose, dst: WorldPose): void {
  composePose(rig.parents, pose.turns, pose.places, dst.r, dst.p);
}

/**
 * Writes a pose into a frame of a motion's turns and tracks of places, turns with the sign that goes on from the frame before.
 * Places of joints without a track are dropped.
 */
export function writePose(motion: Motion, frame: number, pose: LocalPose): void {
  const n = pose.turns.length / 4;
  const o = 4 * n * frame;
  for (let i = 0; i < 4 * n; i += 4) storeNear(motion.turns, o + i, pose.turns, i, frame > 0 ? o + i - 4 * n : -1);
  for (const { joint, values } of motion.places)
    for (let k = 0; k < 3; k++) values[3 * frame + k] = pose.places[3 * joint + k]!;
}

/**
 * A pose between two: turns by the shortest arc, places straight. Weight 0 gives the first and weight 1 the second, to the bit.
 * `dst` may be either of them.
 * @param mask how much of the weight reaches each joint, all of it where left out
 */
export function blendPoses(dst: LocalPose, a: LocalPose, b: LocalPose, weight: number, mask?: PoseMask): void {
  const n = a.turns.length / 4;
  for (let j = 0; j < n; j++) {
    const w = mask ? weight * mask[j]! : weight;
    const q = 4 * j;
    const p = 3 * j;
    if (w === 0 || w === 1) {
      const from = w === 0 ? a : b;
      for (let k = 0; k < 4; k++) dst.turns[q + k] = from.turns[q + k]!;
      for (let k = 0; k < 3; k++) dst.places[p + k] = from.places[p + k]!;
      continue;
    }
    slerp64(dst.turns, q, a.turns, q, b.turns, q, w);
    for (let k = 0; k < 3; k++) dst.places[p + k] = (1 - w) * a.places[p + k]! + w * b.places[p + k]!;
  }
}

const departure = new Float64Array(4);
const none = Float64Array.of(0, 0, 0, 1);

/**
 * Lays on a pose what another departs from a reference: W′ = W · (ref⁻¹ · over)^w in each joint's own frame, places by their
 * difference. `dst` may be the pose.
 * @param mask how much of the weight reaches each joint, all of it where left out
 */
export function addPose(
  dst: LocalPose,
  pose: LocalPose,
  over: LocalPose,
  reference: LocalPose,
  weight = 1,
  mask?: PoseMask,
): void {
  const n = pose.turns.length / 4;
  for (let j = 0; j < n; j++) {
    const w = mask ? weight * mask[j]! : weight;
    const q = 4 * j;
    if (w === 0) {
      for (let k = 0; k < 4; k++) dst.turns[q + k] = pose.turns[q + k]!;
    } else {
      inverseMul(departure, reference.turns, over.turns, q);
      slerp64(departure, 0, none, 0, departure, 0, w);
      mul64(dst.turns, q, pose.turns, q, departure, 0);
      normalize64(dst.turns, q);
    }
    for (let k = 3 * j; k < 3 * j + 3; k++)
      dst.places[k] = pose.places[k]! + w * (over.places[k]! - reference.places[k]!);
  }
}

function inverseMul(dst: Float64Array, a: Float64Array, b: Float64Array, o: number): void {
  const ax = -a[o]!;
  const ay = -a[o + 1]!;
  const az = -a[o + 2]!;
  const aw = a[o + 3]!;
  const bx = b[o]!;
  const by = b[o + 1]!;
  const bz = b[o + 2]!;
  const bw = b[o + 3]!;
  dst[0] = aw * bx + ax * bw + ay * bz - az * by;
  dst[1] = aw * by - ax * bz + ay * bw + az * bx;
  dst[2] = aw * bz + ax * by - ay * bx + az * bw;
  dst[3] = aw * bw - ax * bx - ay * by - az * bz;
}

/** Upper triangle of the sum of outer products: xx xy xz xw yy yz yw zz zw ww. */
const sums = new Float64Array(10);
const vector = new Float64Array(4);
const image = new Float64Array(4);
/** Steps of the power iteration; turns that lie together need two or three, opposite ones all of them. */
const STEPS = 40;

/**
 * The mean of any number of poses. A joint's turn is the unit quaternion nearest to all of them, the largest eigenvector of
 * the weighted sum of their outer products, so neither the order of poses nor the signs of quaternions matter; places are
 * weighted means. Where one pose has all the weight the mean is that pose, to the bit. `dst` may be one of the poses.
 * Method: Markley, Cheng, Crassidis, Oshman, Averaging quaternions, 2007.
 * @param weights one a pose, 0 or more, of which some must be above 0; only their proportions count
 * @throws MotionError 'bad-argument' where there is no pose of weight above 0
 */
export function meanPose(dst: LocalPose, poses: readonly LocalPose[], weights: ArrayLike<number>): void {
  let total = 0;
  let heaviest = 0;
  for (let i = 0; i < poses.length; i++) {
    if (!(weights[i]! >= 0)) throw new MotionError('bad-argument', 'The weight of a pose must be a number from 0.');
    total += weights[i]!;
    if (weights[i]! > weights[heaviest]!) heaviest = i;
  }
  if (!(total > 0)) throw new MotionError('bad-argument', 'A mean needs a pose whose weight is above 0.');
  if (weights[heaviest] === total) {
    copyPose(dst, poses[heaviest]!);
    return;
  }
  const n = dst.turns.length / 4;
  for (let j = 0; j < n; j++) {
    meanTurn(dst.turns, 4 * j, poses, weights, total, poses[heaviest]!);
    for (let k = 3 * j; k < 3 * j + 3; k++) {
      let sum = 0;
      for (let i = 0; i < poses.length; i++) sum += weights[i]! * poses[i]!.places[k]!;
      dst.places[k] = sum / total;
    }
  }
}

function meanTurn(
  dst: Float64Array,
  o: number,
  poses: readonly LocalPose[],
  weights: ArrayLike<number>,
  total: number,
  heaviest: LocalPose,
): void {
  sums.fill(0);
  for (let i = 0; i < poses.length; i++) {
    const w = weights[i]! / total;
    if (w === 0) continue;
    const q = poses[i]!.turns;
    const x = q[o]!;
    const y = q[o + 1]!;
    const z = q[o + 2]!;
    const u = q[o + 3]!;
    sums[0] = sums[0]! + w * x * x;
    sums[1] = sums[1]! + w * x * y;
    sums[2] = sums[2]! + w * x * z;
    sums[3] = sums[3]! + w * x * u;
    sums[4] = sums[4]! + w * y * y;
    sums[5] = sums[5]! + w * y * z;
    sums[6] = sums[6]! + w * y * u;
    sums[7] = sums[7]! + w * z * z;
    sums[8] = sums[8]! + w * z * u;
    sums[9] = sums[9]! + w * u * u;
  }
  for (let k = 0; k < 4; k++) vector[k] = heaviest.turns[o + k]!;
  for (let step = 0; step < STEPS; step++) {
    const [x, y, z, u] = [vector[0]!, vector[1]!, vector[2]!, vector[3]!];
    image[0] = sums[0]! * x + sums[1]! * y + sums[2]! * z + sums[3]! * u;
    image[1] = sums[1]! * x + sums[4]! * y + sums[5]! * z + sums[6]! * u;
    image[2] = sums[2]! * x + sums[5]! * y + sums[7]! * z + sums[8]! * u;
    image[3] = sums[3]! * x + sums[6]! * y + sums[8]! * z + sums[9]! * u;
    normalize64(image, 0);
    const moved = Math.abs(image[0]! - x) + Math.abs(image[1]! - y) + Math.abs(image[2]! - z) + Math.abs(image[3]! - u);
    for (let k = 0; k < 4; k++) vector[k] = image[k]!;
    if (moved < 1e-9) break;
  }
  for (let k = 0; k < 4; k++) dst[o + k] = vector[k]!;
}
