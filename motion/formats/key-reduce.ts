import { largestError } from '../codec/error';
import { MotionError } from '../errors';
import { angleBetweenQuats, slerp } from '../math/quat';
import { keyFrames } from '../motion/key-frames';
import type { Motion } from '../motion/motion';
import { restPose, type SkeletonRig } from '../rig/rig';

/** Which frames of each track are kept as keys, rising, first and last always among them. */
export interface ReducedKeys {
  /** J lists: keys of each joint's turn. */
  readonly turns: readonly Uint32Array[];
  /** By index of translation track. */
  readonly places: readonly Uint32Array[];
  /** By index of scalar track. */
  readonly numbers: readonly Uint32Array[];
}

/**
 * Leaves out keys that straight interpolation (slerp, linear) brings back, so that no point of the body moves by more than
 * the tolerance; checked on the whole body, since errors add up along a limb.
 * @param tolerance metres, 0.00001 to 1
 * @throws MotionError 'bad-argument' for a tolerance that is not above 0
 */
export function reduceKeys(rig: SkeletonRig, motion: Motion, tolerance: number): ReducedKeys {
  if (!(tolerance >= 1e-5 && tolerance <= 1))
    throw new MotionError('bad-argument', 'The tolerance of key reduction must lie between 0.00001 and 1 metre.');
  const levers = leverArms(rig);
  let share = 0.5;
  let keys = choose(rig, motion, levers, share * tolerance);
  for (let i = 0; i < 8; i++) {
    const error = largestError(rig, motion, applyKeys(rig, motion, keys));
    if (error <= tolerance) break;
    share *= Math.max(0.3, (0.9 * tolerance) / error);
    keys = choose(rig, motion, levers, share * tolerance);
  }
  return keys;
}

/** Distance from each joint to the farthest thing that hangs from it, metres. */
function leverArms(rig: SkeletonRig): Float64Array {
  const n = rig.names.length;
  const out = new Float64Array(n).fill(0.1);
  const { p } = restPose(rig);
  for (let j = n - 1; j >= 0; j--)
    for (let a = j; a >= 0; a = rig.parents[a]!)
      out[a] = Math.max(
        out[a]!,
        0.1 + Math.hypot(p[3 * a]! - p[3 * j]!, p[3 * a + 1]! - p[3 * j + 1]!, p[3 * a + 2]! - p[3 * j + 2]!),
      );
  return out;
}

function choose(rig: SkeletonRig, motion: Motion, levers: Float64Array, tolerance: number): ReducedKeys {
  const n = rig.names.length;
  const q = [0, 0, 0, 1];
  return {
    turns: rig.names.map((_, j) => {
      const at = (f: number): number => 4 * (f * n + j);
      return keyFrames(motion.frameCount, tolerance / levers[j]!, (a, b, f) => {
        slerp(q, 0, motion.turns, at(a), motion.turns, at(b), (f - a) / (b - a));
        return angleBetweenQuats(q, 0, motion.turns, at(f));
      });
    }),
    places: motion.places.map(({ values }) => linear(values, 3, motion.frameCount, tolerance)),
    numbers: motion.numbers.map(({ values }) => {
      let most = 0;
      for (const x of values) most = Math.max(most, Math.abs(x));
      return linear(values, 1, motion.frameCount, Math.max(1e-6, 0.005 * most));
    }),
  };
}

function linear(values: Float32Array, width: number, frames: number, tolerance: number): Uint32Array {
  return keyFrames(frames, tolerance, (a, b, f) => {
    const t = (f - a) / (b - a);
    let sum = 0;
    for (let k = 0; k < width; k++) {
      const x = (1 - t) * values[width * a + k]! + t * values[width * b + k]!;
      sum += (x - values[width * f + k]!) ** 2;
    }
    return Math.sqrt(sum);
  });
}

/** The motion as a reader of the keys will have it, frame by frame. */
export function applyKeys(rig: SkeletonRig, motion: Motion, keys: ReducedKeys): Motion {
  const n = rig.names.length;
  const frames = motion.frameCount;
  const turns = new Float32Array(4 * n * frames);
  const between = (list: Uint32Array, put: (f: number, a: number, b: number, t: number) => void): void => {
    for (let i = 0; i < list.length; i++) {
      const a = list[i]!;
      const b = list[i + 1] ?? a;
      put(a, a, a, 0);
      for (let f = a + 1; f < b; f++) put(f, a, b, (f - a) / (b - a));
    }
  };
  keys.turns.forEach((list, j) => {
    between(list, (f, a, b, t) => {
      slerp(turns, 4 * (f * n + j), motion.turns, 4 * (a * n + j), motion.turns, 4 * (b * n + j), t);
    });
  });
  const lerp = (values: Float32Array, width: number, list: Uint32Array): Float32Array => {
    const out = new Float32Array(values.length);
    between(list, (f, a, b, t) => {
      for (let k = 0; k < width; k++)
        out[width * f + k] = (1 - t) * values[width * a + k]! + t * values[width * b + k]!;
    });
    return out;
  };
  return {
    ...motion,
    turns,
    places: motion.places.map((t, i) => ({ joint: t.joint, values: lerp(t.values, 3, keys.places[i]!) })),
    numbers: motion.numbers.map((s, i) => ({ name: s.name, values: lerp(s.values, 1, keys.numbers[i]!) })),
  };
}

/** Keys kept in all, against all there were. */
export function keyCount(keys: ReducedKeys, motion: Motion): { kept: number; of: number } {
  const lists = [...keys.turns, ...keys.places, ...keys.numbers];
  return { kept: lists.reduce((s, x) => s + x.length, 0), of: lists.length * motion.frameCount };
}
