import { type BodyMap, jointOf, SIDES, type Side } from '../bodymap/slots';
import { endOf, facingOf } from '../rig/flat';
import { type CutoutRig, restPose } from '../rig/rig';

/** A bone in the plane at rest, in the frame of its joint. */
export interface FlatBone {
  readonly joint: number;
  readonly length: number;
  /** Unit vector along it. */
  readonly x: number;
  readonly y: number;
}

/** The two points of a foot that can stand, from the ankle, at rest, metres. */
export interface FlatFoot {
  readonly joint: number;
  readonly heel: readonly [number, number];
  readonly ball: readonly [number, number];
}

export interface FlatLeg {
  readonly side: Side;
  readonly thigh: FlatBone;
  /** Undefined for a leg of one piece. */
  readonly shin: FlatBone | undefined;
  readonly foot: FlatFoot;
}

/** Lengths and directions of a cut-out at rest, in the plane. */
export interface FlatBody {
  readonly rig: CutoutRig;
  readonly map: BodyMap;
  readonly hips: number;
  readonly bones: ReadonlyMap<number, FlatBone>;
  readonly legs: readonly FlatLeg[];
  /** Hip joint to ground, mean of both legs; 0 where there are none. */
  readonly leg: number;
  /** World places at rest, 3 J, metres. */
  readonly places: Float64Array;
  readonly height: number;
  /** 1 where it faces right, −1 left, 0 the eye. */
  readonly faces: number;
}

/** Measures a cut-out. Bones go to the joint of the next slot outwards, or to the part's end. */
export function measureFlat(rig: CutoutRig, map: BodyMap): FlatBody {
  const places = restPose(rig).p;
  const bones = new Map<number, FlatBone>();
  const bone = (joint: number, to: readonly [number, number] | undefined): FlatBone | undefined => {
    if (joint < 0 || !to) return undefined;
    const length = Math.hypot(to[0], to[1]);
    if (!(length > 1e-6)) return undefined;
    const made = { joint, length, x: to[0] / length, y: to[1] / length };
    bones.set(joint, made);
    return made;
  };
  const between = (a: number, b: number): readonly [number, number] | undefined =>
    b < 0 ? endOf(rig, a) : [places[3 * b]! - places[3 * a]!, places[3 * b + 1]! - places[3 * a + 1]!];
  const slot = (name: string): number => jointOf(map, name);
  for (const side of SIDES) {
    bone(
      slot(`upperArm${side}`),
      between(slot(`upperArm${side}`), slot(`forearm${side}`) >= 0 ? slot(`forearm${side}`) : slot(`hand${side}`)),
    );
    bone(slot(`forearm${side}`), between(slot(`forearm${side}`), slot(`hand${side}`)));
  }
  const legs = SIDES.flatMap((side): FlatLeg[] => {
    const [thigh, shin, foot] = [slot(`thigh${side}`), slot(`shin${side}`), slot(`foot${side}`)];
    const upper = bone(thigh, between(thigh, shin >= 0 ? shin : foot));
    const lower = bone(shin, between(shin, foot));
    if (!upper) return [];
    const last = shin >= 0 ? shin : thigh;
    const ankle = foot >= 0 ? foot : last;
    return [{ side, thigh: upper, shin: lower, foot: footOf(rig, places, ankle, foot >= 0, last) }];
  });
  const ground = (l: FlatLeg): number => places[3 * l.thigh.joint + 1]!;
  const leg = legs.length > 0 ? legs.reduce((s, l) => s + ground(l), 0) / legs.length : 0;
  let height = 0;
  for (let j = 0; j < rig.names.length; j++)
    height = Math.max(height, places[3 * j + 1]! + Math.max(0, endOf(rig, j)?.[1] ?? 0));
  const facing = facingOf(rig);
  return {
    rig,
    map,
    hips: Math.max(0, slot('hips')),
    bones,
    legs,
    leg,
    places,
    height,
    faces: facing === 'right' ? 1 : facing === 'left' ? -1 : 0,
  };
}

function footOf(rig: CutoutRig, places: Float64Array, joint: number, own: boolean, last: number): FlatFoot {
  const end = endOf(rig, own ? joint : last);
  const down = -places[3 * joint + 1]!;
  if (!own || !end) return { joint: own ? joint : -1, heel: end ?? [0, down], ball: end ?? [0, down] };
  // drawn from the front, a foot stands on what lies below the ankle
  const facing = facingOf(rig);
  if (facing === 'front') return { joint, heel: [0, down], ball: [0.35 * end[0], down] };
  return { joint, heel: [-0.3 * end[0], down], ball: [0.92 * end[0], down] };
}

/** A point of a joint's frame in the plane, as PlaneReader has read it, with a third number for those who work in space. */
export function pointOn(
  frames: ArrayLike<number>,
  joint: number,
  [x, y]: readonly [number, number],
): [number, number, number] {
  const o = 6 * joint;
  return [
    frames[o]! * x + frames[o + 2]! * y + frames[o + 4]!,
    frames[o + 1]! * x + frames[o + 3]! * y + frames[o + 5]!,
    0,
  ];
}
