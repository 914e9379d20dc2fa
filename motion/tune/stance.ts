import { alignmentTurns } from '../body/alignment';
import type { Party } from '../body/party';
import { headingOf } from '../body/root-frame';
import { ChainReader } from '../motion/chain-reader';
import { type Motion, PoseReader } from '../motion/motion';
import { moveJoint } from '../motion/move-joint';
import { COURSE_S, inRange, travelJoint } from './common';
import { slowCourse } from './course';
import { displaceFoot, keepFeet } from './feet';

/** Heading of the hips (radians about Y from +Z) and their place over the ground, smoothed; 3 F: heading, x, z. */
export function hipCourse(party: Party, motion: Motion): Float64Array {
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

/**
 * Stance width: feet set wider (above 1) or closer, across the way the body faces; every plant stays a plant.
 * @param scale 0.3 to 3
 * @throws MotionError 'bad-argument' for a scale outside its range
 */
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
 * @throws MotionError 'bad-argument' for a scale outside its range
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
