import { jointOf } from '../bodymap/slots';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import type { Plan } from './plan';

/** Two hands that hold one thing: how far their distance departs from the source's. */
export interface HandsMeasure {
  /** Frames in which the source's hands hold one thing. */
  readonly together: number;
  /** Largest difference of their distance to the source's, metres, and its frame. */
  readonly apart: number;
  readonly frame: number;
}

/** Longest span of time over which a steady distance is looked for, seconds, and how steady it must be, in arms. */
const STEADY_S = 0.35;
const STEADY = 0.025;
const NEAR = 1.1;

/** Finds where the source's hands keep one distance while they move, and measures that distance on the result. */
export function measureHands(plan: Plan, source: Motion, result: Motion): HandsMeasure {
  const s = ['handL', 'handR'].map((x) => jointOf(plan.source.map, x)) as [number, number];
  const t = ['handL', 'handR'].map((x) => jointOf(plan.target.map, x)) as [number, number];
  const none = { together: 0, apart: 0, frame: 0 };
  if ([...s, ...t].some((j) => j < 0)) return none;
  const arm = plan.source.body.arm || 1;
  const frames = Math.min(source.frameCount, result.frameCount);
  const a = new ChainReader(plan.source.rig, source, s);
  const b = new ChainReader(plan.target.rig, result, t);
  const own = new Float64Array(frames);
  const its = new Float64Array(frames);
  const way = new Float64Array(frames);
  const before = [0, 0, 0];
  for (let f = 0; f < frames; f++) {
    const p = a.at(f).p;
    own[f] = distance(p, s);
    if (f > 0) way[f] = Math.hypot(...[0, 1, 2].map((k) => p[3 * s[0] + k]! - before[k]!));
    for (let k = 0; k < 3; k++) before[k] = p[3 * s[0] + k]!;
    its[f] = distance(b.at(f).p, t);
  }
  const w = Math.max(2, Math.round(STEADY_S * source.fps));
  let { together, apart, frame } = none;
  for (let f = w; f + w < frames; f++) {
    let low = Number.POSITIVE_INFINITY;
    let high = 0;
    let moved = 0;
    for (let g = f - w; g <= f + w; g++) {
      low = Math.min(low, own[g]!);
      high = Math.max(high, own[g]!);
      moved += way[g]!;
    }
    if (high > NEAR * arm || high - low > STEADY * arm || moved < 0.12 * arm) continue;
    together++;
    const off = Math.abs(its[f]! - own[f]!);
    if (off > apart) {
      apart = off;
      frame = f;
    }
  }
  return { together, apart, frame };
}

const distance = (p: Float64Array, [a, b]: [number, number]): number =>
  Math.hypot(p[3 * a]! - p[3 * b]!, p[3 * a + 1]! - p[3 * b + 1]!, p[3 * a + 2]! - p[3 * b + 2]!);
