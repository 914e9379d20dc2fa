import { norm } from '../math/fast';
import type { SkeletonRig, WorldPose } from '../rig/rig';
import { type BodyMap, jointOf, SIDES } from './slots';

/** How a body stands at rest; unknown where its limbs are not mapped. */
export type Stance = 'upright' | 'four-legged' | 'unknown';

/** Where the limbs of a body begin and end: four points, 3 numbers each. */
export interface LimbEnds {
  readonly hips: readonly number[];
  readonly feet: readonly number[];
  readonly shoulders: readonly number[];
  readonly hands: readonly number[];
}

/** Fore and hind legs point the same way within this, and the trunk lies across them by at least as much as ACROSS. */
const ALIKE = Math.cos((40 * Math.PI) / 180);
const ACROSS = Math.cos((50 * Math.PI) / 180);
/** Arms of somebody who stands are no legs, however they hang: legs of one animal are about as long. */
const LENGTHS = 0.4;

/** Whether a body goes on four legs: both pairs of limbs go down side by side, and the trunk lies across between them. */
export function goesOnFour({ hips, feet, shoulders, hands }: LimbEnds): boolean {
  const between = (a: readonly number[], b: readonly number[]): number[] => [0, 1, 2].map((k) => b[k]! - a[k]!);
  const size = (v: readonly number[]): number => norm(v[0]!, v[1]!, v[2]!);
  const cos = (u: readonly number[], v: readonly number[]): number =>
    (u[0]! * v[0]! + u[1]! * v[1]! + u[2]! * v[2]!) / (size(u) * size(v) || 1);
  const [leg, arm, trunk] = [between(hips, feet), between(shoulders, hands), between(hips, shoulders)];
  const alike = Math.min(size(leg), size(arm)) / (Math.max(size(leg), size(arm)) || 1);
  return cos(leg, arm) > ALIKE && alike > LENGTHS && Math.abs(cos(leg, trunk)) < ACROSS;
}

const mean = (pose: WorldPose, joints: readonly number[]): number[] =>
  [0, 1, 2].map((k) => joints.reduce((s, j) => s + pose.p[3 * j + k]!, 0) / joints.length);

/** Where the mapped limbs begin and end in a pose; undefined where one pair is missing. */
export function limbEnds(map: BodyMap, pose: WorldPose): LimbEnds | undefined {
  const both = (part: string): number[] => SIDES.map((s) => jointOf(map, part + s)).filter((j) => j >= 0);
  const [hips, feet, shoulders, hands] = ['thigh', 'foot', 'upperArm', 'hand'].map(both) as [
    number[],
    number[],
    number[],
    number[],
  ];
  if ([hips, feet, shoulders, hands].some((j) => j.length === 0)) return undefined;
  return { hips: mean(pose, hips), feet: mean(pose, feet), shoulders: mean(pose, shoulders), hands: mean(pose, hands) };
}

/** How a mapped body stands in a pose. */
export function stanceOf(map: BodyMap, pose: WorldPose): Stance {
  const ends = limbEnds(map, pose);
  if (ends) return goesOnFour(ends) ? 'four-legged' : 'upright';
  return SIDES.some((s) => jointOf(map, `thigh${s}`) >= 0) ? 'upright' : 'unknown';
}

/** Many points, hardly any of which carries another: markers of a capture, not joints of a skeleton. */
export function isMarkerCloud({ names, parents }: SkeletonRig): boolean {
  const carriers = new Set(parents.filter((p) => p >= 0)).size;
  return names.length >= 12 && carriers <= Math.max(1, 0.1 * names.length);
}
