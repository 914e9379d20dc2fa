import { FEATURE_POINTS, FEATURE_WIDTH, type PoseFeatures } from '../analysis/pose-features';

/** Time over which velocities count as much as places, seconds. */
const PACE_S = 0.12;

/**
 * Frames of a motion as clouds of body points free of travel and heading, with their velocities, in legs; weighted, so that a
 * plain square distance is the measure. After Kovar, Gleicher, Pighin, Motion graphs, 2002.
 */
export interface Cloud {
  readonly fps: number;
  readonly frames: number;
  readonly width: number;
  /** [frame][point] place, then [point] velocity. */
  readonly values: Float32Array;
}

/** The clouds of a motion's features. */
export function cloudOf(features: PoseFeatures): Cloud {
  const frames = features.frameCount;
  const width = 2 * FEATURE_WIDTH;
  const values = new Float32Array(width * frames);
  const total = FEATURE_POINTS.reduce((s, [, w]) => s + w, 0);
  const reach = Math.max(1, Math.round(features.fps / 60));
  for (let f = 0; f < frames; f++) {
    const a = Math.max(0, f - reach);
    const b = Math.min(frames - 1, f + reach);
    const perStep = b > a ? (PACE_S * features.fps) / (b - a) : 0;
    for (let k = 0; k < FEATURE_WIDTH; k++) {
      const w = Math.sqrt(FEATURE_POINTS[Math.floor(k / 3)]![1] / total);
      values[width * f + k] = w * features.values[FEATURE_WIDTH * f + k]!;
      values[width * f + FEATURE_WIDTH + k] =
        w * perStep * (features.values[FEATURE_WIDTH * b + k]! - features.values[FEATURE_WIDTH * a + k]!);
    }
  }
  return { fps: features.fps, frames, width, values };
}

/** Square distance of two frames, legs². */
export function apart(a: Cloud, i: number, b: Cloud, j: number): number {
  let sum = 0;
  for (let k = 0, x = a.width * i, y = b.width * j; k < a.width; k++) {
    const d = a.values[x + k]! - b.values[y + k]!;
    sum += d * d;
  }
  return sum;
}

/** Mean of apart over a window around both frames, as far as both reach. */
export function unlikeness(a: Cloud, i: number, b: Cloud, j: number, window: number): number {
  let sum = 0;
  let count = 0;
  for (let d = -window; d <= window; d++) {
    if (i + d < 0 || j + d < 0 || i + d >= a.frames || j + d >= b.frames) continue;
    sum += apart(a, i + d, b, j + d);
    count++;
  }
  return sum / count;
}
