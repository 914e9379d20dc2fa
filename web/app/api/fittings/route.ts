import { z } from 'zod';
import { database } from '@/server/db/client';
import { route } from '@/server/http';
import { keepFitting } from '@/server/services/fittings';
import { fitSettings } from '@/workers/settings';

const body = z.object({
  itemId: z.string().max(16),
  castId: z.string().max(16),
  name: z.string().trim().min(1, 'a name is due').max(200),
  settings: fitSettings,
});

/** Keeps a fitting as a new item. */
export const POST = route({ need: 'change', body }, ({ person, body: b }) =>
  keepFitting(database(), b.itemId, b.castId, b.settings, b.name, person.id),
);
