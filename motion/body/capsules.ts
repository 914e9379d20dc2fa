import { chainOf, jointOf, LONG_BONES, SIDES } from '../bodymap/slots';
import { distance3 } from '../math/vec';
import { restPose, type WorldPose } from '../rig/rig';
import type { Thickness } from '../rig/thickness';
import type { Party } from './party';

/** A limb part as a capsule: from one joint to another, with a radius in metres. */
export interface Capsule {
  readonly name: string;
  readonly from: number;
  readonly to: number;
  readonly radius: number;
}

/** Thickness of parts by slot, metres: see radiiOf. */
export type Radii = Readonly<Record<string, number>>;

/** Where no mesh tells, a trunk is no thicker than this share of half the way between the shoulders, a thigh of that between the hip joints. */
const WITHIN = 0.7;

// radius as a share of the part's length, where no mesh tells
const SLENDER: Record<string, number> = {
  forearm: 0.15,
  upperArm: 0.18,
  shin: 0.13,
  thigh: 0.17,
  trunk: 0.28,
  head: 0.4,
};

/**
 * How thick the parts of a body are, by its slots, where the skin tells: of limbs, trunk and head the radius; of knees how
 * high they carry the joint above what they rest on.
 */
export function radiiOf(party: Pick<Party, 'rig' | 'map'>, skin: Thickness): Radii {
  const out: Record<string, number> = {};
  for (const capsule of capsulesOf(party, restPose(party.rig), {})) {
    // a trunk is as thick as most of its joints are
    const joints = capsule.name === 'trunk' ? [capsule.from, ...chainOf(party.map, 'spine')] : [capsule.from];
    const told = joints.map((j) => skin.around[j] ?? 0).filter((r) => r > 0);
    if (told.length > 0) out[capsule.name] = told.sort((a, b) => a - b)[told.length >> 1]!;
  }
  for (const side of SIDES) {
    const ahead = skin.ahead[jointOf(party.map, `shin${side}`)] ?? 0;
    if (ahead > 0) out[`knee${side}`] = ahead;
  }
  return out;
}

/** Limbs, trunk and head as capsules. */
export function capsulesOf(party: Pick<Party, 'rig' | 'map'>, pose: WorldPose, radii: Radii): Capsule[] {
  const capsules: Capsule[] = [];
  const add = (name: string, stem: string, from: number, to: number): void => {
    if (from < 0 || to < 0) return;
    const length = Math.hypot(...[0, 1, 2].map((k) => pose.p[3 * from + k]! - pose.p[3 * to + k]!));
    if (length > 1e-4) capsules.push({ name, from, to, radius: radii[name] ?? guess(stem, length) });
  };
  const { map } = party;
  const across = (stem: string): number => {
    const [l, r] = SIDES.map((side) => jointOf(map, stem + side)) as [number, number];
    return l < 0 || r < 0 ? Number.POSITIVE_INFINITY : distance3(pose.p, 3 * l, pose.p, 3 * r);
  };
  const guess = (stem: string, length: number): number => {
    const room = stem === 'trunk' ? across('upperArm') : stem === 'thigh' ? across('thigh') : Number.POSITIVE_INFINITY;
    return Math.min(SLENDER[stem]! * length, (WITHIN * room) / 2);
  };
  for (const side of SIDES) {
    for (const [part, next] of LONG_BONES) add(part + side, part, jointOf(map, part + side), jointOf(map, next + side));
  }
  const chest = chainOf(map, 'spine').at(-1) ?? -1;
  add('trunk', 'trunk', jointOf(map, 'hips'), chest);
  add('head', 'head', chainOf(map, 'neck')[0] ?? chest, jointOf(map, 'head'));
  return capsules;
}

export type CapsulesByName = ReadonlyMap<string, Capsule>;
/** The capsules of a body in its rest pose, by the names of their parts. */
export const capsulesByName = (party: Party): CapsulesByName =>
  new Map(
    capsulesOf(party, party.pose ?? restPose(party.rig), party.radii ?? {}).map((capsule) => [capsule.name, capsule]),
  );
