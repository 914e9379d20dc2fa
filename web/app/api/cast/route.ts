import { z } from 'zod';
import { database } from '@/server/db/client';
import { route } from '@/server/http';
import { addCast, listCast } from '@/server/services/cast';
import { getRig } from '@/server/services/rigs';

const query = z.object({
  bin: z
    .enum(['0', '1'])
    .transform((x) => x === '1')
    .optional(),
});
const body = z.object({ rigId: z.string().max(16), name: z.string().trim().min(1, 'a name is due').max(200) });

export const GET = route({ need: 'read', query }, ({ query: { bin } }) => listCast(database(), bin));

/** Makes a bare skeleton, for instance a take's, a cast member. */
export const POST = route({ need: 'change', body }, async ({ person, body: { rigId, name } }) => {
  const rig = await getRig(database(), rigId);
  return addCast(database(), { name, rigId, heightM: rig.heightM, figure: null, personId: person.id });
});
