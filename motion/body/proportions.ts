import { type BodyMap, chainOf, jointOf, SIDES } from '../bodymap/slots';
import { distance3 } from '../math/vec';
import { restPose, type SkeletonRig, tipOf, type WorldPose } from '../rig/rig';

/** One length of a body, metres, against what the common body of the same height has. */
export interface Proportion {
  readonly name: string;
  readonly metres: number;
  /** 1 is as the common body; 0.8 is a fifth shorter. */
  readonly ratio: number;
}

/**
 * Shares of the standing height, joint to joint.
 * Source: Winter, Biomechanics and Motor Control of Human Movement, after Drillis and Contini, Body Segment Parameters, 1966.
 */
const COMMON: readonly [name: string, share: number][] = [
  ['upper arm', 0.186],
  ['forearm', 0.146],
  ['thigh', 0.245],
  ['shin', 0.246],
  ['ankle height', 0.039],
  ['shoulder width', 0.259],
  ['hip width', 0.11],
  ['trunk', 0.288],
  ['neck and head', 0.182],
];

/** Lengths of a mapped body at rest against the common body of its height; parts that are not mapped are left out. */
export function proportionsOf(
  rig: SkeletonRig,
  map: BodyMap,
  heightM: number,
  floor = 0,
  pose: WorldPose = restPose(rig),
): Proportion[] {
  const between = (a: number, b: number): number =>
    a >= 0 && b >= 0 ? distance3(pose.p, 3 * a, pose.p, 3 * b) : Number.NaN;
  const j = (slot: string): number => jointOf(map, slot);
  const both = (from: string, to: string): number => meanOf(SIDES.map((s) => between(j(from + s), j(to + s))));
  const height = (joint: number): number => (joint >= 0 ? pose.p[3 * joint + 1]! : Number.NaN);
  const top = (joint: number): number => (joint >= 0 ? (tipOf(rig, pose, joint)?.[1] ?? height(joint)) : Number.NaN);
  const shoulders = meanOf(SIDES.map((s) => height(j(`upperArm${s}`))));
  const hips = meanOf(SIDES.map((s) => height(j(`thigh${s}`))));
  const crown = Math.max(top(j('head')), ...chainOf(map, 'neck').map(height), floor + heightM);
  const found: Record<string, number> = {
    'upper arm': both('upperArm', 'forearm'),
    forearm: both('forearm', 'hand'),
    thigh: both('thigh', 'shin'),
    shin: both('shin', 'foot'),
    'ankle height': meanOf(SIDES.map((s) => height(j(`foot${s}`)) - floor)),
    'shoulder width': between(j('upperArmL'), j('upperArmR')),
    'hip width': between(j('thighL'), j('thighR')),
    trunk: shoulders - hips,
    'neck and head': crown - shoulders,
  };
  return COMMON.flatMap(([name, share]) => {
    const metres = found[name]!;
    return Number.isFinite(metres) && heightM > 0 ? [{ name, metres, ratio: metres / (share * heightM) }] : [];
  });
}

function meanOf(values: readonly number[]): number {
  const known = values.filter((x) => Number.isFinite(x));
  return known.length === 0 ? Number.NaN : known.reduce((a, b) => a + b, 0) / known.length;
}
