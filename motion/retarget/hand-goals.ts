import { jointOf, SIDES, type Side } from '../bodymap/slots';
import { MotionError } from '../errors';
import { smoothstep } from '../math/vec';
import { ChainReader } from '../motion/chain-reader';
import { valueAt } from '../motion/curve';
import type { Motion } from '../motion/motion';
import type { WristGoal } from './arms';
import type { RetargetPlan } from './plan';

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

/**
 * Goals for wrists on the target, after Shin, Lee, Gleicher, Shin, Computer puppetry: an importance-based approach, 2001.
 * @throws MotionError 'bad-argument' for a point that is missing or keys outside the motion
 */
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
