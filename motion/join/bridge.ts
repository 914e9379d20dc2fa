import type { Party } from '../body/party';
import type { Side } from '../bodymap/slots';
import { easeAcross } from '../math/fade-out';
import type { Motion } from '../motion/motion';
import type { NumberTrack, PlaceTrack, ScaleTrack, StepTrack } from '../motion/tracks';
import type { RetargetPlan } from '../retarget/plan';
import { type CarriedOn, carryOn, leadIn, ROUND } from './carry-on';
import { crossfade } from './crossfade';
import type { JoinFact, Laid } from './laid';
import { type LaneWriter, placesIn } from './lane-writer';
import { Course, carried, STAYS } from './meet';
import { firstFrames, type Stands, standsOf } from './steps';

/** How much of a motion is looked at to carry it on, seconds. */
const LOOK_S = 3;
/** Where one side alone comes round, it fills the gap and passes into the other within this, seconds. */
const PASS_S = 0.35;

/**
 * Carries both motions on into the gap between them and mixes what comes out. Where only one of them comes round it fills the
 * gap by itself: what a motion that comes to rest says of a gait is nothing.
 */
export function bridge(
  plan: RetargetPlan,
  lane: LaneWriter,
  next: Laid,
  itsStands: Stands,
  gap: number,
): Omit<JoinFact, 'to'> {
  const { party } = lane;
  const look = Math.round(LOOK_S * next.motion.fps);
  const first = Math.max(lane.first, lane.end - look);
  const from = lane.end;
  const [on, ahead] = carriedOn(
    party,
    lane.copy(first, lane.end - 1),
    firstFrames(next.motion, look),
    gap,
    GOES * plan.target.body.leg,
  );
  // one that comes round much less well has no say either
  const even = on.apart === ahead.apart || Math.max(on.apart, ahead.apart) < 4 * Math.min(on.apart, ahead.apart);
  const pass = even ? gap : Math.min(gap, Math.max(4, Math.round(PASS_S * next.motion.fps)));
  const early = pass < gap && on.apart > ahead.apart;
  // so many frames of the next motion are led in, and so many of the lane carried on
  const led = early || pass === gap ? gap : pass;
  const kept = early ? pass : gap;
  const onward = onto(party, on.motion, lane, next, first, gap, pass < gap && !early);
  const head = early ? fromWhere(party, ahead.motion, lane, next, gap) : ahead.motion;
  const aheadStands = standsOf(plan, head);
  lane.write(firstFrames(onward, from - first + kept), first, standsOf(plan, onward), from);
  const held = (side: Side): Uint8Array => {
    const out = new Uint8Array(led + next.motion.frameCount);
    out.set(aheadStands.held[side].subarray(gap - led, gap));
    out.set(itsStands.held[side], led);
    return out;
  };
  const fact = crossfade(
    plan,
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

/** A body that goes faster over the ground, in legs a second, does not stop in a gap: it goes on about as it went. */
const GOES = 0.5;
/** How long before an end that is read, seconds. */
const READ_S = 0.2;

/**
 * Both motions carried on into the gap. Where neither comes round and the body goes on its way, whichever does so about is taken
 * to: to stop in the gap and slide the rest of the way would be worse.
 * @param fast metres a second over the ground
 */
function carriedOn(
  party: Party,
  before: Motion,
  after: Motion,
  gap: number,
  fast: number,
): [on: CarriedOn, ahead: CarriedOn] {
  const both = (near: number): [CarriedOn, CarriedOn] => [
    carryOn(party, before, gap, near),
    leadIn(party, after, gap, near),
  ];
  const sides = both(ROUND.like);
  if (sides.some((s) => s.lap > 0)) return sides;
  const back = Math.min(before.frameCount - 1, Math.round(READ_S * before.fps));
  const course = new Course(party, before);
  const [, x, z] = course.at(before.frameCount - 1);
  const [, a, b] = course.at(before.frameCount - 1 - back);
  const goes = back > 0 && (Math.hypot(x - a, z - b) * before.fps) / back > fast;
  return goes ? both(ROUND.about) : sides;
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
  const scales: ScaleTrack[] = tail.scales.map(({ joint, values }) => {
    const out = new Float32Array(3 * frames);
    for (let f = 0; f < count; f++) out.set(values.subarray(0, 3), 3 * f);
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
  return { fps: tail.fps, frameCount: frames, turns, places, scales, numbers, steps };
}
