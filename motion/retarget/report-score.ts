import type { Report } from './report';

/** Losses at which a fault has cost about two thirds of what it can. */
const PARTS: readonly [value: (r: Pick<Report, ScoredKey>) => number, scale: number, most: number][] = [
  [(r) => r.slip.maxPercentLeg, 3, 25],
  [(r) => r.floor.maxDepthCm, 2, 15],
  [(r) => Math.max(0, r.hover.maxPercentLeg - 0.3), 3, 8],
  [(r) => r.reach.maxCm + r.reach.handsCm, 4, 15],
  [(r) => Math.max(0, r.snap.ratio - 1.2), 2, 10],
  [(r) => Math.max(0, r.jitter.ratio - 1.2), 2, 7],
  [(r) => r.crossing.maxCm, 6, 10],
  [(r) => Math.max(0, r.direction.meanDeg - 1), 10, 10],
];
type ScoredKey = 'slip' | 'floor' | 'hover' | 'reach' | 'snap' | 'jitter' | 'crossing' | 'direction';

/** One figure for a finished fitting, 0 to 100, to put many of them in order: 100 where nothing measured is off. */
export function scoreReport(report: Pick<Report, ScoredKey>): number {
  const loss = PARTS.reduce(
    (sum, [value, scale, most]) => sum + most * (1 - Math.exp(-Math.max(0, value(report)) / scale)),
    0,
  );
  return Math.max(0, Math.round(100 - loss));
}
