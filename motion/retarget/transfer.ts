import { invMul64, load4, mul64, normalize64, rotate64, slerp64, storeLocal } from '../math/fast';
import { type Motion, PoseReader } from '../motion/motion';
import type { PlaceTrack } from '../motion/tracks';
import type { RetargetPlan } from './plan';

export type Travel = 'leg' | 'path' | 'none';

export interface TransferOptions {
  /** leg: scaled by leg length; path: the source's own path on the ground; none: stays over its starting place. */
  readonly travel: Travel;
  /** Height of the ground under the source motion, metres. */
  readonly sourceFloor: number;
}

/**
 * Carries every pose over by W_target = W_source · A_source⁻¹ · A_target (A: the aligned pose of each rig), and the travel
 * of the hip centre scaled, measured from ground to ground. No plants are held here.
 */
export function transfer(plan: RetargetPlan, motion: Motion, options: TransferOptions): Motion {
  const { source, target, a, b, t, ka, kb, same, scale } = plan;
  const n = target.rig.names.length;
  const { parents } = target.rig;
  const frames = motion.frameCount;
  const sourceJoints = source.rig.names.length;
  const out = new Float32Array(4 * n * frames);
  const reader = new PoseReader(source.rig, motion);
  const restR = Float64Array.from(target.rig.restR);
  const sourceRest = Float64Array.from(source.rig.restR);
  const wr = new Float64Array(4 * n);
  const wp = new Float64Array(3 * n);
  const local = new Float64Array(4);
  const other = new Float64Array(4);
  const v = new Float64Array(3);
  const copied = copiedTracks(plan, motion);
  const hips = plan.carrier;
  const hipPlaces = new Float32Array(3 * frames);
  const localT = Float64Array.from(target.rig.restT);
  const carriers = carriersOf(parents, target.body.hipJoints);
  const start = new Float64Array(3);
  const from = new Float64Array(3);
  const now = new Float64Array(3);
  const ground = options.travel === 'leg' ? scale : options.travel === 'path' ? 1 : 0;

  for (let f = 0; f < frames; f++) {
    const pose = reader.at(f);
    const base = 4 * n * f;
    // (1) turns: from the source's world, or kept, or copied
    const before = f > 0 ? base - 4 * n : -1;
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
        storeLocal(out, base + o, wr, 4 * p, wr, o, last);
        continue;
      }
      const s = same[j]!;
      if (s >= 0) {
        // same name, no slot: its departure from rest is copied
        const at = 4 * (f * sourceJoints + s);
        load4(other, 0, motion.turns, at);
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
    // (2) place the hips so that the centre of the hip joints is where the scaled source has it
    for (const { joint, values } of copied) for (let k = 0; k < 3; k++) localT[3 * joint + k] = values[3 * f + k]!;
    for (let i = 0; i < carriers.length; i++) {
      const j = carriers[i]!;
      const p = parents[j]!;
      if (p < 0) for (let k = 0; k < 3; k++) wp[3 * j + k] = localT[3 * j + k]!;
      else {
        rotate64(v, 0, wr, 4 * p, localT, 3 * j);
        for (let k = 0; k < 3; k++) wp[3 * j + k] = wp[3 * p + k]! + v[k]!;
      }
    }
    centreOf(from, pose.p, source.body.hipJoints);
    centreOf(now, wp, target.body.hipJoints);
    if (f === 0) start.set(from);
    v[0] = (ground === 0 ? start[0]! * scale : from[0]! * ground) - now[0]!;
    v[1] = (from[1]! - options.sourceFloor) * scale - now[1]!;
    v[2] = (ground === 0 ? start[2]! * scale : from[2]! * ground) - now[2]!;
    const above = parents[hips]!;
    if (above >= 0) turnBack(v, wr, 4 * above);
    for (let k = 0; k < 3; k++) hipPlaces[3 * f + k] = localT[3 * hips + k]! + v[k]!;
  }
  return {
    fps: motion.fps,
    frameCount: frames,
    turns: out,
    places: [...copied.filter((c) => c.joint !== hips), { joint: hips, values: hipPlaces }],
    // sizes are a body's own; what has a name goes along
    scales: plan.equalRigs ? motion.scales : [],
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
