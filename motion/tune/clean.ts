import { MotionError } from '../errors';
import { lowPass } from '../math/low-pass';
import { alignTurns, angleBetweenQuats, normalizeQuat } from '../math/quat';
import type { Motion } from '../motion/motion';
import { mapTracks } from '../motion/tracks';
import type { SkeletonRig } from '../rig/rig';

/** A run of frames of one joint, both ends included. */
export interface FrameSpan {
  readonly joint: number;
  readonly start: number;
  readonly end: number;
}

/** Longest spike, seconds: what jumps away and stays is a movement. */
const SPIKE_S = 0.1;
/** Smallest jump that counts as a spike, radians and metres. */
const SPIKE_TURN = 0.14;
const SPIKE_MOVE = 0.03;

/**
 * Finds spikes and flips: a joint that jumps away from one frame to the next by far more than it ever moves and is back
 * within a tenth of a second.
 */
export function findSpikes(rig: SkeletonRig, motion: Motion): FrameSpan[] {
  const n = rig.names.length;
  const frames = motion.frameCount;
  const longest = Math.max(1, Math.round(SPIKE_S * motion.fps));
  const spans: FrameSpan[] = [];
  const scan = (joint: number, apart: (a: number, b: number) => number, least: number): void => {
    const steps = new Float64Array(Math.max(0, frames - 1));
    for (let f = 1; f < frames; f++) steps[f - 1] = apart(f - 1, f);
    const usual = steps.slice().sort()[Math.floor(0.9 * (steps.length - 1))] ?? 0;
    const limit = Math.max(least, 4 * usual);
    for (let f = 1; f < frames; f++) {
      if (steps[f - 1]! <= limit) continue;
      for (let m = 1; m <= longest && f + m < frames; m++) {
        // back: no farther from where it was than its usual velocity allows
        if (apart(f - 1, f + m) > Math.max(least * 0.5, (m + 1) * usual * 1.5)) continue;
        spans.push({ joint, start: f, end: f + m - 1 });
        f += m;
        break;
      }
    }
  };
  for (let j = 0; j < n; j++)
    scan(j, (a, b) => angleBetweenQuats(motion.turns, 4 * (a * n + j), motion.turns, 4 * (b * n + j)), SPIKE_TURN);
  for (const { joint, values } of motion.places)
    scan(
      joint,
      (a, b) =>
        Math.hypot(
          values[3 * a]! - values[3 * b]!,
          values[3 * a + 1]! - values[3 * b + 1]!,
          values[3 * a + 2]! - values[3 * b + 2]!,
        ),
      SPIKE_MOVE,
    );
  return spans;
}

/** Replaces spikes and flips by what lies between the frames around them. */
export function despike(rig: SkeletonRig, motion: Motion): Motion {
  return bridge(rig, motion, findSpikes(rig, motion));
}

/** Shortest stretch without any change that counts as a gap, in frames. */
const GAP_FRAMES = 4;

/**
 * Finds gaps of a capture: stretches in which a joint that else changes from frame to frame (noise alone sees to that) does
 * not change at all, and after which it jumps to where it has got meanwhile. A pose that is held on purpose goes on from
 * where it was, so it is no gap; neither is stillness at the ends.
 */
export function findGaps(rig: SkeletonRig, motion: Motion): FrameSpan[] {
  const n = rig.names.length;
  const frames = motion.frameCount;
  const spans: FrameSpan[] = [];
  const steps = new Float64Array(Math.max(0, frames - 1));
  for (let j = 0; j < n; j++) {
    for (let f = 1; f < frames; f++)
      steps[f - 1] = angleBetweenQuats(motion.turns, 4 * (f * n + j), motion.turns, 4 * ((f - 1) * n + j));
    const moving = steps.filter((x) => x > 1e-7).sort();
    const usual = moving[moving.length >> 1] ?? 0;
    let start = 0;
    let still = 0;
    const runs: FrameSpan[] = [];
    for (let f = 1; f <= frames; f++) {
      if (f < frames && steps[f - 1]! <= 1e-7) continue;
      if (f - start >= GAP_FRAMES) {
        still += f - start;
        if (start > 0 && f < frames && steps[f - 1]! > 2.5 * usual)
          runs.push({ joint: j, start: start + 1, end: f - 1 });
      }
      start = f;
    }
    // a joint that changes in nearly every other frame is captured; one that often rests is not
    if (moving.length >= 0.95 * (frames - 1 - still)) spans.push(...runs);
  }
  return spans;
}

/** Fills the gaps of a capture: on with the velocity from before, in with the velocity after. */
export function fillGaps(
  rig: SkeletonRig,
  motion: Motion,
  spans: readonly FrameSpan[] = findGaps(rig, motion),
): Motion {
  return bridge(rig, motion, spans);
}

/**
 * Replaces stretches by a cubic through the frames around them with their velocity at both ends; where the velocity would carry
 * farther than the distance to bridge, it is cut. At the ends of the motion the nearest good frame is held.
 */
function bridge(rig: SkeletonRig, motion: Motion, spans: readonly FrameSpan[]): Motion {
  if (spans.length === 0) return motion;
  const n = rig.names.length;
  const frames = motion.frameCount;
  const turns = motion.turns.slice();
  const places = new Map(motion.places.map((t) => [t.joint, t.values.slice()]));
  for (const { joint, start, end } of spans) {
    acrossGap(turns, 4 * joint, 4 * n, frames, start, end);
    hermite(turns, 4 * joint, 4 * n, 4, frames, start, end);
    for (let f = start; f <= end; f++) normalizeQuat(turns, 4 * (f * n + joint));
    const values = places.get(joint);
    if (values) hermite(values, 0, 3, 3, frames, start, end);
  }
  alignTurns(turns, n, frames);
  return {
    ...motion,
    turns,
    places: motion.places.map((t) => ({ joint: t.joint, values: places.get(t.joint)! })),
  };
}

/** What comes after a gap gets the sign that goes on from before it: spikes in between may have turned it. */
function acrossGap(
  turns: Float32Array,
  offset: number,
  stride: number,
  frames: number,
  start: number,
  end: number,
): void {
  if (start < 1 || end + 1 >= frames) return;
  const a = offset + stride * (start - 1);
  const b = offset + stride * (end + 1);
  let dot = 0;
  for (let k = 0; k < 4; k++) dot += turns[a + k]! * turns[b + k]!;
  if (dot >= 0) return;
  for (let f = end + 1; f < frames; f++)
    for (let k = 0; k < 4; k++) turns[offset + stride * f + k] = -turns[offset + stride * f + k]!;
}

function hermite(
  values: Float32Array,
  offset: number,
  stride: number,
  width: number,
  frames: number,
  start: number,
  end: number,
): void {
  const a = start - 1;
  const b = end + 1;
  const at = (f: number, k: number): number => values[offset + f * stride + k]!;
  if (a < 0 && b >= frames) return;
  for (let k = 0; k < width; k++) {
    const v0 = a >= 0 ? at(a, k) : at(b, k);
    const v1 = b < frames ? at(b, k) : at(a, k);
    const span = b - a;
    const clampPace = (m: number): number => {
      const most = 1.5 * Math.abs(v1 - v0) + 0.05;
      return Math.max(-most, Math.min(most, m * span));
    };
    const m0 = a > 0 ? clampPace(at(a, k) - at(a - 1, k)) : 0;
    const m1 = b + 1 < frames ? clampPace(at(b + 1, k) - at(b, k)) : 0;
    for (let f = start; f <= end; f++) {
      const x = (f - a) / span;
      const x2 = x * x;
      const x3 = x2 * x;
      values[offset + f * stride + k] =
        a < 0 || b >= frames
          ? v0
          : (2 * x3 - 3 * x2 + 1) * v0 + (x3 - 2 * x2 + x) * m0 + (3 * x2 - 2 * x3) * v1 + (x3 - x2) * m1;
    }
  }
}

/**
 * Takes out noise: spikes and flips first, then a second-order Butterworth low-pass run forwards and backwards, so nothing
 * is delayed (zero phase). Turns are filtered component by component with continuous signs and made unit again.
 * @param cutoffHz what moves faster is damped; above 0, below half the frame rate
 * @throws MotionError 'bad-argument' for a cut-off outside its range
 */
export function smooth(rig: SkeletonRig, motion: Motion, cutoffHz: number): Motion {
  if (!(cutoffHz > 0 && cutoffHz < motion.fps / 2))
    throw new MotionError(
      'bad-argument',
      `The cut-off must lie above 0 and below ${motion.fps / 2} Hz, half the frame rate.`,
    );
  const clean = despike(rig, motion);
  const n = rig.names.length;
  const frames = motion.frameCount;
  const turns = clean.turns.slice();
  alignTurns(turns, n, frames);
  const filter = lowPass(cutoffHz, motion.fps);
  for (let c = 0; c < 4 * n; c++) filter(turns, c, 4 * n, frames);
  for (let o = 0; o < turns.length; o += 4) normalizeQuat(turns, o);
  return {
    ...clean,
    turns,
    ...mapTracks(clean, {
      values: (values, width) => {
        const out = values.slice();
        for (let k = 0; k < width; k++) filter(out, k, width, frames);
        return out;
      },
      labels: (values) => values,
    }),
  };
}
