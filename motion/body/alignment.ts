import { type BodyMap, jointOf, SIDES } from '../bodymap/slots';
import { stiffLimbs } from '../bodymap/stiff-limbs';
import { arcQuat, axisAngleQuat, invMulQuat, mulQuat, normalizeQuat, rotate3 } from '../math/quat';
import { dot3, length3 } from '../math/vec';
import { childrenOf, restPose, type SkeletonRig, tipOf, type WorldPose } from '../rig/rig';

/**
 * World turns (4 J) that every joint would have if the rig stood in the common body's pose: arms level to the sides,
 * palms down, legs straight down, feet forward on flat soles, trunk as it rests. This is what "the same pose" means for
 * every rig: bone direction by the smallest turn from the rest pose, roll kept, except that palms whose fingers show
 * another roll are turned down. The bind pose is not touched.
 */
export function alignmentTurns(rig: SkeletonRig, map: BodyMap, pose: WorldPose = restPose(rig)): Float64Array {
  const n = rig.names.length;
  const out = new Float64Array(4 * n);
  /** Turn that each joint has got beyond its rest: aligned = correction · rest. */
  const correction = new Float64Array(4 * n);
  const aims = new Map<number, (inherited: Float64Array, o: number) => number[] | undefined>();
  const point = (j: number): number[] => [pose.p[3 * j]!, pose.p[3 * j + 1]!, pose.p[3 * j + 2]!];
  const between = (a: number, b: number): number[] => point(b).map((x, k) => x - point(a)[k]!);
  for (const side of SIDES) {
    const s = side === 'L' ? 1 : -1;
    const outward = [s, 0, 0];
    const down = [0, -1, 0];
    const chain = (slots: string[], aim: number[]): void => {
      slots.slice(0, -1).forEach((slot, i) => {
        const a = jointOf(map, slot + side);
        const b = jointOf(map, slots[i + 1]! + side);
        if (a >= 0 && b >= 0) aims.set(a, (inherited, o) => aimAt(inherited, o, between(a, b), aim));
      });
    };
    chain(['upperArm', 'forearm', 'hand'], outward);
    chain(['thigh', 'shin', 'foot'], down);
    const fore = jointOf(map, `forearm${side}`);
    const hand = jointOf(map, `hand${side}`);
    if (hand >= 0) {
      const reach = handDirection(rig, map, pose, hand, side);
      const across = palmAcross(map, pose, side);
      aims.set(hand, (inherited, o) => {
        const q = (reach && aimAt(inherited, o, reach, outward)) ?? [...inherited.subarray(o, o + 4)];
        return across ? palmDown(q, across, outward) : q;
      });
      const wrist = fore >= 0 ? between(fore, hand) : undefined;
      if (fore >= 0 && wrist && across) {
        // half of the palm's roll belongs to the forearm
        aims.set(fore, (inherited, o) => {
          const q = aimAt(inherited, o, wrist, outward);
          const full = palmDown([...q], across, outward);
          const half = q.map((x, k) => x + (dotSign(q, full) >= 0 ? full[k]! : -full[k]!));
          normalizeQuat(half, 0);
          return half;
        });
      }
    }
    const foot = jointOf(map, `foot${side}`);
    if (foot >= 0) aims.set(foot, () => footTurn(rig, map, pose, foot, side));
  }
  for (const { joint, kind, side } of stiffLimbs(map)) {
    const tip = tipOf(rig, pose, joint);
    const along = tip?.map((x, k) => x - point(joint)[k]!);
    const aim = kind === 'leg' ? [0, -1, 0] : [side === 'L' ? 1 : -1, 0, 0];
    if (along) aims.set(joint, (inherited, o) => aimAt(inherited, o, along, aim));
  }
  for (let j = 0; j < n; j++) {
    const p = rig.parents[j]!;
    const o = 4 * j;
    if (p < 0) correction[o + 3] = 1;
    else correction.copyWithin(o, 4 * p, 4 * p + 4);
    const own = aims.get(j)?.(correction, o);
    if (own) correction.set(own, o);
    mulQuat(out, o, correction, o, pose.r, o);
    normalizeQuat(out, o);
  }
  return out;
}

const dotSign = (a: number[], b: number[]): number => a.reduce((s, x, k) => s + x * b[k]!, 0);

function aimAt(inherited: Float64Array, o: number, rest: number[], aim: number[]): number[] {
  const now = [0, 0, 0];
  rotate3(now, 0, inherited, o, rest, 0);
  const q = [0, 0, 0, 1];
  arcQuat(q, 0, now, 0, aim, 0);
  mulQuat(q, 0, q, 0, inherited, o);
  return q;
}

/** Direction of a hand at rest: to its middle finger, else its tip, else the mean of what hangs from it. */
function handDirection(
  rig: SkeletonRig,
  map: BodyMap,
  pose: WorldPose,
  hand: number,
  side: string,
): number[] | undefined {
  const to = (p: ArrayLike<number>, o: number): number[] => [0, 1, 2].map((k) => p[o + k]! - pose.p[3 * hand + k]!);
  for (const slot of ['middle1', 'index1', 'ring1']) {
    const j = jointOf(map, slot + side);
    if (j >= 0) return to(pose.p, 3 * j);
  }
  const tip = tipOf(rig, pose, hand);
  if (tip) return to(tip, 0);
  const kids = childrenOf(rig)[hand]!;
  if (kids.length === 0) return undefined;
  const mean = [0, 0, 0];
  for (const j of kids)
    to(pose.p, 3 * j).forEach((x, k) => {
      mean[k] = mean[k]! + x / kids.length;
    });
  return length3(mean, 0) > 1e-4 ? mean : undefined;
}

/** From the little finger's root to the index finger's: forward when the palm looks down with the arm to the side. */
function palmAcross(map: BodyMap, pose: WorldPose, side: string): number[] | undefined {
  const a = jointOf(map, `index1${side}`);
  const b = [`pinky1${side}`, `ring1${side}`].map((s) => jointOf(map, s)).find((j) => j >= 0) ?? -1;
  if (a < 0 || b < 0) return undefined;
  const across = [0, 1, 2].map((k) => pose.p[3 * a + k]! - pose.p[3 * b + k]!);
  // the thumb is on the index finger's side; where it is not, fingers were taken for one another and tell nothing of the palm
  const thumb = ['thumb2', 'thumb1'].map((s) => jointOf(map, s + side)).find((j) => j >= 0);
  if (thumb === undefined) return across;
  const side1 = [0, 1, 2].map((k) => pose.p[3 * thumb + k]! - (pose.p[3 * a + k]! + pose.p[3 * b + k]!) / 2);
  return dot3(side1, 0, across, 0) > 0 ? across : undefined;
}

function palmDown(q: number[], across: number[], axis: number[]): number[] {
  const v = [0, 0, 0];
  rotate3(v, 0, q, 0, across, 0);
  const along = dot3(v, 0, axis, 0);
  const y = v[1]!;
  const z = v[2]!;
  if (Math.hypot(v[0]! - along * axis[0]!, y, z) < 1e-5) return q;
  // turn about the arm so that (y, z) comes to (0, +)
  const angle = Math.atan2(y, z) * Math.sign(axis[0]!);
  const roll = [0, 0, 0, 1];
  axisAngleQuat(roll, 0, axis[0]!, axis[1]!, axis[2]!, angle);
  mulQuat(q, 0, roll, 0, q, 0);
  return q;
}

/** A resting foot keeps its sole flat and is only turned to look forward; one that points down is laid flat. */
function footTurn(rig: SkeletonRig, map: BodyMap, pose: WorldPose, foot: number, side: string): number[] {
  const toes = jointOf(map, `toes${side}`);
  const end = toes >= 0 ? pose.p.subarray(3 * toes, 3 * toes + 3) : tipOf(rig, pose, foot);
  const q = [0, 0, 0, 1];
  if (!end) return q;
  const d = [0, 1, 2].map((k) => end[k]! - pose.p[3 * foot + k]!);
  const flat = Math.hypot(d[0]!, d[2]!);
  if (flat < 1e-6) return q;
  const level = [d[0]!, Math.max(d[1]!, -1.6 * flat), d[2]!];
  arcQuat(q, 0, d, 0, level, 0);
  const heading = [d[0]!, 0, d[2]!];
  const yaw = [0, 0, 0, 1];
  axisAngleQuat(yaw, 0, 0, 1, 0, -Math.atan2(heading[0]!, heading[2]!));
  mulQuat(q, 0, yaw, 0, q, 0);
  return q;
}

/** Constant K = A_source⁻¹ · A_target that carries a source joint's world turn over: W_target = W_source · K. */
export function carry(
  dst: Float64Array,
  o: number,
  source: Float64Array,
  s: number,
  target: Float64Array,
  t: number,
): void {
  invMulQuat(dst, o, source, 4 * s, target, 4 * t);
  normalizeQuat(dst, o);
}
