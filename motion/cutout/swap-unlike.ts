import { jointOf, SIDES, type Side } from '../bodymap/slots';
import type { Motion } from '../motion/motion';
import { PlaneReader } from '../motion/plane-pose';
import { type FlatBody, pointOn } from './flat';
import type { Stand } from './keys';

/** Something that the old figure did and a body of other proportions does not. */
export interface Unlike {
  /** A hand no longer meets what it met, or the weight no longer lies over the feet that stand. */
  readonly kind: 'reach' | 'balance';
  /** Where it is worst. */
  readonly frame: number;
  /** The slot of the hand and of what it met; empty for balance. */
  readonly parts: readonly string[];
  /** How far apart, or beyond the feet: shares of the height, in the old figure and in the new one. */
  readonly before: number;
  readonly after: number;
}

interface Moving {
  readonly flat: FlatBody;
  readonly motion: Motion;
}

/** A hand this near to something meets it, a share of the height. */
const MEETS = 0.05;
/** So much farther apart, or farther beyond the feet, is told. */
const TOLD = 0.05;
/** Shares of the body's weight from a slot to the next, after Winter, Biomechanics, 4th ed., table 4.1. */
const WEIGHTS: readonly (readonly [string, string, number])[] = [
  ['hips', 'neck1', 0.5],
  ['neck1', 'head', 0.08],
  ...SIDES.flatMap((s): [string, string, number][] => [
    [`upperArm${s}`, `forearm${s}`, 0.028],
    [`forearm${s}`, `hand${s}`, 0.022],
    [`thigh${s}`, `shin${s}`, 0.1],
    [`shin${s}`, `foot${s}`, 0.061],
  ]),
];

/** Compares two figures that do the same: what hands met, and whether the weight lies over the feet that stand. */
export function unlikeIn(old: Moving, made: Moving, stands: readonly Stand[]): Unlike[] {
  const [a, b] = [readerOf(old), readerOf(made)];
  const pairs = [
    ['handL', 'handR'],
    ...SIDES.flatMap((s) => ['head', 'hips', 'thighL', 'thighR'].map((to) => [`hand${s}`, to])),
  ].filter((pair) => pair.every((slot) => a.has(slot) && b.has(slot))) as [string, string][];
  const worst = new Map<string, Unlike>();
  const tell = (found: Unlike): void => {
    const key = `${found.kind} ${found.parts}`;
    const known = worst.get(key);
    if (!known || found.after - found.before > known.after - known.before) worst.set(key, found);
  };
  for (let frame = 0; frame < old.motion.frameCount; frame++) {
    a.read(frame);
    b.read(frame);
    for (const parts of pairs) {
      const [before, after] = [a.apart(...parts), b.apart(...parts)];
      if (before < MEETS && after > before + TOLD) tell({ kind: 'reach', frame, parts, before, after });
    }
    const standing = SIDES.filter((s) => stands.some((x) => x.side === s && x.start <= frame && frame <= x.end));
    if (standing.length === 0) continue;
    const [before, after] = [a.beyond(standing), b.beyond(standing)];
    if (after > before + TOLD) tell({ kind: 'balance', frame, parts: [], before, after });
  }
  return [...worst.values()].sort((x, y) => y.after - y.before - (x.after - x.before));
}

function readerOf({ flat, motion }: Moving) {
  const reader = new PlaneReader(flat.rig, motion);
  const height = flat.height || 1;
  let frames = reader.frames;
  const joint = (slot: string): number => jointOf(flat.map, slot);
  const at = (slot: string): [number, number] => {
    const o = 6 * joint(slot) + 4;
    return [frames[o]!, frames[o + 1]!];
  };
  const weighed = WEIGHTS.filter(([from, to]) => joint(from) >= 0 && joint(to) >= 0);
  return {
    has: (slot: string): boolean => joint(slot) >= 0,
    read(frame: number): void {
      frames = reader.read(frame / motion.fps);
    },
    apart(from: string, to: string): number {
      const [[ax, ay], [bx, by]] = [at(from), at(to)];
      return Math.hypot(bx - ax, by - ay) / height;
    },
    /** How far the weight lies beyond the feet that stand, a share of the height; 0 over them. */
    beyond(sides: readonly Side[]): number {
      const feet = flat.legs.filter((l) => sides.includes(l.side) && l.foot.joint >= 0);
      if (feet.length === 0 || weighed.length === 0) return 0;
      const ends = feet.flatMap(({ foot }) => [foot.heel, foot.ball].map((p) => pointOn(frames, foot.joint, p)[0]));
      let [sum, x] = [0, 0];
      for (const [from, to, weight] of weighed) {
        x += (weight * (at(from)[0] + at(to)[0])) / 2;
        sum += weight;
      }
      return Math.max(0, Math.min(...ends) - x / sum, x / sum - Math.max(...ends)) / height;
    },
  };
}

const percent = (x: number): string => `${Math.round(100 * x)} %`;

/** One such thing in a sentence, for people. */
export function unlikeWords({ kind, frame, parts, before, after }: Unlike): string {
  return kind === 'balance'
    ? `frame ${frame}: the weight lies ${percent(after)} of the height beyond the feet that stand (${percent(before)} before)`
    : `frame ${frame}: ${parts.join(' and ')} are ${percent(after)} of the height apart (${percent(before)} before)`;
}
