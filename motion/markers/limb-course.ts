import { arcQuat, mulQuat, rotate3, slerp } from '../math/quat';
import { rigidFit } from '../math/rigid-fit';
import type { Limb } from './body-tree';
import type { Markers } from './markers';
import { outOfSegment } from './segments';

/** A limb's turns (x y z w) and places, frame-major, in every frame. */
export interface Course {
  readonly turns: Float64Array;
  readonly places: Float64Array;
}

/** How far a marker may be from where its distance to the joint says before it counts as another one, metres. */
const STRANGER = 0.03;

/**
 * A limb's turns and places in every frame. Where too few of its markers were seen it stays on its joint, and what was seen
 * turns it from where it would be between the frames around.
 * @param parent the course of the limb that it hangs on, whole already
 */
export function whole(limb: Limb, parent: Course | undefined, markers: Markers): Course {
  const { turns, places } = limb;
  const frames = markers.frameCount;
  const out: Course = { turns: turns.slice(), places: places.slice() };
  if (!places.some((x) => !Number.isNaN(x))) {
    // one whose frame was never known goes with its parent, turned by what was seen of it
    for (let f = 0; f < frames; f++) {
      if (parent && limb.usual) mulQuat(out.turns, 4 * f, parent.turns, 4 * f, limb.usual, 0);
      else if (parent) out.turns.set(parent.turns.subarray(4 * f, 4 * f + 4), 4 * f);
      else out.turns.set([0, 0, 0, 1], 4 * f);
      out.places.fill(0, 3 * f, 3 * f + 3);
      steer(limb, parent, markers, f, out);
    }
    return out;
  }
  let last = -1;
  for (let f = 0; f <= frames; f++) {
    if (f < frames && Number.isNaN(places[3 * f]!)) continue;
    for (let g = last + 1; g < f; g++) {
      // before the first and after the last it stays as it was then
      const [a, b] = [last < 0 ? f : last, f >= frames ? last : f];
      if (a < 0 || b < 0 || a >= frames) continue;
      const t = a === b ? 0 : (g - a) / (b - a);
      slerp(out.turns, 4 * g, turns, 4 * a, turns, 4 * b, t);
      for (let k = 0; k < 3; k++)
        out.places[3 * g + k] = places[3 * a + k]! + t * (places[3 * b + k]! - places[3 * a + k]!);
      steer(limb, parent, markers, g, out);
    }
    last = f;
  }
  return out;
}

/** Brings a limb in one frame onto its joint and towards those of its markers that were seen. */
function steer(limb: Limb, parent: Course | undefined, markers: Markers, f: number, out: Course): void {
  const m = markers.labels.length;
  const p = new Float64Array(3);
  const points: { own: Float64Array; at: number[] }[] = [];
  limb.markers.forEach((marker, k) => {
    const o = 3 * (f * m + marker);
    if (!Number.isNaN(markers.places[o]!))
      points.push({ own: limb.shape.subarray(3 * k, 3 * k + 3), at: [0, 1, 2].map((c) => markers.places[o + c]!) });
  });
  if (!parent) {
    // nothing holds the first limb: it moves with what was seen of it
    if (points.length === 0) return;
    const by = [0, 0, 0];
    for (const { own, at } of points) {
      outOfSegment(out, f, own, p);
      for (let k = 0; k < 3; k++) by[k]! += (at[k]! - p[k]!) / points.length;
    }
    if (Math.hypot(...by) < 10 * STRANGER) for (let k = 0; k < 3; k++) out.places[3 * f + k]! += by[k]!;
    return;
  }
  const joint = new Float64Array(3);
  outOfSegment(parent, f, limb.joint, joint);
  const far = (a: ArrayLike<number>, b: ArrayLike<number>): number =>
    Math.hypot(a[0]! - b[0]!, a[1]! - b[1]!, a[2]! - b[2]!);
  const held = points.filter(({ own, at }) => Math.abs(far(own, limb.own) - far(at, joint)) < STRANGER);
  held.sort((a, b) => far(b.own, limb.own) - far(a.own, limb.own));
  const turn = out.turns.subarray(4 * f, 4 * f + 4);
  const [from, to, arc] = [new Float64Array(3), new Float64Array(3), new Float64Array(4)];
  const aim = ({ own, at }: (typeof held)[number]): void => {
    const direction = own.map((x, k) => x - limb.own[k]!);
    rotate3(from, 0, turn, 0, direction, 0);
    for (let k = 0; k < 3; k++) to[k] = at[k]! - joint[k]!;
    if (Math.hypot(...from) < 0.02) return;
    arcQuat(arc, 0, from, 0, to, 0);
    mulQuat(turn, 0, arc, 0, turn, 0);
  };
  // towards the farthest one first; a second one beside it then turns the limb about that way
  if (held[0]) aim(held[0]);
  if (held[1]) {
    const n = held.length + 1;
    const [a, b] = [new Float64Array(3 * n), new Float64Array(3 * n)];
    held.forEach(({ own, at }, i) => {
      rotate3(
        a,
        3 * i,
        turn,
        0,
        own.map((x, k) => x - limb.own[k]!),
        0,
      );
      for (let k = 0; k < 3; k++) b[3 * i + k] = at[k]! - joint[k]!;
    });
    const more = wide(a) > LEAST_WIDE ? rigidFit(a, b, new Float64Array(n).fill(1)) : undefined;
    if (more) mulQuat(turn, 0, more.turn, 0, turn, 0);
  }
  rotate3(p, 0, turn, 0, limb.own, 0);
  for (let k = 0; k < 3; k++) out.places[3 * f + k] = joint[k]! - p[k]!;
}

/** How far points lie off the line through the first of them and the origin, metres: the most of them. */
function wide(points: Float64Array): number {
  const [x, y, z] = [points[0]!, points[1]!, points[2]!];
  const long = Math.hypot(x, y, z) || 1;
  let most = 0;
  for (let i = 3; i + 2 < points.length; i += 3) {
    const [u, v, w] = [points[i]!, points[i + 1]!, points[i + 2]!];
    most = Math.max(most, Math.hypot(y * w - z * v, z * u - x * w, x * v - y * u) / long);
  }
  return most;
}

const LEAST_WIDE = 0.02;
