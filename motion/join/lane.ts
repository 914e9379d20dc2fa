import { soleTracks } from '../analysis/plants';
import type { Party } from '../body/party';
import { SIDES, type Side } from '../bodymap/slots';
import { MotionError } from '../errors';
import { easeAcross, fadeOut } from '../math/fade-out';
import { alignSigns, mulInvQuat, mulQuat, slerp } from '../math/quat';
import { expQuat, logQuat } from '../math/rotation-vector';
import { type Ease, easeAt } from '../motion/curve';
import { MAX_NUMBERS, type Motion } from '../motion/motion';
import { placesOf } from '../motion/move-joint';
import type { NumberTrack, PlaceTrack, StepTrack } from '../motion/tracks';
import type { RetargetPlan } from '../retarget/plan';
import { carryOn, leadIn } from './carry-on';
import { freeTravel } from './free-travel';
import { type Carry, Course, carried, type Meet, meet, STAYS } from './meet';
import { leadFeet, legsOf, type Stands, standsOf, stretchOf } from './steps';

/**
 * How one motion passes into the next. cut: at once. crossfade: both are mixed while they overlap. decay: the second one plays
 * from its first frame, and what it differs in from the first dies away. bridge: what lies between them is computed.
 */
export const JOIN_KINDS = ['cut', 'crossfade', 'decay', 'bridge'] as const;
export type JoinKind = (typeof JOIN_KINDS)[number];

export interface JoinWish {
  readonly kind: JoinKind;
  /** Longest crossfade, or time over which a difference dies away, frames. */
  readonly frames: number;
  /** How a crossfade passes from one to the other. */
  readonly shape: Ease;
  readonly meet: Meet;
  /** Goes on at the height of the ground that was reached, a stair or a slope; heights stay otherwise. */
  readonly level: boolean;
}
export const JOIN_DEFAULTS: JoinWish = { kind: 'crossfade', frames: 10, shape: 'smooth', meet: 'hips', level: false };

/** A motion laid on a lane. */
export interface Laid {
  /** On the lane's rig, at the lane's rate. */
  readonly motion: Motion;
  /** Frame of the lane on which its first one falls. */
  readonly at: number;
  /** How what lies before it on the lane passes into it. */
  readonly join: JoinWish;
  /** Beyond where it meets what lies before. */
  readonly offset?: Carry | undefined;
  /** What its feet stand on, where that is known already. */
  readonly stands?: Stands | undefined;
}

/** A passage as it was carried out. */
export interface JoinFact {
  /** Index of the motion it leads to. */
  readonly to: number;
  readonly kind: JoinKind;
  /** First frame that is not the first motion's alone, and the first that is the second's alone. */
  readonly start: number;
  readonly end: number;
  /** How the second motion was carried. */
  readonly carry: Carry;
}

export interface Lane {
  readonly motion: Motion;
  readonly joins: readonly JoinFact[];
  /** What stands in every frame: bits of HEEL and BALL. */
  readonly held: Readonly<Record<Side, Uint8Array>>;
}

/**
 * Lays motions one after the other on a lane. Each meets what lies before it in place and heading, its height kept; plants of
 * both sides of a passage are held through it. Before the first motion and after the last one their end poses are held, and
 * so in a gap that is not bridged. Pure.
 * @param laid in rising order of `at` @param frames length of the lane @param ofGiven plan of the rig’s legs, where it is known already
 * @throws MotionError 'bad-argument' without a motion or out of order, 'too-large' beyond what a motion may hold
 */
export function layLane(given: Party, told: readonly Laid[], frames: number, ofGiven = legsOf(given)): Lane {
  if (told.length === 0) throw new MotionError('bad-argument', 'The lane is empty: lay a motion on it first.');
  if (told.some((l, i) => i > 0 && l.at < told[i - 1]!.at))
    throw new MotionError('bad-argument', 'The motions of a lane must stand in rising order of their first frames.');
  if (!(frames >= 1) || 4 * given.rig.names.length * frames > MAX_NUMBERS)
    throw new MotionError('too-large', `A lane of ${frames} frames is more than is taken.`);
  const { party, off, on } = freeTravel(given);
  const plan = party === given ? ofGiven : legsOf(party);
  const laid = told.map((l) => ({ ...l, motion: off(l.motion) }));
  const lane = new LaneWriter(party, laid, frames);
  const joins: JoinFact[] = [];
  laid.forEach((next, i) => {
    if (next.at >= frames) return;
    if (i === 0) lane.write(carried(party, next.motion, next.offset ?? STAYS), next.at, stands(plan, next));
    else joins.push({ ...joinNext(plan, party, lane, next), to: i });
  });
  const { motion, held } = lane.finish();
  return { motion: on(motion), held, joins };
}

const stands = (plan: RetargetPlan, { motion, stands }: Laid): Stands => stands ?? standsOf(plan, motion);

/** Frames of a lane while they are written. */
class LaneWriter {
  readonly motion: Motion;
  readonly held: Record<Side, Uint8Array>;
  /** First frame that is written, and the one behind the last. */
  first = 0;
  end = 0;
  floor = 0;
  private readonly n: number;

  constructor(
    readonly party: Party,
    laid: readonly Laid[],
    readonly frames: number,
  ) {
    const { rig } = party;
    this.n = rig.names.length;
    const joints = [
      ...new Set([
        ...[...rig.parents.keys()].filter((j) => rig.parents[j]! < 0),
        ...laid.flatMap((l) => l.motion.places.map((t) => t.joint)),
      ]),
    ];
    const names = [...new Set(laid.flatMap((l) => l.motion.numbers.map((t) => t.name)))];
    const labels = new Map<string, Set<string>>();
    for (const { motion } of laid)
      for (const t of motion.steps) labels.set(t.name, new Set([...(labels.get(t.name) ?? []), ...t.labels]));
    this.motion = {
      fps: laid[0]!.motion.fps,
      frameCount: frames,
      turns: new Float32Array(4 * this.n * frames),
      places: joints.map((joint) => ({ joint, values: new Float32Array(3 * frames) })),
      scales: [],
      numbers: names.map((name) => ({ name, values: new Float32Array(frames) })),
      steps: [...labels].map(([name, all]) => ({ name, labels: [...all], values: new Uint16Array(frames) })),
    };
    this.held = { L: new Uint8Array(frames), R: new Uint8Array(frames) };
  }

  /** Writes a motion over what is there from its first frame on; what was there beyond its end is gone. */
  write(motion: Motion, at: number, { held, floor }: Stands, from = at): void {
    const { n, frames } = this;
    const count = Math.min(motion.frameCount, frames - at);
    const skip = Math.max(0, from - at);
    if (this.end === 0) {
      this.first = Math.max(0, at);
      this.floor = floor;
    }
    this.end = Math.max(from, at + count);
    if (count <= skip) return;
    this.motion.turns.set(motion.turns.subarray(4 * n * skip, 4 * n * count), 4 * n * from);
    for (const { joint, values } of this.motion.places)
      values.set(placesIn(this.party, motion, joint).subarray(3 * skip, 3 * count), 3 * from);
    for (const { name, values } of this.motion.numbers) {
      const own = motion.numbers.find((t) => t.name === name);
      if (own) values.set(own.values.subarray(skip, count), from);
      else values.fill(0, from, at + count);
    }
    for (const track of this.motion.steps) {
      const own = motion.steps.find((t) => t.name === track.name);
      for (let f = from; f < at + count; f++)
        track.values[f] = own ? track.labels.indexOf(own.labels[own.values[f - at]!]!) : (track.values[f - 1] ?? 0);
    }
    for (const side of ['L', 'R'] as const) this.held[side].set(held[side].subarray(skip, count), from);
  }

  /** A copy of written frames, both included. */
  copy(first: number, last: number): Motion {
    const { n, motion } = this;
    return {
      ...motion,
      frameCount: last - first + 1,
      turns: motion.turns.slice(4 * n * first, 4 * n * (last + 1)),
      places: motion.places.map((t) => ({ ...t, values: t.values.slice(3 * first, 3 * (last + 1)) })),
      numbers: motion.numbers.map((t) => ({ ...t, values: t.values.slice(first, last + 1) })),
      steps: motion.steps.map((t) => ({ ...t, values: t.values.slice(first, last + 1) })),
    };
  }

  /** Holds the last pose that is written up to a frame, not included. */
  holdUntil(frame: number): void {
    const { n, end } = this;
    const to = Math.min(frame, this.frames);
    for (let f = end; f < to; f++) {
      this.motion.turns.copyWithin(4 * n * f, 4 * n * (end - 1), 4 * n * end);
      for (const { values } of this.motion.places) values.copyWithin(3 * f, 3 * (end - 1), 3 * end);
      for (const { values } of [...this.motion.numbers, ...this.motion.steps]) values[f] = values[end - 1]!;
      for (const side of ['L', 'R'] as const) this.held[side][f] = this.held[side][end - 1]!;
    }
    this.end = Math.max(end, to);
  }

  finish(): Pick<Lane, 'motion' | 'held'> {
    const { n, first, frames, motion } = this;
    this.holdUntil(frames);
    for (let f = 0; f < first; f++) {
      motion.turns.copyWithin(4 * n * f, 4 * n * first, 4 * n * (first + 1));
      for (const { values } of motion.places) values.copyWithin(3 * f, 3 * first, 3 * first + 3);
      for (const { values } of [...motion.numbers, ...motion.steps]) values[f] = values[first]!;
    }
    for (let j = 0; j < n; j++) alignSigns(motion.turns, 4 * j, 4 * n, frames);
    return { motion, held: this.held };
  }
}

/** Places of a joint in a motion: its track, or its rest place throughout. */
const placesIn = (party: Party, motion: Motion, joint: number): Float32Array =>
  motion.places.find((t) => t.joint === joint)?.values ?? placesOf(party.rig, motion, joint);

/** A frame of the lane may be the second motion's from here on at the latest. */
function joinNext(plan: RetargetPlan, party: Party, lane: LaneWriter, next: Laid): Omit<JoinFact, 'to'> {
  const gap = next.at - lane.end;
  const wish = next.join;
  if (wish.kind === 'bridge' && gap > 0 && lane.end - lane.first > 1 && next.motion.frameCount > 1)
    return bridge(plan, party, lane, next, gap);
  const overlap = Math.min(lane.end - next.at, next.motion.frameCount, Math.round(wish.frames));
  const kind = wish.kind === 'crossfade' && overlap > 0 ? 'crossfade' : wish.kind === 'cut' ? 'cut' : 'decay';
  if (gap > 0) lane.holdUntil(next.at);
  if (kind === 'crossfade') return crossfade(plan, party, lane, next, stands(plan, next), overlap);
  return decay(plan, party, lane, next, kind === 'cut' ? 0 : Math.round(wish.frames));
}

/** The way the next motion is carried to where it meets the lane at one of its frames. */
function wayTo(plan: RetargetPlan, lane: LaneWriter, next: Laid, frame: number, itsStands: Stands): Carry {
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
    const at = soleTracks(plan.target.rig, oneFrame(motion, f), plan.target.body);
    const sides = SIDES.filter((side) => held[side][f]);
    return Math.min(...sides.flatMap((side) => [at[`heel${side}`]![1]!, at[`ball${side}`]![1]!]));
  }
  return undefined;
}

const moved = (way: Carry, [x, z]: readonly [number, number]): Carry => ({
  ...way,
  by: [way.by[0] + x, way.by[1] + z],
});

/**
 * The way of the hips over the ground through a passage: from step to step as either motion goes, mixed. Places that were mixed
 * instead would run ahead of both motions and wait.
 * @param before the first motion, its frame `start` the last one before the passage; where it ends sooner it goes on with its last pace
 * @param weight share of the second motion's step in a frame of the passage
 * @returns x and z a frame, and how far the second motion has to be moved to go on from there
 */
function pathThrough(
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
function followPath(lane: LaneWriter, at: number, course: Float64Array): void {
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

/** @param around frames in which the feet are led: more than are mixed where a side was carried on */
function crossfade(
  plan: RetargetPlan,
  party: Party,
  lane: LaneWriter,
  next: Laid,
  itsStands: Stands,
  overlap: number,
  around: readonly [number, number] = [next.at, next.at + overlap],
): Omit<JoinFact, 'to'> {
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
  for (let i = 0; i < count; i++) {
    const w = easeAt(shape, (i + 1) / (count + 1));
    for (let j = 0; j < n; j++)
      slerp(motion.turns, 4 * ((at + i) * n + j), a.turns, 4 * ((skip + i) * n + j), b.turns, 4 * (i * n + j), w);
    for (const { joint, values } of motion.places) {
      const from = placesIn(party, a, joint);
      const to = placesIn(party, b, joint);
      for (let k = 0; k < 3; k++) values[3 * (at + i) + k] = (1 - w) * from[3 * (skip + i) + k]! + w * to[3 * i + k]!;
    }
    for (const { name, values } of motion.numbers) {
      const from = a.numbers.find((t) => t.name === name)?.values[skip + i] ?? 0;
      const to = b.numbers.find((t) => t.name === name)?.values[i] ?? 0;
      values[at + i] = (1 - w) * from + w * to;
    }
    // labels are never mixed: they change in the middle
    if (w < 0.5)
      for (const { name, labels, values } of motion.steps) {
        const own = a.steps.find((t) => t.name === name);
        if (own) values[at + i] = labels.indexOf(own.labels[own.values[skip + i]!]!);
      }
  }
}

const oneFrame = (motion: Motion, frame: number): Motion => stretchOf(motion, frame, frame);
const firstFrames = (motion: Motion, count: number): Motion =>
  stretchOf(motion, 0, Math.min(count, motion.frameCount) - 1);

/** A pace that differs across a cut is caught up with in this time at most, seconds: a long decay would swing out otherwise. */
const PACE_S = 0.25;

/** Plays the next motion from its first frame, and lets die away what it differs in; over no frames at all it is a cut. */
function decay(plan: RetargetPlan, party: Party, lane: LaneWriter, next: Laid, wished: number): Omit<JoinFact, 'to'> {
  const { at } = next;
  const { rig } = party;
  const n = rig.names.length;
  const itsStands = stands(plan, next);
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
      const { value, pace } = read.turn(before.turns, motion.turns, n, j);
      for (let i = 0; i < count; i++) {
        dying(offset, value, pace, i, count, paced);
        expQuat(q, 0, offset, 0);
        const o = 4 * ((at + i) * n + j);
        mulQuat(lane.motion.turns, o, q, 0, lane.motion.turns, o);
      }
    }
    for (const { joint, values } of lane.motion.places) {
      const { value, pace } = read.place(placesIn(party, before, joint), placesIn(party, motion, joint));
      for (let i = 0; i < count; i++) {
        dying(offset, value, pace, i, count, paced);
        for (let k = 0; k < 3; k++) values[3 * (at + i) + k] = values[3 * (at + i) + k]! + offset[k]!;
      }
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

/** A difference and its pace after so many frames. @param paced frames over which the pace is caught up with */
function dying(
  out: number[],
  value: readonly number[],
  pace: readonly number[],
  i: number,
  count: number,
  paced: number,
): void {
  const left = fadeOut(Math.min(1, i / count))[0];
  const going = i < paced ? paced * fadeOut(i / paced)[1] : 0;
  for (let k = 0; k < 3; k++) out[k] = left * value[k]! + going * pace[k]!;
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
      return { value: [...v], pace: before.map((x, k) => x - after[k]!) };
    },
    place(a: Float32Array, b: Float32Array) {
      const pace = (values: Float32Array, to: number, from: number): number[] =>
        [0, 1, 2].map((k) => (h > 0 ? (values[3 * to + k]! - values[3 * from + k]!) / h : 0));
      const before = pace(a, last, last - h);
      const after = pace(b, h, 0);
      return {
        value: [0, 1, 2].map((k) => a[3 * last + k]! + before[k]! - b[k]!),
        pace: before.map((x, k) => x - after[k]!),
      };
    },
  };
}

/** How much of a motion is looked at to carry it on, seconds. */
const LOOK_S = 3;
/** Where one side alone comes round, it fills the gap and passes into the other within this, seconds. */
const PASS_S = 0.35;

/**
 * Carries both motions on into the gap between them and mixes what comes out. Where only one of them comes round it fills the
 * gap by itself: what a motion that comes to rest says of a gait is nothing.
 */
function bridge(plan: RetargetPlan, party: Party, lane: LaneWriter, next: Laid, gap: number): Omit<JoinFact, 'to'> {
  const look = Math.round(LOOK_S * next.motion.fps);
  const first = Math.max(lane.first, lane.end - look);
  const from = lane.end;
  const on = carryOn(party, lane.copy(first, lane.end - 1), gap);
  const ahead = leadIn(party, firstFrames(next.motion, look), gap);
  // one that comes round much less well has no say either
  const even = on.apart === ahead.apart || Math.max(on.apart, ahead.apart) < 4 * Math.min(on.apart, ahead.apart);
  const pass = even ? gap : Math.min(gap, Math.max(4, Math.round(PASS_S * next.motion.fps)));
  const early = pass < gap && on.apart > ahead.apart;
  // so many frames of the next motion are led in, and so many of the lane carried on
  const led = early || pass === gap ? gap : pass;
  const carriedOn = early ? pass : gap;
  const onward = onto(party, on.motion, lane, next, first, gap, pass < gap && !early);
  const itsStands = stands(plan, next);
  const head = early ? fromWhere(party, ahead.motion, lane, next, gap) : ahead.motion;
  const aheadStands = standsOf(plan, head);
  lane.write(firstFrames(onward, from - first + carriedOn), first, standsOf(plan, onward), from);
  const held = (side: Side): Uint8Array => {
    const out = new Uint8Array(led + next.motion.frameCount);
    out.set(aheadStands.held[side].subarray(gap - led, gap));
    out.set(itsStands.held[side], led);
    return out;
  };
  const fact = crossfade(
    plan,
    party,
    lane,
    {
      ...next,
      motion: joinUp(party, head, gap - led, gap, next.motion),
      at: next.at - led,
      join: { ...next.join, shape: 'smooth' },
    },
    { held: { L: held('L'), R: held('R') }, floor: itsStands.floor },
    pass,
    [from, next.at],
  );
  return { ...fact, kind: 'bridge' };
}

/** The lane carried on, led by and by to where the next motion begins when that stays where it is. */
function onto(
  party: Party,
  on: Motion,
  lane: LaneWriter,
  next: Laid,
  first: number,
  gap: number,
  alone: boolean,
): Motion {
  if (!alone || next.join.meet !== 'world') return on;
  const way = carried(party, firstFrames(next.motion, 2), next.offset ?? STAYS);
  const [, x, z] = new Course(party, way).at(0);
  const [, ax, az] = new Course(party, on).at(lane.end - first + gap);
  return shifted(party, on, (f) => {
    const w = easeAcross((f - (lane.end - first) + 1) / (gap + 1));
    return [w * (x - ax), w * (z - az)];
  });
}

/** The next motion’s lead, coming from where the lane ends when it stays where it is. */
function fromWhere(party: Party, head: Motion, lane: LaneWriter, next: Laid, gap: number): Motion {
  if (next.join.meet !== 'world') return head;
  const [, x, z] = new Course(party, lane.motion, lane.first, lane.end - 1).at(lane.end - 1);
  const [, ax, az] = new Course(party, head).at(-1);
  return shifted(party, head, (f) => {
    const w = 1 - easeAcross((f + 1) / (gap + 1));
    return [w * (x - ax), w * (z - az)];
  });
}

/** Every root moved over the ground, frame by frame. */
function shifted(party: Party, motion: Motion, by: (f: number) => readonly [number, number]): Motion {
  const places = motion.places.map(({ joint, values }) => {
    if (party.rig.parents[joint]! >= 0) return { joint, values };
    const out = values.slice();
    for (let f = 0; f < motion.frameCount; f++) {
      const [x, z] = by(f);
      out[3 * f] = out[3 * f]! + x;
      out[3 * f + 2] = out[3 * f + 2]! + z;
    }
    return { joint, values: out };
  });
  return { ...motion, places };
}

/** Frames from … to − 1 of one motion, then another one. */
function joinUp(party: Party, head: Motion, from: number, to: number, tail: Motion): Motion {
  const n = party.rig.names.length;
  const count = to - from;
  const frames = count + tail.frameCount;
  const turns = new Float32Array(4 * n * frames);
  turns.set(head.turns.subarray(4 * n * from, 4 * n * to));
  turns.set(tail.turns, 4 * n * count);
  const places: PlaceTrack[] = tail.places.map(({ joint, values }) => {
    const out = new Float32Array(3 * frames);
    out.set(placesIn(party, head, joint).subarray(3 * from, 3 * to));
    out.set(values, 3 * count);
    return { joint, values: out };
  });
  const numbers: NumberTrack[] = tail.numbers.map(({ name, values }) => {
    const out = new Float32Array(frames).fill(values[0]!, 0, count);
    out.set(values, count);
    return { name, values: out };
  });
  const steps: StepTrack[] = tail.steps.map(({ name, labels, values }) => {
    const out = new Uint16Array(frames).fill(values[0]!, 0, count);
    out.set(values, count);
    return { name, labels, values: out };
  });
  return { fps: tail.fps, frameCount: frames, turns, places, scales: [], numbers, steps };
}
