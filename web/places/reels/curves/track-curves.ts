import {
  bendOf,
  type CorrectionTrack,
  type Ease,
  expQuat,
  type LevelKey,
  levelInLane,
  logQuat,
  moveAt,
  type OffsetKey,
  splitEase,
  turnOffsetAt,
} from '@velvet-reel/motion';

// Keys of one part as curves: each channel is a number over frames. Moves are told in centimetres along the world's axes,
// turns as rotation vectors in degrees in the part's own frame. A number (a face shape) is a curve of its own.

export type Kind = 'move' | 'turn' | 'number';
/** A key of a part, or of a number. */
export type CurveKey = OffsetKey | LevelKey;
export interface Channel {
  readonly kind: Kind;
  readonly axis: 0 | 1 | 2;
}

const CM = 100;
const DEG = 180 / Math.PI;
const NOWHERE: readonly [number, number, number] = [0, 0, 0];
const SAME: readonly [number, number, number, number] = [0, 0, 0, 1];

export const trackName = (t: CorrectionTrack): string => ('handle' in t ? t.handle : t.joint);
/** What a part's keys can tell: joints turn, handles move besides. */
export const kindsOf = (t: CorrectionTrack): readonly Kind[] => ('handle' in t ? ['move', 'turn'] : ['turn']);

function vectorOf(turn: readonly [number, number, number, number]): [number, number, number] {
  const v: [number, number, number] = [0, 0, 0];
  logQuat(v, 0, turn, 0);
  return [v[0] * DEG, v[1] * DEG, v[2] * DEG];
}

function turnOf(vector: readonly number[]): [number, number, number, number] {
  const q: [number, number, number, number] = [0, 0, 0, 1];
  expQuat(
    q,
    0,
    vector.map((x) => x / DEG),
    0,
  );
  return q;
}

const ofNumber = (key: CurveKey): key is LevelKey => 'value' in key;

/** How a key passes to the next one where it does not say. */
export const easeOf = (key: CurveKey): Ease => key.ease ?? (ofNumber(key) ? 'linear' : 'smooth');

/** What a key says of a channel; undefined where it says nothing. */
export function keyValue(key: CurveKey, { kind, axis }: Channel): number | undefined {
  if (ofNumber(key)) return key.value ?? undefined;
  if (kind === 'move') return key.move && key.move[axis] * CM;
  return key.turn && vectorOf(key.turn)[axis];
}

/** A channel at any frame, by the easing of the keys, which are all of its kind; null where a number is not set and what lies beneath counts. */
export function valueAtFrame(keys: readonly CurveKey[], { kind, axis }: Channel, frame: number): number | null {
  if (kind === 'number') return levelInLane({ name: '', keys: keys as readonly LevelKey[] }, frame);
  const own = keys as readonly OffsetKey[];
  return kind === 'move' ? moveAt(own, frame)[axis] * CM : vectorOf(turnOffsetAt(own, frame))[axis];
}

/** A key with another value of a channel. */
export function withValue<K extends CurveKey>(key: K, channel: Channel, value: number): K;
export function withValue(key: CurveKey, { kind, axis }: Channel, value: number): CurveKey {
  if (ofNumber(key)) return { ...key, value };
  if (kind === 'move') {
    const move = [...(key.move ?? NOWHERE)] as [number, number, number];
    move[axis] = value / CM;
    return { ...key, move };
  }
  const vector = vectorOf(key.turn ?? SAME);
  vector[axis] = value;
  return { ...key, turn: turnOf(vector) };
}

const inOrder = <K extends CurveKey>(keys: K[]): K[] => keys.sort((a, b) => a.frame - b.frame);

/** A key put in the place of another; one that stood where it goes gives way. */
export const putKey = <K extends CurveKey>(keys: readonly K[], from: number, key: K): K[] =>
  inOrder([...keys.filter((k) => k.frame !== from && k.frame !== key.frame), key]);

/**
 * A key more, at a frame between others, that leaves every curve as it was. Where a bend goes beyond both keys, turns may differ
 * by some thousandths of a degree, and more where it is cut just at one key's value: see splitEase.
 * @returns undefined where a number is not set at that frame, so that any key would change it
 */
export function addKey<K extends CurveKey>(keys: readonly K[], frame: number): K[] | undefined {
  if (keys.some((k) => k.frame === frame)) return [...keys];
  const key = keyAt(keys, frame) as K | undefined;
  if (!key) return undefined;
  const after = keys.findIndex((k) => k.frame > frame);
  if (after <= 0) return inOrder([...keys, key]);
  const [from, to] = [keys[after - 1]!, keys[after]!];
  const cut = splitEase(easeOf(from), (frame - from.frame) / (to.frame - from.frame));
  return inOrder([...keys.map((k) => (k === from ? { ...k, ease: cut.before } : k)), { ...key, ease: cut.after }]);
}

function keyAt(keys: readonly CurveKey[], frame: number): CurveKey | undefined {
  if (keys.some(ofNumber)) {
    const value = valueAtFrame(keys, { kind: 'number', axis: 0 }, frame);
    return value === null ? undefined : { frame, value };
  }
  const own = keys as readonly OffsetKey[];
  return { frame, move: moveAt(own, frame), turn: turnOffsetAt(own, frame) };
}

export const setEase = <K extends CurveKey>(keys: readonly K[], frame: number, ease: Ease): K[] =>
  keys.map((k) => (k.frame === frame ? { ...k, ease } : k));

/**
 * The keys of a range moved and stretched to another one, as a group; keys that stand where they go and are none of them give
 * way. Frames are whole, so keys that meet become one, the later one.
 */
export function retimed<K extends CurveKey>(
  keys: readonly K[],
  range: { readonly start: number; readonly end: number },
  to: { readonly start: number; readonly end: number },
): K[] {
  const within = (k: K): boolean => k.frame >= range.start && k.frame <= range.end;
  const scale = range.end > range.start ? (to.end - to.start) / (range.end - range.start) : 1;
  const moved = new Map<number, K>();
  for (const k of keys.filter(within)) {
    const frame = Math.max(0, Math.round(to.start + (k.frame - range.start) * scale));
    moved.set(frame, { ...k, frame });
  }
  return inOrder([...keys.filter((k) => !within(k) && !moved.has(k.frame)), ...moved.values()]);
}

/** Where the two inner points of a stretch's bend lie, as frame and value; undefined where a curve has none to show. */
export function bendPoints(
  from: CurveKey,
  to: CurveKey,
  channel: Channel,
): readonly [{ frame: number; value: number }, { frame: number; value: number }] | undefined {
  const bend = bendOf(easeOf(from));
  const [a, b] = [keyValue(from, channel), keyValue(to, channel)];
  if (!bend || a === undefined || b === undefined || Math.abs(b - a) < 1e-4) return undefined;
  const at = (x: number, y: number): { frame: number; value: number } => ({
    frame: from.frame + x * (to.frame - from.frame),
    value: a + y * (b - a),
  });
  return [at(bend[0], bend[1]), at(bend[2], bend[3])];
}

/** The bend of a stretch with one inner point moved; see bendPoints. */
export function bentTo(
  from: CurveKey,
  to: CurveKey,
  channel: Channel,
  which: 0 | 1,
  point: { readonly frame: number; readonly value: number },
): Ease {
  const bend = [...(bendOf(easeOf(from)) ?? [1 / 3, 0, 2 / 3, 1])] as [number, number, number, number];
  const [a, b] = [keyValue(from, channel) ?? 0, keyValue(to, channel) ?? 0];
  bend[2 * which] = Math.min(1, Math.max(0, (point.frame - from.frame) / (to.frame - from.frame)));
  bend[2 * which + 1] = Math.min(4, Math.max(-3, (point.value - a) / (b - a)));
  return bend;
}
