import { backward, factor, forward } from '../math/cholesky';
import { rotate3 } from '../math/quat';
import { between, COLLAR, middle, NECK } from './assemble';
import { sampling } from './centres';
import type { FittedBody } from './fit-body';
import type { Course } from './limb-course';
import { intoSegment, outOfSegment } from './segments';

/**
 * Puts the arms of a body onto their shoulders, each with what hangs on it; courses and limbs are changed.
 * @param arms the limbs that are upper arms
 * @param names what each limb is
 */
export function seatArms(
  { limbs, courses }: FittedBody,
  arms: readonly number[],
  names: readonly (string | undefined)[],
  frames: number,
): void {
  const neck = names.findIndex((name) => name === 'neck1' || name === 'head');
  const [chest] = arms.map((arm) => limbs[arm]!.parent);
  if (arms.length !== 2 || neck < 0 || chest === undefined || limbs[neck]!.parent !== chest) return;
  const joints = arms.map((arm) => limbs[arm]!.joint);
  const rise = between(middle(joints), limbs[neck]!.joint, NECK);
  const p = new Float64Array(3);
  arms.forEach((arm, i) => {
    const { shape } = limbs[arm]!;
    const [body, course] = [courses[chest]!, courses[arm]!];
    const by = linkedAt(body, course, frames, between(rise, joints[i]!, COLLAR));
    for (let k = 0; k < shape.length; k++) shape[k]! -= by[k % 3]!;
    for (const { parent, joint } of limbs) if (parent === arm) for (let k = 0; k < 3; k++) joint[k]! -= by[k]!;
    for (let f = 0; f < frames; f++) {
      outOfSegment(course, f, by, p);
      course.places.set(p, 3 * f);
    }
  });
}

/** How far the joint, and where the bone begins, may lie from where they are expected, and the length of the bone may vary, metres. */
const PLACES = 0.06;
const LENGTH = 0.003;
const ROUNDS = 12;

/**
 * Where a limb is joined to another by a bone that carries no markers, as an arm is to the chest by the collar bone: the point of
 * the limb that keeps its distance to a point of the other best. A centre of rotation alone lies too far inward, for what the
 * bone does follows what the arm does.
 * @param from the chest, @param to the arm, both whole
 * @param start where the bone begins, in the frame of `from`
 * @returns the joint in the limb's frame, expected about its origin
 */
function linkedAt(from: Course, to: Course, frames: number, start: ArrayLike<number>): Float64Array {
  const c = Float64Array.from(start);
  const s = new Float64Array(3);
  const [p, q, unit] = [new Float64Array(3), new Float64Array(3), new Float64Array(3)];
  const turn = new Float64Array(4);
  let long = Number.NaN;
  const step = sampling(frames);
  for (let round = 0; round < ROUNDS; round++) {
    const a = new Float64Array(49);
    const b = new Float64Array(7);
    const lens: number[] = [];
    const rows: number[][] = [];
    for (let f = 0; f < frames; f += step) {
      outOfSegment(to, f, s, p);
      intoSegment(from, f, p, 0, q);
      const d = [0, 1, 2].map((k) => q[k]! - c[k]!);
      const l = Math.hypot(...d) || 1e-9;
      // the way of the bone in the limb's frame: out of the other's, into this one's
      for (let k = 0; k < 3; k++) unit[k] = d[k]! / l;
      rotate3(p, 0, from.turns, 4 * f, unit, 0);
      for (let k = 0; k < 4; k++) turn[k] = (k < 3 ? -1 : 1) * to.turns[4 * f + k]!;
      rotate3(q, 0, turn, 0, p, 0);
      lens.push(l);
      rows.push([q[0]!, q[1]!, q[2]!, -unit[0]!, -unit[1]!, -unit[2]!, -1]);
    }
    if (Number.isNaN(long)) long = lens.reduce((x, y) => x + y, 0) / lens.length;
    rows.forEach((row, i) => {
      const off = long - lens[i]!;
      for (let r = 0; r < 7; r++) {
        b[r]! += row[r]! * off;
        for (let k = 0; k <= r; k++) a[7 * r + k]! += row[r]! * row[k]!;
      }
    });
    for (let k = 0; k < 3; k++) {
      const sure = rows.length * (LENGTH / PLACES) ** 2;
      a[8 * k]! += sure;
      b[k]! -= sure * s[k]!;
      a[8 * (3 + k)]! += sure;
      b[3 + k]! += sure * (start[k]! - c[k]!);
    }
    a[48]! += 1e-9;
    if (!factor(a, 7)) break;
    forward(a, 7, b);
    backward(a, 7, b);
    for (let k = 0; k < 3; k++) {
      s[k]! += b[k]!;
      c[k]! += b[3 + k]!;
    }
    long += b[6]!;
  }
  return s;
}
