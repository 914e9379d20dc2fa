import type { HoldTracks } from '../analysis/holds';
import { type Contacts, findContacts, type Plant, type SoleTracks, soleTracks } from '../analysis/plants';
import { fitSoles } from '../analysis/sole-fit';
import { sharpestKnee } from '../analysis/steadiness';
import type { Motion } from '../motion/motion';
import { type RetargetPlan, withSoles } from './plan';
import { sourceHolds } from './source-holds';

/** What a source motion does on the ground, as one plan reads it. */
export interface SourceFacts {
  /** The plan with the soles that the motion stands on. */
  readonly plan: RetargetPlan;
  readonly tracks: SoleTracks;
  readonly contacts: Contacts;
  /** Hands, knees and seat that rest on the ground, with the tracks of the parts that may. */
  readonly holds: () => { readonly plants: readonly Plant[]; readonly tracks: HoldTracks };
  /** See sharpestKnee. */
  readonly sharpest: () => number | undefined;
}

/** While a character is tuned one motion is solved again and again: what depends on it alone is worked out once. */
const kept = new WeakMap<RetargetPlan, WeakMap<Motion, SourceFacts>>();

/** Reads a source motion for a plan: soles, plants, holds. Motions are never changed in place, so facts are kept with them. */
export function factsOf(given: RetargetPlan, motion: Motion): SourceFacts {
  let own = kept.get(given);
  if (!own) {
    own = new WeakMap();
    kept.set(given, own);
  }
  let facts = own.get(motion);
  if (!facts) {
    facts = readFacts(given, motion);
    own.set(motion, facts);
  }
  return facts;
}

function readFacts(given: RetargetPlan, motion: Motion): SourceFacts {
  const { rig, body } = given.source;
  const fitted = fitSoles(rig, motion, body, given.sourceAligned);
  const plan = fitted ? withSoles(given, fitted) : given;
  const tracks = soleTracks(rig, motion, plan.source.body);
  const contacts = findContacts(tracks, motion.fps, plan.source.body.leg);
  return {
    plan,
    tracks,
    contacts,
    holds: once(() => sourceHolds(plan, motion, heelsOf(tracks), contacts.floor)),
    sharpest: once(() => sharpestKnee(plan.source, motion)),
  };
}

/** The tracks of both heels, as far as there are any. */
export const heelsOf = (tracks: SoleTracks): Float64Array[] =>
  [tracks.heelL, tracks.heelR].filter((t) => t !== undefined);

function once<T>(read: () => T): () => T {
  let done: { readonly value: T } | undefined;
  return () => {
    done ??= { value: read() };
    return done.value;
  };
}
