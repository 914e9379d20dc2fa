import { eigenSymmetric } from './eigen';
import { rotate3 } from './quat';

/** A turn (x y z w) and a shift: p becomes turned p + shift. */
export interface Rigid {
  readonly turn: Float64Array;
  readonly shift: Float64Array;
}

/**
 * The rigid movement that brings points nearest to others, weighted least squares; undefined for fewer than two points. Two
 * points leave the turn about their line open, which is then the least one.
 * Source: Horn 1987 (Closed-form solution of absolute orientation using unit quaternions).
 * @param from @param to 3 N numbers @param weights N numbers, 0 leaves a point out
 */
export function rigidFit(
  from: ArrayLike<number>,
  to: ArrayLike<number>,
  weights: ArrayLike<number>,
): Rigid | undefined {
  const n = weights.length;
  const [a, b] = [new Float64Array(3), new Float64Array(3)];
  let sum = 0;
  let count = 0;
  for (let i = 0; i < n; i++) {
    const w = weights[i]!;
    if (w <= 0) continue;
    count++;
    sum += w;
    for (let k = 0; k < 3; k++) {
      a[k]! += w * from[3 * i + k]!;
      b[k]! += w * to[3 * i + k]!;
    }
  }
  if (count < 2) return undefined;
  for (let k = 0; k < 3; k++) {
    a[k]! /= sum;
    b[k]! /= sum;
  }
  const s = new Float64Array(9);
  for (let i = 0; i < n; i++) {
    const w = weights[i]!;
    if (w <= 0) continue;
    for (let r = 0; r < 3; r++)
      for (let c = 0; c < 3; c++) s[3 * r + c]! += w * (from[3 * i + r]! - a[r]!) * (to[3 * i + c]! - b[c]!);
  }
  const [xx, xy, xz, yx, yy, yz, zx, zy, zz] = s as unknown as [
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
    number,
  ];
  const m = [
    xx + yy + zz,
    yz - zy,
    zx - xz,
    xy - yx,
    yz - zy,
    xx - yy - zz,
    xy + yx,
    zx + xz,
    zx - xz,
    xy + yx,
    yy - xx - zz,
    yz + zy,
    xy - yx,
    zx + xz,
    yz + zy,
    zz - xx - yy,
  ];
  const { values, vectors } = eigenSymmetric(m, 4);
  // points on one line leave a second turn that is as good: of both the one that turns less is taken
  let [w, x, y, z] = [vectors[0]!, vectors[1]!, vectors[2]!, vectors[3]!];
  if (values[0]! - values[1]! < 1e-9 * Math.abs(values[0]!)) {
    const [u, v] = [vectors.subarray(0, 4), vectors.subarray(4, 8)];
    const long = Math.hypot(u[0]!, v[0]!) || 1;
    [w, x, y, z] = [0, 1, 2, 3].map((k) => (u[0]! * u[k]! + v[0]! * v[k]!) / long) as [number, number, number, number];
  }
  const turn = Float64Array.from([x, y, z, w]);
  const moved = new Float64Array(3);
  rotate3(moved, 0, turn, 0, a, 0);
  return { turn, shift: Float64Array.from([0, 1, 2], (k) => b[k]! - moved[k]!) };
}
