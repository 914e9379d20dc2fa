import { jointOf, SIDES, type Side } from '../bodymap/slots';
import { mul64, norm, rotate64 } from '../math/fast';
import { invertQuat, rotate3 } from '../math/quat';
import { smoothstep } from '../math/vec';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import { TurnWriter } from '../motion/turn-writer';
import { ELBOW, newLegTurns, solveLeg } from './leg';
import type { RetargetPlan } from './plan';

/** Where one wrist shall be, and how much that counts. */
export interface WristGoal {
  readonly side: Side;
  /** 3 F: world, metres. */
  readonly at: Float64Array;
  /** F: 0 leaves the arm as it is, 1 brings the wrist there. */
  readonly weight: Float32Array;
}

export interface Reached {
  readonly motion: Motion;
  /** Largest distance that stays between a goal of full weight and the wrist, metres, its frame and side. */
  readonly reach: { readonly max: number; readonly frame: number; readonly side: Side };
  /** How far a wrist stays from its goal, per frame, metres; undefined where there was no goal. */
  readonly short?: Float32Array;
}

/**
 * Brings wrists to their goals by bending elbows and turning shoulders; hands keep their turn in the world, and beyond 97 %
 * of its length an arm follows less and less, so that elbows do not snap.
 */
export function reachHands(plan: RetargetPlan, motion: Motion, goals: readonly WristGoal[]): Reached {
  const { rig, map } = plan.target;
  const reach = { max: 0, frame: 0, side: 'L' as Side };
  const arms = goals.flatMap((goal) => {
    const [upper, fore, hand] = ['upperArm', 'forearm', 'hand'].map((s) => jointOf(map, s + goal.side)) as [
      number,
      number,
      number,
    ];
    if (upper < 0 || fore < 0 || hand < 0 || !goal.weight.some((w) => w > 0)) return [];
    return [{ goal, upper, fore, hand, hinge: elbowHinge(plan, upper, goal.side) }];
  });
  if (arms.length === 0) return { motion, reach };
  const writer = new TurnWriter(motion);
  const reader = new ChainReader(
    rig,
    motion,
    arms.map((a) => a.hand),
  );
  const turns = newLegTurns();
  const away = new Float32Array(motion.frameCount);
  const hinge = new Float64Array(3);
  const want = new Float64Array(3);
  const above = new Float64Array(4);
  const world = new Float64Array(4);
  for (let f = 0; f < motion.frameCount; f++) {
    const { r, p } = reader.at(f);
    for (const { goal, upper, fore, hand, hinge: own } of arms) {
      const w = goal.weight[f]!;
      if (w <= 0) {
        // unchanged, but its sign goes on from the frame before
        writer.keep(f, upper);
        writer.keep(f, fore);
        writer.keep(f, hand);
        continue;
      }
      for (let k = 0; k < 3; k++) want[k] = (1 - w) * p[3 * hand + k]! + w * goal.at[3 * f + k]!;
      const short = soften(want, p, upper, fore, hand);
      if (w > 0.99) away[f] = Math.max(away[f]!, short);
      if (w > 0.99 && short > reach.max) {
        reach.max = short;
        reach.frame = f;
        reach.side = goal.side;
      }
      rotate64(hinge, 0, r, 4 * upper, own, 0);
      solveLeg(turns, p, 3 * upper, 3 * fore, 3 * hand, want, 0, hinge, ELBOW);
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

const SOFT = 0.97;

/** Pulls a goal in where the arm would straighten; returns by how much it was out of reach. */
function soften(want: Float64Array, p: Float64Array, upper: number, fore: number, hand: number): number {
  const bone = (a: number, b: number): number =>
    norm(p[3 * a]! - p[3 * b]!, p[3 * a + 1]! - p[3 * b + 1]!, p[3 * a + 2]! - p[3 * b + 2]!);
  const full = bone(upper, fore) + bone(fore, hand);
  const d = norm(want[0]! - p[3 * upper]!, want[1]! - p[3 * upper + 1]!, want[2]! - p[3 * upper + 2]!);
  // an arm that is straighter already may stay so
  const now = bone(upper, hand);
  const from = Math.max(SOFT * full, Math.min(now, 0.999 * full));
  if (d <= from) return 0;
  const room = 0.9995 * full - from;
  const to = room > 1e-9 ? from + room * (1 - Math.exp(-(d - from) / room)) : from;
  for (let k = 0; k < 3; k++) want[k] = p[3 * upper + k]! + ((want[k]! - p[3 * upper + k]!) * to) / d;
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
