import { z } from 'zod';
import { database } from '@/server/db/client';
import { idParam, route } from '@/server/http';
import { changeItem, getItem } from '@/server/services/items';

const body = z
  .object({
    name: z.string().trim().min(1, 'a name is due').max(200),
    note: z.string().max(4000),
    kind: z.enum(['pose', 'clip', 'cycle', 'take']),
    folder: z.string().max(600),
    tags: z.array(z.string().trim().min(1).max(80)).max(60),
    binned: z.boolean(),
  })
  .partial();

export const GET = route({ need: 'read', params: idParam }, ({ params: { id } }) => getItem(database(), id));

export const PATCH = route({ need: 'change', params: idParam, body }, ({ params: { id }, body: change }) =>
  database().transaction((tx) => changeItem(tx, id, change)),
);
