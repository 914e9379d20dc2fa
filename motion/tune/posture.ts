import { alignmentTurns } from '../body/alignment';
import type { Party } from '../body/party';
import { headingOf } from '../body/root-frame';
import { carrierOf } from '../bodymap/body-root';
import { chainOf, jointOf, SIDES } from '../bodymap/slots';
import { MotionError } from '../errors';
import { mul64, mulInv64 } from '../math/fast';
import { alignSigns, axisAngleQuat, mulQuat, normalizeQuat, rotate3, slerp } from '../math/quat';
import { ChainReader } from '../motion/chain-reader';
import { type Motion, PoseReader } from '../motion/motion';
import { moveJoint, placesOf } from '../motion/move-joint';
import { TurnWriter } from '../motion/turn-writer';
import { unhang } from '../motion/unhang';
import { comesRound, slowCourse } from './course';
import { displaceFoot, keepFeet, readFeet } from './feet';

const RAD = Math.PI / 180;
/** Window of the slow course, seconds. */
const COURSE_S = 0.45;

function inRange(value: number, low: number, high: number, what: string): void {
  if (!(value >= low && value <= high))
    throw new MotionError('bad-argument', `${what} must lie between ${low} and ${high}.`);
}

/** Joint in which the body travels: the hips, else the first root. */
export function travelJoint(party: Party): number {
  return carrierOf(party.rig, party.map, party.skinned);
}

/**
 * Energy: makes a motion larger (above 1) or smaller around its own slow course. Trunk, arms and head turn by amount times
 * what they depart from their course, the hips move so too, swinging feet are lifted so much higher or lower; held feet stay.
 * @param amount 0 to 3; 1 changes nothing
 */
export function energy(party: Party, motion: Motion, amount: number): Motion {
  inRange(amount, 0, 3, 'Energy');
  if (amount === 1) return motion;
  const { rig, motion: own, rehang } = unhang(party.rig, motion, travelJoint(party));
  return rehang(enlarge({ ...party, rig }, own, amount));
}

/** energy for a motion whose moving part hangs from nothing. */
function enlarge(party: Party, motion: Motion, amount: number): Motion {
  const { rig, map } = party;
  const n = rig.names.length;
  const frames = motion.frameCount;
  const w = Math.max(1, Math.round(COURSE_S * motion.fps * 0.5));
  const round = comesRound(rig, motion);
  const legs = new Set(SIDES.flatMap((s) => ['thigh', 'shin', 'foot', 'toes'].map((p) => jointOf(map, p + s))));
  const turns = motion.turns.slice();
  const mean = [0, 0, 0, 1];
  for (let j = 0; j < n; j++) {
    if (legs.has(j)) continue;
    const slow = slowCourse(motion.turns, 4 * j, 4 * n, 4, frames, w, round && rig.parents[j]! >= 0);
    for (let f = 0; f < frames; f++) {
      const o = 4 * (f * n + j);
      for (let k = 0; k < 4; k++) mean[k] = slow[4 * f + k]!;
      normalizeQuat(mean, 0);
      slerp(turns, o, mean, 0, motion.turns, o, amount);
      normalizeQuat(turns, o);
    }
    alignSigns(turns, 4 * j, 4 * n, frames);
  }
  const hips = travelJoint(party);
  const places = motion.places.map((t) => {
    if (t.joint !== hips) return t;
    const slow = slowCourse(t.values, 0, 3, 3, frames, w, round);
    return { joint: t.joint, values: t.values.map((x, i) => slow[i]! + amount * (x - slow[i]!)) };
  });
  return keepFeet(party, motion, { ...motion, turns, places }, ({ plans }) => {
    for (const { goal, held } of plans) liftSwing(goal, held, amount);
  });
}

/** Multiplies how high a foot swings above the line between where it left and where it lands. */
function liftSwing(goal: Float64Array, held: Uint8Array, amount: number): void {
  const frames = held.length;
  let prev = -1;
  for (let f = 0; f < frames; f++) {
    if (!held[f]) continue;
    if (prev >= 0 && f - prev > 1) {
      const y0 = goal[3 * prev + 1]!;
      const y1 = goal[3 * f + 1]!;
      for (let g = prev + 1; g < f; g++) {
        const line = y0 + ((y1 - y0) * (g - prev)) / (f - prev);
        const above = Math.max(0, goal[3 * g + 1]! - line);
        goal[3 * g + 1] = goal[3 * g + 1]! + (amount - 1) * above;
      }
    }
    prev = f;
  }
}

/** Turns a joint in the frame of what carries it: W′ = (carrier · turn in body axes · carrier⁻¹) · W, children follow. */
function turnInBody(
  party: Party,
  motion: Motion,
  items: readonly { joint: number; carrier: number; turn: (f: number) => readonly number[] }[],
): Motion {
  const { rig } = party;
  const aligned = alignmentTurns(rig, party.map, party.pose);
  const writer = new TurnWriter(motion);
  const reader = new PoseReader(rig, motion);
  const body = new Float64Array(4);
  const q = new Float64Array(4);
  for (let f = 0; f < motion.frameCount; f++) {
    const { r } = reader.at(f);
    for (const { joint, carrier, turn } of items) {
      // the carrier's departure from the aligned pose: its axes are the body's left, up, front
      const c = 4 * (carrier >= 0 ? carrier : joint);
      mulInv64(body, 0, r, c, aligned, c);
      mulQuat(q, 0, body, 0, turn(f), 0);
      mulInv64(q, 0, q, 0, body, 0);
      mul64(q, 0, q, 0, r, 4 * joint);
      writer.write(f, joint, r, 4 * rig.parents[joint]!, q, 0);
    }
  }
  return { ...motion, turns: writer.turns };
}

/** Arms apart: both upper arms turned away from the body (above 0) or towards it, in the chest's frame. @param degrees −60 to 60 */
export function armsApart(party: Party, motion: Motion, degrees: number): Motion {
  inRange(degrees, -60, 60, 'Arms apart');
  const chest = chainOf(party.map, 'spine').at(-1) ?? jointOf(party.map, 'hips');
  const items = SIDES.flatMap((side) => {
    const joint = jointOf(party.map, `upperArm${side}`);
    if (joint < 0) return [];
    const turn = [0, 0, 0, 1];
    axisAngleQuat(turn, 0, 0, 0, 1, (side === 'L' ? 1 : -1) * degrees * RAD);
    return [{ joint, carrier: chest, turn: () => turn }];
  });
  return degrees === 0 || items.length === 0 ? motion : turnInBody(party, motion, items);
}

/**
 * Lean: bows the trunk forward (above 0) or back and to the left (above 0) or right; hips, spine and neck share it, the head
 * gives half of it back so that it looks on ahead. Feet stay.
 * @param forward @param left degrees, −45 to 45
 */
export function lean(party: Party, motion: Motion, forward: number, left = 0): Motion {
  inRange(forward, -45, 45, 'Lean');
  inRange(left, -45, 45, 'Lean');
  if (forward === 0 && left === 0) return motion;
  const { map } = party;
  const hips = jointOf(map, 'hips');
  const spine = chainOf(map, 'spine');
  const trunk = hips >= 0 ? [hips, ...spine] : spine;
  if (trunk.length === 0) return motion;
  const share = (part: number): number[] => {
    const q = [0, 0, 0, 1];
    const roll = [0, 0, 0, 1];
    axisAngleQuat(q, 0, 1, 0, 0, forward * part * RAD);
    axisAngleQuat(roll, 0, 0, 0, 1, -left * part * RAD);
    mulQuat(q, 0, q, 0, roll, 0);
    return q;
  };
  const hipShare = spine.length > 0 ? 0.35 : 1;
  const items = trunk.map((joint) => {
    const turn = share(joint === hips ? hipShare : (1 - (hips >= 0 ? hipShare : 0)) / spine.length);
    return { joint, carrier: hips >= 0 ? hips : joint, turn: () => turn };
  });
  const head = jointOf(map, 'head');
  const back = share(-0.5);
  if (head >= 0) items.push({ joint: head, carrier: trunk.at(-1)!, turn: () => back });
  return keepFeet(party, motion, turnInBody(party, motion, items));
}

/** Heading of the hips (radians about Y from +Z) and their place over the ground, smoothed; 3 F: heading, x, z. */
function hipCourse(party: Party, motion: Motion): Float64Array {
  const { rig } = party;
  const joint = travelJoint(party);
  const aligned = alignmentTurns(rig, party.map, party.pose);
  const reader = new PoseReader(rig, motion);
  const raw = new Float32Array(3 * motion.frameCount);
  let last = 0;
  for (let f = 0; f < motion.frameCount; f++) {
    const { r, p } = reader.at(f);
    last = headingOf(r, 4 * joint, aligned, 4 * joint, last);
    raw.set([last, p[3 * joint]!, p[3 * joint + 2]!], 3 * f);
  }
  return slowCourse(raw, 0, 3, 3, motion.frameCount, Math.max(1, Math.round(COURSE_S * motion.fps * 0.5)), false);
}

/** Stance width: feet set wider (above 1) or closer, across the way the body faces; every plant stays a plant. @param scale 0.3 to 3 */
export function stanceWidth(party: Party, motion: Motion, scale: number): Motion {
  inRange(scale, 0.3, 3, 'Stance width');
  if (scale === 1) return motion;
  const course = hipCourse(party, motion);
  return keepFeet(party, motion, motion, ({ plans }) => {
    for (const plan of plans) {
      const goal = plan.goal.slice();
      displaceFoot(plan, (f) => {
        const across = [Math.cos(course[3 * f]!), 0, -Math.sin(course[3 * f]!)];
        const off =
          (goal[3 * f]! - course[3 * f + 1]!) * across[0]! + (goal[3 * f + 2]! - course[3 * f + 2]!) * across[2]!;
        return across.map((x) => x * off * (scale - 1));
      });
    }
  });
}

/**
 * Stride length: the way over the ground made longer or shorter, steps with it; the stance keeps its width and every plant
 * stays one. The first frame's place is the fixed point.
 * @param scale 0.3 to 2
 */
export function strideLength(party: Party, motion: Motion, scale: number): Motion {
  inRange(scale, 0.3, 2, 'Stride length');
  if (scale === 1) return motion;
  const joint = travelJoint(party);
  const course = hipCourse(party, motion);
  const values = new Float64Array(3 * motion.frameCount);
  const reader = new ChainReader(party.rig, motion, [joint]);
  for (let f = 0; f < motion.frameCount; f++) values.set(reader.at(f).p.subarray(3 * joint, 3 * joint + 3), 3 * f);
  const changed = moveJoint(party.rig, motion, joint, (f) => [
    (scale - 1) * (values[3 * f]! - values[0]!),
    0,
    (scale - 1) * (values[3 * f + 2]! - values[2]!),
  ]);
  return keepFeet(party, motion, changed, ({ plans }) => {
    for (const plan of plans) {
      const goal = plan.goal.slice();
      displaceFoot(plan, (f) => {
        // the body's way at that time, and the foot's lead along it, both grow
        const [h, x, z] = [course[3 * f]!, course[3 * f + 1]!, course[3 * f + 2]!];
        const along = [Math.sin(h), Math.cos(h)];
        const fore = (goal[3 * f]! - x) * along[0]! + (goal[3 * f + 2]! - z) * along[1]!;
        return [
          (scale - 1) * (x - values[0]! + fore * along[0]!),
          0,
          (scale - 1) * (z - values[2]! + fore * along[1]!),
        ];
      });
    }
  });
}

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
