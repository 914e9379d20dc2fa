import type { Plant } from '../analysis/plants';
import type { Side } from '../bodymap/slots';
import { mul64, norm, normalize64, rotate64 } from '../math/fast';
import { arcQuat } from '../math/quat';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import { moveJoint } from '../motion/move-joint';
import { TurnWriter } from '../motion/turn-writer';
import { weightOf } from './arms';
import { fillBetween } from './envelope';
import { keepAbove } from './foot-ground';
import type { FootPlan } from './foot-plan';
import type { FootTrack } from './foot-track';
import { findSpots } from './knee-spots';
import { acrossFoot, ankleAt, footTurn, type KneelingLeg, toLength } from './kneeling-leg';
import type { RetargetPlan } from './plan';

/** Height at which each knee shall be in every frame, metres, by side. */
export type KneeHeights = Partial<Record<Side, Float64Array>>;

const KNEE_FADE_S = 0.2;
/** Thighs less than so far from parallel (1 − cosine) give way together only, by degrees. */
const PARALLEL = 0.05;
const PASSES = 5;
const FITS = 12;

/**
 * Holds knees on their spots. A knee on the ground ends the thigh as a sole ends the leg: the hips give way by as little as
 * brings them back to a thigh's length from every held knee, and a foot that stands on its ball turns about it until the
 * shin fits between ball and knee. Spots come from where knees lie beside their own feet, slid along the shin to where shin
 * and foot depart least from the source. Changes goals and turns of the feet; returns the motion with hips, thighs and
 * shins moved, to be bent to the feet's goals as ever.
 * @param heights see kneeHeights
 */
export function holdKnees(
  plan: RetargetPlan,
  motion: Motion,
  plants: readonly Plant[],
  heights: KneeHeights,
  tracks: readonly FootTrack[],
  plans: readonly FootPlan[],
): { motion: Motion; held: readonly (Float32Array | undefined)[] } {
  const frames = motion.frameCount;
  const fade = Math.max(1, Math.round(KNEE_FADE_S * motion.fps));
  const legs = tracks.map((track, i): KneelingLeg | undefined => {
    const spans = plants.filter((p) => p.part === `knee${track.side}`);
    if (spans.length === 0 || !heights[track.side]) return undefined;
    return {
      track,
      planned: plans[i]!,
      hip: new Float64Array(3 * frames),
      knee: new Float64Array(3 * frames),
      bones: [0, 0],
      spot: new Float64Array(3 * frames),
      weight: weightOf(spans, frames, fade),
    };
  });
  const some = legs.filter((leg) => leg !== undefined);
  if (some.length === 0) return { motion, held: [] };
  readLegs(plan, motion, some);
  for (const leg of some) {
    const spans = plants.filter((p) => p.part === `knee${leg.track.side}`);
    findSpots(leg, spans, heights[leg.track.side]!);
  }
  const give = hipsGive(some, frames);
  for (const leg of some) {
    bringSpots(leg, give);
    fitFoot(leg, motion.fps);
  }
  const moved = moveJoint(plan.target.rig, motion, plan.carrier, (f) => [
    give[3 * f]!,
    give[3 * f + 1]!,
    give[3 * f + 2]!,
  ]);
  return { motion: aimLegs(plan, moved, some), held: legs.map((leg) => leg?.weight) };
}

function readLegs(plan: RetargetPlan, motion: Motion, legs: readonly KneelingLeg[]): void {
  const reader = new ChainReader(
    plan.target.rig,
    motion,
    legs.map((l) => l.track.sole.foot),
  );
  for (let f = 0; f < motion.frameCount; f++) {
    const { p } = reader.at(f);
    for (const { hip, knee, bones, track } of legs) {
      const [h, k, a] = [3 * track.thigh, 3 * track.shin, 3 * track.sole.foot];
      for (let i = 0; i < 3; i++) {
        hip[3 * f + i] = p[h + i]!;
        knee[3 * f + i] = p[k + i]!;
      }
      bones[0] = norm(p[h]! - p[k]!, p[h + 1]! - p[k + 1]!, p[h + 2]! - p[k + 2]!);
      bones[1] = norm(p[a]! - p[k]!, p[a + 1]! - p[k + 1]!, p[a + 2]! - p[k + 2]!);
    }
  }
}

/**
 * How the hips give way in every frame, 3 F: least move that leaves each held knee a thigh's length from its hip joint. A
 * knee that is about to be held, or was, counts by its weight.
 */
function hipsGive(legs: readonly KneelingLeg[], frames: number): Float64Array {
  const out = new Float64Array(3 * frames);
  const d = new Float64Array(3);
  const u = legs.map(() => new Float64Array(3));
  const c = new Float64Array(2);
  for (let f = 0; f < frames; f++) {
    if (legs.every((l) => l.weight[f] === 0)) continue;
    d.fill(0);
    for (let pass = 0; pass < PASSES; pass++) {
      const lambda = [0, 0];
      const loose = [0, 0];
      legs.forEach(({ hip, spot, bones, weight }, i) => {
        for (let k = 0; k < 3; k++) u[i]![k] = hip[3 * f + k]! + d[k]! - spot[3 * f + k]!;
        const far = norm(u[i]![0]!, u[i]![1]!, u[i]![2]!) || 1e-9;
        for (let k = 0; k < 3; k++) u[i]![k] = u[i]![k]! / far;
        c[i] = bones[0] - far + u[i]![0]! * d[0]! + u[i]![1]! * d[1]! + u[i]![2]! * d[2]!;
        loose[i] = weight[f]! > 0 ? (1 - weight[f]!) / weight[f]! : Number.POSITIVE_INFINITY;
      });
      const own = legs.map((_, i) => i).filter((i) => Number.isFinite(loose[i]!));
      if (own.length === 1) lambda[own[0]!] = c[own[0]!]! / (1 + loose[own[0]!]!);
      else {
        const dot = u[0]![0]! * u[1]![0]! + u[0]![1]! * u[1]![1]! + u[0]![2]! * u[1]![2]!;
        // thighs side by side can be asked for what they share; what they differ by would throw the hips far aside
        const more = Math.max(0, PARALLEL - (1 + Math.min(loose[0]!, loose[1]!) - dot)) / 2;
        const [m0, m1, cross] = [1 + loose[0]! + more, 1 + loose[1]! + more, dot - more];
        const det = m0 * m1 - cross * cross;
        lambda[0] = (m1 * c[0]! - cross * c[1]!) / det;
        lambda[1] = (m0 * c[1]! - cross * c[0]!) / det;
      }
      for (let k = 0; k < 3; k++) d[k] = own.reduce((s, i) => s + lambda[i]! * u[i]![k]!, 0);
    }
    out.set(d, 3 * f);
  }
  return out;
}

/** With the hips moved: the spot where each knee comes to, between where the leg goes anyway and where it is held. */
function bringSpots({ hip, knee, bones, spot, weight }: KneelingLeg, give: Float64Array): void {
  for (let f = 0; f < weight.length; f++) {
    const w = weight[f]!;
    const direction = [0, 1, 2].map((k) => {
      hip[3 * f + k] = hip[3 * f + k]! + give[3 * f + k]!;
      const free = knee[3 * f + k]! + give[3 * f + k]!;
      return (1 - w) * free + w * spot[3 * f + k]! - hip[3 * f + k]!;
    });
    const far = norm(direction[0]!, direction[1]!, direction[2]!) || 1e-9;
    for (let k = 0; k < 3; k++) spot[3 * f + k] = hip[3 * f + k]! + (bones[0] / far) * direction[k]!;
  }
}

/**
 * Turns a standing foot, and moves a free one, so that the shin fits between ankle and held knee. While knee and ball both
 * stand on their spots the ankle between them stands, too.
 */
function fitFoot(leg: KneelingLeg, fps: number): void {
  const { track, planned, spot, weight, bones } = leg;
  const { goal, held, pivot, ground } = planned;
  const frames = weight.length;
  // the foot's turn about the point it stands on, as a vector
  const turns = [0, 1, 2].map(() => new Float64Array(frames).fill(Number.NaN));
  const ankle = new Float64Array(3);
  const direction = new Float64Array(3);
  const point = new Float64Array(3);
  const arm = new Float64Array(3);
  const turned = new Float64Array(3);
  const pitch = new Float64Array(4);
  for (let from = 0, to = 0; from < frames; from = to + 1) {
    to = from;
    if (weight[from] === 0 || !held[from]) continue;
    while (to + 1 < frames && weight[to + 1]! > 0 && held[to + 1] && pivot[to + 1] === pivot[from]) to++;
    // as the middle of the longest stretch in which the knee is held has it
    const middle = middleOf(weight, from, to);
    const knee = spot.subarray(3 * middle, 3 * middle + 3);
    if (pivot[from]) ankle.set(ankleAt(leg, middle, footTurn(leg, middle, knee)));
    toLength(ankle, knee, bones[1]);
    for (let f = from; f <= to; f++) {
      for (const t of turns) t[f] = 0;
      if (!pivot[f]) continue;
      acrossFoot(leg, f, arm);
      for (let k = 0; k < 3; k++) {
        point[k] = goal[3 * f + k]! - arm[k]!;
        direction[k] = ankle[k]!;
      }
      // the nearest place that is a shin from the knee and a foot from where it stands; where shin and foot lie in one line
      // there may be none, and the foot keeps to its point
      const foot = norm(arm[0]!, arm[1]!, arm[2]!);
      for (let pass = 0; pass < FITS; pass++) {
        toLength(direction, spot.subarray(3 * f, 3 * f + 3), bones[1]);
        toLength(direction, point, foot);
      }
      for (let k = 0; k < 3; k++) direction[k] = arm[k]! + weight[f]! * (direction[k]! - point[k]! - arm[k]!);
      arcQuat(pitch, 0, arm, 0, direction, 0);
      const s = norm(pitch[0]!, pitch[1]!, pitch[2]!);
      const angle = 2 * Math.atan2(s, pitch[3]!);
      for (let k = 0; k < 3; k++) turns[k]![f] = s > 1e-12 ? (angle / s) * pitch[k]! : 0;
    }
  }
  for (const t of turns) fillBetween(t, Math.max(1, Math.round(KNEE_FADE_S * fps)));
  for (let f = 0; f < frames; f++) {
    const o = 3 * f;
    const angle = norm(turns[0]![f]!, turns[1]![f]!, turns[2]![f]!);
    if (angle > 1e-9 && (pivot[f] || !held[f])) {
      acrossFoot(leg, f, arm);
      for (let k = 0; k < 3; k++) pitch[k] = (turns[k]![f]! / angle) * Math.sin(angle / 2);
      pitch[3] = Math.cos(angle / 2);
      rotate64(turned, 0, pitch, 0, arm, 0);
      for (let k = 0; k < 3; k++) goal[o + k] = goal[o + k]! + turned[k]! - arm[k]!;
      mul64(track.turn, 4 * f, pitch, 0, track.turn, 4 * f);
      normalize64(track.turn, 4 * f);
    }
    if (held[f] || weight[f] === 0) continue;
    for (let k = 0; k < 3; k++) ankle[k] = goal[o + k]!;
    toLength(ankle, spot.subarray(o, o + 3), bones[1]);
    for (let k = 0; k < 3; k++) goal[o + k] = goal[o + k]! + weight[f]! * (ankle[k]! - goal[o + k]!);
  }
  keepAbove(track, goal, held, ground, fps);
}

/** Middle of the longest stretch of frames in which the weight is largest. */
function middleOf(weight: Float32Array, from: number, to: number): number {
  let most = 0;
  for (let f = from; f <= to; f++) most = Math.max(most, weight[f]!);
  let [best, length] = [from, 0];
  for (let f = from; f <= to; f++) {
    if (weight[f]! < most) continue;
    const start = f;
    while (f + 1 <= to && weight[f + 1] === most) f++;
    if (f - start + 1 <= length) continue;
    length = f - start + 1;
    best = (start + f) >> 1;
  }
  return best;
}

/** Aims thighs at the knees' spots and shins from there at the ankles' goals, by the shortest way. */
function aimLegs(plan: RetargetPlan, motion: Motion, legs: readonly KneelingLeg[]): Motion {
  const { rig } = plan.target;
  const writer = new TurnWriter(motion);
  const reader = new ChainReader(
    rig,
    motion,
    legs.map((l) => l.track.sole.foot),
  );
  const arc = new Float64Array(4);
  const world = new Float64Array(4);
  const above = new Float64Array(4);
  const upper = new Float64Array(4);
  const from = new Float64Array(3);
  const to = new Float64Array(3);
  for (let f = 0; f < motion.frameCount; f++) {
    if (legs.every((l) => l.weight[f] === 0)) continue;
    const { r, p } = reader.at(f);
    for (const { track, planned, spot, weight } of legs) {
      if (weight[f] === 0) continue;
      const [h, k, a] = [track.thigh, track.shin, track.sole.foot];
      for (let i = 0; i < 3; i++) {
        from[i] = p[3 * k + i]! - p[3 * h + i]!;
        to[i] = spot[3 * f + i]! - p[3 * h + i]!;
      }
      arcQuat(arc, 0, from, 0, to, 0);
      upper.set(arc);
      mul64(world, 0, upper, 0, r, 4 * h);
      writer.write(f, h, r, 4 * rig.parents[h]!, world, 0);
      // the shin keeps its turn in the world but for what its goal asks
      for (let i = 0; i < 3; i++) {
        from[i] = p[3 * a + i]! - p[3 * k + i]!;
        to[i] = planned.goal[3 * f + i]! - spot[3 * f + i]!;
      }
      const l = norm(from[0]!, from[1]!, from[2]!) / (norm(to[0]!, to[1]!, to[2]!) || 1e-9);
      for (let i = 0; i < 3; i++) to[i] = from[i]! + weight[f]! * (to[i]! * l - from[i]!);
      arcQuat(arc, 0, from, 0, to, 0);
      mul64(above, 0, upper, 0, r, 4 * rig.parents[k]!);
      mul64(world, 0, arc, 0, r, 4 * k);
      writer.write(f, k, above, 0, world, 0);
    }
  }
  return { ...motion, turns: writer.turns };
}
