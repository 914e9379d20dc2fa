import { z } from 'zod';
import { database } from '@/server/db/client';
import { idParam, route } from '@/server/http';
import { changeCast, getCast } from '@/server/services/cast';

const body = z
  .object({ name: z.string().trim().min(1, 'a name is due').max(200), note: z.string().max(4000), binned: z.boolean() })
  .partial();

export const GET = route({ need: 'read', params: idParam }, ({ params: { id } }) => getCast(database(), id));

export const PATCH = route({ need: 'change', params: idParam, body }, ({ params: { id }, body: change }) =>
  changeCast(database(), id, change),
);
