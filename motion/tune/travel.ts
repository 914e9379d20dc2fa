import type { Party } from '../body/party';
import { rotate3 } from '../math/quat';
import { comesRound } from '../motion/comes-round';
import { type Motion, PoseReader } from '../motion/motion';
import { placesOf } from '../motion/move-joint';
import type { SkeletonRig } from '../rig/rig';
import { travelJoint } from './common';
import { slowCourse } from './course';

/** Ground course of the hips: x and z a frame. A loop travels at one speed; anything else along its slow course. */
function groundCourse(party: Party, motion: Motion): Float64Array {
  const joint = travelJoint(party);
  const frames = motion.frameCount;
  const reader = new PoseReader(party.rig, motion);
  const raw = new Float32Array(2 * frames);
  for (let f = 0; f < frames; f++) {
    const { p } = reader.at(f);
    raw[2 * f] = p[3 * joint]!;
    raw[2 * f + 1] = p[3 * joint + 2]!;
  }
  if (comesRound(party.rig, motion)) {
    const last = frames - 1;
    return Float64Array.from(raw, (_, i) => {
      const k = i & 1;
      return raw[k]! + ((raw[2 * last + k]! - raw[k]!) * (i >> 1)) / last;
    });
  }
  return slowCourse(raw, 0, 2, 2, frames, Math.max(1, Math.round(0.3 * motion.fps)), false);
}

/** Moves every root so that the body is displaced by −course over the ground; inner hips are moved through their parents. */
function shift(party: Party, motion: Motion, by: (f: number) => readonly [number, number]): Motion {
  const { rig } = party;
  const tracks = new Map<number, Float32Array>(motion.places.map((t) => [t.joint, t.values.slice()]));
  const joint = travelJoint(party);
  const above = rig.parents[joint]!;
  const values = placesOf(rig, motion, joint);
  const reader = above >= 0 ? new PoseReader(rig, motion) : undefined;
  const v = [0, 0, 0];
  for (let f = 0; f < motion.frameCount; f++) {
    const [x, z] = by(f);
    v[0] = x;
    v[1] = 0;
    v[2] = z;
    if (reader) {
      const { r } = reader.at(f);
      rotate3(v, 0, [-r[4 * above]!, -r[4 * above + 1]!, -r[4 * above + 2]!, r[4 * above + 3]!], 0, v, 0);
    }
    for (let k = 0; k < 3; k++) values[3 * f + k] = values[3 * f + k]! + v[k]!;
  }
  tracks.set(joint, values);
  return { ...motion, places: [...tracks].map(([j, x]) => ({ joint: j, values: x })) };
}

/** In place: the travel over the ground is taken out, sway and height stay. Feet then slide backwards under the body, as they must. */
export function inPlace(party: Party, motion: Motion): Motion {
  const course = groundCourse(party, motion);
  return shift(party, motion, (f) => [course[0]! - course[2 * f]!, course[1]! - course[2 * f + 1]!]);
}

export interface Rooted {
  readonly rig: SkeletonRig;
  readonly motion: Motion;
  /** Joint that carries the travel. */
  readonly root: number;
  /** True where the rig had no joint for it and one was put in front: old joint j is now j + 1. */
  readonly added: boolean;
}

/**
 * Moves the travel over the ground onto a root joint that stands on the floor; the hips keep sway and height. A joint above
 * the hips that lies on the floor is used, else one named "root" is added. Nothing moves in the world.
 */
export function toRootJoint(party: Party, motion: Motion): Rooted {
  const joint = travelJoint(party);
  const course = groundCourse(party, motion);
  const frames = motion.frameCount;
  const old = party.rig.parents[joint]!;
  const grounded = old >= 0 && party.rig.parents[old]! < 0 && Math.abs(party.rig.restT[3 * old + 1]!) < 0.05;
  const { rig, motion: base } = grounded ? { rig: party.rig, motion } : withRoot(party.rig, motion);
  const root = grounded ? old : 0;
  const hips = grounded ? joint : joint + 1;
  const reader = new PoseReader(rig, base);
  const rootPlaces = placesOf(rig, base, root);
  const hipPlaces = placesOf(rig, base, hips);
  const back = [0, 0, 0, 1];
  const v = [0, 0, 0];
  for (let f = 0; f < frames; f++) {
    const { r } = reader.at(f);
    const [x, z] = [course[2 * f]! - course[0]!, course[2 * f + 1]! - course[1]!];
    rootPlaces[3 * f] = rootPlaces[3 * f]! + x;
    rootPlaces[3 * f + 2] = rootPlaces[3 * f + 2]! + z;
    const above = rig.parents[hips]!;
    for (let k = 0; k < 4; k++) back[k] = k < 3 ? -r[4 * above + k]! : r[4 * above + k]!;
    rotate3(v, 0, back, 0, [-x, 0, -z], 0);
    for (let k = 0; k < 3; k++) hipPlaces[3 * f + k] = hipPlaces[3 * f + k]! + v[k]!;
  }
  const kept = base.places.filter((t) => t.joint !== root && t.joint !== hips);
  return {
    rig,
    motion: {
      ...base,
      places: [{ joint: root, values: rootPlaces }, { joint: hips, values: hipPlaces }, ...kept],
    },
    root,
    added: !grounded,
  };
}

/** A joint "root" at the origin in front of everything; every old root hangs from it. */
export function withRoot(rig: SkeletonRig, motion: Motion): { rig: SkeletonRig; motion: Motion } {
  const n = rig.names.length;
  const name = rig.names.includes('root') ? 'ground_root' : 'root';
  const grown = (values: Float32Array, head: number[]): Float32Array => Float32Array.from([...head, ...values]);
  const turns = new Float32Array(4 * (n + 1) * motion.frameCount);
  for (let f = 0; f < motion.frameCount; f++) {
    turns[4 * (n + 1) * f + 3] = 1;
    turns.set(motion.turns.subarray(4 * n * f, 4 * n * (f + 1)), 4 * (n + 1) * f + 4);
  }
  return {
    rig: {
      ...rig,
      names: [name, ...rig.names],
      parents: Int16Array.from([-1, ...[...rig.parents].map((p) => p + 1)]),
      restT: grown(rig.restT, [0, 0, 0]),
      restR: grown(rig.restR, [0, 0, 0, 1]),
      tips: grown(rig.tips, [Number.NaN, Number.NaN, Number.NaN]),
    },
    motion: {
      ...motion,
      turns,
      places: motion.places.map((t) => ({ ...t, joint: t.joint + 1 })),
      scales: motion.scales.map((t) => ({ ...t, joint: t.joint + 1 })),
    },
  };
}
