import { MotionError } from '../errors';
import { alignSigns, mulQuat, normalizeQuat, slerp } from '../math/quat';
import { type NamedEase, type Stretch, stretchAt } from '../motion/curve';
import type { Motion } from '../motion/motion';
import { placesOf } from '../motion/move-joint';
import type { SkeletonRig } from '../rig/rig';

/**
 * turn: x y z w in the joint's own frame, put behind its turn; move: metres in its parent's frame. What a key leaves out it says
 * nothing about: the keys before and after it that tell go on.
 */
export interface OffsetKey {
  readonly frame: number;
  readonly turn?: readonly [number, number, number, number];
  readonly move?: readonly [number, number, number];
  /** Towards the next key; smooth unless told otherwise. */
  readonly ease?: NamedEase;
}

export interface OffsetTrack {
  readonly joint: number;
  /** In rising order of frame. Before the first and after the last key their offset holds. */
  readonly keys: readonly OffsetKey[];
}

const SAME = [0, 0, 0, 1] as const;
const NOWHERE = [0, 0, 0] as const;

/**
 * Correction layer: offsets of joints over time on top of a motion, which stays as it was. Pure.
 * @throws MotionError 'bad-argument' for a joint that is not there, keys out of order or a turn of no length
 */
export function addOffsets(rig: SkeletonRig, motion: Motion, tracks: readonly OffsetTrack[]): Motion {
  const n = rig.names.length;
  const rotations = motion.turns.slice();
  const places = new Map<number, Float32Array>(motion.places.map((t) => [t.joint, t.values.slice()]));
  const q = [0, 0, 0, 1];
  for (const { joint, keys } of tracks) {
    check(rig, joint, keys);
    if (keys.length === 0) continue;
    // a key that says nothing of turns leaves them to its neighbours, and so with moves
    const turns = keys.filter((k) => k.turn);
    const moves = keys.filter((k) => k.move);
    if (turns.length > 0)
      for (let f = 0; f < motion.frameCount; f++) {
        const { from, to, share } = offsetAt(turns, f)!;
        slerp(q, 0, from.turn!, 0, to.turn!, 0, share);
        normalizeQuat(q, 0);
        const o = 4 * (f * n + joint);
        mulQuat(rotations, o, rotations, o, q, 0);
        normalizeQuat(rotations, o);
      }
    if (moves.length > 0) {
      const values = places.get(joint) ?? placesOf(rig, motion, joint);
      places.set(joint, values);
      for (let f = 0; f < motion.frameCount; f++) {
        const by = moveAt(moves, f);
        for (let k = 0; k < 3; k++) values[3 * f + k] = values[3 * f + k]! + by[k]!;
      }
    }
    alignSigns(rotations, 4 * joint, 4 * n, motion.frameCount);
  }
  return { ...motion, turns: rotations, places: [...places].map(([joint, values]) => ({ joint, values })) };
}

const offsetAt = (keys: readonly OffsetKey[], frame: number): Stretch<OffsetKey> | undefined =>
  stretchAt(
    keys,
    (k) => k.frame,
    (k) => k.ease ?? 'smooth',
    frame,
  );

/** Move of a track at a frame, metres, by the easing of its keys; none where they tell none. */
export function moveAt(keys: readonly OffsetKey[], frame: number): [number, number, number] {
  const stretch = offsetAt(keys, frame);
  const a = stretch?.from.move ?? NOWHERE;
  const b = stretch?.to.move ?? NOWHERE;
  const t = stretch?.share ?? 0;
  return [a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1]), a[2] + t * (b[2] - a[2])];
}

function check(rig: SkeletonRig, joint: number, keys: readonly OffsetKey[]): void {
  const name = rig.names[joint];
  if (name === undefined) throw new MotionError('bad-argument', `The rig has no joint ${joint}.`);
  keys.forEach((k, i) => {
    if (!Number.isFinite(k.frame) || (i > 0 && k.frame <= keys[i - 1]!.frame))
      throw new MotionError('bad-argument', 'The keys of an offset must stand in rising order of frame.', {
        joint: name,
      });
    const numbers = [...(k.turn ?? SAME), ...(k.move ?? NOWHERE)];
    if (numbers.some((x) => !Number.isFinite(x)) || Math.hypot(...(k.turn ?? SAME)) < 1e-6)
      throw new MotionError('bad-number', 'An offset is not a finite number or turn.', { joint: name, frame: k.frame });
  });
}
