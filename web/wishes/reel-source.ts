import { evaluateFitting, type Fitter, type Motion } from '@velvet-reel/motion';
import type { PartyJson } from './party';
import type { FitEdits, FitSettings } from './wishes';

/** How an item comes onto a member of a reel: as it is where it was made on that skeleton, else as its fitting says. */
export interface ReelSource {
  /** What is laid; see laidOf. */
  readonly laid: string;
  readonly motionHash: string;
  /** Null where the item is on the member’s own skeleton, and nothing is set for the pair. */
  readonly fit: { readonly source: PartyJson; readonly settings: FitSettings; readonly edits: FitEdits } | null;
}

/** The item’s motion on the member’s rig, in its own rate. */
export function onMember(
  { fit }: Pick<ReelSource, 'fit'>,
  motion: Motion,
  target: Fitter,
  partyOf: (json: PartyJson) => Fitter,
): Motion {
  return fit ? evaluateFitting(partyOf(fit.source), motion, target, fit.settings, fit.edits).motion : motion;
}
