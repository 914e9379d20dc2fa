import { norm } from '../math/fast';
import { smoothCourse } from '../math/smooth-course';
import { smoothstep } from '../math/vec';
import type { FootStands } from './foot-plan';
import type { FootTrack } from './foot-track';
import { FULL_REACH } from './leg';

/** A foot counts for so long before it is held and after, seconds. */
const RAMP_S = 0.15;
/** Changes of the hips' place faster than this are left to the legs. */
const CUTOFF_HZ = 4.5;
/** Places are looked for so often; between them the course is smooth anyway. */
const RATE = 30;
/** What leaving the carried-over place costs, against directions of limbs. */
const STAY = 0.02;
/** What a seat counts against a standing leg. */
const SEATED = 30;
const PASSES = 4;
/** A change of the best place from one look to the next that may be a jump, legs; and how much worse the nearer one may be. */
const JUMP = 0.005;
const HARDLY = 1.3;
/** Weight of what a leg lacks to reach its spot, per leg. */
const LACK = 5;

/**
 * Where the hips go so that held limbs keep the source's directions: on other proportions of thigh and shin, or with soles that
 * sink in the capture, the scaled place bends knees although every spot is within reach. In each frame the place with the least
 * errors of direction of both bones of what is held (Gauss-Newton on three unknowns), then a smooth course through these.
 * @param seated how much a seat keeps the hips in their place, one a frame, 0 to 1; undefined where there is none
 * @returns 3 F: move of the hips, metres
 */
export function settleHips(
  limbs: readonly HeldLimb[],
  frames: number,
  fps: number,
  leg: number,
  seated?: ArrayLike<number>,
): Float64Array {
  const wanted = new Float64Array(3 * frames);
  const weights = new Float64Array(frames);
  const step = Math.max(1, Math.round(fps / RATE));
  const d = new Float64Array(3);
  for (let f = 0; f < frames; f += step) {
    let sum = 0;
    d.fill(0);
    for (const { weight, away } of limbs) {
      const w = weight[f]!;
      sum += w;
      for (let k = 0; k < 3; k++) d[k] = d[k]! + w * away[3 * f + k]!;
    }
    const still = seated?.[f] ?? 0;
    if (sum <= 0 && still <= 0) continue;
    if (sum > 0) for (let k = 0; k < 3; k++) d[k] = d[k]! / sum;
    bestPlace(d, limbs, f, leg, still);
    if (f >= step && weights[f - step]! > 0)
      goOn(d, wanted.subarray(3 * (f - step), 3 * (f - step) + 3), limbs, f, leg, still);
    wanted.set(d, 3 * f);
    weights[f] = step * Math.max(Math.min(1, sum), still);
  }
  const course = smoothCourse(wanted, weights, 3, CUTOFF_HZ, fps);
  // a seat is not smoothed over
  for (let f = 0; seated && f < frames; f++)
    for (let k = 0; k < 3; k++) course[3 * f + k] = (1 - seated[f]!) * course[3 * f + k]!;
  return course;
}

/** A limb of two bones whose end is held, over time: 3 F numbers each but the weight, world, metres, as carried over. */
export interface HeldLimb {
  readonly root: Float64Array;
  readonly middle: Float64Array;
  readonly end: Float64Array;
  readonly bones: readonly [number, number];
  /** F: how much it counts. */
  readonly weight: ArrayLike<number>;
  /** How far its end's spot is from where it was carried over to. */
  readonly away: Float64Array;
}

/** A leg as its stands hold it: it counts a little before and after, too. */
export function standingLeg(track: FootTrack, stands: FootStands, fps: number): HeldLimb {
  return {
    root: track.hip,
    middle: track.knee,
    end: track.ankle,
    bones: track.bones,
    ...aroundStands(track, stands, Math.max(1, Math.round(RAMP_S * fps))),
  };
}

/** How much a leg counts in each frame, and how far its ankle's spot is from where it was carried over to, 3 F. */
function aroundStands(
  track: FootTrack,
  { goal, held }: FootStands,
  ramp: number,
): { weight: Float64Array; away: Float64Array } {
  const frames = held.length;
  const weight = new Float64Array(frames);
  const away = new Float64Array(3 * frames);
  const put = (f: number, from: number, w: number): void => {
    const before = weight[f]!;
    if (w <= 0) return;
    for (let k = 0; k < 3; k++) {
      const by = goal[3 * from + k]! - track.ankle[3 * from + k]!;
      away[3 * f + k] = (before * away[3 * f + k]! + w * by) / (before + w);
    }
    weight[f] = Math.max(before, w);
  };
  for (let f = 0; f < frames; f++) {
    if (!held[f]) continue;
    put(f, f, 1);
    const first = f === 0 || !held[f - 1];
    const last = f + 1 === frames || !held[f + 1];
    if (first) for (let g = 1; g < ramp && f - g >= 0 && !held[f - g]; g++) put(f - g, f, 1 - smoothstep(g / ramp));
    if (last) for (let g = 1; g < ramp && f + g < frames && !held[f + g]; g++) put(f + g, f, 1 - smoothstep(g / ramp));
  }
  return { weight, away };
}

const normal = new Float64Array(6);
const right = new Float64Array(3);
const error = new Float64Array(7);
const moved = new Float64Array(7);
const columns = [new Float64Array(7), new Float64Array(7), new Float64Array(7)];

/** Improves a move of the hips in place. */
function bestPlace(d: Float64Array, limbs: readonly HeldLimb[], f: number, leg: number, seated: number): void {
  const h = 1e-4 * leg;
  for (let pass = 0; pass < PASSES; pass++) {
    normal.fill(0);
    for (let k = 0; k < 3; k++) right[k] = (-STAY * d[k]!) / leg;
    normal[0] = normal[3] = normal[5] = STAY;
    const stay = SEATED * seated;
    normal[0]! += stay;
    normal[3]! += stay;
    normal[5]! += stay;
    for (let k = 0; k < 3; k++) right[k]! -= (stay * d[k]!) / leg;
    for (const limb of limbs) {
      const w = limb.weight[f]!;
      if (w <= 0) continue;
      limbError(error, limb, f, d[0]!, d[1]!, d[2]!);
      for (let k = 0; k < 3; k++) {
        limbError(moved, limb, f, d[0]! + (k === 0 ? h : 0), d[1]! + (k === 1 ? h : 0), d[2]! + (k === 2 ? h : 0));
        for (let i = 0; i < 7; i++) columns[k]![i] = ((moved[i]! - error[i]!) * leg) / h;
      }
      const [x, y, z] = columns as [Float64Array, Float64Array, Float64Array];
      for (let i = 0; i < 7; i++) {
        const [a, b, c, e] = [x[i]!, y[i]!, z[i]!, error[i]!];
        normal[0]! += w * a * a;
        normal[1]! += w * a * b;
        normal[2]! += w * a * c;
        normal[3]! += w * b * b;
        normal[4]! += w * b * c;
        normal[5]! += w * c * c;
        right[0]! -= w * a * e;
        right[1]! -= w * b * e;
        right[2]! -= w * c * e;
      }
    }
    const [a, b, c, e, g, i] = normal as unknown as [number, number, number, number, number, number];
    const A = e * i - g * g;
    const B = c * g - b * i;
    const C = b * g - c * e;
    const det = a * A + b * B + c * C;
    if (!(det > 1e-12)) return;
    const sx = (A * right[0]! + B * right[1]! + C * right[2]!) / det;
    const sy = (B * right[0]! + (a * i - c * c) * right[1]! + (b * c - a * g) * right[2]!) / det;
    const sz = (C * right[0]! + (b * c - a * g) * right[1]! + (a * e - b * b) * right[2]!) / det;
    const far = norm(sx, sy, sz);
    const by = leg * Math.min(1, 0.08 / Math.max(far, 1e-12));
    d[0]! += by * sx;
    d[1]! += by * sy;
    d[2]! += by * sz;
    if (far < 1e-5) return;
  }
}

/**
 * Two places may be nearly as good, and what is best would jump from one to the other: where it is far from the place before,
 * the best one near that is taken, if it is hardly worse.
 */
function goOn(
  d: Float64Array,
  before: ArrayLike<number>,
  limbs: readonly HeldLimb[],
  f: number,
  leg: number,
  seated: number,
): void {
  if (norm(d[0]! - before[0]!, d[1]! - before[1]!, d[2]! - before[2]!) < JUMP * leg) return;
  near.set(before);
  bestPlace(near, limbs, f, leg, seated);
  if (costOf(near, limbs, f, leg, seated) < HARDLY * costOf(d, limbs, f, leg, seated)) d.set(near);
}

const near = new Float64Array(3);

/** What bestPlace makes small. */
function costOf(d: Float64Array, limbs: readonly HeldLimb[], f: number, leg: number, seated: number): number {
  let sum = (STAY + SEATED * seated) * (norm(d[0]!, d[1]!, d[2]!) / leg) ** 2;
  for (const limb of limbs) {
    const w = limb.weight[f]!;
    if (w <= 0) continue;
    limbError(error, limb, f, d[0]!, d[1]!, d[2]!);
    for (const e of error) sum += w * e * e;
  }
  return sum;
}

/**
 * What a limb's bones do to their directions when its root is moved and its end is on its spot: both differences of unit
 * vectors, and what it lacks. The middle joint lies where its directions differ least (closed form).
 */
function limbError(out: Float64Array, limb: HeldLimb, f: number, dx: number, dy: number, dz: number): void {
  const o = 3 * f;
  const { root, middle, end, away, bones } = limb;
  const [a, b] = bones;
  const ux = (middle[o]! - root[o]!) / a;
  const uy = (middle[o + 1]! - root[o + 1]!) / a;
  const uz = (middle[o + 2]! - root[o + 2]!) / a;
  const vx = (end[o]! - middle[o]!) / b;
  const vy = (end[o + 1]! - middle[o + 1]!) / b;
  const vz = (end[o + 2]! - middle[o + 2]!) / b;
  const rx = end[o]! + away[o]! - root[o]! - dx;
  const ry = end[o + 1]! + away[o + 1]! - root[o + 1]! - dy;
  const rz = end[o + 2]! + away[o + 2]! - root[o + 2]! - dz;
  const far = norm(rx, ry, rz) || 1e-9;
  const full = FULL_REACH * (a + b);
  const r = Math.min(full, Math.max(far, Math.abs(a - b) + 1e-4 * full));
  const [qx, qy, qz] = [rx / far, ry / far, rz / far];
  const cos = Math.min(1, Math.max(-1, (a * a + r * r - b * b) / (2 * a * r)));
  const sin = Math.sqrt(1 - cos * cos);
  // across the leg, towards where the knee of the source is
  const m = a / b;
  let cx = ux - m * vx;
  let cy = uy - m * vy;
  let cz = uz - m * vz;
  const s = cx * qx + cy * qy + cz * qz;
  cx -= s * qx;
  cy -= s * qy;
  cz -= s * qz;
  const l = norm(cx, cy, cz) || 1e-9;
  const nx = cos * qx + (sin * cx) / l;
  const ny = cos * qy + (sin * cy) / l;
  const nz = cos * qz + (sin * cz) / l;
  out[0] = nx - ux;
  out[1] = ny - uy;
  out[2] = nz - uz;
  out[3] = (r * qx - a * nx) / b - vx;
  out[4] = (r * qy - a * ny) / b - vy;
  out[5] = (r * qz - a * nz) / b - vz;
  out[6] = far > full ? (LACK * (far - full)) / full : 0;
}
