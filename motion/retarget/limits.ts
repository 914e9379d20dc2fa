import { jointOf, SIDES, type Slot } from '../bodymap/slots';
import { alignSigns, arcQuat, mulInvQuat, mulQuat, normalizeQuat, rotate3, slerp } from '../math/quat';
import { normalize3 } from '../math/vec';
import { type Motion, PoseReader } from '../motion/motion';
import { alignmentTurns } from './alignment';
import type { Party } from './plan';

/**
 * How far a part may turn against the part that carries it, told in the common body's aligned pose (arms level, legs down;
 * x left, y up, z ahead). Angles in degrees.
 */
export interface Limit {
  /** Direction of the bone in the aligned pose. */
  readonly bone: readonly [number, number, number];
  /** The bone stays within `cone` of this direction. */
  readonly middle: readonly [number, number, number];
  readonly cone: number;
  /** A hinge bends about this axis only, from `from` to `to`; swings to the side count against the cone. */
  readonly hinge?: { readonly axis: readonly [number, number, number]; readonly from: number; readonly to: number };
}

export type Limits = Readonly<Partial<Record<Slot, Limit>>>;

const CARRIER: Record<string, readonly string[]> = {
  upperArm: ['spine8', 'spine7', 'spine6', 'spine5', 'spine4', 'spine3', 'spine2', 'spine1', 'hips'],
  forearm: ['upperArm'],
  hand: ['forearm'],
  thigh: ['hips'],
  shin: ['thigh'],
  foot: ['shin'],
  head: ['spine8', 'spine7', 'spine6', 'spine5', 'spine4', 'spine3', 'spine2', 'spine1', 'hips'],
};

/** What most people can do; a starting point for editing. */
export function defaultLimits(): Limits {
  const out: Partial<Record<Slot, Limit>> = {
    head: { bone: [0, 1, 0], middle: [0, 1, 0.1], cone: 75 },
  };
  for (const side of SIDES) {
    const s = side === 'L' ? 1 : -1;
    out[`upperArm${side}`] = { bone: [s, 0, 0], middle: [s * 0.75, 0.1, 0.65], cone: 118 };
    out[`forearm${side}`] = {
      bone: [s, 0, 0],
      middle: [s, 0, 0],
      cone: 30,
      hinge: { axis: [0, -s, 0], from: -12, to: 155 },
    };
    out[`hand${side}`] = { bone: [s, 0, 0], middle: [s, 0, 0], cone: 88 };
    out[`thigh${side}`] = { bone: [0, -1, 0], middle: [s * 0.15, -0.75, 0.65], cone: 92 };
    out[`shin${side}`] = {
      bone: [0, -1, 0],
      middle: [0, -1, 0],
      cone: 30,
      hinge: { axis: [1, 0, 0], from: -10, to: 160 },
    };
    out[`foot${side}`] = { bone: [0, 0, 1], middle: [0, -0.15, 1], cone: 62 };
  }
  return out;
}

interface Watched {
  readonly slot: Slot;
  readonly joint: number;
  readonly carrier: number;
  readonly limit: Limit;
}

function watched(party: Party, limits: Limits): Watched[] {
  return Object.entries(limits).flatMap(([slot, limit]) => {
    const joint = jointOf(party.map, slot);
    if (joint < 0 || !limit) return [];
    const side = /[LR]$/.test(slot) ? slot.slice(-1) : '';
    const stem = side ? slot.slice(0, -1) : slot;
    const carrier = (CARRIER[stem] ?? [])
      .map((c) => jointOf(party.map, /^(spine|hips)/.test(c) ? c : c + side))
      .find((j) => j >= 0);
    return carrier === undefined ? [] : [{ slot, joint, carrier, limit }];
  });
}

const DEG = 180 / Math.PI;
const rel = [0, 0, 0, 1];
const own = [0, 0, 0, 1];
const dir = [0, 0, 0];

/** Bone direction against its carrier, in body axes: what the limit is told in. */
function relativeBone(r: Float64Array, aligned: Float64Array, w: Watched): void {
  mulInvQuat(rel, 0, r, 4 * w.carrier, aligned, 4 * w.carrier);
  mulInvQuat(own, 0, r, 4 * w.joint, aligned, 4 * w.joint);
  mulQuat(rel, 0, [-rel[0]!, -rel[1]!, -rel[2]!, rel[3]!], 0, own, 0);
  rotate3(dir, 0, rel, 0, w.limit.bone, 0);
}

/** Where a bone may go nearest to where it is, and by how many degrees it was beyond. Writes the direction into `to`. */
function nearestAllowed(limit: Limit, to: number[]): number {
  const d: number[] = [dir[0]!, dir[1]!, dir[2]!];
  if (limit.hinge) {
    const { axis, from, to: most } = limit.hinge;
    // (1) along the hinge: the angle about its axis from the straight bone
    const along = d[0]! * axis[0] + d[1]! * axis[1] + d[2]! * axis[2];
    const side = Math.asin(Math.max(-1, Math.min(1, along))) * DEG;
    const across = [
      axis[1] * limit.bone[2] - axis[2] * limit.bone[1],
      axis[2] * limit.bone[0] - axis[0] * limit.bone[2],
      axis[0] * limit.bone[1] - axis[1] * limit.bone[0],
    ];
    const x = d[0]! * limit.bone[0] + d[1]! * limit.bone[1] + d[2]! * limit.bone[2];
    const y = d[0]! * across[0]! + d[1]! * across[1]! + d[2]! * across[2]!;
    let angle = Math.atan2(y, x) * DEG;
    // past the back counts as bent too far, not as bent backwards
    if (angle < -100) angle += 360;
    const bent = Math.max(from, Math.min(most, angle));
    const aside = Math.max(-limit.cone, Math.min(limit.cone, side));
    const c = Math.cos(aside / DEG);
    for (let k = 0; k < 3; k++)
      to[k] =
        c * (Math.cos(bent / DEG) * limit.bone[k]! + Math.sin(bent / DEG) * across[k]!) +
        Math.sin(aside / DEG) * axis[k]!;
    return Math.max(Math.abs(angle - bent), Math.abs(side - aside));
  }
  const m: number[] = [...limit.middle];
  normalize3(m, 0);
  const cos = Math.max(-1, Math.min(1, m[0]! * d[0]! + m[1]! * d[1]! + m[2]! * d[2]!));
  const angle = Math.acos(cos) * DEG;
  if (angle <= limit.cone) {
    for (let k = 0; k < 3; k++) to[k] = d[k]!;
    return 0;
  }
  const q = [0, 0, 0, 1];
  const part = [0, 0, 0, 1];
  arcQuat(q, 0, m, 0, d, 0);
  slerp(part, 0, [0, 0, 0, 1], 0, q, 0, limit.cone / angle);
  rotate3(to, 0, part, 0, m, 0);
  return angle - limit.cone;
}

export interface LimitReport {
  /** F: degrees by which the worst part is beyond its limit. */
  readonly lane: Float32Array;
  /** Worst first: one entry for each part that is ever beyond. */
  readonly parts: readonly { slot: Slot; joint: string; frame: number; degrees: number }[];
}

/** Measures a motion against joint limits. */
export function measureLimits(party: Party, motion: Motion, limits: Limits = defaultLimits()): LimitReport {
  const parts = watched(party, limits);
  const aligned = alignmentTurns(party.rig, party.map, party.pose);
  const lane = new Float32Array(motion.frameCount);
  const worst = parts.map(() => ({ frame: 0, degrees: 0 }));
  const reader = new PoseReader(party.rig, motion);
  const to = [0, 0, 0];
  for (let f = 0; f < motion.frameCount; f++) {
    const { r } = reader.at(f);
    for (let i = 0; i < parts.length; i++) {
      relativeBone(r, aligned, parts[i]!);
      const over = nearestAllowed(parts[i]!.limit, to);
      if (over > lane[f]!) lane[f] = over;
      if (over > worst[i]!.degrees) worst[i] = { frame: f, degrees: over };
    }
  }
  return {
    lane,
    parts: parts
      .map((p, i) => ({ slot: p.slot, joint: party.rig.names[p.joint]!, ...worst[i]! }))
      .filter((p) => p.degrees > 0.01)
      .sort((a, b) => b.degrees - a.degrees),
  };
}

/**
 * Keeps arms and head within their limits: a bone beyond is turned back to the nearest direction allowed, what hangs from it
 * comes along. Legs are left to the plants. Pure.
 */
export function keepLimits(party: Party, motion: Motion, limits: Limits = defaultLimits()): Motion {
  const parts = watched(party, limits).filter((p) => !/^(thigh|shin|foot)/.test(p.slot));
  // parents first, so that a child is judged after its parent was turned
  parts.sort((a, b) => a.joint - b.joint);
  const aligned = alignmentTurns(party.rig, party.map, party.pose);
  const n = party.rig.names.length;
  let current = motion;
  const to = [0, 0, 0];
  const q = [0, 0, 0, 1];
  const body = [0, 0, 0, 1];
  for (const part of parts) {
    const reader = new PoseReader(party.rig, current);
    let rotations: Float32Array | undefined;
    const parent = party.rig.parents[part.joint]!;
    for (let f = 0; f < motion.frameCount; f++) {
      const { r } = reader.at(f);
      relativeBone(r, aligned, part);
      if (nearestAllowed(part.limit, to) < 0.01) continue;
      rotations ??= current.rotations.slice();
      arcQuat(q, 0, dir, 0, to, 0);
      // from the carrier's body axes to the world, then into the parent's frame
      mulInvQuat(body, 0, r, 4 * part.carrier, aligned, 4 * part.carrier);
      mulQuat(q, 0, body, 0, q, 0);
      mulQuat(q, 0, q, 0, [-body[0]!, -body[1]!, -body[2]!, body[3]!], 0);
      if (parent >= 0) {
        const p = [...r.subarray(4 * parent, 4 * parent + 4)];
        mulQuat(q, 0, [-p[0]!, -p[1]!, -p[2]!, p[3]!], 0, q, 0);
        mulQuat(q, 0, q, 0, p, 0);
      }
      const o = 4 * (f * n + part.joint);
      mulQuat(rotations, o, q, 0, rotations, o);
      normalizeQuat(rotations, o);
    }
    if (rotations) {
      alignSigns(rotations, 4 * part.joint, 4 * n, motion.frameCount);
      current = { ...current, rotations };
    }
  }
  return current;
}
