import { IDENTITY, type Matrix, multiply } from '../art/matrix';
import { MotionError } from '../errors';
import { type Ease, easeAt } from '../motion/curve';

// Values of the Lottie format (Lottie Animation Community, specification 1.0) over time, those that older writers spelled in
// another way included.

/** Keyframes of one property that are read at most. */
const MAX_KEYS = 20_000;
/** Pieces by which a curved way is measured. */
const PIECES = 64;

/** A keyframe: the value there, and how it passes into the next. */
export interface LottieKey {
  /** Frames of the composition that the layer lies in. */
  readonly time: number;
  readonly value: readonly number[];
  /** By dimension, or one for all. A curved way has an ease for how far along it is. */
  readonly eases: readonly Ease[];
  /** Points of a curved way with the share of its length that lies behind each; undefined where it runs straight. */
  readonly way: readonly (readonly [share: number, ...point: number[]])[] | undefined;
}

/** A property of the file: one value, or keyframes. */
export class LottieValue {
  private constructor(
    private readonly still: readonly number[],
    readonly keys: readonly LottieKey[],
    /** It is computed by a program in the file, which is not run. */
    readonly computed: boolean,
  ) {}

  /** Keyframes that were read before: groups of shapes come by many times. */
  private static readonly known = new WeakMap<object, LottieValue>();

  /** @throws MotionError 'bad-number' or 'too-large' for keyframes that cannot be read */
  static read(json: unknown, otherwise: readonly number[]): LottieValue {
    const before = typeof json === 'object' && json !== null ? LottieValue.known.get(json) : undefined;
    if (before) return before;
    const { k, x } = (typeof json === 'object' && json !== null ? json : { k: json }) as { k?: unknown; x?: unknown };
    const computed = typeof x === 'string';
    const list = Array.isArray(k) && typeof k[0] === 'object' && k[0] !== null ? (k as RawKey[]) : undefined;
    if (!list) return new LottieValue(numbers(k) ?? otherwise, [], computed);
    if (list.length > MAX_KEYS)
      throw new MotionError('too-large', `A property has more than ${MAX_KEYS.toLocaleString('en')} keyframes.`);
    const keys: LottieKey[] = [];
    list.forEach((raw, i) => {
      const value = numbers(raw?.s) ?? numbers(list[i - 1]?.e) ?? keys.at(-1)?.value;
      if (typeof raw?.t !== 'number' || !Number.isFinite(raw.t) || !value)
        throw new MotionError('bad-number', `Keyframe ${i + 1} of a property has no time or no value.`);
      const next = numbers(list[i + 1]?.s) ?? numbers(raw.e);
      keys.push({ time: raw.t, value, eases: easesOf(raw), way: next && wayOf(raw, value, next) });
    });
    keys.sort((a, b) => a.time - b.time);
    const made = new LottieValue(keys[0]?.value ?? otherwise, keys, computed);
    LottieValue.known.set(json as object, made);
    return made;
  }

  get moves(): boolean {
    return this.keys.some((k) => k.value.some((x, i) => Math.abs(x - (this.keys[0]!.value[i] ?? x)) > 1e-9));
  }

  /** The value at a time of the composition. */
  at(time: number): readonly number[] {
    const { keys } = this;
    if (keys.length === 0) return this.still;
    let low = 0;
    let high = keys.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (keys[middle]!.time <= time) low = middle + 1;
      else high = middle;
    }
    const from = keys[Math.max(0, low - 1)]!;
    const to = keys[low];
    if (low === 0 || !to) return from.value;
    const x = (time - from.time) / (to.time - from.time);
    if (from.way) return alongWay(from.way, easeAt(from.eases[0]!, x));
    return from.value.map((a, i) => {
      const share = easeAt(from.eases[i] ?? from.eases[0]!, x);
      return a + share * ((to.value[i] ?? a) - a);
    });
  }
}

interface RawKey {
  readonly t?: unknown;
  readonly s?: unknown;
  readonly e?: unknown;
  readonly h?: unknown;
  readonly i?: { readonly x?: unknown; readonly y?: unknown };
  readonly o?: { readonly x?: unknown; readonly y?: unknown };
  readonly to?: unknown;
  readonly ti?: unknown;
}

const finite = (v: unknown): v is number => typeof v === 'number' && Number.isFinite(v) && Math.abs(v) < 1e9;

function numbers(v: unknown): readonly number[] | undefined {
  if (finite(v)) return [v];
  return Array.isArray(v) && v.length > 0 && v.length <= 4096 && v.every(finite) ? (v as number[]) : undefined;
}

function easesOf({ h, i, o }: RawKey): Ease[] {
  if (h === 1 || h === true) return ['step'];
  const [x1, y1, x2, y2] = [numbers(o?.x), numbers(o?.y), numbers(i?.x), numbers(i?.y)];
  if (!x1 || !y1 || !x2 || !y2) return ['linear'];
  const count = Math.min(4, Math.max(x1.length, y1.length, x2.length, y2.length));
  const pick = (v: readonly number[], k: number): number => v[k] ?? v[0]!;
  return Array.from({ length: count }, (_, k): Ease => {
    const [a, b, c, d] = [pick(x1, k), pick(y1, k), pick(x2, k), pick(y2, k)];
    const clamp = (x: number): number => Math.min(1, Math.max(0, x));
    return Math.abs(a - b) < 1e-6 && Math.abs(c - d) < 1e-6 ? 'linear' : [clamp(a), b, clamp(c), d];
  });
}

/** A way between two places with tangents of their own, measured. */
function wayOf({ to, ti }: RawKey, from: readonly number[], end: readonly number[]): LottieKey['way'] {
  const [out, into] = [numbers(to), numbers(ti)];
  if (!out || !into || (out.every((x) => x === 0) && into.every((x) => x === 0))) return undefined;
  const point = (s: number): number[] => {
    const r = 1 - s;
    return from.map((a, i) => {
      const b = end[i] ?? a;
      return r * r * r * a + 3 * r * r * s * (a + (out[i] ?? 0)) + 3 * r * s * s * (b + (into[i] ?? 0)) + s * s * s * b;
    });
  };
  const points = Array.from({ length: PIECES + 1 }, (_, i) => point(i / PIECES));
  const lengths = [0];
  points.slice(1).forEach((p, i) => {
    lengths.push(lengths[i]! + Math.hypot(...p.map((x, k) => x - points[i]![k]!)));
  });
  const whole = lengths.at(-1)! || 1;
  return points.map((p, i) => [lengths[i]! / whole, ...p]);
}

function alongWay(way: NonNullable<LottieKey['way']>, share: number): number[] {
  let i = way.findIndex(([s]) => s >= share);
  if (i < 0) i = way.length - 1;
  const [b, a] = [way[Math.max(1, i)]!, way[Math.max(0, Math.max(1, i) - 1)]!];
  // beyond the ends the way goes straight on, as eases that overshoot ask
  const t = b[0] > a[0] ? (share - a[0]) / (b[0] - a[0]) : 1;
  return a.slice(1).map((x, k) => x + t * (b[k + 1]! - x));
}

/** What a layer or a group does to what is in it: anchor, place, size, skew and turn. */
export class LottieTransform {
  readonly anchor: LottieValue;
  readonly place: LottieValue;
  /** The second number of a place whose numbers have keyframes of their own. */
  readonly placeY: LottieValue | undefined;
  readonly size: LottieValue;
  readonly turn: LottieValue;
  readonly opacity: LottieValue;
  private readonly skew: LottieValue;
  private readonly skewAxis: LottieValue;

  constructor(json: unknown) {
    const ks = (typeof json === 'object' && json !== null ? json : {}) as Record<string, unknown>;
    const place = ks.p as { s?: unknown; x?: unknown; y?: unknown } | undefined;
    const apart =
      place !== null && typeof place === 'object' && (place.s === true || (place.s === 1 && !('k' in place)));
    this.anchor = LottieValue.read(ks.a, [0, 0]);
    this.place = apart ? LottieValue.read(place.x, [0]) : LottieValue.read(ks.p, [0, 0]);
    this.placeY = apart ? LottieValue.read(place.y, [0]) : undefined;
    this.size = LottieValue.read(ks.s, [100, 100]);
    this.turn = LottieValue.read(ks.r ?? ks.rz, [0]);
    this.opacity = LottieValue.read(ks.o, [100]);
    this.skew = LottieValue.read(ks.sk, [0]);
    this.skewAxis = LottieValue.read(ks.sa, [0]);
  }

  /** All that can move it. */
  get values(): readonly LottieValue[] {
    const { anchor, place, placeY, size, turn, skew, skewAxis } = this;
    return [anchor, place, ...(placeY ? [placeY] : []), size, turn, skew, skewAxis];
  }

  /** From inside to outside, y downwards, at a time of the composition. */
  at(time: number): Matrix {
    const [ax = 0, ay = 0] = this.anchor.at(time);
    const [px = 0, own = 0] = this.place.at(time);
    const py = this.placeY ? (this.placeY.at(time)[0] ?? 0) : own;
    const [sx = 100, sy = sx] = this.size.at(time);
    const r = (this.turn.at(time)[0] ?? 0) * RAD;
    const skew = -(this.skew.at(time)[0] ?? 0) * RAD;
    let m: Matrix = [sx / 100, 0, 0, sy / 100, (-ax * sx) / 100, (-ay * sy) / 100];
    if (skew !== 0) {
      const axis = (this.skewAxis.at(time)[0] ?? 0) * RAD;
      m = multiply(turned(-axis), multiply([1, 0, Math.tan(skew), 1, 0, 0], multiply(turned(axis), m)));
    }
    if (r !== 0) m = multiply(turned(r), m);
    return [m[0], m[1], m[2], m[3], m[4] + px, m[5] + py];
  }
}

const RAD = Math.PI / 180;

const turned = (r: number): Matrix =>
  r === 0 ? IDENTITY : [Math.cos(r), Math.sin(r), -Math.sin(r), Math.cos(r), 0, 0];
