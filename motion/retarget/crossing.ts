import { type Capsule, capsulesByName, type Radii } from '../body/capsules';
import type { Party } from '../body/party';
import { norm } from '../math/fast';
import { type Motion, PoseReader, restMotion } from '../motion/motion';
import type { RetargetPlan } from './plan';

/** As deep as this nobody sees it: cloth gives way. Metres. */
export const UNSEEN = 0.008;

/** The same skeleton with the same measures: what its limbs do to its body is what it was made with. */
export function sameBody({ equalRigs, source, target }: RetargetPlan): boolean {
  return equalRigs && source.rig.restT.every((x, i) => Math.abs(x - target.rig.restT[i]!) < 1e-5);
}

/** Parts that can run into each other; neighbours on one limb are none. */
const PAIRS: readonly (readonly [string, string])[] = [
  ['forearmL', 'trunk'],
  ['forearmR', 'trunk'],
  ['forearmL', 'forearmR'],
  ['forearmL', 'head'],
  ['forearmR', 'head'],
  ['forearmL', 'thighL'],
  ['forearmR', 'thighR'],
  ['thighL', 'thighR'],
  ['shinL', 'shinR'],
  ['thighL', 'shinR'],
  ['thighR', 'shinL'],
];

export interface Crossing {
  readonly parts: readonly [string, string];
  readonly frame: number;
  /** How deep both run into each other at worst, metres. */
  readonly depth: number;
}

export interface CrossingReport {
  /** F: deepest of all pairs, metres. */
  readonly lane: Float32Array;
  readonly crossings: readonly Crossing[];
}

/** Depth of every pair over time, [pair][frame], metres, 0 where apart; pairs whose parts the rig lacks are all 0. */
function depths(party: Party, motion: Motion, radii: Radii): Float32Array[] {
  const capsules = capsulesByName({ ...party, radii });
  const reader = new PoseReader(party.rig, motion);
  const pairs = PAIRS.map(([a, b]) => ({ a: capsules.get(a), b: capsules.get(b) }));
  const out = PAIRS.map(() => new Float32Array(motion.frameCount));
  for (let f = 0; f < motion.frameCount; f++) {
    const { p } = reader.at(f);
    for (let i = 0; i < pairs.length; i++) {
      const { a, b } = pairs[i]!;
      if (a && b) out[i]![f] = depthOf(a, b, p);
    }
  }
  return out;
}

/**
 * Limbs that run into each other or into the trunk on the target though they do not on the source: capsules with the thickness
 * of the skin. What the source does too (arms folded, knees together), and what the target does as it stands, is taken off.
 */
export function measureCrossings(
  source: Party,
  sourceMotion: Motion,
  target: Party,
  result: Motion,
  sourceRadii: Radii = {},
  targetRadii: Radii = {},
): CrossingReport {
  const a = depths(source, sourceMotion, sourceRadii);
  const b = depths(target, result, targetRadii);
  // a broad body's thighs may touch as it stands
  const stands = depths(target, restMotion(target.rig), targetRadii).map((d) => d[0]!);
  const lane = new Float32Array(result.frameCount);
  const crossings: Crossing[] = [];
  b.forEach((own, i) => {
    let frame = 0;
    let depth = 0;
    for (let f = 0; f < own.length; f++) {
      const more = own[f]! - Math.max(stands[i]!, a[i]![Math.min(f, sourceMotion.frameCount - 1)] ?? 0);
      if (more <= 0) continue;
      lane[f] = Math.max(lane[f]!, more);
      if (more > depth) {
        depth = more;
        frame = f;
      }
    }
    if (depth > 0.01) crossings.push({ parts: PAIRS[i]!, frame, depth });
  });
  return { lane, crossings: crossings.sort((x, y) => y.depth - x.depth) };
}

/** How deep two parts of a body run into each other, metres; 0 where they are apart. @param p places of all joints */
export const depthOf = (a: Capsule, b: Capsule, p: ArrayLike<number>): number =>
  Math.max(0, a.radius + b.radius - rodDistance(p, 3 * a.from, 3 * a.to, 3 * b.from, 3 * b.to));

/** Shortest distance between two segments, given by offsets of their ends in p. */
export function rodDistance(p: ArrayLike<number>, a0: number, a1: number, b0: number, b1: number): number {
  return nearest(apart, p, a0, a1, b0, b1);
}
const apart = new Float64Array(4);

/**
 * Where two segments are nearest, given by offsets of their ends in p.
 * @param out from the second's point to the first's (x y z), and how far along the first its point lies, 0 to 1
 * @returns their distance
 */
export function nearest(
  out: Float64Array,
  p: ArrayLike<number>,
  a0: number,
  a1: number,
  b0: number,
  b1: number,
): number {
  const ux = p[a1]! - p[a0]!;
  const uy = p[a1 + 1]! - p[a0 + 1]!;
  const uz = p[a1 + 2]! - p[a0 + 2]!;
  const vx = p[b1]! - p[b0]!;
  const vy = p[b1 + 1]! - p[b0 + 1]!;
  const vz = p[b1 + 2]! - p[b0 + 2]!;
  const wx = p[a0]! - p[b0]!;
  const wy = p[a0 + 1]! - p[b0 + 1]!;
  const wz = p[a0 + 2]! - p[b0 + 2]!;
  const a = ux * ux + uy * uy + uz * uz;
  const b = ux * vx + uy * vy + uz * vz;
  const c = vx * vx + vy * vy + vz * vz;
  const d = ux * wx + uy * wy + uz * wz;
  const e = vx * wx + vy * wy + vz * wz;
  const det = a * c - b * b;
  // nearest on the first for the lines, then the best answer of the second, then back once more
  let s = det > 1e-12 ? clamp01((b * e - c * d) / det) : 0;
  const t = c > 1e-12 ? clamp01((b * s + e) / c) : 0;
  s = a > 1e-12 ? clamp01((b * t - d) / a) : 0;
  out[0] = wx + s * ux - t * vx;
  out[1] = wy + s * uy - t * vy;
  out[2] = wz + s * uz - t * vz;
  out[3] = s;
  return norm(out[0], out[1], out[2]);
}

const clamp01 = (x: number): number => Math.min(1, Math.max(0, x));
