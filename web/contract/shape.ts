import { z } from 'zod';

// What schemas of answers are made of. A schema says an answer twice: as services make it (`z.output`) and as it travels
// (`z.input`); only dates differ.

/** A point in time: ISO 8601 text in UTC as it travels. */
export const date = z
  .codec(z.iso.datetime(), z.date(), { decode: (text) => new Date(text), encode: (at) => at.toISOString() })
  .meta({ id: 'Date' });

/** A schema for what has its exact type elsewhere: in the core, or in settings. */
export const typed = <T>(schema: z.ZodType): z.ZodType<T, T> => schema as unknown as z.ZodType<T, T>;

/** Something with a name, pointed at. */
export const named = z.object({ id: z.string(), name: z.string() });
export type Named = z.output<typeof named>;

export const count = z.int().min(0);
