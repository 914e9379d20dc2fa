import { distance3 } from '../math/vec';
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
  const named = roots.map((root) => FINGERS.find((f) => view.names[root]!.parts.has(f)));
  // one word by chance among others that say nothing is not enough
  const trust = named.filter(Boolean).length >= Math.max(1, roots.length / 2);
  const order: { root: number; finger: Finger; state: 'sure' | 'guessed' }[] = [];
  if (trust) {
    roots.forEach((root, i) => {
      if (named[i]) order.push({ root, finger: named[i]!, state: 'sure' });
    });
  } else {
    const whole = roots.filter((root) => view.reach[root]! > 0 && longestChain(view, root).length >= 1);
    // a tool in the hand is no finger: it is longer than any
    const reaches = whole.map((root) => view.reach[root]! + boneLength(view, hand, root)).sort((a, b) => a - b);
    const middle = reaches[(reaches.length - 1) >> 1] ?? 0;
    const chains = whole.filter((root) => view.reach[root]! + boneLength(view, hand, root) < 1.9 * middle);
    const fingers = BY_COUNT[chains.length];
    if (!fingers) return slots;
    // the thumb's root lies nearest the wrist; the others follow by distance from it
    const thumb = chains.reduce(
      (best, c) => (boneLength(view, hand, c) < boneLength(view, hand, best) ? c : best),
      chains[0]!,
    );
    const sorted =
      chains.length === 1
        ? chains
        : [...chains].sort(
            (a, b) =>
              distance3(view.pose.p, 3 * a, view.pose.p, 3 * thumb) -
              distance3(view.pose.p, 3 * b, view.pose.p, 3 * thumb),
          );
    sorted.forEach((root, i) => order.push({ root, finger: fingers[i]!, state: 'guessed' }));
  }
  for (const { root, finger, state } of order) {
    const chain = longestChain(view, root).filter((j) => !view.names[j]!.end);
    const joints = chain.length > 3 ? chain.slice(isPalmBone(view, chain) ? 1 : 0).slice(0, 3) : chain;
    joints.forEach((joint, i) => {
      const slot = `${finger}${i + 1}${side}`;
      slots[slot] ??= {
        joint,
        state,
        why: state === 'sure' ? `its name says ${finger}` : 'by its place across the palm',
      };
    });
  }
  return slots;
}

/** Four joints in a finger: the first is a bone of the palm where the last one carries a tip of its own. */
function isPalmBone(view: SkeletonView, chain: number[]): boolean {
  const last = chain.at(-1)!;
  return !Number.isNaN(view.rig.tips[3 * last]!) || /metacarp|palm/i.test(view.rig.names[chain[0]!]!);
}
