import type { Plant } from '../analysis/plants';
import { jointOf, SIDES, type Side } from '../bodymap/slots';
import { rotate64 } from '../math/fast';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import { moveJoint } from '../motion/move-joint';
import type { SkeletonRig } from '../rig/rig';
import { swingTo, type WristGoal } from './arms';
import { envelope } from './envelope';
import type { RetargetPlan } from './plan';

/** Less than this is nothing anybody sees, metres. */
const UNSEEN = 0.002;
/** No hand falls faster, metres a second. */
const FASTEST = 15;
/** How long before and after a hand is lifted, seconds. */
const EASE_S = 0.15;

/**
 * Keeps hands off the ground where long arms would push them through it. First the body stays higher by what the lowest
 * finger lacks: legs that bend for it give that back with the least change of anything's direction. What is still lacking
 * afterwards, where legs are straight, is lifted by the arms (`handsUp`). Both ease in and out. Hands that go below the
 * ground in the source may go as far; where hands rest on it nothing is lifted.
 * @param plants what rests where, in frames of both motions
 * @param sourceFloor height of the source's ground, metres
 */
export function bodyUp(
  plan: RetargetPlan,
  source: Motion,
  moved: Motion,
  plants: readonly Plant[],
  sourceFloor: number,
): Motion {
  const needs = lacking(plan, source, moved, plants, sourceFloor);
  if (needs.length === 0) return moved;
  const most = needs[0]!.need.map((x, f) => Math.max(x, needs[1]?.need[f] ?? 0));
  const lift = envelope(most, easeOf(moved));
  return moveJoint(plan.target.rig, moved, plan.carrier, (f) => (lift[f]! > 1e-6 ? [0, lift[f]!, 0] : undefined));
}

/** Goals for wrists whose hands would still go through the ground; see bodyUp. */
export function handsUp(
  plan: RetargetPlan,
  source: Motion,
  moved: Motion,
  plants: readonly Plant[],
  sourceFloor: number,
): WristGoal[] {
  return lacking(plan, source, moved, plants, sourceFloor).map(({ hand, need }) => {
    const lift = envelope(need, easeOf(moved));
    const at = new Float64Array(3 * moved.frameCount);
    const weight = new Float32Array(moved.frameCount);
    const reader = new ChainReader(plan.target.rig, moved, [hand.wrist]);
    const shoulder = jointOf(plan.target.map, `upperArm${hand.side}`);
    for (let f = 0; f < moved.frameCount; f++) {
      if (lift[f]! <= 1e-6) continue;
      const { p } = reader.at(f);
      swingTo(at, 3 * f, p, 3 * shoulder, p, 3 * hand.wrist, p[3 * hand.wrist + 1]! + lift[f]!);
      weight[f] = 1;
    }
    return { side: hand.side, at, weight };
  });
}

const easeOf = (motion: Motion): number => Math.max(2, Math.round(EASE_S * motion.fps));

/** Hands that go through the ground, with what each lacks over time, metres. */
function lacking(
  plan: RetargetPlan,
  source: Motion,
  moved: Motion,
  plants: readonly Plant[],
  sourceFloor: number,
): { hand: Hand; need: Float64Array }[] {
  const { target } = plan;
  // on all fours both hands, and the trunk for them, are given their places
  if (plants.some((p) => p.part === 'handL' || p.part === 'handR')) return [];
  const hands = SIDES.flatMap((side) => {
    const wrist = jointOf(target.map, `hand${side}`);
    return wrist < 0 ? [] : [handOf(target.rig, wrist, side)];
  });
  if (hands.length === 0) return [];
  // most motions never bring a hand near the ground: wrists alone tell
  const wrists = new ChainReader(
    target.rig,
    moved,
    hands.map((h) => h.wrist),
  );
  const near = hands.map(() => false);
  for (let f = 0; f < moved.frameCount; ) {
    const { p } = wrists.at(f);
    let room = Number.POSITIVE_INFINITY;
    for (let i = 0; i < hands.length; i++) {
      if (near[i]) continue;
      const own = p[3 * hands[i]!.wrist + 1]! - hands[i]!.length + UNSEEN;
      if (own < 0) near[i] = true;
      else room = Math.min(room, own);
    }
    // it cannot be there sooner
    f += Math.max(1, Math.floor((room / FASTEST) * moved.fps));
  }
  return hands
    .filter((_, i) => near[i])
    .flatMap((hand) => {
      const low = lowest(target.rig, moved, hand);
      const model = jointOf(plan.source.map, `hand${hand.side}`);
      const given = model < 0 ? undefined : lowest(plan.source.rig, source, handOf(plan.source.rig, model, hand.side));
      const need = low.map((y, f) => {
        const allowed = Math.min(0, given ? plan.scale * (given[f]! - sourceFloor) : 0);
        return Math.max(0, allowed - y);
      });
      return need.some((x) => x > UNSEEN) ? [{ hand, need }] : [];
    });
}

interface Hand {
  readonly side: Side;
  readonly wrist: number;
  /** The wrist and all that hangs from it. */
  readonly joints: readonly number[];
  /** No part of the hand is farther from the wrist, metres. */
  readonly length: number;
}

function handOf(rig: SkeletonRig, wrist: number, side: Side): Hand {
  const joints = [wrist];
  const away = new Map([[wrist, 0]]);
  const size = (values: Float32Array, j: number): number =>
    Math.hypot(values[3 * j]!, values[3 * j + 1]!, values[3 * j + 2]!);
  rig.parents.forEach((above, j) => {
    const from = away.get(above);
    if (from === undefined) return;
    joints.push(j);
    away.set(j, from + size(rig.restT, j));
  });
  let length = 0;
  for (const j of joints) {
    const tip = size(rig.tips, j);
    length = Math.max(length, away.get(j)! + (Number.isNaN(tip) ? 0 : tip));
  }
  return { side, wrist, joints, length };
}

/** Height of a hand's lowest part over time, metres. */
function lowest(rig: SkeletonRig, motion: Motion, { joints }: Hand): Float64Array {
  const reader = new ChainReader(rig, motion, joints);
  const tip = new Float64Array(3);
  const own = new Float64Array(3);
  const out = new Float64Array(motion.frameCount);
  for (let f = 0; f < motion.frameCount; f++) {
    const { r, p } = reader.at(f);
    let low = Number.POSITIVE_INFINITY;
    for (const j of joints) {
      low = Math.min(low, p[3 * j + 1]!);
      if (Number.isNaN(rig.tips[3 * j]!)) continue;
      for (let k = 0; k < 3; k++) own[k] = rig.tips[3 * j + k]!;
      rotate64(tip, 0, r, 4 * j, own, 0);
      low = Math.min(low, p[3 * j + 1]! + tip[1]!);
    }
    out[f] = low;
  }
  return out;
}
