import { crossOf } from '../math/vec';
import type { Marks } from './marks';
import { type Bounds, boundsOf, type Solid, type Surface, solidOf } from './solid';

/**
 * How a mesh's own space goes over into the body's: one unit is its height, y is up from the ground, z is ahead, x = 0 is the
 * middle. Rows of `turn` are the body's axes in the mesh's space; they lie along its axes.
 */
export interface BodyFrame {
  readonly turn: readonly number[];
  readonly scale: number;
  readonly origin: readonly [number, number, number];
}

type V3 = [number, number, number];

/** A point of the mesh in the body's frame. */
export function intoBody({ turn: m, scale, origin }: BodyFrame, [x, y, z]: readonly [number, number, number]): V3 {
  const p = [x - origin[0], y - origin[1], z - origin[2]];
  return [0, 1, 2].map((r) => scale * (m[3 * r]! * p[0]! + m[3 * r + 1]! * p[1]! + m[3 * r + 2]! * p[2]!)) as V3;
}

/** A point of the body's frame in the mesh's space. */
export function outOfBody({ turn: m, scale, origin }: BodyFrame, [x, y, z]: readonly [number, number, number]): V3 {
  return [0, 1, 2].map((c) => origin[c]! + (m[c]! * x + m[3 + c]! * y + m[6 + c]! * z) / scale) as V3;
}

/** Surfaces in the body's frame. */
export const surfacesInBody = (frame: BodyFrame, surfaces: readonly Surface[]): Surface[] =>
  surfaces.map(({ positions, indices }) => {
    const out = new Float32Array(positions.length);
    for (let i = 0; i < positions.length; i += 3)
      out.set(intoBody(frame, [positions[i]!, positions[i + 1]!, positions[i + 2]!]), i);
    return { positions: out, indices };
  });

const axis = (k: number, sign: number): V3 => [0, 1, 2].map((i) => (i === k ? sign : 0)) as V3;
/** The axis nearest to a direction. */
function nearestAxis(d: ArrayLike<number>): V3 {
  let k = 0;
  for (let i = 1; i < 3; i++) if (Math.abs(d[i]!) > Math.abs(d[k]!)) k = i;
  return axis(k, Math.sign(d[k]!) || 1);
}
const between = (a: ArrayLike<number>, b: ArrayLike<number>): V3 => [0, 1, 2].map((k) => a[k]! - b[k]!) as V3;

/** Which way a body stands: rows of BodyFrame's turn. */
export type BodyTurn = readonly number[];

/** Turned by a quarter: clockwise as seen from the front, as seen from its side with the front to the right, or about itself. */
export const QUARTERS = ['front', 'side', 'about'] as const;
export type Quarter = (typeof QUARTERS)[number];

/** A turn of the body with a quarter more. */
export function turnedBy(quarter: Quarter, turn: BodyTurn): BodyTurn {
  const [side, up, ahead] = [turn.slice(0, 3), turn.slice(3, 6), turn.slice(6, 9)] as [V3, V3, V3];
  const back = (row: V3): number[] => row.map((x) => (x === 0 ? 0 : -x));
  if (quarter === 'front') return [...up, ...back(side), ...ahead];
  if (quarter === 'side') return [...side, ...back(ahead), ...up];
  return [...ahead, ...up, ...back(side)];
}

/**
 * Finds the body's frame: by the marks where they tell up and left, by the shape where they do not. A body stands on the ground
 * of its file, if it stands on any; it is alike on both sides, or else stands along Y or Z; its feet are apart and its head is
 * one, and they reach ahead of its ankles.
 * @param told which way it stands, where that is known
 */
export function findBodyFrame(surfaces: readonly Surface[], marks: Marks = {}, told?: BodyTurn): BodyFrame {
  const bounds = boundsOf(surfaces);
  const size = [0, 1, 2].map((k) => bounds[3 + k]! - bounds[k]!);
  const turn = told ?? standing(surfaces, marks, bounds, size);
  const [side, up, ahead] = [turn.slice(0, 3), turn.slice(3, 6), turn.slice(6, 9)] as [V3, V3, V3];
  // the floor is the mesh's lowest point, the middle the hips' or the mesh's own
  const ends = (row: V3): [number, number] => {
    const k = row.findIndex((v) => v !== 0);
    const [a, b] = [row[k]! * bounds[k]!, row[k]! * bounds[3 + k]!];
    return [Math.min(a, b), Math.max(a, b)];
  };
  const [ground, top] = ends(up);
  const middle = marks.hips ?? [0, 1, 2].map((k) => (bounds[k]! + bounds[3 + k]!) / 2);
  const along = (row: V3): number => row[0] * middle[0]! + row[1] * middle[1]! + row[2] * middle[2]!;
  const [x, z] = [along(side), along(ahead)];
  const origin = [0, 1, 2].map((k) => side[k]! * x + up[k]! * ground + ahead[k]! * z) as V3;
  return { turn, scale: 1 / Math.max(1e-12, top - ground), origin };
}

function standing(surfaces: readonly Surface[], marks: Marks, bounds: Bounds, size: readonly number[]): BodyTurn {
  const rough = solidOf(surfaces, Math.max(...size) / 64, bounds);
  const byMarks = upFromMarks(marks);
  const left = leftFromMarks(marks);
  const even = evenAxis(rough);
  const up = byMarks ? nearestAxis(byMarks) : upFromShape(rough, bounds, size, even);
  const side = left
    ? nearestAxis(left.map((v, k) => (Math.abs(up[k]!) > 0.5 ? 0 : v)))
    : sideFromShape(rough, up, size, even);
  return [...side, ...up, ...crossOf(side, up)];
}

function upFromMarks({ hips, head, footL, footR, shinL, shinR }: Marks): V3 | undefined {
  const low = footL ?? footR ?? shinL ?? shinR;
  const high = head ?? hips;
  if (high && low) return between(high, low);
  if (head && hips) return between(head, hips);
  const [shin, foot] = shinL && footL ? [shinL, footL] : shinR && footR ? [shinR, footR] : [];
  return shin && foot ? between(shin, foot) : undefined;
}

function leftFromMarks(marks: Marks): V3 | undefined {
  for (const part of ['hand', 'forearm', 'shin', 'foot'] as const) {
    const [l, r] = [marks[`${part}L`], marks[`${part}R`]];
    if (l && r) return between(l, r);
  }
  if (marks.hips)
    for (const part of ['hand', 'forearm', 'shin', 'foot'] as const) {
      const [l, r] = [marks[`${part}L`], marks[`${part}R`]];
      if (l) return between(l, marks.hips);
      if (r) return between(marks.hips, r);
    }
  return undefined;
}

/** Cubes of a solid with their three numbers. */
function* filled({ nx, ny, cubes }: Solid): Generator<V3> {
  for (let i = 0; i < cubes.length; i++)
    if (cubes[i]) yield [i % nx, Math.floor(i / nx) % ny, Math.floor(i / (nx * ny))];
}

/** How unlike its mirror image a solid is across an axis, as a share of its cubes. */
function lopsided(solid: Solid, k: number): number {
  const size = [solid.nx, solid.ny, solid.nz];
  const stride = [1, solid.nx, solid.nx * solid.ny];
  let [all, odd] = [0, 0];
  for (const at of filled(solid)) {
    const other = [...at];
    other[k] = size[k]! - 1 - at[k]!;
    all++;
    if (!solid.cubes[other[0]! * stride[0]! + other[1]! * stride[1]! + other[2]! * stride[2]!]) odd++;
  }
  return all > 0 ? odd / all : 0;
}

/** What is less unlike its mirror image than this across an axis is alike on both sides. */
const EVEN = 0.2;
/** What begins so near to nought, in lengths of the axis, stands there. */
const ON_GROUND = 0.015;

/** The axis across which a body is alike on both sides; undefined for one in a pose. */
function evenAxis(solid: Solid): number | undefined {
  const all = [0, 1, 2].map((k) => lopsided(solid, k));
  const least = Math.min(...all);
  return least < EVEN ? all.indexOf(least) : undefined;
}

function upFromShape(solid: Solid, bounds: Bounds, size: readonly number[], even: number | undefined): V3 {
  const stands = [1, 2, 0].find((k) => k !== even && Math.abs(bounds[k]!) <= ON_GROUND * size[k]!);
  if (stands !== undefined) return axis(stands, 1);
  // files of bodies in a pose have them upright along Y, fewer along Z
  if (even === undefined) return axis(size[2]! > 1.25 * size[1]! ? 2 : 1, 1);
  const [a, b] = [0, 1, 2].filter((k) => k !== even) as [number, number];
  const up = size[a]! > size[b]! ? a : b;
  return axis(up, apart(solid, up, even, false) >= apart(solid, up, even, true) ? 1 : -1);
}

/** How empty the middle is near one end of an axis: between two feet it is. */
function apart(solid: Solid, up: number, side: number, fromTop: boolean): number {
  const size = [solid.nx, solid.ny, solid.nz];
  let [middle, all] = [0, 0];
  for (const at of filled(solid)) {
    const height = (fromTop ? size[up]! - at[up]! : at[up]!) / size[up]!;
    if (height > 0.22) continue;
    all++;
    if (Math.abs(at[side]! - (size[side]! - 1) / 2) < 0.02 * size[up]! + 1) middle++;
  }
  return all > 0 ? 1 - middle / all : 0;
}

/** Which way left is: feet reach ahead of the ankles, and left is where ahead and up say. */
function sideFromShape(solid: Solid, up: V3, size: readonly number[], even: number | undefined): V3 {
  const upAt = up.findIndex((v) => v !== 0);
  const others = [0, 1, 2].filter((k) => k !== upAt) as [number, number];
  const thin = size[others[0]]! < size[others[1]]! ? others[0] : others[1];
  const ahead = even === undefined || even === upAt ? thin : others[0] + others[1] - even;
  const count = [solid.nx, solid.ny, solid.nz];
  let [foot, feet, shin, shins] = [0, 0, 0, 0];
  for (const at of filled(solid)) {
    const height = (up[upAt]! > 0 ? at[upAt]! : count[upAt]! - at[upAt]!) / count[upAt]!;
    if (height < 0.055) {
      foot += at[ahead]!;
      feet++;
    } else if (height > 0.1 && height < 0.2) {
      shin += at[ahead]!;
      shins++;
    }
  }
  const sign = feet > 0 && shins > 0 && foot / feet < shin / shins ? -1 : 1;
  return crossOf(up, axis(ahead, sign));
}
