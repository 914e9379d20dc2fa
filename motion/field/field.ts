import { measureBody } from '../body/body';
import type { Party } from '../body/party';
import { jointOf, SIDES } from '../bodymap/slots';
import { MotionError } from '../errors';
import { type CorrectionTrack, correct } from '../layer/correct';
import { eigenSymmetric } from '../math/eigen';
import { alignTurns } from '../math/quat';
import { type Motion, PoseReader } from '../motion/motion';
import { type PlaceTrack, type ScaleTrack, scalesIn } from '../motion/tracks';
import { turnedRound } from '../motion/turned-round';

/** A pose pinned on a field: the first frame of a motion on the field's rig, and where it is pinned. */
export interface PinnedPose {
  readonly at: readonly [x: number, y: number];
  readonly pose: Motion;
}

/** How fast a pose's weight falls with distance: with the third power the mix has flat spots at the pins and no kink anywhere. */
const FALLS = 3;
/** Feet this near to one another in all poses, in lengths of the leg, stand on one spot. */
const SAME_SPOT = 0.01;
/** A step of the field at a pin: nearer than this, as a share of the field, only that pose counts. */
const ON_THE_PIN = 1e-9;

/**
 * Weights of points for a place on their field: they fall with distance, sum to 1, and are exactly 1 at a point's own place.
 * Source: Shepard 1968 (A two-dimensional interpolation function for irregularly-spaced data).
 */
export function fieldWeights(
  points: readonly (readonly [number, number])[],
  at: readonly [number, number],
): Float64Array {
  const far = points.map(([x, y]) => Math.hypot(x - at[0], y - at[1]));
  const span = Math.max(1e-12, ...points.flatMap(([x, y]) => points.map(([u, v]) => Math.hypot(x - u, y - v))));
  const on = far.findIndex((d) => d < ON_THE_PIN * span);
  if (on >= 0) return Float64Array.from(points, (_, i) => (i === on ? 1 : 0));
  // by the nearest one, so that no number grows beyond all bounds
  const least = Math.min(...far);
  const w = Float64Array.from(far, (d) => (least / d) ** FALLS);
  const sum = w.reduce((a, b) => a + b, 0);
  return w.map((x) => x / sum);
}

/**
 * The mean of turns: the one whose squared distance from all of them, weighted, is least. Signs do not matter.
 * Source: Markley, Cheng, Crassidis and Oshman 2007 (Averaging quaternions).
 * @param turns arrays that each hold one of the turns, x y z w, at `offset`
 */
export function meanTurn(
  dst: Float32Array | Float64Array,
  o: number,
  turns: readonly ArrayLike<number>[],
  offset: number,
  weights: ArrayLike<number>,
): void {
  const whole = Array.from(weights).indexOf(1);
  if (whole >= 0) {
    for (let k = 0; k < 4; k++) dst[o + k] = turns[whole]![offset + k]!;
    return;
  }
  const m = new Float64Array(16);
  turns.forEach((q, i) => {
    const w = weights[i]!;
    for (let r = 0; r < 4; r++) for (let c = 0; c < 4; c++) m[4 * r + c]! += w * q[offset + r]! * q[offset + c]!;
  });
  const { vectors } = eigenSymmetric(m, 4);
  let sign = 0;
  for (let k = 0; k < 4; k++) sign += vectors[k]! * turns[0]![offset + k]!;
  for (let k = 0; k < 4; k++) dst[o + k] = sign < 0 ? -vectors[k]! : vectors[k]!;
}

/** How the feet of pinned poses stand to one another. */
export interface FieldFeet {
  /** Feet that stand on one spot in all poses, which are held there. */
  readonly shared: readonly ('footL' | 'footR')[];
  /** By pose: feet that stand elsewhere than in the first one, and how far, metres. */
  readonly elsewhere: readonly { readonly pose: number; readonly foot: 'footL' | 'footR'; readonly by: number }[];
}

/** A field of poses: three or more of one rig, mixed by where a pointer is. */
export class PoseField {
  readonly feet: FieldFeet;
  private readonly spots: readonly { readonly foot: 'footL' | 'footR'; readonly at: readonly number[][] }[];

  /** @throws MotionError 'bad-argument' for fewer than three poses, or poses of another rig */
  constructor(
    readonly party: Party,
    readonly poses: readonly PinnedPose[],
  ) {
    const n = party.rig.names.length;
    if (poses.length < 3) throw new MotionError('bad-argument', 'A field needs at least three poses.');
    for (const { pose } of poses)
      if (pose.turns.length < 4 * n || pose.turns.length !== 4 * n * pose.frameCount)
        throw new MotionError('bad-argument', 'A pose on the field belongs to another skeleton.');
    const placed = SIDES.flatMap((s) => {
      const foot = `foot${s}` as const;
      const j = jointOf(party.map, foot);
      return j < 0 ? [] : [{ foot, at: poses.map(({ pose }) => placeOf(party, pose, j)) }];
    });
    const { leg } = measureBody(party.rig, party.map);
    const off = (at: readonly number[][], i: number): number => Math.hypot(...at[i]!.map((x, k) => x - at[0]![k]!));
    this.spots = placed.filter(({ at }) => at.every((_, i) => off(at, i) <= SAME_SPOT * leg));
    this.feet = {
      shared: this.spots.map((s) => s.foot),
      elsewhere: placed.flatMap(({ foot, at }) =>
        at.flatMap((_, pose) => (off(at, pose) > SAME_SPOT * leg ? [{ pose, foot, by: off(at, pose) }] : [])),
      ),
    };
  }

  weights(at: readonly [number, number]): Float64Array {
    return fieldWeights(
      this.poses.map((p) => p.at),
      at,
    );
  }

  /** The mix at a place of the field, as a motion of one frame. */
  at(at: readonly [number, number]): Motion {
    return this.mix([this.weights(at)], 1);
  }

  /**
   * What a pointer that wanders over the field does, as a motion.
   * @param course the pointer over time, seconds from the start of the recording; it begins with the first movement
   */
  record(course: readonly { readonly seconds: number; readonly at: readonly [number, number] }[], fps: number): Motion {
    const first = course.findIndex(({ at }) => Math.hypot(at[0] - course[0]!.at[0], at[1] - course[0]!.at[1]) > 1e-9);
    const moving = course.slice(Math.max(0, first - 1));
    if (moving.length === 0) throw new MotionError('no-motion', 'Nothing was recorded.');
    const [start, end] = [moving[0]!.seconds, moving.at(-1)!.seconds];
    const frames = Math.max(1, Math.round((end - start) * fps) + 1);
    let i = 0;
    const rows = Array.from({ length: frames }, (_, f) => {
      const t = start + f / fps;
      while (i + 1 < moving.length && moving[i + 1]!.seconds <= t) i++;
      const [a, b] = [moving[i]!, moving[Math.min(i + 1, moving.length - 1)]!];
      const s = b.seconds > a.seconds ? Math.min(1, Math.max(0, (t - a.seconds) / (b.seconds - a.seconds))) : 0;
      return this.weights([a.at[0] + s * (b.at[0] - a.at[0]), a.at[1] + s * (b.at[1] - a.at[1])]);
    });
    return this.mix(rows, fps);
  }

  private mix(rows: readonly Float64Array[], fps: number): Motion {
    const { rig, map } = this.party;
    const n = rig.names.length;
    const all = this.poses.map((p) => p.pose);
    const turns = new Float32Array(4 * n * rows.length);
    const sources = all.map((p) => p.turns);
    rows.forEach((w, f) => {
      for (let j = 0; j < n; j++) meanTurn(turns, 4 * (f * n + j), sources, 4 * j, w);
    });
    alignTurns(turns, n, rows.length);
    const joints = [...new Set(all.flatMap((p) => p.places.map((t) => t.joint)))];
    const places = joints.map((joint): PlaceTrack => {
      const values = new Float32Array(3 * rows.length);
      rows.forEach((w, f) => {
        all.forEach((p, i) => {
          const own = p.places.find((t) => t.joint === joint)?.values ?? rig.restT.subarray(3 * joint, 3 * joint + 3);
          for (let k = 0; k < 3; k++) values[3 * f + k]! += w[i]! * own[k]!;
        });
      });
      return { joint, values };
    });
    const names = [...new Set(all.flatMap((p) => p.numbers.map((t) => t.name)))];
    const numbers = names.map((name) => ({
      name,
      values: Float32Array.from(rows, (w) =>
        all.reduce((sum, p, i) => sum + w[i]! * (p.numbers.find((t) => t.name === name)?.values[0] ?? 0), 0),
      ),
    }));
    // of drawings, views and orders there is nothing between: the nearest pose's show
    const nearest = rows.map((w) => w.indexOf(Math.max(...w)));
    const shown = all.flatMap((p) => p.steps);
    const steps = [...new Set(shown.map((t) => t.name))].map((name) => {
      const first = shown.find((t) => t.name === name)!;
      const labels = [...new Set(shown.flatMap((t) => (t.name === name ? t.labels : [])))];
      return {
        name,
        labels,
        values: Uint16Array.from(nearest, (i) => {
          const own = all[i]!.steps.find((t) => t.name === name) ?? first;
          return Math.max(0, labels.indexOf(own.labels[own.values[0]!]!));
        }),
      };
    });
    const sized = [...new Set(all.flatMap((p) => p.scales.map((t) => t.joint)))];
    const scales = sized.map((joint): ScaleTrack => {
      const own = all.map((p) => scalesIn(p, joint));
      // what is turned over is so as a whole: the nearest pose says whether
      const values = Float32Array.from({ length: 3 * rows.length }, (_, i) => {
        const [f, k] = [Math.floor(i / 3), i % 3];
        const size = own.reduce((sum, v, p) => sum + rows[f]![p]! * Math.abs(v[k]!), 0);
        return own[nearest[f]!]![k]! < 0 ? -size : size;
      });
      return { joint, values, between: 'hold' };
    });
    const mixed: Motion = { fps, frameCount: rows.length, turns, places, numbers, scales, steps };
    if (this.spots.length === 0) return mixed;
    return this.held(mixed, rows, map);
  }

  /** Feet that all poses share, brought back onto their spot. */
  private held(mixed: Motion, rows: readonly Float64Array[], map: Party['map']): Motion {
    const reader = new PoseReader(this.party.rig, turnedRound(this.party.cutout, mixed));
    const tracks = this.spots.map(({ foot }) => ({ handle: foot, keys: [] as { frame: number; move: number[] }[] }));
    rows.forEach((w, f) => {
      const pose = reader.at(f);
      // a pose at its own pin is as it was stored
      const own = w.includes(1);
      this.spots.forEach(({ foot, at }, s) => {
        const j = jointOf(map, foot);
        const spot = (k: number): number => at.reduce((sum, p, i) => sum + w[i]! * p[k]!, 0);
        tracks[s]!.keys.push({ frame: f, move: [0, 1, 2].map((k) => (own ? 0 : spot(k) - pose.p[3 * j + k]!)) });
      });
    });
    if (tracks.every((t) => t.keys.every((k) => k.move.every((x) => x === 0)))) return mixed;
    return correct(this.party, mixed, tracks as unknown as CorrectionTrack[]);
  }
}

function placeOf(party: Party, pose: Motion, joint: number): number[] {
  const { p } = new PoseReader(party.rig, turnedRound(party.cutout, pose)).at(0);
  return [p[3 * joint]!, p[3 * joint + 1]!, p[3 * joint + 2]!];
}
