import {
  FITTING_DEFAULTS,
  type FittingEdits,
  type FittingSettings,
  HAND_MODES,
  HANDLES,
  LEAVE_WORDS,
  PLANT_PARTS,
  REGIONS,
  TRAVELS,
  type TuneStep,
  type Tuning,
  tuningSteps,
} from '@velvet-reel/motion';
import { z } from 'zod';

// What a person can set on a fitting and on a change, as data that travels: page, worker thread, server, provenance.
// The types are the core's; these schemas check what comes from outside against them.

const tuning = z.object({
  energy: z.number().min(0).max(3).default(1),
  arms: z.number().min(-60).max(60).default(0),
  stance: z.number().min(0.3).max(3).default(1),
  stride: z.number().min(0.3).max(2).default(1),
  speed: z.number().min(0.05).max(20).default(1),
  lean: z.number().min(-45).max(45).default(0),
}) satisfies z.ZodType<Tuning>;
export const TUNING_DEFAULTS: Tuning = FITTING_DEFAULTS.tuning;
export type { Tuning };

export const fitSettings = z.object({
  plants: z.boolean().default(true),
  travel: z.enum(TRAVELS).default('leg'),
  hands: z.enum(HAND_MODES).default('free'),
  limits: z.boolean().default(false),
  lower: z.number().min(-0.2).max(0.2).default(0),
  leave: z.array(z.enum(LEAVE_WORDS)).max(LEAVE_WORDS.length).readonly().default([]),
  tuning: tuning.default({ ...TUNING_DEFAULTS }),
}) satisfies z.ZodType<FittingSettings>;
export type FitSettings = FittingSettings;
export const FIT_DEFAULTS: FitSettings = FITTING_DEFAULTS;

const frame = z.number().min(0).max(1_000_000);
const triple = z.tuple([z.number(), z.number(), z.number()]);
const metres = z.number().min(-1000).max(1000);
const place = z.tuple([metres, metres, metres]);
const importance = z.array(z.object({ frame, weight: z.number().min(0).max(1) })).max(500);
const offsetKeys = z
  .array(
    z.object({
      frame,
      turn: z.tuple([z.number(), z.number(), z.number(), z.number()]).optional(),
      move: triple.optional(),
      ease: z.enum(['smooth', 'linear', 'step']).optional(),
    }),
  )
  .max(2000);

export const fitEdits = z.object({
  frames: z.int().min(0).max(1_000_000),
  plants: z
    .array(
      z.object({
        part: z.enum(PLANT_PARTS as [(typeof PLANT_PARTS)[number], ...(typeof PLANT_PARTS)[number][]]),
        start: frame,
        end: frame,
        pin: z.tuple([metres, metres]).optional(),
      }),
    )
    .max(5000)
    .nullable(),
  goals: z
    .array(
      z.object({
        hand: z.enum(['L', 'R', 'both']),
        keep: z.enum(['head', 'hips', 'otherHand', 'point']),
        point: place.optional(),
        weight: z.union([z.number().min(0).max(1), z.literal('near'), importance]).optional(),
      }),
    )
    .max(50),
  looks: z
    .array(z.object({ point: place, weight: z.union([z.number().min(0).max(1), importance]).optional() }))
    .max(20),
  corrections: z
    .array(
      z.union([
        z.object({ joint: z.string().min(1).max(300), keys: offsetKeys }),
        z.object({ handle: z.enum(HANDLES), keys: offsetKeys }),
      ]),
    )
    .max(500),
});
// optional fields that zod writes as "or undefined" are the core's optional fields
export type FitEdits = FittingEdits;
export const asEdits = (checked: z.output<typeof fitEdits>): FitEdits => checked as FitEdits;

const jsonOf = <T>(schema: z.ZodType<T>, limit: number, what: string) =>
  z
    .string()
    .max(limit)
    .transform((text, context): T => {
      try {
        return schema.parse(JSON.parse(text));
      } catch {
        context.addIssue({ code: 'custom', message: `the ${what} are not readable` });
        return z.NEVER;
      }
    });
/** Settings as they stand in an address: JSON, checked. */
export const settingsText = jsonOf<FitSettings>(fitSettings, 2000, 'settings');

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
  tuning: tuning.default({ ...TUNING_DEFAULTS }),
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
  steps.push(...tuningSteps(wish.tuning));
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
