import { randomBytes } from 'node:crypto';
import { and, desc, eq, isNull } from 'drizzle-orm';
import { database, type Queries } from '../db/client';
import { apiTokens, people } from '../db/schema';
import { notFound, Refusal } from '../errors';
import { newId, sha256 } from '../ids';
import type { Person } from './person';

const PREFIX = 'vr_';
/** Last use is written down once a minute at most. */
const NOTE_USE_MS = 60_000;

/** The person a bearer token stands for; undefined where none is given. @throws Refusal 401 for one that does not hold */
export async function personOfToken(headers: Headers): Promise<Person | undefined> {
  const given = /^Bearer (\S+)$/.exec(headers.get('authorization') ?? '')?.[1];
  if (given === undefined) return undefined;
  const db = database();
  const [row] = await db
    .select()
    .from(apiTokens)
    .innerJoin(people, eq(people.id, apiTokens.personId))
    .where(and(eq(apiTokens.hash, sha256(given)), isNull(apiTokens.revokedAt), isNull(people.leftAt)));
  if (!row) throw new Refusal(401, 'bad-token', 'This token is not valid, or no longer is.');
  const { lastUsedAt, id } = row.api_tokens;
  if (!lastUsedAt || Date.now() - lastUsedAt.getTime() > NOTE_USE_MS)
    await db.update(apiTokens).set({ lastUsedAt: new Date() }).where(eq(apiTokens.id, id));
  return row.people;
}

export interface TokenRow {
  id: string;
  name: string;
  starts: string;
  lastUsedAt: Date | null;
  createdAt: Date;
}

export const listTokens = (db: Queries, personId: string): Promise<TokenRow[]> =>
  db
    .select({
      id: apiTokens.id,
      name: apiTokens.name,
      starts: apiTokens.starts,
      lastUsedAt: apiTokens.lastUsedAt,
      createdAt: apiTokens.createdAt,
    })
    .from(apiTokens)
    .where(and(eq(apiTokens.personId, personId), isNull(apiTokens.revokedAt)))
    .orderBy(desc(apiTokens.createdAt));

/** Makes a token; its text is shown only once. */
export async function makeToken(db: Queries, personId: string, name: string): Promise<{ id: string; token: string }> {
  const token = PREFIX + randomBytes(30).toString('base64url');
  const id = newId();
  await db.insert(apiTokens).values({ id, personId, name, hash: sha256(token), starts: token.slice(0, 8) });
  return { id, token };
}

export async function revokeToken(db: Queries, personId: string, id: string): Promise<void> {
  const [done] = await db
    .update(apiTokens)
    .set({ revokedAt: new Date() })
    .where(and(eq(apiTokens.id, id), eq(apiTokens.personId, personId), isNull(apiTokens.revokedAt)));
  if (done.affectedRows === 0) throw notFound('The token');
}
