import type { FitWish } from '@/solver/solve-fit';

const keys = new WeakMap<FitWish, number>();
let last = 0;

/** A number of its own for every wish, to keep answers by: to spell out the whole wish costs the page 10 ms a time. */
export function wishKey(wish: FitWish | undefined): number {
  if (!wish) return 0;
  const known = keys.get(wish) ?? ++last;
  keys.set(wish, known);
  return known;
}
