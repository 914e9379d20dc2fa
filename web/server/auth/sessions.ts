import { and, desc, eq, gt, sql } from 'drizzle-orm';
import type { z } from 'zod';
import type { sessionRow } from '../../contract';
import type { Database, Queries } from '../db/client';
import { sessions } from '../db/schema';
import { notFound } from '../errors';
import { sha256 } from '../ids';
import { noteAudit } from '../services/audit';
import { auth } from './accounts';

/** Names a session without telling its secret. */
const nameOf = (token: string): string => sha256(`session ${token}`).slice(0, 12);

/** Where somebody is signed in, the newest first. @param headers of the request: its own session is marked */
export async function listSessions(
  db: Queries,
  personId: string,
  headers: Headers,
): Promise<z.output<typeof sessionRow>[]> {
  const own = await auth().api.getSession({ headers });
  const rows = await db
    .select()
    .from(sessions)
    .where(and(eq(sessions.userId, personId), gt(sessions.expiresAt, sql`now(3)`)))
    .orderBy(desc(sessions.updatedAt));
  return rows.map((s) => ({
    id: nameOf(s.token),
    browser: (s.userAgent ?? '').slice(0, 200),
    since: s.createdAt,
    usedAt: s.updatedAt,
    own: s.token === own?.session.token,
  }));
}

/** Signs somebody out in one place, or everywhere but here. @param id of a session; null: all others */
export async function endSessions(db: Database, personId: string, headers: Headers, id: string | null): Promise<void> {
  const own = await auth().api.getSession({ headers });
  const rows = await db.select({ token: sessions.token }).from(sessions).where(eq(sessions.userId, personId));
  const ending = rows.filter((s) => (id === null ? s.token !== own?.session.token : nameOf(s.token) === id));
  if (id !== null && ending.length === 0) throw notFound('The session');
  for (const { token } of ending) await db.delete(sessions).where(eq(sessions.token, token));
  await noteAudit(db, personId, 'session ended', id === null ? 'everywhere else' : 'in one place');
}
