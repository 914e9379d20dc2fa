import { norm } from '../math/fast';

/** Running maximum over ±w, then two running means over ±w/2 each: smooth, and nowhere below the input. */
export function envelope(values: Float64Array, w: number): Float64Array {
  const n = values.length;
  const high = new Float64Array(n);
  const queue = new Int32Array(n + 1);
  let head = 0;
  let tail = 0;
  for (let f = 0, next = 0; f < n; f++) {
    for (; next <= Math.min(n - 1, f + w); next++) {
      while (tail > head && values[queue[tail - 1]!]! <= values[next]!) tail--;
      queue[tail++] = next;
    }
    while (queue[head]! < f - w) head++;
    high[f] = values[queue[head]!]!;
  }
  const half = w >> 1;
  return runningMean(runningMean(high, half), half);
}

/** Mean over ±w; beyond the ends the end values go on. */
export function runningMean(values: Float64Array, w: number): Float64Array {
  const n = values.length;
  const out = new Float64Array(n);
  if (w < 1) return values.slice();
  const at = (i: number): number => values[i < 0 ? 0 : i >= n ? n - 1 : i]!;
  let sum = 0;
  for (let i = -w; i <= w; i++) sum += at(i);
  for (let f = 0; f < n; f++) {
    out[f] = sum / (2 * w + 1);
    sum += at(f + w + 1) - at(f - w);
  }
  return out;
}

/** Before the first, after the last and between asked values: held for a while, then towards 0. */
export function fillBetween(ask: Float64Array, fade: number): void {
  const n = ask.length;
  // frames to the nearest asked value before, and its value; then the same from behind, in one pass each
  const away = new Float64Array(n).fill(Number.POSITIVE_INFINITY);
  const value = new Float64Array(n);
  for (let f = 0, since = Number.POSITIVE_INFINITY, last = 0; f < n; f++) {
    if (Number.isNaN(ask[f]!)) since++;
    else {
      since = 0;
      last = ask[f]!;
    }
    away[f] = since;
    value[f] = last;
  }
  for (let f = n - 1, until = Number.POSITIVE_INFINITY, next = 0; f >= 0; f--) {
    if (Number.isNaN(ask[f]!)) until++;
    else {
      until = 0;
      next = ask[f]!;
    }
    if (until < away[f]!) {
      away[f] = until;
      value[f] = next;
    }
  }
  for (let f = 0; f < n; f++) {
    const t = Math.min(1, away[f]! / fade);
    ask[f] = value[f]! * (1 - t * t * (3 - 2 * t));
  }
}

/**
 * Adds vectors that come and go: nowhere smaller than asked, eased over ±w frames, in a direction that wanders as slowly.
 * @param total @param wanted 3 F each, one vector a frame
 */
export function addEased(total: Float64Array, wanted: Float64Array, w: number): void {
  const n = wanted.length / 3;
  const size = new Float64Array(n);
  const along = [new Float64Array(n), new Float64Array(n), new Float64Array(n)] as const;
  let any = false;
  for (let f = 0; f < n; f++) {
    for (let k = 0; k < 3; k++) along[k]![f] = wanted[3 * f + k]!;
    size[f] = norm(wanted[3 * f]!, wanted[3 * f + 1]!, wanted[3 * f + 2]!);
    if (size[f]! > 0) any = true;
  }
  if (!any) return;
  const high = envelope(size, w);
  const x = runningMean(runningMean(along[0], w), w);
  const y = runningMean(runningMean(along[1], w), w);
  const z = runningMean(runningMean(along[2], w), w);
  for (let f = 0; f < n; f++) {
    const length = norm(x[f]!, y[f]!, z[f]!);
    if (length < 1e-9) continue;
    const by = high[f]! / length;
    total[3 * f]! += by * x[f]!;
    total[3 * f + 1]! += by * y[f]!;
    total[3 * f + 2]! += by * z[f]!;
  }
}
