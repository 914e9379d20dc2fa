import {
  DRIVE_VIEWS,
  type FittingSettings,
  FLAT_DEFAULTS,
  type FlatSettings,
  HAND_MODES,
  HANDLES,
  KEPT_KINDS,
  LEAVE_WORDS,
  PLANT_PARTS,
  REGIONS,
  TRAVELS,
} from '@velvet-reel/motion';
import { z } from 'zod';
import { type ChangeWish, type FitEdits, type FitSettings, MOST_HELD, TUNING_DEFAULTS, type Tuning } from './wishes';

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

const flat = z.object({
  view: z.enum(['drawn', ...DRIVE_VIEWS]).default('drawn'),
  foreshorten: z.number().min(0.1).max(1).default(FLAT_DEFAULTS.foreshorten),
  order: z.boolean().default(true),
  headViews: z.boolean().default(true),
  swing: z.boolean().default(true),
}) satisfies z.ZodType<FlatSettings>;

export const fitSettings = z.object({
  plants: z.boolean().default(true),
  travel: z.enum(TRAVELS).default('leg'),
  hands: z.enum(HAND_MODES).default('free'),
  clear: z.boolean().default(true),
  limits: z.boolean().default(false),
  lower: z.number().min(-0.2).max(0.2).default(0),
  leave: z.array(z.enum(LEAVE_WORDS)).max(LEAVE_WORDS.length).readonly().default([]),
  tuning: tuning.default({ ...TUNING_DEFAULTS }),
  flat: flat.default({ ...FLAT_DEFAULTS }),
}) satisfies z.ZodType<FittingSettings>;

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
  exposures: z
    .array(
      z.object({
        part: z.string().min(1).max(300),
        keys: z.array(z.object({ frame, label: z.string().min(1).max(200) })).max(5000),
      }),
    )
    .max(500)
    .optional(),
  offKeys: z
    .array(z.object({ joint: z.string().min(1).max(300), frame, meant: z.boolean() }))
    .max(5000)
    .optional(),
});
// optional fields that zod writes as "or undefined" are the core's optional fields
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

/** See ChangeWish. */
export const changeWish = z.object({
  mirror: z.boolean().default(false),
  despike: z.boolean().default(false),
  fillGaps: z.boolean().default(false),
  smoothHz: z.number().min(0).max(500).default(0),
  trim: z
    .object({ start: z.int().min(0), end: z.int().min(0) })
    .nullable()
    .default(null),
  loop: z.boolean().default(false),
  inPlace: z.boolean().default(false),
  floor: z.boolean().default(false),
  reverse: z.boolean().default(false),
  hold: z
    .object({ before: z.int().min(0).max(MOST_HELD), after: z.int().min(0).max(MOST_HELD) })
    .default({ before: 0, after: 0 }),
  regions: z.array(z.enum(REGIONS)).max(REGIONS.length).default([]),
  joints: z.array(z.string().max(400)).max(4096).default([]),
  what: z.enum(KEPT_KINDS).default('all'),
  tuning: tuning.default({ ...TUNING_DEFAULTS }),
}) satisfies z.ZodType<ChangeWish>;
