import { poseFeatures } from '../analysis/pose-features';
import type { Party } from '../body/party';
import { MotionError } from '../errors';
import type { Motion } from '../motion/motion';
import { ownPlan } from '../retarget/plan';
import { apart, type Cloud, cloudOf, unlikeness } from './likeness';
import { groundedOn, type Stands } from './steps';

export interface MatchOptions {
  /** Frames of the first motion among which it may be left, both included; its last two seconds where left out. */
  readonly from?: readonly [number, number];
  /** Frames of the second one among which it may begin, both included; its first two seconds where left out. */
  readonly to?: readonly [number, number];
  /** How many to name at most. */
  readonly count?: number;
}

/** A pair of frames that may stand for each other. */
export interface Match {
  /** Frame of the first motion, and of the second. */
  readonly a: number;
  readonly b: number;
  /** Unlikeness of pose and velocity around them, mean distance in % of the leg. */
  readonly apartPercentLeg: number;
  /** Whether the same points of the feet stand in both. */
  readonly sameFeet: boolean;
}

const RANGE_S = 2;
const SEARCH_FPS = 30;
/** Time around both frames that is compared, seconds to either side. */
const WINDOW_S = 0.1;
/** What a foot that stands in one and swings in the other counts, legs²: little, for which of them is which is read from a stretch, and poses and paces tell most of it. */
const OTHER_FOOT = 0.001;
/** Matches nearer to a better one than this are the same, seconds. */
const SAME_S = 0.12;

/**
 * Finds where one motion can be left for another: pairs of frames alike in pose, velocity and feet. Frames are compared over a window
 * as clouds of body points free of place and heading (Kovar, Gleicher, Pighin, Motion graphs, 2002).
 * @returns best first, each the best around it; empty for a motion without a body
 * @throws MotionError 'bad-argument' for a range without frames
 */
export function findMatches(party: Party, a: Motion, b: Motion, options: MatchOptions = {}): Match[] {
  const rangeA = options.from ?? [a.frameCount - 1 - Math.round(RANGE_S * a.fps), a.frameCount - 1];
  const rangeB = options.to ?? [0, Math.round(RANGE_S * b.fps)];
  const [a0, a1] = within(rangeA, a.frameCount);
  const [b0, b1] = within(rangeB, b.frameCount);
  if (Math.abs(a.fps - b.fps) > 1e-6)
    throw new MotionError(
      'bad-argument',
      'Matches are sought between motions of one frame rate: resample one of them.',
    );
  const plan = ownPlan(party);
  const feet = [groundedOn(plan, a), groundedOn(plan, b)] as const;
  const clouds = [
    cloudOf(poseFeatures(party, a, feet[0].ground)),
    cloudOf(poseFeatures(party, b, feet[1].ground)),
  ] as const;
  const step = Math.max(1, Math.round(a.fps / SEARCH_FPS));
  const window = Math.max(1, Math.round(WINDOW_S * a.fps));
  const cost = (i: number, j: number): number =>
    unlikeness(clouds[0], i, clouds[1], j, window) + OTHER_FOOT * otherFeet(feet[0], i, feet[1], j);
  const found = coarse(clouds, feet, [a0, a1], [b0, b1], step);
  const out: (Match & { cost: number })[] = [];
  for (const { i, j } of found) {
    const near = SAME_S * a.fps;
    if (out.some((m) => Math.abs(m.a - i) < near && Math.abs(m.b - j) < near)) continue;
    let best = { i, j, cost: cost(i, j) };
    // from frame to frame downhill, for the coarse pair is only near the best
    for (let moved = true; moved; ) {
      moved = false;
      for (const [di, dj] of AROUND) {
        const x = best.i + di;
        const y = best.j + dj;
        if (x < a0 || x > a1 || y < b0 || y > b1) continue;
        const c = cost(x, y);
        if (c < best.cost - 1e-12) {
          best = { i: x, j: y, cost: c };
          moved = true;
        }
      }
    }
    if (out.some((m) => Math.abs(m.a - best.i) < near && Math.abs(m.b - best.j) < near)) continue;
    out.push({
      a: best.i,
      b: best.j,
      apartPercentLeg: 100 * Math.sqrt(unlikeness(clouds[0], best.i, clouds[1], best.j, window)),
      sameFeet: otherFeet(feet[0], best.i, feet[1], best.j) === 0,
      cost: best.cost,
    });
    if (out.length >= 3 * (options.count ?? 5)) break;
  }
  return out
    .sort((x, y) => x.cost - y.cost)
    .slice(0, options.count ?? 5)
    .map(({ cost: _, ...match }) => match);
}

const AROUND = [
  [0, 1],
  [0, -1],
  [1, 0],
  [-1, 0],
  [1, 1],
  [-1, -1],
] as const;

function within([from, to]: readonly [number, number], frames: number): [number, number] {
  const a = Math.max(0, Math.round(from));
  const b = Math.min(frames - 1, Math.round(to));
  if (!(b >= a)) throw new MotionError('bad-argument', `No frame lies between ${from} and ${to}.`);
  return [a, b];
}

const otherFeet = (a: Stands, i: number, b: Stands, j: number): number =>
  Number(a.held.L[i]! > 0 !== b.held.L[j]! > 0) + Number(a.held.R[i]! > 0 !== b.held.R[j]! > 0);

/** Pairs on a coarse grid that are better than those around them, best first. */
function coarse(
  [a, b]: readonly [Cloud, Cloud],
  feet: readonly [Stands, Stands],
  [a0, a1]: readonly [number, number],
  [b0, b1]: readonly [number, number],
  step: number,
): { i: number; j: number }[] {
  const rows = Math.floor((a1 - a0) / step) + 1;
  const columns = Math.floor((b1 - b0) / step) + 1;
  const single = new Float32Array(rows * columns);
  for (let x = 0; x < rows; x++)
    for (let y = 0; y < columns; y++) single[x * columns + y] = apart(a, a0 + x * step, b, b0 + y * step);
  // the window lies along the diagonal, in which both motions go on
  const costs = single.map((_, k) => {
    const x = Math.floor(k / columns);
    const y = k % columns;
    let sum = 0;
    let count = 0;
    for (let d = -WINDOW; d <= WINDOW; d++) {
      if (x + d < 0 || y + d < 0 || x + d >= rows || y + d >= columns) continue;
      sum += single[k + d * (columns + 1)]!;
      count++;
    }
    return sum / count + OTHER_FOOT * otherFeet(feet[0], a0 + x * step, feet[1], b0 + y * step);
  });
  const at = (x: number, y: number): number =>
    x < 0 || y < 0 || x >= rows || y >= columns ? Number.POSITIVE_INFINITY : costs[x * columns + y]!;
  const out: { i: number; j: number; cost: number }[] = [];
  for (let x = 0; x < rows; x++)
    for (let y = 0; y < columns; y++) {
      const cost = at(x, y);
      if (AROUND.every(([dx, dy]) => cost <= at(x + dx, y + dy)))
        out.push({ i: a0 + x * step, j: b0 + y * step, cost });
    }
  return out.sort((p, q) => p.cost - q.cost);
}

/** Frames of the coarse grid to either side. */
const WINDOW = Math.round(WINDOW_S * SEARCH_FPS);
