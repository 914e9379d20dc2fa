import { z } from 'zod';
import type { PlayContent } from '../documents/play';
import { playContent } from '../documents/play-schema';
import { count, date, named, typed } from './shape';

/** A play-through in a list. */
export const playRow = z
  .object({
    id: z.string(),
    name: z.string(),
    cast: named.nullable().describe('Whom it is for'),
    states: count,
    ways: count,
    changedByName: z.string().nullable(),
    changedAt: date,
    binnedAt: date.nullable(),
  })
  .meta({ id: 'Play' });
export type PlayRow = z.output<typeof playRow>;
export type PlayListed = z.input<typeof playRow>;

/** A play-through as it is worked on. */
export const playDocument = z
  .object({
    id: z.string(),
    content: typed<PlayContent>(playContent),
    version: z.int(),
    changedByName: z.string().nullable(),
    binnedAt: date.nullable(),
  })
  .meta({ id: 'PlayDocument' });
export type PlayDocument = z.input<typeof playDocument>;
