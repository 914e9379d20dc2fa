import type { Party } from '../body/party';
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
  const turns = turn === 0 ? motion.turns : motion.turns.slice();
  const roots = [...rig.parents].flatMap((p, j) => (p < 0 ? [j] : []));
  if (turn !== 0) for (const j of roots) turnAboutY(turns, 4 * j, 4 * n, turn);
  const tracks = new Map(motion.places.map((t) => [t.joint, t.values]));
  for (const j of roots) {
    const values = placesOf(rig, motion, j);
    carry(values, by, turn);
    tracks.set(j, values);
  }
  return { ...motion, turns, places: [...tracks].map(([joint, values]) => ({ joint, values })) };
}

/** Puts a turn about Y before every turn of a root; signs stay continuous, for all are turned alike. */
function turnAboutY(turns: Float32Array, start: number, stride: number, turn: number): void {
  const s = Math.sin(turn / 2);
  const c = Math.cos(turn / 2);
  for (let o = start; o < turns.length; o += stride) {
    const x = turns[o]!;
    const y = turns[o + 1]!;
    const z = turns[o + 2]!;
    const w = turns[o + 3]!;
    turns[o] = c * x + s * z;
    turns[o + 1] = c * y + s * w;
    turns[o + 2] = c * z - s * x;
    turns[o + 3] = c * w - s * y;
  }
}

/** Turns places about Y through the origin, then moves them. */
function carry(values: Float32Array, by: readonly number[], turn: number): void {
  const s = Math.sin(turn);
  const c = Math.cos(turn);
  const [dx = 0, dy = 0, dz = 0] = by;
  for (let o = 0; o < values.length; o += 3) {
    const x = values[o]!;
    const z = values[o + 2]!;
    values[o] = c * x + s * z + dx;
    values[o + 1] = values[o + 1]! + dy;
    values[o + 2] = c * z - s * x + dz;
  }
}
