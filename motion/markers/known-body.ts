import { MotionError } from '../errors';
import { invMulQuat } from '../math/quat';
import type { Limb } from './body-tree';
import type { Course } from './limb-course';
import { intoSegment } from './segments';

type V3 = readonly [number, number, number];
type V4 = readonly [number, number, number, number];

/**
 * A body as its markers show it: how they lie on its limbs, how these hang together, and how it stood. Metres; each limb in a
 * frame of its own, from the joint by which it hangs on its parent.
 */
export interface MarkerBody {
  /** How far half of its markers were at most from where the body has them in the take that it was learnt from, millimetres. */
  readonly offMm: number;
  readonly limbs: readonly MarkerLimb[];
}

export interface MarkerLimb {
  /** Number of the limb that it hangs on, one before it; −1 for the first. */
  readonly parent: number;
  /** Its joint in the parent's frame. */
  readonly joint: V3;
  /** How well that stays in place. */
  readonly off: number;
  /** Whether it gives way: a shoulder goes along with a collar bone that carries no markers. */
  readonly loose: boolean;
  /** Where its markers sit. */
  readonly markers: readonly { readonly label: string; readonly at: V3 }[];
  /** How the limb stood, in the world, as the skeleton's rest has it. */
  readonly stood: { readonly turn: V4; readonly place: V3 };
}

const three = (from: ArrayLike<number>, o = 0): V3 => [from[o]!, from[o + 1]!, from[o + 2]!];
const four = (from: ArrayLike<number>, o: number): V4 => [from[o]!, from[o + 1]!, from[o + 2]!, from[o + 3]!];

/**
 * What a solved take tells of its body.
 * @param limbs each in the frame of its joint @param poses by limb, whole @param start the frame in which the body stood
 * @param arms the limbs whose joints give way: theirs are told as they were on average
 */
export function bodyOf(
  labels: readonly string[],
  limbs: readonly Limb[],
  poses: readonly Course[],
  start: number,
  arms: readonly number[],
  offMm: number,
): MarkerBody {
  return {
    offMm,
    limbs: limbs.map(({ parent, joint, off, markers, shape }, i): MarkerLimb => {
      const pose = poses[i]!;
      const loose = arms.includes(i);
      return {
        parent,
        joint: loose ? meanJoint(poses[parent]!, pose) : three(joint),
        off,
        loose,
        markers: markers.map((m, k) => ({ label: labels[m]!, at: three(shape, 3 * k) })),
        stood: { turn: four(pose.turns, 4 * start), place: three(pose.places, 3 * start) },
      };
    }),
  };
}

function meanJoint(parent: Course, { places }: Course): V3 {
  const frames = places.length / 3;
  const [p, sum] = [new Float64Array(3), new Float64Array(3)];
  for (let f = 0; f < frames; f++) {
    intoSegment(parent, f, places, 3 * f, p);
    for (let k = 0; k < 3; k++) sum[k]! += p[k]! / frames;
  }
  return three(sum);
}

/** How a limb stood within its parent. */
export function usualTurn(body: MarkerBody, limb: number): Float64Array {
  const { parent, stood } = body.limbs[limb]!;
  const out = Float64Array.of(0, 0, 0, 1);
  if (parent >= 0) invMulQuat(out, 0, body.limbs[parent]!.stood.turn, 0, stood.turn, 0);
  return out;
}

/** No body has more limbs or markers. */
const MOST_LIMBS = 200;
const MOST_MARKERS = 2000;

/** @throws MotionError 'bad-structure' for what is no body of markers */
export function markerBodyFromJson(json: unknown): MarkerBody {
  const wrong = (what: string): never => {
    throw new MotionError('bad-structure', `This is no body of markers: ${what}.`);
  };
  const numbers = (list: unknown, count: number): boolean =>
    Array.isArray(list) && list.length === count && list.every((x) => typeof x === 'number' && Number.isFinite(x));
  const { limbs, offMm } = (json ?? {}) as Partial<MarkerBody>;
  if (typeof offMm !== 'number' || !(offMm >= 0)) return wrong('it needs "offMm"');
  if (!Array.isArray(limbs) || limbs.length < 3 || limbs.length > MOST_LIMBS) return wrong('it needs a list of limbs');
  let count = 0;
  for (const [i, l] of (limbs as Partial<MarkerLimb>[]).entries()) {
    const { parent, joint, off, loose, markers, stood } = l ?? {};
    const before = Number.isInteger(parent) && parent! < i && (i === 0 ? parent === -1 : parent! >= 0);
    if (!before) wrong(`limb ${i + 1} hangs on none before it`);
    if (!numbers(joint, 3) || typeof off !== 'number' || typeof loose !== 'boolean')
      wrong(`limb ${i + 1} needs "joint" (three numbers), "off" and "loose"`);
    const turn = stood?.turn;
    if (!numbers(turn, 4) || !numbers(stood?.place, 3) || Math.abs(Math.hypot(...turn!) - 1) > 1e-3)
      wrong(`limb ${i + 1} needs "stood" with a unit turn and a place`);
    if (!Array.isArray(markers) || !markers.every((m) => typeof m?.label === 'string' && numbers(m.at, 3)))
      wrong(`limb ${i + 1} needs "markers", each with "label" and "at" (three numbers)`);
    count += markers!.length;
  }
  if (count < 8 || count > MOST_MARKERS) wrong(`it has ${count} markers`);
  return { offMm, limbs };
}
