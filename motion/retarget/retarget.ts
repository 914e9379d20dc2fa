import { type Contacts, findContacts, type Plant, type SoleTracks, soleTracks } from '../analysis/plants';
import { MotionError } from '../errors';
import { assertMotion, type Motion } from '../motion/motion';
import { holdPlants } from './hold';
import { type Party, type Plan, planRetarget } from './plan';
import { measure, type Report } from './report';
import { type Travel, transfer } from './transfer';

export interface RetargetOptions {
  /** Hold plants on the target; without it turns and travel are carried over and nothing else. */
  readonly plants?: boolean;
  readonly travel?: Travel;
  /** Plants to hold instead of those found in the source. */
  readonly contacts?: Contacts;
}

export const RETARGET_DEFAULTS = { plants: true, travel: 'leg' } as const satisfies Required<
  Omit<RetargetOptions, 'contacts'>
>;

export interface Retargeted {
  readonly motion: Motion;
  readonly plan: Plan;
  readonly plants: readonly Plant[];
  /** Height of every plant above the target's ground, metres. */
  readonly heights: readonly number[];
  readonly reach: { readonly max: number; readonly frame: number };
}

/**
 * Carries a motion from one rig to another: same poses in the world after both rests are brought together, travel scaled
 * by leg length, feet held where the source holds them. Frames, rate and face shapes are kept.
 * Methods: rest-relative transfer in a common frame; Kovar, Schreiner, Gleicher 2002 for plants; see the parts.
 * @throws MotionError 'unmappable' where neither hips nor any limb are mapped on both sides
 */
export function retarget(source: Party, motion: Motion, target: Party, options: RetargetOptions = {}): Retargeted {
  assertMotion(source.rig, motion);
  const plan = planRetarget(source, target);
  if (plan.a.every((j) => j < 0) && !plan.same.some((j) => j >= 0)) {
    throw new MotionError(
      'unmappable',
      'No joint of the source plays the part of any joint of the target: set at least hips and limbs in the body maps.',
    );
  }
  return solve(plan, motion, options);
}

/** The solve alone, for a plan made before; what benchmarks time. */
export function solve(plan: Plan, motion: Motion, options: RetargetOptions = {}): Retargeted {
  const hold = options.plants ?? RETARGET_DEFAULTS.plants;
  const travel = options.travel ?? RETARGET_DEFAULTS.travel;
  const { source, target, scale } = plan;
  const none: Contacts = { plants: [], floor: plan.equalRigs ? 0 : source.body.floor };
  const tracks = hold ? soleTracks(source.rig, motion, source.body) : {};
  const contacts = hold ? (options.contacts ?? findContacts(tracks, motion.fps, source.body.leg)) : none;
  const moved = transfer(plan, motion, { travel, sourceFloor: contacts.floor });
  if (!hold || contacts.plants.length === 0 || target.body.leg === 0) {
    return {
      motion: moved,
      plan,
      plants: contacts.plants,
      heights: contacts.plants.map(() => 0),
      reach: { max: 0, frame: 0 },
    };
  }
  const heights = plantHeights(tracks, contacts, source.body.leg, scale);
  const held = holdPlants(plan, moved, contacts.plants, heights);
  return { motion: held.motion, plan, plants: contacts.plants, heights, reach: held.reach };
}

/** Height of each plant over the source's ground, scaled; what is nearly level is level. */
export function plantHeights(tracks: SoleTracks, contacts: Contacts, leg: number, scale: number): number[] {
  return contacts.plants.map((plant) => {
    const track = tracks[plant.part];
    if (!track) return 0;
    let sum = 0;
    for (let f = plant.start; f <= plant.end; f++) sum += track[3 * f + 1]!;
    const height = sum / (plant.end - plant.start + 1) - contacts.floor;
    return Math.abs(height) < 0.05 * leg ? 0 : height * scale;
  });
}

/** Measures a finished retarget; see Report. */
export function reportOf(done: Retargeted, source: Motion): Report {
  const { plan } = done;
  // a result without held plants is measured on the plants that should have been
  const body = plan.source.body;
  const plants =
    done.plants.length > 0
      ? done.plants
      : findContacts(soleTracks(plan.source.rig, source, body), source.fps, body.leg).plants;
  return measure(plan, source, done.motion, plants, done.reach, done.heights);
}
