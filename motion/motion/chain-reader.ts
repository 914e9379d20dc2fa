import type { Rig, WorldPose } from '../rig/rig';
import { newWorldPose } from '../rig/rig';
import type { Motion } from './motion';

/**
 * Reads world poses of some joints only: those asked for and what carries them. For loops that look at feet alone, where
 * a PoseReader would work out every finger too. Entries of other joints in the pose are undefined.
 */
export class ChainReader {
  readonly pose: WorldPose;
  private readonly order: Int16Array;
  private readonly localT: Float64Array;
  private readonly tracks: { joint: number; values: Float32Array }[];

  constructor(
    private readonly rig: Rig,
    private readonly motion: Motion,
    joints: readonly number[],
  ) {
    this.pose = newWorldPose(rig.names.length);
    this.localT = Float64Array.from(rig.restT);
    const needed = new Set<number>();
    for (const start of joints) for (let j = start; j >= 0; j = rig.parents[j]!) needed.add(j);
    this.order = Int16Array.from([...needed].sort((a, b) => a - b));
    this.tracks = motion.places.filter((t) => needed.has(t.joint));
  }

  /** World pose at a whole frame; the returned object is reused by the next call. */
  at(frame: number): WorldPose {
    const { localT, order } = this;
    const { parents } = this.rig;
    const { turns } = this.motion;
    const base = 4 * parents.length * frame;
    const { r, p } = this.pose;
    for (const { joint, values } of this.tracks) {
      localT[3 * joint] = values[3 * frame]!;
      localT[3 * joint + 1] = values[3 * frame + 1]!;
      localT[3 * joint + 2] = values[3 * frame + 2]!;
    }
    for (let i = 0; i < order.length; i++) {
      const j = order[i]!;
      const above = parents[j]!;
      const q = 4 * j;
      const t = 3 * j;
      const bx = turns[base + q]!;
      const by = turns[base + q + 1]!;
      const bz = turns[base + q + 2]!;
      const bw = turns[base + q + 3]!;
      const x = localT[t]!;
      const y = localT[t + 1]!;
      const z = localT[t + 2]!;
      if (above < 0) {
        r[q] = bx;
        r[q + 1] = by;
        r[q + 2] = bz;
        r[q + 3] = bw;
        p[t] = x;
        p[t + 1] = y;
        p[t + 2] = z;
        continue;
      }
      const ax = r[4 * above]!;
      const ay = r[4 * above + 1]!;
      const az = r[4 * above + 2]!;
      const aw = r[4 * above + 3]!;
      r[q] = aw * bx + ax * bw + ay * bz - az * by;
      r[q + 1] = aw * by - ax * bz + ay * bw + az * bx;
      r[q + 2] = aw * bz + ax * by - ay * bx + az * bw;
      r[q + 3] = aw * bw - ax * bx - ay * by - az * bz;
      const tx = 2 * (ay * z - az * y);
      const ty = 2 * (az * x - ax * z);
      const tz = 2 * (ax * y - ay * x);
      p[t] = p[3 * above]! + x + aw * tx + ay * tz - az * ty;
      p[t + 1] = p[3 * above + 1]! + y + aw * ty + az * tx - ax * tz;
      p[t + 2] = p[3 * above + 2]! + z + aw * tz + ax * ty - ay * tx;
    }
    return this.pose;
  }
}
