import { SIDES } from '../bodymap/slots';
import { rotate3 } from '../math/quat';
import { type Motion, PoseReader } from '../motion/motion';
import type { Body } from '../rig/body';
import type { Rig } from '../rig/rig';

export type PlantPart = 'heelL' | 'ballL' | 'heelR' | 'ballR';
export const PLANT_PARTS: readonly PlantPart[] = ['heelL', 'ballL', 'heelR', 'ballR'];

/** A stretch of frames, both ends included, in which a part of the body is held on a spot. */
export interface Plant {
  readonly part: PlantPart;
  readonly start: number;
  readonly end: number;
}

/** World places of the sole points over time, 3 F numbers each, metres. */
export type SoleTracks = Partial<Record<PlantPart, Float64Array>>;

export function soleTracks(rig: Rig, motion: Motion, body: Body): SoleTracks {
  const tracks: SoleTracks = {};
  const reader = new PoseReader(rig, motion);
  for (const side of SIDES) {
    if (!body.soles[side]) continue;
    tracks[`heel${side}`] = new Float64Array(3 * motion.frameCount);
    tracks[`ball${side}`] = new Float64Array(3 * motion.frameCount);
  }
  for (let f = 0; f < motion.frameCount; f++) {
    const pose = reader.at(f);
    for (const side of SIDES) {
      const sole = body.soles[side];
      if (!sole) continue;
      for (const [track, local] of [[tracks[`heel${side}`]!, sole.heel], [tracks[`ball${side}`]!, sole.ball]] as const) {
        rotate3(track, 3 * f, pose.r, 4 * sole.foot, local, 0);
        for (let k = 0; k < 3; k++) track[3 * f + k] = track[3 * f + k]! + pose.p[3 * sole.foot + k]!;
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
const FAST = 0.36;
const NEAR = 0.045;
const LEVEL = 0.04;
const SHORTEST_S = 0.07;
const BRIDGE_S = 0.05;

/**
 * Finds plants of heels and balls of the feet: stretches of low speed with hysteresis that touch the ground, or carry the
 * body on a step above it, at some time. After Ikemoto, Arikan, Forsyth, Knowing when to put your foot down, 2006
 * (speed and height), with persistence in place of their training.
 */
export function findContacts(tracks: SoleTracks, fps: number, leg: number): Contacts {
  const parts = PLANT_PARTS.filter((p) => tracks[p]);
  if (parts.length === 0 || !(leg > 0)) return { plants: [], floor: 0 };
  const speeds = new Map(parts.map((p) => [p, speedOf(tracks[p]!, fps)]));
  const floor = groundHeight(parts.map((p) => tracks[p]!), parts.map((p) => speeds.get(p)!), leg);
  const frames = tracks[parts[0]!]!.length / 3;
  const lowest = new Float64Array(frames).fill(Number.POSITIVE_INFINITY);
  for (const p of parts) for (let f = 0; f < frames; f++) lowest[f] = Math.min(lowest[f]!, tracks[p]![3 * f + 1]!);
  const plants: Plant[] = [];
  for (const part of parts) {
    const speed = speeds.get(part)!;
    const track = tracks[part]!;
    const carries = (f: number): boolean => {
      const y = track[3 * f + 1]!;
      return y - floor < NEAR * leg || y - lowest[f]! < LEVEL * leg * 0.75;
    };
    for (const span of slowSpans(speed, leg, fps)) {
      let touching = 0;
      for (let f = span.start; f <= span.end; f++) if (carries(f)) touching++;
      if (touching < Math.max(2, 0.3 * (span.end - span.start + 1))) continue;
      for (const { start, end } of levelSpans(track, span, leg)) {
        if ((end - start + 1) / fps >= SHORTEST_S || frames <= 3) plants.push({ part, start, end });
      }
    }
  }
  return { plants: plants.sort((a, b) => a.start - b.start || PLANT_PARTS.indexOf(a.part) - PLANT_PARTS.indexOf(b.part)), floor };
}

/** Speed in metres per second by central difference over about a thirtieth of a second, which capture noise does not move. */
function speedOf(track: Float64Array, fps: number): Float64Array {
  const frames = track.length / 3;
  const w = Math.max(1, Math.round(fps / 60));
  const out = new Float64Array(frames);
  for (let f = 0; f < frames; f++) {
    const a = Math.max(0, f - w);
    const b = Math.min(frames - 1, f + w);
    if (b === a) continue;
    const d = Math.hypot(track[3 * b]! - track[3 * a]!, track[3 * b + 1]! - track[3 * a + 1]!, track[3 * b + 2]! - track[3 * a + 2]!);
    out[f] = (d * fps) / (b - a);
  }
  return out;
}

function slowSpans(speed: Float64Array, leg: number, fps: number): { start: number; end: number }[] {
  const spans: { start: number; end: number }[] = [];
  const n = speed.length;
  for (let f = 0; f < n; f++) {
    if (speed[f]! >= SLOW * leg) continue;
    let start = f;
    let end = f;
    while (start > 0 && speed[start - 1]! < FAST * leg) start--;
    while (end < n - 1 && speed[end + 1]! < FAST * leg) end++;
    const last = spans.at(-1);
    if (last && start - last.end <= BRIDGE_S * fps) last.end = end;
    else spans.push({ start, end });
    f = end;
  }
  return spans;
}

/** Parts of a slow stretch that stay at its level: a heel that slowly rises and comes back is not held in between. */
function levelSpans(track: Float64Array, span: { start: number; end: number }, leg: number): { start: number; end: number }[] {
  const heights = Array.from({ length: span.end - span.start + 1 }, (_, i) => track[3 * (span.start + i) + 1]!);
  const level = median([...heights]);
  const out: { start: number; end: number }[] = [];
  heights.forEach((y, i) => {
    if (Math.abs(y - level) > 0.02 * leg) return;
    const f = span.start + i;
    const last = out.at(-1);
    if (last && last.end === f - 1) last.end = f;
    else out.push({ start: f, end: f });
  });
  return out;
}

function median(values: number[]): number {
  values.sort((a, b) => a - b);
  return values[values.length >> 1] ?? 0;
}

/** Ground under a motion: a low quantile of the heights at which sole points rest, of all heights where none rests. */
function groundHeight(tracks: Float64Array[], speeds: Float64Array[], leg: number): number {
  const resting: number[] = [];
  const all: number[] = [];
  tracks.forEach((track, i) => {
    for (let f = 0; f < track.length / 3; f++) {
      all.push(track[3 * f + 1]!);
      if (speeds[i]![f]! < SLOW * leg) resting.push(track[3 * f + 1]!);
    }
  });
  const pick = (values: number[], share: number): number => {
    const sorted = Float64Array.from(values).sort();
    return sorted[Math.floor(share * (sorted.length - 1))] ?? 0;
  };
  if (resting.length < 4) return pick(all, 0.02);
  const low = pick(resting, 0.05);
  return median(resting.filter((y) => y - low < 0.03 * leg));
}
