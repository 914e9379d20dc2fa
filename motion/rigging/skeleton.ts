import { FINGERS, SIDES } from '../bodymap/slots';
import { smoothstep } from '../math/vec';
import { NORMAL_SPACE, type SkeletonRig } from '../rig/rig';
import type { Marks } from './marks';
import type { Shape } from './shape';
import { cubeAt, type Solid } from './solid';

type V3 = readonly [number, number, number];

/** Where every joint of the common body lies, in the body's frame. */
export type Places = Readonly<Record<string, V3>>;

/** The joints that a bare mesh gets, in no order. */
export const RIGGED_JOINTS = [
  'hips',
  'spine1',
  'spine2',
  'spine3',
  'neck1',
  'head',
  ...SIDES.flatMap((s) => ['collar', 'upperArm', 'forearm', 'hand'].map((part) => `${part}${s}`)),
  ...SIDES.flatMap((s) => ['thigh', 'shin', 'foot', 'toes'].map((part) => `${part}${s}`)),
] as const;

const mix = (a: V3, b: V3, t: number): V3 => [0, 1, 2].map((k) => a[k]! + t * (b[k]! - a[k]!)) as unknown as V3;
const minus = (a: V3, b: V3): V3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const length = (a: V3): number => Math.hypot(...a);
const plus = (a: V3, b: V3, t: number): V3 => [a[0] + t * b[0], a[1] + t * b[1], a[2] + t * b[2]];
const unit = (a: V3): V3 => plus([0, 0, 0], a, 1 / Math.max(1e-9, length(a)));

/** Shares of bodies of many builds, in heights: how far hip joints lie below the hips, and what the crotch says of them. */
const HIP_DROP = 0.019;
const ABOVE_CROTCH = 0.06;
/** From this far above the crotch on, a hips joint is the waist's little by little, and tells nothing of the hip joints. */
const HIGH_HIPS = 0.1;
const HIPS_RANGE = 0.03;
/** How far above the shoulders a head sits. */
const HEAD_RISE = 0.08;
/** Upper arm to forearm, thigh to shin. */
const UPPER_ARM = 1.1;
const THIGH = 1.05;
/** How far out shoulder joints lie, in half widths of the trunk, and how much that counts against the arm's own length. */
const SHOULDER_OUT = 1.05;
const BY_TRUNK = 0.7;

/**
 * All joints of the common body from ten marks and the body's shape: the marks are taken as they are, what lies between them
 * follows from proportions and from slices of the solid.
 */
export function placeJoints(
  solid: Solid,
  shape: Shape,
  marks: Required<Omit<Marks, 'head'>> & Pick<Marks, 'head'>,
): Places {
  const out: Record<string, V3> = { ...(marks as Places) };
  const { hips } = marks;
  const shoulders: V3[] = [];
  for (const s of SIDES) {
    const [knee, ankle] = [marks[`shin${s}`], marks[`foot${s}`]];
    out[`thigh${s}`] = hipJoint(hips, knee, ankle, shape);
    out[`toes${s}`] = toes(solid, ankle);
    const shoulder = shoulderJoint(solid, shape, hips, marks[`forearm${s}`], marks[`hand${s}`]);
    out[`upperArm${s}`] = shoulder;
    shoulders.push(shoulder);
  }
  const level = (shoulders[0]![1] + shoulders[1]![1]) / 2;
  const back: V3 = [(shoulders[0]![0] + shoulders[1]![0]) / 2, level, (shoulders[0]![2] + shoulders[1]![2]) / 2];
  const head = marks.head ?? headJoint(hips, back, shape);
  out.head = head;
  const neck: V3 = mix(back, head, 0.5);
  out.neck1 = neck;
  for (const [name, t] of [
    ['spine1', 0.12],
    ['spine2', 0.36],
    ['spine3', 0.61],
  ] as const)
    out[name] = mix(hips, neck, t);
  for (const [i, s] of SIDES.entries()) {
    const shoulder = shoulders[i]!;
    out[`collar${s}`] = [neck[0] + 0.22 * (shoulder[0] - neck[0]), shoulder[1] + 0.006, neck[2]];
  }
  return out;
}

/** Where the skull sits on the neck: by the neck's own place, and by how far above the shoulders a head sits. */
function headJoint(hips: V3, back: V3, { neck, neckAhead }: Shape): V3 {
  const ahead = [...neckAhead, back[2]].sort((a, b) => a - b)[1]!;
  return [hips[0], (neck + back[1] + HEAD_RISE) / 2, ahead];
}

function hipJoint(hips: V3, knee: V3, ankle: V3, { crotch }: Shape): V3 {
  const shin = length(minus(knee, ankle));
  let y = hips[1] - HIP_DROP;
  if (crotch !== undefined) {
    const high = smoothstep((y - crotch - HIGH_HIPS) / HIPS_RANGE);
    y += high * ((crotch + ABOVE_CROTCH + knee[1] + THIGH * shin) / 2 - y);
  }
  // along the leg, where it does not stand straight
  const reach = (y - knee[1]) / Math.max(1e-9, knee[1] - ankle[1]);
  const spread = 0.5 * Math.min(1.2, Math.max(0, reach));
  return [knee[0] + spread * (knee[0] - ankle[0]), y, hips[2]];
}

function shoulderJoint(solid: Solid, shape: Shape, hips: V3, elbow: V3, wrist: V3): V3 {
  const side = Math.sign(elbow[0] - hips[0]) || 1;
  const fore = length(minus(elbow, wrist));
  const byArm = plus(elbow, unit(minus(elbow, wrist)), UPPER_ARM * fore);
  const out = BY_TRUNK * SHOULDER_OUT * shape.halfTrunk + (1 - BY_TRUNK) * Math.abs(byArm[0] - hips[0]);
  const x = hips[0] + side * out;
  // below the skin by half the arm's own thickness
  const top = topOf(solid, x, elbow[2], Math.max(elbow[1], shape.armpit));
  const half = halfThickness(solid, mix(byArm, elbow, 0.5));
  const underSkin = top === undefined ? byArm[1] : top - half;
  return [x, (underSkin + Math.min(byArm[1], shape.neck)) / 2, elbow[2]];
}

/** Where the solid that is filled at a height ends above a spot; undefined where nothing is filled there. */
function topOf(solid: Solid, x: number, z: number, above: number): number | undefined {
  const { nx, ny, cell, low, cubes } = solid;
  let at = cubeAt(solid, [x, above, z]);
  let y = Math.floor(at / nx) % ny;
  // the first filled cube at or above
  while (y < ny && cubes[at] === 0) {
    at += nx;
    y++;
    if (y > ny - 1) return undefined;
  }
  while (y < ny && cubes[at] !== 0) {
    at += nx;
    y++;
  }
  return low[1] + cell * y;
}

/** Half the thickness of the solid about a point: the least of both directions across the body. */
function halfThickness(solid: Solid, at: V3): number {
  const { nx, ny, cell, cubes } = solid;
  const run = (stride: number): number => {
    const start = cubeAt(solid, at);
    if (cubes[start] === 0) return Number.POSITIVE_INFINITY;
    let n = 1;
    for (let i = start + stride; cubes[i] !== undefined && cubes[i] !== 0; i += stride) n++;
    for (let i = start - stride; cubes[i] !== undefined && cubes[i] !== 0; i -= stride) n++;
    return n;
  };
  const least = Math.min(run(nx), run(nx * ny));
  return Number.isFinite(least) ? (least * cell) / 2 : 0.035;
}

/** The ball of the foot: two thirds of the way from the ankle to the tip of the foot, near the ground. */
function toes(solid: Solid, ankle: V3): V3 {
  const { nx, ny, nz, cell, low, cubes } = solid;
  let tip = ankle[2];
  let [sum, count] = [0, 0];
  const reach = 0.05;
  for (let z = 0; z < nz; z++)
    for (let y = 0; y < ny && low[1] + cell * y < ankle[1]; y++)
      for (let x = 0; x < nx; x++) {
        const [px, pz] = [low[0] + cell * (x + 0.5), low[2] + cell * (z + 0.5)];
        if (!cubes[x + nx * (y + ny * z)] || Math.abs(px - ankle[0]) > reach || Math.abs(pz - ankle[2]) > 0.25)
          continue;
        tip = Math.max(tip, pz);
        if (pz > ankle[2] + 0.04) {
          sum += px;
          count++;
        }
      }
  const x = count > 0 ? ankle[0] + 0.5 * (sum / count - ankle[0]) : ankle[0];
  return [x, 0.3 * ankle[1], ankle[2] + 0.62 * (tip - ankle[2])];
}

const PARENTS: readonly (readonly [slot: string, parent: string])[] = [
  ['spine1', 'hips'],
  ['spine2', 'spine1'],
  ['spine3', 'spine2'],
  ['neck1', 'spine3'],
  ['head', 'neck1'],
  ...SIDES.flatMap(
    (s) =>
      [
        [`collar${s}`, 'spine3'],
        [`upperArm${s}`, `collar${s}`],
        [`forearm${s}`, `upperArm${s}`],
        [`hand${s}`, `forearm${s}`],
        [`thigh${s}`, 'hips'],
        [`shin${s}`, `thigh${s}`],
        [`foot${s}`, `shin${s}`],
        [`toes${s}`, `foot${s}`],
        ...FINGERS.flatMap((f) =>
          [1, 2, 3].map((k) => [`${f}${k}${s}`, k > 1 ? `${f}${k - 1}${s}` : `hand${s}`] as const),
        ),
      ] as const,
  ),
];

/**
 * A rig of the common body with its joints at these places, their axes along the body's. Joints are named by the slots they play.
 * @param places of all joints but those of fingers that are not there
 * @param tips by joint: where its bone ends, for head, hands, toes and the ends of fingers
 */
export function skeletonOf(places: Places, tips: Places): SkeletonRig {
  const joints = [['hips', undefined] as const, ...PARENTS.filter(([name]) => places[name])];
  const names = joints.map(([name]) => name);
  const n = names.length;
  const restT = new Float32Array(3 * n);
  const restR = new Float32Array(4 * n);
  const ends = new Float32Array(3 * n).fill(Number.NaN);
  joints.forEach(([name, parent], j) => {
    const from = parent === undefined ? [0, 0, 0] : places[parent]!;
    for (let k = 0; k < 3; k++) restT[3 * j + k] = places[name]![k]! - from[k]!;
    restR[4 * j + 3] = 1;
    const tip = tips[name];
    if (tip) for (let k = 0; k < 3; k++) ends[3 * j + k] = tip[k]! - places[name]![k]!;
  });
  const parents = Int16Array.from(joints, ([, p]) => (p === undefined ? -1 : names.indexOf(p)));
  return { kind: 'skeleton', names, parents, restT, restR, tips: ends, found: NORMAL_SPACE };
}
