import { type Numbers, type ReadNumbers, set3 } from './vec';

// A quaternion is four numbers x, y, z, w. Unit quaternions only, unless a function says otherwise.

/** Stores four numbers at an offset. */
export function setQuat(dst: Numbers, o: number, x: number, y: number, z: number, w: number): void {
  dst[o] = x;
  dst[o + 1] = y;
  dst[o + 2] = z;
  dst[o + 3] = w;
}

/** dst = a. */
export function copyQuat(dst: Numbers, o: number, a: ReadNumbers, ao: number): void {
  setQuat(dst, o, a[ao]!, a[ao + 1]!, a[ao + 2]!, a[ao + 3]!);
}

/** Stores the turn that changes nothing. */
export function identityQuat(dst: Numbers, o: number): void {
  setQuat(dst, o, 0, 0, 0, 1);
}

/** dst = a · b: b is applied first, then a. */
export function mulQuat(dst: Numbers, o: number, a: ReadNumbers, ao: number, b: ReadNumbers, bo: number): void {
  const ax = a[ao]!;
  const ay = a[ao + 1]!;
  const az = a[ao + 2]!;
  const aw = a[ao + 3]!;
  const bx = b[bo]!;
  const by = b[bo + 1]!;
  const bz = b[bo + 2]!;
  const bw = b[bo + 3]!;
  dst[o] = aw * bx + ax * bw + ay * bz - az * by;
  dst[o + 1] = aw * by - ax * bz + ay * bw + az * bx;
  dst[o + 2] = aw * bz + ax * by - ay * bx + az * bw;
  dst[o + 3] = aw * bw - ax * bx - ay * by - az * bz;
}

/** dst = a⁻¹ · b. */
export function invMulQuat(dst: Numbers, o: number, a: ReadNumbers, ao: number, b: ReadNumbers, bo: number): void {
  const ax = -a[ao]!;
  const ay = -a[ao + 1]!;
  const az = -a[ao + 2]!;
  const aw = a[ao + 3]!;
  const bx = b[bo]!;
  const by = b[bo + 1]!;
  const bz = b[bo + 2]!;
  const bw = b[bo + 3]!;
  dst[o] = aw * bx + ax * bw + ay * bz - az * by;
  dst[o + 1] = aw * by - ax * bz + ay * bw + az * bx;
  dst[o + 2] = aw * bz + ax * by - ay * bx + az * bw;
  dst[o + 3] = aw * bw - ax * bx - ay * by - az * bz;
}

/** dst = a · b⁻¹. */
export function mulInvQuat(dst: Numbers, o: number, a: ReadNumbers, ao: number, b: ReadNumbers, bo: number): void {
  const ax = a[ao]!;
  const ay = a[ao + 1]!;
  const az = a[ao + 2]!;
  const aw = a[ao + 3]!;
  const bx = -b[bo]!;
  const by = -b[bo + 1]!;
  const bz = -b[bo + 2]!;
  const bw = b[bo + 3]!;
  dst[o] = aw * bx + ax * bw + ay * bz - az * by;
  dst[o + 1] = aw * by - ax * bz + ay * bw + az * bx;
  dst[o + 2] = aw * bz + ax * by - ay * bx + az * bw;
  dst[o + 3] = aw * bw - ax * bx - ay * by - az * bz;
}

/** dst = a⁻¹, for a unit quaternion. */
export function invertQuat(dst: Numbers, o: number, a: ReadNumbers, ao: number): void {
  setQuat(dst, o, -a[ao]!, -a[ao + 1]!, -a[ao + 2]!, a[ao + 3]!);
}

/** Turns vector v by quaternion q. */
export function rotate3(dst: Numbers, o: number, q: ReadNumbers, qo: number, v: ReadNumbers, vo: number): void {
  const qx = q[qo]!;
  const qy = q[qo + 1]!;
  const qz = q[qo + 2]!;
  const qw = q[qo + 3]!;
  const x = v[vo]!;
  const y = v[vo + 1]!;
  const z = v[vo + 2]!;
  const tx = 2 * (qy * z - qz * y);
  const ty = 2 * (qz * x - qx * z);
  const tz = 2 * (qx * y - qy * x);
  dst[o] = x + qw * tx + qy * tz - qz * ty;
  dst[o + 1] = y + qw * ty + qz * tx - qx * tz;
  dst[o + 2] = z + qw * tz + qx * ty - qy * tx;
}

/** Makes a quaternion unit; one of no length becomes the turn that changes nothing. */
export function normalizeQuat(dst: Numbers, o: number): void {
  const l = Math.sqrt(dst[o]! ** 2 + dst[o + 1]! ** 2 + dst[o + 2]! ** 2 + dst[o + 3]! ** 2);
  if (l > 0) setQuat(dst, o, dst[o]! / l, dst[o + 1]! / l, dst[o + 2]! / l, dst[o + 3]! / l);
  else identityQuat(dst, o);
}

/** Sum of products of components: the cosine of half the angle between two turns, up to sign. */
export function dotQuat(a: ReadNumbers, ao: number, b: ReadNumbers, bo: number): number {
  return a[ao]! * b[bo]! + a[ao + 1]! * b[bo + 1]! + a[ao + 2]! * b[bo + 2]! + a[ao + 3]! * b[bo + 3]!;
}

/** Angle in radians by which two rotations differ, 0…π; by the arc tangent, so small angles keep their digits. */
export function angleBetweenQuats(a: ReadNumbers, ao: number, b: ReadNumbers, bo: number): number {
  const q = [0, 0, 0, 0];
  invMulQuat(q, 0, a, ao, b, bo);
  return 2 * Math.atan2(Math.hypot(q[0]!, q[1]!, q[2]!), Math.abs(q[3]!));
}

/** Shortest-arc interpolation (Shoemake, Animating rotation with quaternion curves, 1985). */
export function slerp(
  dst: Numbers,
  o: number,
  a: ReadNumbers,
  ao: number,
  b: ReadNumbers,
  bo: number,
  t: number,
): void {
  const ax = a[ao]!;
  const ay = a[ao + 1]!;
  const az = a[ao + 2]!;
  const aw = a[ao + 3]!;
  let bx = b[bo]!;
  let by = b[bo + 1]!;
  let bz = b[bo + 2]!;
  let bw = b[bo + 3]!;
  let c = ax * bx + ay * by + az * bz + aw * bw;
  if (c < 0) {
    c = -c;
    bx = -bx;
    by = -by;
    bz = -bz;
    bw = -bw;
  }
  let u = 1 - t;
  let v = t;
  if (c < 0.9995) {
    const angle = Math.acos(c);
    const s = 1 / Math.sin(angle);
    u = Math.sin(u * angle) * s;
    v = Math.sin(v * angle) * s;
  }
  setQuat(dst, o, u * ax + v * bx, u * ay + v * by, u * az + v * bz, u * aw + v * bw);
  normalizeQuat(dst, o);
}

/** Rotation by `angle` radians about the unit axis (x, y, z). */
export function axisAngleQuat(dst: Numbers, o: number, x: number, y: number, z: number, angle: number): void {
  const s = Math.sin(angle / 2);
  setQuat(dst, o, x * s, y * s, z * s, Math.cos(angle / 2));
}

/** The smallest rotation that turns direction a into direction b; both need not be unit length. */
export function arcQuat(dst: Numbers, o: number, a: ReadNumbers, ao: number, b: ReadNumbers, bo: number): void {
  const la = Math.hypot(a[ao]!, a[ao + 1]!, a[ao + 2]!);
  const lb = Math.hypot(b[bo]!, b[bo + 1]!, b[bo + 2]!);
  if (la === 0 || lb === 0) {
    identityQuat(dst, o);
    return;
  }
  const ax = a[ao]! / la;
  const ay = a[ao + 1]! / la;
  const az = a[ao + 2]! / la;
  const bx = b[bo]! / lb;
  const by = b[bo + 1]! / lb;
  const bz = b[bo + 2]! / lb;
  const c = ax * bx + ay * by + az * bz;
  if (c < -0.999999) {
    // opposite: any axis across a will do; take the one farthest from a
    const x = Math.abs(ax) < 0.6 ? 0 : -ay;
    const y = Math.abs(ax) < 0.6 ? -az : ax;
    const z = Math.abs(ax) < 0.6 ? ay : 0;
    const l = Math.hypot(x, y, z);
    setQuat(dst, o, x / l, y / l, z / l, 0);
    return;
  }
  setQuat(dst, o, ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx, 1 + c);
  normalizeQuat(dst, o);
}

/**
 * The part of q that turns about the unit axis (x, y, z); q = swing · twist.
 * Where the twist is undefined (a half turn across the axis) it is the identity.
 */
export function twistQuat(dst: Numbers, o: number, q: ReadNumbers, qo: number, x: number, y: number, z: number): void {
  const d = q[qo]! * x + q[qo + 1]! * y + q[qo + 2]! * z;
  setQuat(dst, o, d * x, d * y, d * z, q[qo + 3]!);
  normalizeQuat(dst, o);
}

/** Rotation whose matrix has the given unit, mutually perpendicular columns (images of x, y and z). */
export function basisQuat(dst: Numbers, o: number, x: ReadNumbers, y: ReadNumbers, z: ReadNumbers): void {
  const m00 = x[0]!;
  const m10 = x[1]!;
  const m20 = x[2]!;
  const m01 = y[0]!;
  const m11 = y[1]!;
  const m21 = y[2]!;
  const m02 = z[0]!;
  const m12 = z[1]!;
  const m22 = z[2]!;
  const trace = m00 + m11 + m22;
  if (trace > 0) {
    const s = Math.sqrt(trace + 1) * 2;
    setQuat(dst, o, (m21 - m12) / s, (m02 - m20) / s, (m10 - m01) / s, s / 4);
  } else if (m00 > m11 && m00 > m22) {
    const s = Math.sqrt(1 + m00 - m11 - m22) * 2;
    setQuat(dst, o, s / 4, (m01 + m10) / s, (m02 + m20) / s, (m21 - m12) / s);
  } else if (m11 > m22) {
    const s = Math.sqrt(1 + m11 - m00 - m22) * 2;
    setQuat(dst, o, (m01 + m10) / s, s / 4, (m12 + m21) / s, (m02 - m20) / s);
  } else {
    const s = Math.sqrt(1 + m22 - m00 - m11) * 2;
    setQuat(dst, o, (m02 + m20) / s, (m12 + m21) / s, s / 4, (m10 - m01) / s);
  }
  normalizeQuat(dst, o);
}

/** Rotation from a turn of a, then b, then c about the axes in `order` in the moving frame (BVH's channel order). */
export function eulerQuat(dst: Numbers, o: number, order: string, a: number, b: number, c: number): void {
  const q = [0, 0, 0, 1];
  const angles = [a, b, c];
  for (let i = 0; i < order.length; i++) {
    const t = [0, 0, 0, 1];
    const axis = order.charCodeAt(i) - 88;
    t[axis] = Math.sin(angles[i]! / 2);
    t[3] = Math.cos(angles[i]! / 2);
    mulQuat(q, 0, q, 0, t, 0);
  }
  copyQuat(dst, o, q, 0);
}

/** Turns by Z, then X, then Y in the moving frame, in radians; near the pole (|X| = 90°) Y is taken as 0. */
export function quatToZxy(q: ReadNumbers, qo: number, dst: Numbers, o: number): void {
  const x = q[qo]!;
  const y = q[qo + 1]!;
  const z = q[qo + 2]!;
  const w = q[qo + 3]!;
  const m21 = 2 * (y * z + w * x);
  if (Math.abs(m21) > 0.9999999) {
    set3(dst, o, Math.atan2(2 * (x * y + w * z), 1 - 2 * (y * y + z * z)), (Math.PI / 2) * Math.sign(m21), 0);
    return;
  }
  set3(
    dst,
    o,
    Math.atan2(-2 * (x * y - w * z), 1 - 2 * (x * x + z * z)),
    Math.asin(m21),
    Math.atan2(-2 * (x * z - w * y), 1 - 2 * (x * x + y * y)),
  );
}

/** The same for all joints of a motion's turns, 4 J a frame, in one walk through memory. */
export function alignTurns(turns: Float32Array, joints: number, frames: number): void {
  const frame = 4 * joints;
  for (let o = frame; o < frames * frame; o += 4) {
    const b = o - frame;
    // w · w′ above ½ leaves the rest too little to make the product negative: most turns need no more
    const w = turns[o + 3]! * turns[b + 3]!;
    if (w > 0.51) continue;
    const dot = turns[o]! * turns[b]! + turns[o + 1]! * turns[b + 1]! + turns[o + 2]! * turns[b + 2]! + w;
    if (!(dot < 0)) continue;
    for (let k = 0; k < 4; k++) turns[o + k] = -turns[o + k]!;
  }
}

/** Flips signs so that each quaternion of a track lies in the same half-space as the one before. */
export function alignSigns(track: Numbers, start: number, stride: number, count: number): void {
  for (let f = 1; f < count; f++) {
    const o = start + f * stride;
    if (dotQuat(track, o, track, o - stride) < 0)
      setQuat(track, o, -track[o]!, -track[o + 1]!, -track[o + 2]!, -track[o + 3]!);
  }
}
