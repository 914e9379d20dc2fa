import { findHolds, type HoldTracks, holdTracks, palmPoint } from '../analysis/holds';
import { isSole, type Plant } from '../analysis/plants';
import { jointOf, SIDES, type Side } from '../bodymap/slots';
import { MotionError } from '../errors';
import { rotate64 } from '../math/fast';
import { distance3, smoothstep } from '../math/vec';
import { ChainReader } from '../motion/chain-reader';
import { valueAt } from '../motion/curve';
import type { Motion } from '../motion/motion';
import { restPose } from '../rig/rig';
import { swingTo, type WristGoal, weightOf } from './arms';
import { envelope } from './envelope';
import type { RetargetPlan } from './plan';
import { PALM_CLEAR } from './trunk';

/** Importance at a frame; between keys it runs smoothly. */
export interface ImportanceKey {
  readonly frame: number;
  readonly weight: number;
}

/**
 * What a hand keeps. head, hips: its place relative to them, as far away by arm lengths; otherHand: both hands as far apart
 * as the source's, in metres (they hold one thing); point: a place in the world.
 */
export interface HandGoal {
  readonly hand: Side | 'both';
  readonly keep: 'head' | 'hips' | 'otherHand' | 'point';
  readonly point?: readonly [number, number, number];
  /** 1 unless told otherwise; 'near' makes it count the more the nearer the hand is to what it keeps to. */
  readonly weight?: number | 'near' | readonly ImportanceKey[];
}

/** What both hands can be asked to keep, in one word. */
export const HAND_MODES = ['free', 'together', 'head', 'hips'] as const;
export type HandMode = (typeof HAND_MODES)[number];

/** Goals for a word: hands free; one thing held by both; near the head or the hips where the source's are. */
export function handGoalsFor(mode: HandMode): HandGoal[] {
  if (mode === 'free') return [];
  if (mode === 'together') return [{ hand: 'both', keep: 'otherHand' }];
  return [{ hand: 'both', keep: mode, weight: 'near' }];
}

const HAND_FADE_S = 0.2;

/** Goals for wrists on the target, after Shin, Lee, Gleicher, Shin, Computer puppetry: an importance-based approach, 2001. */
export function handGoals(plan: RetargetPlan, source: Motion, moved: Motion, goals: readonly HandGoal[]): WristGoal[] {
  const out: WristGoal[] = [];
  for (const goal of goals) {
    check(goal, source.frameCount);
    if (goal.keep === 'otherHand') {
      const both = otherHand(plan, source, moved, goal);
      if (both) out.push(...both);
      continue;
    }
    for (const side of SIDES) {
      if (goal.hand !== 'both' && goal.hand !== side) continue;
      const one = relativeTo(plan, source, moved, goal, side);
      if (one) out.push(one);
    }
  }
  return merge(out);
}

function check(goal: HandGoal, frames: number): void {
  if (goal.keep === 'point' && (goal.point?.length !== 3 || goal.point.some((x) => !Number.isFinite(x))))
    throw new MotionError('bad-argument', 'A hand that keeps to a point needs the point: x, y and z in metres.');
  if (Array.isArray(goal.weight))
    for (const k of goal.weight as ImportanceKey[])
      if (!(k.frame >= 0 && k.frame < frames && k.weight >= 0 && k.weight <= 1))
        throw new MotionError(
          'bad-argument',
          'An importance key needs a frame of the motion and a weight from 0 to 1.',
        );
}

function weights(goal: HandGoal, frames: number, closeness: (f: number) => number): Float32Array {
  const w = goal.weight ?? 1;
  if (typeof w === 'number') return new Float32Array(frames).fill(importanceAt(w, 0));
  if (w === 'near') {
    const out = new Float32Array(frames);
    // full within a quarter of an arm, nothing beyond a whole one
    for (let f = 0; f < frames; f++) out[f] = 1 - smoothstep((closeness(f) - 0.25) / 0.75);
    return out;
  }
  return Float32Array.from({ length: frames }, (_, f) => importanceAt(w, f));
}

/** Importance at a frame, 0 to 1. Keys may stand in any order; before the first and after the last theirs holds. */
export function importanceAt(weight: number | readonly ImportanceKey[], frame: number): number {
  if (typeof weight === 'number') return Math.max(0, Math.min(1, weight));
  return valueAt(inOrder(weight), IMPORTANCE, frame);
}

const IMPORTANCE = {
  time: (k: ImportanceKey) => k.frame,
  value: (k: ImportanceKey) => k.weight,
  ease: () => 'smooth' as const,
};

const inOrder = (keys: readonly ImportanceKey[]): readonly ImportanceKey[] =>
  keys.every((k, i) => i === 0 || keys[i - 1]!.frame <= k.frame) ? keys : [...keys].sort((a, b) => a.frame - b.frame);

function relativeTo(
  plan: RetargetPlan,
  source: Motion,
  moved: Motion,
  goal: HandGoal,
  side: Side,
): WristGoal | undefined {
  const hand = { s: jointOf(plan.source.map, `hand${side}`), t: jointOf(plan.target.map, `hand${side}`) };
  const slot = goal.keep === 'point' ? 'hips' : goal.keep;
  const base = { s: jointOf(plan.source.map, slot), t: jointOf(plan.target.map, slot) };
  if (hand.t < 0 || (goal.keep !== 'point' && (hand.s < 0 || base.s < 0 || base.t < 0))) return undefined;
  const frames = moved.frameCount;
  const at = new Float64Array(3 * frames);
  if (goal.keep === 'point') {
    for (let f = 0; f < frames; f++) at.set(goal.point!, 3 * f);
    return { side, at, weight: weights(goal, frames, () => 0) };
  }
  const scale =
    plan.source.body.arm > 0 && plan.target.body.arm > 0 ? plan.target.body.arm / plan.source.body.arm : plan.scale;
  const a = new ChainReader(plan.source.rig, source, [hand.s, base.s]);
  const b = new ChainReader(plan.target.rig, moved, [base.t]);
  const apart = new Float64Array(frames);
  for (let f = 0; f < frames; f++) {
    const ps = a.at(f).p;
    const pt = b.at(f).p;
    let sum = 0;
    for (let k = 0; k < 3; k++) {
      const d = ps[3 * hand.s + k]! - ps[3 * base.s + k]!;
      sum += d * d;
      at[3 * f + k] = pt[3 * base.t + k]! + scale * d;
    }
    apart[f] = Math.sqrt(sum) / (plan.source.body.arm || 1);
  }
  return { side, at, weight: weights(goal, frames, (f) => apart[f]!) };
}

function otherHand(plan: RetargetPlan, source: Motion, moved: Motion, goal: HandGoal): WristGoal[] | undefined {
  const s = SIDES.map((x) => jointOf(plan.source.map, `hand${x}`)) as [number, number];
  const t = SIDES.map((x) => jointOf(plan.target.map, `hand${x}`)) as [number, number];
  if ([...s, ...t].some((j) => j < 0)) return undefined;
  const frames = moved.frameCount;
  const left = new Float64Array(3 * frames);
  const right = new Float64Array(3 * frames);
  const apart = new Float64Array(frames);
  const a = new ChainReader(plan.source.rig, source, s);
  const b = new ChainReader(plan.target.rig, moved, t);
  for (let f = 0; f < frames; f++) {
    const ps = a.at(f).p;
    const pt = b.at(f).p;
    let sum = 0;
    for (let k = 0; k < 3; k++) {
      const d = ps[3 * s[0] + k]! - ps[3 * s[1] + k]!;
      const middle = (pt[3 * t[0] + k]! + pt[3 * t[1] + k]!) / 2;
      sum += d * d;
      left[3 * f + k] = middle + d / 2;
      right[3 * f + k] = middle - d / 2;
    }
    apart[f] = Math.sqrt(sum) / (plan.source.body.arm || 1);
  }
  const weight = weights(goal, frames, (f) => apart[f]!);
  return [
    { side: 'L', at: left, weight },
    { side: 'R', at: right, weight },
  ];
}

/** Goals of one hand are averaged by their weights. */
function merge(goals: readonly WristGoal[]): WristGoal[] {
  return SIDES.flatMap((side) => {
    const own = goals.filter((g) => g.side === side);
    if (own.length < 2) return own;
    const frames = own[0]!.weight.length;
    const at = new Float64Array(3 * frames);
    const weight = new Float32Array(frames);
    for (let f = 0; f < frames; f++) {
      let sum = 0;
      for (const g of own) {
        sum += g.weight[f]!;
        weight[f] = Math.max(weight[f]!, g.weight[f]!);
        for (let k = 0; k < 3; k++) at[3 * f + k] = at[3 * f + k]! + g.weight[f]! * g.at[3 * f + k]!;
      }
      if (sum > 0) for (let k = 0; k < 3; k++) at[3 * f + k] = at[3 * f + k]! / sum;
    }
    return [{ side, at, weight }];
  });
}

/**
 * Where the source rests hands and knees on the ground, or sits.
 * @param given plants to go by instead of those found
 */
export function sourceHolds(
  plan: RetargetPlan,
  source: Motion,
  feet: readonly Float64Array[],
  floor: number,
  given?: readonly Plant[],
): { plants: Plant[]; tracks: HoldTracks } {
  const { rig, body, map, pose } = plan.source;
  const own = given?.filter((p) => !isSole(p.part));
  if (own ? own.length === 0 : !goesLow(plan, source, floor)) return { plants: [], tracks: {} };
  const tracks = holdTracks({ rig, map, pose }, source, body, pose ?? restPose(rig));
  if (own) return { plants: own, tracks };
  return { plants: findHolds(tracks, feet, source.fps, body.leg, floor), tracks };
}

/** Share of the standing height to which hips come down before hands or knees get to the ground, or a seat is taken. */
const LOW_HIPS = 0.82;

/** Whether the hips ever come down: spares the look at hands and knees in nearly every walk and run. */
function goesLow(plan: RetargetPlan, source: Motion, floor: number): boolean {
  const { rig, body } = plan.source;
  const reader = new ChainReader(rig, source, body.hipJoints);
  const step = Math.max(1, Math.round(source.fps / 20));
  for (let f = 0; f < source.frameCount; f += step) {
    const { p } = reader.at(f);
    let y = 0;
    for (const a of body.hipJoints) y += p[3 * a + 1]! / body.hipJoints.length;
    if (y - floor < LOW_HIPS * body.hipHeight) return true;
  }
  return false;
}

/** How far a resting palm may rise and sink as the source's does, metres: hands roll over their heels. */
const PALM_GIVE = 0.02;

/** Share of its length that an arm which rests on the ground uses at most, unless it is straighter already. */
const BENT = 0.975;

/** Goals that keep palms where they rest on the ground, and above it on the way: each on the mean spot of its plant, at the source's height scaled. */
export function groundGoals(
  plan: RetargetPlan,
  moved: Motion,
  plants: readonly Plant[],
  tracks: HoldTracks,
  sourceFloor: number,
): WristGoal[] {
  const { rig, map, pose } = plan.target;
  const rest = pose ?? restPose(rig);
  const out: WristGoal[] = [];
  for (const side of SIDES) {
    const spans = plants.filter((p) => p.part === `hand${side}`);
    const hand = jointOf(map, `hand${side}`);
    if (hand < 0 || jointOf(map, `forearm${side}`) < 0) continue;
    if (!plants.some((p) => p.part.startsWith('hand') || p.part.startsWith('knee'))) continue;
    const palm = palmPoint(rig, { rig, map }, side, rest);
    const upper = jointOf(map, `upperArm${side}`);
    const fore = jointOf(map, `forearm${side}`);
    const reader = new ChainReader(rig, moved, [hand]);
    const at = new Float64Array(3 * moved.frameCount);
    const shoulders = new Float64Array(3 * moved.frameCount);
    const bone = (j: number): number => Math.hypot(rig.restT[3 * j]!, rig.restT[3 * j + 1]!, rig.restT[3 * j + 2]!);
    const full = bone(fore) + bone(hand);
    const offset = new Float64Array(3 * moved.frameCount);
    for (let f = 0; f < moved.frameCount; f++) {
      const { r, p } = reader.at(f);
      rotate64(offset, 3 * f, r, 4 * hand, palm, 0);
      for (let k = 0; k < 3; k++) at[3 * f + k] = p[3 * hand + k]!;
      for (let k = 0; k < 3; k++) shoulders[3 * f + k] = p[3 * upper + k]!;
    }
    const track = tracks[`hand${side}`];
    if (!track) continue;
    const fade = Math.max(1, Math.round(HAND_FADE_S * moved.fps));
    const wrist = at.slice();
    const swung = new Float64Array(3);
    for (const { start, end, pin } of spans) {
      const spot = [0, 0, 0];
      let height = 0;
      for (let f = start; f <= end; f++) height += (track[3 * f + 1]! - sourceFloor) / (end - start + 1);
      const y = Math.max(PALM_CLEAR, height * plan.scale);
      for (let f = start; f <= end; f++) {
        // as the arm swings there: a hand may be anywhere on the ground, but the arm keeps its bend
        swingTo(swung, 0, shoulders, 3 * f, wrist, 3 * f, y - offset[3 * f + 1]!);
        for (let k = 0; k < 3; k++) spot[k] = spot[k]! + (swung[k]! + offset[3 * f + k]!) / (end - start + 1);
      }
      spot[1] = y;
      // an arm that is straighter already may stay so
      let reachable = BENT * full;
      for (let f = start; f <= end; f++)
        reachable = Math.max(reachable, Math.min(0.999 * full, distance3(wrist, 3 * f, shoulders, 3 * f)));
      // a spot chosen by hand stays where it was put, in reach or not
      if (pin) [spot[0], spot[2]] = pin;
      else pullIn(spot, offset, shoulders, start, end, reachable);
      const from = Math.max(0, start - fade);
      const to = Math.min(moved.frameCount - 1, end + fade);
      for (let f = from; f <= to; f++) {
        const g = Math.max(start, Math.min(end, f));
        const above = (track[3 * g + 1]! - sourceFloor - height) * plan.scale;
        for (let k = 0; k < 3; k++)
          at[3 * f + k] = spot[k]! + (k === 1 ? PALM_GIVE * Math.tanh(above / PALM_GIVE) : 0) - offset[3 * f + k]!;
      }
    }
    const weight = weightOf(spans, moved.frameCount, fade);
    liftFromFloor(wrist, offset, at, weight, fade);
    out.push({ side, at, weight });
  }
  return out;
}

/** Least height of palm and wrist above the ground while a hand goes from one spot to the next, metres. */
const HAND_CLEAR = 0.015;

/** Raises goals where wrist or palm would go through the floor; the lift rises and falls over time. Changes `at`, `weight`. */
function liftFromFloor(
  wrist: Float64Array,
  offset: Float64Array,
  at: Float64Array,
  weight: Float32Array,
  fade: number,
): void {
  const frames = weight.length;
  const target = new Float64Array(3 * frames);
  const need = new Float64Array(frames);
  for (let f = 0; f < frames; f++) {
    for (let k = 0; k < 3; k++) target[3 * f + k] = (1 - weight[f]!) * wrist[3 * f + k]! + weight[f]! * at[3 * f + k]!;
    const low = Math.min(target[3 * f + 1]!, target[3 * f + 1]! + offset[3 * f + 1]!);
    if (weight[f]! < 1) need[f] = Math.max(0, HAND_CLEAR - low);
  }
  const lift = envelope(need, Math.max(1, fade >> 1));
  for (let f = 0; f < frames; f++) {
    const by = weight[f] === 1 ? 0 : Math.max(need[f]!, lift[f]! * (1 - weight[f]!));
    if (by < 1e-5) continue;
    for (let k = 0; k < 3; k++) at[3 * f + k] = target[3 * f + k]! + (k === 1 ? by : 0);
    weight[f] = 1;
  }
}

/** Moves a spot over the ground towards the shoulder until the arm reaches it, a little bent, in all of its frames. */
function pullIn(
  spot: number[],
  offset: Float64Array,
  shoulders: Float64Array,
  start: number,
  end: number,
  reachable: number,
): void {
  for (let pass = 0; pass < 4; pass++) {
    let worst = 0;
    let at = start;
    for (let f = start; f <= end; f++) {
      const d = Math.hypot(...[0, 1, 2].map((k) => spot[k]! - offset[3 * f + k]! - shoulders[3 * f + k]!));
      if (d > worst) {
        worst = d;
        at = f;
      }
    }
    if (worst <= reachable) return;
    const x = shoulders[3 * at]! - (spot[0]! - offset[3 * at]!);
    const z = shoulders[3 * at + 2]! - (spot[2]! - offset[3 * at + 2]!);
    const flat = Math.hypot(x, z);
    if (flat < 1e-4) return;
    const by = Math.min(1, (worst - reachable) / flat);
    spot[0] = spot[0]! + by * x;
    spot[2] = spot[2]! + by * z;
  }
}
