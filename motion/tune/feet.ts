import { type Contacts, findContacts, plantHeights, soleTracks } from '../analysis/plants';
import type { Party } from '../body/party';
import type { Motion } from '../motion/motion';
import { turnedRound } from '../motion/turned-round';
import { type FootPlan, planFoot } from '../retarget/foot-plan';
import { type FootTrack, trackFeet } from '../retarget/foot-track';
import { ownPlan, type RetargetPlan } from '../retarget/plan';
import { reachFeet } from '../retarget/reach-feet';
import { steadyHips } from '../retarget/steady-hips';

/** The feet of a motion on its own rig, planned as they are, for an operation to move before the legs are bent to them. */
export interface Feet {
  readonly plan: RetargetPlan;
  readonly contacts: Contacts;
  /** Height of every plant, by index, metres. */
  readonly heights: readonly number[];
  readonly tracks: FootTrack[];
  readonly plans: FootPlan[];
}

/** Reads where the feet of a motion are; undefined where the rig has no legs. @param told what stands when, where that is known */
export function readFeet(party: Party, motion: Motion, told?: Contacts): Feet | undefined {
  const plan = ownPlan(party);
  const { body } = plan.source;
  if (body.leg === 0) return undefined;
  const soles = soleTracks(party.rig, turnedRound(party.cutout, motion), body);
  const contacts = told ?? findContacts(soles, motion.fps, body.leg);
  const heights = plantHeights(soles, contacts, body.leg, 1);
  const tracks = trackFeet(plan, steadyHips(plan, motion));
  const raised = heights.map((h) => h + contacts.floor);
  const plans = tracks.map((t) => planFoot(t, contacts.plants, raised, motion.fps));
  return { plan, contacts, heights: raised, tracks, plans };
}

/**
 * Bends the legs of a changed motion so that its feet go where the original's went, plants held on their spots.
 * @param edit moves the planned feet beforehand @param told what stands when, where that is known
 */
export function keepFeet(
  party: Party,
  original: Motion,
  changed: Motion,
  edit?: (feet: Feet) => void,
  told?: Contacts,
): Motion {
  const feet = readFeet(party, original, told);
  if (!feet) return changed;
  edit?.(feet);
  return reachFeet(feet.plan, steadyHips(feet.plan, changed), feet.tracks, feet.plans).motion;
}

/**
 * Adds a displacement to a foot's course: constant on every stretch that is held, so that plants stay plants, and passing
 * smoothly from one to the next in between.
 * @param at displacement wanted for a held stretch, given its middle frame; 3 numbers, metres
 */
export function displaceFoot(
  plan: FootPlan,
  at: (middle: number, start: number, end: number) => readonly number[],
): void {
  const { goal, held } = plan;
  const frames = held.length;
  const spans: { start: number; end: number; by: readonly number[] }[] = [];
  for (let f = 0; f < frames; f++) {
    if (!held[f]) continue;
    const start = f;
    while (f + 1 < frames && held[f + 1]) f++;
    spans.push({ start, end: f, by: at((start + f) >> 1, start, f) });
  }
  if (spans.length === 0) {
    // never held: every frame goes by its own wish
    for (let f = 0; f < frames; f++) {
      const by = at(f, f, f);
      for (let k = 0; k < 3; k++) goal[3 * f + k] = goal[3 * f + k]! + by[k]!;
    }
    return;
  }
  let i = 0;
  for (let f = 0; f < frames; f++) {
    while (i < spans.length && spans[i]!.end < f) i++;
    const next = spans[i];
    const prev = spans[i - 1];
    for (let k = 0; k < 3; k++) {
      let by: number;
      if (next && f >= next.start) by = next.by[k]!;
      else if (!prev) by = next!.by[k]!;
      else if (!next) by = prev.by[k]!;
      else {
        const x = (f - prev.end) / (next.start - prev.end);
        const s = x * x * x * (x * (6 * x - 15) + 10);
        by = (1 - s) * prev.by[k]! + s * next.by[k]!;
      }
      goal[3 * f + k] = goal[3 * f + k]! + by;
    }
  }
}
