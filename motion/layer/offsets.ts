import { MotionError } from '../errors';
import { load4, mul64, normalize64, slerp64, storeNear } from '../math/fast';
import { type Ease, easeAt, type Stretch, stretchAt } from '../motion/curve';
import type { Motion } from '../motion/motion';
import { placesOf } from '../motion/move-joint';
import type { Rig } from '../rig/rig';

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
  for (const { joint, keys } of tracks) check(rig, joint, keys);
  // a key that says nothing of turns leaves them to its neighbours, and so with moves
  const turning = tracks.flatMap(({ joint, keys }) => {
    const turns = keys.filter((k) => k.turn);
    return turns.length > 0 ? [new Turning(joint, turns)] : [];
  });
  // frame by frame, as they lie in memory
  for (let f = 0; f < motion.frameCount; f++) for (const t of turning) t.turn(rotations, n, f);
  for (const { joint, keys } of tracks) {
    const moves = keys.filter((k) => k.move);
    if (moves.length > 0) {
      const values = places.get(joint) ?? placesOf(rig, motion, joint);
      places.set(joint, values);
      for (let f = 0; f < motion.frameCount; f++) {
        const by = moveAt(moves, f);
        for (let k = 0; k < 3; k++) values[3 * f + k] = values[3 * f + k]! + by[k]!;
      }
    }
  }
  return { ...motion, turns: rotations, places: [...places].map(([joint, values]) => ({ joint, values })) };
}

/** The offsets of a joint, put behind its turns one frame after the other. */
class Turning {
  private readonly told: Float64Array[];
  private readonly by = new Float64Array(4);
  private readonly own = new Float64Array(4);
  private next = 0;

  constructor(
    private readonly joint: number,
    private readonly keys: readonly OffsetKey[],
  ) {
    this.told = keys.map((k) => Float64Array.from(k.turn!));
    for (const q of this.told) normalize64(q, 0);
  }

  /** @param f the frame after that of the last call, from 0 */
  turn(turns: Float32Array, n: number, f: number): void {
    const { keys, told, by, own } = this;
    while (this.next < keys.length && keys[this.next]!.frame <= f) this.next++;
    const from = Math.max(0, this.next - 1);
    const to = this.next === 0 ? 0 : Math.min(this.next, keys.length - 1);
    if (from === to) by.set(told[from]!);
    else {
      const { frame, ease } = keys[from]!;
      const share = easeAt(ease ?? 'smooth', (f - frame) / (keys[to]!.frame - frame));
      slerp64(by, 0, told[from]!, 0, told[to]!, 0, share);
    }
    const o = 4 * (f * n + this.joint);
    load4(own, 0, turns, o);
    mul64(own, 0, own, 0, by, 0);
    normalize64(own, 0);
    storeNear(turns, o, own, 0, f > 0 ? o - 4 * n : -1);
  }
}

const offsetAt = (keys: readonly OffsetKey[], frame: number): Stretch<OffsetKey> | undefined =>
  stretchAt(
    keys,
    (k) => k.frame,
    (k) => k.ease ?? 'smooth',
    frame,
  );

/** Turn of a track at a frame, by the easing of its keys; none where they tell none. */
export function turnOffsetAt(keys: readonly OffsetKey[], frame: number): [number, number, number, number] {
  const told = keys.filter((k) => k.turn);
  const stretch = offsetAt(told, frame);
  const a = Float64Array.from(stretch?.from.turn ?? SAME);
  const b = Float64Array.from(stretch?.to.turn ?? SAME);
  slerp64(a, 0, a, 0, b, 0, stretch?.share ?? 0);
  return [a[0]!, a[1]!, a[2]!, a[3]!];
}

/** Move of a track at a frame, metres, by the easing of its keys; none where they tell none. */
export function moveAt(keys: readonly OffsetKey[], frame: number): [number, number, number] {
  const stretch = offsetAt(keys, frame);
  const a = stretch?.from.move ?? NOWHERE;
  const b = stretch?.to.move ?? NOWHERE;
  const t = stretch?.share ?? 0;
  return [a[0] + t * (b[0] - a[0]), a[1] + t * (b[1] - a[1]), a[2] + t * (b[2] - a[2])];
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
