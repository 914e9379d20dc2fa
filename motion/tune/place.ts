import type { Party } from '../body/party';
import { alignSigns, mulQuat, rotate3 } from '../math/quat';
import { type Motion, PoseReader } from '../motion/motion';
import { placesOf } from '../motion/move-joint';
import { RAD, travelJoint } from './common';
import { readFeet } from './feet';
import { hipCourse } from './stance';

/** Lifts or lowers the whole motion so that it stands on y = 0. */
export function setOnFloor(party: Party, motion: Motion): Motion {
  const feet = readFeet(party, motion);
  let floor = feet?.contacts.floor;
  if (floor === undefined) {
    const reader = new PoseReader(party.rig, motion);
    floor = Number.POSITIVE_INFINITY;
    for (let f = 0; f < motion.frameCount; f++) {
      const { p } = reader.at(f);
      for (let o = 1; o < p.length; o += 3) floor = Math.min(floor, p[o]!);
    }
  }
  return Math.abs(floor) < 1e-6 ? motion : moveRoots(party, motion, [0, -floor, 0], 0);
}

/** Puts the first frame's body over a place on the ground, looking along a heading. @param heading degrees about Y, 0 is +Z */
export function place(party: Party, motion: Motion, at: readonly [number, number], heading: number): Motion {
  const course = hipCourse(party, motion);
  const turn = heading * RAD - course[0]!;
  const turned = moveRoots(party, motion, [0, 0, 0], turn);
  const joint = travelJoint(party);
  const { p } = new PoseReader(party.rig, turned).at(0);
  return moveRoots(party, turned, [at[0] - p[3 * joint]!, 0, at[1] - p[3 * joint + 2]!], 0);
}

/** Turns everything about Y through the origin, then moves it. */
export function moveRoots(party: Party, motion: Motion, by: readonly number[], turn: number): Motion {
  const { rig } = party;
  const n = rig.names.length;
  const q = [0, Math.sin(turn / 2), 0, Math.cos(turn / 2)];
  const turns = turn === 0 ? motion.turns : motion.turns.slice();
  const roots = [...rig.parents].flatMap((p, j) => (p < 0 ? [j] : []));
  if (turn !== 0) {
    for (const j of roots) {
      for (let f = 0; f < motion.frameCount; f++) {
        const o = 4 * (f * n + j);
        mulQuat(turns, o, q, 0, turns, o);
      }
      alignSigns(turns, 4 * j, 4 * n, motion.frameCount);
    }
  }
  const tracks = new Map(motion.places.map((t) => [t.joint, t.values]));
  for (const j of roots) {
    const values = placesOf(rig, motion, j);
    for (let o = 0; o < values.length; o += 3) {
      rotate3(values, o, q, 0, values, o);
      for (let k = 0; k < 3; k++) values[o + k] = values[o + k]! + by[k]!;
    }
    tracks.set(j, values);
  }
  return { ...motion, turns, places: [...tracks].map(([joint, values]) => ({ joint, values })) };
}
