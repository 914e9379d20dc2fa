import { MotionError } from '../errors';
import { alignTurns, slerp } from '../math/quat';
import type { Rig } from '../rig/rig';
import { valueAt } from './curve';
import { durationOf, MAX_NUMBERS, type Motion } from './motion';
import { betweenFrames, pickTracks } from './tracks';

/**
 * A motion read at other times: turns by shortest arc, places, scales and numbers by their tracks' interpolation, labels as
 * they stand. At whole frames it is what stands there, to the bit.
 * @param times in frames, fractions allowed, rising or not; clamped to the motion
 * @param fps frame rate of the result; the motion's own where left out
 * @throws MotionError 'bad-argument' without a frame, 'too-large' beyond what a motion may hold
 */
export function pickFrames(rig: Rig, motion: Motion, times: Float64Array, fps: number = motion.fps): Motion {
  const n = rig.names.length;
  const frames = times.length;
  if (frames < 1) throw new MotionError('bad-argument', 'No frame would be left.');
  if (4 * n * frames > MAX_NUMBERS)
    throw new MotionError('too-large', `The motion would grow to ${frames} frames: that is more than is taken.`);
  const turns = new Float32Array(4 * n * frames);
  const at = { a: 0, b: 0, t: 0 };
  for (let f = 0; f < frames; f++) {
    const { a, b, t } = betweenFrames(times[f]!, motion.frameCount, at);
    if (t === 0) turns.set(motion.turns.subarray(4 * n * a, 4 * n * (a + 1)), 4 * n * f);
    else
      for (let j = 0; j < n; j++)
        slerp(turns, 4 * (f * n + j), motion.turns, 4 * (a * n + j), motion.turns, 4 * (b * n + j), t);
  }
  alignTurns(turns, n, frames);
  return { fps, frameCount: frames, turns, ...pickTracks(motion, times) };
}

/**
 * The same motion at another frame rate; the first frame is kept. See pickFrames for what lies between frames.
 * @param fps above 0, at most 1000
 * @throws MotionError 'bad-argument' for a rate outside its range, 'too-large' beyond what a motion may hold
 */
export function resample(rig: Rig, motion: Motion, fps: number): Motion {
  if (!(fps > 0) || fps > 1000)
    throw new MotionError('bad-argument', 'The frame rate must lie above 0 and at most 1000.');
  if (Math.abs(fps - motion.fps) < 1e-6) return motion;
  const frames = Math.max(1, Math.floor(durationOf(motion) * fps + 1e-6) + 1);
  const step = motion.fps / fps;
  return pickFrames(
    rig,
    motion,
    Float64Array.from({ length: frames }, (_, f) => f * step),
    fps,
  );
}

/** A speed that holds from a time on, passing linearly into the next one. */
export interface SpeedKey {
  readonly seconds: number;
  readonly speed: number;
}

const SPEED = { time: (k: SpeedKey) => k.seconds, value: (k: SpeedKey) => k.speed, ease: () => 'linear' as const };

/**
 * When every frame of a motion is reached that is played at changing speeds, in frames at its own rate from its first one; by
 * the midpoint rule.
 * @param keys in rising order of time
 */
export function framesReached(frameCount: number, fps: number, keys: readonly SpeedKey[]): Float64Array {
  const reached = new Float64Array(frameCount);
  const parts = 8;
  for (let f = 0; f + 1 < frameCount; f++) {
    let sum = 0;
    for (let i = 0; i < parts; i++) sum += 1 / valueAt(keys, SPEED, (f + (i + 0.5) / parts) / fps);
    reached[f + 1] = reached[f]! + sum / parts;
  }
  return reached;
}

/**
 * Plays the motion faster or slower at its own frame rate: by one factor, or by a curve over its own time.
 * @param speed 0.05 to 20, or keys in rising order of time
 * @throws MotionError 'bad-argument' for speeds outside their range or keys out of order, 'too-large' beyond what a motion may hold
 */
export function retime(rig: Rig, motion: Motion, speed: number | readonly SpeedKey[]): Motion {
  const keys = typeof speed === 'number' ? [{ seconds: 0, speed }] : speed;
  if (keys.length === 0 || keys.some((k) => !(k.speed >= 0.05 && k.speed <= 20) || !Number.isFinite(k.seconds)))
    throw new MotionError('bad-argument', 'A speed must lie between 0.05 and 20.');
  if (keys.some((k, i) => i > 0 && k.seconds <= keys[i - 1]!.seconds))
    throw new MotionError('bad-argument', 'The times of a speed curve must rise.');
  const last = motion.frameCount - 1;
  if (keys.every((k) => k.speed === 1) || last === 0) return motion;
  const reached = framesReached(motion.frameCount, motion.fps, keys);
  const frames = Math.round(reached[last]!) + 1;
  // the last frame is met exactly: the rounding is spread over the whole
  const stretch = frames > 1 ? reached[last]! / (frames - 1) : 1;
  const times = new Float64Array(frames);
  for (let f = 0, i = 0; f < frames; f++) {
    const x = f * stretch;
    while (i < last - 1 && reached[i + 1]! <= x) i++;
    times[f] = Math.min(last, i + (x - reached[i]!) / (reached[i + 1]! - reached[i]!));
  }
  times[frames - 1] = last;
  return pickFrames(rig, motion, times);
}

/**
 * Frames start to end, both included.
 * @throws MotionError 'bad-argument' for frames that are not there
 */
export function trim(rig: Rig, motion: Motion, start: number, end: number): Motion {
  if (!(Number.isInteger(start) && Number.isInteger(end) && start >= 0 && start <= end && end < motion.frameCount))
    throw new MotionError(
      'bad-argument',
      `Frames ${start} to ${end} are not within 0 to ${motion.frameCount - 1}: choose a first and a last frame inside the motion.`,
    );
  if (start === 0 && end === motion.frameCount - 1) return motion;
  const frame = 4 * rig.names.length;
  const times = Float64Array.from({ length: end - start + 1 }, (_, i) => start + i);
  return {
    ...motion,
    frameCount: times.length,
    turns: motion.turns.slice(frame * start, frame * (end + 1)),
    ...pickTracks(motion, times),
  };
}

/**
 * Repeats the first pose for `before` frames and the last one for `after`.
 * @throws MotionError 'bad-argument' for frames below 0 or not whole, 'too-large' beyond what a motion may hold
 */
export function hold(rig: Rig, motion: Motion, before: number, after: number): Motion {
  if (![before, after].every((x) => Number.isInteger(x) && x >= 0 && x < 100_000))
    throw new MotionError('bad-argument', 'The frames to hold must be whole numbers from 0.');
  if (before + after === 0) return motion;
  return pickFrames(
    rig,
    motion,
    Float64Array.from({ length: motion.frameCount + before + after }, (_, i) => i - before),
  );
}

/** Backwards in time. */
export function reverse(rig: Rig, motion: Motion): Motion {
  const last = motion.frameCount - 1;
  return pickFrames(
    rig,
    motion,
    Float64Array.from({ length: last + 1 }, (_, i) => last - i),
  );
}
