import { z } from 'zod';
import type { ReelContent } from '../documents/reel';
import { reelContent } from '../documents/reel-schema';
import { count, date, named, typed } from './shape';

/** A reel in a list. */
export const reelRow = z
  .object({
    id: z.string(),
    name: z.string(),
    fps: z.number(),
    frames: count,
    members: z.array(named).describe('Cast members on it, in their order'),
    items: count.describe('How many different items lie on it'),
    first: z.string().nullable().describe('The item that lies on it first, whose strip stands for the reel'),
    version: z.int(),
    changedByName: z.string().nullable(),
    changedAt: date,
    binnedAt: date.nullable(),
  })
  .meta({ id: 'Reel' });
export type ReelRow = z.output<typeof reelRow>;
export type ReelListed = z.input<typeof reelRow>;

/** A reel as it is worked on. */
export const reelDocument = z
  .object({
    id: z.string(),
    content: typed<ReelContent>(reelContent),
    version: z.int(),
    changedByName: z.string().nullable(),
    binnedAt: date.nullable(),
  })
  .meta({ id: 'ReelDocument' });
export type ReelDocument = z.input<typeof reelDocument>;
