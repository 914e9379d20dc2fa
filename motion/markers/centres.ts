import { eigenSymmetric } from '../math/eigen';
import { type Course, intoSegment, type Segment, stands } from './segments';

type Frame = Pick<Segment, 'turns' | 'places'>;

/** The point about which one segment turns within the frame of another. */
export interface Centre {
  /** In the frame of the first segment. */
  readonly at: Float64Array;
  /** How well it stays in place: root mean square of what its distances vary by, metres. */
  readonly off: number;
}

/** How many frames there are to one that is looked at. */
export const sampling = (frames: number): number => Math.max(1, Math.floor(frames / 500));

/** Variance of a direction, square metres, below which movement does not tell the centre along it. */
const UNTOLD = 0.004 ** 2;

/**
 * The common middle of the spheres on which points move within a segment's frame. Where they hardly move along a direction, as
 * along a hinge's axis, the centre stays there where it is expected.
 * Source: Gamage and Lasenby 2002 (New least squares solutions for estimating the average centre of rotation and the axis of
 * rotation); held where movement does not tell.
 * @param expected in the frame of the segment
 */
export function centreOf(
  frame: Frame,
  courses: readonly Course[],
  frames: number,
  expected: ArrayLike<number>,
): Centre | undefined {
  const a = new Float64Array(9);
  const b = new Float64Array(3);
  const step = sampling(frames);
  const p = new Float64Array(3);
  const kept: Float64Array[] = [];
  for (const course of courses) {
    const points: number[] = [];
    for (let f = 0; f < frames; f += step) {
      if (!stands(frame, f) || Number.isNaN(course[3 * f]!)) continue;
      intoSegment(frame, f, course, 3 * f, p);
      points.push(p[0]! - expected[0]!, p[1]! - expected[1]!, p[2]! - expected[2]!);
    }
    const n = points.length / 3;
    if (n < 10) continue;
    const v = Float64Array.from(points);
    kept.push(v);
    const mean = [0, 0, 0];
    let square = 0;
    for (let i = 0; i < v.length; i += 3) {
      for (let k = 0; k < 3; k++) mean[k]! += v[i + k]! / n;
      square += (v[i]! ** 2 + v[i + 1]! ** 2 + v[i + 2]! ** 2) / n;
    }
    for (let i = 0; i < v.length; i += 3) {
      const s = v[i]! ** 2 + v[i + 1]! ** 2 + v[i + 2]! ** 2 - square;
      for (let r = 0; r < 3; r++) {
        const d = v[i + r]! - mean[r]!;
        b[r]! += (d * s) / n;
        for (let c = 0; c < 3; c++) a[3 * r + c]! += (2 * d * (v[i + c]! - mean[c]!)) / n;
      }
    }
  }
  if (kept.length === 0) return undefined;
  const { values, vectors } = eigenSymmetric(a, 3);
  const at = Float64Array.from([0, 1, 2], (k) => expected[k]!);
  for (let e = 0; e < 3; e++) {
    const u = vectors.subarray(3 * e, 3 * e + 3);
    const along = u[0]! * b[0]! + u[1]! * b[1]! + u[2]! * b[2]!;
    const step = along / (values[e]! + 2 * kept.length * UNTOLD);
    for (let k = 0; k < 3; k++) at[k]! += step * u[k]!;
  }
  let [sum, count] = [0, 0];
  for (const v of kept) {
    const n = v.length / 3;
    const far = new Float64Array(n);
    let mean = 0;
    for (let i = 0; i < n; i++) {
      far[i] = Math.hypot(...[0, 1, 2].map((k) => v[3 * i + k]! + expected[k]! - at[k]!));
      mean += far[i]! / n;
    }
    for (let i = 0; i < n; i++) sum += (far[i]! - mean) ** 2;
    count += n;
  }
  return { at, off: Math.sqrt(sum / count) };
}
