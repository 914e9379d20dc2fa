import type { Numbers, ReadNumbers } from './vec';

/** Rotation vector (axis times angle, radians, at most π long) of a unit quaternion. Grassia 1998, exponential map. */
export function logQuat(dst: Numbers, o: number, q: ReadNumbers, qo: number): void {
  const s = q[qo + 3]! < 0 ? -1 : 1;
  const x = s * q[qo]!;
  const y = s * q[qo + 1]!;
  const z = s * q[qo + 2]!;
  const w = s * q[qo + 3]!;
  const half = Math.hypot(x, y, z);
  const k = half > 1e-12 ? (2 * Math.atan2(half, w)) / half : 2;
  dst[o] = k * x;
  dst[o + 1] = k * y;
  dst[o + 2] = k * z;
}

/** Unit quaternion of a rotation vector; the inverse of logQuat up to sign. */
export function expQuat(dst: Numbers, o: number, v: ReadNumbers, vo: number): void {
  const x = v[vo]!;
  const y = v[vo + 1]!;
  const z = v[vo + 2]!;
  const angle = Math.hypot(x, y, z);
  const k = angle > 1e-9 ? Math.sin(angle / 2) / angle : 0.5;
  dst[o] = k * x;
  dst[o + 1] = k * y;
  dst[o + 2] = k * z;
  dst[o + 3] = Math.cos(angle / 2);
}
