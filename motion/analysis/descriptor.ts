import { MotionError } from '../errors';
import { FEATURE_WIDTH, type PoseFeatures } from './pose-features';

// A clip's descriptor: what its poses are on average and how far they swing, and how the body goes over the ground.
//   0 …  44  mean of the pose features            (legs)
//  45 …  89  deviation of the pose features       (legs)
//  90 …  97  course: speed mean and peak, ahead, across, turning, hip height low and high, rhythm
export const DESCRIPTOR_WIDTH = 2 * FEATURE_WIDTH + 8;

/** Steps of a byte: what one unit of the quantised descriptor stands for, legs. */
const STEP = 1 / 80;

/**
 * Descriptor of a clip, free of size, place and heading; near ones look alike. Compare with clipDistance.
 * @returns DESCRIPTOR_WIDTH signed bytes, STEP legs each
 */
export function describeClip(features: PoseFeatures): Int8Array {
  const { values, frameCount: frames, ground, heading, fps, leg } = features;
  const out = new Float64Array(DESCRIPTOR_WIDTH);
  for (let k = 0; k < FEATURE_WIDTH; k++) {
    let sum = 0;
    let squares = 0;
    for (let f = 0; f < frames; f++) {
      const x = values[FEATURE_WIDTH * f + k]!;
      sum += x;
      squares += x * x;
    }
    const mean = sum / frames;
    out[k] = mean;
    // swings tell motions apart better than means do
    out[FEATURE_WIDTH + k] = 1.5 * Math.sqrt(Math.max(0, squares / frames - mean * mean));
  }
  const w = Math.max(1, Math.round(fps * 0.15));
  let [speed, peak, ahead, across] = [0, 0, 0, 0];
  for (let f = 0; f < frames; f++) {
    const a = Math.max(0, f - w);
    const b = Math.min(frames - 1, f + w);
    if (b === a) continue;
    const k = fps / (b - a) / leg;
    const x = (ground[2 * b]! - ground[2 * a]!) * k;
    const z = (ground[2 * b + 1]! - ground[2 * a + 1]!) * k;
    const h = heading[f]!;
    const v = Math.hypot(x, z);
    speed += v / frames;
    peak = Math.max(peak, v);
    ahead += (Math.sin(h) * x + Math.cos(h) * z) / frames;
    across += (Math.cos(h) * x - Math.sin(h) * z) / frames;
  }
  const c = 2 * FEATURE_WIDTH;
  out[c] = 0.5 * speed;
  out[c + 1] = 0.3 * peak;
  out[c + 2] = 0.5 * ahead;
  out[c + 3] = 0.5 * across;
  out[c + 4] = (0.3 * (heading[frames - 1]! - heading[0]!)) / Math.max(0.5, frames / fps);
  let low = Number.POSITIVE_INFINITY;
  let high = Number.NEGATIVE_INFINITY;
  for (let f = 0; f < frames; f++) {
    low = Math.min(low, values[FEATURE_WIDTH * f + 1]!);
    high = Math.max(high, values[FEATURE_WIDTH * f + 1]!);
  }
  out[c + 5] = low;
  out[c + 6] = high;
  out[c + 7] = 0.25 * rhythm(features);
  return Int8Array.from(out, (x) => Math.max(-127, Math.min(127, Math.round(x / STEP))));
}

/** Strongest beat of the hips' height, in Hz between 0.3 and 4; 0 where none stands out. */
export function rhythm({ values, frameCount: frames, fps }: PoseFeatures): number {
  if (frames < fps) return 0;
  let mean = 0;
  for (let f = 0; f < frames; f++) mean += values[FEATURE_WIDTH * f + 1]! / frames;
  let total = 0;
  for (let f = 0; f < frames; f++) total += (values[FEATURE_WIDTH * f + 1]! - mean) ** 2;
  if (total / frames < 1e-6) return 0;
  let best = 0;
  let power = 0;
  for (let hz = 0.3; hz <= Math.min(4, fps / 2.5); hz += 0.05) {
    let [re, im] = [0, 0];
    for (let f = 0; f < frames; f++) {
      const y = (values[FEATURE_WIDTH * f + 1]! - mean) * (0.5 - 0.5 * Math.cos((2 * Math.PI * f) / (frames - 1)));
      re += y * Math.cos((2 * Math.PI * hz * f) / fps);
      im += y * Math.sin((2 * Math.PI * hz * f) / fps);
    }
    const p = (re * re + im * im) / frames;
    if (p > power) {
      power = p;
      best = hz;
    }
  }
  return power > 0.06 * total ? best : 0;
}

/** Distance of two clip descriptors, in legs: root of the mean square. @throws MotionError where they are no descriptors */
export function clipDistance(a: Int8Array, b: Int8Array): number {
  if (a.length !== DESCRIPTOR_WIDTH || b.length !== DESCRIPTOR_WIDTH)
    throw new MotionError('wrong-count', `A descriptor has ${DESCRIPTOR_WIDTH} numbers.`);
  if (liesFlat(a, 0) !== liesFlat(b, 0)) return liesFlat(a, 0) ? flatDistance(a, 0, b, 0) : flatDistance(b, 0, a, 0);
  let sum = 0;
  for (let i = 0; i < DESCRIPTOR_WIDTH; i++) sum += (a[i]! - b[i]!) ** 2;
  return STEP * Math.sqrt(sum / DESCRIPTOR_WIDTH);
}

/** Whether the descriptor at an offset is of a cut-out: nothing of it is ever ahead or behind. */
export function liesFlat(all: Int8Array, at: number): boolean {
  for (let k = 2; k < 2 * FEATURE_WIDTH; k += 3) if (all[at + k] !== 0) return false;
  return true;
}

/** Ways of looking at a body: which of its numbers runs across the picture, and whether to the picture's left or right. */
const LOOKS = [
  [0, 1],
  [2, 1],
  [2, -1],
] as const;

/**
 * Distance of a cut-out's clip from a body's in space, in legs: heights and what runs across the picture, from the front or
 * either side, whichever is nearest, and the rhythm. Travel stays out: a figure seen from the front walks on the spot.
 */
export function flatDistance(flat: Int8Array, flatAt: number, solid: Int8Array, solidAt: number): number {
  let least = Number.POSITIVE_INFINITY;
  for (const [axis, sign] of LOOKS) {
    let sum = (flat[flatAt + DESCRIPTOR_WIDTH - 1]! - solid[solidAt + DESCRIPTOR_WIDTH - 1]!) ** 2;
    for (let k = 0; k < 2 * FEATURE_WIDTH; k += 3) {
      const swings = k >= FEATURE_WIDTH;
      const up = flat[flatAt + k + 1]! - solid[solidAt + k + 1]!;
      const across = flat[flatAt + k]! - (swings ? 1 : sign) * solid[solidAt + k + axis]!;
      sum += (swings ? 2 : 1) * (up * up + across * across);
    }
    least = Math.min(least, sum);
  }
  return STEP * Math.sqrt(least / (2 * FEATURE_WIDTH + 1));
}

/** Descriptor of one pose: its features as signed bytes. */
export function describePose(features: PoseFeatures, frame: number): Int8Array {
  return Int8Array.from({ length: FEATURE_WIDTH }, (_, k) =>
    Math.max(-127, Math.min(127, Math.round(features.values[FEATURE_WIDTH * frame + k]! / (2 * STEP)))),
  );
}

/** Distance of two pose descriptors, legs. */
export function poseDistance(a: Int8Array, b: Int8Array): number {
  let sum = 0;
  for (let i = 0; i < FEATURE_WIDTH; i++) sum += (a[i]! - b[i]!) ** 2;
  return 2 * STEP * Math.sqrt(sum / (FEATURE_WIDTH / 3));
}
