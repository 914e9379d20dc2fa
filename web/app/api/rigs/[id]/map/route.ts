import { z } from 'zod';
import { database } from '@/server/db/client';
import { idParam, route } from '@/server/http';
import { saveMap } from '@/server/services/rigs';

const slot = z.object({
  joint: z.string().max(300).nullable(),
  state: z.enum(['sure', 'guessed', 'missing', 'empty']),
  why: z.string().max(300),
});
const body = z.object({
  map: z.object({ slots: z.record(z.string().max(40), slot) }),
  version: z.number().int().positive(),
});

export const PUT = route(
  { need: 'change', params: idParam, body },
  ({ params: { id }, person, body: { map, version } }) => saveMap(database(), id, map, version, person.id),
);
