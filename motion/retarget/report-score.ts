import type { Report } from './report';

type Scored = Pick<
  Report,
  'slip' | 'floor' | 'hover' | 'reach' | 'snap' | 'jitter' | 'crossing' | 'direction' | 'hands' | 'limits'
> &
  Partial<Pick<Report, 'body' | 'skin'>>;

interface Fault {
  readonly of: (r: Scored) => number;
  /** Up to here nobody sees it. */
  readonly free: number;
  /** So much more, and it costs two thirds of what it can. */
  readonly scale: number;
  /** What is left of the score at worst. */
  readonly left: number;
}

/** What takes something off, each by a factor: one thing that is badly wrong is enough to spoil a result. */
const FAULTS: readonly Fault[] = [
  { of: (r) => r.body?.trunkDeg ?? 0, free: 12, scale: 25, left: 0.02 },
  { of: (r) => r.body?.apartPercent ?? 0, free: 8, scale: 20, left: 0.02 },
  { of: (r) => r.skin?.stretch ?? 1, free: 1.6, scale: 2, left: 0.05 },
  { of: (r) => r.crossing.maxCm, free: 1, scale: 6, left: 0.15 },
  { of: (r) => r.direction.meanDeg, free: 2, scale: 8, left: 0.2 },
  { of: (r) => r.direction.p95Deg, free: 8, scale: 25, left: 0.35 },
  { of: (r) => r.limits.beyondDeg ?? r.limits.maxDeg, free: 8, scale: 40, left: 0.45 },
  { of: (r) => r.hands.apartCm, free: 2, scale: 12, left: 0.55 },
  { of: (r) => r.slip.maxPercentLeg, free: 0.3, scale: 6, left: 0.35 },
  { of: (r) => r.floor.maxDepthCm, free: 0.3, scale: 6, left: 0.35 },
  { of: (r) => r.hover.maxPercentLeg, free: 0.5, scale: 6, left: 0.6 },
  { of: (r) => r.reach.maxCm + r.reach.handsCm, free: 0.3, scale: 8, left: 0.5 },
  { of: (r) => r.snap.ratio, free: 1.2, scale: 2.5, left: 0.55 },
  { of: (r) => r.jitter.ratio, free: 1.2, scale: 2.5, left: 0.55 },
];

/** One figure for a finished fitting, 0 to 100, to put many of them in order: 100 where nothing measured can be seen. */
export function scoreReport(report: Scored): number {
  let score = 100;
  for (const { of, free, scale, left } of FAULTS) {
    const more = Math.max(0, of(report) - free);
    score *= 1 - (1 - left) * (1 - Math.exp(-more / scale));
  }
  return Math.max(0, Math.round(score));
}
