/** Quintic Hermite that starts with value 1 (or with slope 1) and ends at 0, slopes and curvatures 0. @param x 0 to 1 */
export function fadeOut(x: number): [value: number, slope: number] {
  const x3 = x * x * x;
  return [1 - x3 * (10 - 15 * x + 6 * x * x), x - x3 * (6 - 8 * x + 3 * x * x)];
}

/** The way from 0 to 1 with no slope and no curvature at either end. @param x kept within 0 to 1 */
export const easeAcross = (x: number): number => 1 - fadeOut(Math.min(1, Math.max(0, x)))[0];
