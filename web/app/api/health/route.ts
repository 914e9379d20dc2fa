import { sql } from 'drizzle-orm';
import { catalogue } from '@/server/catalogue/live';
import { database } from '@/server/db/client';

export const dynamic = 'force-dynamic';

export async function GET(): Promise<Response> {
  await database().execute(sql`select 1`);
  // whoever asks first after a start should not wait for the catalogue
  void catalogue()
    .open()
    .catch(() => undefined);
  return Response.json({ ok: true });
}
