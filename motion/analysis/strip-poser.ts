import { alignmentTurns } from '../body/alignment';
import { type Body, measureBody } from '../body/body';
import { type BodyMap, chainOf } from '../bodymap/slots';
import { mulQuat, slerp } from '../math/quat';
import { composePose, newWorldPose, type SkeletonRig, type WorldPose } from '../rig/rig';
import { STRIP_SLOTS, type Strip, slotJoint, WIDTH } from './strip';

/** Puts strips on one performer. Allocates once. */
export class StripPoser {
  readonly pose: WorldPose;
  readonly body: Body;
  private readonly aligned: Float64Array;
  private readonly source: Int16Array;
  private readonly local: Float32Array;
  private readonly places: Float32Array;

  constructor(
    readonly rig: SkeletonRig,
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
