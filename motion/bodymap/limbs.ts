import { distance3 } from '../math/vec';
import { tipOf } from '../rig/rig';
import type { NamePart } from './names';
import { boneLength, longestChain, type SkeletonView } from './skeleton-view';

export interface LimbPair {
  /** Joint from which both limbs branch. */
  readonly branch: number;
  /** First joint of each limb, in no particular order. */
  readonly a: number;
  readonly b: number;
  readonly score: number;
}

/** Joints of one limb; −1 where there is none. first is a collar, or a helper above a thigh. */
export interface Limb {
  readonly first: number;
  readonly upper: number;
  readonly lower: number;
  readonly end: number;
  /** Toes of a foot; −1 for an arm. */
  readonly toes: number;
}

const likeness = (x: number, y: number): number => Math.min(x, y) / Math.max(x, y, 1e-9);

/** Likeness of two limbs bone by bone, over three bones or over four, as a tool may be longer than the hand that holds it. */
function boneLikeness(view: SkeletonView, branch: number, a: number, b: number): number {
  const [p, q] = [longestChain(view, a), longestChain(view, b)];
  let best = 0;
  let sum = 0;
  for (let i = 0; i < Math.min(4, p.length, q.length); i++) {
    sum += likeness(
      boneLength(view, i > 0 ? p[i - 1]! : branch, p[i]!),
      boneLength(view, i > 0 ? q[i - 1]! : branch, q[i]!),
    );
    if (i >= 2) best = Math.max(best, sum / (i + 1));
  }
  return best;
}

/** How far two limbs are from being each other's mirror image, as a share of their length, over three joints. */
function askew(view: SkeletonView, a: number, b: number): number {
  const chains = [longestChain(view, a), longestChain(view, b)];
  const count = Math.min(3, chains[0]!.length, chains[1]!.length);
  const [p, q] = chains.map((chain) =>
    chain.slice(0, count).map((j) => [view.pose.p[3 * j]!, view.pose.p[3 * j + 1]!, view.pose.p[3 * j + 2]!]),
  ) as [number[][], number[][]];
  const across = [0, 0, 0];
  const middle = [0, 0, 0];
  for (let i = 0; i < count; i++)
    for (let k = 0; k < 3; k++) {
      across[k] = across[k]! + p[i]![k]! - q[i]![k]!;
      middle[k] = middle[k]! + (p[i]![k]! + q[i]![k]!) / (2 * count);
    }
  const wide = Math.hypot(...across);
  const length = Math.max(distance3(p[0]!, 0, p.at(-1)!, 0), distance3(q[0]!, 0, q.at(-1)!, 0), 1e-9);
  if (wide < 1e-3 * length) return 1;
  const n = across.map((x) => x / wide);
  let off = 0;
  for (let i = 0; i < count; i++) {
    const d = n.reduce((sum, x, k) => sum + x * (p[i]![k]! - middle[k]!), 0);
    off += Math.hypot(...[0, 1, 2].map((k) => p[i]![k]! - 2 * d * n[k]! - q[i]![k]!)) / count;
  }
  return off / length;
}

/** Whether a limb ends in three or more chains, as a hand with fingers does. */
export function endsInFingers(view: SkeletonView, start: number): boolean {
  return longestChain(view, start)
    .slice(1)
    .some((j) => view.children[j]!.filter((c) => !view.names[c]!.foreign && !view.names[c]!.end).length >= 3);
}

/** How many joints of a limb's chain its partner has too, bone for bone. */
export function sharedLength(view: SkeletonView, chain: readonly number[], partner: readonly number[]): number {
  let i = 1;
  while (
    i < chain.length &&
    i < partner.length &&
    likeness(boneLength(view, chain[i - 1]!, chain[i]!), boneLength(view, partner[i - 1]!, partner[i]!)) > 0.8
  )
    i++;
  return i;
}

/** Sibling branches that look like the two sides of one body, best first. */
export function findPairs(view: SkeletonView): LimbPair[] {
  const pairs: LimbPair[] = [];
  view.children.forEach((kids, branch) => {
    const long = kids.filter(
      (c) => view.reach[c]! + boneLength(view, branch, c) > 0.18 * view.size && !view.names[c]!.foreign,
    );
    for (let i = 0; i < long.length; i++) {
      for (let k = i + 1; k < long.length; k++) {
        const a = long[i]!;
        const b = long[k]!;
        const sa = view.names[a]!.side;
        const sb = view.names[b]!.side;
        // a tool in one hand makes that arm longer as a whole, but not bone by bone
        const alike = Math.max(
          likeness(view.reach[a]! + boneLength(view, branch, a), view.reach[b]! + boneLength(view, branch, b)),
          0.97 * boneLikeness(view, branch, a, b),
        );
        const sameCount = likeness(longestChain(view, a).length, longestChain(view, b).length);
        const apart =
          boneLength(view, a, b) +
          distance3(view.pose.p, 3 * longestChain(view, a).at(-1)!, view.pose.p, 3 * longestChain(view, b).at(-1)!);
        const named = sa && sb ? (sa === sb ? -1 : 0.6) : sa || sb ? -0.3 : 0;
        const score =
          alike + 0.3 * sameCount + named + (apart < 0.02 * view.size ? -0.5 : 0) - Math.min(1, 2 * askew(view, a, b));
        if (alike > 0.8 && score > 1) pairs.push({ branch, a, b, score });
      }
    }
  });
  return pairs.sort((x, y) => y.score - x.score || x.branch - y.branch || x.a - y.a);
}

const saysOnly = (view: SkeletonView, joint: number, part: NamePart): number => {
  const parts = view.names[joint]!.parts;
  const own = parts.get(part) ?? 0;
  if (own > 0) return own;
  return [...parts.values()].some((w) => w >= 0.9) ? -1 : 0;
};

/**
 * Picks upper, lower and end joint of a limb among all triples along its chain: two long bones of like length that leave
 * nothing out, agreeing with the names. A chain that ends at the wrist or ankle by a tip alone has no end joint.
 */
export function readLimb(view: SkeletonView, start: number, kind: 'arm' | 'leg', partner = -1): Limb | undefined {
  const whole = longestChain(view, start);
  // what only one side has is no part of the limb: a tool, a holster
  const shared = partner >= 0 ? sharedLength(view, whole, longestChain(view, partner)) : whole.length;
  const chain = shared >= 3 ? whole.slice(0, shared) : whole;
  const [upperPart, lowerPart, endPart] =
    kind === 'arm' ? (['upperArm', 'forearm', 'hand'] as const) : (['thigh', 'shin', 'foot'] as const);
  const last = chain.at(-1)!;
  const tip = tipOf(view.rig, view.pose, last);
  const points = chain.map((j) => [view.pose.p[3 * j]!, view.pose.p[3 * j + 1]!, view.pose.p[3 * j + 2]!]);
  if (tip) points.push(tip);
  const total = points.slice(1).reduce((sum, p, i) => sum + distance3(p, 0, points[i]!, 0), 0);
  if (total <= 0 || points.length < 3) return undefined;
  let best: { i: number; j: number; k: number; score: number } | undefined;
  for (let i = 0; i < Math.min(chain.length - 1, 6); i++) {
    for (let j = i + 1; j < chain.length; j++) {
      for (let k = j + 1; k < points.length; k++) {
        const upper = distance3(points[i]!, 0, points[j]!, 0);
        const lower = distance3(points[j]!, 0, points[k]!, 0);
        if (upper < 0.08 * total || lower < 0.08 * total) continue;
        let score = (upper + lower) / total - 0.45 * Math.abs(Math.log(upper / lower));
        if (k < chain.length) score += endsLimb(view, chain, k, kind);
        score -=
          bypass(points, i, j, (x) => view.names[chain[x]!]!.twist) +
          bypass(points, j, k, (x) => view.names[chain[x]!]!.twist);
        score += 0.5 * (saysOnly(view, chain[i]!, upperPart) + saysOnly(view, chain[j]!, lowerPart));
        score +=
          k < chain.length ? 0.5 * saysOnly(view, chain[k]!, endPart) - (view.names[chain[k]!]!.end ? 1 : 0) : -0.25;
        if (view.names[chain[i]!]!.twist || view.names[chain[j]!]!.twist) score -= 1;
        // a leg starts at the top of its chain, after helpers of hardly any length
        const before = points.slice(1, i + 1).reduce((sum, p, x) => sum + distance3(p, 0, points[x]!, 0), 0);
        if (kind === 'leg') score -= 2 * (before / total);
        if (!best || score > best.score + 1e-9) best = { i, j, k, score };
      }
    }
  }
  if (!best) return undefined;
  const toes = kind === 'leg' && best.k + 1 < chain.length ? chain[best.k + 1]! : -1;
  return {
    first: best.i > 0 ? chain[best.i - 1]! : -1,
    upper: chain[best.i]!,
    lower: chain[best.j]!,
    end: best.k < chain.length ? chain[best.k]! : -1,
    toes: toes >= 0 && isRealToe(view, toes) ? toes : -1,
  };
}

/** Cost of leaving joints out between two of a triple; twist joints in line cost nothing. */
function bypass(points: number[][], i: number, k: number, isTwist: (x: number) => boolean): number {
  let cost = 0;
  const straight = distance3(points[i]!, 0, points[k]!, 0);
  for (let x = i + 1; x < k; x++) {
    if (isTwist(x)) continue;
    const around = distance3(points[i]!, 0, points[x]!, 0) + distance3(points[x]!, 0, points[k]!, 0);
    cost += around < straight * 1.001 ? 0.15 : 0.5;
  }
  return cost;
}

/** What shows a hand or a foot by its shape: a hand has fingers, a foot leaves the shin at an angle. */
function endsLimb(view: SkeletonView, chain: readonly number[], k: number, kind: 'arm' | 'leg'): number {
  const joint = chain[k]!;
  if (kind === 'arm') {
    const chains = view.children[joint]!.filter(
      (c) => !view.names[c]!.foreign && !view.names[c]!.twist && !view.names[c]!.end,
    );
    return chains.length >= 3 ? 0.5 : chains.length === 2 ? 0.2 : 0;
  }
  const next = chain[k + 1];
  const place = (j: number): number[] => [0, 1, 2].map((i) => view.pose.p[3 * j + i]!);
  const to = next === undefined ? tipOf(view.rig, view.pose, joint) : place(next);
  if (!to) return 0;
  const [a, b] = [place(chain[k - 1]!), place(joint)];
  const u = b.map((x, i) => x - a[i]!);
  const v = to.map((x, i) => x - b[i]!);
  const lengths = Math.hypot(...u) * Math.hypot(...v);
  if (lengths < 1e-12) return 0;
  const cos = u.reduce((sum, x, i) => sum + x * v[i]!, 0) / lengths;
  return cos < 0.87 ? 0.4 : 0;
}

/** Toes move; an end marker does not. A bare last joint is taken for toes where it lies ahead of the foot as toes do. */
function isRealToe(view: SkeletonView, joint: number): boolean {
  const name = view.names[joint]!;
  if (name.end) return name.parts.has('toes');
  return true;
}
