import { mul64, norm, rotate64 } from '../math/fast';
import type { FootPlan } from './foot-plan';
import type { FootTrack } from './foot-track';
import { FULL_REACH } from './leg';
import { quietKnee } from './quiet-knees';

/** Where a leg hangs and how long its bones are. */
export interface LegTrack {
  /** 3 F: hip joint, world, metres. */
  readonly hip: Float64Array;
  readonly bones: [number, number];
}

/** Share of full length that a swinging leg uses at most: near full length a knee turns fast, so it keeps farther away unless the source goes there. */
export const SWING_REACH = 0.99;

/** Most by which a free foot comes nearer or goes farther to ease its knee, as a share of the leg. */
const EASE = 0.015;
/** Most by which a foot that stands on heel or ball alone turns about it for that, radians. */
const EASE_TURN = 0.07;

/**
 * Moves a free foot along the line to its hip, and turns one that stands on heel or ball alone about that, where its knee
 * would bend too suddenly; see quietKnee. Changes goal and turns.
 */
export function quietFoot(
  track: FootTrack,
  { hip, bones }: LegTrack,
  planned: FootPlan,
  drop: Float64Array,
  allowed: number,
  kneeling: Float32Array | undefined,
): void {
  const { goal, held, clear, pivot } = planned;
  const { sole } = track;
  const full = bones[0] + bones[1];
  const u = new Float64Array(3);
  /** From the hip, lowered, to the ankle's goal; the same array every time. */
  const direction = (f: number): Float64Array => {
    for (let k = 0; k < 3; k++) u[k] = goal[3 * f + k]! - hip[3 * f + k]! + (k === 1 ? drop[f]! : 0);
    return u;
  };
  const far = (v: Float64Array): number => norm(v[0]!, v[1]!, v[2]!);
  const arm = new Float64Array(3);
  const other = new Float64Array(3);
  /** Axis across the foot about which the end that does not stand rises; how far away the ankle goes by it, metres a radian. */
  const lever = (f: number): { axis: [number, number]; by: number; length: number } => {
    const [own, its] = pivot[f] === 1 ? [sole.heel, sole.ball] : [sole.ball, sole.heel];
    rotate64(arm, 0, track.turn, 4 * f, own, 0);
    rotate64(other, 0, track.turn, 4 * f, its, 0);
    for (let k = 0; k < 3; k++) {
      other[k] = other[k]! - arm[k]!;
      arm[k] = -arm[k]!;
    }
    const flat = Math.hypot(other[0]!, other[2]!) || 1;
    const [x, z] = [-other[2]! / flat, other[0]! / flat];
    direction(f);
    const gain = (u[0]! * -z * arm[1]! + u[1]! * (z * arm[0]! - x * arm[2]!) + u[2]! * x * arm[1]!) / far(u);
    return { axis: [x, z], by: gain, length: flat };
  };
  const distance = new Float64Array(held.length);
  for (let f = 0, o = 0; f < held.length; f++, o += 3) {
    const d = norm(goal[o]! - hip[o]!, goal[o + 1]! - hip[o + 1]! + drop[f]!, goal[o + 2]! - hip[o + 2]!);
    distance[f] = Math.min(FULL_REACH * full, d);
  }
  const room = (f: number): readonly [number, number] => {
    if (kneeling?.[f]) return [0, 0];
    const straight = SWING_REACH * full - distance[f]!;
    if (!held[f]) return [EASE * full, Math.max(0, Math.min(EASE * full, clear[f]!, straight))];
    if (!pivot[f]) return [0, 0];
    const { by, length } = lever(f);
    const up = by * EASE_TURN;
    const down = -by * Math.min(EASE_TURN, clear[f]! / length);
    return [Math.max(0, -Math.min(up, down)), Math.max(0, Math.min(Math.max(up, down), straight))];
  };
  const change = quietKnee({ distance, bones, room }, allowed);
  if (!change) return;
  const turn = new Float64Array(4);
  for (let f = 0; f < held.length; f++) {
    const by = change[f]!;
    if (by === 0) continue;
    if (!held[f]) {
      const v = direction(f);
      for (let k = 0; k < 3; k++) goal[3 * f + k] = goal[3 * f + k]! + (by / far(v)) * v[k]!;
      continue;
    }
    const { axis, by: gain } = lever(f);
    const half = by / gain / 2;
    turn.set([axis[0] * Math.sin(half), 0, axis[1] * Math.sin(half), Math.cos(half)]);
    rotate64(other, 0, turn, 0, arm, 0);
    for (let k = 0; k < 3; k++) goal[3 * f + k] = goal[3 * f + k]! + other[k]! - arm[k]!;
    mul64(track.turn, 4 * f, turn, 0, track.turn, 4 * f);
    if (track.toeTurn.length > 0 && pivot[f] === 1) mul64(track.toeTurn, 4 * f, turn, 0, track.toeTurn, 4 * f);
  }
}
