import { and, eq, gt, isNull, sql } from 'drizzle-orm';
import { database } from '../db/client';
import { people, sessions } from '../db/schema';
import { Refusal } from '../errors';
import { CAN, can, type Need } from '../services/rights';
import { auth, SESSION } from './accounts';
import type { Person } from './person';
import { tokenOfCookie } from './signed-cookie';
import { personOfToken } from './tokens';

const WHY_NOT: Record<Need, string> = {
  read: 'may not view this',
  change: 'may view but not change anything',
  curate: 'may not do this: only librarians and admins may',
  govern: 'may not do this: only admins may',
};

/**
 * Who is asking: by session cookie, or by a token in the header.
 * @param sessionOnly for accounts and tokens: a token that is lost must not make others
 * @throws Refusal 401 for a stranger, 403 for somebody, or a token, without the right
 */
export async function whoAsks(need: Need, headers: Headers, sessionOnly = false): Promise<Person> {
  const bearer = await personOfToken(headers);
  if (bearer && sessionOnly)
    throw new Refusal(403, 'no-token', 'This cannot be done with a token. Sign in on the page instead.');
  if (bearer?.scope === 'read' && need !== 'read')
    throw new Refusal(403, 'read-only-token', 'This token is only for reading.');
  const person = bearer?.person ?? (await personOfCookie(headers));
  if (!person) throw new Refusal(401, 'stranger', 'You are not signed in.');
  if (!can(person, need)) throw new Refusal(403, 'no-right', `${person.name} ${WHY_NOT[need]}.`);
  return person;
}

async function personOfCookie(headers: Headers): Promise<Person | undefined> {
  return (await personOfFreshSession(headers)) ?? (await personByPackage(headers));
}

/**
 * Whoever has a session that need not be renewed yet, with one look at the database: every request asks this, and by way of the
 * package it takes three and as long as everything else that a small request does.
 */
async function personOfFreshSession(headers: Headers): Promise<Person | undefined> {
  const token = await tokenOfCookie(headers);
  if (token === undefined) return undefined;
  const [found] = await database()
    .select({ person: people })
    .from(sessions)
    .innerJoin(people, and(eq(people.id, sessions.userId), isNull(people.leftAt)))
    .where(
      and(
        eq(sessions.token, token),
        gt(sessions.expiresAt, new Date(Date.now() + 1000 * (SESSION.expiresIn - SESSION.updateAge))),
      ),
    );
  return found?.person;
}

/** The same as the package sees it, which also renews a session. */
async function personByPackage(headers: Headers): Promise<Person | undefined> {
  const found = await auth()
    .api.getSession({ headers })
    .catch(async (error) => {
      // the package hides why: where the database is away, this says so
      await database().execute(sql`select 1`);
      throw error;
    });
  if (!found) return undefined;
  const [person] = await database()
    .select()
    .from(people)
    .where(and(eq(people.id, found.user.id), isNull(people.leftAt)));
  return person;
}

export { CAN };
