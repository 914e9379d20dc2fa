import { DIRECTION_OFF, type Report } from './report';

type Scored = Pick<
  Report,
  'slip' | 'floor' | 'hover' | 'reach' | 'snap' | 'jitter' | 'crossing' | 'direction' | 'hands' | 'limits'
> &
  Partial<Pick<Report, 'body' | 'skin'>>;

interface Fault {
  /** How bad it is: 0 up to where nobody sees it, and at 1 it costs two thirds of what it can. */
  readonly of: (r: Scored) => number;
  /** What is left of the score at worst. */
  readonly left: number;
}

const over = (value: number, free: number, scale: number): number => Math.max(0, value - free) / scale;

/**
 * What takes something off, each by a factor: one thing that is badly wrong is enough to spoil a result. Figures that tell
 * of the same thing count once, by the worse. The numbers were set where forty results spoilt on purpose come in the order in which an eye puts them.
 */
const FAULTS: readonly Fault[] = [
  { of: (r) => over(r.body?.trunkDeg ?? 0, 12, 40), left: 0.02 },
  { of: (r) => Math.max(over(r.body?.apartPercent ?? 0, 2, 18), over(r.skin?.stretch ?? 1, 1.6, 2)), left: 0.02 },
  // what was taken for a body and has neither head nor legs is none
  { of: (r) => over(r.body?.lacking ?? 0, 0, 1.5), left: 0.1 },
  { of: (r) => over(r.crossing.maxCm, 1, 9), left: 0.08 },
  { of: (r) => Math.max(over(r.direction.meanDeg, 2, 10), over(r.direction.p95Deg, 6, 36)), left: 0.08 },
  // a limb that is off for a moment is seen in its lane, and in a point or two
  { of: ({ direction: d }) => (d.maxDeg > DIRECTION_OFF ? 0.7 + over(d.maxDeg, DIRECTION_OFF, 20) : 0), left: 0.98 },
  { of: (r) => over(r.limits.beyondDeg ?? r.limits.maxDeg, 8, 50), left: 0.45 },
  { of: (r) => over(r.hands.apartCm, 2, 12), left: 0.55 },
  { of: (r) => over(r.slip.maxPercentLeg, 0.3, 8), left: 0.3 },
  { of: (r) => over(r.floor.maxDepthCm, 0.3, 8), left: 0.3 },
  { of: (r) => over(r.hover.maxPercentLeg, 0.5, 8), left: 0.5 },
  { of: (r) => over(r.reach.maxCm + r.reach.handsCm, 0.3, 8), left: 0.5 },
  // a movement ten times as sudden is not ten times as bad
  { of: (r) => Math.log(Math.max(1, Math.max(r.snap.ratio, r.jitter.ratio) / 1.2)) / 3, left: 0.4 },
];

/** One figure for a finished fitting, 0 to 100, to put many of them in order: 100 where nothing measured can be seen. */
export function scoreReport(report: Scored): number {
  let score = 100;
  for (const { of, left } of FAULTS) score *= 1 - (1 - left) * (1 - Math.exp(-of(report)));
  return Math.max(0, Math.round(score));
}
