import { FEATURE_WIDTH, type PoseFeatures, poseFeatures } from '../analysis/pose-features';
import type { Party } from '../body/party';
import { easeAcross } from '../math/fade-out';
import { mulInvQuat, mulQuat } from '../math/quat';
import { expQuat, logQuat } from '../math/rotation-vector';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import { pickFrames, reverse, trim } from '../motion/timing';
import { travelJoint } from '../tune/common';
import { apart, type Cloud, cloudOf } from './likeness';
import { Course, carried, meet } from './meet';

/** A motion that comes round does so within this, seconds. */
const ROUND_S = { least: 0.35, most: 2.2 } as const;
/** A frame so near to the last one, in legs, is where a lap began; and where one is looked for that is only about alike. */
export const ROUND = { like: 0.14, about: 0.2 } as const;
/** It has to have gone as it did a lap before for so long, seconds. */
const ALIKE_S = 0.25;
/** What does not come round dies away over about this, seconds. */
const DIE_S = 0.12;

/** What a motion would do after its end. */
export interface CarriedOn {
  /** The motion with so many frames more. */
  readonly motion: Motion;
  /** Length of the lap that it repeats, frames; 0 where it does not come round and comes to rest instead. */
  readonly lap: number;
  /** How far the laps are apart that it is read off, legs²; infinite where it does not come round. */
  readonly apart: number;
}

/**
 * Carries a motion on beyond its last frame: one that has just come round (a gait) goes round again, anything else comes to
 * rest with the velocity it had.
 * @param frames how many more @param near how near, in legs, it has to come to where it was to go round
 */
export function carryOn(party: Party, motion: Motion, frames: number, near: number = ROUND.like): CarriedOn {
  const { lap, apart } = lapAtEnd(party, motion, near);
  return { motion: lap > 0 ? goRound(party, motion, frames, lap) : comeToRest(party, motion, frames), lap, apart };
}

/** The same before its first frame. */
export function leadIn(party: Party, motion: Motion, frames: number, near: number = ROUND.like): CarriedOn {
  const back = carryOn(party, reverse(party.rig, motion), frames, near);
  return { ...back, motion: reverse(party.rig, back.motion) };
}

/** How many frames before the end the body was last as it is there; 0 where it was not. */
function lapAtEnd(party: Party, motion: Motion, near: number): Pick<CarriedOn, 'lap' | 'apart'> {
  const last = motion.frameCount - 1;
  const least = Math.round(ROUND_S.least * motion.fps);
  const most = Math.min(last - 2, Math.round(ROUND_S.most * motion.fps));
  if (most < least) return { lap: 0, apart: Number.POSITIVE_INFINITY };
  const from = Math.max(0, last - most - Math.ceil(0.2 * motion.fps));
  const cloud = cloudOf(seenFromHips(poseFeatures(party, trim(party.rig, motion, from, last))));
  const end = cloud.frames - 1;
  const alike = Math.round(ALIKE_S * motion.fps);
  // what stands still at its end rests, whatever it did before
  if (rests(cloud, Math.max(0, end - alike), end)) return { lap: 0, apart: Number.POSITIVE_INFINITY };
  let best = 0;
  let nearest = near * near;
  for (let lag = least; lag <= most && end - 1 - lag >= 1; lag++) {
    const far = before(cloud, end - 1, end - 1 - lag, alike);
    if (far < nearest) {
      nearest = far;
      best = lag;
    }
  }
  return { lap: best, apart: best > 0 ? nearest : Number.POSITIVE_INFINITY };
}

/** Mean square distance of two frames and of those before them, as far as both reach. */
function before(cloud: Cloud, i: number, j: number, frames: number): number {
  let sum = 0;
  let count = 0;
  for (let d = 0; d <= frames && j - d >= 0; d++, count++) sum += apart(cloud, i - d, cloud, j - d);
  return sum / count;
}

/** Whether nothing moves in a stretch: such a motion rests, it does not come round. */
function rests(cloud: Cloud, from: number, to: number): boolean {
  let far = 0;
  for (let f = from; f <= to; f += 2) far = Math.max(far, apart(cloud, f, cloud, to));
  return far < 0.04 * 0.04;
}

/** Heights told from the hips, for a lap may climb. */
function seenFromHips(features: PoseFeatures): PoseFeatures {
  const values = features.values.slice();
  for (let f = 0; f < features.frameCount; f++) {
    const hips = features.values[FEATURE_WIDTH * f + 1]!;
    for (let k = 1; k < FEATURE_WIDTH; k += 3) {
      const at = FEATURE_WIDTH * f + k;
      values[at] = features.values[at]! - hips;
    }
  }
  return { ...features, values };
}

/** Lap after lap of the last one, each set down where the one before ended; what they differ in at the seam dies away. */
function goRound(party: Party, motion: Motion, frames: number, lap: number): Motion {
  const { rig } = party;
  const last = motion.frameCount - 1;
  const n = rig.names.length;
  const total = motion.frameCount + frames;
  const times = Float64Array.from({ length: total }, (_, f) =>
    f <= last ? f : last - lap + 1 + ((f - last - 1) % lap),
  );
  const out = pickFrames(rig, motion, times);
  const turns = out.turns.slice();
  const places = out.places.map((t) => ({ ...t, values: t.values.slice() }));
  for (let at = last + 1; at < total; at += lap) {
    const count = Math.min(lap, total - at);
    const laid = trim(rig, motion, last - lap, last - lap + count);
    const so = { ...out, turns, places };
    const way = meet(party, new Course(party, so, 0, at - 1), at - 1, new Course(party, laid), 0, 'hips');
    const next = carried(party, laid, { ...way, rise: heightOf(party, so, at - 1) - heightOf(party, laid, 0) });
    turns.set(next.turns.subarray(4 * n), 4 * n * at);
    for (const track of places) {
      const own = next.places.find((t) => t.joint === track.joint);
      if (own) track.values.set(own.values.subarray(3), 3 * at);
    }
    settleSeam(n, turns, places, next, at, Math.min(count, Math.round(0.5 * lap)));
  }
  return { ...out, turns, places };
}

/** Height of the joint that travels, metres. */
function heightOf(party: Party, motion: Motion, frame: number): number {
  const joint = travelJoint(party);
  return new ChainReader(party.rig, motion, [joint]).at(frame).p[3 * joint + 1]!;
}

/** The difference between what was there and how the lap laid behind it begins, spread over its first frames. */
function settleSeam(
  n: number,
  turns: Float32Array,
  places: readonly { readonly joint: number; readonly values: Float32Array }[],
  next: Motion,
  at: number,
  over: number,
): void {
  const q = [0, 0, 0, 1];
  const v = [0, 0, 0];
  for (let j = 0; j < n; j++) {
    mulInvQuat(q, 0, turns, 4 * ((at - 1) * n + j), next.turns, 4 * j);
    logQuat(v, 0, q, 0);
    const whole = [v[0]!, v[1]!, v[2]!];
    for (let i = 0; i < over; i++) {
      const left = 1 - easeAcross((i + 1) / (over + 1));
      for (let k = 0; k < 3; k++) v[k] = whole[k]! * left;
      expQuat(q, 0, v, 0);
      const o = 4 * ((at + i) * n + j);
      mulQuat(turns, o, q, 0, turns, o);
    }
  }
  for (const { joint, values } of places) {
    const first = next.places.find((t) => t.joint === joint);
    if (!first) continue;
    for (let k = 0; k < 3; k++) {
      const whole = values[3 * (at - 1) + k]! - first.values[k]!;
      for (let i = 0; i < over; i++) {
        const o = 3 * (at + i) + k;
        values[o] = values[o]! + whole * (1 - easeAcross((i + 1) / (over + 1)));
      }
    }
  }
}

/** Every joint goes on with its velocity, which dies away. */
function comeToRest(party: Party, motion: Motion, frames: number): Motion {
  const { rig } = party;
  const n = rig.names.length;
  const last = motion.frameCount - 1;
  const out = pickFrames(
    rig,
    motion,
    Float64Array.from({ length: motion.frameCount + frames }, (_, f) => Math.min(f, last)),
  );
  const h = Math.min(last, Math.max(1, Math.round(motion.fps / 30)));
  if (h < 1) return out;
  const tau = DIE_S * motion.fps;
  const way = (i: number): number => (tau * (1 - Math.exp(-i / tau))) / h;
  const q = [0, 0, 0, 1];
  const v = [0, 0, 0];
  for (let j = 0; j < n; j++) {
    mulInvQuat(q, 0, motion.turns, 4 * (last * n + j), motion.turns, 4 * ((last - h) * n + j));
    logQuat(v, 0, q, 0);
    const velocity = [v[0]!, v[1]!, v[2]!];
    for (let i = 1; i <= frames; i++) {
      for (let k = 0; k < 3; k++) v[k] = velocity[k]! * way(i);
      expQuat(q, 0, v, 0);
      const o = 4 * ((last + i) * n + j);
      mulQuat(out.turns, o, q, 0, out.turns, o);
    }
  }
  for (const { values } of out.places)
    for (let k = 0; k < 3; k++) {
      const velocity = values[3 * last + k]! - values[3 * (last - h) + k]!;
      for (let i = 1; i <= frames; i++) values[3 * (last + i) + k] = values[3 * last + k]! + velocity * way(i);
    }
  return out;
}
