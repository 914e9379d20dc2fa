/** What a bone may be drawn, metres: as long as it is seen where nothing else asks for more or less. */
export interface Bound {
  readonly seen: number;
  readonly low: number;
  readonly high: number;
}

const within = (value: number, { low, high }: Bound): number => Math.max(low, Math.min(high, value));

/**
 * Where the knee lies, from the hip joint, so that both bones point as they are seen to as nearly as their lengths allow: between
 * where either bone would have it, drawn to where both can reach. The upper bone's bounds are kept; the lower one's where there
 * is such a place.
 */
export function kneeAsSeen(
  [x, y]: readonly [number, number],
  one: readonly [number, number],
  two: readonly [number, number],
  upper: Bound,
  lower: Bound,
): [number, number] {
  const [a, b] = lengthsTo([x, y], one, two, upper, lower);
  const knee: [number, number] = [0.5 * (a * one[0] + x - b * two[0]), 0.5 * (a * one[1] + y - b * two[1])];
  for (let round = 0; round < 8; round++) {
    drawTo(knee, x, y, lower);
    drawTo(knee, 0, 0, upper);
  }
  return knee;
}

/** Draws a point along the line to a centre to where it is within a bone's bounds from there. */
function drawTo(point: [number, number], x: number, y: number, bound: Bound): void {
  const far = Math.hypot(point[0] - x, point[1] - y);
  const to = within(far, bound);
  if (far > 1e-9 && to !== far) {
    point[0] = x + (to / far) * (point[0] - x);
    point[1] = y + (to / far) * (point[1] - y);
  }
}

/** How much a bone that is drawn longer or shorter than it is seen counts against a foot that is missed. */
const STIFF = 0.1;

/** Lengths of two bones that point as told so that their end comes nearest to a place: least squares within bounds. */
function lengthsTo(
  [x, y]: readonly [number, number],
  one: readonly [number, number],
  two: readonly [number, number],
  a: Bound,
  b: Bound,
): [number, number] {
  const k = STIFF * STIFF;
  const dot = one[0] * two[0] + one[1] * two[1];
  const [p, q] = [one[0] * x + one[1] * y + k * a.seen, two[0] * x + two[1] * y + k * b.seen];
  const best = (other: number, want: number, bound: Bound): number => within((want - dot * other) / (1 + k), bound);
  const size = (1 + k) * (1 + k) - dot * dot;
  const free: [number, number] = [((1 + k) * p - dot * q) / size, ((1 + k) * q - dot * p) / size];
  if (within(free[0], a) === free[0] && within(free[1], b) === free[1]) return free;
  // the least lies on the border: a convex bowl over a box has it where one side is held and the other is free
  const cost = ([u, v]: readonly [number, number]): number =>
    (u * one[0] + v * two[0] - x) ** 2 +
    (u * one[1] + v * two[1] - y) ** 2 +
    k * ((u - a.seen) ** 2 + (v - b.seen) ** 2);
  const candidates: [number, number][] = [
    ...[a.low, a.high].map((u): [number, number] => [u, best(u, q, b)]),
    ...[b.low, b.high].map((v): [number, number] => [best(v, p, a), v]),
  ];
  return candidates.reduce((least, candidate) => (cost(candidate) < cost(least) ? candidate : least));
}
