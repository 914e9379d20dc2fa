import { MotionError } from '../errors';
import { alignSigns, mulQuat, normalizeQuat, slerp } from '../math/quat';
import { smoothstep } from '../math/vec';
import type { Motion } from '../motion/motion';
import { placesOf } from '../motion/move-joint';
import type { Rig } from '../rig/rig';

/** How an offset gets from one key to the next. */
export type Ease = 'smooth' | 'linear' | 'step';

/**
 * turn: x y z w in the joint's own frame, put behind its turn; move: metres in its parent's frame. What a key leaves out it says
 * nothing about: the keys before and after it that tell go on.
 */
export interface OffsetKey {
  readonly frame: number;
  readonly turn?: readonly [number, number, number, number];
  readonly move?: readonly [number, number, number];
  /** Towards the next key; smooth unless told otherwise. */
  readonly ease?: Ease;
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
export function addOffsets(rig: Rig, motion: Motion, tracks: readonly OffsetTrack[]): Motion {
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
      for (let f = 0, i = 0; f < motion.frameCount; f++) {
        while (i + 1 < turns.length && turns[i + 1]!.frame <= f) i++;
        const [a, b, t] = between(turns, i, f);
        slerp(q, 0, a.turn!, 0, b.turn!, 0, t);
        normalizeQuat(q, 0);
        const o = 4 * (f * n + joint);
        mulQuat(rotations, o, rotations, o, q, 0);
        normalizeQuat(rotations, o);
      }
    if (moves.length > 0) {
      const values = places.get(joint) ?? placesOf(rig, motion, joint);
      places.set(joint, values);
      for (let f = 0, i = 0; f < motion.frameCount; f++) {
        while (i + 1 < moves.length && moves[i + 1]!.frame <= f) i++;
        const [a, b, t] = between(moves, i, f);
        for (let k = 0; k < 3; k++) values[3 * f + k] = values[3 * f + k]! + (1 - t) * a.move![k]! + t * b.move![k]!;
      }
    }
    alignSigns(rotations, 4 * joint, 4 * n, motion.frameCount);
  }
  return { ...motion, turns: rotations, places: [...places].map(([joint, values]) => ({ joint, values })) };
}

/** The keys before and after a frame, and how far it is on the way from one to the other. */
function between(keys: readonly OffsetKey[], i: number, frame: number): [OffsetKey, OffsetKey, number] {
  const a = keys[i]!;
  const b = keys[i + 1] ?? a;
  const x = b === a || frame <= a.frame ? 0 : (frame - a.frame) / (b.frame - a.frame);
  return [a, b, a.ease === 'step' ? 0 : a.ease === 'linear' ? x : smoothstep(x)];
}

function check(rig: Rig, joint: number, keys: readonly OffsetKey[]): void {
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
