// The same operations as in quat.ts, for Float64Array alone. A function that is only ever handed one kind of array is
// compiled to straight loads and stores; one that sees several kinds is not, and runs some four times slower. Hot loops
// (per frame and joint) use these; everything else uses quat.ts. Like those, they read all before they write.

/** dst = a · b, quaternions x y z w at their offsets. */
export function mul64(dst: Float64Array, o: number, a: Float64Array, ao: number, b: Float64Array, bo: number): void {
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
export function invMul64(dst: Float64Array, o: number, a: Float64Array, ao: number, b: Float64Array, bo: number): void {
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
export function mulInv64(dst: Float64Array, o: number, a: Float64Array, ao: number, b: Float64Array, bo: number): void {
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

/** dst = v turned by q: three numbers from vo, a unit quaternion from qo. */
export function rotate64(dst: Float64Array, o: number, q: Float64Array, qo: number, v: Float64Array, vo: number): void {
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

/** Makes a turn unit; one of no length becomes none at all. */
export function normalize64(dst: Float64Array, o: number): void {
  const x = dst[o]!;
  const y = dst[o + 1]!;
  const z = dst[o + 2]!;
  const w = dst[o + 3]!;
  const square = x * x + y * y + z * z + w * w;
  if (!(square > 0)) {
    dst[o] = dst[o + 1] = dst[o + 2] = 0;
    dst[o + 3] = 1;
    return;
  }
  const l = 1 / Math.sqrt(square);
  dst[o] = x * l;
  dst[o + 1] = y * l;
  dst[o + 2] = z * l;
  dst[o + 3] = w * l;
}

/** Stores four numbers, as float32, with the sign that lies nearer to what stands at `before` (none where negative). */
export function storeNear(dst: Float32Array, o: number, q: Float64Array, qo: number, before: number): void {
  const x = q[qo]!;
  const y = q[qo + 1]!;
  const z = q[qo + 2]!;
  const w = q[qo + 3]!;
  const s =
    before >= 0 && x * dst[before]! + y * dst[before + 1]! + z * dst[before + 2]! + w * dst[before + 3]! < 0 ? -1 : 1;
  dst[o] = s * x;
  dst[o + 1] = s * y;
  dst[o + 2] = s * z;
  dst[o + 3] = s * w;
}

/**
 * Stores above⁻¹ · own, made unit, as float32: a joint's turn in its parent's frame from two turns in the world. The sign is
 * the one nearer to what stands at `before` (none where negative); with ao below 0 `own` is the local turn already. One step,
 * written out, for every stage ends in it.
 */
export function storeLocal(
  dst: Float32Array,
  o: number,
  above: Float64Array,
  ao: number,
  own: Float64Array,
  oo: number,
  before: number,
): void {
  const ax = ao < 0 ? 0 : -above[ao]!;
  const ay = ao < 0 ? 0 : -above[ao + 1]!;
  const az = ao < 0 ? 0 : -above[ao + 2]!;
  const aw = ao < 0 ? 1 : above[ao + 3]!;
  const bx = own[oo]!;
  const by = own[oo + 1]!;
  const bz = own[oo + 2]!;
  const bw = own[oo + 3]!;
  const x = aw * bx + ax * bw + ay * bz - az * by;
  const y = aw * by - ax * bz + ay * bw + az * bx;
  const z = aw * bz + ax * by - ay * bx + az * bw;
  const w = aw * bw - ax * bx - ay * by - az * bz;
  const square = x * x + y * y + z * z + w * w;
  if (!(square > 0)) {
    dst[o] = dst[o + 1] = dst[o + 2] = 0;
    dst[o + 3] = 1;
    return;
  }
  let s = 1 / Math.sqrt(square);
  if (before >= 0 && x * dst[before]! + y * dst[before + 1]! + z * dst[before + 2]! + w * dst[before + 3]! < 0) s = -s;
  dst[o] = s * x;
  dst[o + 1] = s * y;
  dst[o + 2] = s * z;
  dst[o + 3] = s * w;
}

/** Reads four numbers of a float32 array. */
export function load4(dst: Float64Array, o: number, src: Float32Array, so: number): void {
  dst[o] = src[so]!;
  dst[o + 1] = src[so + 1]!;
  dst[o + 2] = src[so + 2]!;
  dst[o + 3] = src[so + 3]!;
}

/** Length of a vector; Math.hypot guards against overflow and is several times slower. */
export const norm = (x: number, y: number, z: number): number => Math.sqrt(x * x + y * y + z * z);

/** Shortest-arc interpolation; see slerp. */
export function slerp64(
  dst: Float64Array,
  o: number,
  a: Float64Array,
  ao: number,
  b: Float64Array,
  bo: number,
  t: number,
): void {
  const ax = a[ao]!;
  const ay = a[ao + 1]!;
  const az = a[ao + 2]!;
  const aw = a[ao + 3]!;
  const bx = b[bo]!;
  const by = b[bo + 1]!;
  const bz = b[bo + 2]!;
  const bw = b[bo + 3]!;
  const dot = ax * bx + ay * by + az * bz + aw * bw;
  const c = dot < 0 ? -dot : dot;
  let u = 1 - t;
  let v = t;
  if (c < 0.9995) {
    const angle = Math.acos(c);
    const s = 1 / Math.sin(angle);
    u = Math.sin(u * angle) * s;
    v = Math.sin(v * angle) * s;
  }
  if (dot < 0) v = -v;
  dst[o] = u * ax + v * bx;
  dst[o + 1] = u * ay + v * by;
  dst[o + 2] = u * az + v * bz;
  dst[o + 3] = u * aw + v * bw;
  normalize64(dst, o);
}

/** Rotation whose matrix has the given unit, mutually perpendicular columns; see basisQuat. */
export function basis64(dst: Float64Array, x: Float64Array, y: Float64Array, z: Float64Array): void {
  const m00 = x[0]!;
  const m11 = y[1]!;
  const m22 = z[2]!;
  const d0 = y[2]! - z[1]!;
  const d1 = z[0]! - x[2]!;
  const d2 = x[1]! - y[0]!;
  const s0 = y[0]! + x[1]!;
  const s1 = z[0]! + x[2]!;
  const s2 = z[1]! + y[2]!;
  const trace = m00 + m11 + m22;
  if (trace > 0) {
    dst[0] = d0;
    dst[1] = d1;
    dst[2] = d2;
    dst[3] = 1 + trace;
  } else if (m00 > m11 && m00 > m22) {
    dst[0] = 1 + m00 - m11 - m22;
    dst[1] = s0;
    dst[2] = s1;
    dst[3] = d0;
  } else if (m11 > m22) {
    dst[0] = s0;
    dst[1] = 1 + m11 - m00 - m22;
    dst[2] = s2;
    dst[3] = d1;
  } else {
    dst[0] = s1;
    dst[1] = s2;
    dst[2] = 1 + m22 - m00 - m11;
    dst[3] = d2;
  }
  normalize64(dst, 0);
}
