import type { Party } from '../body/party';
import type { Side } from '../bodymap/slots';
import { alignTurns } from '../math/quat';
import type { Motion } from '../motion/motion';
import { placesOf } from '../motion/move-joint';
import { restNumber, scalesIn } from '../motion/tracks';
import type { Laid } from './laid';
import type { Stands } from './steps';

/** Frames of a lane while they are written. */
export class LaneWriter {
  readonly motion: Motion;
  readonly held: Record<Side, Uint8Array>;
  /** First frame that is written, and the one behind the last. */
  first = 0;
  end = 0;
  floor = 0;
  private readonly n: number;

  constructor(
    readonly party: Party,
    laid: readonly Laid[],
    readonly frames: number,
  ) {
    const { rig } = party;
    this.n = rig.names.length;
    const joints = [
      ...new Set([
        ...[...rig.parents.keys()].filter((j) => rig.parents[j]! < 0),
        ...laid.flatMap((l) => l.motion.places.map((t) => t.joint)),
      ]),
    ];
    const names = [...new Set(laid.flatMap((l) => l.motion.numbers.map((t) => t.name)))];
    const sizes = laid.flatMap((l) => l.motion.scales);
    const sized = new Set(sizes.map((t) => t.joint));
    // of a figure and the same turned over there is nothing between two frames
    const held = (joint: number): boolean => sizes.some((t) => t.joint === joint && t.between === 'hold');
    const labels = new Map<string, Set<string>>();
    for (const { motion } of laid)
      for (const t of motion.steps) labels.set(t.name, new Set([...(labels.get(t.name) ?? []), ...t.labels]));
    this.motion = {
      fps: laid[0]!.motion.fps,
      frameCount: frames,
      turns: new Float32Array(4 * this.n * frames),
      places: joints.map((joint) => ({ joint, values: new Float32Array(3 * frames) })),
      scales: [...sized].map((joint) => ({
        joint,
        values: new Float32Array(3 * frames).fill(1),
        ...(held(joint) ? { between: 'hold' as const } : {}),
      })),
      numbers: names.map((name) => ({ name, values: new Float32Array(frames) })),
      steps: [...labels].map(([name, all]) => ({ name, labels: [...all], values: new Uint16Array(frames) })),
    };
    this.held = { L: new Uint8Array(frames), R: new Uint8Array(frames) };
  }

  /** Writes a motion over what is there from its first frame on; what was there beyond its end is gone. */
  write(motion: Motion, at: number, { held, floor }: Stands, from = at): void {
    const { n, frames } = this;
    const count = Math.min(motion.frameCount, frames - at);
    const skip = Math.max(0, from - at);
    if (this.end === 0) {
      this.first = Math.max(0, at);
      this.floor = floor;
    }
    this.end = Math.max(from, at + count);
    if (count <= skip) return;
    this.motion.turns.set(motion.turns.subarray(4 * n * skip, 4 * n * count), 4 * n * from);
    for (const { joint, values } of this.motion.places)
      values.set(placesIn(this.party, motion, joint).subarray(3 * skip, 3 * count), 3 * from);
    for (const { joint, values } of this.motion.scales)
      values.set(scalesIn(motion, joint).subarray(3 * skip, 3 * count), 3 * from);
    for (const { name, values } of this.motion.numbers) {
      const own = motion.numbers.find((t) => t.name === name);
      if (own) values.set(own.values.subarray(skip, count), from);
      else values.fill(restNumber(name), from, at + count);
    }
    for (const track of this.motion.steps) {
      const own = motion.steps.find((t) => t.name === track.name);
      for (let f = from; f < at + count; f++)
        track.values[f] = own ? track.labels.indexOf(own.labels[own.values[f - at]!]!) : (track.values[f - 1] ?? 0);
    }
    for (const side of ['L', 'R'] as const) this.held[side].set(held[side].subarray(skip, count), from);
  }

  /** A copy of written frames, both included. */
  copy(first: number, last: number): Motion {
    const { n, motion } = this;
    return {
      ...motion,
      frameCount: last - first + 1,
      turns: motion.turns.slice(4 * n * first, 4 * n * (last + 1)),
      places: motion.places.map((t) => ({ ...t, values: t.values.slice(3 * first, 3 * (last + 1)) })),
      scales: motion.scales.map((t) => ({ ...t, values: t.values.slice(3 * first, 3 * (last + 1)) })),
      numbers: motion.numbers.map((t) => ({ ...t, values: t.values.slice(first, last + 1) })),
      steps: motion.steps.map((t) => ({ ...t, values: t.values.slice(first, last + 1) })),
    };
  }

  /** Holds the last pose that is written up to a frame, not included. */
  holdUntil(frame: number): void {
    const { n, end } = this;
    const to = Math.min(frame, this.frames);
    for (let f = end; f < to; f++) {
      this.motion.turns.copyWithin(4 * n * f, 4 * n * (end - 1), 4 * n * end);
      for (const { values } of [...this.motion.places, ...this.motion.scales])
        values.copyWithin(3 * f, 3 * (end - 1), 3 * end);
      for (const { values } of [...this.motion.numbers, ...this.motion.steps]) values[f] = values[end - 1]!;
      for (const side of ['L', 'R'] as const) this.held[side][f] = this.held[side][end - 1]!;
    }
    this.end = Math.max(end, to);
  }

  finish(): { motion: Motion; held: Record<Side, Uint8Array> } {
    const { n, first, frames, motion } = this;
    this.holdUntil(frames);
    for (let f = 0; f < first; f++) {
      motion.turns.copyWithin(4 * n * f, 4 * n * first, 4 * n * (first + 1));
      for (const { values } of [...motion.places, ...motion.scales]) values.copyWithin(3 * f, 3 * first, 3 * first + 3);
      for (const { values } of [...motion.numbers, ...motion.steps]) values[f] = values[first]!;
    }
    alignTurns(motion.turns, n, frames);
    return { motion, held: this.held };
  }
}

/** Places of a joint in a motion: its track, or its rest place throughout. */
export const placesIn = (party: Party, motion: Motion, joint: number): Float32Array =>
  motion.places.find((t) => t.joint === joint)?.values ?? placesOf(party.rig, motion, joint);
