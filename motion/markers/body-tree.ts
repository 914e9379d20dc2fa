import { type Centre, centreOf, sampling } from './centres';
import type { Markers } from './markers';
import { type Course, courseOf, frameOfPoints, intoSegment, outOfSegment, type Segment, stands } from './segments';

/** A segment within the body: what it hangs on, and where. */
export interface Limb extends Segment {
  /** Number of the limb that it hangs on, −1 for the trunk that all hangs on. */
  readonly parent: number;
  /** The joint to the parent, in the parent's frame and in its own; zero for the first. */
  readonly joint: Float64Array;
  readonly own: Float64Array;
  /** How well the joint stays in place, metres. */
  readonly off: number;
  /** How it is turned within its parent where no marker tells; as its parent where left out. */
  readonly usual?: Float64Array;
}

/** A joint's cost is the logarithm of what it is off, and so much for each metre that it is away from the markers of both. */
const FAR_COSTS = 3;
/** How far towards a segment of one or two markers, a foot or a hand, its joint is expected. */
const TO_SMALL = 0.7;
/** How much less a joint to a limb costs on which others hang already, for each of two. */
const CARRIES = 0.15;
/** What costs more where it forks a chain: what is as large as that on which it would hang, or anything. */
export type Forks = 'large' | 'all';
/** How much more it costs where a chain would fork under something no smaller than itself: a chest hangs on no thigh. */
const FORKS = 0.6;

/**
 * Which segment hangs on which, and by what joint: the tree whose joints stay in place best. A segment of one or two markers
 * gets its frame from its joint together with them.
 * Source: O'Brien, Bodenheimer, Brostow and Hodgins 2000 (Automatic joint parameter estimation from magnetic motion capture
 * data), the tree of least residuals; for optical markers Kirk, O'Brien and Forsyth 2005.
 */
export function growTree(markers: Markers, groups: readonly (readonly number[])[], forks: Forks): Limb[] {
  const frames = markers.frameCount;
  const courses = groups.map((g) => g.map((i) => courseOf(markers, i)));
  const whole = groups.map((g, i): Segment | undefined =>
    g.length >= 3 ? { markers: g, ...frameOfPoints(courses[i]!, frames) } : undefined,
  );
  const anywhere = rootOf(markers, groups, whole);
  if (anywhere < 0) return [];
  const rough = growFrom(anywhere, forks, groups, courses, whole, frames);
  const pelvis = groups.indexOf(pelvisOf(rough).markers as number[]);
  return pelvis === anywhere ? rough : growFrom(pelvis, forks, groups, courses, whole, frames);
}

/** The limb that two long chains and the rest of the body hang on: of all with three neighbours the one with the longest two. */
function pelvisOf(limbs: readonly Limb[]): Limb {
  const neighbours = limbs.map((l, i) => [
    ...(l.parent >= 0 ? [l.parent] : []),
    ...limbs.flatMap((c, j) => (c.parent === i ? [j] : [])),
  ]);
  const apart = (i: number, j: number): number => {
    const all: number[] = [];
    const [a, b] = [limbs[i]!.places, limbs[j]!.places];
    for (let f = 0; f < a.length / 3; f += 37) {
      const d = Math.hypot(...[0, 1, 2].map((k) => a[3 * f + k]! - b[3 * f + k]!));
      if (!Number.isNaN(d)) all.push(d);
    }
    return all.sort((x, y) => x - y)[all.length >> 1] ?? 0;
  };
  // a chain goes on as long as nothing branches off
  const chain = (from: number, to: number): number => {
    const on = neighbours[to]!.filter((n) => n !== from);
    return apart(from, to) + (on.length === 1 ? chain(to, on[0]!) : 0);
  };
  const reach = limbs.map((_, i) => {
    if (neighbours[i]!.length < 3) return 0;
    const chains = neighbours[i]!.filter((n) => neighbours[n]!.length < 3)
      .map((n) => chain(i, n))
      .sort((a, b) => b - a);
    return chains.length >= 2 ? chains[0]! + chains[1]! : 0;
  });
  return limbs[reach.indexOf(Math.max(...reach))]!;
}

function growFrom(
  first: number,
  forks: Forks,
  groups: readonly (readonly number[])[],
  courses: readonly (readonly Course[])[],
  whole: readonly (Segment | undefined)[],
  frames: number,
): Limb[] {
  const limbs: Limb[] = [];
  const zero = new Float64Array(3);
  limbs.push({ ...whole[first]!, parent: -1, joint: zero, own: zero, off: 0 });
  const open = new Set(groups.keys());
  open.delete(first);
  const tried = new Map<string, Link | undefined>();
  while (open.size > 0) {
    let best: { group: number; parent: number; link: Link; cost: number } | undefined;
    for (const group of open)
      for (let parent = 0; parent < limbs.length; parent++) {
        const key = `${group}/${parent}`;
        if (!tried.has(key))
          tried.set(key, linkOf(limbs[parent]!, parent === 0, courses[group]!, whole[group], frames));
        const link = tried.get(key);
        // what others hang on already is more likely to carry one more
        const carries = Math.min(2, limbs.filter((l) => l.parent === parent).length);
        const large = groups[group]!.length >= limbs[parent]!.markers.length;
        const forking = carries === 1 && parent !== 0 && (large || forks === 'all') ? FORKS : 0;
        const cost = (link?.cost ?? 0) - CARRIES * carries + forking;
        if (link && (!best || cost < best.cost)) best = { group, parent, link, cost };
      }
    if (!best) break;
    open.delete(best.group);
    limbs.push(
      hang(best.parent, best.link, limbs, groups[best.group]!, courses[best.group]!, whole[best.group], frames),
    );
  }
  return limbs;
}

interface Link extends Centre {
  readonly cost: number;
}

/** The pelvis or the chest: the largest group whose markers are nearest to the middle of all. */
function rootOf(
  markers: Markers,
  groups: readonly (readonly number[])[],
  whole: readonly (Segment | undefined)[],
): number {
  let best = -1;
  let least = Number.POSITIVE_INFINITY;
  const all = groups.flat();
  const middle = (list: readonly number[]): number[] => {
    const sum = [0, 0, 0];
    let n = 0;
    const step = Math.max(1, Math.floor(markers.frameCount / 50));
    for (let f = 0; f < markers.frameCount; f += step)
      for (const i of list) {
        const o = 3 * (f * markers.labels.length + i);
        if (Number.isNaN(markers.places[o]!)) continue;
        for (let k = 0; k < 3; k++) sum[k]! += markers.places[o + k]!;
        n++;
      }
    return sum.map((x) => x / Math.max(1, n));
  };
  const centre = middle(all);
  groups.forEach((g, i) => {
    if (!whole[i]) return;
    const m = middle(g);
    const d = Math.hypot(...m.map((x, k) => x - centre[k]!)) - 0.02 * g.length;
    if (d < least) {
      least = d;
      best = i;
    }
  });
  return best;
}

/** Where a group would hang on a limb. */
function linkOf(
  limb: Limb,
  first: boolean,
  courses: readonly Course[],
  whole: Segment | undefined,
  frames: number,
): Link | undefined {
  const middle = middleIn(limb, courses, frames);
  if (!middle) return undefined;
  // between the middles of both
  const from = first ? [0, 0, 0] : middleOfShape(limb);
  const toChild = whole ? 0.5 : TO_SMALL;
  const expected = [0, 1, 2].map((k) => from[k]! + toChild * (middle[k]! - from[k]!));
  let centre = centreOf(limb, courses, frames, expected);
  if (!centre) return undefined;
  if (whole && limb.markers.length > 0) {
    // seen the other way round as well: the parent's markers about the joint in the child's frame
    const back = centreOf(whole, ownCourses(limb, frames), frames, inOther(limb, whole, centre.at, frames));
    if (back) {
      const again = inOther(whole, limb, back.at, frames);
      const [wa, wb] = [1 / (centre.off ** 2 + 1e-6), 1 / (back.off ** 2 + 1e-6)];
      const at = Float64Array.from([0, 1, 2], (k) => (wa * centre!.at[k]! + wb * again[k]!) / (wa + wb));
      centre = { at, off: Math.max(centre.off, back.off, Math.hypot(...[0, 1, 2].map((k) => at[k]! - again[k]!)) / 4) };
    }
  }
  const near = Math.min(...pointsOf(limb).map((p) => Math.hypot(...[0, 1, 2].map((k) => p[k]! - centre!.at[k]!))));
  const far = Math.hypot(...[0, 1, 2].map((k) => middle[k]! - centre!.at[k]!));
  return { ...centre, cost: Math.log(centre.off + 0.001) + FAR_COSTS * (near + far) };
}

const pointsOf = ({ shape, own, parent }: Limb): Float64Array[] => [
  ...Array.from({ length: shape.length / 3 }, (_, i) => Float64Array.from(shape.subarray(3 * i, 3 * i + 3))),
  ...(parent >= 0 ? [own] : []),
];

const middleOfShape = (limb: Limb): number[] => {
  const points = pointsOf(limb);
  return [0, 1, 2].map((k) => points.reduce((s, p) => s + p[k]!, 0) / points.length);
};

/** The middle of some courses in a segment's frame, over time. */
function middleIn(limb: Segment, courses: readonly Course[], frames: number): number[] | undefined {
  const sum = [0, 0, 0];
  let n = 0;
  const p = new Float64Array(3);
  const step = Math.max(1, Math.floor(frames / 200));
  for (let f = 0; f < frames; f += step) {
    if (!stands(limb, f)) continue;
    for (const c of courses) {
      if (Number.isNaN(c[3 * f]!)) continue;
      intoSegment(limb, f, c, 3 * f, p);
      for (let k = 0; k < 3; k++) sum[k]! += p[k]!;
      n++;
    }
  }
  return n >= 10 ? sum.map((x) => x / n) : undefined;
}

/** A point of one segment's frame in another's, the middle over time. */
function inOther(from: Segment, to: Segment, at: ArrayLike<number>, frames: number): number[] {
  const lists: number[][] = [[], [], []];
  const [w, p] = [new Float64Array(3), new Float64Array(3)];
  const step = Math.max(1, Math.floor(frames / 300));
  for (let f = 0; f < frames; f += step) {
    if (!stands(from, f) || !stands(to, f)) continue;
    outOfSegment(from, f, at, w);
    intoSegment(to, f, w, 0, p);
    for (let k = 0; k < 3; k++) lists[k]!.push(p[k]!);
  }
  return lists.map((l) => l.sort((a, b) => a - b)[l.length >> 1] ?? 0);
}

/** A limb's own points as courses, in the frames that are looked at. */
const ownCourses = (limb: Limb, frames: number): Course[] =>
  Array.from({ length: limb.shape.length / 3 }, (_, i) =>
    courseOfPoint(limb, limb.shape.subarray(3 * i, 3 * i + 3), frames, sampling(frames)),
  );

/** The course of a point of a segment, known in every so many frames. */
function courseOfPoint(segment: Segment, at: ArrayLike<number>, frames: number, step = 1): Course {
  const out = new Float64Array(3 * frames).fill(Number.NaN);
  const p = new Float64Array(3);
  for (let f = 0; f < frames; f += step)
    if (stands(segment, f)) {
      outOfSegment(segment, f, at, p);
      out.set(p, 3 * f);
    }
  return out;
}

function hang(
  parent: number,
  link: Link,
  limbs: readonly Limb[],
  group: readonly number[],
  courses: readonly Course[],
  whole: Segment | undefined,
  frames: number,
): Limb {
  if (whole) {
    const own = Float64Array.from(inOther(limbs[parent]!, whole, link.at, frames));
    return { ...whole, parent, joint: link.at, own, off: link.off };
  }
  // with its joint a segment of two markers has a third point
  const segment = frameOfPoints([...courses, courseOfPoint(limbs[parent]!, link.at, frames)], frames);
  const { shape } = segment;
  const own = shape.slice(shape.length - 3);
  return {
    ...segment,
    markers: group,
    shape: shape.slice(0, shape.length - 3),
    parent,
    joint: link.at,
    own,
    off: link.off,
  };
}
