import type { Body } from '../body/body';
import { SIDES } from '../bodymap/slots';
import { norm, rotate64 } from '../math/fast';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import type { SkeletonRig } from '../rig/rig';

/** Points of the soles, and other parts of the body that can be held. */
export type SolePart = 'heelL' | 'ballL' | 'heelR' | 'ballR';
export type HoldPart = 'handL' | 'handR' | 'kneeL' | 'kneeR' | 'seat';
export type PlantPart = SolePart | HoldPart;
export const SOLE_PARTS: readonly SolePart[] = ['heelL', 'ballL', 'heelR', 'ballR'];
/** In the order in which strips number them. */
export const PLANT_PARTS: readonly PlantPart[] = [...SOLE_PARTS, 'handL', 'handR', 'kneeL', 'kneeR', 'seat'];

/** Whether a part is a point of a sole, and no hand, knee or seat. */
export const isSole = (part: PlantPart): part is SolePart => part.startsWith('heel') || part.startsWith('ball');
/** Side of a part; undefined for the seat. */
export const sideOfPart = (part: PlantPart): 'L' | 'R' | undefined =>
  part.endsWith('L') ? 'L' : part.endsWith('R') ? 'R' : undefined;

/** A stretch of frames, both ends included, in which a part of the body is held on a spot. */
export interface Plant {
  readonly part: PlantPart;
  readonly start: number;
  readonly end: number;
  /** A spot chosen by hand for the target, x and z in its world, metres; where left out the spot follows from the motion. */
  readonly pin?: readonly [number, number] | undefined;
}

/** World places of the sole points over time, 3 F numbers each, metres. */
export type SoleTracks = Partial<Record<SolePart, Float64Array>>;

/**
 * World places of heels and balls of both feet over time: 3 F numbers each, metres. A foot without a sole has none.
 */
export function soleTracks(rig: SkeletonRig, motion: Motion, body: Body): SoleTracks {
  const tracks: SoleTracks = {};
  const feet = SIDES.flatMap((side) => {
    const sole = body.soles[side];
    if (!sole) return [];
    const heel = new Float64Array(3 * motion.frameCount);
    const ball = new Float64Array(3 * motion.frameCount);
    tracks[`heel${side}`] = heel;
    tracks[`ball${side}`] = ball;
    return [{ sole, heel, ball }];
  });
  const reader = new ChainReader(
    rig,
    motion,
    feet.map((f) => f.sole.foot),
  );
  for (let f = 0; f < motion.frameCount; f++) {
    const { r, p } = reader.at(f);
    for (const { sole, heel, ball } of feet) {
      rotate64(heel, 3 * f, r, 4 * sole.foot, sole.heel, 0);
      rotate64(ball, 3 * f, r, 4 * sole.foot, sole.ball, 0);
      for (let k = 0; k < 3; k++) {
        heel[3 * f + k] = heel[3 * f + k]! + p[3 * sole.foot + k]!;
        ball[3 * f + k] = ball[3 * f + k]! + p[3 * sole.foot + k]!;
      }
    }
  }
  return tracks;
}

export interface Contacts {
  readonly plants: readonly Plant[];
  /** Height of the ground the motion stands on, metres. */
  readonly floor: number;
}

// thresholds, in legs per second and legs
const SLOW = 0.16;
const FAST = 0.25;
/** Speed over a passing ground that still counts as standing, as a share of how fast it passes. */
const SKIDS = 0.12;
const NEAR = 0.045;
const LEVEL = 0.04;
const TOUCH = 0.0045;
const LEAVE = 0.02;
/** A heel or ball so much higher than the foot's other end is off the ground. */
const TIPPED = 0.02;
const OTHER_END = { heelL: 'ballL', ballL: 'heelL', heelR: 'ballR', ballR: 'heelR' } as const;
const SHORTEST_S = 0.05;
const BRIDGE_S = 0.05;

/**
 * Finds plants of heels and balls of the feet: stretches of low speed with hysteresis that touch the ground, or carry the
 * body on a step above it, at some time. After Ikemoto, Arikan, Forsyth, Knowing when to put your foot down, 2006
 * (speed and height), with persistence in place of their training.
 * @param beltSpeed how fast the ground passes under a gait on the spot, metres a second: feet keep to it only roughly
 */
export function findContacts(found: SoleTracks, fps: number, leg: number, beltSpeed = 0): Contacts {
  const parts = SOLE_PARTS.filter((p) => found[p]);
  if (parts.length === 0 || !(leg > 0)) return { plants: [], floor: 0 };
  const tracks: SoleTracks = Object.fromEntries(parts.map((p) => [p, calmed(found[p]!, fps, leg)]));
  const speeds = new Map(parts.map((p) => [p, speedOf(tracks[p]!, fps)]));
  const floor = groundHeight(
    parts.map((p) => tracks[p]!),
    parts.map((p) => speeds.get(p)!),
    leg,
  );
  const frames = tracks[parts[0]!]!.length / 3;
  const lowest = new Float64Array(frames).fill(Number.POSITIVE_INFINITY);
  for (const p of parts) for (let f = 0; f < frames; f++) lowest[f] = Math.min(lowest[f]!, tracks[p]![3 * f + 1]!);
  const plants: Plant[] = [];
  for (const part of parts) {
    const speed = speeds.get(part)!;
    const track = tracks[part]!;
    const other = tracks[OTHER_END[part]];
    const carries = (f: number): boolean => {
      const y = track[3 * f + 1]!;
      if (other && y - other[3 * f + 1]! > TIPPED * leg) return false;
      return y - floor < NEAR * leg || y - lowest[f]! < LEVEL * leg * 0.75;
    };
    const own: Plant[] = [];
    for (const span of slowSpans(speed, leg, fps, beltSpeed)) {
      let touching = 0;
      for (let f = span.start; f <= span.end; f++) if (carries(f)) touching++;
      if (touching < Math.max(2, 0.3 * (span.end - span.start + 1))) continue;
      for (const { start, end } of levelSpans(track, span, leg)) {
        if ((end - start + 1) / fps >= SHORTEST_S || frames <= 3) own.push({ part, start, end });
      }
    }
    plants.push(...rejoined(own, track, leg, fps));
  }
  return {
    plants: plants.sort((a, b) => a.start - b.start || PLANT_PARTS.indexOf(a.part) - PLANT_PARTS.indexOf(b.part)),
    floor: lowestStand(plants, tracks, floor, leg),
  };
}

/** Soles of captures sink by less than this share of a leg: what stands lower stands on lower ground. */
const LOWER = 0.08;

/** The ground, or a step below it on which a foot stands, however short: nobody stands under the ground. */
function lowestStand(plants: readonly Plant[], tracks: SoleTracks, floor: number, leg: number): number {
  let lowest = floor;
  for (const { part, start, end } of plants) {
    const track = isSole(part) ? tracks[part] : undefined;
    if (!track) continue;
    let sum = 0;
    for (let f = start; f <= end; f++) sum += track[3 * f + 1]!;
    lowest = Math.min(lowest, sum / (end - start + 1));
  }
  return floor - lowest > LOWER * leg ? lowest : floor;
}

/** Longest stretch that noise alone can tear out of a plant, seconds, and how far the point may stray in it, legs. */
const TORN_S = 0.3;
const STRAY = 0.035;

/** Plants that noise tore apart: what lies between stays near the spot, so it is one plant. */
function rejoined(plants: readonly Plant[], track: Float64Array, leg: number, fps: number): Plant[] {
  const out: Plant[] = [];
  for (const next of plants) {
    const last = out.at(-1);
    const f = 3 * next.start;
    const near = (o: number): boolean =>
      norm(track[o]! - track[f]!, track[o + 1]! - track[f + 1]!, track[o + 2]! - track[f + 2]!) < STRAY * leg;
    let one = last !== undefined && next.start - last.end <= TORN_S * fps;
    for (let o = one ? 3 * last!.end : f; one && o < f; o += 3) one = near(o);
    if (one) out[out.length - 1] = { ...last!, end: next.end };
    else out.push(next);
  }
  return out;
}

/** Longest time over which a jittery track is averaged before plants are looked for, seconds. */
const CALM_S = 0.1;

/**
 * The track averaged over as many frames as its jitter asks for, none for most: noise that makes a resting foot look fast
 * would break its plant. The jitter is the middle second difference, which a smooth motion hardly has.
 */
function calmed(track: Float64Array, fps: number, leg: number): Float64Array {
  const frames = track.length / 3;
  if (frames < 12) return track;
  const step = Math.max(1, Math.floor(frames / 400));
  const jumps = new Float64Array(Math.ceil((frames - 2) / step));
  for (let f = 1, i = 0; f + 1 < frames; f += step, i++)
    jumps[i] = norm(
      track[3 * f]! * 2 - track[3 * f - 3]! - track[3 * f + 3]!,
      track[3 * f + 1]! * 2 - track[3 * f - 2]! - track[3 * f + 4]!,
      track[3 * f + 2]! * 2 - track[3 * f - 1]! - track[3 * f + 5]!,
    );
  // second differences of white noise in three directions are some 4.2 times its deviation
  const jitter = jumps.sort()[Math.floor(0.3 * jumps.length)]! / 4.2;
  const w0 = Math.max(1, Math.round(fps / 60));
  const speed = (jitter * Math.SQRT2 * fps) / (2 * w0);
  const wanted = speed / (0.05 * leg);
  const w = Math.min(Math.round((wanted * wanted - 1) / 2), Math.round((CALM_S * fps) / 2));
  if (w < 1) return track;
  // running sums: the window grows and shrinks at the ends
  const out = new Float64Array(track.length);
  for (let k = 0; k < 3; k++) {
    let sum = 0;
    let count = 0;
    for (let f = 0; f < Math.min(w, frames); f++, count++) sum += track[3 * f + k]!;
    for (let f = 0; f < frames; f++) {
      if (f + w < frames) {
        sum += track[3 * (f + w) + k]!;
        count++;
      }
      if (f - w - 1 >= 0) {
        sum -= track[3 * (f - w - 1) + k]!;
        count--;
      }
      out[3 * f + k] = sum / count;
    }
  }
  return out;
}

/** Speed in metres per second by central difference over about a thirtieth of a second, which capture noise does not move. */
export function speedOf(track: Float64Array, fps: number): Float64Array {
  const frames = track.length / 3;
  const w = Math.max(1, Math.round(fps / 60));
  const out = new Float64Array(frames);
  for (let f = 0; f < frames; f++) {
    const a = Math.max(0, f - w);
    const b = Math.min(frames - 1, f + w);
    if (b === a) continue;
    const d = norm(
      track[3 * b]! - track[3 * a]!,
      track[3 * b + 1]! - track[3 * a + 1]!,
      track[3 * b + 2]! - track[3 * a + 2]!,
    );
    out[f] = (d * fps) / (b - a);
  }
  return out;
}

/**
 * Stretches of frames, both ends included, in which a point is slow: it begins below 0.16 legs a second, lasts to
 * 0.25, and what is torn for a twentieth of a second is one.
 * @param speed metres a second, one a frame @param leg length of a leg, metres
 */
export function slowSpans(
  speed: Float64Array,
  leg: number,
  fps: number,
  beltSpeed = 0,
): { start: number; end: number }[] {
  const slow = SLOW * leg + SKIDS * beltSpeed;
  const fast = FAST * leg + 2 * SKIDS * beltSpeed;
  const spans: { start: number; end: number }[] = [];
  const n = speed.length;
  for (let f = 0; f < n; f++) {
    if (speed[f]! >= slow) continue;
    let start = f;
    let end = f;
    while (start > 0 && speed[start - 1]! < fast) start--;
    while (end < n - 1 && speed[end + 1]! < fast) end++;
    const last = spans.at(-1);
    if (last && start - last.end <= BRIDGE_S * fps) last.end = end;
    else spans.push({ start, end });
    f = end;
  }
  return spans;
}

/**
 * Parts of a slow stretch that stay at its level: a heel that slowly rises and comes back is not held in between, and a
 * ball that still comes down is not held yet. Hysteresis: begins and ends within TOUCH of the level, unbroken within LEAVE.
 */
function levelSpans(
  track: Float64Array,
  span: { start: number; end: number },
  leg: number,
): { start: number; end: number }[] {
  const heights = new Float64Array(span.end - span.start + 1);
  for (let i = 0; i < heights.length; i++) heights[i] = track[3 * (span.start + i) + 1]!;
  const level = quantile(heights.slice().sort(), 0.5);
  const out: { start: number; end: number }[] = [];
  let last: { start: number; end: number } | undefined;
  for (let i = 0; i < heights.length; i++) {
    const away = Math.max(0, heights[i]! - level);
    if (away > LEAVE * leg) last = undefined;
    if (away > TOUCH * leg) continue;
    const f = span.start + i;
    if (last) last.end = f;
    else {
      last = { start: f, end: f };
      out.push(last);
    }
  }
  return out;
}

const quantile = (sorted: Float64Array, share: number): number => sorted[Math.floor(share * (sorted.length - 1))] ?? 0;

/** Ground under a motion: a low quantile of the heights at which sole points rest, of all heights where none rests. */
function groundHeight(tracks: Float64Array[], speeds: Float64Array[], leg: number): number {
  const frames = tracks[0]!.length / 3;
  // a few thousand heights say as much as all of them
  const step = Math.max(1, Math.floor((frames * tracks.length) / 6000));
  const resting = new Float64Array(Math.ceil(frames / step) * tracks.length);
  const all = new Float64Array(resting.length);
  let rests = 0;
  let count = 0;
  tracks.forEach((track, i) => {
    for (let f = 0; f < frames; f += step) {
      all[count++] = track[3 * f + 1]!;
      if (speeds[i]![f]! < SLOW * leg) resting[rests++] = track[3 * f + 1]!;
    }
  });
  if (rests < 4) return quantile(all.subarray(0, count).sort(), 0.02);
  const sorted = resting.subarray(0, rests).sort();
  const low = quantile(sorted, 0.05);
  const from = sorted.findIndex((y) => y >= low);
  let to = sorted.findIndex((y) => y - low >= 0.03 * leg);
  if (to < 0) to = sorted.length;
  return quantile(sorted.subarray(from, to), 0.5);
}

/** Height of each plant over the source's ground, scaled; what is nearly level is level. */
export function plantHeights(tracks: SoleTracks, contacts: Contacts, leg: number, scale: number): number[] {
  return contacts.plants.map((plant) => {
    const track = isSole(plant.part) ? tracks[plant.part] : undefined;
    if (!track) return 0;
    let sum = 0;
    for (let f = plant.start; f <= plant.end; f++) sum += track[3 * f + 1]!;
    const height = sum / (plant.end - plant.start + 1) - contacts.floor;
    return Math.abs(height) < 0.05 * leg ? 0 : height * scale;
  });
}
