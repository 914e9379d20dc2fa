import { type BodyMap, chainOf, jointOf } from '../bodymap/slots';
import { goesOnFour, limbEnds } from '../bodymap/stance';
import { stiffLimbs } from '../bodymap/stiff-limbs';
import { basisQuat, invertQuat, mulQuat } from '../math/quat';
import { length3, normalize3 } from '../math/vec';
import { type Motion, transformMotion } from '../motion/motion';
import type { Figure } from '../rig/figure';
import { type Axis, type FoundSpace, type SkeletonRig, tipOf, transformRig, type WorldPose } from '../rig/rig';

const AXES: { axis: Axis; v: [number, number, number] }[] = [
  { axis: '+X', v: [1, 0, 0] },
  { axis: '-X', v: [-1, 0, 0] },
  { axis: '+Y', v: [0, 1, 0] },
  { axis: '-Y', v: [0, -1, 0] },
  { axis: '+Z', v: [0, 0, 1] },
  { axis: '-Z', v: [0, 0, -1] },
];
const UNITS: { scale: number; name: string; prior: number }[] = [
  { scale: 1, name: 'metres', prior: 0 },
  { scale: 0.01, name: 'centimetres', prior: 0 },
  { scale: 0.0254, name: 'inches', prior: 0.1 },
  { scale: 0.001, name: 'millimetres', prior: 0.1 },
  { scale: 0.3048, name: 'feet', prior: 0.25 },
  { scale: 0.0254 / 0.45, name: 'units of 0.45 to the inch', prior: 0.15 },
  { scale: 0.1, name: 'decimetres', prior: 0.3 },
];
const USUAL_HEIGHT = 1.65;

const nearestAxis = (v: ArrayLike<number>): { axis: Axis; v: [number, number, number]; share: number } => {
  const l = length3(v, 0) || 1;
  return AXES.map((a) => ({ ...a, share: (a.v[0] * v[0]! + a.v[1] * v[1]! + a.v[2] * v[2]!) / l })).sort(
    (a, b) => b.share - a.share,
  )[0]!;
};

/** Ground-side and top-side centre of a mapped body in a pose; of one on four legs also the way it looks. */
function ends(
  rig: SkeletonRig,
  map: BodyMap,
  pose: WorldPose,
): { low: number[]; high: number[]; ahead?: number[] } | undefined {
  const mean = (joints: number[]): number[] =>
    [0, 1, 2].map((k) => joints.reduce((s, j) => s + pose.p[3 * j + k]!, 0) / joints.length);
  const feet = ['footL', 'footR', 'shinL', 'shinR']
    .map((s) => jointOf(map, s))
    .filter((j) => j >= 0)
    .slice(0, 2);
  const hips = jointOf(map, 'hips');
  const head = [jointOf(map, 'head'), chainOf(map, 'spine').at(-1) ?? -1].find((j) => j >= 0);
  const soles = stiffLimbs(map).flatMap(({ kind, joint }) => (kind === 'leg' && tipOf(rig, pose, joint)) || []);
  const stiff = soles.length === 6 ? [0, 1, 2].map((k) => (soles[k]! + soles[3 + k]!) / 2) : undefined;
  const low = feet.length > 0 ? mean(feet) : (stiff ?? (hips >= 0 ? mean([hips]) : undefined));
  const high = head !== undefined ? mean([head]) : feet.length > 0 && hips >= 0 ? mean([hips]) : undefined;
  if (!low || !high || rig.names.length < 2) return undefined;
  const limbs = limbEnds(map, pose);
  if (limbs && goesOnFour(limbs)) {
    const middle = (a: readonly number[], b: readonly number[]): number[] => a.map((x, k) => (x + b[k]!) / 2);
    return {
      low: middle(limbs.feet, limbs.hands),
      high: middle(limbs.hips, limbs.shoulders),
      ahead: limbs.shoulders.map((x, k) => x - limbs.hips[k]!),
    };
  }
  return { low, high };
}

/** How upright a pose stands, 1 for a straight standing body: used to choose between a zero pose and a first frame. */
export function standing(rig: SkeletonRig, map: BodyMap, pose: WorldPose): number {
  const e = ends(rig, map, pose);
  if (!e) return 0;
  let bones = 0;
  const at = (j: number): number[] => [...pose.p.subarray(3 * j, 3 * j + 3)];
  const add = (a: number[], b: number[]): void => {
    bones += Math.hypot(a[0]! - b[0]!, a[1]! - b[1]!, a[2]! - b[2]!);
  };
  const leg = ['hips', 'thighL', 'shinL', 'footL'].map((s) => jointOf(map, s)).filter((j) => j >= 0);
  for (let i = 1; i < leg.length; i++) add(at(leg[i]!), at(leg[i - 1]!));
  const trunk = [jointOf(map, 'hips'), ...chainOf(map, 'spine'), ...chainOf(map, 'neck'), jointOf(map, 'head')].filter(
    (j) => j >= 0,
  );
  for (let i = 1; i < trunk.length; i++) add(at(trunk[i]!), at(trunk[i - 1]!));
  const tall = Math.hypot(e.high[0]! - e.low[0]!, e.high[1]! - e.low[1]!, e.high[2]! - e.low[2]!);
  return bones > 0 ? tall / bones : 0;
}

export interface SpaceAnswer {
  readonly found: FoundSpace;
  /** Turn and scale that bring the file into metres, Y up, facing +Z. */
  readonly turn: number[];
  readonly scale: number;
  readonly warnings: string[];
}

/** Extent of a pose along a direction, joints and tips, in the pose's units. */
export function extent(rig: SkeletonRig, pose: WorldPose, up: readonly number[]): { low: number; high: number } {
  let low = Number.POSITIVE_INFINITY;
  let high = Number.NEGATIVE_INFINITY;
  const take = (x: number, y: number, z: number): void => {
    const h = x * up[0]! + y * up[1]! + z * up[2]!;
    low = Math.min(low, h);
    high = Math.max(high, h);
  };
  rig.names.forEach((_, j) => {
    take(pose.p[3 * j]!, pose.p[3 * j + 1]!, pose.p[3 * j + 2]!);
    const tip = tipOf(rig, pose, j);
    if (tip) take(...tip);
  });
  return { low, high };
}

/**
 * Reads units, up axis and facing off a standing pose. Up is feet to head; facing is where the toes point, else across
 * the hips; the unit is the customary one that makes the body nearest to a person's height.
 * @param statedMetres the format promises metres, which is believed unless the body would be absurd (under 0.2 or over 6 m).
 */
export function findSpace(rig: SkeletonRig, map: BodyMap, pose: WorldPose, statedMetres: boolean): SpaceAnswer {
  const warnings: string[] = [];
  const e = ends(rig, map, pose);
  const upVector = e ? [e.high[0]! - e.low[0]!, e.high[1]! - e.low[1]!, e.high[2]! - e.low[2]!] : [0, 1, 0];
  const up = nearestAxis(upVector);
  if (!e) warnings.push('No body was recognised, so Y is taken as up and +Z as front.');
  const front = [0, 0, 0];
  for (const side of ['L', 'R']) {
    const foot = jointOf(map, `foot${side}`);
    const toes = jointOf(map, `toes${side}`);
    if (foot < 0) continue;
    const end = toes >= 0 ? [...pose.p.subarray(3 * toes, 3 * toes + 3)] : tipOf(rig, pose, foot);
    if (end) for (let k = 0; k < 3; k++) front[k] = front[k]! + end[k]! - pose.p[3 * foot + k]!;
  }
  const flatten = (v: number[]): void => {
    const along = v[0]! * up.v[0] + v[1]! * up.v[1] + v[2]! * up.v[2];
    for (let k = 0; k < 3; k++) v[k] = v[k]! - along * up.v[k]!;
  };
  if (e?.ahead) front.splice(0, 3, ...e.ahead);
  flatten(front);
  const size = extent(rig, pose, up.v);
  const tall = size.high - size.low;
  if (length3(front, 0) < 0.02 * tall) {
    const l = jointOf(map, 'thighL');
    const r = jointOf(map, 'thighR');
    if (l >= 0 && r >= 0) {
      const across = [0, 1, 2].map((k) => pose.p[3 * l + k]! - pose.p[3 * r + k]!);
      front[0] = across[1]! * up.v[2] - across[2]! * up.v[1];
      front[1] = across[2]! * up.v[0] - across[0]! * up.v[2];
      front[2] = across[0]! * up.v[1] - across[1]! * up.v[0];
      flatten(front);
    }
  }
  if (normalize3(front, 0) === 0) {
    const spare = nearestAxis(up.axis === '+Z' || up.axis === '-Z' ? [0, -1, 0] : [0, 0, 1]);
    for (let k = 0; k < 3; k++) front[k] = spare.v[k]!;
    if (e) warnings.push(`Which way the body faces could not be told; ${spare.axis} was taken.`);
  }
  const facing = nearestAxis(front);
  if (facing.share < 0.9) warnings.push('The body stands askew to the axes; the nearest axis was taken as its front.');
  const unit = unitOf(tall, statedMetres, warnings);
  // columns of the file's frame: left, up, front; its inverse turns the file upright
  const left = [
    up.v[1] * facing.v[2] - up.v[2] * facing.v[1],
    up.v[2] * facing.v[0] - up.v[0] * facing.v[2],
    up.v[0] * facing.v[1] - up.v[1] * facing.v[0],
  ];
  const turn = [0, 0, 0, 1];
  basisQuat(turn, 0, left, up.v, facing.v);
  invertQuat(turn, 0, turn, 0);
  return {
    found: {
      unitScale: unit.scale,
      unitWhy: unit.why,
      upAxis: up.axis,
      facing: facing.axis,
      certainty: e ? 'measured' : 'assumed',
    },
    turn,
    scale: unit.scale,
    warnings,
  };
}

function unitOf(tall: number, statedMetres: boolean, warnings: string[]): { scale: number; why: string } {
  if (!(tall > 0)) return { scale: 1, why: 'metres; the rig has no height to tell by' };
  if (statedMetres && tall >= 0.2 && tall <= 6) return { scale: 1, why: 'metres, as the format states' };
  const best = UNITS.map((u) => ({ ...u, gap: Math.abs(Math.log((tall * u.scale) / USUAL_HEIGHT)) + u.prior })).sort(
    (a, b) => a.gap - b.gap,
  )[0]!;
  const height = tall * best.scale;
  if (height < 0.5 || height > 3.5) {
    const scale = USUAL_HEIGHT / tall;
    warnings.push(
      `The body is ${tall.toPrecision(3)} units tall, which fits no customary unit; it was scaled to ${USUAL_HEIGHT} m. Correct the scale if that is wrong.`,
    );
    return { scale, why: `assumed: ${USUAL_HEIGHT} m tall` };
  }
  if (statedMetres)
    warnings.push(
      `The format means metres, but that would make the body ${tall.toPrecision(3)} m tall; it was read as ${best.name}.`,
    );
  return { scale: best.scale, why: `${best.name}: the body is then ${height.toFixed(2)} m tall` };
}

export interface Normalized {
  readonly rig: SkeletonRig;
  readonly motions: Motion[];
  readonly figure: Figure | undefined;
}

/** Brings rig, motions and figure into metres, Y up, facing +Z. Nothing is copied where nothing changes. */
export function applySpace(
  rig: SkeletonRig,
  motions: readonly Motion[],
  figure: Figure | undefined,
  answer: SpaceAnswer,
): Normalized {
  const { turn, scale, found } = answer;
  if (scale === 1 && Math.abs(turn[3]!) > 1 - 1e-9) return { rig: { ...rig, found }, motions: [...motions], figure };
  return {
    rig: transformRig(rig, turn, scale, found),
    motions: motions.map((m) => transformMotion(rig, m, turn, scale)),
    figure: figure && {
      ...figure,
      meshes: figure.meshes.map((mesh) => ({
        ...mesh,
        positions: turned(mesh.positions, turn, scale),
        normals: mesh.normals && turned(mesh.normals, turn, 1),
        shapes: mesh.shapes.map((s) => ({ ...s, positions: turned(s.positions, turn, scale) })),
      })),
    },
  };
}

function turned(values: Float32Array, q: number[], scale: number): Float32Array {
  const out = new Float32Array(values.length);
  const p = [0, 0, 0, 0];
  const back = [0, 0, 0, 1];
  invertQuat(back, 0, q, 0);
  for (let o = 0; o < values.length; o += 3) {
    const v = [values[o]!, values[o + 1]!, values[o + 2]!, 0];
    mulQuat(p, 0, q, 0, v, 0);
    mulQuat(p, 0, p, 0, back, 0);
    for (let k = 0; k < 3; k++) out[o + k] = p[k]! * scale;
  }
  return out;
}
