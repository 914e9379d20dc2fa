import { LEAF_REACH } from '../codec/error';
import { MotionError } from '../errors';
import { norm } from '../math/fast';
import { angleBetweenQuats, normalizeQuat, slerp } from '../math/quat';
import { fewestKeyFrames } from '../motion/key-frames';
import { type Motion, PoseReader } from '../motion/motion';
import { restPose, type SkeletonRig, type WorldPose } from '../rig/rig';

/** What runs between keys: a straight way, or a curve that keeps the motion's own slope at every key. */
export type KeyCurves = (typeof KEY_CURVES)[number];
export const KEY_CURVES = ['straight', 'smooth'] as const;

/** Which frames of each track are kept as keys, rising, first and last always among them. */
export interface ReducedKeys {
  readonly curves: KeyCurves;
  /** J lists: keys of each joint's turn. */
  readonly turns: readonly Uint32Array[];
  /** By index of translation track. */
  readonly places: readonly Uint32Array[];
  /** By index of scalar track. */
  readonly numbers: readonly Uint32Array[];
}

/**
 * Leaves out keys that what runs between the others brings back, so that no point of the body moves by more than the
 * tolerance; checked on the whole body, since errors add up along a limb. Straight: slerp and linear. Smooth: cubic Hermite
 * curves with slopes by central difference, of turns number by number and brought to length one, as glTF's CUBICSPLINE has it.
 * @param tolerance metres, 0.00001 to 1
 * @throws MotionError 'bad-argument' for a tolerance that is not above 0
 */
export function reduceKeys(
  rig: SkeletonRig,
  motion: Motion,
  tolerance: number,
  curves: KeyCurves = 'straight',
): ReducedKeys {
  if (!(tolerance >= 1e-5 && tolerance <= 1))
    throw new MotionError('bad-argument', 'The tolerance of key reduction must lie between 0.00001 and 1 metre.');
  const levers = leverArms(rig);
  // chosen as if tracks erred alone; where errors add up along a limb the tracks that err most there get keys
  const keys = choose(rig, motion, levers, ALONE * tolerance, curves);
  return new Mending(rig, motion, keys, tolerance).run();
}

/** Of what all errors together may come to, what a single track may. */
const ALONE = 0.9;
/** Tracks that err at least this share of the worst one on the way to a point get a key. */
const GUILTY = 0.8;

/** Keys of a motion to which more are added until no point is too far off; what is not touched is not looked at again. */
class Mending {
  private readonly got: Motion;
  private readonly reads: readonly { readonly track: Track; readonly out: Float32Array; readonly isKey: Uint8Array }[];
  private readonly worst: Worst[];
  private readonly stale: Uint8Array;

  constructor(
    private readonly rig: SkeletonRig,
    private readonly motion: Motion,
    private readonly keys: ReducedKeys,
    private readonly tolerance: number,
  ) {
    this.got = applyKeys(rig, motion, keys);
    const { frameCount } = motion;
    const marked = (list: Uint32Array): Uint8Array => {
      const out = new Uint8Array(frameCount);
      for (const f of list) out[f] = 1;
      return out;
    };
    const n = rig.names.length;
    this.reads = [
      ...keys.turns.map((list, j) => ({
        track: trackOf(motion.turns, 4 * j, 4 * n, 4, frameCount),
        out: this.got.turns,
        isKey: marked(list),
      })),
      ...keys.places.map((list, i) => ({
        track: trackOf(motion.places[i]!.values, 0, 3, 3, frameCount),
        out: this.got.places[i]!.values,
        isKey: marked(list),
      })),
    ];
    this.worst = Array.from({ length: frameCount }, (_, frame) => ({ frame, joint: 0, off: 0 }));
    this.stale = new Uint8Array(frameCount).fill(1);
  }

  run(): ReducedKeys {
    while (this.round());
    const n = this.rig.names.length;
    const lists = this.reads.map(({ isKey }) => Uint32Array.from([...isKey.keys()].filter((f) => isKey[f])));
    return { ...this.keys, turns: lists.slice(0, n), places: lists.slice(n) };
  }

  /** Adds keys in the worst frame of every stretch that is too far off; false where nothing was added. */
  private round(): boolean {
    const { rig, motion, got, worst, stale, tolerance } = this;
    const [ra, rb] = [new PoseReader(rig, motion), new PoseReader(rig, got)];
    for (let f = 0; f < motion.frameCount; f++) {
      if (!stale[f]) continue;
      stale[f] = 0;
      worst[f] = worstPoint(rig, ra.at(f), rb.at(f), f);
    }
    let added = false;
    let span: Worst | undefined;
    for (let f = 0; f <= motion.frameCount; f++) {
      const here = worst[f];
      if (here && here.off > tolerance) {
        if (!span || here.off > span.off) span = here;
      } else if (span) {
        added = this.add(span, ra.at(span.frame)) || added;
        span = undefined;
      }
    }
    return added;
  }

  /** Keys for the tracks that put a point where it is off; false where all of them have one there. */
  private add({ frame, joint }: Worst, { p }: WorldPose): boolean {
    const { rig, motion, got, reads } = this;
    const n = rig.names.length;
    const blame: { at: number; off: number }[] = [];
    for (let j = joint; j >= 0; j = rig.parents[j]!) {
      const reach = Math.hypot(...[0, 1, 2].map((k) => p[3 * j + k]! - p[3 * joint + k]!)) + LEAF_REACH;
      const o = 4 * (frame * n + j);
      if (!reads[j]!.isKey[frame]) blame.push({ at: j, off: reach * angleBetweenQuats(motion.turns, o, got.turns, o) });
    }
    motion.places.forEach(({ values }, i) => {
      if (reads[n + i]!.isKey[frame]) return;
      const other = got.places[i]!.values;
      blame.push({
        at: n + i,
        off: Math.hypot(...[0, 1, 2].map((k) => values[3 * frame + k]! - other[3 * frame + k]!)),
      });
    });
    const most = Math.max(...blame.map((b) => b.off));
    for (const { at, off } of blame) if (off >= GUILTY * most) this.setKey(at, frame);
    return blame.length > 0;
  }

  private setKey(at: number, frame: number): void {
    const { track, out, isKey } = this.reads[at]!;
    isKey[frame] = 1;
    let [a, b] = [frame - 1, frame + 1];
    while (a > 0 && !isKey[a]) a--;
    while (b < track.frames - 1 && !isKey[b]) b++;
    const list = Uint32Array.of(Math.max(0, a), frame, Math.min(track.frames - 1, b));
    readKeys(out, track, list, this.keys.curves);
    this.stale.fill(1, a + 1, b);
  }
}

interface Worst {
  readonly frame: number;
  readonly joint: number;
  readonly off: number;
}

/** The joint farthest off in a frame, or beyond which a point as far as a leaf's reaches is; distances in metres. */
function worstPoint(rig: SkeletonRig, a: WorldPose, b: WorldPose, frame: number): Worst {
  let [joint, off] = [0, 0];
  for (let j = 0; j < rig.names.length; j++) {
    const [o, q] = [3 * j, 4 * j];
    const moved = norm(a.p[o]! - b.p[o]!, a.p[o + 1]! - b.p[o + 1]!, a.p[o + 2]! - b.p[o + 2]!);
    // small turns differ by twice the length of what their numbers differ by
    let chord = 0;
    let back = 0;
    for (let k = 0; k < 4; k++) {
      chord += (a.r[q + k]! - b.r[q + k]!) ** 2;
      back += (a.r[q + k]! + b.r[q + k]!) ** 2;
    }
    const x = moved + 2 * LEAF_REACH * Math.sqrt(Math.min(chord, back));
    if (x > off) {
      joint = j;
      off = x;
    }
  }
  return { frame, joint, off };
}

/** Distance from each joint to the farthest thing that hangs from it, metres. */
function leverArms(rig: SkeletonRig): Float64Array {
  const n = rig.names.length;
  const out = new Float64Array(n).fill(0.1);
  const { p } = restPose(rig);
  for (let j = n - 1; j >= 0; j--)
    for (let a = j; a >= 0; a = rig.parents[a]!)
      out[a] = Math.max(
        out[a]!,
        0.1 + Math.hypot(p[3 * a]! - p[3 * j]!, p[3 * a + 1]! - p[3 * j + 1]!, p[3 * a + 2]! - p[3 * j + 2]!),
      );
  return out;
}

function choose(
  rig: SkeletonRig,
  motion: Motion,
  levers: Float64Array,
  tolerance: number,
  curves: KeyCurves,
): ReducedKeys {
  const n = rig.names.length;
  const { frameCount: frames } = motion;
  const q = new Float64Array(4);
  const kept = (values: Float32Array, width: number, most: number): Uint32Array => {
    const track = trackOf(values, 0, width, width, frames);
    return fewestKeyFrames(frames, most, (a, b, f) => {
      along(q, track, curves, a, b, f);
      let sum = 0;
      for (let k = 0; k < width; k++) sum += (q[k]! - values[width * f + k]!) ** 2;
      return Math.sqrt(sum);
    });
  };
  return {
    curves,
    turns: rig.names.map((_, j) => {
      const track = trackOf(motion.turns, 4 * j, 4 * n, 4, frames);
      return fewestKeyFrames(frames, tolerance / levers[j]!, (a, b, f) => {
        along(q, track, curves, a, b, f);
        return angleBetweenQuats(q, 0, motion.turns, 4 * (f * n + j));
      });
    }),
    places: motion.places.map(({ values }) => kept(values, 3, tolerance)),
    numbers: motion.numbers.map(({ values }) => {
      let most = 0;
      for (const x of values) most = Math.max(most, Math.abs(x));
      return kept(values, 1, Math.max(1e-6, 0.005 * most));
    }),
  };
}

/** Numbers of one track among others: `width` a frame at offset + frame · stride. Four wide are turns. */
interface Track {
  readonly values: Float32Array;
  readonly offset: number;
  readonly stride: number;
  readonly width: number;
  readonly frames: number;
}

const trackOf = (values: Float32Array, offset: number, stride: number, width: number, frames: number): Track => ({
  values,
  offset,
  stride,
  width,
  frames,
});

/** Slope of a number of a track at a frame, a frame: the central difference, one-sided at the ends. */
export function slopeAt({ values, offset, stride, frames }: Track, k: number, f: number): number {
  const [a, b] = [Math.max(0, f - 1), Math.min(frames - 1, f + 1)];
  return b > a ? (values[offset + stride * b + k]! - values[offset + stride * a + k]!) / (b - a) : 0;
}

/** What lies at frame f between keys at a and b. */
function along(out: Float64Array, track: Track, curves: KeyCurves, a: number, b: number, f: number): void {
  const { values, offset, stride, width } = track;
  const [o, p] = [offset + stride * a, offset + stride * b];
  const h = b - a;
  const t = h > 0 ? (f - a) / h : 0;
  if (curves === 'straight') {
    if (width === 4) slerp(out, 0, values, o, values, p, t);
    else for (let k = 0; k < width; k++) out[k] = (1 - t) * values[o + k]! + t * values[p + k]!;
    return;
  }
  const [t2, t3] = [t * t, t * t * t];
  for (let k = 0; k < width; k++)
    out[k] =
      (2 * t3 - 3 * t2 + 1) * values[o + k]! +
      (t3 - 2 * t2 + t) * h * slopeAt(track, k, a) +
      (3 * t2 - 2 * t3) * values[p + k]! +
      (t3 - t2) * h * slopeAt(track, k, b);
  if (width === 4) normalizeQuat(out, 0);
}

/** Writes a track from one key of a list to the last. */
function readKeys(out: Float32Array, track: Track, list: Uint32Array, curves: KeyCurves): void {
  const { values, offset, stride, width } = track;
  for (let i = 0; i < list.length; i++) {
    const a = list[i]!;
    const b = list[i + 1] ?? a;
    for (let k = 0; k < width; k++) out[offset + stride * a + k] = values[offset + stride * a + k]!;
    for (let f = a + 1; f < b; f++) {
      along(between, track, curves, a, b, f);
      for (let k = 0; k < width; k++) out[offset + stride * f + k] = between[k]!;
    }
  }
}
const between = new Float64Array(4);

/** The motion as a reader of the keys will have it, frame by frame. */
export function applyKeys(rig: SkeletonRig, motion: Motion, keys: ReducedKeys): Motion {
  const n = rig.names.length;
  const { frameCount: frames } = motion;
  const turns = new Float32Array(4 * n * frames);
  keys.turns.forEach((list, j) => {
    readKeys(turns, trackOf(motion.turns, 4 * j, 4 * n, 4, frames), list, keys.curves);
  });
  const whole = (values: Float32Array, width: number, list: Uint32Array): Float32Array => {
    const out = new Float32Array(values.length);
    readKeys(out, trackOf(values, 0, width, width, frames), list, keys.curves);
    return out;
  };
  return {
    ...motion,
    turns,
    places: motion.places.map((t, i) => ({ joint: t.joint, values: whole(t.values, 3, keys.places[i]!) })),
    numbers: motion.numbers.map((s, i) => ({ name: s.name, values: whole(s.values, 1, keys.numbers[i]!) })),
  };
}

/** Keys kept in all, against all there were. */
export function keyCount(keys: ReducedKeys, motion: Motion): { kept: number; of: number } {
  const lists = [...keys.turns, ...keys.places, ...keys.numbers];
  return { kept: lists.reduce((s, x) => s + x.length, 0), of: lists.length * motion.frameCount };
}
