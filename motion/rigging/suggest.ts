import { SIDES, type Side } from '../bodymap/slots';
import { flood } from './flood';
import type { MarkSlot } from './marks';
import type { Shape } from './shape';
import { cubeAt, middleOf, type Solid } from './solid';

type V3 = readonly [number, number, number];
export type Suggested = Readonly<Partial<Record<MarkSlot, V3>>>;

/** Shares of bodies of many builds, in heights. */
const HIPS_ABOVE_CROTCH = 0.085;
const USUAL_HIPS = 0.53;
const ANKLE = 0.053;
/** How far up from ankle to hip joint the knee lies. */
const KNEE = 0.51;
/** How far from the finger tips to the shoulder wrist and elbow lie. */
const WRIST = 0.25;
const ELBOW = 0.6;

/** Where the marks would go by the body's shape alone, in its frame; what the shape does not show is left out. */
export function suggestMarks(solid: Solid, shape: Shape): Suggested {
  const hipHeight = shape.crotch === undefined ? USUAL_HIPS : shape.crotch + HIPS_ABOVE_CROTCH;
  const out: Partial<Record<MarkSlot, V3>> = {};
  const trunk = sliceMiddle(solid, hipHeight, (x) => Math.abs(x) < 0.15);
  const hips: V3 = [0, hipHeight, trunk?.[2] ?? 0];
  out.hips = hips;
  const thigh = hipHeight - 0.02;
  // one lump down to the ground has no feet to be seen
  const apart = sliceMiddle(solid, 1.3 * ANKLE, (x) => Math.abs(x) < solid.cell) === undefined;
  for (const side of SIDES) {
    const s = side === 'L' ? 1 : -1;
    const own = (x: number): boolean => s * x > 0.004 && s * x < 0.3;
    const foot = sliceMiddle(solid, 1.3 * ANKLE, own);
    const knee = sliceMiddle(solid, ANKLE + KNEE * (thigh - ANKLE), own);
    if (foot && apart) out[`foot${side}`] = [foot[0], ANKLE, foot[2]];
    if (knee && apart) out[`shin${side}`] = knee;
    const arm = armLine(solid, shape, hips, side);
    if (arm) {
      out[`hand${side}`] = pointAlong(arm, WRIST);
      out[`forearm${side}`] = pointAlong(arm, ELBOW);
    }
  }
  // what hangs together with the hips by no way through the body is no part of it
  const body = flood(solid, [[nearestFilled(solid, cubeAt(solid, hips)), 0]]);
  for (const slot of Object.keys(out) as MarkSlot[])
    if (!Number.isFinite(body.far[nearestFilled(solid, cubeAt(solid, out[slot]!))]!)) delete out[slot];
  return out;
}

/** The middle of what is filled at a height, among the columns that count. */
function sliceMiddle(solid: Solid, height: number, counts: (x: number) => boolean): V3 | undefined {
  const { nx, ny, nz, cell, low, cubes } = solid;
  const y = Math.min(ny - 1, Math.max(0, Math.floor((height - low[1]) / cell)));
  const sum = [0, 0];
  let n = 0;
  for (let z = 0; z < nz; z++)
    for (let x = 0; x < nx; x++) {
      const at = low[0] + cell * (x + 0.5);
      if (!cubes[x + nx * (y + ny * z)] || !counts(at)) continue;
      sum[0]! += at;
      sum[1]! += low[2] + cell * (z + 0.5);
      n++;
    }
  return n > 0 ? [sum[0]! / n, height, sum[1]! / n] : undefined;
}

/**
 * The middle line of an arm, from the finger tips (0) to the shoulder (1). The tips are what is farthest from the trunk by ways
 * through the body above the legs; from there the line runs through the middles of all that is equally far from them.
 */
function armLine(solid: Solid, shape: Shape, hips: V3, side: Side): readonly V3[] | undefined {
  const s = side === 'L' ? 1 : -1;
  const legs = shape.crotch ?? 0.45;
  const trunk = aboveHeight(solid, legs);
  const chest = cubeAt(solid, [0, (hips[1] + shape.neck) / 2, hips[2]]);
  const from = flood(trunk, [[nearestFilled(solid, chest), 0]]);
  let tip = -1;
  const shoulder = SHOULDER * shape.halfTrunk;
  for (let i = 0; i < solid.cubes.length; i++) {
    if (!solid.cubes[i] || !Number.isFinite(from.far[i]!)) continue;
    const [x, y] = middleOf(solid, i);
    if (s * x < shoulder || y > shape.neck + 0.08) continue;
    if (tip < 0 || from.far[i]! > from.far[tip]!) tip = i;
  }
  if (tip < 0) return undefined;
  const back = flood(trunk, [[tip, 0]]);
  const sums: { x: number; y: number; z: number; n: number }[] = [];
  for (let i = 0; i < solid.cubes.length; i++) {
    const d = back.far[i]!;
    if (!Number.isFinite(d) || d * solid.cell > LONGEST) continue;
    const [x, y, z] = middleOf(solid, i);
    if (s * x < shoulder) continue;
    const bin = Math.round(d / 2);
    sums[bin] ??= { x: 0, y: 0, z: 0, n: 0 };
    const at = sums[bin]!;
    at.x += x;
    at.y += y;
    at.z += z;
    at.n++;
  }
  const line: V3[] = [];
  for (const at of sums) {
    if (!at) break;
    line.push([at.x / at.n, at.y / at.n, at.z / at.n]);
    // the shoulder is reached where the arm's middle is no farther out than the trunk, or as high as it gets
    if (s * line.at(-1)![0] < shoulder + 1.5 * solid.cell) break;
  }
  // a line this long runs along something that the hand holds
  if (2 * line.length * solid.cell > LONGEST) return undefined;
  const out = Math.max(...line.map((p) => s * p[0]));
  if (line.length < 6 || out < shoulder + BULGE || line.at(-1)![1] < shape.armpit - LOW) return undefined;
  return line;
}

/** @param t from the line's beginning, 0, to its end, 1, in equal steps */
function pointAlong(line: readonly V3[], t: number): V3 {
  const at = t * (line.length - 1);
  const i = Math.min(line.length - 2, Math.floor(at));
  return [0, 1, 2].map((k) => line[i]![k]! + (at - i) * (line[i + 1]![k]! - line[i]![k]!)) as unknown as V3;
}

/** What of a body lies above a height. */
function aboveHeight(solid: Solid, height: number): Solid {
  const { nx, ny, nz, cell, low } = solid;
  const cubes = solid.cubes.slice();
  const until = Math.min(ny, Math.max(0, Math.floor((height - low[1]) / cell + 0.5)));
  for (let z = 0; z < nz; z++) cubes.fill(0, nx * ny * z, nx * (ny * z + until));
  return { ...solid, cubes };
}

/** What comes out no farther than this beyond the trunk is a bulge of it, and so is what ends so far below the armpits: heights. */
const BULGE = 0.028;
const LOW = 0.12;
/** No arm is longer than this, heights. */
const LONGEST = 0.75;
/** How far out an arm begins, in half widths of the trunk. */
const SHOULDER = 1.05;

/** A cube itself where it is filled, else the nearest one along the body's depth that is. */
function nearestFilled({ nx, ny, nz, cubes }: Solid, cube: number): number {
  const layer = nx * ny;
  for (let d = 0; d < nz; d++) for (const i of [cube + d * layer, cube - d * layer]) if (cubes[i]) return i;
  return cube;
}
