import { chainOf, jointOf, LONG_BONES, SIDES } from '../bodymap/slots';
import { restPose, type WorldPose } from '../rig/rig';
import type { Thickness } from '../rig/thickness';
import type { Party } from './party';

/** A limb part as a round rod: from one joint to another, with a radius in metres. */
export interface Rod {
  readonly name: string;
  readonly from: number;
  readonly to: number;
  readonly radius: number;
}

/** Thickness of parts by slot, metres: see girthsOf. */
export type Girths = Readonly<Record<string, number>>;

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
export function girthsOf(party: Pick<Party, 'rig' | 'map'>, skin: Thickness): Girths {
  const out: Record<string, number> = {};
  for (const rod of rodsOf(party, restPose(party.rig), {})) {
    // a trunk is as thick as most of its joints are
    const joints = rod.name === 'trunk' ? [rod.from, ...chainOf(party.map, 'spine')] : [rod.from];
    const told = joints.map((j) => skin.around[j] ?? 0).filter((r) => r > 0);
    if (told.length > 0) out[rod.name] = told.sort((a, b) => a - b)[told.length >> 1]!;
  }
  for (const side of SIDES) {
    const ahead = skin.ahead[jointOf(party.map, `shin${side}`)] ?? 0;
    if (ahead > 0) out[`knee${side}`] = ahead;
  }
  return out;
}

/** Limbs, trunk and head as rods. */
export function rodsOf(party: Pick<Party, 'rig' | 'map'>, pose: WorldPose, girths: Girths): Rod[] {
  const rods: Rod[] = [];
  const add = (name: string, stem: string, from: number, to: number): void => {
    if (from < 0 || to < 0) return;
    const length = Math.hypot(...[0, 1, 2].map((k) => pose.p[3 * from + k]! - pose.p[3 * to + k]!));
    if (length > 1e-4) rods.push({ name, from, to, radius: girths[name] ?? SLENDER[stem]! * length });
  };
  const { map } = party;
  for (const side of SIDES) {
    for (const [part, next] of LONG_BONES) add(part + side, part, jointOf(map, part + side), jointOf(map, next + side));
  }
  const chest = chainOf(map, 'spine').at(-1) ?? -1;
  add('trunk', 'trunk', jointOf(map, 'hips'), chest);
  add('head', 'head', chainOf(map, 'neck')[0] ?? chest, jointOf(map, 'head'));
  return rods;
}

export type Rods = ReadonlyMap<string, Rod>;
export const rodsByName = (party: Party): Rods =>
  new Map(rodsOf(party, party.pose ?? restPose(party.rig), party.girths ?? {}).map((rod) => [rod.name, rod]));
