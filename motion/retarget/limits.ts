import { alignmentTurns } from '../body/alignment';
import type { Party } from '../body/party';
import { jointOf, SIDES, type Slot } from '../bodymap/slots';
import { invMul64, mul64, mulInv64, normalize64, rotate64 } from '../math/fast';
import { alignSigns, arcQuat, rotate3, slerp } from '../math/quat';
import { normalize3 } from '../math/vec';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import type { SkeletonRig } from '../rig/rig';

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

/** A limit made ready: unit vectors as typed arrays. */
interface Watched {
  readonly slot: Slot;
  readonly joint: number;
  readonly carrier: number;
  readonly bone: Float64Array;
  readonly middle: Float64Array;
  readonly cone: number;
  readonly cosCone: number;
  readonly hinge:
    | { readonly axis: Float64Array; readonly across: Float64Array; readonly from: number; readonly most: number }
    | undefined;
}

function watched(party: Party, limits: Limits): Watched[] {
  return Object.entries(limits).flatMap(([slot, limit]): Watched[] => {
    const joint = jointOf(party.map, slot);
    if (joint < 0 || !limit) return [];
    const side = /[LR]$/.test(slot) ? slot.slice(-1) : '';
    const stem = side ? slot.slice(0, -1) : slot;
    const carrier = (CARRIER[stem] ?? [])
      .map((c) => jointOf(party.map, /^(spine|hips)/.test(c) ? c : c + side))
      .find((j) => j >= 0);
    if (carrier === undefined) return [];
    const { bone, hinge } = limit;
    const middle = Float64Array.from(limit.middle);
    normalize3(middle, 0);
    const axis = Float64Array.from(hinge?.axis ?? [0, 0, 0]);
    const across = Float64Array.of(
      axis[1]! * bone[2] - axis[2]! * bone[1],
      axis[2]! * bone[0] - axis[0]! * bone[2],
      axis[0]! * bone[1] - axis[1]! * bone[0],
    );
    return [
      {
        slot,
        joint,
        carrier,
        bone: Float64Array.from(bone),
        middle,
        cone: limit.cone,
        cosCone: Math.cos(limit.cone / DEG),
        hinge: hinge && { axis, across, from: hinge.from, most: hinge.to },
      },
    ];
  });
}

const DEG = 180 / Math.PI;
const rel = Float64Array.of(0, 0, 0, 1);
const own = Float64Array.of(0, 0, 0, 1);
const dir = new Float64Array(3);
const to = new Float64Array(3);

/** Bone direction against its carrier, in body axes, into `dir`: what the limit is told in. */
function relativeBone(r: Float64Array, aligned: Float64Array, w: Watched): void {
  mulInv64(rel, 0, r, 4 * w.carrier, aligned, 4 * w.carrier);
  mulInv64(own, 0, r, 4 * w.joint, aligned, 4 * w.joint);
  invMul64(rel, 0, rel, 0, own, 0);
  rotate64(dir, 0, rel, 0, w.bone, 0);
}

/** Where the bone in `dir` may go nearest to where it is, into `to`, and by how many degrees it was beyond. */
function nearestAllowed(w: Watched): number {
  if (w.hinge) {
    const { axis, across, from, most } = w.hinge;
    const { bone } = w;
    const along = dir[0]! * axis[0]! + dir[1]! * axis[1]! + dir[2]! * axis[2]!;
    const side = Math.asin(Math.max(-1, Math.min(1, along))) * DEG;
    const x = dir[0]! * bone[0]! + dir[1]! * bone[1]! + dir[2]! * bone[2]!;
    const y = dir[0]! * across[0]! + dir[1]! * across[1]! + dir[2]! * across[2]!;
    let angle = Math.atan2(y, x) * DEG;
    // past the back counts as bent too far, not as bent backwards
    if (angle < -100) angle += 360;
    const bent = Math.max(from, Math.min(most, angle));
    const aside = Math.max(-w.cone, Math.min(w.cone, side));
    const over = Math.max(Math.abs(angle - bent), Math.abs(side - aside));
    if (over < 1e-9) return 0;
    const c = Math.cos(aside / DEG);
    const s = Math.sin(aside / DEG);
    for (let k = 0; k < 3; k++)
      to[k] = c * (Math.cos(bent / DEG) * bone[k]! + Math.sin(bent / DEG) * across[k]!) + s * axis[k]!;
    return over;
  }
  const { middle } = w;
  const cos = Math.max(-1, Math.min(1, middle[0]! * dir[0]! + middle[1]! * dir[1]! + middle[2]! * dir[2]!));
  if (cos >= w.cosCone) return 0;
  const angle = Math.acos(cos) * DEG;
  const q = [0, 0, 0, 1];
  const part = [0, 0, 0, 1];
  arcQuat(q, 0, middle, 0, dir, 0);
  slerp(part, 0, [0, 0, 0, 1], 0, q, 0, w.cone / angle);
  rotate3(to, 0, part, 0, middle, 0);
  return angle - w.cone;
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
  const reader = new ChainReader(
    party.rig,
    motion,
    parts.flatMap((p) => [p.joint, p.carrier]),
  );
  for (let f = 0; f < motion.frameCount; f++) {
    const { r } = reader.at(f);
    for (let i = 0; i < parts.length; i++) {
      relativeBone(r, aligned, parts[i]!);
      const over = nearestAllowed(parts[i]!);
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
  const { rig } = party;
  // parents first, so that a child is judged after its parent was turned
  const parts = watched(party, limits)
    .filter((p) => !/^(thigh|shin|foot)/.test(p.slot))
    .sort((a, b) => a.joint - b.joint);
  if (parts.length === 0) return motion;
  const aligned = alignmentTurns(rig, party.map, party.pose);
  const n = rig.names.length;
  // parts further out along the same limb, which turn along
  const below = parts.map((p) => parts.filter((o) => o !== p && hangsFrom(rig, o.joint, p.joint)));
  const reader = new ChainReader(
    rig,
    motion,
    parts.flatMap((p) => [p.joint, p.carrier]),
  );
  const turned = new Set<number>();
  let turns: Float32Array | undefined;
  const q = Float64Array.of(0, 0, 0, 1);
  const body = Float64Array.of(0, 0, 0, 1);
  const above = Float64Array.of(0, 0, 0, 1);
  const local = Float64Array.of(0, 0, 0, 1);
  for (let f = 0; f < motion.frameCount; f++) {
    const { r } = reader.at(f);
    for (let i = 0; i < parts.length; i++) {
      const part = parts[i]!;
      relativeBone(r, aligned, part);
      if (nearestAllowed(part) < 0.01) continue;
      turns ??= motion.turns.slice();
      turned.add(part.joint);
      arcQuat(q, 0, dir, 0, to, 0);
      // from the carrier's body axes to the world
      mulInv64(body, 0, r, 4 * part.carrier, aligned, 4 * part.carrier);
      mul64(q, 0, body, 0, q, 0);
      mulInv64(q, 0, q, 0, body, 0);
      const parent = rig.parents[part.joint]!;
      for (let k = 0; k < 4; k++) above[k] = parent >= 0 ? r[4 * parent + k]! : k === 3 ? 1 : 0;
      mul64(r, 4 * part.joint, q, 0, r, 4 * part.joint);
      for (const o of below[i]!) {
        mul64(r, 4 * o.joint, q, 0, r, 4 * o.joint);
        const p = rig.parents[o.joint]!;
        if (p !== part.joint && !below[i]!.some((b) => b.joint === p)) mul64(r, 4 * p, q, 0, r, 4 * p);
      }
      invMul64(local, 0, above, 0, r, 4 * part.joint);
      normalize64(local, 0);
      turns.set(local, 4 * (f * n + part.joint));
    }
  }
  if (!turns) return motion;
  for (const j of turned) alignSigns(turns, 4 * j, 4 * n, motion.frameCount);
  return { ...motion, turns };
}

function hangsFrom(rig: SkeletonRig, joint: number, ancestor: number): boolean {
  for (let p = rig.parents[joint]!; p >= 0; p = rig.parents[p]!) if (p === ancestor) return true;
  return false;
}
