import { type Capsule, type CapsulesByName, capsulesByName } from '../body/capsules';
import { norm } from '../math/fast';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import { restPose } from '../rig/rig';
import { depthOf, nearest, UNSEEN } from './crossing';
import { addEased } from './envelope';
import type { FootTrack } from './foot-track';
import type { RetargetPlan } from './plan';

/** A knee is on its way aside for so long before its leg would run into the other, and after, seconds. */
const EASE_S = 0.2;
/** A leg is never turned farther aside about the line from hip to ankle, radians. */
const MOST_SWIVEL = 0.5;
/** A leg that is so straight that its places move by less a radian is left as it is, metres; also what damps the answer. */
const STRAIGHT = 0.04;

/** Both legs' parts that can meet: of the left one, of the right one. */
const PAIRS = [
  ['thighL', 'thighR'],
  ['thighL', 'shinR'],
  ['shinL', 'thighR'],
  ['shinL', 'shinR'],
] as const;

/** How deep both legs may run into each other, and how thick they are; see spreadKnees. */
interface Meeting {
  /** Sum of both radii. */
  readonly reach: number;
  /** As the body stands, metres. */
  readonly stands: number;
  readonly model: readonly [Capsule, Capsule] | undefined;
}

/**
 * Keeps bent legs out of each other: where thighs or shins run deeper into each other than the source's do, both legs turn
 * about the lines from hip to ankle, by the least angles that bring the deepest place out; ankles stay. Method: capsules of the
 * skin's thickness, as measureCrossings has them; one damped step for the deepest pair of a frame. Our own.
 * To be called again after the legs were bent anew. Changes the angles.
 * @param standing the motion in which the hip joints are read; frame by frame as `source`
 * @param bent left and right knee and ankle, 6 a frame, metres
 * @param swivel F for each leg: angles so far, radians
 * @returns how deep both run into each other at worst beyond what they may, metres
 */
export function spreadKnees(
  plan: RetargetPlan,
  source: Motion,
  standing: Motion,
  tracks: readonly FootTrack[],
  bent: readonly Float64Array[],
  swivel: readonly Float64Array[],
  fixed: readonly (ArrayLike<number> | undefined)[] = [],
): number {
  if (tracks.length !== 2) return 0;
  const own = capsulesByName(plan.target);
  const meetings = meetingsOf(plan, own);
  const frames = source.frameCount;
  const hips = new ChainReader(
    plan.target.rig,
    standing,
    tracks.map((t) => t.thigh),
  );
  const before = new ChainReader(
    plan.source.rig,
    source,
    meetings.flatMap((m) => m?.model?.flatMap((c) => [c.from, c.to]) ?? []),
  );
  // hip, knee, ankle of the left leg, then of the right one
  const p = new Float64Array(18);
  const gap = new Float64Array(4);
  const back = new Float64Array(4);
  const wanted = tracks.map(() => new Float64Array(3 * frames));
  let deepest = 0;
  for (let f = 0; f < frames; f++) {
    const at = hips.at(f).p;
    tracks.forEach((t, i) => {
      for (let k = 0; k < 3; k++) p[9 * i + k] = at[3 * t.thigh + k]!;
      for (let k = 0; k < 6; k++) p[9 * i + 3 + k] = bent[i]![6 * f + k]!;
    });
    let worst = 0;
    let pair = -1;
    let read = false;
    for (let i = 0; i < 4; i++) {
      const m = meetings[i];
      if (!m) continue;
      const depth =
        m.reach -
        UNSEEN -
        m.stands -
        nearest(gap, p, 3 * (i >> 1), 3 * (i >> 1) + 3, 9 + 3 * (i & 1), 12 + 3 * (i & 1));
      if (depth <= worst) continue;
      const theirs = m.model ? depthOf(...m.model, (read ? before.pose : before.at(f)).p) : 0;
      read ||= m.model !== undefined;
      const need = depth - Math.max(0, theirs - m.stands);
      if (need <= worst) continue;
      worst = need;
      pair = i;
    }
    if (pair < 0) continue;
    deepest = Math.max(deepest, worst);
    const [a, b] = [3 * (pair >> 1), 9 + 3 * (pair & 1)];
    const d = nearest(gap, p, a, a + 3, b, b + 3);
    if (d < 1e-6) continue;
    // and seen from the other side, for how far along the right one the place lies
    nearest(back, p, b, b + 3, a, a + 3);
    const l = (fixed[0]?.[f] ?? 0) > 0 ? 0 : rate(p, 0, a, gap) / d;
    const r = (fixed[1]?.[f] ?? 0) > 0 ? 0 : rate(p, 9, b, back) / d;
    const size = l * l + r * r;
    if (size < STRAIGHT * STRAIGHT) continue;
    const by = worst / (size + STRAIGHT * STRAIGHT);
    wanted[0]![3 * f] = by * l;
    wanted[1]![3 * f] = by * r;
  }
  if (deepest === 0) return 0;
  const ease = Math.max(2, Math.round(EASE_S * source.fps));
  for (const [i, angles] of swivel.entries()) {
    const more = new Float64Array(3 * frames);
    addEased(more, wanted[i]!, ease);
    for (let f = 0; f < frames; f++)
      angles[f] = Math.max(-MOST_SWIVEL, Math.min(MOST_SWIVEL, angles[f]! + more[3 * f]!));
  }
  return deepest;
}

function meetingsOf(plan: RetargetPlan, own: CapsulesByName): (Meeting | undefined)[] {
  const theirs = capsulesByName(plan.source);
  const rest = (plan.target.pose ?? restPose(plan.target.rig)).p;
  return PAIRS.map(([l, r]) => {
    const [a, b] = [own.get(l), own.get(r)];
    if (!a || !b) return undefined;
    const [c, d] = [theirs.get(l), theirs.get(r)];
    return { reach: a.radius + b.radius, stands: depthOf(a, b, rest), model: c && d && [c, d] };
  });
}

/** How far the place on a leg that is nearest to the other moves away from it, a radian of its turn about the line from hip to ankle. */
function rate(p: Float64Array, leg: number, rod: number, way: Float64Array): number {
  const along = way[3]!;
  const x = p[leg + 6]! - p[leg]!;
  const y = p[leg + 7]! - p[leg + 1]!;
  const z = p[leg + 8]! - p[leg + 2]!;
  const length = norm(x, y, z) || 1;
  const u = p[rod]! + along * (p[rod + 3]! - p[rod]!) - p[leg]!;
  const v = p[rod + 1]! + along * (p[rod + 4]! - p[rod + 1]!) - p[leg + 1]!;
  const w = p[rod + 2]! + along * (p[rod + 5]! - p[rod + 2]!) - p[leg + 2]!;
  return ((y * w - z * v) * way[0]! + (z * u - x * w) * way[1]! + (x * v - y * u) * way[2]!) / length;
}
