import { findContacts, soleTracks } from '../analysis/plants';
import { measureBody } from '../body/body';
import type { Party } from '../body/party';
import { correctFlat } from '../cutout/correct-flat';
import { type Driven, driveCutout, type FlatParty } from '../cutout/drive';
import { withExposures } from '../cutout/exposure';
import { type CutoutKeys, keysOfMotion, retimedKeys } from '../cutout/keys';
import { rekeyed } from '../cutout/rekey';
import { measureDriven } from '../cutout/report';
import { type SwapReport, standsIn, swapCutout } from '../cutout/swap';
import { measureSwapped } from '../cutout/swap-report';
import { correct } from '../layer/correct';
import type { Motion } from '../motion/motion';
import { turnedRound } from '../motion/turned-round';
import type { Limits } from '../retarget/limits';
import { planRetarget } from '../retarget/plan';
import type { Report } from '../retarget/report';
import { type Retargeted, reportOf, retarget } from '../retarget/retarget';
import type { CutoutRig } from '../rig/rig';
import { tune } from '../tune/tune';
import {
  FITTING_DEFAULTS,
  type FittingEdits,
  type FittingSettings,
  FLAT_DEFAULTS,
  NO_EDITS,
  solveOptions,
  stretchEdits,
  tidyPlants,
  tuningSteps,
} from './document';

/** One side of a fitting: a party, and the joint limits that were set for it, if any. */
export type Fitter = Party & {
  readonly limits?: Limits | undefined;
  /** Of a cut-out's motion: the keys that it was made of. They stay keys on another cut-out. */
  readonly keys?: CutoutKeys | undefined;
};

export interface Fitted {
  /** The result with everything done by hand. */
  readonly motion: Motion;
  /** The solve before corrections by hand; of a cut-out in its plane. */
  readonly solved: Retargeted;
  /** How a cut-out was driven; undefined for a body in space. */
  readonly driven?: Driven | undefined;
  /** How one cut-out took another's place; undefined elsewhere. */
  readonly swapped?: SwapReport | undefined;
  /** The result as keys, with everything done by hand, where one keyed cut-out took another's place. */
  readonly keys?: CutoutKeys | undefined;
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
  // a body in space cannot be turned over
  const read = target.cutout ? motion : turnedRound(source.cutout, motion);
  // what has turned round no longer lies in its plane
  const party = read === motion ? source : { ...source, cutout: undefined };
  const tuned = tune(party, read, tuningSteps(settings.tuning));
  const used = stretchEdits(edits, tuned.frameCount);
  if (target.cutout) return evaluateFlat(source, tuned, { ...target, cutout: target.cutout }, settings, used);
  const options = solveOptions(settings, used, { slots: Object.keys(target.map.slots), limits: target.limits });
  const contacts = used.plants && settings.plants ? givenContacts(source, tuned, used) : undefined;
  const solved = retarget(source, tuned, target, { ...options, ...(contacts ? { contacts } : {}) });
  // with travel by speed the result has another length than the source it was told for
  const last = stretchEdits(used, solved.motion.frameCount);
  return { motion: correct(target, solved.motion, last.corrections), solved, edits: last };
}

/** The same for a cut-out: driven in its plane, with turns of single joints by hand on top. */
function evaluateFlat(
  source: Fitter,
  tuned: Motion,
  target: Fitter & { readonly cutout: CutoutRig },
  settings: FittingSettings,
  edits: FittingEdits,
): Fitted {
  if (source.cutout) return evaluateSwap({ ...source, cutout: source.cutout }, tuned, target, settings, edits);
  const flat = settings.flat ?? FLAT_DEFAULTS;
  const driven = driveCutout(
    source,
    tuned,
    { rig: target.cutout, map: target.map },
    {
      ...(flat.view === 'drawn' ? {} : { view: flat.view }),
      foreshorten: flat.foreshorten,
      order: flat.order,
      headViews: flat.headViews,
      swing: flat.swing,
      plants: settings.plants,
      travel: settings.travel !== 'none',
      ...(edits.plants && settings.plants ? { contacts: tidyPlants(edits.plants, tuned.frameCount) } : {}),
    },
  );
  const plan = planRetarget(source, target);
  const solved: Retargeted = {
    motion: driven.motion,
    source: tuned,
    plan: { ...plan, scale: driven.scale },
    plants: driven.plants,
    heights: driven.plants.map((p) => p.spot[1]),
    reach: driven.reach,
    gaveWay: 0,
    handReach: { max: 0, frame: 0 },
    short: new Float32Array(tuned.frameCount),
  };
  const corrected = correctFlat({ rig: target.cutout, map: target.map }, driven.motion, edits.corrections);
  const steps = withExposures(corrected.steps, edits.exposures ?? [], target.cutout, corrected.frameCount);
  const motion = edits.exposures?.length ? { ...corrected, steps } : corrected;
  return { motion, solved, driven, edits };
}

/** From one cut-out to another: turns, drawings and views are kept, and the figure is put together anew from what stands. */
function evaluateSwap(
  source: Fitter & { readonly cutout: CutoutRig },
  tuned: Motion,
  target: Fitter & { readonly cutout: CutoutRig },
  settings: FittingSettings,
  edits: FittingEdits,
): Fitted {
  const [from, to] = [source, target].map(({ map, cutout }) => ({ rig: cutout, map })) as [FlatParty, FlatParty];
  // what was tuned in other ways than in its speed is no longer what its keys say
  const { keys } = source;
  const kept = keys && tuningSteps(settings.tuning).every((s) => s.op === 'speed');
  const old = kept ? retimedKeys(keys, tuned.frameCount) : keysOfMotion(from.rig, tuned);
  const {
    motion: swapped,
    report,
    keys: made,
  } = swapCutout(from, old, to, {
    stands: edits.plants ? standsIn(edits.plants, tuned.frameCount) : undefined,
    said: edits.offKeys,
  });
  const corrected = correctFlat(to, swapped, edits.corrections);
  const steps = withExposures(corrected.steps, edits.exposures ?? [], to.rig, corrected.frameCount);
  const motion = { ...corrected, steps };
  const plan = planRetarget(source, target);
  const solved: Retargeted = {
    motion: swapped,
    source: tuned,
    plan: { ...plan, scale: report.scale },
    plants: report.plants,
    heights: report.plants.map((p) => p.spot[1]),
    reach: { max: 0, frame: 0 },
    gaveWay: 0,
    handReach: { max: 0, frame: 0 },
    short: new Float32Array(tuned.frameCount),
  };
  return { motion, solved, swapped: report, edits, ...(kept ? { keys: rekeyed(to.rig, made, motion) } : {}) };
}

function givenContacts(source: Fitter, tuned: Motion, edits: FittingEdits): ReturnType<typeof findContacts> {
  const body = measureBody(source.rig, source.map, source.pose, source.floor);
  const { floor } = findContacts(soleTracks(source.rig, tuned, body), tuned.fps, body.leg);
  return { plants: tidyPlants(edits.plants ?? [], tuned.frameCount), floor };
}

/** A motion on a character with everything as it is at first: what lists and stages show. @throws MotionError as retarget does */
export const putOn = (source: Party, motion: Motion, target: Party): Motion =>
  target.cutout
    ? evaluateFitting(source, motion, target, FITTING_DEFAULTS).motion
    : retarget(source, motion, target).motion;

/** Measures what an evaluated fitting came to, corrections included. */
export const reportOfFitting = (fitted: Fitted): Report =>
  fitted.swapped && fitted.solved.plan.target.cutout
    ? measureSwapped(fitted.solved.plan.target.cutout, fitted.solved.plan.target.map, fitted.motion, fitted.swapped)
    : fitted.driven
      ? measureDriven({ ...fitted.driven, motion: fitted.motion }).report
      : reportOf({ ...fitted.solved, motion: fitted.motion });
