import { z } from 'zod';
import { database } from '@/server/db/client';
import { route } from '@/server/http';
import { choosePerformer } from '@/server/services/cast';

const body = z.object({ performerId: z.string().max(16).nullable() });

export const PATCH = route({ need: 'read', body }, ({ person, body: { performerId } }) =>
  choosePerformer(database(), person.id, performerId),
);
