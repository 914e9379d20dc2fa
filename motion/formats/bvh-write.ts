import { invMulQuat, mulInvQuat, quatToZxy, rotate3 } from '../math/quat';
import { type Motion, PoseReader } from '../motion/motion';
import { childrenOf, restPose, type SkeletonRig } from '../rig/rig';

const DEGREES = 180 / Math.PI;
const number = (x: number): string => {
  const s = x.toFixed(6);
  return s === '-0.000000' ? '0.000000' : s;
};

export interface BvhWriteOptions {
  /** Units of the file per metre; 100 writes centimetres, the custom of the format. */
  unitsPerMetre?: number;
}

/**
 * Writes rig and motion as BVH. BVH knows no rest turns, so every joint's frame is taken parallel to the world in the
 * rest pose: world turn B = W · W_rest⁻¹, offsets are rest offsets in the world. Roots get OFFSET 0 and carry their place
 * in the channels, which readers that add the offset and readers that replace it understand alike.
 */
export function writeBvh(rig: SkeletonRig, motion: Motion, options: BvhWriteOptions = {}): string {
  const scale = options.unitsPerMetre ?? 100;
  const n = rig.names.length;
  const rest = restPose(rig);
  const children = childrenOf(rig);
  const moving = new Set(motion.places.map((t) => t.joint));
  const order: number[] = [];
  const out: string[] = ['HIERARCHY'];

  const offset = (j: number): string => {
    const p = rig.parents[j]!;
    if (p < 0) return '0.000000 0.000000 0.000000';
    return [0, 1, 2].map((k) => number((rest.p[3 * j + k]! - rest.p[3 * p + k]!) * scale)).join(' ');
  };
  const hasPlace = (j: number): boolean => rig.parents[j]! < 0 || moving.has(j);
  const write = (j: number, depth: number): void => {
    const pad = '\t'.repeat(depth);
    order.push(j);
    out.push(`${pad}${rig.parents[j]! < 0 ? 'ROOT' : 'JOINT'} ${rig.names[j]!.replace(/[\s{}#]+/g, '_')}`, `${pad}{`);
    out.push(`${pad}\tOFFSET ${offset(j)}`);
    out.push(`${pad}\tCHANNELS ${hasPlace(j) ? '6 Xposition Yposition Zposition' : '3'} Zrotation Xrotation Yrotation`);
    for (const c of children[j]!) write(c, depth + 1);
    if (children[j]!.length === 0) {
      const tip = [0, 0, 0];
      if (Number.isNaN(rig.tips[3 * j]!)) tip[1] = 0.05;
      else rotate3(tip, 0, rest.r, 4 * j, rig.tips, 3 * j);
      out.push(
        `${pad}\tEnd Site`,
        `${pad}\t{`,
        `${pad}\t\tOFFSET ${tip.map((x) => number(x * scale)).join(' ')}`,
        `${pad}\t}`,
      );
    }
    out.push(`${pad}}`);
  };
  for (let j = 0; j < n; j++) if (rig.parents[j]! < 0) write(j, 0);

  out.push('MOTION', `Frames: ${motion.frameCount}`, `Frame Time: ${(1 / motion.fps).toFixed(8)}`);
  const reader = new PoseReader(rig, motion);
  const places = new Map(motion.places.map((t) => [t.joint, t.values]));
  const q = [0, 0, 0, 1];
  const qp = [0, 0, 0, 1];
  const v = [0, 0, 0];
  const last = new Float64Array(3 * n);
  for (let f = 0; f < motion.frameCount; f++) {
    const pose = reader.at(f);
    const row: string[] = [];
    for (const j of order) {
      const p = rig.parents[j]!;
      if (hasPlace(j)) {
        const values = places.get(j);
        for (let k = 0; k < 3; k++) v[k] = values ? values[3 * f + k]! : rig.restT[3 * j + k]!;
        if (p >= 0) rotate3(v, 0, rest.r, 4 * p, v, 0);
        row.push(number(v[0]! * scale), number(v[1]! * scale), number(v[2]! * scale));
      }
      mulInvQuat(q, 0, pose.r, 4 * j, rest.r, 4 * j);
      if (p >= 0) {
        mulInvQuat(qp, 0, pose.r, 4 * p, rest.r, 4 * p);
        invMulQuat(q, 0, qp, 0, q, 0);
      }
      quatToZxy(q, 0, v, 0);
      unwrap(v, last, 3 * j, f > 0);
      row.push(number(v[0]! * DEGREES), number(v[1]! * DEGREES), number(v[2]! * DEGREES));
    }
    out.push(row.join(' '));
  }
  out.push('');
  return out.join('\n');
}

/** Takes, of the equal triples of angles, the one nearest to the frame before, so that curves stay whole. */
function unwrap(v: number[], last: Float64Array, o: number, hasLast: boolean): void {
  if (hasLast) {
    const other = [v[0]! + Math.PI, Math.PI - v[1]!, v[2]! + Math.PI];
    const near = (a: number[]): number[] =>
      a.map((x, k) => x - 2 * Math.PI * Math.round((x - last[o + k]!) / (2 * Math.PI)));
    const gap = (a: number[]): number => a.reduce((sum, x, k) => sum + Math.abs(x - last[o + k]!), 0);
    const first = near(v);
    const second = near(other);
    const chosen = gap(second) < gap(first) - 1e-9 ? second : first;
    for (let k = 0; k < 3; k++) v[k] = chosen[k]!;
  }
  for (let k = 0; k < 3; k++) last[o + k] = v[k]!;
}
