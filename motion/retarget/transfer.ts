import { jointOf } from '../bodymap/slots';
import { invMulQuat, mulQuat, normalizeQuat, rotate3, slerp } from '../math/quat';
import { composeFrame, type Motion, PoseReader, type TranslationTrack } from '../motion/motion';
import type { Plan } from './plan';

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
export function transfer(plan: Plan, motion: Motion, options: TransferOptions): Motion {
  const { source, target, a, b, t, ka, kb, same, scale } = plan;
  const n = target.rig.names.length;
  const { parents, restR } = target.rig;
  const frames = motion.frameCount;
  const out = new Float32Array(4 * n * frames);
  const reader = new PoseReader(source.rig, motion);
  const sourceRest = source.rig.restR;
  const wr = new Float64Array(4 * n);
  const wp = new Float64Array(3 * n);
  const q = new Float64Array(4);
  const q2 = new Float64Array(4);
  const v = new Float64Array(3);
  const copied = copiedTracks(plan, motion);
  const hips = rootJoint(plan);
  const hipPlaces = new Float32Array(3 * frames);
  const localT = target.rig.restT.slice();
  const start = new Float64Array(3);
  const ground = options.travel === 'leg' ? scale : options.travel === 'path' ? 1 : 0;

  for (let f = 0; f < frames; f++) {
    const pose = reader.at(f);
    const base = 4 * n * f;
    for (let j = 0; j < n; j++) {
      const o = 4 * j;
      const p = parents[j]!;
      const first = a[j]!;
      if (first >= 0) {
        mulQuat(wr, o, pose.r, 4 * first, ka, o);
        if (t[j]! > 0) {
          mulQuat(q2, 0, pose.r, 4 * b[j]!, kb, o);
          slerp(wr, o, wr, o, q2, 0, t[j]!);
        }
        if (p >= 0) invMulQuat(q, 0, wr, 4 * p, wr, o);
        else for (let k = 0; k < 4; k++) q[k] = wr[o + k]!;
        const l = 1 / Math.sqrt(q[0]! * q[0]! + q[1]! * q[1]! + q[2]! * q[2]! + q[3]! * q[3]!);
        for (let k = 0; k < 4; k++) out[base + o + k] = q[k]! * l;
      } else {
        const s = same[j]!;
        if (s >= 0) {
          // same name, no slot: its departure from rest is copied
          invMulQuat(q, 0, sourceRest, 4 * s, motion.rotations, 4 * (f * source.rig.names.length + s));
          mulQuat(q, 0, restR, o, q, 0);
          normalizeQuat(q, 0);
          for (let k = 0; k < 4; k++) out[base + o + k] = q[k]!;
        } else for (let k = 0; k < 4; k++) out[base + o + k] = restR[o + k]!;
        if (p >= 0) mulQuat(wr, o, wr, 4 * p, out, base + o);
        else for (let k = 0; k < 4; k++) wr[o + k] = out[base + o + k]!;
      }
      if (f > 0) {
        const c = base + o;
        const d = c - 4 * n;
        if (out[c]! * out[d]! + out[c + 1]! * out[d + 1]! + out[c + 2]! * out[d + 2]! + out[c + 3]! * out[d + 3]! < 0) {
          for (let k = 0; k < 4; k++) out[c + k] = -out[c + k]!;
        }
      }
    }
    // (2) place the hips so that the centre of the hip joints is where the scaled source has it
    for (const { joint, values } of copied) for (let k = 0; k < 3; k++) localT[3 * joint + k] = values[3 * f + k]!;
    composeFrame(parents, out, base, localT, wr, wp);
    const from = anchor(pose.p, source.body.anchors);
    if (f === 0) start.set(from);
    const x = ground === 0 ? start[0]! * scale : from[0] * ground;
    const z = ground === 0 ? start[2]! * scale : from[2] * ground;
    const y = (from[1] - options.sourceFloor) * scale + heightGap(plan);
    const now = anchor(wp, target.body.anchors);
    v[0] = x - now[0];
    v[1] = y - now[1];
    v[2] = z - now[2];
    const above = parents[hips]!;
    if (above >= 0) turnBack(v, wr, 4 * above);
    for (let k = 0; k < 3; k++) hipPlaces[3 * f + k] = localT[3 * hips + k]! + v[k]!;
  }
  return {
    fps: motion.fps,
    frameCount: frames,
    rotations: out,
    translations: [...copied.filter((c) => c.joint !== hips), { joint: hips, values: hipPlaces }],
    scalars: motion.scalars,
  };
}

/** Joint that takes the travel: the mapped hips, else the first root. */
export function rootJoint(plan: Plan): number {
  const hips = jointOf(plan.target.map, 'hips');
  return hips >= 0 ? hips : plan.target.rig.parents.indexOf(-1);
}

/** Legs scale the height; what the hips stand higher or lower on their own legs at rest is kept. */
function heightGap({ source, target, scale }: Plan): number {
  if (source.body.leg === 0 || target.body.leg === 0) return 0;
  return target.body.anchorHeight - source.body.anchorHeight * scale;
}

function anchor(p: Float64Array, joints: readonly number[]): [number, number, number] {
  let x = 0;
  let y = 0;
  let z = 0;
  for (const j of joints) {
    x += p[3 * j]!;
    y += p[3 * j + 1]!;
    z += p[3 * j + 2]!;
  }
  return [x / joints.length, y / joints.length, z / joints.length];
}

const inverse = new Float64Array(4);
function turnBack(v: Float64Array, r: Float64Array, o: number): void {
  inverse[0] = -r[o]!;
  inverse[1] = -r[o + 1]!;
  inverse[2] = -r[o + 2]!;
  inverse[3] = r[o + 3]!;
  rotate3(v, 0, inverse, 0, v, 0);
}

/** Places of inner joints are carried over between equal rigs only: elsewhere bones keep their length. */
function copiedTracks({ equalRigs, source, target, scale }: Plan, motion: Motion): TranslationTrack[] {
  if (!equalRigs) return [];
  return motion.translations.map(({ joint, values }) => ({
    joint,
    values: values.map((x, i) => target.rig.restT[3 * joint + (i % 3)]! + scale * (x - source.rig.restT[3 * joint + (i % 3)]!)),
  }));
}
