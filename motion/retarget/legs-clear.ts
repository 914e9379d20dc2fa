import { type Capsule, type CapsulesByName, capsulesByName } from '../body/capsules';
import { smoothstep } from '../math/vec';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import { nearest, sameBody, UNSEEN } from './crossing';
import { addEased } from './envelope';
import type { FootPlan } from './foot-plan';
import type { RetargetPlan } from './plan';

/** A foot is on its way aside for so long before its shin would run into the other, and after, seconds. */
const EASE_S = 0.12;
/** So long after it has left the ground, and before it stands again, a foot may be aside by all it takes, seconds. */
const FREE_S = 0.1;
/** Nearer to the knee than this share of a shin its ankle moves it too little to be worth the way. */
const LOWEST_SHARE = 0.4;
/** A foot never goes farther aside, as a share of the leg. */
const MOST_ASIDE = 0.12;

interface Shins {
  readonly own: readonly [Capsule, Capsule];
  readonly model: readonly [Capsule, Capsule] | undefined;
}

/**
 * Keeps a swinging leg out of the one it passes, where the skin is known: where both shins run deeper into each other than the
 * source's do, free feet go aside by what that takes, and come back before they stand; feet that are held stay. Method: capsules
 * of the skin's thickness, as measureCrossings has them; our own. To be called again after the legs were bent anew, as a shin
 * that is moved meets the other elsewhere. Changes the goals.
 * @param bent left and right shin as the goals have them, 6 a frame: knee and ankle, metres; frame by frame as `source`
 * @param kneeling of each foot, how much its knee is held: such a leg stays where it is
 * @returns by how much they ran into each other at worst, metres; 0 where no goal has changed
 */
export function passLegs(
  plan: RetargetPlan,
  source: Motion,
  bent: readonly Float64Array[],
  plans: readonly Pick<FootPlan, 'goal' | 'held'>[],
  kneeling: readonly (Float32Array | undefined)[] = [],
): number {
  const shins = shinsOf(plan);
  const [left, right] = bent;
  if (!shins || !left || !right) return 0;
  const reach = shins.own[0].radius + shins.own[1].radius - UNSEEN;
  const frames = source.frameCount;
  const free = plans.map((p, i) => freedom(p.held, kneeling[i], Math.max(1, FREE_S * source.fps)));
  const wanted = plans.map(() => new Float64Array(3 * frames));
  const before = shins.model && new ChainReader(plan.source.rig, source, shins.model.flatMap(ends));
  const both = new Float64Array(12);
  const gap = new Float64Array(4);
  let deepest = 0;
  for (let f = 0; f < frames; f++) {
    const [l, r] = [free[0]![f]!, free[1]![f]!];
    if (l + r === 0) continue;
    for (let k = 0; k < 6; k++) {
      both[k] = left[6 * f + k]!;
      both[6 + k] = right[6 * f + k]!;
    }
    const depth = reach - nearest(gap, both, 0, 3, 6, 9);
    if (depth <= 0) continue;
    const need = depth - (before ? depthOf(shins.model!, before.at(f).p) : 0);
    const flat = Math.hypot(gap[0]!, gap[2]!);
    if (need <= 0 || flat < 1e-6) continue;
    // the place on the shin moves by its share of what the ankle does
    const by = Math.min(need / Math.max(LOWEST_SHARE, gap[3]!), MOST_ASIDE * plan.target.body.leg) / flat / (l + r);
    for (const k of [0, 2]) {
      wanted[0]![3 * f + k] = l * by * gap[k]!;
      wanted[1]![3 * f + k] = -r * by * gap[k]!;
    }
    deepest = Math.max(deepest, need);
  }
  if (deepest === 0) return 0;
  for (const [i, { goal }] of plans.entries()) {
    const aside = new Float64Array(3 * frames);
    addEased(aside, wanted[i]!, Math.max(2, Math.round(EASE_S * source.fps)));
    for (let f = 0; f < frames; f++)
      for (const k of [0, 2]) goal[3 * f + k] = goal[3 * f + k]! + free[i]![f]! * aside[3 * f + k]!;
  }
  return deepest;
}

/** How deep both shins run into each other at worst beyond the source's, metres; see passLegs. */
export function shinOverlap(plan: RetargetPlan, source: Motion, bent: readonly Float64Array[]): number {
  const shins = shinsOf(plan);
  const [left, right] = bent;
  if (!shins || !left || !right) return 0;
  const reach = shins.own[0].radius + shins.own[1].radius - UNSEEN;
  const before = shins.model && new ChainReader(plan.source.rig, source, shins.model.flatMap(ends));
  const both = new Float64Array(12);
  let deepest = 0;
  for (let f = 0; f < source.frameCount; f++) {
    for (let k = 0; k < 6; k++) {
      both[k] = left[6 * f + k]!;
      both[6 + k] = right[6 * f + k]!;
    }
    const depth = reach - nearest(spare, both, 0, 3, 6, 9);
    if (depth > deepest) deepest = Math.max(deepest, depth - (before ? depthOf(shins.model!, before.at(f).p) : 0));
  }
  return deepest;
}

const ends = (capsule: Capsule): number[] => [capsule.from, capsule.to];

function shinsOf(plan: RetargetPlan): Shins | undefined {
  if (!plan.target.radii || sameBody(plan)) return undefined;
  const pair = (capsules: CapsulesByName): readonly [Capsule, Capsule] | undefined => {
    const [left, right] = [capsules.get('shinL'), capsules.get('shinR')];
    return left && right && [left, right];
  };
  const own = pair(capsulesByName(plan.target));
  return own && { own, model: pair(capsulesByName(plan.source)) };
}

const spare = new Float64Array(4);
const depthOf = ([a, b]: readonly [Capsule, Capsule], p: Float64Array): number =>
  Math.max(0, a.radius + b.radius - nearest(spare, p, 3 * a.from, 3 * a.to, 3 * b.from, 3 * b.to));

/** F: 0 where a foot or its knee is held, up to 1 where both have been free for a while and will be. */
function freedom(foot: Uint8Array, knee: Float32Array | undefined, over: number): Float64Array {
  const n = foot.length;
  const held = knee ? foot.map((x, f) => (x || knee[f]! > 0 ? 1 : 0)) : foot;
  const out = new Float64Array(n).fill(Number.POSITIVE_INFINITY);
  for (let f = 0, since = Number.POSITIVE_INFINITY; f < n; f++) {
    since = held[f] ? 0 : since + 1;
    out[f] = since;
  }
  for (let f = n - 1, until = Number.POSITIVE_INFINITY; f >= 0; f--) {
    until = held[f] ? 0 : until + 1;
    out[f] = smoothstep(Math.min(out[f]!, until) / over);
  }
  return out;
}
