import { MotionError } from '../errors';

/** What lies between two frames: the straight way, a smooth curve through the frames around, or what the first one holds. */
export type Between = 'line' | 'curve' | 'hold';

/** Local places of one joint over time: 3 F numbers, metres, in the parent's frame. */
export interface PlaceTrack {
  readonly joint: number;
  readonly values: Float32Array;
  /** 'line' where left out. */
  readonly between?: Between | undefined;
}

/** How much larger than at rest a joint and what hangs from it are, along its own axes: 3 F factors. */
export interface ScaleTrack {
  readonly joint: number;
  readonly values: Float32Array;
  /** 'line' where left out. */
  readonly between?: Between | undefined;
}

/** A named number over time (a face shape, for one): F numbers. */
export interface NumberTrack {
  readonly name: string;
  readonly values: Float32Array;
  /** 'line' where left out. */
  readonly between?: Between | undefined;
}

/** Names of the tracks of steps that a cut-out's motion can hold besides one for a part, which tells its drawing. */
export const ORDER_TRACK = 'order';
/** Name of the track of steps that tells which view of a joint’s parts shows. */
export const viewTrack = (joint: string): string => `view of ${joint}`;
const LENGTH_OF = 'length of ';
/** Name of the track of numbers that tells how long a joint's parts are drawn along their bone, 1 at rest. */
export const lengthTrack = (joint: string): string => `${LENGTH_OF}${joint}`;
/** Whether a track of numbers tells a length, and not a shape of a face. */
export const tellsLength = (name: string): boolean => name.startsWith(LENGTH_OF);
/** What a number is where a motion has no track of it. */
export const restNumber = (name: string): number => (tellsLength(name) ? 1 : 0);

/** A joint's factors of size in a motion: its track, or 1 throughout. 3 F factors. */
export const scalesIn = (
  motion: { readonly scales: readonly ScaleTrack[]; readonly frameCount: number },
  joint: number,
): Float32Array =>
  motion.scales.find((t) => t.joint === joint)?.values ?? new Float32Array(3 * motion.frameCount).fill(1);

/** Mixes two factors of size. Of two that mirror each other there is nothing between: the nearer one is taken. */
export const mixScale = (a: number, b: number, w: number): number =>
  a * b < 0 ? (w < 0.5 ? a : b) : (1 - w) * a + w * b;

/** A named choice over time (which drawing shows, for one): an index into the labels for each frame. Never mixed, kept exactly. */
export interface StepTrack {
  readonly name: string;
  readonly labels: readonly string[];
  readonly values: Uint16Array;
}

/** Everything of a motion that is no joint's turn. */
export interface Tracks {
  readonly places: readonly PlaceTrack[];
  readonly scales: readonly ScaleTrack[];
  readonly numbers: readonly NumberTrack[];
  readonly steps: readonly StepTrack[];
}

/** Tracks of so many frames. */
export interface Timed extends Tracks {
  readonly frameCount: number;
}

/** A motion of turns alone. */
export const NO_TRACKS: Tracks = { places: [], scales: [], numbers: [], steps: [] };

/** What a change does to the values of a track, whatever it tells: numbers of some width a frame, or labels. */
export interface TrackChange {
  /** @param width numbers a frame: 3 for places and scales, 1 for numbers */
  readonly values: (values: Float32Array, width: number, between: Between) => Float32Array;
  /** Indices of labels, one a frame: these are never mixed, only picked. */
  readonly labels: (values: Uint16Array) => Uint16Array;
}

/** The tracks with their values changed, kind by kind: the one place that knows which kinds there are. */
export function mapTracks(tracks: Tracks, { values, labels }: TrackChange): Tracks {
  return {
    places: tracks.places.map((t) => ({ ...t, values: values(t.values, 3, t.between ?? 'line') })),
    scales: tracks.scales.map((t) => ({ ...t, values: values(t.values, 3, t.between ?? 'line') })),
    numbers: tracks.numbers.map((t) => ({ ...t, values: values(t.values, 1, t.between ?? 'line') })),
    steps: tracks.steps.map((t) => ({ ...t, values: labels(t.values) })),
  };
}

/** Time nearer to a whole frame than this, in frames, is that frame. */
const WHOLE = 1e-6;

/** A time in frames as the frame at or before it, the one after, and the share of the latter. Times outside are clamped. */
export interface BetweenFrames {
  a: number;
  b: number;
  t: number;
}

/** Splits a time in frames into the frames around it; see BetweenFrames. @param out filled and handed back */
export function betweenFrames(x: number, frameCount: number, out: BetweenFrames = { a: 0, b: 0, t: 0 }): BetweenFrames {
  const at = Math.min(Math.max(x, 0), frameCount - 1);
  const near = Math.round(at);
  if (Math.abs(at - near) < WHOLE) {
    out.a = out.b = near;
    out.t = 0;
    return out;
  }
  out.a = Math.floor(at);
  out.b = Math.min(out.a + 1, frameCount - 1);
  out.t = at - out.a;
  return out;
}

/**
 * Reads a track of numbers between two frames, by its own interpolation; at whole frames exactly what stands there.
 * 'curve' is the cubic Hermite spline whose slopes are half the differences of the neighbours (Catmull, Rom 1974).
 */
export function sampleValues(
  dst: Float32Array | Float64Array,
  o: number,
  values: Float32Array,
  width: number,
  between: Between,
  { a, b, t }: BetweenFrames,
): void {
  if (t === 0 || between === 'hold') {
    for (let k = 0; k < width; k++) dst[o + k] = values[width * a + k]!;
    return;
  }
  if (between === 'line') {
    for (let k = 0; k < width; k++) dst[o + k] = (1 - t) * values[width * a + k]! + t * values[width * b + k]!;
    return;
  }
  const last = values.length / width - 1;
  const before = Math.max(0, a - 1);
  const after = Math.min(last, b + 1);
  const t2 = t * t;
  const t3 = t2 * t;
  for (let k = 0; k < width; k++) {
    const v0 = values[width * a + k]!;
    const v1 = values[width * b + k]!;
    const m0 = (v1 - values[width * before + k]!) / (b - before);
    const m1 = (values[width * after + k]! - v0) / (after - a);
    dst[o + k] = (2 * t3 - 3 * t2 + 1) * v0 + (t3 - 2 * t2 + t) * m0 + (3 * t2 - 2 * t3) * v1 + (t3 - t2) * m1;
  }
}

/** The tracks read at other times: a label holds until the next frame. @param times in frames, fractions allowed */
export function pickTracks(motion: Timed, times: ArrayLike<number>): Tracks {
  const at: BetweenFrames = { a: 0, b: 0, t: 0 };
  return mapTracks(motion, {
    values: (values, width, between) => {
      const out = new Float32Array(width * times.length);
      for (let f = 0; f < times.length; f++)
        sampleValues(out, width * f, values, width, between, betweenFrames(times[f]!, motion.frameCount, at));
      return out;
    },
    labels: (values) => {
      const out = new Uint16Array(times.length);
      for (let f = 0; f < times.length; f++) out[f] = values[betweenFrames(times[f]!, motion.frameCount, at).a]!;
      return out;
    },
  });
}

/** Frames from … to − 1 of the tracks. */
export function sliceTracks(tracks: Tracks, from: number, to: number): Tracks {
  return mapTracks(tracks, {
    values: (values, width) => values.slice(width * from, width * to),
    labels: (values) => values.slice(from, to),
  });
}

/** The label that a track of steps shows in a frame. */
export const labelAt = (track: StepTrack, frame: number): string => track.labels[track.values[frame]!]!;

/**
 * Checks the promises of all tracks: lengths, finite numbers, joints and labels that are there, names that stand once.
 * @throws MotionError 'wrong-count', 'bad-number' or 'bad-structure', with joint and frame
 */
export function assertTracks(names: readonly string[], motion: Timed): void {
  const f = motion.frameCount;
  const check = (what: string, values: Float32Array, width: number, place: { joint?: string }): void => {
    if (values.length !== width * f)
      throw new MotionError(
        'wrong-count',
        `${what} holds ${values.length} numbers; ${f} frames need ${width * f}.`,
        place,
      );
    const bad = firstNotFinite(values);
    if (bad >= 0)
      throw new MotionError('bad-number', `${what} holds a number that is not finite.`, {
        ...place,
        frame: Math.floor(bad / width),
      });
  };
  for (const [what, tracks] of [
    ['A track of places', motion.places],
    ['A track of scales', motion.scales],
  ] as const)
    for (const { joint: j, values } of tracks) {
      const joint = names[j];
      if (joint === undefined)
        throw new MotionError('wrong-count', `${what} names joint ${j}; the rig has ${names.length} joints.`);
      check(what, values, 3, { joint });
    }
  for (const { name, values } of motion.numbers) check(`The track "${name}"`, values, 1, {});
  for (const { name, labels, values } of motion.steps) {
    if (values.length !== f)
      throw new MotionError('wrong-count', `The track "${name}" holds ${values.length} labels for ${f} frames.`);
    if (labels.length < 1 || labels.length > 65_535)
      throw new MotionError('bad-structure', `The track "${name}" needs 1 to 65535 labels; it has ${labels.length}.`);
    const bad = values.findIndex((x) => x >= labels.length);
    if (bad >= 0)
      throw new MotionError('bad-structure', `The track "${name}" shows a label that it does not have.`, {
        frame: bad,
      });
  }
}

/** Index of the first number that is not finite, −1 where all are; a plain loop, for every motion goes through it. */
export function firstNotFinite(values: Float32Array): number {
  for (let i = 0; i < values.length; i++) if (values[i]! - values[i]! !== 0) return i;
  return -1;
}
