// The same operations as in quat.ts, for Float64Array alone. A function that is only ever handed one kind of array is
// compiled to straight loads and stores; one that sees several kinds is not, and runs some four times slower. Hot loops
// (per frame and joint) use these; everything else uses quat.ts. Like those, they read all before they write.

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

export function normalize64(dst: Float64Array, o: number): void {
  const x = dst[o]!;
  const y = dst[o + 1]!;
  const z = dst[o + 2]!;
  const w = dst[o + 3]!;
  const l = 1 / Math.sqrt(x * x + y * y + z * z + w * w);
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

/** Length of a vector; Math.hypot guards against overflow and is several times slower. */
export const norm = (x: number, y: number, z: number): number => Math.sqrt(x * x + y * y + z * z);
