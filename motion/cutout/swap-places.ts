import { closingKeys } from './closing';
import type { FlatBody } from './flat';
import { type CutoutKey, type KeyTrack, keyedAt } from './keys';

/** How differently a bone was drawn: added to turns, it leaves directions as they were. */
export function restDifference(old: FlatBody, flat: FlatBody, from: number, to: number): number {
  const [a, b] = [old.bones.get(from), flat.bones.get(to)];
  if (!a || !b) return 0;
  const [pa, pb] = [old.bones.get(old.rig.parents[from]!), flat.bones.get(flat.rig.parents[to]!)];
  const own = angle(a) - angle(b);
  // a turn is told against the parent, which has been set right already
  const above = pa && pb ? angle(pa) - angle(pb) : 0;
  const by = own - above;
  return by - 2 * Math.PI * Math.round(by / (2 * Math.PI));
}

const angle = ({ x, y }: { x: number; y: number }): number => Math.atan2(y, x);

/** A key that puts a part off its attachment. */
export interface OffKey {
  /** The old figure's. */
  readonly joint: string;
  readonly frame: number;
  /** How far off, a share of the old figure's height. */
  readonly off: number;
}

/** What somebody says of a key that is off: meant, or there to close a gap. */
export interface SaidOfKey {
  readonly joint: string;
  readonly frame: number;
  readonly meant: boolean;
}

/** Off its attachment by more than this share of the figure's height at a key, a part is off on purpose. */
const BREAK = 0.02;
/** Closer than this it is on it. */
const ON = 0.004;
const NEARLY = 1e-4;

export interface PlaceContext {
  readonly from: number;
  readonly joint: number;
  readonly scale: number;
  /** How the joint turns. */
  readonly turn: KeyTrack | undefined;
  readonly said: readonly SaidOfKey[];
  readonly corrections: OffKey[];
  readonly breaks: OffKey[];
}

/** Places of a joint beyond its attachment, as the new figure has them. */
export function placeKeys(old: FlatBody, flat: FlatBody, track: KeyTrack, c: PlaceContext): CutoutKey[] {
  const rest = (body: FlatBody, joint: number): [number, number] => [
    body.rig.restT[3 * joint]!,
    body.rig.restT[3 * joint + 1]!,
  ];
  const [ox, oy] = rest(old, c.from);
  const [nx, ny] = rest(flat, c.joint);
  const off = (k: CutoutKey): [number, number] => [k.value[0]! - ox, k.value[1]! - oy];
  const far = (k: CutoutKey): number => Math.hypot(...off(k)) / old.height;
  const closing = closingKeys(
    track.keys.map((k) => {
      const [x, y] = off(k);
      return { x, y, turn: (c.turn && keyedAt(c.turn, k.frame)?.[0]) ?? 0 };
    }),
    old.height,
    BREAK,
  );
  const said = new Map(
    c.said.flatMap((x) => (x.joint === track.joint ? [[Math.round(x.frame), x.meant] as const] : [])),
  );
  const meant = track.keys.filter((k, i) => said.get(Math.round(k.frame)) ?? !closing[i]);
  // a key on its attachment closes nothing
  const closed = (k: CutoutKey): void => {
    if (far(k) > NEARLY) c.corrections.push({ joint: track.joint, frame: k.frame, off: far(k) });
  };
  if (meant.length === 0) {
    track.keys.forEach(closed);
    return [];
  }
  const out: CutoutKey[] = [];
  track.keys.forEach((k, i) => {
    const [before, after] = [track.keys[i - 1], track.keys[i + 1]];
    const isMeant = meant.includes(k);
    const besides = (before && meant.includes(before)) || (after && meant.includes(after));
    // what leads to one and back stays, on its attachment
    if (!isMeant && (!besides || far(k) > ON)) closed(k);
    if (!isMeant && !besides) return;
    if (isMeant) c.breaks.push({ joint: track.joint, frame: k.frame, off: far(k) });
    const [dx, dy] = isMeant ? off(k) : [0, 0];
    out.push({ ...k, value: [nx + c.scale * dx, ny + c.scale * dy] });
  });
  return out;
}
