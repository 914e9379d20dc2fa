/** Anything that holds numbers by index. Kernels read all inputs before the first store, so in-place calls are safe. */
export type Numbers = Float32Array | Float64Array | number[];
export type ReadNumbers = ArrayLike<number>;

/** Scalar product of two vectors. */
export const dot3 = (a: ReadNumbers, ao: number, b: ReadNumbers, bo: number): number =>
  a[ao]! * b[bo]! + a[ao + 1]! * b[bo + 1]! + a[ao + 2]! * b[bo + 2]!;

/** Length of a vector. */
export const length3 = (a: ReadNumbers, ao: number): number =>
  Math.sqrt(a[ao]! * a[ao]! + a[ao + 1]! * a[ao + 1]! + a[ao + 2]! * a[ao + 2]!);

/** Distance of two points. */
export function distance3(a: ReadNumbers, ao: number, b: ReadNumbers, bo: number): number {
  const x = a[ao]! - b[bo]!;
  const y = a[ao + 1]! - b[bo + 1]!;
  const z = a[ao + 2]! - b[bo + 2]!;
  return Math.sqrt(x * x + y * y + z * z);
}

/** Stores three numbers at an offset. */
export function set3(dst: Numbers, o: number, x: number, y: number, z: number): void {
  dst[o] = x;
  dst[o + 1] = y;
  dst[o + 2] = z;
}

/** dst = a. */
export function copy3(dst: Numbers, o: number, a: ReadNumbers, ao: number): void {
  set3(dst, o, a[ao]!, a[ao + 1]!, a[ao + 2]!);
}

/** dst = a − b. */
export function sub3(dst: Numbers, o: number, a: ReadNumbers, ao: number, b: ReadNumbers, bo: number): void {
  set3(dst, o, a[ao]! - b[bo]!, a[ao + 1]! - b[bo + 1]!, a[ao + 2]! - b[bo + 2]!);
}

/** dst = a + b. */
export function add3(dst: Numbers, o: number, a: ReadNumbers, ao: number, b: ReadNumbers, bo: number): void {
  set3(dst, o, a[ao]! + b[bo]!, a[ao + 1]! + b[bo + 1]!, a[ao + 2]! + b[bo + 2]!);
}

/** dst = a × b. */
export function cross3(dst: Numbers, o: number, a: ReadNumbers, ao: number, b: ReadNumbers, bo: number): void {
  const ax = a[ao]!;
  const ay = a[ao + 1]!;
  const az = a[ao + 2]!;
  const bx = b[bo]!;
  const by = b[bo + 1]!;
  const bz = b[bo + 2]!;
  set3(dst, o, ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx);
}

/** The cross product of two vectors, as a new one. */
export const crossOf = (a: ReadNumbers, b: ReadNumbers): [number, number, number] => [
  a[1]! * b[2]! - a[2]! * b[1]!,
  a[2]! * b[0]! - a[0]! * b[2]!,
  a[0]! * b[1]! - a[1]! * b[0]!,
];

/** Scales to length 1 and returns the former length; a zero vector stays zero. */
export function normalize3(dst: Numbers, o: number): number {
  const l = length3(dst, o);
  if (l > 0) set3(dst, o, dst[o]! / l, dst[o + 1]! / l, dst[o + 2]! / l);
  return l;
}

/** Angle between two vectors in radians, exact for small and for nearly opposite angles. */
export function angleBetween3(a: ReadNumbers, ao: number, b: ReadNumbers, bo: number): number {
  const c = [0, 0, 0];
  cross3(c, 0, a, ao, b, bo);
  return Math.atan2(length3(c, 0), dot3(a, ao, b, bo));
}

/** A number held between two others. */
export const clamp = (x: number, low: number, high: number): number => Math.min(high, Math.max(low, x));

/** Cubic ease with zero slope at both ends; x is clamped to 0…1. */
export function smoothstep(x: number): number {
  const t = clamp(x, 0, 1);
  return t * t * (3 - 2 * t);
}
