import type { Match } from '../join/match';
import { endsOf, type Lasting, type Placement, stretchLength } from './document';

/** How two neighbours have to lie for a match of their frames to fall in the middle of their crossfade. */
export interface MetAt {
  readonly previous: Pick<Placement, 'to'>;
  readonly next: Pick<Placement, 'from' | 'at' | 'join'>;
}

/**
 * Cuts and moves two neighbours on a lane so that they meet at a match.
 * @param match frames of both as they lie on the lane, at its rate, counted from where each begins
 * @param items what tells the length of both items
 */
export function meetAt(
  previous: Placement,
  next: Placement,
  match: Pick<Match, 'a' | 'b'>,
  items: { readonly previous: Lasting; readonly next: Lasting },
  fps: number,
): MetAt {
  const half = next.join.kind === 'crossfade' ? Math.round(next.join.frames / 2) : 0;
  const length = stretchLength(previous, items.previous, fps);
  const ends = endsOf(previous, items.previous);
  // frames of an item that a frame of the lane is
  const [rate, nextRate] = [(previous.speed * items.previous.fps) / fps, (next.speed * items.next.fps) / fps];
  const kept = match.a + half;
  // one that repeats ends where it ends: cut out of it would be every one of its laps
  const to =
    previous.repeats === 1 && kept < length - 1 ? Math.min(ends.to, Math.round(ends.from + kept * rate)) : previous.to;
  const lead = Math.min(match.b, half);
  const from = next.repeats === 1 ? Math.round(endsOf(next, items.next).from + (match.b - lead) * nextRate) : next.from;
  const skipped = next.repeats === 1 ? match.b - lead : 0;
  return {
    previous: { to },
    next: { from, at: Math.max(0, previous.at + match.a - match.b + skipped), join: next.join },
  };
}
