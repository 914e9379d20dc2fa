import type { Party } from '../body/party';
import { chainOf, jointOf } from '../bodymap/slots';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';

/** Longest span of time over which a steady distance is looked for, seconds, and how steady it must be, in arms. */
const STEADY_S = 0.35;
const STEADY = 0.025;
const NEAR = 1.1;
/** What is held is held for so long, seconds; shorter is chance. */
const HELD_S = 0.8;
/** Hands lower than this, in arms above the lowest place of a foot, rest on the ground and hold nothing. */
const GROUND = 0.3;

/** Where both hands hold one thing: they keep one distance while they move. */
export interface HandsTogether {
  /** F: 1 where they do. */
  readonly marks: Uint8Array;
  /** F: their distance, metres. */
  readonly distance: Float64Array;
  readonly count: number;
}

/** Arms hang within so much of the trunk's own direction (cosine), hands as far apart as this share of the shoulders. */
const HANG = Math.cos((25 * Math.PI) / 180);
const ASIDE = 0.8;

/**
 * Finds the frames in which both hands keep one distance while they move; none without two hands. Arms that hang at the
 * sides of somebody who comes to a stand keep theirs, too, and hold nothing.
 */
export function handsTogether(party: Party, motion: Motion, arm: number): HandsTogether {
  const hands = handsOf(party);
  const frames = motion.frameCount;
  const distance = new Float64Array(frames);
  const marks = new Uint8Array(frames);
  if (!hands || !(arm > 0)) return { marks, distance, count: 0 };
  const trunk = trunkOf(party);
  const reader = new ChainReader(party.rig, motion, trunk ? [...hands, ...trunk.shoulders, trunk.chest] : hands);
  const hanging = new Uint8Array(frames);
  const travelled = new Float64Array(frames);
  const before = [0, 0, 0];
  const feet = ['footL', 'footR'].map((s) => jointOf(party.map, s)).filter((j) => j >= 0);
  const grounded = new Uint8Array(frames);
  const low = feet.length > 0 ? lowestPlace(party, motion, feet) : Number.NEGATIVE_INFINITY;
  for (let f = 0; f < frames; f++) {
    const { p } = reader.at(f);
    distance[f] = apart(p, hands);
    if (trunk && distance[f]! > ASIDE * apart(p, trunk.shoulders) && hangs(p, trunk, hands)) hanging[f] = 1;
    if (hands.every((h) => p[3 * h + 1]! < low + GROUND * arm)) grounded[f] = 1;
    if (f > 0) travelled[f] = Math.hypot(...[0, 1, 2].map((k) => p[3 * hands[0] + k]! - before[k]!));
    for (let k = 0; k < 3; k++) before[k] = p[3 * hands[0] + k]!;
  }
  const w = Math.max(2, Math.round(STEADY_S * motion.fps));
  let count = 0;
  for (let f = w; f + w < frames; f++) {
    let low = Number.POSITIVE_INFINITY;
    let high = 0;
    let moved = 0;
    for (let g = f - w; g <= f + w; g++) {
      low = Math.min(low, distance[g]!);
      high = Math.max(high, distance[g]!);
      moved += travelled[g]!;
    }
    if (hanging[f] || grounded[f] || high > NEAR * arm || high - low > STEADY * arm || moved < 0.12 * arm) continue;
    marks[f] = 1;
  }
  for (let f = 0; f < frames; f++) {
    if (!marks[f]) continue;
    const start = f;
    while (f + 1 < frames && marks[f + 1]) f++;
    if (f - start + 1 < HELD_S * motion.fps) marks.fill(0, start, f + 1);
    else count += f - start + 1;
  }
  return { marks, distance, count };
}

/** Lowest place that any of these joints comes to, metres. */
function lowestPlace(party: Party, motion: Motion, joints: readonly number[]): number {
  const reader = new ChainReader(party.rig, motion, joints);
  let low = Number.POSITIVE_INFINITY;
  for (let f = 0; f < motion.frameCount; f += 4) {
    const { p } = reader.at(f);
    for (const j of joints) low = Math.min(low, p[3 * j + 1]!);
  }
  return low;
}

interface Trunk {
  readonly hips: number;
  readonly chest: number;
  readonly shoulders: [number, number];
}

function trunkOf({ map }: Party): Trunk | undefined {
  const [hips, l, r] = ['hips', 'upperArmL', 'upperArmR'].map((x) => jointOf(map, x)) as [number, number, number];
  const chest = chainOf(map, 'spine').at(-1) ?? -1;
  return hips >= 0 && chest >= 0 && l >= 0 && r >= 0 ? { hips, chest, shoulders: [l, r] } : undefined;
}

/** Whether both arms point the way the trunk does, downwards. */
function hangs(p: Float64Array, { hips, chest, shoulders }: Trunk, hands: readonly [number, number]): boolean {
  for (let i = 0; i < 2; i++) {
    const [a, b] = [3 * shoulders[i]!, 3 * hands[i]!];
    let dot = 0;
    let along = 0;
    let down = 0;
    for (let k = 0; k < 3; k++) {
      const x = p[b + k]! - p[a + k]!;
      const y = p[3 * hips + k]! - p[3 * chest + k]!;
      dot += x * y;
      along += x * x;
      down += y * y;
    }
    if (dot < HANG * Math.sqrt(along * down)) return false;
  }
  return true;
}

/** Joints of the left and the right hand; undefined where the map does not hold both. */
export function handsOf(party: Party): [number, number] | undefined {
  const [l, r] = ['handL', 'handR'].map((x) => jointOf(party.map, x)) as [number, number];
  return l >= 0 && r >= 0 ? [l, r] : undefined;
}

/** Distance of two joints in a pose, metres. @param p world places, 3 numbers a joint */
export const apart = (p: Float64Array, [a, b]: [number, number]): number =>
  Math.hypot(p[3 * a]! - p[3 * b]!, p[3 * a + 1]! - p[3 * b + 1]!, p[3 * a + 2]! - p[3 * b + 2]!);
