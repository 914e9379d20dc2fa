import { MotionError } from '../errors';
import { type Ease, easeAt } from '../motion/curve';
import type { Motion } from '../motion/motion';
import { type NumberTrack, restNumber, type StepTrack } from '../motion/tracks';

/** A number at a frame of the reel; null: from here on what lies beneath counts again. */
export interface LevelKey {
  readonly frame: number;
  readonly value: number | null;
  /** Towards the next key; straight unless told otherwise. */
  readonly ease?: Ease | undefined;
}

/** A number of a member (a face shape), set over time. */
export interface LevelLane {
  readonly name: string;
  /** In rising order of frames. */
  readonly keys: readonly LevelKey[];
}

/** What shows from a frame of the reel on: a label of the track; null: what lies beneath shows again. */
export interface LabelKey {
  readonly frame: number;
  readonly label: string | null;
}

/** What is chosen over time: the drawings of a part, the view of a joint (see viewTrack), the order of drawing. */
export interface LabelLane {
  readonly name: string;
  /** In rising order of frames. */
  readonly keys: readonly LabelKey[];
}

/**
 * Numbers and labels set over a motion, which stays as it was. Before a lane's first key, and from a key that lets go to the next
 * one, what lies beneath counts. The last key goes on to the end. Pure.
 * @throws MotionError 'bad-argument' for keys out of order, 'bad-number' for what is no finite number
 */
export function setLevels(motion: Motion, numbers: readonly LevelLane[], labels: readonly LabelLane[]): Motion {
  if (numbers.every((n) => n.keys.length === 0) && labels.every((l) => l.keys.length === 0)) return motion;
  for (const lane of [...numbers, ...labels]) checkLane(lane);
  const own = new Map(motion.numbers.map((t) => [t.name, t]));
  for (const lane of numbers)
    if (lane.keys.length > 0) own.set(lane.name, numberOver(motion, own.get(lane.name), lane));
  const steps = new Map(motion.steps.map((t) => [t.name, t]));
  for (const lane of labels)
    if (lane.keys.length > 0) steps.set(lane.name, labelsOver(motion, steps.get(lane.name), lane));
  return { ...motion, numbers: [...own.values()], steps: [...steps.values()] };
}

function checkLane({ name, keys }: LevelLane | LabelLane): void {
  if (typeof name !== 'string' || !Array.isArray(keys))
    throw new MotionError('bad-argument', 'A lane of numbers or labels needs a name and keys.');
  keys.forEach((k: LevelKey | LabelKey, i) => {
    if (!Number.isFinite(k.frame) || (i > 0 && k.frame <= keys[i - 1]!.frame))
      throw new MotionError('bad-argument', `The keys of ${name} must stand in rising order of frame.`);
    if ('value' in k && k.value !== null && !Number.isFinite(k.value))
      throw new MotionError('bad-number', `A key of ${name} is not a finite number.`, { frame: k.frame });
  });
}

function numberOver({ frameCount }: Motion, beneath: NumberTrack | undefined, { name, keys }: LevelLane): NumberTrack {
  const values = beneath ? beneath.values.slice() : new Float32Array(frameCount).fill(restNumber(name));
  keys.forEach((key, i) => {
    if (key.value === null) return;
    const next = keys[i + 1];
    const end = Math.min(frameCount, next?.frame ?? frameCount);
    for (let f = Math.max(0, Math.ceil(key.frame)); f < end; f++) {
      const share =
        next && next.value !== null ? easeAt(key.ease ?? 'linear', (f - key.frame) / (next.frame - key.frame)) : 0;
      values[f] = key.value + share * ((next?.value ?? key.value) - key.value);
    }
  });
  return { ...beneath, name, values };
}

function labelsOver({ frameCount }: Motion, beneath: StepTrack | undefined, { name, keys }: LabelLane): StepTrack {
  const labels = [...(beneath?.labels ?? [])];
  const indexOf = (label: string): number => {
    const at = labels.indexOf(label);
    return at >= 0 ? at : labels.push(label) - 1;
  };
  // where nothing lies beneath, what the first key shows stands in until a track of its own says otherwise
  const first = keys.find((k) => k.label !== null)?.label;
  const values = beneath?.values.slice() ?? new Uint16Array(frameCount).fill(first ? indexOf(first) : 0);
  keys.forEach((key, i) => {
    if (key.label === null) return;
    const end = Math.min(frameCount, keys[i + 1]?.frame ?? frameCount);
    const at = indexOf(key.label);
    for (let f = Math.max(0, Math.ceil(key.frame)); f < end; f++) values[f] = at;
  });
  return { name, labels, values };
}

/** The value of a number lane at a frame; null where what lies beneath counts. */
export function levelInLane({ keys }: LevelLane, frame: number): number | null {
  const i = keys.findLastIndex((k) => k.frame <= frame);
  const key = keys[i];
  if (!key || key.value === null) return null;
  const next = keys[i + 1];
  if (!next || next.value === null) return key.value;
  return (
    key.value + easeAt(key.ease ?? 'linear', (frame - key.frame) / (next.frame - key.frame)) * (next.value - key.value)
  );
}

/** The label of a lane at a frame; null where what lies beneath shows. */
export const labelInLane = ({ keys }: LabelLane, frame: number): string | null =>
  keys.findLast((k) => k.frame <= frame)?.label ?? null;
