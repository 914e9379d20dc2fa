import { easeAcross, fadeOut } from '../math/fade-out';
import { mulInvQuat, mulQuat } from '../math/quat';
import { expQuat, logQuat } from '../math/rotation-vector';
import { scalesIn } from '../motion/tracks';
import type { RetargetPlan } from '../retarget/plan';
import type { JoinFact, Laid } from './laid';
import { type LaneWriter, placesIn } from './lane-writer';
import { carried } from './meet';
import { firstFrames, leadFeet, type Stands } from './steps';
import { followPath, moved, pathThrough, wayTo } from './way';

/** A velocity that differs across a cut is caught up with in this time at most, seconds: a long decay would swing out otherwise. */
const PACE_S = 0.25;

/** Plays the next motion from its first frame, and lets die away what it differs in; over no frames at all it is a cut. */
export function decay(
  plan: RetargetPlan,
  lane: LaneWriter,
  next: Laid,
  itsStands: Stands,
  wished: number,
): Omit<JoinFact, 'to'> {
  const { at } = next;
  const { party } = lane;
  const n = party.rig.names.length;
  const from = Math.max(lane.first, at - 1);
  const before = lane.copy(Math.max(lane.first, at - 3), from);
  const count = Math.max(0, Math.min(wished, lane.frames - at, next.motion.frameCount - 1));
  const paced = Math.min(count, Math.max(2, Math.round(PACE_S * next.motion.fps)));
  const way = wayTo(plan, lane, next, at, itsStands);
  const path =
    next.join.meet === 'hips' && count > 0 && at > 0
      ? pathThrough(
          party,
          before,
          before.frameCount - 1,
          carried(party, firstFrames(next.motion, count), way),
          count,
          (i) => easeAcross((i + 1) / paced),
        )
      : undefined;
  const carry = path ? moved(way, path.by) : way;
  const motion = carried(party, next.motion, carry);
  const floor = Math.min(lane.floor, itsStands.floor);
  lane.write(motion, at, itsStands);
  const end = at + count;
  if (count > 0) {
    const last = before.frameCount - 1;
    const h = Math.min(last, 2, motion.frameCount - 1);
    const read = decayReader(last, h);
    const q = [0, 0, 0, 1];
    const offset = [0, 0, 0];
    for (let j = 0; j < n; j++) {
      const { value, velocity } = read.turn(before.turns, motion.turns, n, j);
      for (let i = 0; i < count; i++) {
        dying(offset, value, velocity, i, count, paced);
        expQuat(q, 0, offset, 0);
        const o = 4 * ((at + i) * n + j);
        mulQuat(lane.motion.turns, o, q, 0, lane.motion.turns, o);
      }
    }
    for (const { joint, values } of lane.motion.places) {
      const { value, velocity } = read.place(placesIn(party, before, joint), placesIn(party, motion, joint));
      for (let i = 0; i < count; i++) {
        dying(offset, value, velocity, i, count, paced);
        for (let k = 0; k < 3; k++) values[3 * (at + i) + k] = values[3 * (at + i) + k]! + offset[k]!;
      }
    }
    for (const { joint, values } of lane.motion.scales) {
      const was = scalesIn(before, joint).subarray(3 * last);
      const is = values.slice(3 * at, 3 * at + 3);
      for (let i = 0; i < count; i++)
        // a figure that is turned over is so at once
        for (let k = 0; k < 3; k++)
          if (was[k]! * is[k]! > 0) values[3 * (at + i) + k]! += (was[k]! - is[k]!) * fadeOut((i + 1) / (count + 1))[0];
    }
    for (const { name, values } of lane.motion.numbers) {
      const was = before.numbers.find((t) => t.name === name)!.values[last]!;
      const is = values[at]!;
      for (let i = 0; i < count; i++) values[at + i] = values[at + i]! + (was - is) * fadeOut((i + 1) / (count + 1))[0];
    }
    if (path) followPath(lane, at, path.course);
    leadFeet(plan, lane.motion, {
      start: at,
      end,
      middle: at,
      last: lane.end - 1,
      held: lane.held,
      before: { motion: before, from: from - last },
      after: { motion: firstFrames(motion, count + 1), from: at },
      floor,
    });
  }
  return { kind: count > 0 ? 'decay' : 'cut', start: at, end, carry };
}

/** A difference and its velocity after so many frames. @param paced frames over which the velocity is caught up with */
function dying(
  out: number[],
  value: readonly number[],
  velocity: readonly number[],
  i: number,
  count: number,
  paced: number,
): void {
  const left = fadeOut(Math.min(1, i / count))[0];
  const going = i < paced ? paced * fadeOut(i / paced)[1] : 0;
  for (let k = 0; k < 3; k++) out[k] = left * value[k]! + going * velocity[k]!;
}

/** Reads what the first motion, carried on by a frame, differs in from the second one's first frame, and how that changes a frame. */
function decayReader(last: number, h: number) {
  const q = [0, 0, 0, 1];
  const v = [0, 0, 0];
  const on = [0, 0, 0, 1];
  const paceOf = (turns: Float32Array, to: number, from: number): number[] => {
    mulInvQuat(q, 0, turns, to, turns, from);
    logQuat(v, 0, q, 0);
    return v.map((x) => x / Math.max(1, h));
  };
  return {
    turn(a: Float32Array, b: Float32Array, n: number, j: number) {
      const before = h > 0 ? paceOf(a, 4 * (last * n + j), 4 * ((last - h) * n + j)) : [0, 0, 0];
      const after = h > 0 ? paceOf(b, 4 * (h * n + j), 4 * j) : [0, 0, 0];
      expQuat(on, 0, before, 0);
      mulQuat(on, 0, on, 0, a, 4 * (last * n + j));
      mulInvQuat(q, 0, on, 0, b, 4 * j);
      logQuat(v, 0, q, 0);
      return { value: [...v], velocity: before.map((x, k) => x - after[k]!) };
    },
    place(a: Float32Array, b: Float32Array) {
      const velocity = (values: Float32Array, to: number, from: number): number[] =>
        [0, 1, 2].map((k) => (h > 0 ? (values[3 * to + k]! - values[3 * from + k]!) / h : 0));
      const before = velocity(a, last, last - h);
      const after = velocity(b, h, 0);
      return {
        value: [0, 1, 2].map((k) => a[3 * last + k]! + before[k]! - b[k]!),
        velocity: before.map((x, k) => x - after[k]!),
      };
    },
  };
}
