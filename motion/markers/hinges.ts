import { eigenSymmetric } from '../math/eigen';
import { mulQuat, rotate3 } from '../math/quat';
import type { Limb } from './body-tree';
import { sampling } from './centres';
import type { Course } from './limb-course';

/** A hinge's axis turns by less than this, as the variance of a direction: some six degrees. */
const HINGE = 0.01;

/**
 * Movement about a hinge does not tell where along its axis the joint lies. Knees and elbows lie where the way from the joint
 * above to the one below crosses it, which are both known: hips, shoulders, ankles and wrists turn in all directions. Limbs
 * whose joint is no hinge stay as they are.
 * @param courses by limb, whole
 */
export function placeHinges(limbs: readonly Limb[], courses: readonly Course[], frames: number): Limb[] {
  const out = limbs.map((l) => ({ ...l, joint: l.joint.slice(), own: l.own.slice() }));
  out.forEach((limb, i) => {
    const above = out[limb.parent];
    if (!above || limb.parent === 0) return;
    const below = endOf(out, i);
    if (!below) return;
    const axis = axisOf(courses[limb.parent]!, courses[i]!, frames);
    // along the axis, from the joint above
    const upper = limb.joint.map((x, k) => x - above.own[k]!);
    const lower = below.map((x, k) => x - limb.own[k]!);
    const [here, on] = [dot(upper, axis.above), dot(lower, axis.below)];
    const share = Math.hypot(...upper) / (Math.hypot(...upper) + Math.hypot(...lower));
    const by = (share * (here + on) - here) / (1 + (axis.varies / HINGE) ** 2);
    for (let k = 0; k < 3; k++) {
      limb.joint[k]! += by * axis.above[k]!;
      limb.own[k]! += by * axis.below[k]!;
    }
  });
  return out;
}

const dot = (a: ArrayLike<number>, b: ArrayLike<number>): number => a[0]! * b[0]! + a[1]! * b[1]! + a[2]! * b[2]!;

/** The joint of what hangs on a limb, in its frame, or the middle of the markers of one that ends there. */
function endOf(limbs: readonly Limb[], i: number): number[] | undefined {
  const hung = limbs.filter((l) => l.parent === i);
  if (hung.length > 0) return hung.length === 1 ? [...hung[0]!.joint] : undefined;
  const { shape } = limbs[i]!;
  const n = shape.length / 3;
  return [0, 1, 2].map((k) => {
    let sum = 0;
    for (let m = 0; m < n; m++) sum += shape[3 * m + k]! / n;
    return sum;
  });
}

const AXES = [1, 0, 0, 0, 1, 0, 0, 0, 1];

/** The direction that turns least between two limbs, in the frame of either, and the variance of it. */
function axisOf(above: Course, below: Course, frames: number) {
  const mean = new Float64Array(9);
  const [turn, back] = [new Float64Array(4), new Float64Array(4)];
  const column = new Float64Array(3);
  let n = 0;
  for (let f = 0; f < frames; f += sampling(frames)) {
    for (let k = 0; k < 4; k++) back[k] = (k < 3 ? -1 : 1) * above.turns[4 * f + k]!;
    mulQuat(turn, 0, back, 0, below.turns, 4 * f);
    for (let c = 0; c < 3; c++) {
      rotate3(column, 0, turn, 0, AXES, 3 * c);
      for (let r = 0; r < 3; r++) mean[3 * r + c]! += column[r]!;
    }
    n++;
  }
  for (let i = 0; i < 9; i++) mean[i]! /= n;
  const square = new Float64Array(9);
  for (let r = 0; r < 3; r++)
    for (let c = 0; c < 3; c++)
      square[3 * r + c] = dot(mean.subarray(3 * r, 3 * r + 3), mean.subarray(3 * c, 3 * c + 3));
  const { values, vectors } = eigenSymmetric(square, 3);
  const direction = vectors.slice(0, 3);
  const other = [0, 1, 2].map(
    (c) => mean[c]! * direction[0]! + mean[3 + c]! * direction[1]! + mean[6 + c]! * direction[2]!,
  );
  const long = Math.hypot(...other) || 1;
  return { above: direction, below: other.map((x) => x / long), varies: Math.max(0, 1 - values[0]!) };
}
