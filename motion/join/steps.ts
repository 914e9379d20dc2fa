import { type Contacts, findContacts, plantHeights, type SoleTracks, soleTracks } from '../analysis/plants';
import type { Side } from '../bodymap/slots';
import { easeAcross } from '../math/fade-out';
import { mul64, mulInv64, norm, rotate64, slerp64 } from '../math/fast';
import { arcQuat } from '../math/quat';
import type { Motion } from '../motion/motion';
import { turnedRound } from '../motion/turned-round';
import { type FootTrack, trackFeet } from '../retarget/foot-track';
import type { RetargetPlan } from '../retarget/plan';
import { reachFeet } from '../retarget/reach-feet';

/** Which points of a foot stand in a frame, as bits. */
export const HEEL = 1;
export const BALL = 2;

/** What the feet of a motion stand on, frame by frame. */
export interface Stands {
  /** F bits each: HEEL, BALL. */
  readonly held: Readonly<Record<Side, Uint8Array>>;
  /** Height of the ground, metres. */
  readonly floor: number;
}

/** What the feet of a motion stand on, and how high that lies under the body in every frame. */
export interface Grounded extends Stands {
  /** F: height of what the feet stand on, metres; from one stand to the next in a straight line, as on steps and slopes. */
  readonly ground: Float32Array;
}

/** The plants of a motion's feet, and the tracks that they were read from; undefined for a body without legs. */
function plantsOf(plan: RetargetPlan, motion: Motion): { tracks: SoleTracks; contacts: Contacts } | undefined {
  const { body, rig, cutout } = plan.target;
  if (body.leg === 0) return undefined;
  const tracks = soleTracks(rig, turnedRound(cutout, motion), body);
  return { tracks, contacts: findContacts(tracks, motion.fps, body.leg) };
}

function standing(frames: number, { plants, floor }: Contacts): Stands {
  const held = { L: new Uint8Array(frames), R: new Uint8Array(frames) };
  for (const { part, start, end } of plants) {
    const bits = held[part.endsWith('L') ? 'L' : 'R'];
    const bit = part.startsWith('heel') ? HEEL : BALL;
    for (let f = start; f <= end; f++) bits[f] = bits[f]! | bit;
  }
  return { held, floor };
}

const AFLOAT: Contacts = { plants: [], floor: 0 };

/** Reads which points of the feet are planted. */
export const standsOf = (plan: RetargetPlan, motion: Motion): Stands =>
  standing(motion.frameCount, plantsOf(plan, motion)?.contacts ?? AFLOAT);

/** Reads which points of the feet are planted, and on what. */
export function groundedOn(plan: RetargetPlan, motion: Motion): Grounded {
  const frames = motion.frameCount;
  const read = plantsOf(plan, motion);
  const stands = standing(frames, read?.contacts ?? AFLOAT);
  const ground = new Float32Array(frames).fill(stands.floor);
  if (!read) return { ...stands, ground };
  const heights = plantHeights(read.tracks, read.contacts, plan.target.body.leg, 1);
  // where both feet stand, the lower one tells
  const told = new Float32Array(frames).fill(Number.POSITIVE_INFINITY);
  read.contacts.plants.forEach(({ start, end }, i) => {
    for (let f = start; f <= end; f++) told[f] = Math.min(told[f]!, heights[i]!);
  });
  let before = -1;
  for (let f = 0; f < frames; f++) {
    if (told[f] === Number.POSITIVE_INFINITY) continue;
    const from = before < 0 ? told[f]! : told[before]!;
    for (let g = before + 1; g <= f; g++)
      ground[g] = stands.floor + from + (before < 0 ? 0 : ((told[f]! - from) * (g - before)) / (f - before));
    before = f;
  }
  if (before >= 0) ground.fill(stands.floor + told[before]!, before + 1);
  return { ...stands, ground };
}

/** A passage from one motion to the next, as the feet see it. Frames are those of the lane. */
export interface Passage {
  /** First frame that is no longer the first motion's own, and the first that is the second motion's own again. */
  readonly start: number;
  readonly end: number;
  /** From here on the second motion's plants count. */
  readonly middle: number;
  /** The second motion's last frame on the lane. */
  readonly last: number;
  /** What stands in a frame of the lane: the first motion's before the middle, the second's from it on. */
  readonly held: Readonly<Record<Side, Uint8Array>>;
  /** The first motion in the frames from `from` on, and the second one, both as they stand on the lane. */
  readonly before: { readonly motion: Motion; readonly from: number };
  readonly after: { readonly motion: Motion; readonly from: number };
  readonly floor: number;
}

/** A stand that goes on for longer than this after a passage is not carried along displaced: the foot steps over, seconds. */
const LONG_S = 0.5;
/** A displacement below the first is carried along however long, one above the second not at all: legs. */
const FAR = 0.08;
const TOO_FAR = 0.2;
/** How long such a step takes at least, seconds, and how high the foot is lifted, legs. */
const STEP_S = 0.35;
const LIFT = 0.06;
/** A foot that swings before a passage lands in it after this at the soonest, seconds. */
const LAND_S = 0.2;
/** The body gives way over so long around a foot that is out of reach, seconds. */
const PAD_S = 0.25;

/**
 * Leads the feet through a passage, in place: a foot that stands in the first motion stays on its spot, one that touches down
 * in the second one lands on its own; what stands through both stays where the first put it until it is lifted, or steps over
 * where it would stay displaced for long. Between stands the difference passes smoothly, so that the swing keeps its shape.
 * Footskate cleanup after Kovar, Schreiner, Gleicher 2002, with the plants of both motions known.
 * @param lane the mixed motion; its turns and the places of its carrier are written over in the passage and shortly after
 * @param given its stands are cleared where a foot steps
 */
export function leadFeet(plan: RetargetPlan, lane: Motion, given: Passage): void {
  const { leg } = plan.target.body;
  if (leg === 0) return;
  const from = Math.max(0, given.start - 1);
  const passage = { ...given, last: lastLed(given, lane.fps) };
  const feet = trackFeet(plan, stretchOf(lane, from, passage.last)).map((track) => new Foot(track, from));
  const tracksOf = ({ motion, from: first }: Passage['before']): Own[] =>
    trackFeet(plan, motion).map((track) => ({ track, from: first }));
  const before = tracksOf(passage.before);
  const after = tracksOf(passage.after);
  const own = feet.map((_, i) => [before[i]!, after[i]!] as const);
  standsOn(passage, feet, own, lane.fps, leg).forEach((plans, i) => {
    leadFoot(feet[i]!, plans, ...own[i]!, passage, lane.fps, leg);
  });
  const until = Math.max(...feet.map((f) => f.until));
  if (until < passage.start) return;
  const pad = Math.round(PAD_S * lane.fps);
  const first = Math.max(0, from - pad);
  // what is around is read once more, so that a body that gives way does so smoothly
  const slice = stretchOf(lane, first, Math.min(given.last, until + pad));
  const whole = trackFeet(plan, slice);
  const frames = slice.frameCount;
  const plans = whole.map((track, i) => {
    const { goal, turn, toeTurn } = feet[i]!;
    const ankle = track.ankle.slice();
    const held = new Uint8Array(frames);
    for (let at = 0; at < goal.length / 3 && from + at - first < frames; at++) {
      const to = from + at - first;
      for (let k = 0; k < 3; k++) ankle[3 * to + k] = goal[3 * at + k]!;
      for (let k = 0; k < 4; k++) track.turn[4 * to + k] = turn[4 * at + k]!;
      if (track.toeTurn.length > 0) for (let k = 0; k < 4; k++) track.toeTurn[4 * to + k] = toeTurn[4 * at + k]!;
      held[to] = passage.held[track.side][from + at]! > 0 ? 1 : 0;
    }
    const empty = new Float64Array(frames);
    return { goal: ankle, held, pivot: new Uint8Array(frames), clear: empty, ground: empty };
  });
  const { motion } = reachFeet(plan, slice, whole, plans);
  writeBack(lane, motion, first);
}

/** The last frame in which a foot may still be displaced: after its stand has ended and the next one has begun. */
function lastLed({ end, last, held }: Passage, fps: number): number {
  let led = Math.min(last, end + Math.round(STEP_S * fps));
  for (const bits of [held.L, held.R]) {
    let f = end;
    while (f < last && bits[f]) f++;
    while (f < last && !bits[f]) f++;
    led = Math.max(led, Math.min(last, f));
  }
  return led;
}

/** Frames first to last of a motion's turns, places and sizes, as views: nothing is copied. */
export function stretchOf(motion: Motion, first: number, last: number): Motion {
  const n = motion.turns.length / (4 * motion.frameCount);
  return {
    ...motion,
    frameCount: last - first + 1,
    turns: motion.turns.subarray(4 * n * first, 4 * n * (last + 1)),
    places: motion.places.map((t) => ({ ...t, values: t.values.subarray(3 * first, 3 * (last + 1)) })),
    // a cut-out that is turned over stands on other spots
    scales: motion.scales.map((t) => ({ ...t, values: t.values.subarray(3 * first, 3 * (last + 1)) })),
    numbers: [],
    steps: [],
  };
}

/** The first frames of a motion, as far as it goes. */
export const firstFrames = (motion: Motion, count: number): Motion =>
  stretchOf(motion, 0, Math.min(count, motion.frameCount) - 1);

function writeBack(lane: Motion, slice: Motion, first: number): void {
  const stride = lane.turns.length / lane.frameCount;
  lane.turns.set(slice.turns, stride * first);
  for (const { joint, values } of slice.places) {
    const own = lane.places.find((t) => t.joint === joint);
    own?.values.set(values, 3 * first);
  }
}

/** Frames of the lane, both included, in which a foot stands. */
interface Stand {
  start: number;
  end: number;
}

/** How a foot differs from where the mixed motion has it: a turn in the world put in front of its own, and a way of its ankle. */
interface Off {
  readonly turn: Float64Array;
  readonly by: Float64Array;
}
const none = (): Off => ({ turn: Float64Array.of(0, 0, 0, 1), by: new Float64Array(3) });
const copyOff = (to: Off, from: Off): void => {
  to.turn.set(from.turn);
  to.by.set(from.by);
};
/** Less than this is nothing: metres, and half the sine of an angle. */
const NOTHING = 1e-5;
const isNothing = ({ turn, by }: Off): boolean =>
  norm(by[0]!, by[1]!, by[2]!) < NOTHING && norm(turn[0]!, turn[1]!, turn[2]!) < NOTHING;

/** One foot while it is led. */
class Foot {
  readonly goal: Float64Array;
  readonly turn: Float64Array;
  readonly toeTurn: Float64Array;
  readonly off = none();
  until: number;
  private readonly point = new Float64Array(3);
  private readonly way = new Float64Array(3);
  private readonly flat = new Float64Array(3);
  private readonly tip = new Float64Array(4);

  constructor(
    readonly raw: FootTrack,
    readonly from: number,
  ) {
    this.goal = raw.ankle.slice();
    this.turn = raw.turn.slice();
    this.toeTurn = raw.toeTurn.slice();
    this.until = from;
  }

  /** Places a frame by a displacement; what would be under the ground is lifted. */
  displace(f: number, { turn, by }: Off, floor: number): void {
    const at = f - this.from;
    this.turnTo(f, turn);
    for (let k = 0; k < 3; k++) this.goal[3 * at + k] = this.raw.ankle[3 * at + k]! + by[k]!;
    const { heel, ball } = this.raw.sole;
    const low = Math.min(this.pointAt(f, heel)[1]!, this.pointAt(f, ball)[1]!);
    if (low < floor) this.goal[3 * at + 1] = this.goal[3 * at + 1]! + floor - low;
    this.until = Math.max(this.until, f);
  }

  private turnTo(f: number, turn: Float64Array): void {
    const at = 4 * (f - this.from);
    mul64(this.turn, at, turn, 0, this.raw.turn, at);
    if (this.toeTurn.length > 0) mul64(this.toeTurn, at, turn, 0, this.raw.toeTurn, at);
  }

  /** World place of a point of the sole; the array is used again. */
  private pointAt(f: number, local: Float64Array): Float64Array {
    const at = f - this.from;
    rotate64(this.point, 0, this.turn, 4 * at, local, 0);
    for (let k = 0; k < 3; k++) this.point[k] = this.point[k]! + this.goal[3 * at + k]!;
    return this.point;
  }

  /** Keeps the foot on its spot from a frame whose place is settled to another: it rolls over heel or ball, as it does by itself. */
  hold(first: number, last: number, bits: Uint8Array, floor: number): void {
    const { raw, from, off } = this;
    const anchor = new Float64Array(3);
    let local: Float64Array | undefined;
    for (let f = first + 1; f <= last; f++) {
      const at = f - from;
      const common = bits[f]! & bits[f - 1]!;
      const point = common & BALL ? raw.sole.ball : common & HEEL ? raw.sole.heel : local;
      if (point !== local) {
        local = point;
        if (local) anchor.set(this.pointAt(f - 1, local));
      }
      if (common === (HEEL | BALL)) {
        // flat on the ground: it does not turn at all
        for (let k = 0; k < 4; k++) this.turn[4 * at + k] = this.turn[4 * at - 4 + k]!;
        mulInv64(off.turn, 0, this.turn, 4 * at, raw.turn, 4 * at);
      }
      this.turnTo(f, off.turn);
      if (local) {
        if (common !== (HEEL | BALL)) this.tiltUp(f, local, anchor[1]!, floor);
        rotate64(this.point, 0, this.turn, 4 * at, local, 0);
        for (let k = 0; k < 3; k++) this.goal[3 * at + k] = anchor[k]! - this.point[k]!;
      } else for (let k = 0; k < 3; k++) this.goal[3 * at + k] = raw.ankle[3 * at + k]! + off.by[k]!;
      for (let k = 0; k < 3; k++) off.by[k] = this.goal[3 * at + k]! - raw.ankle[3 * at + k]!;
    }
    this.until = Math.max(this.until, last);
  }

  /** Tips the foot about the point that stands until its other end is no longer under the ground. @param height of what stands */
  private tiltUp(f: number, stands: Float64Array, height: number, floor: number): void {
    const at = f - this.from;
    const { heel, ball } = this.raw.sole;
    const { way, flat, tip } = this;
    const other = stands === ball ? heel : ball;
    for (let k = 0; k < 3; k++) flat[k] = other[k]! - stands[k]!;
    rotate64(way, 0, this.turn, 4 * at, flat, 0);
    const least = Math.min(0, floor - height);
    if (way[1]! >= least - NOTHING) return;
    const long = norm(way[0]!, way[1]!, way[2]!);
    const across = norm(way[0]!, 0, way[2]!);
    if (across < NOTHING) return;
    const out = Math.sqrt(Math.max(0, long * long - least * least)) / across;
    flat.set([way[0]! * out, least, way[2]! * out]);
    arcQuat(tip, 0, way, 0, flat, 0);
    mul64(this.turn, 4 * at, tip, 0, this.turn, 4 * at);
    if (this.toeTurn.length > 0) mul64(this.toeTurn, 4 * at, tip, 0, this.toeTurn, 4 * at);
  }

  /** Passes from one displacement to another between two frames that are settled. @param high how far it is lifted on the way, metres */
  swing(first: number, last: number, from: Off, to: Off, high: number, floor: number): void {
    const now = none();
    for (let f = first; f <= last; f++) {
      const x = (f - first + 1) / (last - first + 2);
      const w = easeAcross(x);
      slerp64(now.turn, 0, from.turn, 0, to.turn, 0, w);
      for (let k = 0; k < 3; k++) now.by[k] = (1 - w) * from.by[k]! + w * to.by[k]!;
      now.by[1] = now.by[1]! + high * 16 * (x * (1 - x)) ** 2;
      this.displace(f, now, floor);
    }
  }
}

/** The feet of both motions as they stand on the lane. */
interface Own {
  readonly track: FootTrack;
  readonly from: number;
}

function leadFoot(
  foot: Foot,
  { stands, lifts }: { stands: readonly Stand[]; lifts: readonly Stand[] },
  before: Own,
  after: Own,
  passage: Passage,
  fps: number,
  leg: number,
): void {
  const { start, end, middle, last, held, floor } = passage;
  const { off } = foot;
  const bits = held[foot.raw.side];
  const still = none();
  const target = (f: number): Off => {
    const to = none();
    if (f < start || f >= end) return to;
    const { track, from } = f < middle ? before : after;
    const a = f - from;
    const b = f - foot.from;
    mulInv64(to.turn, 0, track.turn, 4 * a, foot.raw.turn, 4 * b);
    for (let k = 0; k < 3; k++) to.by[k] = track.ankle[3 * a + k]! - foot.raw.ankle[3 * b + k]!;
    return to;
  };
  // the first frame that nothing is settled for
  let free = start;
  for (const stand of stands) {
    if (stand.end < start) continue;
    if (stand.start >= start) {
      const to = target(stand.start);
      const lifted = lifts.some((l) => l.start <= stand.start && l.end >= free);
      if (stand.start > free) foot.swing(free, stand.start - 1, off, to, lifted ? LIFT * leg : 0, floor);
      copyOff(off, to);
      if (stand.start >= end) return;
      foot.displace(stand.start, off, Number.NEGATIVE_INFINITY);
      foot.hold(stand.start, Math.min(stand.end, last), bits, floor);
    } else foot.hold(start - 1, Math.min(stand.end, last), bits, floor);
    free = Math.min(stand.end, last) + 1;
    if (free >= end && isNothing(off)) return;
  }
  // nothing stands any more: what is left dies away
  const ends = Math.min(last, Math.max(end - 1, free + Math.round(STEP_S * fps)));
  if (ends >= free) foot.swing(free, ends, off, still, 0, floor);
}

/**
 * Where both feet stand. What stands through the middle of the passage is one stand, unless it would stay displaced far and
 * long: then it steps, and two feet that have to do so one after the other.
 */
function standsOn(
  passage: Passage,
  tracks: readonly Foot[],
  own: readonly (readonly [Own, Own])[],
  fps: number,
  leg: number,
) {
  const { middle, end, last, start } = passage;
  const half = Math.max(2, Math.round((STEP_S * fps) / 2));
  const plans = tracks.map((foot, i) => {
    const bits = passage.held[foot.raw.side];
    const stands: Stand[] = [];
    for (let f = Math.max(0, start - 1); f <= last; f++) {
      if (!bits[f]) continue;
      const first = f;
      while (f < last && bits[f + 1]) f++;
      stands.push({ start: first, end: f });
    }
    const through = stands.find((s) => s.start < middle && s.end >= middle);
    // what stands in the second motion at once has to come down first
    for (const s of stands) {
      const lands = Math.min(s.end, start + Math.round(LAND_S * fps));
      if (s === through || s.start < start || s.start >= lands) continue;
      bits.fill(0, s.start, lands);
      s.start = lands;
    }
    const [before, after] = own[i]!;
    const a = 3 * (Math.max(middle - 1, before.from) - before.from);
    const b = 3 * (middle - after.from);
    const far = through
      ? norm(
          after.track.ankle[b]! - before.track.ankle[a]!,
          after.track.ankle[b + 1]! - before.track.ankle[a + 1]!,
          after.track.ankle[b + 2]! - before.track.ankle[a + 2]!,
        )
      : 0;
    return { stands, through, steps: far > TOO_FAR * leg || (far > FAR * leg && through!.end - end > LONG_S * fps) };
  });
  const both = plans.filter((p) => p.steps).length > 1;
  return plans.map(({ stands, through, steps }, i) => {
    if (!steps || !through) return { stands, lifts: [] };
    const bits = passage.held[tracks[i]!.raw.side];
    const first = Math.max(start, middle - (both ? 2 * half : half)) + (both && i > 0 ? 2 * half : 0);
    if (through.end - first < half) {
      // it lifts before it could have stepped: it goes at once
      bits.fill(0, middle, through.end + 1);
      const cut = { start: through.start, end: middle - 1 };
      return { stands: stands.map((s) => (s === through ? cut : s)), lifts: [] };
    }
    const lift = { start: first, end: Math.min(through.end - 1, first + 2 * half - 1) };
    const parts = [
      { start: through.start, end: lift.start - 1 },
      { start: lift.end + 1, end: through.end },
    ].filter((s) => s.end >= s.start);
    // on its way it does not stand
    bits.fill(0, lift.start, lift.end + 1);
    return { stands: stands.flatMap((s) => (s === through ? parts : [s])), lifts: [lift] };
  });
}
