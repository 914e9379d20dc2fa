import { type Body, measureBody } from '../body/body';
import { type RestKind, restKind } from '../body/rest-kind';
import { carrierOf } from '../bodymap/body-root';
import { type BodyMap, jointOf, SIDES } from '../bodymap/slots';
import { angleBetweenQuats } from '../math/quat';
import { durationOf, type Motion, PoseReader } from '../motion/motion';
import { restPose, type SkeletonRig, type WorldPose } from '../rig/rig';
import { carriedBy, findBelt } from './belt';
import { rhythm } from './descriptor';
import { movingParts } from './fit-sketch';
import { noiseLevel } from './noise';
import { type Contacts, findContacts, isSole, type Plant, soleTracks } from './plants';
import { poseFeatures } from './pose-features';

/** What can be said of a motion by measuring it. Lengths in metres, times in seconds, angles in degrees. */
export interface Facts {
  readonly frameCount: number;
  readonly fps: number;
  readonly durationS: number;
  readonly jointCount: number;
  readonly movingJoints: number;
  /** Straight line over the ground from first to last hip place. */
  readonly travelM: number;
  readonly pathM: number;
  readonly inPlace: boolean;
  /** First and last pose agree, travel taken out. */
  readonly loops: boolean;
  readonly seamDeg: number;
  readonly steps: number;
  /** Share of frames in which the left, the right, and any foot is held, on the ground or on what passes under a gait on the spot. */
  readonly support: { readonly left: number; readonly right: number; readonly any: number };
  readonly hipHeightM: { readonly low: number; readonly high: number };
  readonly legM: number;
  /** Change of heading from first to last frame, and all turning added up; to the left above 0. */
  readonly turnDeg: number;
  readonly turningDeg: number;
  /** Steps a minute where there are at least three, else beats a minute of the hips; 0 where neither. */
  readonly tempo: number;
  /** Share of frames in which both feet, and no foot, are held. */
  readonly bothFeet: number;
  readonly noFoot: number;
  /** Parts that move: spine, neck, head, collars, arms, hands, fingers, legs, feet, toes, face. */
  readonly parts: readonly string[];
  /** Root mean square of noise in the limbs' turns, degrees. */
  readonly noiseDeg: number;
  readonly rest: RestKind;
}

const TOLERANCE_LOOP_DEG = 4;

/** Measures a motion on its own rig. Pure; works without legs too. */
export function readFacts(
  rig: SkeletonRig,
  map: BodyMap,
  motion: Motion,
  body: Body = measureBody(rig, map),
  pose?: WorldPose,
): { facts: Facts; contacts: Contacts } {
  const n = rig.names.length;
  const contacts = findContacts(soleTracks(rig, motion, body), motion.fps, body.leg);
  const reader = new PoseReader(rig, motion);
  const hips = Math.max(0, jointOf(map, 'hips'));
  let path = 0;
  let low = Number.POSITIVE_INFINITY;
  let high = Number.NEGATIVE_INFINITY;
  const first = [0, 0, 0];
  const last = [0, 0, 0];
  for (let f = 0; f < motion.frameCount; f++) {
    const { p } = reader.at(f);
    const [x, y, z] = [p[3 * hips]!, p[3 * hips + 1]!, p[3 * hips + 2]!];
    if (f === 0) first.splice(0, 3, x, y, z);
    else path += Math.hypot(x - last[0]!, z - last[2]!);
    last.splice(0, 3, x, y, z);
    low = Math.min(low, y);
    high = Math.max(high, y);
  }
  const travel = Math.hypot(last[0]! - first[0]!, last[2]! - first[2]!);
  const marks = { left: new Uint8Array(motion.frameCount), right: new Uint8Array(motion.frameCount) };
  for (const plant of standsOf(rig, map, motion, body) ?? contacts.plants)
    if (isSole(plant.part)) marks[plant.part.endsWith('L') ? 'left' : 'right'].fill(1, plant.start, plant.end + 1);
  const share = (a: Uint8Array): number => a.reduce((s, x) => s + x, 0) / motion.frameCount;
  const any = marks.left.map((x, f) => x | marks.right[f]!);
  let seam = 0;
  let moving = 0;
  const end = 4 * n * (motion.frameCount - 1);
  for (let j = 0; j < n; j++) {
    if (j !== hips || rig.parents[j]! >= 0)
      seam = Math.max(seam, angleBetweenQuats(motion.turns, 4 * j, motion.turns, end + 4 * j));
    const step = Math.max(1, Math.floor(motion.frameCount / 40));
    for (let f = step; f < motion.frameCount; f += step) {
      if (angleBetweenQuats(motion.turns, 4 * j, motion.turns, 4 * (f * n + j)) > 0.01) {
        moving++;
        break;
      }
    }
  }
  const seamDeg = (seam * 180) / Math.PI;
  const party = { rig, map, pose };
  const features = poseFeatures(party, motion, contacts.floor, Math.max(1, Math.round(motion.fps / 30)), body);
  const steps = countSteps(marks.left) + countSteps(marks.right);
  let turning = 0;
  for (let f = 1; f < features.frameCount; f++) turning += Math.abs(features.heading[f]! - features.heading[f - 1]!);
  const turn = features.heading[features.frameCount - 1]! - features.heading[0]!;
  const seconds = Math.max(durationOf(motion), 1 / motion.fps);
  const limbs = SIDES.flatMap((side) => ['upperArm', 'forearm', 'thigh', 'shin'].map((s) => jointOf(map, s + side)));
  const round = (x: number, unit: number): number => Math.round(x / unit) * unit;
  return {
    contacts,
    facts: {
      frameCount: motion.frameCount,
      fps: motion.fps,
      durationS: durationOf(motion),
      jointCount: n,
      movingJoints: moving,
      travelM: travel,
      pathM: path,
      inPlace: travel < 0.25 * Math.max(body.leg, 0.3),
      loops: motion.frameCount > 8 && moving > 0 && seamDeg < TOLERANCE_LOOP_DEG,
      seamDeg,
      steps,
      support: { left: share(marks.left), right: share(marks.right), any: share(any) },
      hipHeightM: { low, high },
      legM: body.leg,
      turnDeg: round((turn * 180) / Math.PI, 0.1),
      turningDeg: round((turning * 180) / Math.PI, 0.1),
      tempo: Math.round(60 * (steps >= 3 ? steps / seconds : rhythm(features))),
      bothFeet: share(marks.left.map((x, f) => x & marks.right[f]!)),
      noFoot: share(any.map((x) => 1 - x)),
      parts: movingParts(party, motion),
      noiseDeg: round(
        noiseLevel(
          rig,
          motion,
          limbs.filter((j) => j >= 0),
        ),
        0.001,
      ),
      rest: restKind(pose ?? restPose(rig), map),
    },
  };
}

/** What stands when on the ground that passes under a gait on the spot; undefined for every other motion. */
function standsOf(rig: SkeletonRig, map: BodyMap, motion: Motion, body: Body): readonly Plant[] | undefined {
  const joint = carrierOf(rig, map);
  const belt = findBelt(rig, motion, body, joint);
  if (!belt) return undefined;
  const travelling = carriedBy(rig, motion, joint, belt, -1);
  return findContacts(soleTracks(rig, travelling, body), motion.fps, body.leg, Math.hypot(belt.x, belt.z)).plants;
}

/** Touch-downs: frames in which a foot comes to be held after being free. */
function countSteps(held: Uint8Array): number {
  let steps = 0;
  for (let f = 1; f < held.length; f++) if (held[f] && !held[f - 1]) steps++;
  return steps;
}
