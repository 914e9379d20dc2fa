import type { Plant } from '../analysis/plants';
import { norm } from '../math/fast';
import { clamp, smoothstep } from '../math/vec';
import { ankleAt, footTurn, type KneelingLeg } from './kneeling-leg';

/** The spot of every plant of a knee, and between two plants a displacement that runs from one to the next. */
export function findSpots(leg: KneelingLeg, spans: readonly Plant[], heights: Float64Array): void {
  const { knee, spot } = leg;
  const frames = knee.length / 3;
  const own = [...spans].sort((a, b) => a.start - b.start);
  const away = new Float64Array(3 * frames);
  for (const span of own) {
    const at = spotOf(leg, span, heights);
    for (let f = span.start; f <= span.end; f++)
      for (let k = 0; k < 3; k++) away[3 * f + k] = (k === 1 ? heights[f]! : at[k]!) - knee[3 * f + k]!;
  }
  let next = 0;
  for (let f = 0; f < frames; f++) {
    while (next < own.length && own[next]!.end < f) next++;
    const [before, after] = [own[next - 1], own[next]];
    if (!after || f < after.start) {
      const [a, b] = [before?.end ?? after!.start, after?.start ?? before!.end];
      const mix = a === b ? 0 : smoothstep((f - a) / (b - a));
      for (let k = 0; k < 3; k++) away[3 * f + k] = (1 - mix) * away[3 * a + k]! + mix * away[3 * b + k]!;
    }
    for (let k = 0; k < 3; k++) spot[3 * f + k] = knee[3 * f + k]! + away[3 * f + k]!;
  }
}

/** Where a knee lies through one plant: beside its own foot where that stands, else where it came to. */
function spotOf(leg: KneelingLeg, span: Plant, heights: Float64Array): readonly [number, number, number] {
  const { knee, track, planned, bones } = leg;
  const mean = [0, 0];
  const beside = [0, 0];
  const shin = [0, 0, 0];
  const length = span.end - span.start + 1;
  const standing: number[] = [];
  for (let f = span.start; f <= span.end; f++) {
    mean[0] = mean[0]! + knee[3 * f]! / length;
    mean[1] = mean[1]! + knee[3 * f + 2]! / length;
    if (!planned.held[f] || planned.pivot[f] === 0) continue;
    for (let k = 0; k < 3; k++) shin[k] = shin[k]! + (knee[3 * f + k]! - track.ankle[3 * f + k]!);
    beside[0] = beside[0]! + planned.goal[3 * f]! + knee[3 * f]! - track.ankle[3 * f]!;
    beside[1] = beside[1]! + planned.goal[3 * f + 2]! + knee[3 * f + 2]! - track.ankle[3 * f + 2]!;
    standing.push(f);
  }
  const height = [...heights.subarray(span.start, span.end + 1)].sort((a, b) => a - b)[length >> 1]!;
  if (span.pin) return [span.pin[0], height, span.pin[1]];
  const flat = Math.hypot(shin[0]!, shin[2]!);
  if (flat < 1e-6) return [mean[0]!, height, mean[1]!];
  const [hx, hz] = [shin[0]! / flat, shin[2]! / flat];
  const middle = standing[standing.length >> 1]!;
  // slid along the shin to where shin and foot together turn least
  const cost = (by: number): number => {
    const o = 3 * middle;
    const at = [
      planned.goal[o]! + knee[o]! - track.ankle[o]! + by * hx,
      height,
      planned.goal[o + 2]! + knee[o + 2]! - track.ankle[o + 2]! + by * hz,
    ];
    const turn = footTurn(leg, middle, at);
    const ankle = ankleAt(leg, middle, turn);
    let dot = 0;
    for (let k = 0; k < 3; k++) dot += ((at[k]! - ankle[k]!) / bones[1]) * (knee[o + k]! - track.ankle[o + k]!);
    const bent = Math.acos(clamp(dot / bones[1], -1, 1));
    const short = norm(at[0]! - ankle[0]!, at[1]! - ankle[1]!, at[2]! - ankle[2]!) - bones[1];
    return turn * turn + bent * bent + 100 * (short / bones[1]) ** 2;
  };
  const by = least(cost, -0.5 * bones[1], 0.5 * bones[1]);
  return [beside[0]! / standing.length + by * hx, height, beside[1]! / standing.length + by * hz];
}

/** Golden-section search for the least of a function with one valley. */
function least(of: (x: number) => number, from: number, to: number): number {
  const g = (Math.sqrt(5) - 1) / 2;
  let [a, b] = [from, to];
  let [x, y] = [b - g * (b - a), a + g * (b - a)];
  let [fx, fy] = [of(x), of(y)];
  for (let i = 0; i < 24; i++) {
    if (fx < fy) {
      [b, y, fy] = [y, x, fx];
      x = b - g * (b - a);
      fx = of(x);
    } else {
      [a, x, fx] = [x, y, fy];
      y = a + g * (b - a);
      fy = of(y);
    }
  }
  return (a + b) / 2;
}
