import type { Party } from '../body/party';
import type { Side } from '../bodymap/slots';
import { MotionError } from '../errors';
import { MAX_NUMBERS, type Motion } from '../motion/motion';
import { ownPlan, type RetargetPlan } from '../retarget/plan';
import { bridge } from './bridge';
import { crossfade } from './crossfade';
import { decay } from './decay';
import { freeTravel } from './free-travel';
import type { JoinFact, Laid } from './laid';
import { LaneWriter } from './lane-writer';
import { carried, STAYS } from './meet';
import { type Stands, standsOf } from './steps';

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
 * @param laid in rising order of `at` @param frames length of the lane
 * @throws MotionError 'bad-argument' without a motion or out of order, 'too-large' beyond what a motion may hold
 */
export function layLane(given: Party, told: readonly Laid[], frames: number): Lane {
  if (told.length === 0) throw new MotionError('bad-argument', 'The lane is empty: lay a motion on it first.');
  if (told.some((l, i) => i > 0 && l.at < told[i - 1]!.at))
    throw new MotionError('bad-argument', 'The motions of a lane must stand in rising order of their first frames.');
  if (!(frames >= 1) || 4 * given.rig.names.length * frames > MAX_NUMBERS)
    throw new MotionError('too-large', `A lane of ${frames} frames is more than is taken.`);
  const { party, off, on } = freeTravel(given);
  const plan = ownPlan(party);
  // a motion that repeats lies there many times
  const free = remembered(off);
  const standing = remembered((motion: Motion) => standsOf(plan, motion));
  const laid = told.map((l) => {
    const motion = free(l.motion);
    return { ...l, motion, stands: l.stands ?? standing(motion) };
  });
  const lane = new LaneWriter(party, laid, frames);
  const joins: JoinFact[] = [];
  laid.forEach((next, i) => {
    if (next.at >= frames) return;
    if (i === 0) lane.write(carried(party, next.motion, next.offset ?? STAYS), next.at, next.stands);
    else joins.push({ ...joinNext(plan, lane, next), to: i });
  });
  const { motion, held } = lane.finish();
  return { motion: on(motion), held, joins };
}

/** The same answer for the same object. */
function remembered<K extends object, T>(make: (key: K) => T): (key: K) => T {
  const known = new Map<K, T>();
  return (key) => {
    const before = known.get(key);
    if (before !== undefined) return before;
    const made = make(key);
    known.set(key, made);
    return made;
  };
}

/** A frame of the lane may be the second motion's from here on at the latest. */
function joinNext(plan: RetargetPlan, lane: LaneWriter, next: Laid & { stands: Stands }): Omit<JoinFact, 'to'> {
  const gap = next.at - lane.end;
  const wish = next.join;
  const { stands } = next;
  if (wish.kind === 'bridge' && gap > 0 && lane.end - lane.first > 1 && next.motion.frameCount > 1)
    return bridge(plan, lane, next, stands, gap);
  const overlap = Math.min(lane.end - next.at, next.motion.frameCount, Math.round(wish.frames));
  const kind = wish.kind === 'crossfade' && overlap > 0 ? 'crossfade' : wish.kind === 'cut' ? 'cut' : 'decay';
  if (gap > 0) lane.holdUntil(next.at);
  if (kind === 'crossfade') return crossfade(plan, lane, next, stands, overlap);
  return decay(plan, lane, next, stands, kind === 'cut' ? 0 : Math.round(wish.frames));
}
