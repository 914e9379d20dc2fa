import { MotionError } from '../errors';
import { mulQuat, normalizeQuat, rotate3 } from '../math/quat';

/** How a file's space was, as found on the way in. A rig itself is always metres, Y up, facing +Z, right-handed. */
export interface FoundSpace {
  /** Metres per unit of the file. */
  readonly unitScale: number;
  readonly unitWhy: string;
  readonly upAxis: Axis;
  readonly facing: Axis;
  /** 'stated' by the format, 'measured' on the rest pose, or 'assumed' for want of evidence. */
  readonly certainty: 'stated' | 'measured' | 'assumed';
}

export type Axis = '+X' | '-X' | '+Y' | '-Y' | '+Z' | '-Z';

/**
 * What every rig is: joints in their rest state, each hanging from one before it. J is their number.
 * restT: 3 J numbers, joint origin in its parent's frame, metres.
 * restR: 4 J numbers, joint turn in its parent's frame, x y z w.
 */
export interface Joints {
  readonly names: readonly string[];
  /** Index of the parent joint, −1 for a root. Always smaller than the joint's own index. */
  readonly parents: Int16Array;
  readonly restT: Float32Array;
  readonly restR: Float32Array;
  readonly found: FoundSpace;
}

/**
 * A skeleton in its rest state.
 * tips: 3 J numbers, end of a joint that has no child, in the joint's own frame, metres; NaN where the file gives none.
 */
export interface SkeletonRig extends Joints {
  readonly kind: 'skeleton';
  readonly tips: Float32Array;
}

/** A point of a part, metres in the part's own frame: x to the right and y up, as drawn. */
export interface AttachmentPoint {
  readonly name: string;
  readonly at: readonly [x: number, y: number];
}

/** A piece of a cut-out figure: what is drawn, and where it is pinned. */
export interface CutoutPart {
  readonly name: string;
  /** The joint it hangs on. Several parts may hang on one. */
  readonly joint: number;
  /** The point of the part that lies on its joint, metres from the lower left corner of its drawings. */
  readonly pivot: readonly [x: number, y: number];
  /** Where parts further out are fixed, from the pivot. */
  readonly attachments: readonly AttachmentPoint[];
  /** Labels of the drawings it can show, the first at rest. */
  readonly drawings: readonly string[];
  /** The view of its joint in which it shows: front, quarter, side, back; where left out it always shows. */
  readonly view?: string | undefined;
}

/** How a joint of a cut-out behaves beyond being turned. */
export interface Hinge {
  /** How much it swings after what it hangs on, 0 to 1. */
  readonly swing?: number | undefined;
  /** It keeps its angle to the picture, whatever its parent does. */
  readonly level?: boolean | undefined;
}

/**
 * A cut-out figure at rest: joints in the plane z = 0, seen from +Z, that turn about Z alone.
 * parts: as they lie on one another, the hindmost first.
 */
export interface CutoutRig extends Joints {
  readonly kind: 'cutout';
  readonly parts: readonly CutoutPart[];
  /** By joint name; joints without an entry turn with their parent and do not swing. */
  readonly hinges?: Readonly<Record<string, Hinge>> | undefined;
  /** Its left side lies on the left of the picture though it faces the eye, as in a mirror. */
  readonly mirrored?: boolean | undefined;
}

export type Rig = SkeletonRig | CutoutRig;

export const MAX_JOINTS = 4096;

export const NORMAL_SPACE: FoundSpace = {
  unitScale: 1,
  unitWhy: 'metres',
  upAxis: '+Y',
  facing: '+Z',
  certainty: 'stated',
};

/**
 * Checks the promises of a Rig; throws a MotionError naming the first joint or part that breaks one.
 * @throws MotionError 'no-joints', 'too-large', 'wrong-count', 'bad-structure' or 'bad-number', with the joint
 */
export function assertRig(rig: Rig): void {
  const n = rig.names.length;
  if (n === 0) throw new MotionError('no-joints', 'The rig has no joints.');
  if (n > MAX_JOINTS)
    throw new MotionError('too-large', `The rig has ${n} joints; at most ${MAX_JOINTS} are accepted.`);
  if (
    rig.parents.length !== n ||
    rig.restT.length !== 3 * n ||
    rig.restR.length !== 4 * n ||
    (rig.kind === 'skeleton' && rig.tips.length !== 3 * n)
  ) {
    throw new MotionError('wrong-count', 'The rig holds tables of different lengths.');
  }
  for (let j = 0; j < n; j++) {
    const joint = rig.names[j]!;
    const p = rig.parents[j]!;
    if (p >= j || p < -1) throw new MotionError('bad-structure', 'A joint stands before its parent.', { joint });
    let sum = 0;
    for (let k = 0; k < 3; k++) sum += rig.restT[3 * j + k]!;
    let turn = 0;
    for (let k = 0; k < 4; k++) {
      sum += rig.restR[4 * j + k]!;
      turn += rig.restR[4 * j + k]! ** 2;
    }
    if (!Number.isFinite(sum)) throw new MotionError('bad-number', 'The rest state is not a finite number.', { joint });
    if (Math.abs(turn - 1) > 0.01)
      throw new MotionError('bad-number', 'The rest turn is not a unit quaternion.', { joint });
  }
  if (rig.kind === 'cutout') assertCutout(rig);
}

/** A cut-out lies in its plane to within this: metres, and the sine of half an angle. */
const FLAT = 1e-6;

function assertCutout(rig: CutoutRig): void {
  for (const [joint, { swing = 0 }] of Object.entries(rig.hinges ?? {})) {
    if (!rig.names.includes(joint))
      throw new MotionError('bad-structure', 'A hinge is set for a joint that the figure does not have.', { joint });
    if (!(swing >= 0 && swing <= 1)) throw new MotionError('bad-number', 'A swing lies outside 0 to 1.', { joint });
  }
  rig.names.forEach((joint, j) => {
    if (Math.abs(rig.restT[3 * j + 2]!) > FLAT || Math.hypot(rig.restR[4 * j]!, rig.restR[4 * j + 1]!) > FLAT)
      throw new MotionError('bad-structure', 'A joint of a cut-out stands out of its plane.', { joint });
  });
  const known = new Set<string>();
  for (const { name, joint, pivot, attachments, drawings } of rig.parts) {
    if (known.has(name)) throw new MotionError('bad-structure', `Two parts are called "${name}".`);
    known.add(name);
    if (!(Number.isInteger(joint) && joint >= 0 && joint < rig.names.length))
      throw new MotionError(
        'bad-structure',
        `The part "${name}" hangs on joint ${joint}, which the rig does not have.`,
      );
    if (![pivot, ...attachments.map((a) => a.at)].every((at) => at.length === 2 && at.every(Number.isFinite)))
      throw new MotionError('bad-number', `A point of the part "${name}" is not two finite numbers.`);
    if (drawings.length === 0) throw new MotionError('bad-structure', `The part "${name}" has no drawing.`);
  }
}

/** World turns (4 J) and places (3 J) of a pose given as local turns and places. Outputs may be Float32 or Float64. */
export function composePose(
  parents: Int16Array,
  localR: ArrayLike<number>,
  localT: ArrayLike<number>,
  dstR: Float64Array | Float32Array,
  dstP: Float64Array | Float32Array,
): void {
  for (let j = 0; j < parents.length; j++) {
    const p = parents[j]!;
    const q = 4 * j;
    const t = 3 * j;
    if (p < 0) {
      for (let k = 0; k < 4; k++) dstR[q + k] = localR[q + k]!;
      for (let k = 0; k < 3; k++) dstP[t + k] = localT[t + k]!;
    } else {
      mulQuat(dstR, q, dstR, 4 * p, localR, q);
      rotate3(dstP, t, dstR, 4 * p, localT, t);
      dstP[t] = dstP[t]! + dstP[3 * p]!;
      dstP[t + 1] = dstP[t + 1]! + dstP[3 * p + 1]!;
      dstP[t + 2] = dstP[t + 2]! + dstP[3 * p + 2]!;
    }
  }
}

export interface WorldPose {
  /** 4 J, world turn of each joint. */
  readonly r: Float64Array;
  /** 3 J, world place of each joint, metres. */
  readonly p: Float64Array;
}

/** Room for a pose of so many joints. */
export const newWorldPose = (jointCount: number): WorldPose => ({
  r: new Float64Array(4 * jointCount),
  p: new Float64Array(3 * jointCount),
});

/** World pose of a rig at rest. */
export function restPose(rig: Joints): WorldPose {
  const pose = newWorldPose(rig.names.length);
  composePose(rig.parents, rig.restR, rig.restT, pose.r, pose.p);
  return pose;
}

/** Child joints of every joint, in joint order. */
export function childrenOf(rig: Pick<Joints, 'parents'>): number[][] {
  const children: number[][] = Array.from({ length: rig.parents.length }, () => []);
  rig.parents.forEach((p, j) => {
    if (p >= 0) children[p]!.push(j);
  });
  return children;
}

/** World place of a joint's tip in a pose; undefined where the rig knows none. */
export function tipOf(rig: SkeletonRig, pose: WorldPose, joint: number): [number, number, number] | undefined {
  if (Number.isNaN(rig.tips[3 * joint]!)) return undefined;
  const out: [number, number, number] = [0, 0, 0];
  rotate3(out, 0, pose.r, 4 * joint, rig.tips, 3 * joint);
  return [out[0] + pose.p[3 * joint]!, out[1] + pose.p[3 * joint + 1]!, out[2] + pose.p[3 * joint + 2]!];
}

/** The same rig turned and scaled as a whole: every root is turned by q, every length multiplied. Pure. */
export function transformRig(
  rig: SkeletonRig,
  q: readonly number[],
  scale: number,
  found: FoundSpace = rig.found,
): SkeletonRig {
  const restT = rig.restT.map((x) => x * scale);
  const restR = rig.restR.slice();
  rig.parents.forEach((p, j) => {
    if (p >= 0) return;
    mulQuat(restR, 4 * j, q, 0, restR, 4 * j);
    normalizeQuat(restR, 4 * j);
    rotate3(restT, 3 * j, q, 0, restT, 3 * j);
  });
  return { ...rig, restT, restR, tips: rig.tips.map((x) => x * scale), found };
}
