import { type Belt, carriedBy, findBelt } from '../analysis/belt';
import type { HoldTracks } from '../analysis/holds';
import { type Contacts, findContacts, type Plant, type SoleTracks, soleTracks } from '../analysis/plants';
import { fitSoles } from '../analysis/sole-fit';
import { sharpestBend } from '../analysis/steadiness';
import { carrierOf } from '../bodymap/body-root';
import type { Motion } from '../motion/motion';
import { type RetargetPlan, withSoles } from './plan';
import { sourceHolds } from './source-holds';

/** A gait on the spot: the belt under it, and the motion as it would travel over ground that stands still. */
export interface OnBelt {
  readonly belt: Belt;
  readonly travelling: Motion;
}

/** What a source motion does on the ground, as one plan reads it. */
export interface SourceFacts {
  /** The plan with the soles that the motion stands on. */
  readonly plan: RetargetPlan;
  readonly tracks: SoleTracks;
  readonly contacts: Contacts;
  /** Hands, knees and seat that rest on the ground, with the tracks of the parts that may. */
  readonly holds: () => { readonly plants: readonly Plant[]; readonly tracks: HoldTracks };
  /** How sharply its knees bend at most; see sharpestBend. */
  readonly sharpestKnee: () => number | undefined;
  readonly sharpestElbow: () => number | undefined;
}

/** While a character is tuned one motion is solved again and again: what depends on it alone is worked out once. */
const kept = new WeakMap<RetargetPlan, WeakMap<Motion, SourceFacts>>();

/** Reads a source motion for a plan: soles, plants, holds. Motions are never changed in place, so facts are kept with them. */
export function factsOf(given: RetargetPlan, motion: Motion, beltSpeed = 0): SourceFacts {
  let own = kept.get(given);
  if (!own) {
    own = new WeakMap();
    kept.set(given, own);
  }
  let facts = own.get(motion);
  if (!facts) {
    facts = readFacts(given, motion, beltSpeed);
    own.set(motion, facts);
  }
  return facts;
}

const belts = new WeakMap<RetargetPlan, WeakMap<Motion, OnBelt | null>>();

/** The belt under a source motion, if it goes on the spot; see findBelt. */
export function beltUnder(given: RetargetPlan, motion: Motion): OnBelt | undefined {
  let own = belts.get(given);
  if (!own) {
    own = new WeakMap();
    belts.set(given, own);
  }
  let found = own.get(motion);
  if (found === undefined) {
    const { rig, map, skinned, body } = given.source;
    const joint = carrierOf(rig, map, skinned);
    // what it does on the ground as it stands is asked for anyway, unless there is a belt
    const belt = findBelt(rig, motion, body, joint, factsOf(given, motion).tracks);
    found = belt ? { belt, travelling: carriedBy(rig, motion, joint, belt, -1) } : null;
    own.set(motion, found);
  }
  return found ?? undefined;
}

function readFacts(given: RetargetPlan, motion: Motion, beltSpeed: number): SourceFacts {
  const { rig, body } = given.source;
  const fitted = fitSoles(rig, motion, body, given.sourceAligned);
  const plan = fitted ? withSoles(given, fitted) : given;
  const tracks = soleTracks(rig, motion, plan.source.body);
  const contacts = findContacts(tracks, motion.fps, plan.source.body.leg, beltSpeed);
  return {
    plan,
    tracks,
    contacts,
    holds: once(() => sourceHolds(plan, motion, heelsOf(tracks), contacts.floor)),
    sharpestElbow: once(() => sharpestBend(plan.source, motion, 'forearm')),
    sharpestKnee: once(() => sharpestBend(plan.source, motion, 'shin')),
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
