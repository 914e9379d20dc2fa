import { FINGERS, SIDES } from '../bodymap/slots';
import { MotionError } from '../errors';
import { NORMAL_SPACE, type SkeletonRig } from '../rig/rig';

/** How a stand-in holds its arms at rest: level, or slanting down by half a right angle. */
export type StandInRest = 'T' | 'A';

export const STAND_IN_HEIGHT = { low: 0.3, high: 5, usual: 1.75 } as const;

interface Joint {
  readonly name: string;
  readonly parent: string | undefined;
  /** World place at rest, metres. */
  readonly at: readonly number[];
  /** From the joint to its bone's end, where no joint lies there. */
  readonly tip?: readonly number[];
}

/** Fingers' spots across the palm, towards the thumb above 0, and their lengths; shares of the height. */
const FINGER_LAYOUT: Readonly<Record<(typeof FINGERS)[number], readonly [across: number, length: number]>> = {
  thumb: [0.016, 0.035],
  index: [0.013, 0.042],
  middle: [0.004, 0.046],
  ring: [-0.005, 0.043],
  pinky: [-0.014, 0.034],
};

/**
 * A body of common proportions with every slot a motion may want: three spine joints, a neck, collars, fingers, toes. Joints
 * are named by the slots they play, their axes lie along the world's. Stands on y = 0 and looks along +Z.
 * Source of the shares: as in proportions.ts.
 * @param heightM standing height, metres
 * @throws MotionError 'bad-argument' for a height outside STAND_IN_HEIGHT
 */
export function standIn(rest: StandInRest, heightM: number = STAND_IN_HEIGHT.usual): SkeletonRig {
  if (!(heightM >= STAND_IN_HEIGHT.low && heightM <= STAND_IN_HEIGHT.high))
    throw new MotionError(
      'bad-argument',
      `A stand-in is ${STAND_IN_HEIGHT.low} to ${STAND_IN_HEIGHT.high} m tall; ${heightM} is not.`,
    );
  const joints = layOut(rest);
  const names = joints.map((j) => j.name);
  const parents = Int16Array.from(joints, (j) => (j.parent === undefined ? -1 : names.indexOf(j.parent)));
  const n = joints.length;
  const restT = new Float32Array(3 * n);
  const restR = new Float32Array(4 * n);
  const tips = new Float32Array(3 * n).fill(Number.NaN);
  joints.forEach((joint, j) => {
    const above = parents[j]! < 0 ? [0, 0, 0] : joints[parents[j]!]!.at;
    for (let k = 0; k < 3; k++) restT[3 * j + k] = heightM * (joint.at[k]! - above[k]!);
    restR[4 * j + 3] = 1;
    if (joint.tip)
      tips.set(
        joint.tip.map((x) => heightM * x),
        3 * j,
      );
  });
  return { kind: 'skeleton', names, parents, restT, restR, tips, found: NORMAL_SPACE };
}

const plus = (a: readonly number[], b: readonly number[], s = 1): number[] => a.map((x, k) => x + s * b[k]!);

/** Joints in parent-first order for a body of height 1. */
function layOut(rest: StandInRest): Joint[] {
  const hips = [0, 0.53, 0];
  const joints: Joint[] = [{ name: 'hips', parent: undefined, at: hips }];
  let last = 'hips';
  let at = plus(hips, [0, 0.055, 0]);
  for (const [name, length] of [
    ['spine1', 0.08],
    ['spine2', 0.085],
    ['spine3', 0.085],
    ['neck1', 0.055],
  ] as const) {
    joints.push({ name, parent: last, at });
    last = name;
    at = plus(at, [0, length, 0]);
  }
  joints.push({ name: 'head', parent: 'neck1', at, tip: [0, 1 - at[1]!, 0] });
  for (const side of SIDES) {
    const s = side === 'L' ? 1 : -1;
    const limb = (slot: string, above: string, place: readonly number[], tip?: readonly number[]): void => {
      joints.push({ name: slot + side, parent: above, at: place, ...(tip ? { tip } : {}) });
    };
    const slant = rest === 'T' ? 0 : Math.PI / 4;
    const out = [s * Math.cos(slant), -Math.sin(slant), 0];
    const shoulder = [s * 0.1295, 0.818, 0];
    const elbow = plus(shoulder, out, 0.186);
    const wrist = plus(elbow, out, 0.146);
    limb('collar', 'spine3', [s * 0.02, 0.825, 0]);
    limb('upperArm', `collar${side}`, shoulder);
    limb('forearm', `upperArm${side}`, elbow);
    limb('hand', `forearm${side}`, wrist);
    for (const finger of FINGERS) {
      const [across, length] = FINGER_LAYOUT[finger];
      const thumb = finger === 'thumb';
      const direction = thumb ? [0.7 * out[0]!, 0.7 * out[1]!, Math.SQRT1_2] : out;
      let place = plus(plus(wrist, out, thumb ? 0.012 : 0.052), [0, 0, across]);
      for (let k = 1; k <= 3; k++) {
        const tip = k === 3 ? plus([0, 0, 0], direction, length / 3) : undefined;
        limb(`${finger}${k}`, k === 1 ? `hand${side}` : `${finger}${k - 1}${side}`, place, tip);
        place = plus(place, direction, length / 3);
      }
    }
    limb('thigh', 'hips', [s * 0.055, 0.53, 0]);
    limb('shin', `thigh${side}`, [s * 0.055, 0.285, 0.003]);
    limb('foot', `shin${side}`, [s * 0.055, 0.039, -0.004]);
    limb('toes', `foot${side}`, [s * 0.058, 0.011, 0.071], [0, -0.011, 0.04]);
  }
  return joints;
}
