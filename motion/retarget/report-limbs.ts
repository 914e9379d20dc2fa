import { chainOf, jointOf, type Slot } from '../bodymap/slots';
import { angleBetweenQuats, mulInvQuat, rotate3 } from '../math/quat';
import { angleBetween3 } from '../math/vec';
import { type Motion, PoseReader } from '../motion/motion';
import type { RetargetPlan } from './plan';

/** Limb parts whose direction is compared; the axis is the common body's in the aligned pose. */
const DIRECTIONS: [Slot, [number, number, number]][] = ['L', 'R'].flatMap((s): [Slot, [number, number, number]][] => {
  const out: [number, number, number] = [s === 'L' ? 1 : -1, 0, 0];
  return [
    [`upperArm${s}`, out],
    [`forearm${s}`, out],
    [`hand${s}`, out],
    [`thigh${s}`, [0, -1, 0]],
    [`shin${s}`, [0, -1, 0]],
    [`foot${s}`, [0, 0, 1]],
  ];
});

/** Angles between limbs of source and result in the world, after alignment. */
export interface Directions {
  readonly meanDeg: number;
  readonly p95Deg: number;
  readonly maxDeg: number;
}

/**
 * How far upper arms, forearms, thighs and shins point away from the source’s in the world, degrees: mean, 95th
 * percentile, largest, and over time. A limb of one joint is compared with the source’s whole limb.
 */
export function directions(
  plan: RetargetPlan,
  source: Motion,
  result: Motion,
): { summary: Directions; lane: Float32Array } {
  const a = new PoseReader(plan.source.rig, source);
  const b = new PoseReader(plan.target.rig, result);
  const pairs = DIRECTIONS.flatMap(([slot, axis]) => {
    const s = jointOf(plan.source.map, slot);
    const t = jointOf(plan.target.map, slot);
    const whole = plan.stiff.find((part) => part.joint === t);
    return s >= 0 && t >= 0 ? [{ s, t, axis, whole }] : [];
  });
  const lane = new Float32Array(result.frameCount);
  const angles = new Float32Array(pairs.length * result.frameCount);
  const q = [0, 0, 0, 1];
  const u = [0, 0, 0];
  const v = [0, 0, 0];
  let n = 0;
  for (let f = 0; f < result.frameCount; f++) {
    const ps = a.at(f);
    const pt = b.at(f);
    for (const { s, t, axis, whole } of pairs) {
      if (whole) for (let k = 0; k < 3; k++) u[k] = ps.p[3 * whole.to + k]! - ps.p[3 * whole.from + k]!;
      else {
        mulInvQuat(q, 0, ps.r, 4 * s, plan.sourceAligned, 4 * s);
        rotate3(u, 0, q, 0, axis, 0);
      }
      mulInvQuat(q, 0, pt.r, 4 * t, plan.targetAligned, 4 * t);
      rotate3(v, 0, q, 0, axis, 0);
      const angle = (angleBetween3(u, 0, v, 0) * 180) / Math.PI;
      angles[n++] = angle;
      lane[f] = Math.max(lane[f]!, angle);
    }
  }
  let sum = 0;
  for (const x of angles) sum += x;
  angles.sort();
  return {
    summary: {
      meanDeg: n > 0 ? sum / n : 0,
      p95Deg: angles[Math.floor(0.95 * (n - 1))] ?? 0,
      maxDeg: angles[n - 1] ?? 0,
    },
    lane,
  };
}

/** Joints without a partner on either side; those among them that move; and mapped ones that never do. */
export function findUnmapped(
  plan: RetargetPlan,
  source: Motion,
): { source: string[]; target: string[]; moving: string[]; still: string[] } {
  const { rig } = plan.source;
  const n = rig.names.length;
  const moves = (motion: Motion, joints: number, j: number): boolean => {
    const step = Math.max(1, Math.floor(motion.frameCount / 60));
    for (let f = step; f < motion.frameCount; f += step) {
      if (angleBetweenQuats(motion.turns, 4 * j, motion.turns, 4 * (f * joints + j)) > 0.02) return true;
    }
    return false;
  };
  const used = new Set<number>();
  plan.a.forEach((s, j) => {
    if (s >= 0) used.add(s).add(plan.b[j]!);
    if (plan.same[j]! >= 0) used.add(plan.same[j]!);
  });
  for (const { bend, to } of plan.stiff) used.add(bend).add(to);
  // the turn of a trunk joint that the target lacks reaches the joints above it all the same
  for (const slot of ['spine', 'neck']) for (const j of chainOf(plan.source.map, slot)) used.add(j);
  const unusedSource = rig.names.map((_, j) => j).filter((j) => !used.has(j));
  // what is left out on purpose is settled
  const moving = unusedSource.filter((j) => !plan.leftOut.has(j) && moves(source, n, j)).map((j) => rig.names[j]!);
  const target = plan.target.rig.names.filter((_, j) => plan.a[j]! < 0 && plan.same[j]! < 0);
  return { source: unusedSource.map((j) => rig.names[j]!), target, moving, still: stillJoints(plan, source) };
}

/** Source joints of mapped limbs that never move while the rest of the limb does. */
function stillJoints(plan: RetargetPlan, source: Motion): string[] {
  const n = plan.source.rig.names.length;
  const still: string[] = [];
  for (const [slot] of DIRECTIONS) {
    const s = jointOf(plan.source.map, slot);
    if (s < 0 || jointOf(plan.target.map, slot) < 0 || source.frameCount < 10) continue;
    let range = 0;
    for (let f = 1; f < source.frameCount; f += Math.max(1, Math.floor(source.frameCount / 50))) {
      range = Math.max(range, angleBetweenQuats(source.turns, 4 * s, source.turns, 4 * (f * n + s)));
    }
    if (range < 1e-4) still.push(plan.source.rig.names[s]!);
  }
  return still;
}
