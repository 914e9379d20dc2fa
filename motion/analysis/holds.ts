import type { Body } from '../body/body';
import type { Party } from '../body/party';
import { jointOf, SIDES, type Side } from '../bodymap/slots';
import { rotate64 } from '../math/fast';
import { invertQuat, rotate3 } from '../math/quat';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import { type SkeletonRig, tipOf, type WorldPose } from '../rig/rig';
import { type HoldPart, type Plant, slowSpans, speedOf } from './plants';

/** Where a part is held, over time: 3 F numbers, world, metres. */
export type HoldTracks = Partial<Record<HoldPart, Float64Array>>;

/** From the wrist to the middle of the palm, in the hand's frame, metres. */
export function palmPoint(rig: SkeletonRig, party: Party, side: Side, rest: WorldPose): Float64Array {
  const hand = jointOf(party.map, `hand${side}`);
  const out = new Float64Array(3);
  const knuckle = ['middle1', 'index1', 'ring1'].map((s) => jointOf(party.map, s + side)).find((j) => j >= 0) ?? -1;
  if (knuckle >= 0 && rig.parents[knuckle] === hand)
    for (let k = 0; k < 3; k++) out[k] = rig.restT[3 * knuckle + k]! * 0.8;
  else if (tipOf(rig, rest, hand)) for (let k = 0; k < 3; k++) out[k] = rig.tips[3 * hand + k]! * 0.5;
  return out;
}

/** How far below the middle between the hip joints a body sits, as a share of the leg. */
const SEAT = 0.08;

/** Follows palms, knees and the seat: the point under the pelvis on which a body sits and rolls. */
export function holdTracks(party: Party, motion: Motion, body: Body, rest: WorldPose): HoldTracks {
  const { rig, map } = party;
  const hands = SIDES.flatMap((side) => {
    const joint = jointOf(map, `hand${side}`);
    if (joint < 0) return [];
    const at = new Float64Array(3 * motion.frameCount);
    return [{ part: `hand${side}` as HoldPart, joint, offset: palmPoint(rig, party, side, rest), at }];
  });
  const knees = SIDES.flatMap((side) => {
    const joint = jointOf(map, `shin${side}`);
    if (joint < 0) return [];
    return [
      {
        part: `knee${side}` as HoldPart,
        joint,
        offset: new Float64Array(3),
        at: new Float64Array(3 * motion.frameCount),
      },
    ];
  });
  const points = [...hands, ...knees];
  const seat = new Float64Array(3 * motion.frameCount);
  const pelvis = jointOf(map, 'hips');
  const reader = new ChainReader(rig, motion, [...points.map((p) => p.joint), ...body.hipJoints, Math.max(0, pelvis)]);
  const under = new Float64Array(3);
  const below = Float64Array.of(0, -SEAT * body.leg, 0);
  if (pelvis >= 0) {
    const back = new Float64Array(4);
    invertQuat(back, 0, rest.r, 4 * pelvis);
    rotate3(below, 0, back, 0, below, 0);
  }
  for (let f = 0; f < motion.frameCount; f++) {
    const { r, p } = reader.at(f);
    for (const { joint, offset, at } of points) {
      rotate64(at, 3 * f, r, 4 * joint, offset, 0);
      for (let k = 0; k < 3; k++) at[3 * f + k] = at[3 * f + k]! + p[3 * joint + k]!;
    }
    for (const a of body.hipJoints)
      for (let k = 0; k < 3; k++) seat[3 * f + k] = seat[3 * f + k]! + p[3 * a + k]! / body.hipJoints.length;
    if (pelvis >= 0) rotate64(under, 0, r, 4 * pelvis, below, 0);
    else under.set(below);
    for (let k = 0; k < 3; k++) seat[3 * f + k] = seat[3 * f + k]! + under[k]!;
  }
  return { ...Object.fromEntries(points.map((p) => [p.part, p.at])), ...(body.leg > 0 ? { seat } : {}) };
}

// heights in legs, times in seconds
const NEAR_FLOOR = 0.13;
const SHORTEST_S = 0.15;
const SIT_LOW = 0.14;
const SIT_HIGH = 0.67;
const SIT_BEHIND = 0.2;
const SIT_S = 0.6;

/**
 * Finds where hands and knees are held on the ground and where the body sits: slow stretches near the floor; hips that rest
 * at a seat's height well behind the feet.
 */
export function findHolds(
  tracks: HoldTracks,
  feet: readonly Float64Array[],
  fps: number,
  leg: number,
  floor: number,
): Plant[] {
  if (!(leg > 0)) return [];
  const plants: Plant[] = [];
  for (const part of ['handL', 'handR', 'kneeL', 'kneeR'] as const) {
    const track = tracks[part];
    if (!track) continue;
    for (const span of slowSpans(speedOf(track, fps), leg, fps)) {
      let { start, end } = span;
      const low = (f: number): boolean => track[3 * f + 1]! - floor < NEAR_FLOOR * leg;
      while (start < end && !low(start)) start++;
      while (end > start && !low(end)) end--;
      if (low(start) && (end - start + 1) / fps >= SHORTEST_S) plants.push({ part, start, end });
    }
  }
  const { seat } = tracks;
  if (seat && feet.length > 0) {
    const speed = speedOf(seat, fps);
    const knees = [tracks.kneeL, tracks.kneeR].filter((t) => t !== undefined);
    let start = -1;
    const frames = seat.length / 3;
    for (let f = 0; f <= frames; f++) {
      const sits = f < frames && speed[f]! < 0.15 * leg && sitsAt(seat, feet, knees, f, leg, floor);
      if (sits && start < 0) start = f;
      if (sits || start < 0) continue;
      if ((f - start) / fps >= SIT_S) plants.push({ part: 'seat', start, end: f - 1 });
      start = -1;
    }
  }
  return plants;
}

function sitsAt(
  seat: Float64Array,
  feet: readonly Float64Array[],
  knees: readonly Float64Array[],
  f: number,
  leg: number,
  floor: number,
): boolean {
  if (knees.some((k) => k[3 * f + 1]! - floor < 2 * NEAR_FLOOR * leg)) return false;
  const height = (seat[3 * f + 1]! - floor) / leg;
  if (height < SIT_LOW || height > SIT_HIGH) return false;
  return feet.every((foot) => {
    const away = Math.hypot(foot[3 * f]! - seat[3 * f]!, foot[3 * f + 2]! - seat[3 * f + 2]!);
    return away > SIT_BEHIND * leg && foot[3 * f + 1]! < seat[3 * f + 1]!;
  });
}
