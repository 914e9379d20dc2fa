export { seeded } from '../motion/index';

/** Roughly normal, mean 0, deviation 1. */
export const normal = (random: () => number): number =>
  random() + random() + random() + random() + random() + random() - 3;
