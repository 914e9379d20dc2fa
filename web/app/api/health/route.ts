import { sql } from 'drizzle-orm';
import { database } from '@/server/db/client';

export const dynamic = 'force-dynamic';

export async function GET(): Promise<Response> {
  await database().execute(sql`select 1`);
  return Response.json({ ok: true });
}
