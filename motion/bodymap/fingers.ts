import { boneLength, longestChain, type SkeletonView } from './skeleton-view';
import { FINGERS, type Side, type Slot, type SlotEntry } from './slots';

type Finger = (typeof FINGERS)[number];
const BY_COUNT: Record<number, readonly Finger[]> = {
  1: ['middle'],
  2: ['thumb', 'middle'],
  3: ['thumb', 'index', 'middle'],
  4: ['thumb', 'index', 'middle', 'pinky'],
  5: FINGERS,
};

/** Finds fingers among the chains below a hand: by name where names speak, else by place across the palm. */
export function readFingers(view: SkeletonView, hand: number, side: Side): Record<Slot, SlotEntry> {
  const slots: Record<Slot, SlotEntry> = {};
  const roots = view.children[hand]!.filter(
    (c) => !view.names[c]!.twist && !view.names[c]!.foreign && !view.names[c]!.end,
  );
  const chains = roots.map((root) => phalanges(view, root));
  const named = chains.map(({ all }) => FINGERS.find((f) => all.some((j) => view.names[j]!.parts.has(f))));
  const order: { chain: Chain; finger: Finger; state: 'sure' | 'guessed' }[] = [];
  const told = new Set(named.filter((f) => f !== undefined));
  // one word by chance among others that say nothing is not enough
  if (told.size >= Math.min(2, roots.length) && told.size === named.filter(Boolean).length)
    chains.forEach((chain, i) => {
      if (named[i]) order.push({ chain, finger: named[i]!, state: 'sure' });
    });
  else for (const { chain, finger } of byPlace(view, hand, chains)) order.push({ chain, finger, state: 'guessed' });
  for (const { chain, finger, state } of order)
    chain.joints.forEach((joint, i) => {
      const slot = `${finger}${i + 1}${side}`;
      slots[slot] ??= {
        joint,
        state,
        why: state === 'sure' ? `its name says ${finger}` : 'by its place across the palm',
      };
    });
  return slots;
}

interface Chain {
  /** All joints from the hand on, a bone of the palm among them. */
  readonly all: readonly number[];
  /** Three at most, from the knuckle on. */
  readonly joints: readonly number[];
}

function phalanges(view: SkeletonView, root: number): Chain {
  const all = longestChain(view, root).filter((j) => !view.names[j]!.end);
  return { all, joints: all.length > 3 ? all.slice(isPalmBone(view, all) ? 1 : 0).slice(0, 3) : all };
}

/**
 * Fingers that no name tells: the thumb ends nearest to the wrist and leaves the others' direction; the others follow by
 * distance from it.
 */
function byPlace(view: SkeletonView, hand: number, given: readonly Chain[]): { chain: Chain; finger: Finger }[] {
  const reach = (c: Chain): number => view.reach[c.all[0]!]! + boneLength(view, hand, c.all[0]!);
  const whole = given.filter((c) => view.reach[c.all[0]!]! > 0);
  // a tool in the hand is no finger: it is longer than any
  const middle = whole.map(reach).sort((a, b) => a - b)[(whole.length - 1) >> 1] ?? 0;
  const chains = whole.filter((c) => reach(c) < 1.9 * middle);
  const fingers = BY_COUNT[chains.length];
  if (!fingers) return [];
  if (chains.length === 1) return [{ chain: chains[0]!, finger: fingers[0]! }];
  const at = (j: number): number[] => [0, 1, 2].map((k) => view.pose.p[3 * j + k]!);
  const wrist = at(hand);
  const ends = chains.map(({ joints }) => at(joints.at(-1)!).map((x, k) => x - wrist[k]!));
  const sum = [0, 1, 2].map((k) => ends.reduce((s, e) => s + e[k]!, 0));
  const length = Math.hypot(...sum) || 1;
  const along = ends.map((e) => e.reduce((s, x, k) => s + (x * sum[k]!) / length, 0));
  const far = Math.max(...along, 1e-9);
  const aside = ends.map(
    (e, i) => Math.sqrt(Math.max(0, Math.hypot(...e) ** 2 - along[i]! ** 2)) / (Math.hypot(...e) || 1),
  );
  const likely = chains.map((_, i) => 1 - along[i]! / far + aside[i]!);
  const thumb = chains[likely.indexOf(Math.max(...likely))]!;
  const knuckle = (c: Chain): number => c.joints[0]!;
  const sorted = [...chains].sort(
    (a, b) => boneLength(view, knuckle(a), knuckle(thumb)) - boneLength(view, knuckle(b), knuckle(thumb)),
  );
  return sorted.map((chain, i) => ({ chain, finger: fingers[i]! }));
}

/**
 * Four joints in a finger: the first is a bone of the palm where the last one carries a tip of its own, where its name says so,
 * or where no finger is named before the second joint.
 */
function isPalmBone(view: SkeletonView, chain: readonly number[]): boolean {
  const last = chain.at(-1)!;
  if (!Number.isNaN(view.rig.tips[3 * last]!) || /metacarp|palm/i.test(view.rig.names[chain[0]!]!)) return true;
  const named = chain.findIndex((j) => FINGERS.some((f) => view.names[j]!.parts.has(f)));
  // a bare end is some way off the last joint; bones of one finger get shorter
  if (named < 0) return boneLength(view, chain[2]!, chain[3]!) < 0.95 * boneLength(view, chain[1]!, chain[2]!);
  return named === 1;
}
