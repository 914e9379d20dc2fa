import { jointOf, SIDES, type Side } from '../bodymap/slots';
import { mul64, norm, rotate64 } from '../math/fast';
import { invertQuat, rotate3 } from '../math/quat';
import { smoothstep } from '../math/vec';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import { TurnWriter } from '../motion/turn-writer';
import { ELBOW, newLegTurns, solveLeg } from './leg';
import type { RetargetPlan } from './plan';
import { quietKnee } from './quiet-knees';

/** Where one wrist shall be, and how much that counts. */
export interface WristGoal {
  readonly side: Side;
  /** 3 F: world, metres. */
  readonly at: Float64Array;
  /** F: 0 leaves the arm as it is, 1 brings the wrist there. */
  readonly weight: Float32Array;
  /** It may be missed by a little, where the elbow would bend too suddenly. */
  readonly gives?: boolean | undefined;
}

export interface Reached {
  readonly motion: Motion;
  /** Largest distance that stays between a goal of full weight and the wrist, metres, its frame and side. */
  readonly reach: { readonly max: number; readonly frame: number; readonly side: Side };
  /** How far a wrist stays from its goal, per frame, metres; undefined where there was no goal. */
  readonly short?: Float32Array;
}

/** Most by which a wrist comes nearer to its shoulder or goes farther to ease its elbow, as a share of the arm. */
const EASE = [0.03, 0.015] as const;

interface GoalArm {
  readonly goal: WristGoal;
  readonly upper: number;
  readonly fore: number;
  readonly hand: number;
  readonly hinge: Float64Array;
  /** 3 F: where the wrist is brought, softened, world, metres; as it was where the goal has no weight. */
  readonly want: Float64Array;
}

/**
 * Brings wrists to their goals by bending elbows and turning shoulders; hands keep their turn in the world, and beyond 97 %
 * of its length an arm follows less and less, so that elbows do not snap.
 * @param allowed largest second difference of an elbow's bend, radians a frame squared: goals that may be missed give way for it
 */
export function reachHands(
  plan: RetargetPlan,
  motion: Motion,
  goals: readonly WristGoal[],
  allowed?: number | undefined,
): Reached {
  const { rig, map } = plan.target;
  const reach = { max: 0, frame: 0, side: 'L' as Side };
  const arms = goals.flatMap((goal): GoalArm[] => {
    const [upper, fore, hand] = ['upperArm', 'forearm', 'hand'].map((s) => jointOf(map, s + goal.side)) as [
      number,
      number,
      number,
    ];
    if (upper < 0 || fore < 0 || hand < 0 || !goal.weight.some((w) => w > 0)) return [];
    const want = new Float64Array(3 * motion.frameCount);
    return [{ goal, upper, fore, hand, hinge: elbowHinge(plan, upper, goal.side), want }];
  });
  if (arms.length === 0) return { motion, reach };
  const writer = new TurnWriter(motion);
  const reader = new ChainReader(
    rig,
    motion,
    arms.map((a) => a.hand),
  );
  const away = new Float32Array(motion.frameCount);
  const shoulders = arms.map(() => new Float64Array(allowed === undefined ? 0 : 3 * motion.frameCount));
  const bones = arms.map(() => [0, 0] as [number, number]);
  for (let f = 0; f < motion.frameCount; f++) {
    const { p } = reader.at(f);
    arms.forEach(({ goal, upper, fore, hand, want }, i) => {
      const w = goal.weight[f]!;
      for (let k = 0; k < 3; k++) {
        want[3 * f + k] = (1 - w) * p[3 * hand + k]! + w * goal.at[3 * f + k]!;
        if (allowed !== undefined) shoulders[i]![3 * f + k] = p[3 * upper + k]!;
      }
      bones[i] = [between(p, upper, fore), between(p, fore, hand)];
      if (w <= 0) return;
      const short = soften(want, 3 * f, p, upper, fore, hand);
      if (w > 0.99) away[f] = Math.max(away[f]!, short);
      if (w > 0.99 && short > reach.max) {
        reach.max = short;
        reach.frame = f;
        reach.side = goal.side;
      }
    });
  }
  if (allowed !== undefined)
    arms.forEach((arm, i) => {
      if (arm.goal.gives) quietArm(arm, shoulders[i]!, bones[i]!, allowed);
    });
  const turns = newLegTurns();
  const hinge = new Float64Array(3);
  const above = new Float64Array(4);
  const world = new Float64Array(4);
  for (let f = 0; f < motion.frameCount; f++) {
    const { r, p } = reader.at(f);
    for (const { goal, upper, fore, hand, hinge: own, want } of arms) {
      if (goal.weight[f]! <= 0) {
        // unchanged, but its sign goes on from the frame before
        writer.keep(f, upper);
        writer.keep(f, fore);
        writer.keep(f, hand);
        continue;
      }
      rotate64(hinge, 0, r, 4 * upper, own, 0);
      solveLeg(turns, p, 3 * upper, 3 * fore, 3 * hand, want, 3 * f, hinge, ELBOW);
      mul64(world, 0, turns.upper, 0, r, 4 * upper);
      writer.write(f, upper, r, 4 * rig.parents[upper]!, world, 0);
      mul64(above, 0, turns.upper, 0, r, 4 * rig.parents[fore]!);
      mul64(world, 0, turns.lower, 0, r, 4 * fore);
      writer.write(f, fore, above, 0, world, 0);
      mul64(above, 0, turns.lower, 0, r, 4 * rig.parents[hand]!);
      writer.write(f, hand, above, 0, r, 4 * hand);
    }
  }
  return { motion: { ...motion, turns: writer.turns }, reach, short: away };
}

/** Lets a wrist give way along the line to its shoulder where its elbow would bend too suddenly; see quietKnee. Changes want. */
function quietArm(
  { goal, want }: GoalArm,
  shoulder: Float64Array,
  bones: readonly [number, number],
  allowed: number,
): void {
  const full = bones[0] + bones[1];
  const distance = new Float64Array(goal.weight.length);
  const far = (o: number): number =>
    norm(want[o]! - shoulder[o]!, want[o + 1]! - shoulder[o + 1]!, want[o + 2]! - shoulder[o + 2]!);
  for (let f = 0; f < distance.length; f++) distance[f] = Math.min(0.9995 * full, far(3 * f));
  const room = (f: number): readonly [number, number] =>
    goal.weight[f]! > 0 ? [EASE[0] * full, Math.min(EASE[1] * full, 0.9995 * full - distance[f]!)] : [0, 0];
  const change = quietKnee({ distance, bones, room }, allowed);
  change?.forEach((by, f) => {
    const d = far(3 * f);
    if (by !== 0 && d > 1e-6)
      for (let k = 0; k < 3; k++)
        want[3 * f + k] = want[3 * f + k]! + (by / d) * (want[3 * f + k]! - shoulder[3 * f + k]!);
  });
}

const between = (p: Float64Array, a: number, b: number): number =>
  norm(p[3 * a]! - p[3 * b]!, p[3 * a + 1]! - p[3 * b + 1]!, p[3 * a + 2]! - p[3 * b + 2]!);

const SOFT = 0.97;

/** Pulls a goal in where the arm would straighten; returns by how much it was out of reach. */
function soften(want: Float64Array, o: number, p: Float64Array, upper: number, fore: number, hand: number): number {
  const full = between(p, upper, fore) + between(p, fore, hand);
  const d = norm(want[o]! - p[3 * upper]!, want[o + 1]! - p[3 * upper + 1]!, want[o + 2]! - p[3 * upper + 2]!);
  // an arm that is straighter already may stay so
  const now = between(p, upper, hand);
  const from = Math.max(SOFT * full, Math.min(now, 0.999 * full));
  if (d <= from) return 0;
  const room = 0.9995 * full - from;
  const to = room > 1e-9 ? from + room * (1 - Math.exp(-(d - from) / room)) : from;
  for (let k = 0; k < 3; k++) want[o + k] = p[3 * upper + k]! + ((want[o + k]! - p[3 * upper + k]!) * to) / d;
  return Math.max(0, d - to);
}

/** The elbow's hinge in the upper arm's frame: with the arm level and the palm down it bends forward. */
function elbowHinge(plan: RetargetPlan, upper: number, side: Side): Float64Array {
  const back = new Float64Array(4);
  const out = new Float64Array(3);
  invertQuat(back, 0, plan.targetAligned, 4 * upper);
  rotate3(out, 0, back, 0, [0, side === 'L' ? -1 : 1, 0], 0);
  return out;
}

/**
 * Where an arm's end comes to when the arm swings about its shoulder, as it is bent, until the end is at a height: what changes
 * directions least where a hand has to be higher or lower and may be anywhere. As high or low as the arm is long at most.
 */
export function swingTo(
  dst: Float64Array,
  o: number,
  shoulder: ArrayLike<number>,
  s: number,
  end: ArrayLike<number>,
  e: number,
  height: number,
): void {
  const x = end[e]! - shoulder[s]!;
  const y = end[e + 1]! - shoulder[s + 1]!;
  const z = end[e + 2]! - shoulder[s + 2]!;
  const length = norm(x, y, z);
  const flat = Math.hypot(x, z);
  const to = Math.max(-0.999 * length, Math.min(0.999 * length, height - shoulder[s + 1]!));
  const across = flat > 1e-6 ? Math.sqrt(length * length - to * to) / flat : 0;
  dst[o] = shoulder[s]! + across * x;
  dst[o + 1] = shoulder[s + 1]! + to;
  dst[o + 2] = shoulder[s + 2]! + across * z;
}

/** Weight 1 on frames of the spans, fading over `fade` frames on either side. */
export function weightOf(spans: readonly { start: number; end: number }[], frames: number, fade: number): Float32Array {
  const out = new Float32Array(frames);
  for (const { start, end } of spans) {
    for (let f = Math.max(0, start - fade); f <= Math.min(frames - 1, end + fade); f++) {
      const away = f < start ? start - f : f > end ? f - end : 0;
      out[f] = Math.max(out[f]!, 1 - smoothstep(away / (fade + 1)));
    }
  }
  return out;
}

/** Joints of both wrists; −1 where there is none. */
export const wristsOf = (plan: RetargetPlan): Record<Side, number> =>
  Object.fromEntries(SIDES.map((s) => [s, jointOf(plan.target.map, `hand${s}`)])) as Record<Side, number>;
