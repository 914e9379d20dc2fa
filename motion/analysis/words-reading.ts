import type { Body } from '../body/body';
import type { Party } from '../body/party';
import type { Motion } from '../motion/motion';
import { restPose } from '../rig/rig';
import { handsTogether } from './hands-together';
import { findHolds, holdTracks } from './holds';
import { type Contacts, isSole, type Plant, soleTracks } from './plants';
import { FEATURE_WIDTH, type PoseFeatures, poseFeatures } from './pose-features';

export const POINT = {
  hips: 0,
  chest: 1,
  head: 2,
  upperArmL: 3,
  forearmL: 4,
  handL: 5,
  shinL: 6,
  footL: 7,
  toesL: 8,
  upperArmR: 9,
  forearmR: 10,
  handR: 11,
  shinR: 12,
  footR: 13,
} as const;
export type Point = keyof typeof POINT;

/** What words are read from: the motion as relations between body parts over time, at most 30 a second. */
export interface Reading {
  readonly party: Party;
  readonly motion: Motion;
  readonly features: PoseFeatures;
  readonly frames: number;
  readonly fps: number;
  /** Height, side and lead of a point in legs: x left, y up, z ahead. */
  at(point: Point, frame: number, axis: 0 | 1 | 2): number;
  /** Speed over the ground, legs a second, and its parts along and across the heading. */
  readonly speed: Float32Array;
  readonly ahead: Float32Array;
  readonly across: Float32Array;
  /** Which feet stand: 1 left, 2 right. */
  readonly support: Uint8Array;
  readonly steps: number;
  readonly standing: number;
  readonly holds: readonly Plant[];
  readonly floors: readonly number[];
  readonly together: Uint8Array;
}

/**
 * Reads what words go by off a motion, at 30 frames a second or less: places in legs in the frame of the hips, speeds
 * in legs a second, supports, holds, hands that hold one thing.
 */
export function read(party: Party, motion: Motion, contacts: Contacts, body: Body): Reading {
  const step = Math.max(1, Math.round(motion.fps / 30));
  const features = poseFeatures(party, motion, contacts.floor, step, body);
  const frames = features.frameCount;
  const w = Math.max(1, Math.round(features.fps * 0.2));
  const speed = new Float32Array(frames);
  const ahead = new Float32Array(frames);
  const across = new Float32Array(frames);
  for (let f = 0; f < frames; f++) {
    const a = Math.max(0, f - w);
    const b = Math.min(frames - 1, f + w);
    if (b === a) continue;
    const k = features.fps / (b - a) / features.leg;
    const x = (features.ground[2 * b]! - features.ground[2 * a]!) * k;
    const z = (features.ground[2 * b + 1]! - features.ground[2 * a + 1]!) * k;
    const h = features.heading[f]!;
    speed[f] = Math.hypot(x, z);
    ahead[f] = Math.sin(h) * x + Math.cos(h) * z;
    across[f] = Math.cos(h) * x - Math.sin(h) * z;
  }
  const support = new Uint8Array(frames);
  const whole = new Uint8Array(motion.frameCount);
  for (const p of contacts.plants)
    if (isSole(p.part)) for (let f = p.start; f <= p.end; f++) whole[f] = whole[f]! | (p.part.endsWith('L') ? 1 : 2);
  let steps = 0;
  for (let f = 1; f < motion.frameCount; f++)
    for (const bit of [1, 2]) if (whole[f]! & bit && !(whole[f - 1]! & bit)) steps++;
  for (let f = 0; f < frames; f++) support[f] = whole[f * step]!;
  const rest = party.pose ?? restPose(party.rig);
  const soles = soleTracks(party.rig, motion, body);
  const feet = [soles.heelL, soles.heelR].filter((t) => t !== undefined);
  const holds = findHolds(holdTracks(party, motion, body, rest), feet, motion.fps, body.leg, contacts.floor);
  const together = handsTogether(party, motion, body.arm || 1);
  return {
    party,
    motion,
    features,
    frames,
    fps: features.fps,
    at: (point, f, axis) => features.values[FEATURE_WIDTH * f + 3 * POINT[point] + axis]!,
    speed,
    ahead,
    across,
    support,
    steps,
    standing: body.leg > 0 ? body.hipHeight / body.leg : 1,
    holds: holds.map((p) => ({ ...p, start: Math.floor(p.start / step), end: Math.floor(p.end / step) })),
    floors: stepFloors(contacts, soles, body.leg, motion.fps),
    together: Uint8Array.from({ length: frames }, (_, f) => together.marks[f * step]!),
  };
}

/** Heights on which the feet stand one after the other, legs above the lowest. */
export function stepFloors(
  contacts: Contacts,
  soles: ReturnType<typeof soleTracks>,
  leg: number,
  fps: number,
): number[] {
  const out: { at: number; height: number }[] = [];
  for (const p of contacts.plants) {
    const track = isSole(p.part) ? soles[p.part] : undefined;
    if (!track || (p.end - p.start) / fps < 0.12) continue;
    let sum = 0;
    for (let f = p.start; f <= p.end; f++) sum += track[3 * f + 1]!;
    out.push({ at: p.start, height: (sum / (p.end - p.start + 1) - contacts.floor) / leg });
  }
  return out.sort((a, b) => a.at - b.at).map((x) => x.height);
}

/** A number held between 0 and 1. */
export const clamp01 = (x: number): number => Math.min(1, Math.max(0, x));
/** 0 at `from`, 1 at `to`. */
export const ramp = (x: number, from: number, to: number): number => clamp01((x - from) / (to - from));

/** Share of the frames that pass a test, 0 to 1. */
export function share(r: Reading, test: (f: number) => boolean): number {
  let n = 0;
  for (let f = 0; f < r.frames; f++) if (test(f)) n++;
  return n / r.frames;
}

/** Longest run of frames that pass, in seconds, and where it begins. */
export function longest(r: Reading, test: (f: number) => boolean): { seconds: number; start: number; end: number } {
  let best = { seconds: 0, start: 0, end: 0 };
  for (let f = 0; f < r.frames; f++) {
    if (!test(f)) continue;
    const start = f;
    while (f + 1 < r.frames && test(f + 1)) f++;
    if ((f - start + 1) / r.fps > best.seconds) best = { seconds: (f - start + 1) / r.fps, start, end: f };
  }
  return best;
}
