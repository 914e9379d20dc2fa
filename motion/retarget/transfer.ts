import { invMul64, load4, mul64, normalize64, rotate64, slerp64, storeLocal } from '../math/fast';
import { arcQuat } from '../math/quat';
import { type Motion, PoseReader } from '../motion/motion';
import type { PlaceTrack } from '../motion/tracks';
import type { WorldPose } from '../rig/rig';
import type { RetargetPlan, StiffPart } from './plan';

export type Travel = 'leg' | 'path' | 'none';

export interface TransferOptions {
  /** leg: scaled by leg length; path: the source's own path on the ground; none: stays over its starting place. */
  readonly travel: Travel;
  /** Height of the ground under the source motion, metres. */
  readonly sourceFloor: number;
}

/**
 * Carries poses over one at a time by W_target = W_source · A_source⁻¹ · A_target (A: the aligned pose of each rig), and the
 * place of the hip centre scaled, measured from ground to ground. What a whole motion and a live stream share; it keeps
 * nothing of a pose but the place of the first one, and allocates nothing from pose to pose.
 */
export class PoseTransfer {
  /** J: turns of the target in the world, of the pose carried last. */
  private readonly wr: Float64Array;
  private readonly wp: Float64Array;
  private readonly restR: Float64Array;
  private readonly sourceRest: Float64Array;
  /** 3 J: places of the target's joints in their parents' frames; set those that move before a pose is carried. */
  readonly localT: Float64Array;
  private readonly carriers: Int16Array;
  /** By joint of the target: the source's limb that it follows as a whole. */
  private readonly stiff: readonly (StiffPart | undefined)[];
  private readonly legs: readonly StiffPart[];
  private readonly tips: Float64Array;
  private readonly ground: number;
  private readonly start = new Float64Array(3);
  private started = false;
  private readonly local = new Float64Array(4);
  private readonly other = new Float64Array(4);
  private readonly v = new Float64Array(3);
  private readonly from = new Float64Array(3);
  private readonly now = new Float64Array(3);

  constructor(
    private readonly plan: RetargetPlan,
    private readonly options: TransferOptions,
  ) {
    const { source, target, scale } = plan;
    const n = target.rig.names.length;
    this.wr = new Float64Array(4 * n);
    this.wp = new Float64Array(3 * n);
    this.restR = Float64Array.from(target.rig.restR);
    this.sourceRest = Float64Array.from(source.rig.restR);
    this.localT = Float64Array.from(target.rig.restT);
    const stiff: (StiffPart | undefined)[] = new Array(n).fill(undefined);
    for (const part of plan.stiff) stiff[part.joint] = part;
    this.stiff = stiff;
    this.tips = Float64Array.from(target.rig.tips);
    this.legs = plan.stiff.filter((p) => p.kind === 'leg');
    this.carriers = carriersOf(target.rig.parents, target.body.hipJoints);
    this.ground = options.travel === 'leg' ? scale : options.travel === 'path' ? 1 : 0;
  }

  /**
   * Carries one pose.
   * @param pose the source in the world; metres
   * @param locals the source's turns in their parents' frames, 4 numbers a joint from `at` on
   * @param out where the target's local turns go, 4 numbers a joint from `base` on; their signs go on from `before`, none
   *   where that is negative
   * @param hip where the place of the joint that travels goes, in its parent's frame: 3 numbers from `ho` on
   */
  carry(
    pose: WorldPose,
    locals: Float32Array,
    at: number,
    out: Float32Array,
    base: number,
    before: number,
    hip: Float32Array,
    ho: number,
  ): void {
    this.turn(pose, locals, at, out, base, before);
    this.travel(pose, hip, ho);
  }

  /** Turns: from the source's world, or kept, or copied. */
  private turn(
    pose: WorldPose,
    locals: Float32Array,
    at: number,
    out: Float32Array,
    base: number,
    before: number,
  ): void {
    const { wr, local, other, restR, sourceRest } = this;
    const { target, a, b, t, ka, kb, same } = this.plan;
    const { stiff } = this;
    const { parents } = target.rig;
    const n = parents.length;
    for (let j = 0, o = 0; j < n; j++, o += 4) {
      const p = parents[j]!;
      const last = before < 0 ? -1 : before + o;
      const first = a[j]!;
      if (first >= 0) {
        mul64(wr, o, pose.r, 4 * first, ka, o);
        if (t[j]! > 0) {
          mul64(other, 0, pose.r, 4 * b[j]!, kb, o);
          slerp64(wr, o, wr, o, other, 0, t[j]!);
        }
        const whole = stiff[j];
        if (whole) this.straighten(pose, whole, o);
        storeLocal(out, base + o, wr, 4 * p, wr, o, last);
        continue;
      }
      const s = same[j]!;
      if (s >= 0) {
        // same name, no slot: its departure from rest is copied
        load4(other, 0, locals, at + 4 * s);
        invMul64(local, 0, sourceRest, 4 * s, other, 0);
        mul64(local, 0, restR, o, local, 0);
        normalize64(local, 0);
        if (p >= 0) mul64(wr, o, wr, 4 * p, local, 0);
        else for (let k = 0; k < 4; k++) wr[o + k] = local[k]!;
        storeLocal(out, base + o, local, -1, local, 0, last);
      } else {
        if (p >= 0) mul64(wr, o, wr, 4 * p, restR, o);
        else for (let k = 0; k < 4; k++) wr[o + k] = restR[o + k]!;
        for (let k = 0; k < 4; k++) out[base + o + k] = restR[o + k]!;
      }
    }
  }

  /** Turns a limb that cannot bend to where the source's limb leads from end to end, beyond where its first bone does. */
  private straighten({ p }: WorldPose, { from, bend, to }: StiffPart, o: number): void {
    const { wr, other, v, now } = this;
    for (let k = 0; k < 3; k++) {
      v[k] = p[3 * bend + k]! - p[3 * from + k]!;
      now[k] = p[3 * to + k]! - p[3 * from + k]!;
    }
    arcQuat(other, 0, v, 0, now, 0);
    mul64(wr, o, other, 0, wr, o);
  }

  /**
   * How high the hips must be brought so that a body on stiff legs stands where the source does: the lower of its legs' ends
   * over the ground as far as the lower foot of the source is, scaled. NaN where it has no stiff legs.
   */
  private riseOnStiffLegs(pose: WorldPose): number {
    const { wr, wp, v, legs, tips } = this;
    const { source, scale } = this.plan;
    if (legs.length < 2) return Number.NaN;
    let [own, given] = [Number.POSITIVE_INFINITY, Number.POSITIVE_INFINITY];
    for (const { joint } of legs) {
      rotate64(v, 0, wr, 4 * joint, tips, 3 * joint);
      own = Math.min(own, wp[3 * joint + 1]! + v[1]!);
    }
    for (const sole of Object.values(source.body.soles))
      for (const point of [sole.heel, sole.ball]) {
        rotate64(v, 0, pose.r, 4 * sole.foot, point, 0);
        given = Math.min(given, pose.p[3 * sole.foot + 1]! + v[1]!);
      }
    return (given - this.options.sourceFloor) * scale - own;
  }

  /** Places the joint that travels so that the centre of the hip joints is where the scaled source has it. */
  private travel(pose: WorldPose, hip: Float32Array, ho: number): void {
    const { wr, wp, localT, carriers, v, from, now, start, ground } = this;
    const { source, target, scale, carrier } = this.plan;
    const { parents } = target.rig;
    for (let i = 0; i < carriers.length; i++) {
      const j = carriers[i]!;
      const p = parents[j]!;
      if (p < 0) for (let k = 0; k < 3; k++) wp[3 * j + k] = localT[3 * j + k]!;
      else {
        rotate64(v, 0, wr, 4 * p, localT, 3 * j);
        for (let k = 0; k < 3; k++) wp[3 * j + k] = wp[3 * p + k]! + v[k]!;
      }
    }
    const rise = this.riseOnStiffLegs(pose);
    centreOf(from, pose.p, source.body.hipJoints);
    centreOf(now, wp, target.body.hipJoints);
    if (!this.started) start.set(from);
    this.started = true;
    v[0] = (ground === 0 ? start[0]! * scale : from[0]! * ground) - now[0]!;
    v[1] = (from[1]! - this.options.sourceFloor) * scale - now[1]!;
    v[2] = (ground === 0 ? start[2]! * scale : from[2]! * ground) - now[2]!;
    if (!Number.isNaN(rise)) v[1] = rise;
    const above = parents[carrier]!;
    if (above >= 0) turnBack(v, wr, 4 * above);
    for (let k = 0; k < 3; k++) hip[ho + k] = localT[3 * carrier + k]! + v[k]!;
  }
}

/**
 * Carries a whole motion over pose by pose; see PoseTransfer. No plants are held here. Face shapes and labels go along by
 * their names, sizes and places of inner joints between equal rigs only.
 */
export function transfer(plan: RetargetPlan, motion: Motion, options: TransferOptions): Motion {
  const { source, target, carrier, equalRigs } = plan;
  const n = target.rig.names.length;
  const frames = motion.frameCount;
  const sourceJoints = source.rig.names.length;
  const out = new Float32Array(4 * n * frames);
  const hip = new Float32Array(3 * frames);
  const reader = new PoseReader(source.rig, motion);
  const poses = new PoseTransfer(plan, options);
  const copied = copiedTracks(plan, motion);
  for (let f = 0; f < frames; f++) {
    for (const { joint, values } of copied)
      for (let k = 0; k < 3; k++) poses.localT[3 * joint + k] = values[3 * f + k]!;
    const base = 4 * n * f;
    poses.carry(reader.at(f), motion.turns, 4 * sourceJoints * f, out, base, f > 0 ? base - 4 * n : -1, hip, 3 * f);
  }
  return {
    fps: motion.fps,
    frameCount: frames,
    turns: out,
    places: [...copied.filter((c) => c.joint !== carrier), { joint: carrier, values: hip }],
    scales: equalRigs ? motion.scales : [],
    numbers: motion.numbers,
    steps: motion.steps,
  };
}

/** The hipJoints and all joints that carry them, parents first. */
function carriersOf(parents: Int16Array, hipJoints: readonly number[]): Int16Array {
  const needed = new Set<number>();
  for (const start of hipJoints) for (let j = start; j >= 0; j = parents[j]!) needed.add(j);
  return Int16Array.from([...needed].sort((x, y) => x - y));
}

function centreOf(dst: Float64Array, p: Float64Array, joints: readonly number[]): void {
  dst.fill(0);
  for (const j of joints) for (let k = 0; k < 3; k++) dst[k] = dst[k]! + p[3 * j + k]! / joints.length;
}

const inverse = new Float64Array(4);
function turnBack(v: Float64Array, r: Float64Array, o: number): void {
  inverse[0] = -r[o]!;
  inverse[1] = -r[o + 1]!;
  inverse[2] = -r[o + 2]!;
  inverse[3] = r[o + 3]!;
  rotate64(v, 0, inverse, 0, v, 0);
}

/** Places of inner joints are carried over between equal rigs only: elsewhere bones keep their length. */
function copiedTracks({ equalRigs, source, target, scale }: RetargetPlan, motion: Motion): PlaceTrack[] {
  if (!equalRigs) return [];
  return motion.places.map(({ joint, values }) => ({
    joint,
    values: values.map(
      (x, i) => target.rig.restT[3 * joint + (i % 3)]! + scale * (x - source.rig.restT[3 * joint + (i % 3)]!),
    ),
  }));
}
