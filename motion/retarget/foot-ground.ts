import { isSole, type Plant } from '../analysis/plants';
import { mul64, norm, normalize64, rotate64 } from '../math/fast';
import { arcQuat } from '../math/quat';
import { clamp, smoothstep } from '../math/vec';
import { envelope } from './envelope';
import type { FootTrack } from './foot-track';

// A foot and the ground under it: where that is, and that nothing of the sole goes below.

/** Ground under a foot in every frame: the height of its plants, and between two plants the lower of them. */
export function groundUnder(
  groups: readonly { readonly start: number; readonly end: number }[],
  plants: readonly Plant[],
  heights: readonly number[],
  side: string,
  frames: number,
): Float64Array {
  const ground = new Float64Array(frames);
  let last = 0;
  const low = groups.map((g) => {
    const own = heights.filter(
      (_, i) =>
        isSole(plants[i]!.part) &&
        plants[i]!.part.endsWith(side) &&
        plants[i]!.end >= g.start &&
        plants[i]!.start <= g.end,
    );
    return own.length > 0 ? Math.min(...own) : 0;
  });
  let g = 0;
  for (let f = 0; f < frames; f++) {
    while (g < groups.length && f > groups[g]!.end) last = low[g++]!;
    const next = groups[g] ? low[g]! : last;
    ground[f] = groups[g] && f >= groups[g]!.start ? next : Math.min(g === 0 ? next : last, next);
  }
  return ground;
}

/** Time over which a lift comes and goes. */
const LIFT_S = 0.08;

/**
 * No sole point under the ground: a swinging foot is lifted, toes are bent up. The lift rises and falls over time instead
 * of following the ground like a clamp, which would show as a jerk; next to held frames it is no more than needed.
 */
export function keepAbove(
  track: FootTrack,
  goal: Float64Array,
  held: Uint8Array,
  ground: Float64Array,
  fps: number,
): void {
  const { sole } = track;
  const frames = held.length;
  const v = new Float64Array(3);
  const toe = new Float64Array(3);
  const lift = Float64Array.of(0, 0, 0, 1);
  const need = new Float64Array(frames);
  for (let f = 0; f < frames; f++) {
    if (held[f]) continue;
    rotate64(v, 0, track.turn, 4 * f, sole.heel, 0);
    rotate64(toe, 0, track.turn, 4 * f, sole.ball, 0);
    need[f] = Math.max(0, ground[f]! - goal[3 * f + 1]! - Math.min(v[1]!, toe[1]!));
  }
  const w = Math.max(1, Math.round(LIFT_S * fps));
  const smooth = envelope(need, w);
  const away = framesToHeld(held);
  for (let f = 0; f < frames; f++) {
    const floor = ground[f]!;
    if (!held[f]) goal[3 * f + 1] = goal[3 * f + 1]! + Math.max(need[f]!, smooth[f]! * smoothstep(away[f]! / (2 * w)));
    if (sole.toes < 0) continue;
    rotate64(toe, 0, track.turn, 4 * f, track.toeOffset, 0);
    rotate64(v, 0, track.toeTurn, 4 * f, sole.tip, 0);
    const root = toe[1]! + goal[3 * f + 1]!;
    if (v[1]! + root >= floor) continue;
    arcQuat(lift, 0, v, 0, atHeight(v, floor - root), 0);
    mul64(track.toeTurn, 4 * f, lift, 0, track.toeTurn, 4 * f);
    normalize64(track.toeTurn, 4 * f);
  }
}

/** How far what is not held of a foot is above where it may go down to; see FootPlan. */
export function clearances(
  track: FootTrack,
  goal: Float64Array,
  pivot: Uint8Array,
  held: Uint8Array,
  ground: Float64Array,
): Float64Array {
  const { sole, turn, toeTurn, toeOffset } = track;
  const v = new Float64Array(3);
  const out = new Float64Array(held.length);
  for (let f = 0; f < out.length; f++) {
    if (held[f] && !pivot[f]) continue;
    let low = Number.POSITIVE_INFINITY;
    if (pivot[f] !== 1) {
      rotate64(v, 0, turn, 4 * f, sole.heel, 0);
      low = v[1]!;
    }
    if (pivot[f] !== 2) {
      rotate64(v, 0, turn, 4 * f, sole.ball, 0);
      low = Math.min(low, v[1]!);
    }
    // toes keep to the ground by themselves while the ball stands on it
    if (sole.toes >= 0 && pivot[f] !== 2) {
      rotate64(v, 0, turn, 4 * f, toeOffset, 0);
      const root = v[1]!;
      rotate64(v, 0, toeTurn, 4 * f, sole.tip, 0);
      low = Math.min(low, root + v[1]!);
    }
    out[f] = Math.max(0, low + goal[3 * f + 1]! - ground[f]!);
  }
  return out;
}

/** Frames to the nearest held one, in either direction. */
function framesToHeld(held: Uint8Array): Int32Array {
  const out = new Int32Array(held.length).fill(held.length);
  for (let f = 0; f < held.length; f++) out[f] = held[f] ? 0 : Math.min(out[f]!, (out[f - 1] ?? held.length) + 1);
  for (let f = held.length - 2; f >= 0; f--) out[f] = Math.min(out[f]!, out[f + 1]! + 1);
  return out;
}

/** Largest tilt by which a swinging foot near the ground frees a sinking heel or ball before it is lifted, radians. */
const TILT = 0.12;

/**
 * A swinging foot of which one end would sink in turns about its other end, as a held one does, so both agree where they meet.
 * The tilt comes and goes over time, as a lift does.
 */
export function tiltOut(
  track: FootTrack,
  goal: Float64Array,
  held: Uint8Array,
  ground: Float64Array,
  fps: number,
): void {
  const { sole } = track;
  const frames = held.length;
  const heel = new Float64Array(3);
  const ball = new Float64Array(3);
  const arm = new Float64Array(3);
  // heel and ball apart: radians by which each would have to rise
  const needs = [new Float64Array(frames), new Float64Array(frames)] as const;
  let any = false;
  for (let f = 0; f < frames; f++) {
    if (held[f]) continue;
    const floor = ground[f]! - goal[3 * f + 1]!;
    rotate64(heel, 0, track.turn, 4 * f, sole.heel, 0);
    rotate64(ball, 0, track.turn, 4 * f, sole.ball, 0);
    const [low, high] = heel[1]! < ball[1]! ? [heel, ball] : [ball, heel];
    if (low[1]! >= floor) continue;
    for (let k = 0; k < 3; k++) arm[k] = low[k]! - high[k]!;
    const length = norm(arm[0]!, arm[1]!, arm[2]!);
    const now = Math.asin(clamp(arm[1]! / length, -1, 1));
    const to = Math.asin(clamp(Math.min(0, floor - high[1]!) / length, -1, 1));
    needs[low === heel ? 0 : 1][f] = clamp(to - now, 0, TILT);
    any = true;
  }
  if (!any) return;
  const away = framesToHeld(held);
  const w = Math.max(1, Math.round(LIFT_S * fps));
  for (const [end, need] of needs.entries()) {
    if (need.every((x) => x === 0)) continue;
    const smooth = envelope(need, w);
    const [low, high] = end === 0 ? [sole.heel, sole.ball] : [sole.ball, sole.heel];
    for (let f = 0; f < frames; f++) {
      const by = held[f] ? 0 : Math.max(need[f]!, smooth[f]! * smoothstep(away[f]! / (2 * w)));
      if (by < 1e-6) continue;
      rotate64(heel, 0, track.turn, 4 * f, low, 0);
      rotate64(ball, 0, track.turn, 4 * f, high, 0);
      for (let k = 0; k < 3; k++) arm[k] = heel[k]! - ball[k]!;
      const flat = Math.hypot(arm[0]!, arm[2]!);
      if (flat < 1e-6) continue;
      // the level axis about which that end rises
      const half = by / 2;
      lift.set([(-arm[2]! / flat) * Math.sin(half), 0, (arm[0]! / flat) * Math.sin(half), Math.cos(half)]);
      mul64(track.turn, 4 * f, lift, 0, track.turn, 4 * f);
      normalize64(track.turn, 4 * f);
      rotate64(arm, 0, track.turn, 4 * f, high, 0);
      for (let k = 0; k < 3; k++) goal[3 * f + k] = goal[3 * f + k]! + ball[k]! - arm[k]!;
      if (track.toeTurn.length === 0 || end === 1) continue;
      mul64(track.toeTurn, 4 * f, lift, 0, track.toeTurn, 4 * f);
      normalize64(track.toeTurn, 4 * f);
    }
  }
}
const lift = Float64Array.of(0, 0, 0, 1);

/** The vector of the same length and heading whose height is y, as far as its length allows. */
export function atHeight(v: Float64Array, y: number): number[] {
  const length = norm(v[0]!, v[1]!, v[2]!);
  const flat = Math.hypot(v[0]!, v[2]!);
  const height = Math.max(-0.98 * length, Math.min(0.98 * length, y));
  const across = Math.sqrt(length * length - height * height) / Math.max(flat, 1e-9);
  return [v[0]! * across, height, v[2]! * across];
}
