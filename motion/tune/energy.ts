import type { Party } from '../body/party';
import { jointOf, SIDES } from '../bodymap/slots';
import { alignSigns, normalizeQuat, slerp } from '../math/quat';
import { comesRound } from '../motion/comes-round';
import type { Motion } from '../motion/motion';
import { unhang } from '../motion/unhang';
import { COURSE_S, inRange, travelJoint } from './common';
import { slowCourse } from './course';
import { keepFeet } from './feet';

/**
 * Energy: makes a motion larger (above 1) or smaller around its own slow course. Trunk, arms and head turn by amount times
 * what they depart from their course, the hips move so too, swinging feet are lifted so much higher or lower; held feet stay.
 * @param amount 0 to 3; 1 changes nothing
 * @throws MotionError 'bad-argument' for an amount outside its range
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
