import { type BitReader, type BitWriter, zigzag } from './bits';
import { levelOf, ONE, type SymbolReader, type SymbolWriter } from './entropy';
import { ORDERS, SEEDS } from './layout';

// Runs of whole numbers that belong together (the components of one joint's turn) are coded frame by frame, so that a reader
// walks its memory once. Taking one component's leap as a sign that the next leaps, too, made files 0.8 % smaller and reading
// a fifth slower: it is not done.

/** Sizes above this no longer widen what is expected. */
const LARGEST = 1 << 21;
/** Widths follow the sizes of residuals by a half, then a quarter, then an eighth of the difference. */
const followBy = (i: number): number => (i < SEEDS + 2 ? 1 : i < SEEDS + 6 ? 2 : 3);
/** Mean sizes are never less, in parts of ONE: also what looks constant moves at last. */
const LEAST = 16;
/** Size of a folded residual, in parts of ONE. Folded residuals are 32 bits, handled as signed ones: those are quick. */
const sizeOf = (folded: number): number => {
  const size = (folded + 1) >>> 1;
  // as whole numbers throughout: reading takes half as long again where a product may be a fraction
  return Math.min(size, LARGEST) << 8;
};

/** What is expected of the first residual that is coded, by the last one that was told. */
const seedOf = (folded: number): number => sizeOf(folded) + (ONE >> 1);

/** Weights of the last three values in what a run of an order expects: 0, the last one, the line, the parabola through them. */
const WEIGHTS = [
  [0, 0, 0],
  [1, 0, 0],
  [2, -1, 0],
  [3, -3, 1],
] as const;

/** What a run expects of its first values, which are told plainly: 0, then the one before. */
const seedGuess = (order: number, i: number, v1: number): number => (i > 0 && order > 0 ? v1 : 0);

/** The value before the seeds, as if the run had gone on straight: the parabola is a line at first. */
const beforeSeeds = (v1: number, v2: number): number => (2 * v2 - v1) | 0;

/** Writes a group of runs of equal length. @param runs whole numbers, `count` of each */
export function writeGroup(runs: readonly Int32Array[], count: number, symbols: SymbolWriter, plain: BitWriter): void {
  const orders = runs.map((run) => bestOrder(run, count));
  for (const order of orders) plain.bits(order, 2);
  const means = new Int32Array(runs.length);
  for (let i = 0; i < count; i++) {
    for (let k = 0; k < runs.length; k++) {
      const run = runs[k]!;
      const order = orders[k]!;
      if (i < SEEDS) {
        const folded = zigzag((run[i]! - seedGuess(order, i, run[i - 1] ?? 0)) | 0) | 0;
        plain.gamma(folded);
        means[k] = seedOf(folded);
        continue;
      }
      const folded = zigzag((run[i]! - expected(run, i, order)) | 0) | 0;
      const mean = means[k]!;
      symbols.add(folded, levelOf(mean), plain);
      const size = sizeOf(folded);
      means[k] = Math.max(LEAST, mean + ((size - mean) >> followBy(i)));
    }
  }
}

function expected(run: Int32Array, i: number, order: number): number {
  const [a, b, c] = WEIGHTS[order]!;
  const [v1, v2] = [run[i - 1]!, run[i - 2]!];
  return (Math.imul(a, v1) + Math.imul(b, v2) + Math.imul(c, i > SEEDS ? run[i - 3]! : beforeSeeds(v1, v2))) | 0;
}

/** The order whose residuals are told in the fewest bits, by the sum of their sizes' logarithms. */
function bestOrder(run: Int32Array, count: number): number {
  const costs = new Float64Array(ORDERS + 1);
  for (let i = SEEDS; i < count; i++) {
    for (let order = 0; order <= ORDERS; order++)
      costs[order] = costs[order]! + Math.log2(1 + 2 * Math.abs(run[i]! - expected(run, i, order)));
  }
  let best = 0;
  for (let order = 1; order <= ORDERS; order++) if (costs[order]! < costs[best]!) best = order;
  return best;
}

/**
 * Reads a group of runs: run k goes to dst[start + offsets[k] + i · stride], times the step.
 * @throws MotionError 'truncated' or 'bad-structure' from the readers
 */
export function readGroup(
  dst: Float32Array,
  offsets: readonly number[],
  start: number,
  stride: number,
  count: number,
  step: number,
  symbols: SymbolReader,
  plain: BitReader,
): void {
  const n = offsets.length;
  // a bundle makes variables of a module's constants, which would be looked up for every number
  const { orders, means, past, weights } = scratch;
  for (let k = 0; k < n; k++) orders[k] = plain.bits(2);
  let at = start;
  const seeds = Math.min(SEEDS, count);
  past.fill(0);
  for (let i = 0; i < seeds; i++, at += stride)
    for (let k = 0; k < n; k++) {
      const o = 3 * k;
      const folded = plain.gamma() | 0;
      means[k] = seedOf(folded);
      past[o + 1] = past[o]!;
      past[o] = seedGuess(orders[k]!, i, past[o]!) + unfold(folded);
      dst[offsets[k]! + at] = past[o]! * step;
    }
  for (let k = 0; k < n; k++) {
    past[3 * k + 2] = beforeSeeds(past[3 * k]!, past[3 * k + 1]!);
    weights.set(WEIGHTS[orders[k]!]!, 3 * k);
  }
  for (let i = seeds; i < count; i++, at += stride) {
    const by = followBy(i);
    for (let k = 0, o = 0; k < n; k++, o += 3) {
      const mean = means[k]!;
      const folded = symbols.next(levelOf(mean), plain);
      const size = sizeOf(folded);
      const next = (mean + ((size - mean) >> by)) | 0;
      means[k] = Math.max(next, LEAST);
      const v1 = past[o]!;
      const v2 = past[o + 1]!;
      const value =
        (Math.imul(weights[o]!, v1) +
          Math.imul(weights[o + 1]!, v2) +
          Math.imul(weights[o + 2]!, past[o + 2]!) +
          unfold(folded)) |
        0;
      past[o + 2] = v2;
      past[o + 1] = v1;
      past[o] = value;
      dst[offsets[k]! + at] = value * step;
    }
  }
}

const unfold = (folded: number): number => (folded >>> 1) ^ -(folded & 1);

const WIDEST = 4;
/** Of the group that is being read. */
const scratch = {
  orders: new Int32Array(WIDEST),
  means: new Int32Array(WIDEST),
  past: new Int32Array(3 * WIDEST),
  weights: new Int32Array(3 * WIDEST),
};
