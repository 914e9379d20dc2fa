import { basisQuat } from './quat';
import type { Numbers, ReadNumbers } from './vec';

// A 4 × 4 matrix is 16 numbers, column by column, acting on column vectors: translation stands at 12, 13, 14.
export type Mat4 = Float64Array;

/** A matrix that changes nothing, 16 numbers, column by column. */
export function identityMat(): Mat4 {
  const m = new Float64Array(16);
  m[0] = m[5] = m[10] = m[15] = 1;
  return m;
}

/** a · b as a new matrix. */
export function mulMat(a: ReadNumbers, b: ReadNumbers): Mat4 {
  const out = new Float64Array(16);
  for (let c = 0; c < 4; c++) {
    for (let r = 0; r < 4; r++) {
      let sum = 0;
      for (let k = 0; k < 4; k++) sum += a[4 * k + r]! * b[4 * c + k]!;
      out[4 * c + r] = sum;
    }
  }
  return out;
}

/** The matrix that scales by s, turns by q and moves by t, in this order. */
export function composeMat(t: ReadNumbers, q: ReadNumbers, s: ReadNumbers): Mat4 {
  const [x, y, z, w] = [q[0]!, q[1]!, q[2]!, q[3]!];
  const m = new Float64Array(16);
  const [sx, sy, sz] = [s[0]!, s[1]!, s[2]!];
  m[0] = (1 - 2 * (y * y + z * z)) * sx;
  m[1] = 2 * (x * y + w * z) * sx;
  m[2] = 2 * (x * z - w * y) * sx;
  m[4] = 2 * (x * y - w * z) * sy;
  m[5] = (1 - 2 * (x * x + z * z)) * sy;
  m[6] = 2 * (y * z + w * x) * sy;
  m[8] = 2 * (x * z + w * y) * sz;
  m[9] = 2 * (y * z - w * x) * sz;
  m[10] = (1 - 2 * (x * x + y * y)) * sz;
  m[12] = t[0]!;
  m[13] = t[1]!;
  m[14] = t[2]!;
  m[15] = 1;
  return m;
}

export interface Decomposed {
  t: number[];
  q: number[];
  /** Lengths of the three columns; the mean of them is what a uniform scale would be. */
  s: number[];
  mirrored: boolean;
}

/** Splits a matrix without shear. A mirrored one has its third column turned round first. */
export function decomposeMat(m: ReadNumbers): Decomposed {
  const column = (c: number): number[] => [m[4 * c]!, m[4 * c + 1]!, m[4 * c + 2]!];
  const [x, y] = [column(0), column(1)];
  let z = column(2);
  const s = [x, y, z].map((v) => Math.hypot(...v) || 1e-12);
  const det =
    x[0]! * (y[1]! * z[2]! - y[2]! * z[1]!) -
    y[0]! * (x[1]! * z[2]! - x[2]! * z[1]!) +
    z[0]! * (x[1]! * y[2]! - x[2]! * y[1]!);
  if (det < 0) z = z.map((v) => -v);
  const q = [0, 0, 0, 1];
  basisQuat(
    q,
    0,
    x.map((v) => v / s[0]!),
    y.map((v) => v / s[1]!),
    z.map((v) => v / s[2]!),
  );
  return { t: [m[12]!, m[13]!, m[14]!], q, s, mirrored: det < 0 };
}

/** Inverse of an affine matrix; undefined where its determinant vanishes. */
export function invertMat(m: ReadNumbers): Mat4 | undefined {
  const [a, b, c, d, e, f, g, h, i] = [m[0]!, m[4]!, m[8]!, m[1]!, m[5]!, m[9]!, m[2]!, m[6]!, m[10]!];
  const det = a * (e * i - f * h) - b * (d * i - f * g) + c * (d * h - e * g);
  if (!Number.isFinite(det) || Math.abs(det) < 1e-30) return undefined;
  const o = new Float64Array(16);
  o[0] = (e * i - f * h) / det;
  o[4] = (c * h - b * i) / det;
  o[8] = (b * f - c * e) / det;
  o[1] = (f * g - d * i) / det;
  o[5] = (a * i - c * g) / det;
  o[9] = (c * d - a * f) / det;
  o[2] = (d * h - e * g) / det;
  o[6] = (b * g - a * h) / det;
  o[10] = (a * e - b * d) / det;
  for (let r = 0; r < 3; r++) o[12 + r] = -(o[r]! * m[12]! + o[4 + r]! * m[13]! + o[8 + r]! * m[14]!);
  o[15] = 1;
  return o;
}

/** dst = m · v, a point with w = 1. */
export function transformPoint(dst: Numbers, o: number, m: ReadNumbers, v: ReadNumbers, vo: number): void {
  const x = v[vo]!;
  const y = v[vo + 1]!;
  const z = v[vo + 2]!;
  dst[o] = m[0]! * x + m[4]! * y + m[8]! * z + m[12]!;
  dst[o + 1] = m[1]! * x + m[5]! * y + m[9]! * z + m[13]!;
  dst[o + 2] = m[2]! * x + m[6]! * y + m[10]! * z + m[14]!;
}
