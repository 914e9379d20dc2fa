import type { CutoutRig } from '../rig/rig';
import type { PartView } from './part-names';
import type { Seen } from './seen';

/** Views of a head over time, and where they are shown mirrored. */
export interface HeadViews {
  readonly labels: readonly string[];
  readonly values: Uint16Array;
  readonly mirrored: Int8Array;
}

const RAD = Math.PI / 180;
/** Turned farther than this from the eye, a head is seen in the next view. */
const ENDS: readonly (readonly [PartView, number])[] = [
  ['front', 24 * RAD],
  ['quarter', 62 * RAD],
  ['side', 125 * RAD],
  ['back', Math.PI],
];
const STICKS = 7 * RAD;

/** The views that the parts of a joint are drawn in, the one shown at rest first. */
export function viewsOf(rig: CutoutRig, joint: number): PartView[] {
  const out: PartView[] = [];
  for (const part of rig.parts)
    if (part.joint === joint && part.view && !out.includes(part.view as PartView)) out.push(part.view as PartView);
  return out;
}

/**
 * Which view of the head shows, by where the head faces: the nearest that is drawn. A view from the side faces one way as
 * drawn and is mirrored for the other.
 * @returns undefined where the head is drawn in one view
 */
export function headViews(rig: CutoutRig, head: number, seen: Seen, flips: Int8Array): HeadViews | undefined {
  const drawn = viewsOf(rig, head);
  if (drawn.length < 2) return undefined;
  const n = seen.frameCount;
  const values = new Uint16Array(n);
  const mirrored = new Int8Array(n).fill(1);
  const faces = rig.found.facing === '-X' ? -1 : 1;
  let now: PartView | undefined;
  let side = 1;
  for (let f = 0; f < n; f++) {
    // in the figure's own left and right
    const yaw = seen.headYaw[f]! * flips[f]!;
    const turn = Math.abs(wrapped(yaw));
    const wanted = nearest(drawn, turn, now);
    if (wanted !== now) now = wanted;
    const aside = Math.sin(yaw) * faces;
    if (aside * side < -Math.sin(STICKS)) side = -side;
    values[f] = drawn.indexOf(now!);
    mirrored[f] = now === 'front' || now === 'back' ? 1 : side;
  }
  return { labels: drawn, values, mirrored };
}

const wrapped = (a: number): number => a - 2 * Math.PI * Math.round(a / (2 * Math.PI));

/** The drawn view whose range is nearest; the one that shows holds on a little beyond its range. */
function nearest(drawn: readonly PartView[], turn: number, now: PartView | undefined): PartView {
  let best = drawn[0]!;
  let least = Number.POSITIVE_INFINITY;
  let from = 0;
  for (const [view, to] of ENDS) {
    const outside = Math.max(from - turn, turn - to, 0) - (view === now ? STICKS : 0);
    if (drawn.includes(view) && outside < least) {
      least = outside;
      best = view;
    }
    from = to;
  }
  return best;
}
