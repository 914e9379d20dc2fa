import type { Match } from '../join/match';
import { endsOf, itemFramesIn, type Lasting, type Placement, stretchLength } from './document';

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
  const kept = match.a + half;
  // one that repeats ends where it ends: cut out of it would be every one of its laps
  const to =
    previous.repeats === 1 && kept < length - 1
      ? Math.min(ends.to, Math.round(ends.from + itemFramesIn(previous, items.previous, fps, kept)))
      : previous.to;
  const lead = Math.min(match.b, half);
  const from =
    next.repeats === 1
      ? Math.round(endsOf(next, items.next).from + itemFramesIn(next, items.next, fps, match.b - lead))
      : next.from;
  const skipped = next.repeats === 1 ? match.b - lead : 0;
  return {
    previous: { to },
    next: { from, at: Math.max(0, previous.at + match.a - match.b + skipped), join: next.join },
  };
}
