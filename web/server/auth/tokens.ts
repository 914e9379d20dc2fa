import { randomBytes } from 'node:crypto';
import { and, desc, eq, gt, isNull, or, sql } from 'drizzle-orm';
import type { z } from 'zod';
import type { apiToken, TokenScope } from '../../contract';
import { database, type Queries } from '../db/client';
import { apiTokens, people } from '../db/schema';
import { notFound, Refusal } from '../errors';
import { newId, sha256 } from '../ids';
import { noteAudit } from '../services/audit';
import { newGroup, record } from '../services/history';
import type { Person } from './person';

const PREFIX = 'vr_';
/** Last use is written down once a minute at most. */
const NOTE_USE_MS = 60_000;

export interface Bearer {
  person: Person;
  scope: TokenScope;
}

/** The token of a request; undefined where none is given. @throws Refusal 401 for an Authorization header that is none */
export function bearerOf(headers: Headers): string | undefined {
  const given = headers.get('authorization');
  if (given === null || !/^Bearer\b/i.test(given)) return undefined;
  const token = /^Bearer ([\w.~+/=-]+)$/.exec(given)?.[1];
  if (token === undefined) throw badToken();
  return token;
}
const badToken = (): Refusal => new Refusal(401, 'bad-token', 'This token is not valid, or has ended.');

/** The person a bearer token stands for; undefined where none is given. @throws Refusal 401 for one that does not hold */
export async function personOfToken(headers: Headers): Promise<Bearer | undefined> {
  const given = bearerOf(headers);
  if (given === undefined) return undefined;
  const db = database();
  const [row] = await db
    .select()
    .from(apiTokens)
    .innerJoin(people, eq(people.id, apiTokens.personId))
    .where(
      and(
        eq(apiTokens.hash, sha256(given)),
        isNull(apiTokens.revokedAt),
        isNull(people.leftAt),
        or(isNull(apiTokens.expiresAt), gt(apiTokens.expiresAt, sql`now(3)`)),
      ),
    );
  if (!row) throw badToken();
  const { lastUsedAt, id, scope } = row.api_tokens;
  if (!lastUsedAt || Date.now() - lastUsedAt.getTime() > NOTE_USE_MS)
    await db.update(apiTokens).set({ lastUsedAt: new Date() }).where(eq(apiTokens.id, id));
  return { person: row.people, scope };
}

/** Tokens of a person that hold, the newest first. */
export const listTokens = (db: Queries, personId: string): Promise<z.output<typeof apiToken>[]> =>
  db
    .select({
      id: apiTokens.id,
      name: apiTokens.name,
      scope: apiTokens.scope,
      expiresAt: apiTokens.expiresAt,
      starts: apiTokens.starts,
      lastUsedAt: apiTokens.lastUsedAt,
      createdAt: apiTokens.createdAt,
    })
    .from(apiTokens)
    .where(and(eq(apiTokens.personId, personId), isNull(apiTokens.revokedAt)))
    .orderBy(desc(apiTokens.createdAt));

/** Makes a token; its text is shown only once. */
export async function makeToken(
  db: Queries,
  personId: string,
  name: string,
  { scope = 'change', days = 180 }: { scope?: TokenScope; days?: number } = {},
): Promise<{ id: string; token: string }> {
  const token = PREFIX + randomBytes(30).toString('base64url');
  const id = newId();
  await db.insert(apiTokens).values({
    id,
    personId,
    name,
    scope,
    expiresAt: new Date(Date.now() + days * DAY_MS),
    hash: sha256(token),
    starts: token.slice(0, 8),
  });
  await note(db, id, personId, 'add', `Made the key ${name}`);
  await noteAudit(db, personId, 'key made', `${name}, ${scope}, ${days} days`);
  return { id, token };
}
const DAY_MS = 24 * 3600 * 1000;

/** @param by who revokes it: the person, or an admin */
export async function revokeToken(db: Queries, personId: string, id: string, by = personId): Promise<void> {
  const [done] = await db
    .update(apiTokens)
    .set({ revokedAt: new Date() })
    .where(and(eq(apiTokens.id, id), eq(apiTokens.personId, personId), isNull(apiTokens.revokedAt)));
  if (done.affectedRows === 0) throw notFound('The token');
  await note(db, id, by, 'remove', 'Revoked a key');
  await noteAudit(db, by, 'key revoked', by === personId ? 'their own' : `of ${personId}`);
}

/** All tokens of a person end: with their password, and when they leave. */
export const revokeAll = (db: Queries, personId: string): Promise<unknown> =>
  db
    .update(apiTokens)
    .set({ revokedAt: new Date() })
    .where(and(eq(apiTokens.personId, personId), isNull(apiTokens.revokedAt)));

const note = (db: Queries, id: string, personId: string, action: string, label: string): Promise<void> =>
  record(db, [{ subject: 'token', subjectId: id, groupId: newGroup(), personId, action, label }]);
