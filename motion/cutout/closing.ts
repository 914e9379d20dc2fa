/** How a part lies off its attachment at a key, in its parent's frame (metres), and how it is turned there (radians). */
export interface Offset {
  readonly x: number;
  readonly y: number;
  readonly turn: number;
}

/** A pivot is not further beside its joint than this share of the height. */
const BESIDE = 0.04;
/** What an animator who closes a gap by eye is off by at most, share of the height. */
const BY_EYE = 0.004;
/** So many keys, turned so differently (radians), have to agree on a pivot. */
const AGREE = 3;
const SPREAD = 0.3;

/**
 * Which keys only close gaps. A part whose pivot lies beside its joint by e comes off by (R − 1) e as it turns by R, and closing
 * that takes (1 − R) e: one e that many keys agree on explains them, however far they go. What none explains and goes further
 * than `off` is meant; so is what goes that far from the attachment and back to it, where the very same pivot leaves gaps at both
 * ends: nobody closes one between two that they open. Method: our own; consensus over the pivots that single keys would need.
 * @param height of the figure, metres @param off share of the height
 */
export function closingKeys(keys: readonly Offset[], height: number, off: number): boolean[] {
  const tolerance = BY_EYE * height;
  const apart = ({ x, y, turn }: Offset, [ex, ey]: readonly [number, number]): number => {
    const [cos, sin] = [Math.cos(turn), Math.sin(turn)];
    return Math.hypot(x - (ex - (cos * ex - sin * ey)), y - (ey - (sin * ex + cos * ey)));
  };
  // what lies on its attachment would agree with any pivot while it is not turned
  const set = keys.filter((k) => Math.hypot(k.x, k.y) > tolerance / 4);
  let best: readonly Offset[] = [];
  let pivot: readonly [number, number] | undefined;
  for (const { x, y, turn } of set) {
    // (1 − R) e = offset, solved for e
    const c = 1 - Math.cos(turn);
    const s = Math.sin(turn);
    const size = c * c + s * s;
    if (size < 0.02) continue;
    const e = [(c * x - s * y) / size, (s * x + c * y) / size] as const;
    if (Math.hypot(...e) > BESIDE * height) continue;
    const agree = set.filter((k) => apart(k, e) <= tolerance);
    if (agree.length <= best.length || agree.length < AGREE) continue;
    const turns = agree.map((k) => k.turn);
    if (Math.max(...turns) - Math.min(...turns) < SPREAD) continue;
    [best, pivot] = [agree, e];
  }
  if (!pivot) return keys.map((k) => Math.hypot(k.x, k.y) <= off * height);
  const e = pivot;
  const opens = (k: Offset | undefined): boolean =>
    k !== undefined && Math.hypot(k.x, k.y) < 1e-6 && apart(k, e) > tolerance;
  return keys.map(
    (k, i) =>
      Math.hypot(k.x, k.y) <= off * height || (apart(k, e) <= tolerance && !(opens(keys[i - 1]) && opens(keys[i + 1]))),
  );
}
