import type { CutoutPart, CutoutRig } from '../rig/rig';
import { type LocalPose, newLocalPose, PoseSampler } from './local-pose';
import type { Motion } from './motion';
import { type BetweenFrames, betweenFrames, sampleValues } from './tracks';

/**
 * Reads a cut-out's joints in their plane at any time, scale included, without allocating.
 * Each joint's frame is six numbers a b c d x y: a point (u, v) of the joint's own frame lies at (a u + c v + x, b u + d v + y)
 * in the world, metres. A joint's scale acts along its own axes, after everything above it.
 */
export class PlaneReader {
  /** 6 J numbers, filled by `read`. */
  readonly frames: Float64Array;
  private readonly sampler: PoseSampler;
  private readonly local: LocalPose;
  private readonly scales: Float64Array;
  private readonly at: BetweenFrames = { a: 0, b: 0, t: 0 };

  constructor(
    readonly rig: CutoutRig,
    readonly motion: Motion,
  ) {
    this.frames = new Float64Array(6 * rig.names.length);
    this.sampler = new PoseSampler(rig, motion);
    this.local = newLocalPose(rig);
    this.scales = new Float64Array(3 * rig.names.length).fill(1);
  }

  /** Frames of all joints at a time. @param seconds clamped to the motion */
  read(seconds: number): Float64Array {
    const { rig, motion, frames, local, scales, at } = this;
    this.sampler.read(local, seconds);
    betweenFrames(seconds * motion.fps, motion.frameCount, at);
    for (const { joint, values, between } of motion.scales)
      sampleValues(scales, 3 * joint, values, 3, between ?? 'line', at);
    for (let j = 0; j < rig.names.length; j++) {
      const z = local.turns[4 * j + 2]!;
      const w = local.turns[4 * j + 3]!;
      const cos = 1 - 2 * z * z;
      const sin = 2 * z * w;
      const [sx, sy] = [scales[3 * j]!, scales[3 * j + 1]!];
      const [x, y] = [local.places[3 * j]!, local.places[3 * j + 1]!];
      const [a, b, c, d] = [cos * sx, sin * sx, -sin * sy, cos * sy];
      const o = 6 * j;
      const p = 6 * rig.parents[j]!;
      if (p < 0) {
        frames[o] = a;
        frames[o + 1] = b;
        frames[o + 2] = c;
        frames[o + 3] = d;
        frames[o + 4] = x;
        frames[o + 5] = y;
        continue;
      }
      const [pa, pb, pc, pd] = [frames[p]!, frames[p + 1]!, frames[p + 2]!, frames[p + 3]!];
      frames[o] = pa * a + pc * b;
      frames[o + 1] = pb * a + pd * b;
      frames[o + 2] = pa * c + pc * d;
      frames[o + 3] = pb * c + pd * d;
      frames[o + 4] = pa * x + pc * y + frames[p + 4]!;
      frames[o + 5] = pb * x + pd * y + frames[p + 5]!;
    }
    return frames;
  }

  /** Where a point of a part lies after `read`, metres in the plane. @param at from the part's pivot, metres */
  pointOf(part: CutoutPart, at: readonly [number, number]): [number, number] {
    const f = this.frames.subarray(6 * part.joint, 6 * part.joint + 6);
    return [f[0]! * at[0] + f[2]! * at[1] + f[4]!, f[1]! * at[0] + f[3]! * at[1] + f[5]!];
  }
}
