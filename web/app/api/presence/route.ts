import { z } from 'zod';
import { database } from '@/server/db/client';
import { route } from '@/server/http';
import { bePresent, leave } from '@/server/services/presence';

const body = z.object({
  clientId: z.string().regex(/^[\w-]{8,24}$/),
  subjectId: z.string().max(16).nullable(),
  frame: z.number().int().min(0).max(10_000_000).nullable().default(null),
  leaving: z.boolean().default(false),
});

export const POST = route({ need: 'read', body }, ({ person, body: b }) =>
  b.leaving
    ? leave(database(), person.id, b.clientId)
    : bePresent(database(), person.id, b.clientId, b.subjectId, b.frame),
);
