import { findPairing, mirrorTrouble, type Pairing } from '../body/pairing';
import { headingOf, yawQuat } from '../body/root-frame';
import { sideStem } from '../bodymap/names';
import type { BodyMap } from '../bodymap/slots';
import { jointOf, sideOfSlot } from '../bodymap/slots';
import { MotionError } from '../errors';
import { mulQuat, rotate3 } from '../math/quat';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import { placesOf } from '../motion/move-joint';
import type { NumberTrack, PlaceTrack, ScaleTrack, StepTrack } from '../motion/tracks';
import { facingOf } from '../rig/flat';
import { type CutoutRig, restPose, type SkeletonRig } from '../rig/rig';

/** exchange: both sides change places. leftToRight, rightToLeft: one side is copied onto the other, the rest stays. */
export type MirrorMode = 'exchange' | 'leftToRight' | 'rightToLeft';

export interface MirrorOptions {
  readonly mode?: MirrorMode;
  /**
   * Where the mirror stands in an exchange. start: upright through the first frame's hips along their heading, so place and
   * heading at the start stay; world: the plane x = 0.
   */
  readonly plane?: 'start' | 'world';
  readonly pairing?: Pairing;
  /** The cut-out that the rig is the plane of. Drawn in profile, its sides lie one behind the other: the picture is the mirror. */
  readonly cutout?: CutoutRig | undefined;
}

export const MIRROR_DEFAULTS = { mode: 'exchange', plane: 'start' } as const satisfies Omit<
  Required<MirrorOptions>,
  'pairing' | 'cutout'
>;

/**
 * Mirrors a motion (or a pose: a motion of one frame) on its own rig. With B the world bind turns and m(q) the reflection of
 * a turn in x = 0 (z = 0 for a cut-out in profile), joint j takes over from its partner p by L′_j = B_Pj⁻¹ · m(B_Pp) · m(L_p) · m(B_p)⁻¹ · B_j, P the parents:
 * frames are reflected from the bind pose, whatever the joint axes. Twice gives the motion back.
 * Joints without a partner keep their motion. Face shapes whose names differ by their side mark change places.
 * @throws MotionError 'unmappable' where no joint has a partner
 */
export function mirror(rig: SkeletonRig, map: BodyMap, motion: Motion, options: MirrorOptions = {}): Motion {
  const mode = options.mode ?? MIRROR_DEFAULTS.mode;
  const pairing = options.pairing ?? findPairing(rig, map);
  const trouble = mirrorTrouble(map, pairing);
  if (trouble) throw new MotionError('unmappable', trouble);
  const n = rig.names.length;
  const bind = restPose(rig);
  const across = options.cutout && facingOf(options.cutout) !== 'front' ? 2 : 0;
  const sources = sourcesOf(pairing, map, rig, mode);
  const before = new Float64Array(4 * n);
  const behind = new Float64Array(4 * n);
  const parentFrame = (j: number): number[] => {
    const p = rig.parents[j]!;
    return p < 0 ? [0, 0, 0, 1] : [...bind.r.subarray(4 * p, 4 * p + 4)];
  };
  for (let j = 0; j < n; j++) {
    const p = sources[j]!;
    if (p < 0) continue;
    const own = parentFrame(j);
    const its = parentFrame(p);
    reflect(across, its, 0, its, 0);
    mulQuat(before, 4 * j, [-own[0]!, -own[1]!, -own[2]!, own[3]!], 0, its, 0);
    const b = [0, 0, 0, 1];
    reflect(across, b, 0, bind.r, 4 * p);
    mulQuat(behind, 4 * j, [-b[0]!, -b[1]!, -b[2]!, b[3]!], 0, bind.r, 4 * j);
  }
  const plane =
    mode === 'exchange' && across === 0 && (options.plane ?? MIRROR_DEFAULTS.plane) === 'start'
      ? startPlane(rig, map, motion)
      : WORLD;
  const turns = motion.turns.slice();
  const m = new Float64Array(16);
  for (let j = 0; j < n; j++) {
    const p = sources[j]!;
    if (p < 0) continue;
    matrixOf(m, (q) => {
      const root = rig.parents[j]! < 0;
      if (root) mulQuat(q, 0, plane.back, 0, q, 0);
      reflect(across, q, 0, q, 0);
      mulQuat(q, 0, before, 4 * j, q, 0);
      mulQuat(q, 0, q, 0, behind, 4 * j);
      if (root) mulQuat(q, 0, plane.there, 0, q, 0);
    });
    mapTurns(turns, motion.turns, m, j, p, n, motion.frameCount);
  }
  return {
    ...motion,
    turns,
    places: mirrorPlaces(rig, motion, sources, plane, across, parentFrame),
    scales: mirrorScales(motion, sources),
    numbers: mirrorNamed(motion.numbers, mode),
    steps: mirrorNamed(motion.steps, mode),
  };
}

/** What a step that is linear in a quaternion does to it, as a 4 × 4 matrix, row by row. */
function matrixOf(dst: Float64Array, step: (q: number[]) => void): void {
  for (let k = 0; k < 4; k++) {
    const q = [0, 0, 0, 0];
    q[k] = 1;
    step(q);
    for (let i = 0; i < 4; i++) dst[4 * i + k] = q[i]!;
  }
}

/** Turns of joint j: what a matrix makes of those of joint p, unit. Signs stay continuous, for all are mapped alike. */
function mapTurns(
  dst: Float32Array,
  src: Float32Array,
  m: Float64Array,
  j: number,
  p: number,
  joints: number,
  frames: number,
): void {
  const [a0, a1, a2, a3, b0, b1, b2, b3, c0, c1, c2, c3, d0, d1, d2, d3] = m as unknown as number[];
  for (let f = 0, o = 4 * j, s = 4 * p; f < frames; f++, o += 4 * joints, s += 4 * joints) {
    const x = src[s]!;
    const y = src[s + 1]!;
    const z = src[s + 2]!;
    const w = src[s + 3]!;
    const qx = a0! * x + a1! * y + a2! * z + a3! * w;
    const qy = b0! * x + b1! * y + b2! * z + b3! * w;
    const qz = c0! * x + c1! * y + c2! * z + c3! * w;
    const qw = d0! * x + d1! * y + d2! * z + d3! * w;
    const unit = 1 / (Math.sqrt(qx * qx + qy * qy + qz * qz + qw * qw) || 1);
    dst[o] = qx * unit;
    dst[o + 1] = qy * unit;
    dst[o + 2] = qz * unit;
    dst[o + 3] = qw * unit;
  }
}

/** Joint from which each joint takes its motion, −1 for those that keep theirs. */
function sourcesOf(pairing: Pairing, map: BodyMap, rig: SkeletonRig, mode: MirrorMode): Int16Array {
  if (mode === 'exchange') return pairing.partner;
  const out = new Int16Array(pairing.partner.length).fill(-1);
  const sided = new Map(Object.entries(map.slots).map(([slot, e]) => [e.joint, sideOfSlot(slot)]));
  for (const { left, right } of pairing.pairs) {
    // what names or the map call left counts as left, however the pair was found
    const swap = (sided.get(left) ?? sideStem(rig.names[left]!).side) === 'R';
    const [l, r] = swap ? [right, left] : [left, right];
    if (mode === 'leftToRight') out[r] = l;
    else out[l] = r;
  }
  return out;
}

interface Plane {
  /** Turn about Y that brings the mirror into x = 0, its inverse, and a point on the mirror. */
  readonly back: number[];
  readonly there: number[];
  readonly at: number[];
}

const WORLD: Plane = { back: [0, 0, 0, 1], there: [0, 0, 0, 1], at: [0, 0, 0] };

function startPlane(rig: SkeletonRig, map: BodyMap, motion: Motion): Plane {
  const root = rig.parents.indexOf(-1);
  const hips = jointOf(map, 'hips');
  // heading of the hips in the first frame, beyond the bind pose
  const body = hips >= 0 ? hips : root;
  const { r, p } = new ChainReader(rig, motion, [body]).at(0);
  const heading = headingOf(r, 4 * body, restPose(rig).r, 4 * body);
  return {
    back: yawQuat(-heading),
    there: yawQuat(heading),
    at: [p[3 * body]!, 0, p[3 * body + 2]!],
  };
}

/** m(q): the turn as seen in a mirror at 0 of an axis. */
function reflect(across: number, dst: number[] | Float64Array, o: number, q: ArrayLike<number>, qo: number): void {
  const w = q[qo + 3]!;
  for (let k = 0; k < 3; k++) dst[o + k] = (k === across ? 1 : -1) * q[qo + k]!;
  dst[o + 3] = w;
}

function mirrorPlaces(
  rig: SkeletonRig,
  motion: Motion,
  sources: Int16Array,
  plane: Plane,
  across: number,
  parentFrame: (j: number) => number[],
): PlaceTrack[] {
  const byJoint = new Map(motion.places.map((t) => [t.joint, t.values]));
  const touched = new Set(byJoint.keys());
  sources.forEach((p, j) => {
    if (p >= 0 && byJoint.has(p)) touched.add(j);
  });
  const v = [0, 0, 0];
  return [...touched]
    .sort((a, b) => a - b)
    .map((joint) => {
      const p = sources[joint]!;
      if (p < 0) return { joint, values: byJoint.get(joint)! };
      const from = byJoint.get(p) ?? placesOf(rig, motion, p);
      const values = new Float32Array(from.length);
      const root = rig.parents[joint]! < 0;
      const its = parentFrame(p);
      const own = parentFrame(joint);
      const back = [-own[0]!, -own[1]!, -own[2]!, own[3]!];
      for (let o = 0; o < from.length; o += 3) {
        if (root) {
          for (let k = 0; k < 3; k++) v[k] = from[o + k]! - plane.at[k]!;
          rotate3(v, 0, plane.back, 0, v, 0);
          v[across] = -v[across]!;
          rotate3(v, 0, plane.there, 0, v, 0);
          for (let k = 0; k < 3; k++) values[o + k] = v[k]! + plane.at[k]!;
        } else {
          rotate3(v, 0, its, 0, from, o);
          v[across] = -v[across]!;
          rotate3(values, o, back, 0, v, 0);
        }
      }
      return { joint, values };
    });
}

/** Tracks with a side in their names change places with those of the other side, or take over from them. */
function mirrorNamed<T extends NumberTrack | StepTrack>(tracks: readonly T[], mode: MirrorMode): T[] {
  const stems = tracks.map((t) => sideStem(t.name));
  return tracks.map((t, i) => {
    const { side, stem } = stems[i]!;
    const takes = mode === 'exchange' ? side !== undefined : side === (mode === 'leftToRight' ? 'R' : 'L');
    const other = takes ? stems.findIndex((x, k) => k !== i && x.stem === stem && x.side && x.side !== side) : -1;
    return other >= 0 ? { ...tracks[other]!, name: t.name } : t;
  });
}

/** Sizes go over to the partner as they are; a joint without a track is as large as at rest. */
function mirrorScales({ scales, frameCount }: Motion, sources: Int16Array): ScaleTrack[] {
  const byJoint = new Map(scales.map((t) => [t.joint, t]));
  const touched = new Set(byJoint.keys());
  sources.forEach((p, j) => {
    if (byJoint.has(p)) touched.add(j);
  });
  const still = new Float32Array(3 * frameCount).fill(1);
  return [...touched]
    .sort((a, b) => a - b)
    .map((joint) => ({ values: still, ...byJoint.get(sources[joint]! < 0 ? joint : sources[joint]!), joint }));
}
