import { smoothstep } from '../math/vec';

/**
 * A way of easing as the two inner points of a cubic Bézier curve from (0, 0) to (1, 1): x1, y1, x2, y2. x from 0 to 1, so that
 * time only goes forward; y as one likes.
 */
export type Bend = readonly [x1: number, y1: number, x2: number, y2: number];

/** Ways of easing that have a name. */
export type NamedEase = 'smooth' | 'linear' | 'step';

/** How a value gets from one key to the next. */
export type Ease = NamedEase | Bend;

/** The named ways as bends; a step has none. */
const BENDS = { smooth: [1 / 3, 0, 2 / 3, 1], linear: [1 / 3, 1 / 3, 2 / 3, 2 / 3] } as const satisfies Record<
  string,
  Bend
>;

/** A way of easing as a bend; undefined for a step, which has none. */
export const bendOf = (ease: Ease): Bend | undefined =>
  ease === 'step' ? undefined : typeof ease === 'string' ? BENDS[ease] : ease;

const cubic = (s: number, a: number, b: number): number => {
  const r = 1 - s;
  return 3 * r * r * s * a + 3 * r * s * s * b + s * s * s;
};

/** The parameter of a Bézier curve at which it has come as far as x: Newton's steps, kept between the ends. */
function parameterAt(x: number, x1: number, x2: number): number {
  let low = 0;
  let high = 1;
  let s = x;
  for (let i = 0; i < 60; i++) {
    const off = cubic(s, x1, x2) - x;
    if (Math.abs(off) < 1e-14) break;
    if (off > 0) high = s;
    else low = s;
    const r = 1 - s;
    const slope = 3 * r * r * x1 + 6 * r * s * (x2 - x1) + 3 * s * s * (1 - x2);
    const next = s - off / slope;
    s = slope > 1e-9 && next > low && next < high ? next : (low + high) / 2;
  }
  return s;
}

/** Share of the way between two keys. @param x share of the time, 0 to 1 */
export function easeAt(ease: Ease, x: number): number {
  if (ease === 'step') return x < 1 ? 0 : 1;
  if (ease === 'linear') return x;
  if (ease === 'smooth') return smoothstep(x);
  if (x <= 0 || x >= 1) return x <= 0 ? 0 : 1;
  return cubic(parameterAt(x, ease[0], ease[2]), ease[1], ease[3]);
}

/** A stretch cut in two at a time: how either part eases, and the share of the way at the cut. */
export interface SplitEase {
  readonly before: Ease;
  readonly after: Ease;
  readonly share: number;
}

/**
 * Cuts an eased stretch so that both parts together run as the whole did, exactly (de Casteljau 1959). Only where a bend has
 * come back to its beginning, or is at its end already, can a part not be told as one: it then holds.
 * @param x share of the time at which it is cut, above 0 and below 1
 */
export function splitEase(ease: Ease, x: number): SplitEase {
  if (ease === 'step' || ease === 'linear') return { before: ease, after: ease, share: easeAt(ease, x) };
  const [x1, y1, x2, y2] = ease === 'smooth' ? BENDS.smooth : ease;
  const s = parameterAt(x, x1, x2);
  const mix = (a: number, b: number): number => a + s * (b - a);
  const halves = (a: number, b: number): readonly [number, number, number, number, number] => {
    const [p, q, r] = [mix(0, a), mix(a, b), mix(b, 1)];
    const [u, v] = [mix(p, q), mix(q, r)];
    return [p, u, mix(u, v), v, r];
  };
  const h = halves(x1, x2);
  const v = halves(y1, y2);
  const share = v[2];
  const part = (whole: number, bend: () => Bend): Ease => (Math.abs(whole) < 1e-12 ? 'step' : bend());
  return {
    before: part(share, () => [h[0] / h[2], v[0] / share, h[1] / h[2], v[1] / share]),
    after: part(1 - share, () => [
      (h[3] - h[2]) / (1 - h[2]),
      (v[3] - share) / (1 - share),
      (h[4] - h[2]) / (1 - h[2]),
      (v[4] - share) / (1 - share),
    ]),
    share,
  };
}

/** The keys around a time, and the share of the way from one to the other, easing included. */
export interface Stretch<K> {
  readonly from: K;
  readonly to: K;
  readonly share: number;
}

/**
 * Where a time lies among keys: the one evaluator behind corrections, importance and speed. Before the first key and after the
 * last one theirs holds.
 * @param keys in rising order of time
 * @param time of a key, in whatever unit `at` is told in
 * @returns undefined where there are no keys
 */
export function stretchAt<K>(
  keys: readonly K[],
  time: (key: K) => number,
  ease: (key: K) => Ease,
  at: number,
): Stretch<K> | undefined {
  if (keys.length === 0) return undefined;
  // the last key that is not after it
  let low = 0;
  let high = keys.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (time(keys[middle]!) <= at) low = middle + 1;
    else high = middle;
  }
  const from = keys[Math.max(0, low - 1)]!;
  const to = keys[low];
  if (low === 0 || to === undefined) return { from, to: from, share: 0 };
  const start = time(from);
  return { from, to, share: easeAt(ease(from), (at - start) / (time(to) - start)) };
}

/** A number told by keys, at a time; `none` where there are no keys. See stretchAt. */
export function valueAt<K>(
  keys: readonly K[],
  { time, value, ease }: { time: (key: K) => number; value: (key: K) => number; ease: (key: K) => Ease },
  at: number,
  none = 0,
): number {
  const stretch = stretchAt(keys, time, ease, at);
  if (!stretch) return none;
  const a = value(stretch.from);
  return a + stretch.share * (value(stretch.to) - a);
}
