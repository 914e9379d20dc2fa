import { type Contacts, findContacts, soleTracks } from '../analysis/plants';
import { poseFeatures } from '../analysis/pose-features';
import { measureBody } from '../body/body';
import type { Party } from '../body/party';
import { MotionError } from '../errors';
import type { Motion } from '../motion/motion';
import { turnedRound } from '../motion/turned-round';
import { apart, type Cloud, cloudOf, unlikeness } from './likeness';
import { type Seam, seamOf } from './seam';

export interface LoopOptions {
  readonly minSeconds?: number;
  readonly maxSeconds?: number;
  /** How many to name at most. */
  readonly count?: number;
}

export const LOOP_DEFAULTS = { minSeconds: 0.3, maxSeconds: 12, count: 5 } as const satisfies Required<LoopOptions>;

/** A stretch whose end is like its beginning; frames, both included, the last one standing for the first. */
export interface Loop {
  readonly start: number;
  readonly end: number;
  /** Touch-downs of both feet within. */
  readonly steps: number;
  /** Whether it repeats throughout the motion (a period), or is only a good pair of frames. */
  readonly repeats: boolean;
  /** Unlikeness of both ends, mean distance in % of the leg. */
  readonly apartPercentLeg: number;
  readonly seam: Seam;
}

const SEARCH_FPS = 30;

/**
 * Finds where a motion can loop. Frames are compared as clouds of body points free of travel and heading, with their
 * velocities; after Kovar, Gleicher, Pighin, Motion graphs, 2002. A period is a lag at which the motion is like itself
 * throughout; where nothing repeats, the best pairs of frames are named. Both ends stand on the same feet, and a gait loops
 * over as many left as right steps.
 * @returns best first; empty where nothing comes near
 * @throws MotionError 'bad-argument' for lengths that are not above 0 or cross
 */
export function findLoops(party: Party, given: Motion, options: LoopOptions = {}): Loop[] {
  const motion = turnedRound(party.cutout, given);
  const minSeconds = options.minSeconds ?? LOOP_DEFAULTS.minSeconds;
  const maxSeconds = options.maxSeconds ?? LOOP_DEFAULTS.maxSeconds;
  if (!(minSeconds > 0 && maxSeconds >= minSeconds))
    throw new MotionError('bad-argument', 'The shortest loop must be above 0 s and no longer than the longest.');
  const body = measureBody(party.rig, party.map, party.pose, party.floor);
  const contacts = findContacts(soleTracks(party.rig, motion, body), motion.fps, body.leg);
  const step = Math.max(1, Math.round(motion.fps / SEARCH_FPS));
  const coarse = cloudOf(poseFeatures(party, motion, contacts.floor, step, body));
  const least = Math.max(2, Math.ceil(minSeconds * coarse.fps));
  const most = Math.min(coarse.frames - 1, Math.floor(maxSeconds * coarse.fps));
  if (most < least) return [];
  const feet = support(contacts, motion.frameCount);
  const fine = step === 1 ? coarse : cloudOf(poseFeatures(party, motion, contacts.floor, 1, body));
  const lags: { lag: number; mean: number; best: number; start: number }[] = [];
  for (let lag = least; lag <= most; lag++) lags.push({ lag, ...compareLag(coarse, lag) });
  const typical = meanSquare(coarse);
  const period = findPeriod(lags, coarse.frames, typical);
  const out: Loop[] = [];
  const add = (lag: number, repeats: boolean): void => {
    const found = refine(fine, lag, step, feet, repeats);
    if (!found || out.some((l) => Math.abs(l.start - found.start) + Math.abs(l.end - found.end) < 2 * step)) return;
    const apart = 100 * Math.sqrt(found.cost);
    if (apart > 12) return;
    out.push({
      start: found.start,
      end: found.end,
      steps: feet.steps(found.start, found.end).reduce((s, x) => s + x, 0),
      repeats,
      apartPercentLeg: apart,
      seam: seamOf(party, motion, found.start, found.end),
    });
  };
  if (period) add(period, true);
  const minima = lags
    .filter((l, i) => l.best <= (lags[i - 1]?.best ?? Infinity) && l.best <= (lags[i + 1]?.best ?? Infinity))
    .sort((a, b) => a.best - b.best || a.lag - b.lag);
  for (const l of minima.slice(0, 12)) if (l.lag !== period) add(l.lag, false);
  // a period first; then by how alike the ends are at the full rate, which coarse lags only foretold
  out.sort((a, b) => Number(b.repeats) - Number(a.repeats) || a.apartPercentLeg - b.apartPercentLeg);
  return out.slice(0, options.count ?? LOOP_DEFAULTS.count);
}

function compareLag(p: Cloud, lag: number): { mean: number; best: number; start: number } {
  let sum = 0;
  let best = Number.POSITIVE_INFINITY;
  let start = 0;
  const count = p.frames - lag;
  for (let i = 0; i < count; i++) {
    const d = apart(p, i, p, i + lag);
    sum += d;
    if (d < best) {
      best = d;
      start = i;
    }
  }
  return { mean: sum / count, best, start };
}

/** Mean square departure from the mean frame: what any two frames that have nothing to do with each other are apart. */
function meanSquare(p: Cloud): number {
  const mean = new Float64Array(p.width);
  for (let f = 0; f < p.frames; f++)
    for (let k = 0; k < p.width; k++) mean[k] = mean[k]! + p.values[p.width * f + k]! / p.frames;
  let sum = 0;
  for (let f = 0; f < p.frames; f++)
    for (let k = 0; k < p.width; k++) sum += (p.values[p.width * f + k]! - mean[k]!) ** 2;
  return (2 * sum) / p.frames;
}

/** Shortest lag at which the motion as a whole is like itself, seen at least over a third of a lap more than one. */
function findPeriod(
  lags: readonly { lag: number; mean: number; best: number }[],
  frames: number,
  typical: number,
): number | undefined {
  const seen = lags.filter((l) => frames - l.lag >= l.lag / 3);
  const minima = seen.filter(
    (l, i) => l.mean <= (seen[i - 1]?.mean ?? Infinity) && l.mean < (seen[i + 1]?.mean ?? Infinity),
  );
  const lowest = minima.reduce((m, l) => Math.min(m, l.mean), Infinity);
  return minima.find((l) => l.mean < 0.12 * typical && l.mean < 1.6 * lowest + 0.004 * typical)?.lag;
}

interface Feet {
  /** Frame → bits of which feet stand: 1 left, 2 right. */
  readonly state: Uint8Array;
  readonly gait: boolean;
  steps(start: number, end: number): [number, number];
}

function support(contacts: Contacts, frames: number): Feet {
  const state = new Uint8Array(frames);
  for (const plant of contacts.plants) {
    const bit = plant.part.endsWith('L') ? 1 : 2;
    for (let f = plant.start; f <= plant.end; f++) state[f] = state[f]! | bit;
  }
  const touches = ([1, 2] as const).map((bit) => {
    const out: number[] = [];
    for (let f = 1; f < frames; f++) if (state[f]! & bit && !(state[f - 1]! & bit)) out.push(f);
    return out;
  });
  const steps = (start: number, end: number): [number, number] =>
    touches.map((list) => list.filter((f) => f > start && f <= end).length) as [number, number];
  return { state, gait: touches.every((t) => t.length >= 2), steps };
}

/** The best start and end at full rate near a coarse lag. A period is read off the whole motion, a pair only off its ends. */
function refine(
  p: Cloud,
  coarseLag: number,
  step: number,
  feet: Feet,
  repeats: boolean,
): { start: number; end: number; cost: number } | undefined {
  let lag = coarseLag * step;
  if (repeats) {
    let lowest = Number.POSITIVE_INFINITY;
    for (let l = Math.max(2, lag - step); l <= Math.min(p.frames - 1, lag + step); l++) {
      const { mean } = compareLag(p, l);
      if (mean < lowest) {
        lowest = mean;
        lag = l;
      }
    }
  }
  const from = repeats ? lag : Math.max(2, lag - step);
  const to = repeats ? lag : Math.min(p.frames - 1, lag + step);
  const w = Math.max(1, Math.round(p.fps * 0.05));
  let best: { start: number; end: number; cost: number } | undefined;
  for (let l = from; l <= to; l++) {
    for (let i = 0; i + l < p.frames; i++) {
      const alike = (feet.state[i]! ^ feet.state[i + l]!) === 0;
      if (!alike) continue;
      if (feet.gait) {
        const [left, right] = feet.steps(i, i + l);
        if (left !== right || left === 0) continue;
      }
      // a window around both frames, as far as it reaches
      const cost = unlikeness(p, i, p, i + l, w);
      if (!best || cost < best.cost) best = { start: i, end: i + l, cost };
    }
  }
  return best;
}
