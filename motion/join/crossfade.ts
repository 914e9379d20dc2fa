import { slerp } from '../math/quat';
import { type Ease, easeAt } from '../motion/curve';
import type { Motion } from '../motion/motion';
import { mixScale, restNumber, scalesIn } from '../motion/tracks';
import type { RetargetPlan } from '../retarget/plan';
import type { JoinFact, Laid } from './laid';
import { type LaneWriter, placesIn } from './lane-writer';
import { carried } from './meet';
import { firstFrames, leadFeet, type Stands } from './steps';
import { followPath, moved, pathThrough, wayTo } from './way';

/** @param around frames in which the feet are led: more than are mixed where a side was carried on */
export function crossfade(
  plan: RetargetPlan,
  lane: LaneWriter,
  next: Laid,
  itsStands: Stands,
  overlap: number,
  around: readonly [number, number] = [next.at, next.at + overlap],
): Omit<JoinFact, 'to'> {
  const { party } = lane;
  const { at } = next;
  const count = Math.min(overlap, lane.frames - at);
  const middle = at + (count >> 1);
  const start = around[0];
  const before = lane.copy(Math.max(0, start - 1), at + count - 1);
  const skip = at - Math.max(0, start - 1);
  const way = wayTo(plan, lane, next, middle, itsStands);
  const path =
    next.join.meet === 'hips' && at > 0
      ? pathThrough(party, before, skip - 1, carried(party, firstFrames(next.motion, count), way), count, (i) =>
          easeAt(next.join.shape, (i + 1) / (count + 1)),
        )
      : undefined;
  const carry = path ? moved(way, path.by) : way;
  const motion = carried(party, next.motion, carry);
  const floor = Math.min(lane.floor, itsStands.floor);
  const heldBefore = { L: lane.held.L.slice(at, middle), R: lane.held.R.slice(at, middle) };
  lane.write(motion, at, itsStands);
  for (const side of ['L', 'R'] as const) lane.held[side].set(heldBefore[side], at);
  mix(lane, before, skip, motion, at, count, next.join.shape);
  if (path) followPath(lane, at, path.course);
  const end = Math.min(around[1], lane.frames);
  leadFeet(plan, lane.motion, {
    start,
    end,
    middle,
    last: lane.end - 1,
    held: lane.held,
    before: { motion: before, from: at - skip },
    after: { motion: firstFrames(motion, end - at + 1), from: at },
    floor,
  });
  return { kind: 'crossfade', start, end, carry };
}

/** Mixes two motions frame by frame into the lane. @param skip frame of the first one that falls on `at` */
function mix(lane: LaneWriter, a: Motion, skip: number, b: Motion, at: number, count: number, shape: Ease): void {
  const { motion, party } = lane;
  const n = party.rig.names.length;
  const weights = Float64Array.from({ length: count }, (_, i) => easeAt(shape, (i + 1) / (count + 1)));
  for (const [i, w] of weights.entries())
    for (let j = 0; j < n; j++)
      slerp(motion.turns, 4 * ((at + i) * n + j), a.turns, 4 * ((skip + i) * n + j), b.turns, 4 * (i * n + j), w);
  for (const { joint, values } of motion.places) {
    const from = placesIn(party, a, joint);
    const to = placesIn(party, b, joint);
    for (const [i, w] of weights.entries())
      for (let k = 0; k < 3; k++) values[3 * (at + i) + k] = (1 - w) * from[3 * (skip + i) + k]! + w * to[3 * i + k]!;
  }
  for (const { joint, values } of motion.scales) {
    const from = scalesIn(a, joint);
    const to = scalesIn(b, joint);
    for (const [i, w] of weights.entries())
      for (let k = 0; k < 3; k++) values[3 * (at + i) + k] = mixScale(from[3 * (skip + i) + k]!, to[3 * i + k]!, w);
  }
  for (const { name, values } of motion.numbers) {
    const from = a.numbers.find((t) => t.name === name);
    const to = b.numbers.find((t) => t.name === name);
    for (const [i, w] of weights.entries())
      values[at + i] = (1 - w) * (from?.values[skip + i] ?? restNumber(name)) + w * (to?.values[i] ?? restNumber(name));
  }
  for (const { name, labels, values } of motion.steps) {
    const from = a.steps.find((t) => t.name === name);
    // labels are never mixed: they change in the middle
    for (let i = 0; from && i < count && weights[i]! < 0.5; i++)
      values[at + i] = labels.indexOf(from.labels[from.values[skip + i]!]!);
  }
}
