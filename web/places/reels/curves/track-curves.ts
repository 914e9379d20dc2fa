import {
  bendOf,
  type CorrectionTrack,
  type Ease,
  expQuat,
  logQuat,
  moveAt,
  type OffsetKey,
  splitEase,
  turnOffsetAt,
} from '@velvet-reel/motion';

// Keys of one part as curves: each channel is a number over frames. Moves are told in centimetres along the world's axes,
// turns as rotation vectors in degrees in the part's own frame.

export type Kind = 'move' | 'turn';
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

/** What a key says of a channel; undefined where it says nothing. */
export function keyValue(key: OffsetKey, { kind, axis }: Channel): number | undefined {
  if (kind === 'move') return key.move && key.move[axis] * CM;
  return key.turn && vectorOf(key.turn)[axis];
}

/** A channel at any frame, by the easing of the keys. */
export function valueAtFrame(keys: readonly OffsetKey[], { kind, axis }: Channel, frame: number): number {
  return kind === 'move' ? moveAt(keys, frame)[axis] * CM : vectorOf(turnOffsetAt(keys, frame))[axis];
}

/** A key with another value of a channel. */
export function withValue(key: OffsetKey, { kind, axis }: Channel, value: number): OffsetKey {
  if (kind === 'move') {
    const move = [...(key.move ?? NOWHERE)] as [number, number, number];
    move[axis] = value / CM;
    return { ...key, move };
  }
  const vector = vectorOf(key.turn ?? SAME);
  vector[axis] = value;
  return { ...key, turn: turnOf(vector) };
}

const inOrder = (keys: OffsetKey[]): OffsetKey[] => keys.sort((a, b) => a.frame - b.frame);

/** A key put in the place of another; one that stood where it goes gives way. */
export const putKey = (keys: readonly OffsetKey[], from: number, key: OffsetKey): OffsetKey[] =>
  inOrder([...keys.filter((k) => k.frame !== from && k.frame !== key.frame), key]);

/**
 * A key more, at a frame between others, that leaves every curve as it was. Where a bend goes beyond both keys, turns may differ
 * by some thousandths of a degree, and more where it is cut just at one key's value: see splitEase.
 */
export function addKey(keys: readonly OffsetKey[], frame: number): OffsetKey[] {
  if (keys.some((k) => k.frame === frame)) return [...keys];
  const after = keys.findIndex((k) => k.frame > frame);
  const key: OffsetKey = { frame, move: moveAt(keys, frame), turn: turnOffsetAt(keys, frame) };
  if (after <= 0) return inOrder([...keys, key]);
  const [from, to] = [keys[after - 1]!, keys[after]!];
  const cut = splitEase(from.ease ?? 'smooth', (frame - from.frame) / (to.frame - from.frame));
  return inOrder([...keys.map((k) => (k === from ? { ...k, ease: cut.before } : k)), { ...key, ease: cut.after }]);
}

export const setEase = (keys: readonly OffsetKey[], frame: number, ease: Ease): OffsetKey[] =>
  keys.map((k) => (k.frame === frame ? { ...k, ease } : k));

/**
 * The keys of a range moved and stretched to another one, as a group; keys that stand where they go and are none of them give
 * way. Frames are whole, so keys that meet become one, the later one.
 */
export function retimed(
  keys: readonly OffsetKey[],
  range: { readonly start: number; readonly end: number },
  to: { readonly start: number; readonly end: number },
): OffsetKey[] {
  const within = (k: OffsetKey): boolean => k.frame >= range.start && k.frame <= range.end;
  const scale = range.end > range.start ? (to.end - to.start) / (range.end - range.start) : 1;
  const moved = new Map<number, OffsetKey>();
  for (const k of keys.filter(within)) {
    const frame = Math.max(0, Math.round(to.start + (k.frame - range.start) * scale));
    moved.set(frame, { ...k, frame });
  }
  return inOrder([...keys.filter((k) => !within(k) && !moved.has(k.frame)), ...moved.values()]);
}

/** Where the two inner points of a stretch's bend lie, as frame and value; undefined where a curve has none to show. */
export function bendPoints(
  from: OffsetKey,
  to: OffsetKey,
  channel: Channel,
): readonly [{ frame: number; value: number }, { frame: number; value: number }] | undefined {
  const bend = bendOf(from.ease ?? 'smooth');
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
  from: OffsetKey,
  to: OffsetKey,
  channel: Channel,
  which: 0 | 1,
  point: { readonly frame: number; readonly value: number },
): Ease {
  const bend = [...(bendOf(from.ease ?? 'smooth') ?? [1 / 3, 0, 2 / 3, 1])] as [number, number, number, number];
  const [a, b] = [keyValue(from, channel) ?? 0, keyValue(to, channel) ?? 0];
  bend[2 * which] = Math.min(1, Math.max(0, (point.frame - from.frame) / (to.frame - from.frame)));
  bend[2 * which + 1] = Math.min(4, Math.max(-3, (point.value - a) / (b - a)));
  return bend;
}
