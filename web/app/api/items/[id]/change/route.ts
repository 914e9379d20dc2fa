import { z } from 'zod';
import { database } from '@/server/db/client';
import { idParam, route } from '@/server/http';
import { changeIntoNew } from '@/server/services/changes';
import { changeWish } from '@/workers/settings';

const body = z.object({ name: z.string().trim().min(1, 'a name is due').max(200), change: changeWish });

/** Makes a new item of this one by a change. */
export const POST = route({ need: 'change', params: idParam, body }, ({ person, params: { id }, body: b }) =>
  changeIntoNew(database(), id, b.change, b.name, person.id),
);
