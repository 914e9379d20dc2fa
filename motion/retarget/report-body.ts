import type { Party } from '../body/party';
import { pelvisOf } from '../bodymap/body-root';
import { chainOf, jointOf, SIDES, type Slot, slotLabel } from '../bodymap/slots';
import { mulInv64, norm, rotate64 } from '../math/fast';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import { restPose } from '../rig/rig';
import type { RetargetPlan } from './plan';

/** The body as a whole: a trunk that lies elsewhere than the source's, parts that have come apart. */
export interface BodyMeasure {
  /** Largest angle by which trunk or head point elsewhere than the source's, degrees. */
  readonly trunkDeg: number;
  readonly trunkFrame: number;
  readonly trunkPart: 'trunk' | 'head';
  /** How much farther parts that belong together are from each other than at rest at worst, as a share of it. */
  readonly apart: number;
  readonly apartFrame: number;
  readonly apartParts: readonly [string, string];
  /** F: the angle over time, degrees. */
  readonly lane: Float32Array;
  /** F: how far parts have come apart over time, as a share of their distance. */
  readonly apartLane: Float32Array;
}

const DEG = 180 / Math.PI;
/** Bones of the limbs: they are as long as at rest, whatever happens. */
const BONES: readonly (readonly [Slot, Slot])[] = SIDES.flatMap((s): [Slot, Slot][] => [
  [`thigh${s}`, `shin${s}`],
  [`shin${s}`, `foot${s}`],
  [`upperArm${s}`, `forearm${s}`],
  [`forearm${s}`, `hand${s}`],
]);
/** Parts between which a trunk or a neck lies. */
const TOGETHER: readonly (readonly [Point, Point])[] = [
  ['pelvis', 'chest'],
  ['chest', 'head'],
];
type Point = 'pelvis' | 'chest' | 'head';
/**
 * Compares where the body's pelvis, chest and head lie with how the source's are turned: a trunk points somewhere between
 * where its pelvis and where its chest would carry it, however many joints bend it. Their distances never grow. Whatever the joints' turns say: a body that is torn, folded or upside down shows here.
 */
export function measureWhole(plan: RetargetPlan, source: Motion, result: Motion): BodyMeasure {
  const lane = new Float32Array(result.frameCount);
  const apartLane = new Float32Array(result.frameCount);
  const own = pointsOf(plan.target);
  const none: BodyMeasure = {
    trunkDeg: 0,
    trunkFrame: 0,
    trunkPart: 'trunk',
    apart: 0,
    apartFrame: 0,
    apartParts: ['pelvis', 'chest'],
    lane,
    apartLane,
  };
  if (!own || jointOf(plan.source.map, 'hips') < 0) return none;
  const rest = plan.target.pose ?? restPose(plan.target.rig);
  const bones = BONES.flatMap(([from, to]) => {
    const [i, j] = [jointOf(plan.target.map, from), jointOf(plan.target.map, to)];
    return i < 0 || j < 0 ? [] : [{ from, to, i, j, length: between(rest.p, i, j) }];
  }).filter((bone) => bone.length > 1e-4);
  const { parents } = plan.target.rig;
  const offsets = Float64Array.from(plan.target.rig.restT);
  const turns = turnsOf(plan.source, chainOf(plan.target.map, 'spine').length < 2);
  const a = new ChainReader(plan.source.rig, source, Object.values(turns).flat());
  const b = new ChainReader(plan.target.rig, result, [
    ...Object.values(own).flat(),
    ...bones.flatMap(({ i, j }) => [i, j]),
  ]);
  const segments = TOGETHER.filter(([x, y]) => own[x].length * own[y].length > 0).map(([x, y]) => {
    const at = new Float64Array(3);
    direction(at, rest.p, own[x], own[y]);
    const joints = y === 'head' ? turns.head : turns.trunk;
    return {
      x,
      y,
      at,
      length: norm(at[0]!, at[1]!, at[2]!),
      joints,
      directions: joints.map(() => new Float64Array(3)),
    };
  });
  // a joint that hangs from the other directly has one place; with joints between, the bone is at most as long as at rest
  const hung = new Float64Array(3);
  const outOfPlace = (i: number, j: number, p: Float64Array, r: Float64Array): number => {
    if (parents[j] !== i) return Math.max(0, between(p, i, j) - between(rest.p, i, j));
    rotate64(hung, 0, r, 4 * i, offsets, 3 * j);
    return norm(
      p[3 * j]! - p[3 * i]! - hung[0]!,
      p[3 * j + 1]! - p[3 * i + 1]! - hung[1]!,
      p[3 * j + 2]! - p[3 * i + 2]! - hung[2]!,
    );
  };
  const now = new Float64Array(3);
  const q = new Float64Array(4);
  let out = none;
  for (let f = 0; f < result.frameCount; f++) {
    const { r } = a.at(Math.min(f, source.frameCount - 1));
    const { p, r: r2 } = b.at(f);
    for (const { x, y, at, length, joints, directions } of segments) {
      direction(now, p, own[x], own[y]);
      // where it would point if it turned with each of the source's joints there: bent as the source is, it lies between two
      joints.forEach((j, i) => {
        mulInv64(q, 0, r, 4 * j, plan.sourceAligned, 4 * j);
        rotate64(directions[i]!, 0, q, 0, at, 0);
      });
      let off = angle(now, directions[0]!);
      for (let i = 0; i < directions.length; i++)
        for (let k = i + 1; k < directions.length; k++)
          off = Math.min(
            off,
            (angle(now, directions[i]!) + angle(now, directions[k]!) - angle(directions[i]!, directions[k]!)) / 2,
          );
      off = Math.max(0, off);
      if (off > lane[f]!) lane[f] = off;
      if (off > out.trunkDeg)
        out = { ...out, trunkDeg: off, trunkFrame: f, trunkPart: y === 'head' ? 'head' : 'trunk' };
      const apart = norm(now[0]!, now[1]!, now[2]!) / length - 1;
      if (length > 1e-4 && apart > apartLane[f]!) apartLane[f] = apart;
      if (length > 1e-4 && apart > out.apart) out = { ...out, apart, apartFrame: f, apartParts: [x, y] };
    }
    for (const { from, to, i, j, length } of bones) {
      const apart = outOfPlace(i, j, p, r2) / length;
      if (apart > apartLane[f]!) apartLane[f] = apart;
      if (apart > out.apart) out = { ...out, apart, apartFrame: f, apartParts: [slotLabel(from), slotLabel(to)] };
    }
  }
  return out;
}

/** Joints of the source that turn trunk and head; where one joint is the whole spine, the way up to the head holds the trunk. */
function turnsOf({ rig, map }: Party, oneSpine: boolean): { trunk: number[]; head: number[] } {
  const pelvis = Math.max(0, pelvisOf(rig, map));
  const spine = chainOf(map, 'spine');
  const head = jointOf(map, 'head');
  return {
    trunk: [pelvis, ...spine],
    head: [
      ...(oneSpine ? [pelvis, ...spine] : [spine.at(-1) ?? pelvis]),
      ...chainOf(map, 'neck'),
      ...(head >= 0 ? [head] : []),
    ],
  };
}

type Points = Record<Point, number[]>;

/** Joints whose mean is each point; undefined without a pelvis and a chest. */
function pointsOf({ map }: Party): Points | undefined {
  const thighs = SIDES.map((s) => jointOf(map, `thigh${s}`)).filter((j) => j >= 0);
  const one = (slot: Slot): number[] => [jointOf(map, slot)].filter((j) => j >= 0);
  const top = chainOf(map, 'neck')[0] ?? chainOf(map, 'spine').at(-1) ?? -1;
  const pelvis = thighs.length === 2 ? thighs : one('hips');
  return pelvis.length > 0 && top >= 0
    ? { pelvis, chest: [top], head: one('head').filter((j) => j !== top) }
    : undefined;
}

const between = (p: ArrayLike<number>, i: number, j: number): number =>
  norm(p[3 * i]! - p[3 * j]!, p[3 * i + 1]! - p[3 * j + 1]!, p[3 * i + 2]! - p[3 * j + 2]!);

function direction(dst: Float64Array, p: Float64Array, from: readonly number[], to: readonly number[]): void {
  for (let k = 0; k < 3; k++) {
    let sum = 0;
    for (const j of to) sum += p[3 * j + k]! / to.length;
    for (const j of from) sum -= p[3 * j + k]! / from.length;
    dst[k] = sum;
  }
}

function angle(u: Float64Array, v: Float64Array): number {
  const x = u[1]! * v[2]! - u[2]! * v[1]!;
  const y = u[2]! * v[0]! - u[0]! * v[2]!;
  const z = u[0]! * v[1]! - u[1]! * v[0]!;
  return DEG * Math.atan2(norm(x, y, z), u[0]! * v[0]! + u[1]! * v[1]! + u[2]! * v[2]!);
}
