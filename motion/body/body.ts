import { type BodyMap, jointOf, SIDES, type Side } from '../bodymap/slots';
import { invertQuat, rotate3 } from '../math/quat';
import { distance3 } from '../math/vec';
import { restPose, type SkeletonRig, tipOf, type WorldPose } from '../rig/rig';

/** Points of one foot that touch the ground. Each is given in the frame of the joint that carries it, metres. */
export interface Sole {
  readonly foot: number;
  /** −1 where the rig has no toes. */
  readonly toes: number;
  /** In the foot's frame. */
  readonly heel: Float64Array;
  readonly ball: Float64Array;
  /** In the toes' frame where there are toes, else in the foot's and equal to the ball. */
  readonly tip: Float64Array;
}

/** Lengths of a mapped body at rest, metres. */
export interface Body {
  /** Hip joint to ankle joint plus ankle height: what QUALITY calls leg. 0 where there are no legs. */
  readonly leg: number;
  readonly arm: number;
  /** Height of the ground under the rest pose. */
  readonly floor: number;
  readonly soles: Readonly<Partial<Record<Side, Sole>>>;
  /** Joints whose mean place is what travels: the thighs, or the hips where there are none. */
  readonly hipJoints: readonly number[];
  /** Height of the hip joints over the ground at rest. */
  readonly hipHeight: number;
}

/**
 * Measures a body in its rest pose.
 * @param floor height of the ground where it is known better than from the joints, for instance from a mesh.
 */
export function measureBody(rig: SkeletonRig, map: BodyMap, pose: WorldPose = restPose(rig), floor?: number): Body {
  const place = (j: number): [number, number, number] => [pose.p[3 * j]!, pose.p[3 * j + 1]!, pose.p[3 * j + 2]!];
  const low = floor ?? lowest(rig, map, pose);
  const soles: Partial<Record<Side, Sole>> = {};
  const legs: number[] = [];
  const arms: number[] = [];
  for (const side of SIDES) {
    const [thigh, shin, foot, toes] = ['thigh', 'shin', 'foot', 'toes'].map((s) => jointOf(map, s + side)) as [
      number,
      number,
      number,
      number,
    ];
    const [upper, fore, hand] = ['upperArm', 'forearm', 'hand'].map((s) => jointOf(map, s + side)) as [
      number,
      number,
      number,
    ];
    if (upper >= 0 && fore >= 0 && hand >= 0)
      arms.push(distance3(pose.p, 3 * upper, pose.p, 3 * fore) + distance3(pose.p, 3 * fore, pose.p, 3 * hand));
    if (thigh < 0 || shin < 0 || foot < 0) continue;
    const leg = distance3(pose.p, 3 * thigh, pose.p, 3 * shin) + distance3(pose.p, 3 * shin, pose.p, 3 * foot);
    const ankle = Math.max(0, pose.p[3 * foot + 1]! - low);
    legs.push(leg + ankle);
    soles[side] = soleOf(rig, pose, foot, toes, low, leg);
  }
  const thighs = ['thighL', 'thighR'].map((s) => jointOf(map, s)).filter((j) => j >= 0);
  const hips = jointOf(map, 'hips');
  const hipJoints = thighs.length === 2 ? thighs : hips >= 0 ? [hips] : [0];
  const hipHeight = hipJoints.reduce((s, j) => s + place(j)[1], 0) / hipJoints.length - low;
  const mean = (a: number[]): number => (a.length > 0 ? a.reduce((x, y) => x + y, 0) / a.length : 0);
  return { leg: mean(legs), arm: mean(arms), floor: low, soles, hipJoints, hipHeight };
}

function lowest(rig: SkeletonRig, map: BodyMap, pose: WorldPose): number {
  let low = Number.POSITIVE_INFINITY;
  for (const slot of ['footL', 'footR', 'toesL', 'toesR']) {
    const j = jointOf(map, slot);
    if (j < 0) continue;
    low = Math.min(low, pose.p[3 * j + 1]!, tipOf(rig, pose, j)?.[1] ?? Number.POSITIVE_INFINITY);
  }
  if (Number.isFinite(low)) return low;
  for (let j = 0; j < rig.names.length; j++) low = Math.min(low, pose.p[3 * j + 1]!, tipOf(rig, pose, j)?.[1] ?? low);
  return low;
}

function soleOf(rig: SkeletonRig, pose: WorldPose, foot: number, toes: number, floor: number, leg: number): Sole {
  const p = pose.p;
  const end = toes >= 0 ? [p[3 * toes]!, p[3 * toes + 1]!, p[3 * toes + 2]!] : tipOf(rig, pose, foot);
  const ankle = [p[3 * foot]!, p[3 * foot + 1]!, p[3 * foot + 2]!];
  let dx = (end?.[0] ?? ankle[0]!) - ankle[0]!;
  let dz = (end?.[2] ?? ankle[2]!) - ankle[2]!;
  if (Math.hypot(dx, dz) < 0.04 * leg) {
    dx = 0;
    dz = 0.15 * leg;
  }
  const ball = [ankle[0]! + dx, floor, ankle[2]! + dz];
  const heel = [ankle[0]! - 0.3 * dx, floor, ankle[2]! - 0.3 * dz];
  const toeEnd = toes >= 0 ? tipOf(rig, pose, toes) : undefined;
  const tip = toes >= 0 ? [toeEnd?.[0] ?? ball[0]! + 0.4 * dx, floor, toeEnd?.[2] ?? ball[2]! + 0.4 * dz] : ball;
  const carrier = toes >= 0 ? toes : foot;
  return { foot, toes, heel: into(pose, foot, heel), ball: into(pose, foot, ball), tip: into(pose, carrier, tip) };
}

/** A world point in a joint's own frame. */
function into(pose: WorldPose, joint: number, world: readonly number[]): Float64Array {
  const d = Float64Array.from(world, (x, k) => x - pose.p[3 * joint + k]!);
  const back = [0, 0, 0, 1];
  invertQuat(back, 0, pose.r, 4 * joint);
  rotate3(d, 0, back, 0, d, 0);
  return d;
}
