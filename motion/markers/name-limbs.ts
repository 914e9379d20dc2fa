import type { Slot } from '../bodymap/slots';
import { crossOf } from '../math/vec';

/** A limb as far as its part in a body goes: what it hangs on, and where it stands in one frame. */
export interface StandingLimb {
  readonly parent: number;
  /** Its joint to the parent. */
  readonly at: readonly number[];
  /** Where it ends, for a last one: beyond its farthest markers. */
  readonly tip: readonly number[] | undefined;
}

const minus = (a: readonly number[], b: readonly number[]): number[] => a.map((x, k) => x - b[k]!);
const dot = (a: readonly number[], b: readonly number[]): number => a.reduce((s, x, k) => s + x * b[k]!, 0);

/**
 * What every limb is, by how they hang together: on the pelvis two chains without branches, the legs, and one that leads to
 * where the arms and the head hang. Left is where the feet, which reach ahead, say. Limb 0 is the pelvis.
 * @returns a slot for each limb, undefined for those that fit nowhere; undefined altogether for what is no body on two legs
 */
export function nameLimbs(limbs: readonly StandingLimb[]): (Slot | undefined)[] | undefined {
  const children = limbs.map((_, i) => limbs.flatMap((l, j) => (l.parent === i ? [j] : [])));
  const size = (i: number): number => 1 + children[i]!.reduce((s, c) => s + size(c), 0);
  const branches = (i: number): boolean => children[i]!.length > 1 || children[i]!.some(branches);
  const chain = (i: number): number[] => [i, ...(children[i]!.length === 1 ? chain(children[i]![0]!) : [])];
  const long = (i: number): number => {
    const all = chain(i);
    let sum = 0;
    all.forEach((j, k) => {
      const next = all[k + 1] === undefined ? limbs[j]!.tip : limbs[all[k + 1]!]!.at;
      if (next) sum += Math.hypot(...minus(next, limbs[j]!.at));
    });
    return sum;
  };
  const spine = children[0]!.filter(branches).sort((a, b) => size(b) - size(a))[0];
  const legs = children[0]!
    .filter((c) => c !== spine && !branches(c))
    .sort((a, b) => long(b) - long(a))
    .slice(0, 2);
  if (spine === undefined || legs.length < 2 || legs.some((l) => chain(l).length < 2)) return undefined;
  const back = [spine];
  while (children[back.at(-1)!]!.length === 1) back.push(children[back.at(-1)!]![0]!);
  const chest = back.at(-1)!;
  const hung = children[chest]!;
  // up is from the legs to what hangs on the chest
  const middle = (list: readonly number[]): number[] =>
    [0, 1, 2].map((k) => list.reduce((s, i) => s + limbs[i]!.at[k]!, 0) / list.length);
  const up = minus(middle(hung), middle(legs));
  const end = (i: number): readonly number[] => {
    const last = limbs[chain(i).at(-1)!]!;
    return last.tip ?? last.at;
  };
  const rises = (i: number): number => dot(minus(end(i), middle(hung)), up) / Math.max(1e-9, Math.hypot(...up));
  const arms = hung
    .filter((c) => chain(c).length >= 2)
    .sort((a, b) => long(b) - long(a))
    .slice(0, 2);
  const head = hung.filter((c) => !arms.includes(c)).sort((a, b) => rises(b) - rises(a))[0];
  // feet reach ahead of their ankles
  const ahead = [0, 0, 0];
  for (const leg of legs) {
    const foot = limbs[chain(leg)[2] ?? -1];
    if (foot?.tip) minus(foot.tip, foot.at).forEach((x, k) => (ahead[k]! += x));
  }
  const left = crossOf(up, ahead);
  if (Math.hypot(...left) < 1e-9) return undefined;
  const names: (Slot | undefined)[] = limbs.map(() => undefined);
  names[0] = 'hips';
  back.forEach((i, k) => {
    names[i] = `spine${k + 1}`;
  });
  if (head !== undefined) {
    const neck = chain(head);
    neck.slice(0, -1).forEach((i, k) => {
      names[i] = `neck${k + 1}`;
    });
    names[neck.at(-1)!] = 'head';
  }
  const sideways = (i: number, from: readonly number[]): number => dot(minus(limbs[i]!.at, from), left);
  const pair = (two: readonly number[], parts: readonly string[]): void => {
    const from = middle(two);
    const sorted = [...two].sort((a, b) => sideways(b, from) - sideways(a, from));
    sorted.forEach((first, s) => {
      // a single arm, or one of two that hang on one spot, has the side on which it is
      const side = two.length === 2 ? 'LR'[s]! : sideways(first, limbs[0]!.at) > 0 ? 'L' : 'R';
      chain(first).forEach((i, k) => {
        if (parts[k]) names[i] = parts[k] + side;
      });
    });
  };
  pair(legs, ['thigh', 'shin', 'foot', 'toes']);
  pair(
    arms,
    arms.some((a) => chain(a).length > 3) ? ['collar', 'upperArm', 'forearm', 'hand'] : ['upperArm', 'forearm', 'hand'],
  );
  return names;
}
