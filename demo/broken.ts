import {
  chainOf,
  findContacts,
  jointOf,
  type Motion,
  measure,
  PoseReader,
  type Report,
  type Retargeted,
  restPose,
  type SkeletonRig,
  soleTracks,
} from '../motion/index';
import { axisAngleQuat, invMulQuat, mulQuat } from '../motion/math/quat';

/** One way to spoil a finished fitting, so much of it, and the mark of somebody who looks at the result: 100 is flawless, below 40 is broken. */
export interface Breaking {
  readonly what: string;
  readonly amount: number;
  readonly mark: number;
  readonly result: Motion;
}

type Vec = readonly [number, number, number];
/** Amounts and marks; degrees, or hundredths of a leg. Marks were given to the moving figures before any score was made. */
const MARKS: Readonly<Record<string, readonly (readonly [amount: number, mark: number])[]>> = {
  'trunk folded': [
    [10, 92],
    [35, 36],
    [80, 8],
    [150, 2],
  ],
  'chest torn off the pelvis': [
    [5, 92],
    [15, 55],
    [40, 15],
    [100, 2],
  ],
  'hand torn off the arm': [
    [4, 90],
    [10, 60],
    [30, 12],
    [80, 4],
  ],
  'arm into the body': [
    [3, 94],
    [12, 66],
    [25, 38],
    [45, 20],
  ],
  'feet slide': [
    [1, 93],
    [4, 72],
    [10, 50],
    [25, 32],
  ],
  'feet in the floor': [
    [1, 93],
    [4, 75],
    [10, 52],
    [30, 30],
  ],
  'body floats': [
    [1, 93],
    [4, 80],
    [10, 66],
    [30, 52],
  ],
  'forearms elsewhere': [
    [5, 92],
    [20, 62],
    [50, 32],
    [120, 9],
  ],
  'leg stiff, knee backwards': [
    [15, 14],
    [35, 11],
    [60, 7],
    [100, 3],
  ],
  'elbow pops': [
    [5, 92],
    [20, 70],
    [50, 58],
    [110, 50],
  ],
};

/** Forty results that a good one becomes when something is done to it on purpose. Needs a body with spine, arms and legs. */
export function breakings(done: Retargeted): Breaking[] {
  return Object.entries(MARKS).flatMap(([what, marks]) =>
    marks.map(([amount, mark]) => ({ what, amount, mark, result: spoil(done, what, amount) })),
  );
}

/** What is measured on a result that something was done to, on the plants it should have. */
export function reportBroken(done: Retargeted, result: Motion): Report {
  const { source } = done.plan;
  const plants =
    done.plants.length > 0
      ? done.plants
      : findContacts(soleTracks(source.rig, done.source, source.body), done.source.fps, source.body.leg).plants;
  return measure(done.plan, done.source, result, plants, done);
}

type Pose = { readonly r: ArrayLike<number>; readonly p: ArrayLike<number> };
/** The axis of a turn and its angle, degrees, in the world. */
type Turn = readonly [axis: Vec, degrees: number];

const sub = (a: Vec, b: Vec): Vec => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const cross = (a: Vec, b: Vec): Vec => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
const unit = (a: Vec): Vec => {
  const n = Math.hypot(...a) || 1;
  return [a[0] / n, a[1] / n, a[2] / n];
};
const placeOf = (pose: Pose, j: number): Vec => [pose.p[3 * j]!, pose.p[3 * j + 1]!, pose.p[3 * j + 2]!];

function spoil(done: Retargeted, what: string, amount: number): Motion {
  const { rig, map, body } = done.plan.target;
  const { motion } = done;
  const at = (slot: string): number => jointOf(map, slot);
  const rest = restPose(rig);
  const apart = (a: number, b: number): number => Math.hypot(...sub(placeOf(rest, a), placeOf(rest, b)));
  const left = (pose: Pose): Vec => unit(sub(placeOf(pose, at('thighL')), placeOf(pose, at('thighR'))));
  const share = amount / 100;
  const middle = Math.floor(motion.frameCount / 2);
  switch (what) {
    case 'trunk folded':
      return turned(rig, motion, chainOf(map, 'spine')[0]!, (pose) => [left(pose), amount]);
    case 'chest torn off the pelvis':
      return moved(
        rig,
        motion,
        chainOf(map, 'spine').at(-1)!,
        share * apart(at('thighL'), chainOf(map, 'spine').at(-1)!),
      );
    case 'hand torn off the arm':
      return moved(rig, motion, at('handL'), share * apart(at('upperArmL'), at('handL')));
    case 'arm into the body':
      return turned(rig, motion, at('upperArmL'), (pose) => {
        const shoulder = placeOf(pose, at('upperArmL'));
        const to = sub(placeOf(pose, at('hips')), shoulder);
        return [unit(cross(sub(placeOf(pose, at('handL')), shoulder), to)), amount];
      });
    case 'feet slide':
      return shifted(motion, [share * body.leg, 0, 0], (t) => Math.sin(5 * t));
    case 'feet in the floor':
      return shifted(motion, [0, -share * body.leg, 0], () => 1);
    case 'body floats':
      return shifted(motion, [0, share * body.leg, 0], () => 1);
    case 'forearms elsewhere': {
      const one = turned(rig, motion, at('forearmL'), (pose) => [left(pose), -amount]);
      return turned(rig, one, at('forearmR'), (pose) => [left(pose), -amount]);
    }
    case 'leg stiff, knee backwards':
      return turned(rig, motion, at('shinL'), (pose) => {
        const thigh = unit(sub(placeOf(pose, at('shinL')), placeOf(pose, at('thighL'))));
        const shin = unit(sub(placeOf(pose, at('footL')), placeOf(pose, at('shinL'))));
        const bent =
          (180 / Math.PI) * Math.acos(Math.min(1, thigh[0] * shin[0] + thigh[1] * shin[1] + thigh[2] * shin[2]));
        return [left(pose), -(bent + amount)];
      });
    default:
      return turned(rig, motion, at('forearmR'), (pose, frame) => [left(pose), frame === middle ? -amount : 0]);
  }
}

/** Turns a joint, and all that hangs from it, about a world axis. */
function turned(rig: SkeletonRig, motion: Motion, joint: number, turn: (pose: Pose, frame: number) => Turn): Motion {
  const turns = motion.turns.slice();
  const reader = new PoseReader(rig, motion);
  const above = rig.parents[joint]!;
  const q = [0, 0, 0, 1];
  for (let f = 0; f < motion.frameCount; f++) {
    const pose = reader.at(f);
    const [axis, degrees] = turn(pose, f);
    axisAngleQuat(q, 0, axis[0], axis[1], axis[2], (degrees * Math.PI) / 180);
    const o = 4 * (f * rig.names.length + joint);
    mulQuat(q, 0, q, 0, pose.r, 4 * joint);
    if (above >= 0) invMulQuat(q, 0, pose.r, 4 * above, q, 0);
    turns.set(q, o);
  }
  return { ...motion, turns };
}

/** Moves a joint out along the bone that ends in it. */
function moved(rig: SkeletonRig, motion: Motion, joint: number, by: number): Motion {
  const own = motion.places.find((t) => t.joint === joint);
  const out = unit(placeOf({ r: rig.restR, p: rig.restT }, joint));
  const values = Float32Array.from({ length: 3 * motion.frameCount }, (_, i) => {
    const k = i % 3;
    return (own?.values[i] ?? rig.restT[3 * joint + k]!) + by * out[k]!;
  });
  return { ...motion, places: [...motion.places.filter((t) => t !== own), { joint, values }] };
}

/** Moves the whole body; its root's parent frame is the world. */
function shifted(motion: Motion, by: Vec, course: (second: number) => number): Motion {
  const places = motion.places.map((t, i) =>
    i > 0 ? t : { ...t, values: t.values.map((x, k) => x + by[k % 3]! * course(Math.floor(k / 3) / motion.fps)) },
  );
  return { ...motion, places };
}
