import { invertQuat, rotate3 } from '../math/quat';
import type { Rig } from '../rig/rig';
import { ChainReader } from './chain-reader';
import type { Motion } from './motion';

/** A copy of a joint's places over time, 3 F; its rest place throughout where it has no track. */
export function placesOf(rig: Rig, motion: Motion, joint: number): Float32Array<ArrayBuffer> {
  const own = motion.places.find((t) => t.joint === joint);
  if (own) return Float32Array.from(own.values);
  const values = new Float32Array(3 * motion.frameCount);
  for (let f = 0; f < motion.frameCount; f++) values.set(rig.restT.subarray(3 * joint, 3 * joint + 3), 3 * f);
  return values;
}

/**
 * Moves one joint, and what hangs from it, through the world. Pure; a joint without a track of places gets one.
 * @param by move of a frame, world axes, metres
 */
export function moveJoint(
  rig: Rig,
  motion: Motion,
  joint: number,
  by: (frame: number) => readonly number[] | undefined,
): Motion {
  const frames = motion.frameCount;
  const parent = rig.parents[joint]!;
  const reader = parent >= 0 ? new ChainReader(rig, motion, [parent]) : undefined;
  const values = placesOf(rig, motion, joint);
  const back = [0, 0, 0, 1];
  const v = [0, 0, 0];
  for (let f = 0; f < frames; f++) {
    const move = by(f);
    if (!move) continue;
    for (let k = 0; k < 3; k++) v[k] = move[k]!;
    if (reader) {
      invertQuat(back, 0, reader.at(f).r, 4 * parent);
      rotate3(v, 0, back, 0, v, 0);
    }
    for (let k = 0; k < 3; k++) values[3 * f + k] = values[3 * f + k]! + v[k]!;
  }
  return {
    ...motion,
    places: [...motion.places.filter((t) => t.joint !== joint), { joint, values }],
  };
}
