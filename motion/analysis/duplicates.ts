import { FEATURE_WIDTH, frameDistance, mirrorFeatures, type PoseFeatures } from './pose-features';

/** How one motion repeats another. Seconds are those of the first. */
export interface Duplicate {
  /** same: all of it; part: the shorter lies within the longer. */
  readonly kind: 'same' | 'part';
  readonly mirrored: boolean;
  /** Where in the longer motion the shorter begins, seconds. */
  readonly offset: number;
  /** Mean distance of the body points, legs. */
  readonly apart: number;
}

/** Frames a second at which motions are compared. */
const COMPARE_FPS = 15;
/** Mean distance up to which two motions are the same performance, legs: some centimetre and a half. */
const SAME = 0.016;
/** What hardly leaves one pose is like a part of any stance: it has to follow its own little way, as a share of that. */
const STILL_SHARE = 0.3;
/** Shortest overlap that says anything, seconds. */
const SHORTEST_S = 0.6;

/**
 * Tells whether two motions are one performance: at another frame rate, trimmed, mirrored, placed elsewhere, or on another
 * body of like proportions. Every offset of the shorter along the longer is tried, given up as soon as it is too far off.
 * A motion that hardly leaves one pose is a part of another only where it goes its own little way in it.
 */
export function findDuplicate(a: PoseFeatures, b: PoseFeatures): Duplicate | undefined {
  const [long, short] = a.frameCount / a.fps >= b.frameCount / b.fps ? [a, b] : [b, a];
  const coarse = thin(short);
  if (coarse.frameCount / coarse.fps < SHORTEST_S) return undefined;
  const straight = tryOffsets(long, coarse, false);
  const mirrored = tryOffsets(long, mirrorFeatures(coarse), true);
  if (!straight || !mirrored) return straight ?? mirrored;
  return straight.apart <= mirrored.apart ? straight : mirrored;
}

function thin(features: PoseFeatures): PoseFeatures {
  const step = Math.max(1, Math.round(features.fps / COMPARE_FPS));
  if (step === 1) return features;
  const width = features.values.length / features.frameCount;
  const frames = Math.ceil(features.frameCount / step);
  const values = new Float32Array(width * frames);
  for (let f = 0; f < frames; f++)
    values.set(features.values.subarray(width * f * step, width * (f * step + 1)), width * f);
  return { ...features, fps: features.fps / step, frameCount: frames, values };
}

function tryOffsets(long: PoseFeatures, short: PoseFeatures, mirrored: boolean): Duplicate | undefined {
  const ratio = long.fps / short.fps;
  const room = long.frameCount - 1 - (short.frameCount - 1) * ratio;
  let best: Duplicate | undefined;
  const limit = SAME * SAME;
  // an order of frames that tells soonest: ends and middle first
  const order = spreadOrder(short.frameCount);
  // a little room at the ends: another rate may round the last frame away
  for (let offset = 0; offset <= Math.max(0, room) + 1e-9; offset++) {
    let sum = 0;
    let count = 0;
    const frameOf = (i: number): number => Math.min(long.frameCount - 1, Math.round(offset + i * ratio));
    // a part of a climb stands on another floor than the whole
    let lift = 0;
    for (const i of order.slice(0, 5))
      lift +=
        (long.values[FEATURE_WIDTH * frameOf(i) + 1]! - short.values[FEATURE_WIDTH * i + 1]!) /
        Math.min(5, order.length);
    for (const i of order) {
      sum += frameDistance(long, frameOf(i), short, i, lift);
      count++;
      if (sum / count > limit * (count < 4 ? 6 : 2)) break;
    }
    const apart = Math.sqrt(sum / count);
    if (count < order.length || apart > SAME || (best && best.apart <= apart)) continue;
    const whole = (long.frameCount - 1) / long.fps - (short.frameCount - 1) / short.fps < 0.15;
    best = { kind: whole ? 'same' : 'part', mirrored, offset: offset / long.fps, apart };
  }
  if (best?.kind === 'part') {
    const moves = spreadOf(short);
    if (moves < 1.5 * SAME && best.apart > STILL_SHARE * moves) return undefined;
  }
  return best;
}

/** How far a motion goes from its first pose: mean distance to its first frame, legs. */
function spreadOf(features: PoseFeatures): number {
  let sum = 0;
  for (let f = 1; f < features.frameCount; f++) sum += frameDistance(features, 0, features, f);
  return Math.sqrt(sum / Math.max(1, features.frameCount - 1));
}

/** 0, last, middle, quarters …: each frame once. */
function spreadOrder(n: number): number[] {
  const out: number[] = [];
  const seen = new Uint8Array(n);
  const take = (i: number): void => {
    if (!seen[i]) {
      seen[i] = 1;
      out.push(i);
    }
  };
  take(0);
  take(n - 1);
  for (let parts = 2; out.length < n; parts *= 2)
    for (let k = 1; k < parts; k++) {
      take(Math.min(n - 1, Math.round((k * (n - 1)) / parts)));
      if (parts > 2 * n) for (let i = 0; i < n; i++) take(i);
    }
  return out;
}
