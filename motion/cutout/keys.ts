import { MotionError } from '../errors';
import { type Ease, stretchAt } from '../motion/curve';
import type { Motion } from '../motion/motion';
import { lengthTrack, type NumberTrack, type PlaceTrack, type ScaleTrack, type StepTrack } from '../motion/tracks';
import type { CutoutRig } from '../rig/rig';

/** A key of something that a joint does: one number for a turn (radians) or a length, two for a place or a scale. */
export interface CutoutKey {
  readonly frame: number;
  readonly value: readonly number[];
  /** How it passes into the next key. */
  readonly ease?: Ease | undefined;
}

/** How many numbers a key of each kind has. */
export const WIDTH = { turn: 1, place: 2, scale: 2, length: 1 } as const;

/**
 * What a joint does, by keys: its turn beyond rest, its place in its parent's frame (metres), its scale, or how long its parts
 * are drawn along their bone (1 at rest; what hangs on it is moved by places of its own).
 */
export interface KeyTrack {
  readonly joint: string;
  readonly channel: keyof typeof WIDTH;
  readonly keys: readonly CutoutKey[];
}

/** What shows when: labels that hold until the next key. */
export interface StepKeys {
  readonly name: string;
  readonly keys: readonly { readonly frame: number; readonly label: string }[];
}

/** A stretch of frames, both ends included, in which a foot stands. */
export interface Stand {
  readonly side: 'L' | 'R';
  readonly start: number;
  readonly end: number;
}

/** Finished cut-out animation as it was made: sparse keys that stay keys. */
export interface CutoutKeys {
  readonly fps: number;
  readonly frameCount: number;
  readonly tracks: readonly KeyTrack[];
  readonly steps: readonly StepKeys[];
  /** Which foot stands when, where somebody said so; found where left out. */
  readonly plants?: readonly Stand[] | undefined;
}

/** @throws MotionError 'bad-structure' or 'bad-number' with the joint, for keys that do not make sense on a figure */
export function assertKeys(rig: CutoutRig, keys: CutoutKeys): void {
  if (!(keys.fps > 0) || !Number.isFinite(keys.fps)) throw new MotionError('bad-number', 'The rate is not above 0.');
  if (!Number.isInteger(keys.frameCount) || keys.frameCount < 1 || keys.frameCount > 1_000_000)
    throw new MotionError('bad-number', 'The number of frames is no whole number from 1 to 1,000,000.');
  for (const { joint, channel, keys: list } of keys.tracks) {
    if (!rig.names.includes(joint))
      throw new MotionError('bad-structure', 'Keys are set for a joint that the figure does not have.', { joint });
    let last = Number.NEGATIVE_INFINITY;
    for (const { frame, value } of list) {
      if (!(frame > last))
        throw new MotionError('bad-structure', 'Keys do not stand in order of time.', { joint, frame });
      if (value.length !== WIDTH[channel] || !value.every(Number.isFinite))
        throw new MotionError('bad-number', `A key of ${channel} needs ${WIDTH[channel]} finite numbers.`, {
          joint,
          frame,
        });
      last = frame;
    }
  }
}

/** The value of a track at a frame; undefined where it has no key. */
export function keyedAt({ keys }: Pick<KeyTrack, 'keys'>, frame: number): number[] | undefined {
  const stretch = stretchAt(
    keys,
    (k) => k.frame,
    (k) => k.ease ?? 'smooth',
    frame,
  );
  return stretch?.from.value.map((a, i) => a + stretch.share * (stretch.to.value[i]! - a));
}

/** Keys as a motion, frame by frame. @throws MotionError as assertKeys does */
export function evaluateKeys(rig: CutoutRig, keys: CutoutKeys): Motion {
  assertKeys(rig, keys);
  const { fps, frameCount: n } = keys;
  const j = rig.names.length;
  const turns = new Float32Array(4 * j * n);
  for (let f = 0; f < n; f++) turns.set(rig.restR, 4 * j * f);
  const places: PlaceTrack[] = [];
  const scales: ScaleTrack[] = [];
  const numbers: NumberTrack[] = [];
  for (const track of keys.tracks) {
    if (track.keys.length === 0) continue;
    const joint = rig.names.indexOf(track.joint);
    if (track.channel === 'length') {
      const values = Float32Array.from({ length: n }, (_, f) => keyedAt(track, f)![0]!);
      numbers.push({ name: lengthTrack(track.joint), values });
      continue;
    }
    const values = new Float32Array(3 * n).fill(1);
    for (let f = 0; f < n; f++) {
      const v = keyedAt(track, f)!;
      if (track.channel === 'turn') {
        const o = 4 * (f * j + joint);
        turns[o + 2] = Math.sin(v[0]! / 2);
        turns[o + 3] = Math.cos(v[0]! / 2);
      } else values.set(track.channel === 'place' ? [v[0]!, v[1]!, 0] : [v[0]!, v[1]!, 1], 3 * f);
    }
    if (track.channel === 'place') places.push({ joint, values });
    if (track.channel === 'scale') scales.push({ joint, values });
  }
  const steps = keys.steps.map(({ name, keys: list }): StepTrack => {
    const labels = [...new Set(list.map((k) => k.label))];
    const values = new Uint16Array(n);
    for (let f = 0; f < n; f++) {
      const now = list.findLast((k) => k.frame <= f) ?? list[0];
      values[f] = now ? labels.indexOf(now.label) : 0;
    }
    return { name, labels: labels.length > 0 ? labels : [''], values };
  });
  return { fps, frameCount: n, turns, places, scales, numbers, steps };
}

/** Reads keys that came as JSON. @throws MotionError 'bad-structure' */
export function keysFromJson(json: unknown, rig: CutoutRig): CutoutKeys {
  const { fps, frameCount, tracks, steps = [], plants } = (json ?? {}) as Partial<CutoutKeys>;
  if (typeof fps !== 'number' || typeof frameCount !== 'number' || !Array.isArray(tracks) || !Array.isArray(steps))
    throw new MotionError('bad-structure', 'Keys need a rate, a number of frames, tracks and steps.');
  const whole = tracks.every(
    (t) =>
      typeof t?.joint === 'string' &&
      Object.hasOwn(WIDTH, t.channel) &&
      Array.isArray(t.keys) &&
      t.keys.every((k: CutoutKey) => typeof k?.frame === 'number' && Array.isArray(k.value) && isEase(k.ease)),
  );
  if (!whole)
    throw new MotionError('bad-structure', 'A track of keys needs a joint, a channel and keys with frame and value.');
  const labelled = steps.every(
    (s) =>
      typeof s?.name === 'string' &&
      Array.isArray(s.keys) &&
      s.keys.every(
        (k: { frame?: unknown; label?: unknown }) => typeof k?.frame === 'number' && typeof k.label === 'string',
      ),
  );
  if (!labelled)
    throw new MotionError('bad-structure', 'A track of labels needs a name and keys with frame and label.');
  const keys: CutoutKeys = { fps, frameCount, tracks, steps, ...(Array.isArray(plants) ? { plants } : {}) };
  assertKeys(rig, keys);
  return keys;
}

const isEase = (ease: unknown): boolean =>
  ease === undefined ||
  ease === 'smooth' ||
  ease === 'linear' ||
  ease === 'step' ||
  (Array.isArray(ease) && ease.length === 4 && ease.every((x) => typeof x === 'number' && Number.isFinite(x)));

/** A motion as keys, one a frame, with straight ways between: for what was never keyed. */
export function keysOfMotion(rig: CutoutRig, motion: Motion): CutoutKeys {
  const n = rig.names.length;
  const frames = Array.from({ length: motion.frameCount }, (_, f) => f);
  const tracks: KeyTrack[] = rig.names.map((joint, j) => {
    let last = 0;
    return {
      joint,
      channel: 'turn',
      keys: frames.map((frame) => {
        const o = 4 * (frame * n + j);
        const turn = 2 * Math.atan2(motion.turns[o + 2]!, motion.turns[o + 3]!);
        last = turn + 2 * Math.PI * Math.round((last - turn) / (2 * Math.PI));
        return { frame, value: [last], ease: 'linear' as const };
      }),
    };
  });
  for (const [channel, list] of [
    ['place', motion.places],
    ['scale', motion.scales],
  ] as const)
    for (const { joint, values, between } of list) {
      // what hangs on a bone that is drawn shorter goes with it: that is no place of its own
      const parent = rig.names[rig.parents[joint]!];
      if (channel === 'place' && motion.numbers.some((t) => t.name === lengthTrack(parent ?? ''))) continue;
      tracks.push({
        joint: rig.names[joint]!,
        channel,
        keys: frames.map((frame) => ({
          frame,
          value: [values[3 * frame]!, values[3 * frame + 1]!],
          ease: between === 'hold' ? ('step' as const) : ('linear' as const),
        })),
      });
    }
  return { fps: motion.fps, frameCount: motion.frameCount, tracks, steps: stepKeysOf(motion) };
}

/** What a motion shows when, as keys: one wherever the label changes. */
export const stepKeysOf = ({ steps }: Motion): StepKeys[] =>
  steps.map(({ name, labels, values }) => ({
    name,
    keys: Array.from(values).flatMap((label, frame) =>
      frame === 0 || label !== values[frame - 1] ? [{ frame, label: labels[label]! }] : [],
    ),
  }));

/** Keys of which the whole takes another number of frames: every one goes where its share of the time is. */
export function retimedKeys(keys: CutoutKeys, frames: number): CutoutKeys {
  if (frames === keys.frameCount || keys.frameCount < 2) return { ...keys, frameCount: frames };
  const by = (frames - 1) / (keys.frameCount - 1);
  return {
    fps: keys.fps,
    frameCount: frames,
    tracks: keys.tracks.map((t) => ({ ...t, keys: t.keys.map((k) => ({ ...k, frame: by * k.frame })) })),
    steps: keys.steps.map((s) => ({ ...s, keys: s.keys.map((k) => ({ ...k, frame: Math.round(by * k.frame) })) })),
    plants: keys.plants?.map((p) => ({ ...p, start: Math.round(by * p.start), end: Math.round(by * p.end) })),
  };
}
