import { database } from '@/server/db/client';
import { hashParam, immutable, route } from '@/server/http';
import { motionBytes } from '@/server/services/items';

export const GET = route({ need: 'read', params: hashParam }, async ({ params: { hash } }) =>
  immutable(await motionBytes(database(), hash), 'application/octet-stream'),
);
