import { database } from '@/server/db/client';
import { hashParam, immutable, route } from '@/server/http';
import { fileBytes } from '@/server/services/cast';

export const GET = route({ need: 'read', params: hashParam }, async ({ params: { hash } }) => {
  const { bytes, mime } = await fileBytes(database(), hash);
  return immutable(bytes, mime);
});
