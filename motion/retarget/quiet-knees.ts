import { clamp } from '../math/vec';

/** One leg over time, as its two bones see it. */
export interface LegCourse {
  /** F: distance between hip joint and ankle, metres. */
  readonly distance: Float64Array;
  /** Lengths of thigh and shin, metres. */
  readonly bones: readonly [number, number];
  /** How much nearer to the hip and how much farther from it the ankle may come in a frame, metres; 0 where it may not. */
  readonly room: (frame: number) => readonly [nearer: number, farther: number];
}

const PASSES = 60;
/** Aimed at a little below what is allowed, since a later step is of one part in some. */
const AIM = 0.97;

/**
 * Eases sudden bends of a knee where its foot is free: as a foot lands or leaves near full length, the last millimetres turn
 * the knee by degrees. Distances change by as little as brings the bend's second difference down to what is allowed, by
 * projecting onto one broken constraint after the other (Kaczmarz 1937); frames without room do not take part.
 * @param allowed largest second difference of the bend, radians a frame squared
 * @returns change of the distance in each frame, metres; undefined where nothing bends too suddenly or nothing would be won
 */
export function quietKnee({ distance, bones, room }: LegCourse, allowed: number): Float64Array | undefined {
  const frames = distance.length;
  const [a, b] = bones;
  const bendAt = (d: number): number => Math.acos(clamp((d * d - a * a - b * b) / (2 * a * b), -1, 1));
  const bend = new Float64Array(frames);
  for (let f = 0; f < frames; f++) bend[f] = bendAt(distance[f]!);
  const over = (f: number): number => bend[f - 1]! - 2 * bend[f]! + bend[f + 1]!;
  let broken: number[] = [];
  const sharpest = (): number => {
    let most = 0;
    for (let f = 1; f + 1 < frames; f++) {
      const by = Math.abs(bend[f - 1]! - 2 * bend[f]! + bend[f + 1]!);
      if (by > most) most = by;
    }
    return most;
  };
  for (let f = 1; f + 1 < frames; f++)
    if (Math.abs(bend[f - 1]! - 2 * bend[f]! + bend[f + 1]!) > allowed) broken.push(f);
  if (broken.length === 0) return undefined;
  const before = sharpest();
  // least and most bend of a frame; a leg bends more the nearer its ends are
  const ranges = new Map<number, readonly [number, number]>();
  const range = (f: number): readonly [number, number] => {
    let r = ranges.get(f);
    if (!r) {
      const [nearer, farther] = room(f);
      r = [bendAt(distance[f]! + farther), bendAt(distance[f]! - nearer)];
      ranges.set(f, r);
    }
    return r;
  };
  const free = (f: number): number => (range(f)[1] - range(f)[0] > 1e-6 ? 1 : 0);
  const move = (f: number, by: number): void => {
    bend[f] = clamp(bend[f]! + by, ...range(f));
  };
  for (let pass = 0; pass < PASSES && broken.length > 0; pass++) {
    const touched = new Set<number>();
    for (const f of broken) {
      const c = over(f);
      const excess = Math.abs(c) - AIM * allowed;
      if (excess <= 0) continue;
      const [w0, w1, w2] = [free(f - 1), free(f), free(f + 1)];
      const whole = w0 + 4 * w1 + w2;
      if (whole === 0) continue;
      const step = (Math.sign(c) * excess) / whole;
      if (w0) move(f - 1, -step);
      if (w1) move(f, 2 * step);
      if (w2) move(f + 1, -step);
      for (let g = f - 2; g <= f + 2; g++) if (g > 0 && g + 1 < frames) touched.add(g);
    }
    broken = [...touched].filter((f) => Math.abs(over(f)) > allowed).sort((x, y) => x - y);
  }
  // with too little room a bend can only be passed on to its neighbours
  if (sharpest() > before) return undefined;
  const change = new Float64Array(frames);
  for (const f of ranges.keys())
    if (free(f)) change[f] = Math.sqrt(a * a + b * b + 2 * a * b * Math.cos(bend[f]!)) - distance[f]!;
  return change;
}
