import { mulInv64, norm, rotate64 } from '../math/fast';
import { clamp } from '../math/vec';
import type { FootPlan } from './foot-plan';
import type { FootTrack } from './foot-track';

// A leg whose knee rests on the ground, and how its foot can give.

/** One leg over time, world, metres; 3 F each. */
export interface KneelingLeg {
  readonly track: FootTrack;
  readonly planned: FootPlan;
  readonly hip: Float64Array;
  readonly knee: Float64Array;
  /** Lengths of thigh and shin. */
  readonly bones: [number, number];
  /** Where the knee shall be. */
  readonly spot: Float64Array;
  /** F: 1 where it is held there, 0 where the leg goes as planned. */
  readonly weight: Float32Array;
}

/** Most by which a foot that stands on its ball turns about it so that the knee keeps its spot, radians. */
const MOST_TURN = 0.4;
const ACROSS = Float64Array.of(1, 0, 0);
const across = new Float64Array(3);
const ankle = new Float64Array(3);
const turned = new Float64Array(3);
const relative = new Float64Array(4);
const pitch = new Float64Array(4);

/** Level axis across the foot, x and z; the vector from the point it stands on to the ankle comes into `arm`. */
export function acrossFoot({ track, planned }: KneelingLeg, f: number, arm: Float64Array): readonly [number, number] {
  rotate64(arm, 0, track.turn, 4 * f, planned.pivot[f] === 1 ? track.sole.heel : track.sole.ball, 0);
  for (let k = 0; k < 3; k++) arm[k] = -arm[k]!;
  mulInv64(relative, 0, track.turn, 4 * f, track.flat, 0);
  rotate64(across, 0, relative, 0, ACROSS, 0);
  const flat = Math.hypot(across[0]!, across[2]!) || 1;
  return [across[0]! / flat, across[2]! / flat];
}

/** Where the ankle comes by turning the foot about the point it stands on. */
export function ankleAt(leg: KneelingLeg, f: number, by: number): Float64Array {
  const [x, z] = acrossFoot(leg, f, ankle);
  const s = Math.sin(by / 2);
  pitch[0] = x * s;
  pitch[1] = 0;
  pitch[2] = z * s;
  pitch[3] = Math.cos(by / 2);
  rotate64(turned, 0, pitch, 0, ankle, 0);
  for (let k = 0; k < 3; k++) turned[k] = leg.planned.goal[3 * f + k]! + turned[k]! - ankle[k]!;
  return turned;
}

/** Turn of the foot about the point it stands on that brings the ankle to a shin's length from the knee; Newton's method. */
export function footTurn(leg: KneelingLeg, f: number, knee: ArrayLike<number>): number {
  const gap = (by: number): number => {
    const a = ankleAt(leg, f, by);
    return norm(a[0]! - knee[0]!, a[1]! - knee[1]!, a[2]! - knee[2]!) - leg.bones[1];
  };
  let by = 0;
  for (let pass = 0; pass < 12; pass++) {
    const value = gap(by);
    if (Math.abs(value) < 1e-9) break;
    const slope = (gap(by + 1e-4) - gap(by - 1e-4)) / 2e-4;
    if (Math.abs(slope) < 1e-5) break;
    by = clamp(by - clamp(value / slope, -0.2, 0.2), -MOST_TURN, MOST_TURN);
  }
  return by;
}

/** Moves a point along its line from another until it is so far from it. */
export function toLength(point: Float64Array, from: ArrayLike<number>, length: number): void {
  const far = norm(point[0]! - from[0]!, point[1]! - from[1]!, point[2]! - from[2]!) || 1e-9;
  for (let k = 0; k < 3; k++) point[k] = from[k]! + (length / far) * (point[k]! - from[k]!);
}
