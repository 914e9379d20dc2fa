import { HAND_MODES, handGoalsFor, REGIONS, type RetargetOptions, TRAVELS, type TuneStep } from '@velvet-reel/motion';
import { z } from 'zod';

// What a person can set on a fitting and on a change, as data that travels: page, worker thread, server, provenance.

/** Tuning by a handful of amounts; the source is tuned before it is carried over. */
export const tuning = z.object({
  energy: z.number().min(0).max(3).default(1),
  arms: z.number().min(-60).max(60).default(0),
  stance: z.number().min(0.3).max(3).default(1),
  stride: z.number().min(0.3).max(2).default(1),
  speed: z.number().min(0.05).max(20).default(1),
  lean: z.number().min(-45).max(45).default(0),
});
export type Tuning = z.infer<typeof tuning>;
export const TUNING_DEFAULTS: Tuning = tuning.parse({});

export const fitSettings = z.object({
  plants: z.boolean().default(true),
  travel: z.enum(TRAVELS).default('leg'),
  hands: z.enum(HAND_MODES).default('free'),
  limits: z.boolean().default(false),
  tuning: tuning.default(TUNING_DEFAULTS),
});
export type FitSettings = z.infer<typeof fitSettings>;
export const FIT_DEFAULTS: FitSettings = fitSettings.parse({});

/** Settings as they stand in an address: JSON, checked. */
export const settingsText = z
  .string()
  .max(2000)
  .transform((text, context) => {
    try {
      return fitSettings.parse(JSON.parse(text));
    } catch {
      context.addIssue({ code: 'custom', message: 'the settings are not readable' });
      return z.NEVER;
    }
  });

export const optionsOf = (settings: FitSettings): RetargetOptions => ({
  plants: settings.plants,
  travel: settings.travel,
  hands: handGoalsFor(settings.hands),
  limits: settings.limits ? 'common' : false,
});

/** Steps of tuning that differ from leaving everything as it is. */
export function stepsOf(t: Tuning): TuneStep[] {
  const steps: TuneStep[] = [];
  if (t.energy !== 1) steps.push({ op: 'energy', amount: t.energy });
  if (t.arms !== 0) steps.push({ op: 'arms', degrees: t.arms });
  if (t.stance !== 1) steps.push({ op: 'stance', scale: t.stance });
  if (t.stride !== 1) steps.push({ op: 'stride', scale: t.stride });
  if (t.lean !== 0) steps.push({ op: 'lean', forward: t.lean });
  if (t.speed !== 1) steps.push({ op: 'speed', speed: t.speed });
  return steps;
}

/** A change to an item that makes a new one of it, on its own skeleton. */
export const changeWish = z.object({
  mirror: z.boolean().default(false),
  despike: z.boolean().default(false),
  fillGaps: z.boolean().default(false),
  /** Cut-off of the low-pass, Hz; 0 for none. */
  smoothHz: z.number().min(0).max(500).default(0),
  trim: z
    .object({ start: z.int().min(0), end: z.int().min(0) })
    .nullable()
    .default(null),
  /** Close the stretch (or the whole) into a loop. */
  loop: z.boolean().default(false),
  inPlace: z.boolean().default(false),
  floor: z.boolean().default(false),
  /** Parts of the body that are kept; all where the list is empty. */
  regions: z.array(z.enum(REGIONS)).max(REGIONS.length).default([]),
  tuning: tuning.default(TUNING_DEFAULTS),
});
export type ChangeWish = z.infer<typeof changeWish>;
export const NO_CHANGE: ChangeWish = changeWish.parse({});

/** The steps of a change in the order in which they are applied; the loop is closed after them. */
export function changeSteps(wish: ChangeWish): TuneStep[] {
  const steps: TuneStep[] = [];
  if (wish.despike) steps.push({ op: 'despike' });
  if (wish.fillGaps) steps.push({ op: 'fillGaps' });
  if (wish.smoothHz > 0) steps.push({ op: 'smooth', cutoffHz: wish.smoothHz });
  if (wish.trim) steps.push({ op: 'trim', ...wish.trim });
  if (wish.mirror) steps.push({ op: 'mirror' });
  steps.push(...stepsOf(wish.tuning));
  if (wish.floor) steps.push({ op: 'floor' });
  return steps;
}

/** What a change does, in a few words, for lists and names. */
export function changeWords(wish: ChangeWish): string[] {
  const t = wish.tuning;
  return [
    wish.despike && 'spikes out',
    wish.fillGaps && 'gaps filled',
    wish.smoothHz > 0 && `smoothed at ${wish.smoothHz} Hz`,
    wish.trim &&
      (wish.trim.start === wish.trim.end
        ? `pose at frame ${wish.trim.start + 1}`
        : `frames ${wish.trim.start + 1} to ${wish.trim.end + 1}`),
    wish.regions.length > 0 && `only ${wish.regions.join(', ')}`,
    wish.mirror && 'mirrored',
    t.energy !== 1 && `energy ${t.energy}`,
    t.arms !== 0 && `arms ${t.arms}°`,
    t.stance !== 1 && `stance × ${t.stance}`,
    t.stride !== 1 && `stride × ${t.stride}`,
    t.lean !== 0 && `lean ${t.lean}°`,
    t.speed !== 1 && `speed × ${t.speed}`,
    wish.floor && 'on the floor',
    wish.loop && 'looped',
    wish.inPlace && 'in place',
  ].filter((x): x is string => typeof x === 'string');
}
