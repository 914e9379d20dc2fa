import { z } from 'zod';
import { database } from '@/server/db/client';
import { route } from '@/server/http';
import { stripsOf } from '@/server/services/items';

const query = z.object({
  versions: z
    .string()
    .max(4000)
    .transform((s) =>
      s
        .split(',')
        .filter((x) => /^[\w-]{1,16}$/.test(x))
        .slice(0, 200),
    ),
});

/** Many strips in one answer: for each, one byte of id length, the id, four bytes of size, the strip. */
export const GET = route({ need: 'read', query }, async ({ query: { versions } }) => {
  const rows = await stripsOf(database(), versions);
  const size = rows.reduce((sum, r) => sum + 5 + r.id.length + r.strip.length, 0);
  const out = new Uint8Array(size);
  const view = new DataView(out.buffer);
  let at = 0;
  for (const { id, strip } of rows) {
    out[at] = id.length;
    out.set(new TextEncoder().encode(id), at + 1);
    view.setUint32(at + 1 + id.length, strip.length, true);
    out.set(strip, at + 5 + id.length);
    at += 5 + id.length + strip.length;
  }
  return new Response(out, {
    headers: { 'content-type': 'application/octet-stream', 'cache-control': 'private, max-age=3600' },
  });
});
