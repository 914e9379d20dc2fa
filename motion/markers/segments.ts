import { rotate3 } from '../math/quat';
import { rigidFit } from '../math/rigid-fit';
import { type Markers, seen } from './markers';
import { usualDistances } from './swaps-by-distance';

/** Markers that move as one. */
export interface Segment {
  readonly markers: readonly number[];
  /** How the markers lie to one another, 3 numbers each, metres, about their middle. */
  readonly shape: Float64Array;
  /** Frame-major turns (x y z w) and places of the segment; NaN where too few markers were seen. */
  readonly turns: Float64Array;
  readonly places: Float64Array;
}

/** Markers whose distances vary by less than this, metres, can lie on one bone. */
export const USUAL_LOOSENESS = 0.006;

/**
 * Markers in groups that keep their distances: complete linkage, so that every pair of a group does.
 * @param looseness how much a distance may vary within a group, metres
 */
export function groupMarkers(markers: Markers, looseness: number): number[][] {
  const m = markers.labels.length;
  const usual = usualDistances(markers);
  const cost = (i: number, j: number): number => {
    const { far, varies } = usual[i]![j]!;
    // of pairs that are alike the near ones belong together first
    return varies + FAR_COSTS * far;
  };
  let groups = Array.from({ length: m }, (_, i) => [i]).filter(([i]) => markersSeen(markers, i!));
  for (;;) {
    let best: [number, number, number] | undefined;
    for (let a = 0; a < groups.length; a++)
      for (let b = a + 1; b < groups.length; b++) {
        let worst = 0;
        for (const i of groups[a]!) for (const j of groups[b]!) worst = Math.max(worst, cost(i, j));
        if (worst < looseness + FAR_COSTS * MOST_APART && (!best || worst < best[2])) best = [a, b, worst];
      }
    if (!best) return groups;
    const [a, b] = best;
    groups = [...groups.filter((_, k) => k !== a && k !== b), [...groups[a]!, ...groups[b]!]];
  }
}

const FAR_COSTS = 0.004;
/** No bone that carries markers is longer, metres. */
const MOST_APART = 0.5;
/** A marker that is hardly ever seen tells nothing. */
const LEAST_SEEN = 20;

const markersSeen = (markers: Markers, i: number): boolean => {
  let n = 0;
  for (let f = 0; f < markers.frameCount && n < LEAST_SEEN; f++) if (seen(markers, f, i)) n++;
  return n >= Math.min(LEAST_SEEN, 0.05 * markers.frameCount);
};

/** Points over time: 3 numbers a frame, NaN where unknown. */
export type Course = Float64Array;

/** The course of one marker. */
export function courseOf({ places, labels, frameCount }: Markers, i: number): Course {
  const out = new Float64Array(3 * frameCount);
  for (let f = 0; f < frameCount; f++)
    for (let k = 0; k < 3; k++) out[3 * f + k] = places[3 * (f * labels.length + i) + k]!;
  return out;
}

/**
 * The frame of points that move as one: how they lie to one another, and how that stands in every frame in which at least three
 * of them are known. Points far from where the others say are left out of a frame.
 */
export function frameOfPoints(courses: readonly Course[], frames: number): Omit<Segment, 'markers'> {
  const n = courses.length;
  const shape = new Float64Array(3 * n);
  const { weights, to, load } = pointsOf(courses);
  // begin with the fullest frame, and take the middle of what all the others say
  let start = 0;
  let most = 0;
  for (let f = 0; f < frames && most < n; f++) {
    const count = load(f);
    if (count > most) {
      most = count;
      start = f;
    }
  }
  load(start);
  shape.set(to);
  const known = weights.slice();
  const step = Math.max(1, Math.floor(frames / 500));
  const p = new Float64Array(3);
  for (let round = 0; round < 3; round++) {
    const all: number[][] = Array.from({ length: 3 * n }, () => []);
    for (let f = 0; f < frames; f += step) {
      if (load(f) < 3) continue;
      for (let i = 0; i < n; i++) if (!known[i]) weights[i] = 0;
      const seenNow = Float64Array.from(courses, (c) => (Number.isNaN(c[3 * f]!) ? 0 : 1));
      const back = rigidFit(to, shape, weights);
      if (!back) continue;
      for (let i = 0; i < n; i++) {
        if (!seenNow[i]) continue;
        rotate3(p, 0, back.turn, 0, to, 3 * i);
        for (let k = 0; k < 3; k++) all[3 * i + k]!.push(p[k]! + back.shift[k]!);
      }
    }
    for (let i = 0; i < 3 * n; i++) {
      const list = all[i]!.sort((a, b) => a - b);
      if (list.length === 0) continue;
      shape[i] = list[list.length >> 1]!;
      known[Math.floor(i / 3)] = 1;
    }
  }
  // about its middle
  for (let k = 0; k < 3; k++) {
    let sum = 0;
    for (let i = 0; i < n; i++) sum += shape[3 * i + k]!;
    for (let i = 0; i < n; i++) shape[3 * i + k]! -= sum / n;
  }
  return { shape, ...framesOfShape(shape, courses, frames) };
}

/** Points of one frame at a time, with a weight of 0 where they are unknown. */
function pointsOf(courses: readonly Course[]) {
  const n = courses.length;
  const weights = new Float64Array(n);
  const to = new Float64Array(3 * n);
  const load = (f: number): number => {
    let count = 0;
    for (let i = 0; i < n; i++) {
      const x = courses[i]![3 * f]!;
      weights[i] = Number.isNaN(x) ? 0 : 1;
      if (weights[i]) count++;
      for (let k = 0; k < 3; k++) to[3 * i + k] = weights[i] ? courses[i]![3 * f + k]! : 0;
    }
    return count;
  };
  return { weights, to, load };
}

/**
 * How points whose shape is known stand in every frame in which at least three of them are seen. A point far from where the
 * others say is left out of a frame.
 */
export function framesOfShape(
  shape: Float64Array,
  courses: readonly Course[],
  frames: number,
): Pick<Segment, 'turns' | 'places'> {
  const n = courses.length;
  const { weights, to, load } = pointsOf(courses);
  const turns = new Float64Array(4 * frames).fill(Number.NaN);
  const places = new Float64Array(3 * frames).fill(Number.NaN);
  const p = new Float64Array(3);
  for (let f = 0; f < frames; f++) {
    if (load(f) < 3) continue;
    const whole = rigidFit(shape, to, weights);
    if (!whole) continue;
    // what lies far off where the others say is something else
    let worst = -1;
    let far = OFF_THE_BONE;
    for (let i = 0; i < n; i++) {
      if (!weights[i]) continue;
      rotate3(p, 0, whole.turn, 0, shape, 3 * i);
      const d = Math.hypot(...[0, 1, 2].map((k) => p[k]! + whole.shift[k]! - to[3 * i + k]!));
      if (d > far) {
        far = d;
        worst = i;
      }
    }
    if (worst >= 0) {
      weights[worst] = 0;
      if (weights.reduce((a, b) => a + b, 0) < 3) continue;
    }
    const fit = worst >= 0 ? rigidFit(shape, to, weights) : whole;
    if (!fit) continue;
    turns.set(fit.turn, 4 * f);
    places.set(fit.shift, 3 * f);
  }
  return { turns, places };
}

const OFF_THE_BONE = 0.03;

/** Whether a segment's frame is known. */
export const stands = ({ places }: Pick<Segment, 'places'>, f: number): boolean => !Number.isNaN(places[3 * f]!);

/** A point of the world in a segment's frame. */
export function intoSegment(
  s: Pick<Segment, 'turns' | 'places'>,
  f: number,
  p: ArrayLike<number>,
  o: number,
  out: Float64Array,
): void {
  const q = [-s.turns[4 * f]!, -s.turns[4 * f + 1]!, -s.turns[4 * f + 2]!, s.turns[4 * f + 3]!];
  const d = [0, 1, 2].map((k) => p[o + k]! - s.places[3 * f + k]!);
  rotate3(out, 0, q, 0, d, 0);
}

/** A point of a segment's frame in the world. */
export function outOfSegment(
  s: Pick<Segment, 'turns' | 'places'>,
  f: number,
  p: ArrayLike<number>,
  out: Float64Array,
): void {
  rotate3(out, 0, s.turns, 4 * f, p, 0);
  for (let k = 0; k < 3; k++) out[k]! += s.places[3 * f + k]!;
}
