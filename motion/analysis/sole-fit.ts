import type { Body, Sole } from '../body/body';
import { SIDES, type Side } from '../bodymap/slots';
import { norm } from '../math/fast';
import { arcQuat, invertQuat, mulQuat, rotate3 } from '../math/quat';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import type { SkeletonRig } from '../rig/rig';

/** Feet as the motion stands on them. */
export interface FittedSoles {
  readonly body: Body;
  /** Turn (world axes of the aligned pose) to put in front of a foot's aligned turn so that its sole lies flat there. */
  readonly turns: Readonly<Partial<Record<Side, readonly number[]>>>;
}

/** Slower than this, in legs a second, a foot stands. */
const STILL_FOOT = 0.12;
/** Least time for which a foot has to stand flat, seconds. */
const LEAST_S = 0.3;
/** Ankles within this share of a leg of the lowest ones stand on the ground. */
const LOW_ANKLE = 0.03;
/** Feet that stand within this angle of the middle one count fully, radians. */
const SPREAD = 0.1;
/** Both feet of a skeleton stand alike: mirrored, their soles look the same way within this, radians. */
const AGREE = 0.14;
/** Less than this is left alone, and more is no difference between skeletons, radians. */
const LEAST_TURN = 0.015;
const MOST_TURN = 0.52;
/** No foot stands flat with its instep steeper than this: it is on its toes. Sine. */
const STEEP = 0.77;

/**
 * Reads off the motion how its feet stand flat. A file without a bind pose says only how its zero pose holds the feet, and
 * captures stand on other soles: turned in, rolled, their balls a finger's breadth under the floor. Frames in which a foot
 * is still and its ankle low tell which way its sole looks, and how high the ankle is above the ground. What only one foot
 * does, or what is seen on the toes alone, is the performer's and not the skeleton's.
 * @param aligned world turns in which every sole of the rest pose lies flat; see alignmentTurns
 * @returns undefined where the soles of the rest pose are right, or nothing can be told
 */
export function fitSoles(rig: SkeletonRig, motion: Motion, body: Body, aligned: Float64Array): FittedSoles | undefined {
  const sides = SIDES.filter((s) => body.soles[s]);
  if (sides.length < 2 || !(body.leg > 0) || motion.frameCount < 8) return undefined;
  const step = Math.max(1, Math.round(motion.fps / 60));
  const stands = sides.map((side) => ({ side, ...readFoot(rig, motion, body, body.soles[side]!, step) }));
  const turns: Partial<Record<Side, readonly number[]>> = {};
  const heights: Partial<Record<Side, number>> = {};
  const directions: number[][] = [];
  for (const { side, up, height } of stands) {
    const low = lowOnes(height, body.leg);
    if ((low.length * step) / motion.fps < LEAST_S) return undefined;
    const direction = [0, 0, 0];
    rotate3(direction, 0, aligned, 4 * body.soles[side]!.foot, middle(up, low), 0);
    // as on the left
    if (side === 'R') direction[0] = -direction[0]!;
    directions.push(direction);
    heights[side] = quantile(
      low.map((i) => height[i]!),
      0.5,
    );
  }
  const [left, right] = directions as [number[], number[]];
  if (norm(left[0]! - right[0]!, left[1]! - right[1]!, left[2]! - right[2]!) > AGREE) return undefined;
  const both = [0, 1, 2].map((k) => left[k]! + right[k]!);
  unit(both);
  if (both[1]! < Math.cos(MOST_TURN)) return undefined;
  for (const side of sides) {
    const turn = [0, 0, 0, 1];
    arcQuat(turn, 0, [side === 'L' ? both[0]! : -both[0]!, both[1]!, both[2]!], 0, [0, 1, 0], 0);
    if (instep(body.soles[side]!, aligned, turn) > STEEP) return undefined;
    turns[side] = turn;
  }
  // both feet stand on one ground: what one ankle is higher than the other is the skeleton's, and so is half of the height
  const rest = (s: Side): number => -instepOf(body.soles[s]!.heel, aligned, body.soles[s]!.foot)[1]!;
  const ground = sides.reduce((sum, s) => sum + heights[s]! - rest(s), 0) / sides.length;
  const soles: Partial<Record<Side, Sole>> = { ...body.soles };
  let changed = false;
  for (const side of sides) {
    const sole = body.soles[side]!;
    const angle = 2 * Math.acos(Math.min(1, Math.abs(turns[side]![3]!)));
    const ankle = Math.max(0.01 * body.leg, heights[side]! - ground);
    if (angle < LEAST_TURN && Math.abs(ankle - rest(side)) < 0.004 * body.leg) {
      delete turns[side];
      continue;
    }
    changed = true;
    soles[side] = flatSole(sole, aligned, turns[side]!, ankle);
  }
  return changed ? { body: { ...body, soles }, turns } : undefined;
}

/** Frames in which a foot stands: the way up in its own frame (3 a frame) and the height of its ankle. */
function readFoot(
  rig: SkeletonRig,
  motion: Motion,
  body: Body,
  sole: Sole,
  step: number,
): { up: Float64Array; height: number[] } {
  const reader = new ChainReader(rig, motion, [sole.foot]);
  const points = [sole.heel, sole.ball];
  const before = [new Float64Array(3), new Float64Array(3)];
  const now = new Float64Array(3);
  const back = [0, 0, 0, 1];
  const up: number[] = [];
  const height: number[] = [];
  const most = (STILL_FOOT * body.leg * step) / motion.fps;
  for (let f = 0; f < motion.frameCount; f += step) {
    const { r, p } = reader.at(f);
    let still = f > 0;
    for (const [i, point] of points.entries()) {
      rotate3(now, 0, r, 4 * sole.foot, point, 0);
      for (let k = 0; k < 3; k++) now[k] = now[k]! + p[3 * sole.foot + k]!;
      const b = before[i]!;
      if (norm(now[0]! - b[0]!, now[1]! - b[1]!, now[2]! - b[2]!) > most) still = false;
      b.set(now);
    }
    if (!still) continue;
    invertQuat(back, 0, r, 4 * sole.foot);
    rotate3(now, 0, back, 0, [0, 1, 0], 0);
    up.push(now[0]!, now[1]!, now[2]!);
    height.push(p[3 * sole.foot + 1]!);
  }
  return { up: Float64Array.from(up), height };
}

/** Indices of the frames whose ankle is about as low as ankles get. */
function lowOnes(height: readonly number[], leg: number): number[] {
  const low = quantile(height, 0.1);
  return [...height.keys()].filter((i) => height[i]! - low < LOW_ANKLE * leg && low - height[i]! < LOW_ANKLE * leg);
}

function quantile(values: readonly number[], share: number): number {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted[Math.floor(share * (sorted.length - 1))] ?? 0;
}

/** The direction that most of them share: a mean that counts what is far away less and less. */
function middle(up: Float64Array, frames: readonly number[]): number[] {
  const mean = [0, 0, 0];
  for (const i of frames) for (let k = 0; k < 3; k++) mean[k] = mean[k]! + up[3 * i + k]!;
  unit(mean);
  for (let pass = 0; pass < 12; pass++) {
    const next = [0, 0, 0];
    for (const i of frames) {
      const apart = norm(up[3 * i]! - mean[0]!, up[3 * i + 1]! - mean[1]!, up[3 * i + 2]! - mean[2]!);
      const w = 1 / (1 + (apart / SPREAD) ** 2) ** 2;
      for (let k = 0; k < 3; k++) next[k] = next[k]! + w * up[3 * i + k]!;
    }
    unit(next);
    for (let k = 0; k < 3; k++) mean[k] = next[k]!;
  }
  return mean;
}

function unit(v: number[]): void {
  const l = norm(v[0]!, v[1]!, v[2]!) || 1;
  for (let k = 0; k < 3; k++) v[k] = v[k]! / l;
}

/** A point of the foot, from the ankle, in the aligned pose. */
function instepOf(point: Float64Array, aligned: Float64Array, foot: number): number[] {
  const out = [0, 0, 0];
  rotate3(out, 0, aligned, 4 * foot, point, 0);
  return out;
}

/** How steeply the foot falls from the ankle to the ball, as a sine, with a turn in front. */
function instep(sole: Sole, aligned: Float64Array, turn: readonly number[]): number {
  const direction = instepOf(sole.ball, aligned, sole.foot);
  rotate3(direction, 0, turn, 0, direction, 0);
  return -direction[1]! / (norm(direction[0]!, direction[1]!, direction[2]!) || 1);
}

/** The sole under a foot that lies flat with `turn` in front of its aligned turn and its ankle so high. */
function flatSole(sole: Sole, aligned: Float64Array, turn: readonly number[], ankle: number): Sole {
  const flat = [0, 0, 0, 1];
  const back = [0, 0, 0, 1];
  mulQuat(flat, 0, turn, 0, aligned, 4 * sole.foot);
  invertQuat(back, 0, flat, 0);
  const lay = (point: Float64Array): Float64Array => {
    const out = [0, 0, 0];
    rotate3(out, 0, flat, 0, point, 0);
    out[1] = -ankle;
    rotate3(out, 0, back, 0, out, 0);
    return Float64Array.from(out);
  };
  return { ...sole, heel: lay(sole.heel), ball: lay(sole.ball) };
}
