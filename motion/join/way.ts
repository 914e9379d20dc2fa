import { soleTracks } from '../analysis/plants';
import type { Party } from '../body/party';
import { SIDES } from '../bodymap/slots';
import type { Motion } from '../motion/motion';
import type { RetargetPlan } from '../retarget/plan';
import type { Laid } from './laid';
import type { LaneWriter } from './lane-writer';
import { type Carry, Course, meet } from './meet';
import { type Stands, stretchOf } from './steps';

/** The way the next motion is carried to where it meets the lane at one of its frames. */
export function wayTo(plan: RetargetPlan, lane: LaneWriter, next: Laid, frame: number, itsStands: Stands): Carry {
  const { motion, at, join, offset } = next;
  const { party } = lane;
  const its = new Course(party, motion);
  const met = meet(party, new Course(party, lane.motion, lane.first, lane.end - 1), frame, its, frame - at, join.meet);
  const way = join.level ? { ...met, rise: riseTo(plan, lane, next, itsStands) } : met;
  if (!offset) return way;
  // its own offset comes on top: about the place where it meets
  const [, x, z] = its.at(frame - at);
  const px = Math.cos(way.turn) * x + Math.sin(way.turn) * z + way.by[0];
  const pz = Math.cos(way.turn) * z - Math.sin(way.turn) * x + way.by[1];
  const s = Math.sin(offset.turn);
  const c = Math.cos(offset.turn);
  const [bx, bz] = [way.by[0] - px, way.by[1] - pz];
  return {
    turn: way.turn + offset.turn,
    by: [px + c * bx + s * bz + offset.by[0], pz + c * bz - s * bx + offset.by[1]],
    rise: (way.rise ?? 0) + (offset.rise ?? 0),
  };
}

/** How much higher the lane stands at last than the next motion does at first, metres; nothing where either never stands. */
function riseTo(plan: RetargetPlan, lane: LaneWriter, next: Laid, itsStands: Stands): number {
  const last = Math.min(lane.end - 1, next.at);
  const reached = standingHeight(plan, lane.motion, lane.held, last, lane.first, -1);
  const begins = standingHeight(plan, next.motion, itsStands.held, 0, next.motion.frameCount - 1, 1);
  const rise = reached === undefined || begins === undefined ? 0 : reached - begins;
  return Math.abs(rise) < LEVEL * plan.target.body.leg ? 0 : rise;
}

/** A difference of ground below this is none, legs. */
const LEVEL = 0.04;

/** Height of the lower sole point in the frame nearest to one, in a direction, in which a foot stands. */
function standingHeight(
  plan: RetargetPlan,
  motion: Motion,
  held: Stands['held'],
  from: number,
  to: number,
  step: 1 | -1,
): number | undefined {
  for (let f = from; step * (to - f) >= 0; f += step) {
    if (!held.L[f] && !held.R[f]) continue;
    const at = soleTracks(plan.target.rig, stretchOf(motion, f, f), plan.target.body);
    const sides = SIDES.filter((side) => held[side][f]);
    return Math.min(...sides.flatMap((side) => [at[`heel${side}`]![1]!, at[`ball${side}`]![1]!]));
  }
  return undefined;
}

/** A carry displaced over the ground, metres. */
export const moved = (way: Carry, [x, z]: readonly [number, number]): Carry => ({
  ...way,
  by: [way.by[0] + x, way.by[1] + z],
});

/**
 * The way of the hips over the ground through a passage: from step to step as either motion goes, mixed. Places that were mixed
 * instead would run ahead of both motions and wait.
 * @param before the first motion, its frame `start` the last one before the passage; where it ends sooner it goes on with its last velocity
 * @param weight share of the second motion's step in a frame of the passage
 * @returns x and z a frame, and how far the second motion has to be moved to go on from there
 */
export function pathThrough(
  party: Party,
  before: Motion,
  start: number,
  after: Motion,
  count: number,
  weight: (i: number) => number,
) {
  const a = new Course(party, before);
  const b = new Course(party, after);
  const course = new Float64Array(2 * count);
  let [, x, z] = a.at(start);
  let to = b.at(-1);
  let from = a.at(start);
  for (let i = 0; i < count; i++) {
    const w = weight(i);
    const nextFrom = a.at(start + i + 1);
    const nextTo = b.at(i);
    x += (1 - w) * (nextFrom[1] - from[1]) + w * (nextTo[1] - to[1]);
    z += (1 - w) * (nextFrom[2] - from[2]) + w * (nextTo[2] - to[2]);
    course[2 * i] = x;
    course[2 * i + 1] = z;
    from = nextFrom;
    to = nextTo;
  }
  return { course, by: [x - to[1], z - to[2]] as const };
}

/** Moves every root over the ground so that the hips take a course from a frame on. */
export function followPath(lane: LaneWriter, at: number, course: Float64Array): void {
  const { party, motion } = lane;
  const { parents } = party.rig;
  const now = new Course(party, motion);
  for (let i = 0; i < course.length / 2; i++) {
    const [, x, z] = now.at(at + i);
    for (const { joint, values } of motion.places) {
      if (parents[joint]! >= 0) continue;
      values[3 * (at + i)] = values[3 * (at + i)]! + course[2 * i]! - x;
      values[3 * (at + i) + 2] = values[3 * (at + i) + 2]! + course[2 * i + 1]! - z;
    }
  }
}
