import { z } from 'zod';
import { database } from '@/server/db/client';
import { route } from '@/server/http';
import { searchItems } from '@/server/services/items';

const query = z.object({
  words: z.string().max(200).optional(),
  kind: z.enum(['pose', 'clip', 'cycle', 'take']).optional(),
  tag: z.string().max(80).optional(),
  folderId: z.string().max(16).optional(),
  like: z.string().max(16).optional(),
  bin: z
    .enum(['0', '1'])
    .transform((x) => x === '1')
    .optional(),
});

export const GET = route({ need: 'read', query }, ({ query: search }) => searchItems(database(), search));
