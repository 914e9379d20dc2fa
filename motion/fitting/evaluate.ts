import { findContacts, soleTracks } from '../analysis/plants';
import { measureBody } from '../body/body';
import type { Party } from '../body/party';
import { correct } from '../layer/correct';
import type { Motion } from '../motion/motion';
import type { Limits } from '../retarget/limits';
import type { Report } from '../retarget/report';
import { type Retargeted, reportOf, retarget } from '../retarget/retarget';
import { tune } from '../tune/tune';
import {
  type FittingEdits,
  type FittingSettings,
  NO_EDITS,
  solveOptions,
  stretchEdits,
  tidyPlants,
  tuningSteps,
} from './document';

/** One side of a fitting: a party, and the joint limits that were set for it, if any. */
export type Fitter = Party & { readonly limits?: Limits | undefined };

export interface Fitted {
  /** The result with everything done by hand. */
  readonly motion: Motion;
  /** The solve before corrections by hand. */
  readonly solved: Retargeted;
  /** The edits as they were used, told in the result's frames. */
  readonly edits: FittingEdits;
}

/**
 * Evaluates a fitting: the source tuned, carried over, plants and goals held, corrections laid on top. Pure; the same input
 * gives the same motion, so what is kept can be made again.
 * @throws MotionError as tune, retarget and correct do
 */
export function evaluateFitting(
  source: Fitter,
  motion: Motion,
  target: Fitter,
  settings: FittingSettings,
  edits: FittingEdits = NO_EDITS,
): Fitted {
  const tuned = tune(source, motion, tuningSteps(settings.tuning));
  const used = stretchEdits(edits, tuned.frameCount);
  const options = solveOptions(settings, used, { slots: Object.keys(target.map.slots), limits: target.limits });
  const contacts = used.plants && settings.plants ? givenContacts(source, tuned, used) : undefined;
  const solved = retarget(source, tuned, target, { ...options, ...(contacts ? { contacts } : {}) });
  // with travel by speed the result has another length than the source it was told for
  const last = stretchEdits(used, solved.motion.frameCount);
  return { motion: correct(target, solved.motion, last.corrections), solved, edits: last };
}

function givenContacts(source: Fitter, tuned: Motion, edits: FittingEdits): ReturnType<typeof findContacts> {
  const body = measureBody(source.rig, source.map, source.pose, source.floor);
  const { floor } = findContacts(soleTracks(source.rig, tuned, body), tuned.fps, body.leg);
  return { plants: tidyPlants(edits.plants ?? [], tuned.frameCount), floor };
}

/** Measures what an evaluated fitting came to, corrections included. */
export const reportOfFitting = (fitted: Fitted): Report => reportOf({ ...fitted.solved, motion: fitted.motion });
