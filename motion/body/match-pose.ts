import { type BodyMap, jointOf, SIDES, type Side } from '../bodymap/slots';
import { invMulQuat, mulQuat, normalizeQuat } from '../math/quat';
import { type Motion, PoseReader } from '../motion/motion';
import { composePose, newWorldPose, restPose, type SkeletonRig, type WorldPose } from '../rig/rig';
import { alignmentTurns } from './alignment';

/**
 * The pose that counts as rest for matching, apart from the bind pose, which it never touches: local turns of all joints,
 * 4 J numbers, x y z w.
 */
export type MatchTurns = readonly number[];

/** World pose of local turns on a rig; places are the rig's own. */
export function poseOfTurns(rig: SkeletonRig, turns: MatchTurns): WorldPose {
  const pose = newWorldPose(rig.names.length);
  composePose(rig.parents, turns, rig.restT, pose.r, pose.p);
  return pose;
}

/** Local turns of a world pose. */
export function turnsOfPose(rig: SkeletonRig, pose: WorldPose): number[] {
  const out: number[] = [];
  const q = [0, 0, 0, 1];
  rig.parents.forEach((p, j) => {
    if (p >= 0) invMulQuat(q, 0, pose.r, 4 * p, pose.r, 4 * j);
    else for (let k = 0; k < 4; k++) q[k] = pose.r[4 * j + k]!;
    normalizeQuat(q, 0);
    out.push(...q);
  });
  return out;
}

/** Turns of one frame of a motion, for a rest that was filmed. */
export function turnsOfFrame(rig: SkeletonRig, motion: Motion, frame: number): number[] {
  const f = Math.max(0, Math.min(motion.frameCount - 1, Math.round(frame)));
  return turnsOfPose(rig, new PoseReader(rig, motion).at(f));
}

export const LIMBS = ['arm', 'leg'] as const;
export type Limb = (typeof LIMBS)[number];
const PARTS: Record<Limb, readonly string[]> = {
  arm: ['upperArm', 'forearm', 'hand'],
  leg: ['thigh', 'shin', 'foot'],
};

/**
 * Straightens a limb as it stands in a pose: upper and lower part in line and as in the common body's aligned pose (arm
 * level to the side and palm down, leg straight down); what hangs from it comes along.
 */
export function straightenLimb(rig: SkeletonRig, map: BodyMap, turns: MatchTurns, limb: Limb, side: Side): number[] {
  const pose = poseOfTurns(rig, turns);
  const aligned = alignmentTurns(rig, map, pose);
  const out = [...turns];
  // world turns as they become, parents first
  const world = Float64Array.from(pose.r);
  const own = new Set(PARTS[limb].map((part) => jointOf(map, part + side)).filter((j) => j >= 0));
  const q = [0, 0, 0, 1];
  rig.parents.forEach((p, j) => {
    if (own.has(j)) {
      for (let k = 0; k < 4; k++) world[4 * j + k] = aligned[4 * j + k]!;
      if (p >= 0) invMulQuat(q, 0, world, 4 * p, world, 4 * j);
      else for (let k = 0; k < 4; k++) q[k] = world[4 * j + k]!;
      normalizeQuat(q, 0);
      out.splice(4 * j, 4, ...q);
    } else if (p >= 0) mulQuat(world, 4 * j, world, 4 * p, turns, 4 * j);
  });
  return out;
}

/** The whole body as in the aligned pose: arms level, legs down. */
export function straightenAll(rig: SkeletonRig, map: BodyMap, turns: MatchTurns): number[] {
  let out = [...turns];
  for (const limb of LIMBS) for (const side of SIDES) out = straightenLimb(rig, map, out, limb, side);
  return out;
}

/**
 * Borrows a like rig's pose: joints of equal name take over how they are turned against the rest, in the world, so that
 * different joint axes do not matter. Says which joints found no partner.
 */
export function borrowTurns(
  rig: SkeletonRig,
  from: SkeletonRig,
  turns: MatchTurns,
): { turns: number[]; missing: string[] } {
  const rest = restPose(rig);
  const theirs = restPose(from);
  const posed = poseOfTurns(from, turns);
  const missing: string[] = [];
  const world = Float64Array.from(rest.r);
  const q = [0, 0, 0, 1];
  const departs = [0, 0, 0, 1];
  const out: number[] = [];
  rig.parents.forEach((p, j) => {
    const o = 4 * j;
    const twin = from.names.indexOf(rig.names[j]!);
    if (twin < 0) {
      missing.push(rig.names[j]!);
      if (p >= 0) mulQuat(world, o, world, 4 * p, rig.restR, o);
    } else {
      // their world turn away from their rest, put in front of our rest
      const back = [0, 1, 2, 3].map((k) => theirs.r[4 * twin + k]! * (k < 3 ? -1 : 1));
      mulQuat(departs, 0, posed.r, 4 * twin, back, 0);
      mulQuat(world, o, departs, 0, rest.r, o);
    }
    if (p >= 0) invMulQuat(q, 0, world, 4 * p, world, o);
    else for (let k = 0; k < 4; k++) q[k] = world[o + k]!;
    normalizeQuat(q, 0);
    out.push(...q);
  });
  return { turns: out, missing };
}
