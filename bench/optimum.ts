// How near to the source's directions legs can come at all while the same feet are held: the best place of the hips in each
// frame by itself, with no thought of the frames beside it. Slow and plain on purpose; shares no code with the solver.
import { isSole, type Plant } from '../motion/analysis/plants';
import { jointOf, type Motion, PoseReader, type Retargeted, type SkeletonRig } from '../motion/index';

type Vec = readonly [number, number, number];

interface Held {
  readonly hip: Vec;
  readonly ankle: Vec;
  readonly bones: readonly [number, number];
  /** Directions of thigh and shin that the source has. */
  readonly wanted: readonly [Vec, Vec];
  /** Directions that the result has. */
  readonly got: readonly [Vec, Vec];
}

export interface AgainstOptimum {
  /** Angles of thighs and shins to the source's while their feet are held, root mean square, degrees. */
  readonly own: number;
  /** The same with the hips where the result has them and knees as well as they can be. */
  readonly knees: number;
  readonly best: number;
}

const sub = (a: Vec, b: Vec): Vec => [a[0] - b[0], a[1] - b[1], a[2] - b[2]];
const dot = (a: Vec, b: Vec): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const times = (a: Vec, s: number): Vec => [a[0] * s, a[1] * s, a[2] * s];
const plus = (a: Vec, b: Vec): Vec => [a[0] + b[0], a[1] + b[1], a[2] + b[2]];
const unit = (a: Vec): Vec => times(a, 1 / (Math.sqrt(dot(a, a)) || 1));
const cross = (a: Vec, b: Vec): Vec => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
const angle = (a: Vec, b: Vec): number => Math.acos(Math.max(-1, Math.min(1, dot(a, b))));

/**
 * @param free the same retarget without plants: its directions are the source's
 * @param every one frame in so many is looked at
 */
export function againstOptimum(done: Retargeted, free: Motion, every = 8): AgainstOptimum | undefined {
  const { rig, map } = done.plan.target;
  const legs = ['L', 'R'].map((s) => ({
    side: s,
    joints: ['thigh', 'shin', 'foot'].map((part) => jointOf(map, part + s)),
  }));
  if (legs.some((l) => l.joints.some((j) => j < 0))) return undefined;
  const result = new PoseReader(rig, done.motion);
  const source = new PoseReader(rig, free);
  let own = 0;
  let best = 0;
  let knees = 0;
  let count = 0;
  for (let f = 0; f < free.frameCount; f += every) {
    if (done.plants.some((p) => !isSole(p.part) && at(p, f))) continue;
    const held = legs
      .filter(({ side }) => done.plants.some((p) => isSole(p.part) && p.part.endsWith(side) && at(p, f)))
      .map(({ joints }) => heldLeg(rig, result.at(f).p, source.at(f).p, joints as [number, number, number]));
    if (held.length === 0) continue;
    for (const { got, wanted } of held) own += angle(got[0], wanted[0]) ** 2 + angle(got[1], wanted[1]) ** 2;
    best += bestSum(held);
    for (const leg of held) knees += legSum(leg, [0, 0, 0]);
    count += 2 * held.length;
  }
  if (count === 0) return undefined;
  const mean = (squares: number): number => (180 / Math.PI) * Math.sqrt(squares / count);
  return { own: mean(own), knees: mean(knees), best: mean(best) };
}

const at = (p: Plant, f: number): boolean => p.start <= f && p.end >= f;

function heldLeg(
  rig: SkeletonRig,
  result: Float64Array,
  source: Float64Array,
  joints: readonly [number, number, number],
): Held {
  const place = (p: Float64Array, j: number): Vec => [p[3 * j]!, p[3 * j + 1]!, p[3 * j + 2]!];
  const [hip, knee, ankle] = joints.map((j) => place(result, j)) as [Vec, Vec, Vec];
  const [a, b, c] = joints.map((j) => place(source, j)) as [Vec, Vec, Vec];
  const length = (j: number): number => Math.hypot(...[0, 1, 2].map((k) => rig.restT[3 * j + k]!));
  return {
    hip,
    ankle,
    bones: [length(joints[1]), length(joints[2])],
    wanted: [unit(sub(b, a)), unit(sub(c, b))],
    got: [unit(sub(knee, hip)), unit(sub(ankle, knee))],
  };
}

/** Least sum of both angles' squares of a leg whose hip joint has moved, over where its knee may lie; out of reach counts much. */
function legSum({ hip, ankle, bones: [a, b], wanted }: Held, move: Vec): number {
  const root = plus(hip, move);
  const line = sub(ankle, root);
  const far = Math.sqrt(dot(line, line));
  const short = Math.max(0, far - 0.9995 * (a + b));
  const d = Math.min(far, 0.9995 * (a + b));
  const along = unit(line);
  const cos = Math.max(-1, Math.min(1, (a * a + d * d - b * b) / (2 * a * d)));
  const sin = Math.sqrt(1 - cos * cos);
  const across = unit(Math.abs(along[0]) < 0.7 ? cross(along, [1, 0, 0]) : cross(along, [0, 1, 0]));
  const other = cross(along, across);
  const sum = (swivel: number): number => {
    const side = plus(times(across, Math.cos(swivel)), times(other, Math.sin(swivel)));
    const thigh = plus(times(along, cos), times(side, sin));
    const shin = unit(sub(times(along, d), times(thigh, a)));
    return angle(thigh, wanted[0]) ** 2 + angle(shin, wanted[1]) ** 2;
  };
  let least = Number.POSITIVE_INFINITY;
  let swivel = 0;
  for (let i = 0; i < 24; i++) {
    const s = sum((i * Math.PI) / 12);
    if (s < least) [least, swivel] = [s, (i * Math.PI) / 12];
  }
  for (let step = Math.PI / 24; step > 1e-4; step /= 2)
    for (const s of [swivel - step, swivel + step]) {
      const now = sum(s);
      if (now < least) [least, swivel] = [now, s];
    }
  return least + 100 * short;
}

/** Compass search over the place of the hips, from where the result has them and from the mean of where each leg is exact. */
function bestSum(held: readonly Held[]): number {
  const cost = (move: Vec): number => held.reduce((s, leg) => s + legSum(leg, move), 0);
  const exact = held.map(({ hip, ankle, bones: [a, b], wanted }) =>
    sub(sub(sub(ankle, times(wanted[0], a)), times(wanted[1], b)), hip),
  );
  const starts: Vec[] = [[0, 0, 0], times(exact.reduce(plus), 1 / exact.length), ...exact];
  let least = Number.POSITIVE_INFINITY;
  for (const start of starts) {
    let here = start;
    let now = cost(here);
    for (let step = 0.08; step > 2e-4; ) {
      let better = false;
      for (const way of [0, 1, 2].flatMap((k) =>
        [step, -step].map((s) => [0, 1, 2].map((i) => (i === k ? s : 0)) as unknown as Vec),
      )) {
        const to = plus(here, way);
        const c = cost(to);
        if (c < now - 1e-9) [here, now, better] = [to, c, true];
      }
      if (!better) step /= 2;
    }
    least = Math.min(least, now);
  }
  return least;
}
