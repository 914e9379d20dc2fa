import { alignmentTurns } from '../body/alignment';
import { type Body, measureBody } from '../body/body';
import { headingOf, yawQuat } from '../body/root-frame';
import { type BodyMap, chainOf, jointOf, type Slot } from '../bodymap/slots';
import { mulInvQuat, mulQuat, normalizeQuat, rotate3 } from '../math/quat';
import { type Motion, PoseReader } from '../motion/motion';
import type { SkeletonRig, WorldPose } from '../rig/rig';
import type { Plant } from './plants';

// A strip is a motion in the common body's own terms, small enough to travel with every list row and free of any skeleton:
// world turns of the slots beyond the aligned pose, and the hip centre in legs. Whoever draws it puts it on a performer.

/** Slots that a strip holds; 'chest' is the last spine joint. */
export const STRIP_SLOTS = [
  'hips',
  'chest',
  'head',
  'collarL',
  'upperArmL',
  'forearmL',
  'handL',
  'thighL',
  'shinL',
  'footL',
  'toesL',
  'collarR',
  'upperArmR',
  'forearmR',
  'handR',
  'thighR',
  'shinR',
  'footR',
  'toesR',
] as const;
export const WIDTH = STRIP_SLOTS.length;
export const STRIP_SAMPLES = 72;
export const STRIP_POSES = 13;

/**
 * frames: S frame numbers, rising. turns: [sample][slot] x y z w. places: 3 S, hip centre, in legs of the source, ground at 0,
 * first sample over the origin and looking along +Z. poses: samples worth drawing. view: azimuth of the eye in radians from
 * the body's front (0) towards its left.
 */
export interface Strip {
  readonly frameCount: number;
  readonly fps: number;
  readonly frames: Uint32Array;
  readonly turns: Float32Array;
  readonly places: Float32Array;
  readonly poses: readonly number[];
  readonly view: number;
  readonly plants: readonly Plant[];
}

/** Joint of a part of the strip, −1 where there is none; the chest is the topmost of the spine. */
export function slotJoint(map: BodyMap, slot: Slot): number {
  return slot === 'chest' ? (chainOf(map, 'spine').at(-1) ?? -1) : jointOf(map, slot);
}

/** Draws the strip of a motion; missing slots follow what carries them. */
export function makeStrip(
  rig: SkeletonRig,
  map: BodyMap,
  motion: Motion,
  plants: readonly Plant[],
  floor: number,
  body: Body = measureBody(rig, map),
  rest?: WorldPose,
): Strip {
  const aligned = alignmentTurns(rig, map, rest);
  const joints = STRIP_SLOTS.map((s) => slotJoint(map, s));
  const samples = Math.min(STRIP_SAMPLES, motion.frameCount);
  const frames = Uint32Array.from({ length: samples }, (_, i) =>
    samples === 1 ? 0 : Math.round((i * (motion.frameCount - 1)) / (samples - 1)),
  );
  const turns = new Float32Array(4 * WIDTH * samples);
  const places = new Float32Array(3 * samples);
  const reader = new PoseReader(rig, motion);
  const leg = body.leg || Math.max(0.1, body.hipHeight) || 1;
  const start = [0, 0];
  const q = [0, 0, 0, 1];
  let yawBack = [0, 0, 0, 1];
  for (let i = 0; i < samples; i++) {
    const pose = reader.at(frames[i]!);
    const c = [0, 1, 2].map((k) => body.hipJoints.reduce((s, j) => s + pose.p[3 * j + k]!, 0) / body.hipJoints.length);
    if (i === 0) {
      start.splice(0, 2, c[0]!, c[2]!);
      const hips = joints[0]!;
      yawBack = yawQuat(hips < 0 ? 0 : -headingOf(pose.r, 4 * hips, aligned, 4 * hips));
    }
    const v = [(c[0]! - start[0]!) / leg, (c[1]! - floor) / leg, (c[2]! - start[1]!) / leg];
    rotate3(places, 3 * i, yawBack, 0, v, 0);
    for (let s = 0; s < WIDTH; s++) {
      const j = joints[s]!;
      const o = 4 * (i * WIDTH + s);
      if (j >= 0) {
        mulInvQuat(q, 0, pose.r, 4 * j, aligned, 4 * j);
        mulQuat(turns, o, yawBack, 0, q, 0);
        normalizeQuat(turns, o);
      } else copyFrom(turns, o, i, carrierOf(s));
    }
  }
  return {
    frameCount: motion.frameCount,
    fps: motion.fps,
    frames,
    turns,
    places,
    poses: choosePoses(turns, samples),
    view: chooseView(turns, samples),
    plants,
  };
}

/** Slot that carries another where the latter is missing. */
function carrierOf(s: number): number {
  const name = STRIP_SLOTS[s]!;
  if (name === 'hips') return -1;
  if (name === 'chest') return 0;
  if (name === 'head' || name.startsWith('collar')) return 1;
  if (name.startsWith('thigh')) return 0;
  return s - 1;
}

function copyFrom(turns: Float32Array, o: number, sample: number, slot: number): void {
  for (let k = 0; k < 4; k++) turns[o + k] = slot < 0 ? (k === 3 ? 1 : 0) : turns[4 * (sample * WIDTH + slot) + k]!;
}

/** Evenly spaced samples, each moved to the most telling one near it: where limbs turn round. After Assa, Caspi, Cohen-Or 2005 in spirit. */
function choosePoses(turns: Float32Array, samples: number): number[] {
  if (samples <= STRIP_POSES) return Array.from({ length: samples }, (_, i) => i);
  const apart = (a: number, b: number): number => {
    let sum = 0;
    for (let o = 0; o < 4 * WIDTH; o += 4) {
      let dot = 0;
      for (let k = 0; k < 4; k++) dot += turns[4 * WIDTH * a + o + k]! * turns[4 * WIDTH * b + o + k]!;
      sum += 1 - dot * dot;
    }
    return sum;
  };
  const out: number[] = [];
  const gap = (samples - 1) / (STRIP_POSES - 1);
  for (let i = 0; i < STRIP_POSES; i++) {
    const middle = Math.round(i * gap);
    const room = i === 0 || i === STRIP_POSES - 1 ? 0 : Math.floor(gap * 0.3);
    let best = middle;
    let bestScore = -1;
    for (let s = middle - room; s <= middle + room; s++) {
      const score =
        apart(s, Math.max(0, s - 3)) +
        apart(s, Math.min(samples - 1, s + 3)) -
        apart(Math.max(0, s - 3), Math.min(samples - 1, s + 3));
      if (score > bestScore + 1e-6) {
        bestScore = score;
        best = s;
      }
    }
    out.push(best);
  }
  return out;
}

/** The azimuth that shows most movement of the limbs, between front (0) and nearly side. */
function chooseView(turns: Float32Array, samples: number): number {
  let across = 0;
  let along = 0;
  const v = [0, 0, 0];
  const limbs: [number, number[]][] = [
    'upperArmL',
    'forearmL',
    'upperArmR',
    'forearmR',
    'thighL',
    'shinL',
    'thighR',
    'shinR',
  ].map((name) => [
    STRIP_SLOTS.indexOf(name as (typeof STRIP_SLOTS)[number]),
    /^(upper|fore)/.test(name) ? [name.endsWith('L') ? 1 : -1, 0, 0] : [0, -1, 0],
  ]);
  for (const [s, axis] of limbs) {
    let mx = 0;
    let mz = 0;
    let xx = 0;
    let zz = 0;
    for (let i = 0; i < samples; i++) {
      rotate3(v, 0, turns, 4 * (i * WIDTH + s), axis, 0);
      mx += v[0]! / samples;
      mz += v[2]! / samples;
      xx += (v[0]! * v[0]!) / samples;
      zz += (v[2]! * v[2]!) / samples;
    }
    across += xx - mx * mx;
    along += zz - mz * mz;
  }
  const share = along / Math.max(1e-9, along + across);
  return share > 0.6 ? 1.25 : share > 0.4 ? 0.85 : 0.35;
}
