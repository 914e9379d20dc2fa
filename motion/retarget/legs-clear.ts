import { type Capsule, type CapsulesByName, capsulesByName } from '../body/capsules';
import { smoothstep } from '../math/vec';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import { restPose } from '../rig/rig';
import { depthOf, nearest, UNSEEN } from './crossing';
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
  /** How deep both lie in each other as the body stands, metres. */
  readonly stands: number;
}

/**
 * Keeps legs out of each other where both shins run deeper into each other than the source's do: free feet go aside by what
 * that takes, and come back before they stand; what is left of it the spots of the feet that stand make up for, each by one
 * move of the whole contact, so that nothing slides. Method: capsules of the skin's thickness, as measureCrossings has them;
 * our own. To be called again after the legs were bent anew, as a shin that is moved meets the other elsewhere. Changes the goals.
 * @param bent left and right shin as the goals have them, 6 a frame: knee and ankle, metres; frame by frame as `source`
 * @param fixed of each foot, frames in which it may not move (its knee is held, or its spot was set by hand)
 * @returns by how much they ran into each other at worst, metres; 0 where no goal has changed
 */
export function passLegs(
  plan: RetargetPlan,
  source: Motion,
  bent: readonly Float64Array[],
  plans: readonly Pick<FootPlan, 'goal' | 'held'>[],
  fixed: readonly (ArrayLike<number> | undefined)[] = [],
): number {
  const shins = shinsOf(plan);
  const [left, right] = bent;
  if (!shins || !left || !right) return 0;
  const reach = shins.own[0].radius + shins.own[1].radius - UNSEEN;
  const frames = source.frameCount;
  const over = Math.max(1, FREE_S * source.fps);
  const free = plans.map((p, i) => freedom(p.held, fixed[i], over));
  const stands = plans.map((p, i) => new Stands(p.held, fixed[i]));
  /** 2 F: how far apart both feet have to go on the ground, x and z, the left one this way. */
  const ways = new Float64Array(2 * frames);
  const before = shins.model && new ChainReader(plan.source.rig, source, shins.model.flatMap(ends));
  const both = new Float64Array(12);
  const gap = new Float64Array(4);
  let deepest = 0;
  for (let f = 0; f < frames; f++) {
    for (let k = 0; k < 6; k++) {
      both[k] = left[6 * f + k]!;
      both[6 + k] = right[6 * f + k]!;
    }
    const depth = reach - nearest(gap, both, 0, 3, 6, 9);
    if (depth <= 0) continue;
    const need = depth - Math.max(shins.stands, before ? depthOf(...shins.model!, before.at(f).p) : 0);
    const flat = Math.hypot(gap[0]!, gap[2]!);
    if (need <= 0 || flat < 1e-6) continue;
    // the place on the shin moves by its share of what the ankle does
    const by = Math.min(need / Math.max(LOWEST_SHARE, gap[3]!), MOST_ASIDE * plan.target.body.leg) / flat;
    const [l, r] = [free[0]![f]!, free[1]![f]!];
    const [standL, standR] = [stands[0]!.share(f, 1 - l), stands[1]!.share(f, 1 - r)];
    if (l + r + standL + standR === 0) continue;
    const [x, z] = [by * gap[0]!, by * gap[2]!];
    ways.set([x, z], 2 * f);
    // what free feet can do is counted by how free they are: the spots of those that stand make up for the rest
    const rest = l + r > 0 ? 1 - (l * l + r * r) / (l + r) : 1;
    if (rest > 0 && standL + standR > 0) {
      const share = rest / (standL + standR);
      stands[0]!.ask(f, standL * share * x, standL * share * z);
      stands[1]!.ask(f, -standR * share * x, -standR * share * z);
    }
    deepest = Math.max(deepest, need);
  }
  if (deepest === 0) return 0;
  const moves = stands.map((s) => s.moves());
  const wanted = plans.map(() => new Float64Array(3 * frames));
  for (let f = 0; f < frames; f++) {
    const [x, z] = [ways[2 * f]!, ways[2 * f + 1]!];
    const [l, r] = [free[0]![f]!, free[1]![f]!];
    if ((x === 0 && z === 0) || l + r === 0) continue;
    // a foot that swings between two contacts moves with them
    const done = (moves[0]![2 * f]! - moves[1]![2 * f]!) * x + (moves[0]![2 * f + 1]! - moves[1]![2 * f + 1]!) * z;
    const lack = Math.max(0, 1 - done / (x * x + z * z)) / (l + r);
    wanted[0]!.set([l * lack * x, 0, l * lack * z], 3 * f);
    wanted[1]!.set([-r * lack * x, 0, -r * lack * z], 3 * f);
  }
  for (const [i, { goal }] of plans.entries()) {
    const aside = new Float64Array(3 * frames);
    addEased(aside, wanted[i]!, Math.max(2, Math.round(EASE_S * source.fps)));
    for (let f = 0; f < frames; f++)
      for (const k of [0, 1])
        goal[3 * f + 2 * k] = goal[3 * f + 2 * k]! + free[i]![f]! * aside[3 * f + 2 * k]! + moves[i]![2 * f + k]!;
  }
  return deepest;
}

/** The contacts of one foot, each of which can move as a whole; between two the foot goes over from one's move to the other's. */
class Stands {
  /** First and last frame of each, and how far it is asked to move on the ground. */
  private readonly runs: { start: number; end: number; x: number; z: number; fixed: boolean }[] = [];
  /** F: the contact a foot is in, or nearest to. */
  private readonly near: Int32Array;

  constructor(
    private readonly held: Uint8Array,
    private readonly fixed?: ArrayLike<number>,
  ) {
    const frames = held.length;
    this.near = new Int32Array(frames).fill(-1);
    for (let f = 0; f < frames; f++) {
      if (!held[f]) continue;
      const start = f;
      let any = false;
      for (; f < frames && held[f]; f++) any ||= (fixed?.[f] ?? 0) > 0;
      this.near.fill(this.runs.length, start, f);
      this.runs.push({ start, end: f - 1, x: 0, z: 0, fixed: any });
    }
    this.runs.forEach(({ end }, i) => {
      const next = this.runs[i + 1];
      const middle = next ? (end + next.start) >> 1 : frames;
      this.near.fill(i, end + 1, middle);
      if (next) this.near.fill(i + 1, middle, next.start);
    });
    if (this.runs[0]) this.near.fill(0, 0, this.runs[0].start);
  }

  /** @returns `of`, or 0 where the foot or its nearest contact may not move */
  share(f: number, of: number): number {
    const run = this.runs[this.near[f]!];
    return run && !run.fixed && !((this.fixed?.[f] ?? 0) > 0) ? of : 0;
  }

  /** Asks the contact nearest to a frame to move; of all that is asked the longest way counts. */
  ask(f: number, x: number, z: number): void {
    const run = this.runs[this.near[f]!];
    if (run && Math.hypot(x, z) > Math.hypot(run.x, run.z)) Object.assign(run, { x, z });
  }

  /** 2 F: the moves on the ground, x and z, of the foot in each frame. */
  moves(): Float64Array {
    const { runs } = this;
    const out = new Float64Array(2 * this.held.length);
    if (runs.every(({ x, z }) => x === 0 && z === 0)) return out;
    for (let f = 0, i = 0; f < this.held.length; f++) {
      while (i + 1 < runs.length && runs[i + 1]!.start <= f) i++;
      const from = runs[i]!;
      const to = runs[i + 1] ?? from;
      const mix = f <= from.end ? 0 : smoothstep((f - from.end) / Math.max(1, to.start - from.end));
      out[2 * f] = from.x + mix * (to.x - from.x);
      out[2 * f + 1] = from.z + mix * (to.z - from.z);
    }
    return out;
  }
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
    if (depth > deepest)
      deepest = Math.max(
        deepest,
        depth - Math.max(shins.stands, before ? depthOf(...shins.model!, before.at(f).p) : 0),
      );
  }
  return deepest;
}

const ends = (capsule: Capsule): number[] => [capsule.from, capsule.to];

function shinsOf(plan: RetargetPlan): Shins | undefined {
  const pair = (capsules: CapsulesByName): readonly [Capsule, Capsule] | undefined => {
    const [left, right] = [capsules.get('shinL'), capsules.get('shinR')];
    return left && right && [left, right];
  };
  const own = pair(capsulesByName(plan.target));
  if (!own) return undefined;
  const rest = plan.target.pose ?? restPose(plan.target.rig);
  return { own, model: pair(capsulesByName(plan.source)), stands: depthOf(...own, rest.p) };
}

const spare = new Float64Array(4);

/** F: 0 where a foot or its knee is held, up to 1 where both have been free for a while and will be. */
function freedom(foot: Uint8Array, knee: ArrayLike<number> | undefined, over: number): Float64Array {
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
