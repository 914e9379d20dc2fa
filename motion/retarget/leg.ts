import { basis64, mul64, mulInv64, norm, rotate64 } from '../math/fast';
import { clamp, smoothstep } from '../math/vec';

/** Scratch of one two-bone solve; all in the world. Filled by solveLeg. */
export interface LegTurns {
  /** Turn to put in front of the upper bone's world turn. */
  readonly upper: Float64Array;
  /** Turn to put in front of the lower bone's world turn. */
  readonly lower: Float64Array;
  /** 6: where the middle joint and the end come to, metres. */
  readonly places: Float64Array;
  /** Distance by which the goal stays out of reach, metres. */
  short: number;
}

/** Room for what solveLeg answers. */
export const newLegTurns = (): LegTurns => ({
  upper: new Float64Array(4),
  lower: new Float64Array(4),
  places: new Float64Array(6),
  short: 0,
});

interface Bent {
  readonly from: number;
  readonly over: number;
  readonly bothWays: boolean;
}
const KNEE: Bent = { from: 0.03, over: 0.12, bothWays: false };
export const ELBOW: Bent = { from: 0.004, over: 0.03, bothWays: true };

/** Largest share of a limb's full length that a solve may use. */
export const FULL_REACH = 0.9995;

const upperDir = new Float64Array(3);
const lowerDir = new Float64Array(3);
const axis = new Float64Array(3);
const toGoal = new Float64Array(3);
const newUpper = new Float64Array(3);
const newLower = new Float64Array(3);
const arc = new Float64Array(4);
const q = new Float64Array(4);
const third = new Float64Array(3);

/**
 * Closed-form two-bone limb: bends the middle joint to the wanted distance and swings the limb to the goal, keeping the
 * plane in which the limb is bent; where it is nearly straight the plane comes from the hinge.
 * After Tolani, Goswami, Badler, Real-time inverse kinematics techniques for anthropomorphic limbs, 2000.
 * @param root @param middle @param end places of the three joints now, 3 numbers each at the given offsets of p
 * @param hinge world axis about which the middle joint bends (thumb along it, fingers from upper to lower bone)
 * @param bent sine of the bend from which the limb's own plane counts, and over how much more it comes to count alone; a knee
 *   bends one way only, an elbow shows its plane sooner and may lie any way
 */
export function solveLeg(
  out: LegTurns,
  p: Float64Array,
  root: number,
  middle: number,
  end: number,
  goal: Float64Array,
  goalOffset: number,
  hinge: ArrayLike<number>,
  bent: Bent = KNEE,
): void {
  let a = 0;
  let b = 0;
  for (let k = 0; k < 3; k++) {
    upperDir[k] = p[middle + k]! - p[root + k]!;
    lowerDir[k] = p[end + k]! - p[middle + k]!;
    toGoal[k] = goal[goalOffset + k]! - p[root + k]!;
  }
  a = norm(upperDir[0]!, upperDir[1]!, upperDir[2]!) || 1e-9;
  b = norm(lowerDir[0]!, lowerDir[1]!, lowerDir[2]!) || 1e-9;
  const wanted = norm(toGoal[0]!, toGoal[1]!, toGoal[2]!) || 1e-9;
  const d = clamp(wanted, Math.abs(a - b) + 1e-4 * (a + b), FULL_REACH * (a + b));
  out.short = Math.abs(wanted - d);
  for (let k = 0; k < 3; k++) {
    upperDir[k] = upperDir[k]! / a;
    lowerDir[k] = lowerDir[k]! / b;
    toGoal[k] = toGoal[k]! / wanted;
  }
  // (1) the bending axis: as the limb is bent now, or the hinge where it is straight
  const cx = upperDir[1]! * lowerDir[2]! - upperDir[2]! * lowerDir[1]!;
  const cy = upperDir[2]! * lowerDir[0]! - upperDir[0]! * lowerDir[2]!;
  const cz = upperDir[0]! * lowerDir[1]! - upperDir[1]! * lowerDir[0]!;
  const bend = norm(cx, cy, cz);
  const facing = cx * hinge[0]! + cy * hinge[1]! + cz * hinge[2]!;
  const trust = facing > 0 || bent.bothWays ? smoothstep((bend - bent.from) / bent.over) : 0;
  axis[0] = (1 - trust) * hinge[0]! + (bend > 0 ? (trust * cx) / bend : 0);
  axis[1] = (1 - trust) * hinge[1]! + (bend > 0 ? (trust * cy) / bend : 0);
  axis[2] = (1 - trust) * hinge[2]! + (bend > 0 ? (trust * cz) / bend : 0);
  // (2) swing that axis with the limb's own swing from its present end to the goal
  for (let k = 0; k < 3; k++) third[k] = p[end + k]! - p[root + k]!;
  arcInto(arc, third, toGoal);
  rotate64(newUpper, 0, arc, 0, axis, 0);
  perpendicular(newUpper, toGoal);
  const nx = newUpper[0]!;
  const ny = newUpper[1]!;
  const nz = newUpper[2]!;
  // (3) the middle joint lies ahead of the line to the goal: goal direction × axis
  const mx = toGoal[1]! * nz - toGoal[2]! * ny;
  const my = toGoal[2]! * nx - toGoal[0]! * nz;
  const mz = toGoal[0]! * ny - toGoal[1]! * nx;
  const cos = clamp((a * a + d * d - b * b) / (2 * a * d), -1, 1);
  const sin = Math.sqrt(1 - cos * cos);
  newUpper[0] = cos * toGoal[0]! + sin * mx;
  newUpper[1] = cos * toGoal[1]! + sin * my;
  newUpper[2] = cos * toGoal[2]! + sin * mz;
  for (let k = 0; k < 3; k++) {
    newLower[k] = (d * toGoal[k]! - a * newUpper[k]!) / b;
    out.places[k] = p[root + k]! + a * newUpper[k]!;
    out.places[3 + k] = p[root + k]! + d * toGoal[k]!;
  }
  third[0] = nx;
  third[1] = ny;
  third[2] = nz;
  frameChange(out.upper, upperDir, axis, newUpper, third);
  frameChange(out.lower, lowerDir, axis, newLower, third);
}

/** Turns a solved limb about the line from its root to its end, radians; the end stays. @param p @param root as for solveLeg */
export function swivelLeg(out: LegTurns, p: Float64Array, root: number, angle: number): void {
  const { places } = out;
  for (let k = 0; k < 3; k++) third[k] = places[3 + k]! - p[root + k]!;
  const s = Math.sin(angle / 2) / (norm(third[0]!, third[1]!, third[2]!) || 1);
  for (let k = 0; k < 3; k++) arc[k] = s * third[k]!;
  arc[3] = Math.cos(angle / 2);
  for (let k = 0; k < 3; k++) third[k] = places[k]! - p[root + k]!;
  rotate64(third, 0, arc, 0, third, 0);
  for (let k = 0; k < 3; k++) places[k] = p[root + k]! + third[k]!;
  mul64(out.upper, 0, arc, 0, out.upper, 0);
  mul64(out.lower, 0, arc, 0, out.lower, 0);
}

const x0 = new Float64Array(3);
const y0 = new Float64Array(3);
const z0 = new Float64Array(3);
const q0 = new Float64Array(4);

/** Turn that takes (direction, axis) to (newDirection, newAxis), directions exactly, axes as far as they are across. */
function frameChange(
  dst: Float64Array,
  direction: Float64Array,
  across: Float64Array,
  newDirection: Float64Array,
  newAcross: Float64Array,
): void {
  frame(q0, direction, across);
  frame(q, newDirection, newAcross);
  mulInv64(dst, 0, q, 0, q0, 0);
}

function frame(dst: Float64Array, direction: Float64Array, across: Float64Array): void {
  for (let k = 0; k < 3; k++) {
    y0[k] = direction[k]!;
    x0[k] = across[k]!;
  }
  perpendicular(x0, y0);
  z0[0] = x0[1]! * y0[2]! - x0[2]! * y0[1]!;
  z0[1] = x0[2]! * y0[0]! - x0[0]! * y0[2]!;
  z0[2] = x0[0]! * y0[1]! - x0[1]! * y0[0]!;
  basis64(dst, x0, y0, z0);
}

/** Takes out of v what lies along the unit vector u and makes it unit length. */
function perpendicular(v: Float64Array, u: Float64Array): void {
  const along = v[0]! * u[0]! + v[1]! * u[1]! + v[2]! * u[2]!;
  for (let k = 0; k < 3; k++) v[k] = v[k]! - along * u[k]!;
  const l = norm(v[0]!, v[1]!, v[2]!);
  if (l < 1e-9) {
    // along u: any direction across
    const flip = Math.abs(u[0]!) < 0.7;
    v[0] = flip ? 0 : -u[1]!;
    v[1] = flip ? -u[2]! : u[0]!;
    v[2] = flip ? u[1]! : 0;
    perpendicular(v, u);
    return;
  }
  for (let k = 0; k < 3; k++) v[k] = v[k]! / l;
}

function arcInto(dst: Float64Array, a: Float64Array, b: Float64Array): void {
  const la = norm(a[0]!, a[1]!, a[2]!) || 1e-9;
  const c = (a[0]! * b[0]! + a[1]! * b[1]! + a[2]! * b[2]!) / la;
  if (c < -0.9999) {
    dst.fill(0);
    dst[3] = 1;
    return;
  }
  const x = (a[1]! * b[2]! - a[2]! * b[1]!) / la;
  const y = (a[2]! * b[0]! - a[0]! * b[2]!) / la;
  const z = (a[0]! * b[1]! - a[1]! * b[0]!) / la;
  const w = 1 + c;
  const l = Math.sqrt(x * x + y * y + z * z + w * w);
  dst[0] = x / l;
  dst[1] = y / l;
  dst[2] = z / l;
  dst[3] = w / l;
}
