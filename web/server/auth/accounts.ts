import { betterAuth } from 'better-auth';
import { drizzleAdapter } from 'better-auth/adapters/drizzle';
import { hashPassword } from 'better-auth/crypto';
import { count, eq, isNull } from 'drizzle-orm';
import { z } from 'zod';
import { ROLES, type Role } from '../../contract';
import { type Database, database, type Queries } from '../db/client';
import { accounts, people, sessions, verifications } from '../db/schema';
import { notFound, Refusal } from '../errors';
import { newId } from '../ids';
import { newGroup, record } from '../services/history';
import type { Person } from './person';

function makeAuth(db: Database) {
  return betterAuth({
    database: drizzleAdapter(db, {
      provider: 'mysql',
      schema: { user: people, session: sessions, account: accounts, verification: verifications },
    }),
    secret: process.env.VELVET_SESSION ?? '',
    baseURL: process.env.VELVET_ADDRESS ?? 'http://127.0.0.1:3000',
    emailAndPassword: { enabled: true, disableSignUp: true, minPasswordLength: PASSWORD_LEAST },
    session: { expiresIn: 30 * 24 * 3600, updateAge: 24 * 3600 },
    advanced: {
      cookiePrefix: 'velvet',
      useSecureCookies: process.env.VELVET_HTTPS === '1',
      database: { generateId: () => newId() },
      defaultCookieAttributes: { sameSite: 'strict', httpOnly: true, path: '/' },
    },
    telemetry: { enabled: false },
    logger: { level: 'error' },
  });
}

const kept = globalThis as { velvetAuth?: ReturnType<typeof makeAuth> };
export const auth = (): ReturnType<typeof makeAuth> => {
  kept.velvetAuth ??= makeAuth(database());
  return kept.velvetAuth;
};

export const PASSWORD_LEAST = 10;

export const newPerson = z.object({
  name: z.string().trim().min(1, 'enter a name').max(120),
  email: z.email('enter an e-mail address').max(190),
  role: z.enum(ROLES),
  password: z.string().min(PASSWORD_LEAST, `a password has at least ${PASSWORD_LEAST} characters`).max(200),
});
export type NewPerson = z.infer<typeof newPerson>;

/** Makes an account. @throws Refusal 409 where the address is taken */
export async function addPerson(
  db: Database,
  person: NewPerson,
  by: Pick<Person, 'id'> | null,
): Promise<{ id: string }> {
  const id = newId();
  const email = person.email.toLowerCase();
  const password = await hashPassword(person.password);
  await db.transaction(async (tx) => {
    const [taken] = await tx.select({ id: people.id }).from(people).where(eq(people.email, email));
    if (taken) throw new Refusal(409, 'email-taken', `Someone already signs in as ${email}.`);
    await tx.insert(people).values({ id, name: person.name, email, emailVerified: true, role: person.role });
    await tx.insert(accounts).values({ id: newId(), userId: id, accountId: id, providerId: 'credential', password });
    await record(tx, [
      {
        subject: 'person',
        subjectId: id,
        groupId: newGroup(),
        personId: by?.id ?? id,
        action: 'add',
        label: `${person.name} can sign in now, as ${person.role}`,
      },
    ]);
  });
  return { id };
}

export interface PersonChange {
  name?: string | undefined;
  role?: Role | undefined;
  left?: boolean | undefined;
  password?: string | undefined;
}

/** Changes an account. There is always an admin left. */
export async function changePerson(db: Database, by: Person, id: string, change: PersonChange): Promise<void> {
  await db.transaction(async (tx) => {
    const [before] = await tx.select().from(people).where(eq(people.id, id)).for('update');
    if (!before) throw notFound('The person');
    const losesAdmin =
      before.role === 'admin' &&
      before.leftAt === null &&
      ((change.role !== undefined && change.role !== 'admin') || change.left === true);
    if (losesAdmin && (await activeAdmins(tx)) < 2)
      throw new Refusal(409, 'last-admin', `${before.name} is the only admin: make someone else an admin first.`);
    await tx
      .update(people)
      .set({
        ...(change.name !== undefined && { name: change.name }),
        ...(change.role !== undefined && { role: change.role }),
        ...(change.left !== undefined && { leftAt: change.left ? new Date() : null }),
        updatedAt: new Date(),
      })
      .where(eq(people.id, id));
    if (change.password !== undefined)
      await tx
        .update(accounts)
        .set({ password: await hashPassword(change.password), updatedAt: new Date() })
        .where(eq(accounts.userId, id));
    // who has left, or has a new password, is signed out everywhere
    if (change.left || change.password !== undefined) await tx.delete(sessions).where(eq(sessions.userId, id));
    await record(tx, [
      {
        subject: 'person',
        subjectId: id,
        groupId: newGroup(),
        personId: by.id,
        action: 'edit',
        label:
          change.role !== undefined
            ? `${before.name} is ${change.role} now`
            : change.left !== undefined
              ? `${before.name} ${change.left ? 'has left' : 'is back'}`
              : `Changed the account of ${before.name}`,
      },
    ]);
  });
}

async function activeAdmins(db: Queries): Promise<number> {
  const rows = await db.select({ role: people.role }).from(people).where(isNull(people.leftAt));
  return rows.filter((r) => r.role === 'admin').length;
}

export interface PersonRow {
  id: string;
  name: string;
  email: string | null;
  role: Role;
  left: boolean;
  createdAt: Date;
}

export async function listPeople(db: Queries): Promise<PersonRow[]> {
  const rows = await db.select().from(people).orderBy(people.name);
  return rows.map((p) => ({
    id: p.id,
    name: p.name,
    email: p.email,
    role: p.role,
    left: p.leftAt !== null,
    createdAt: p.createdAt,
  }));
}

/** Whether nobody can sign in yet, so that the first account may be made by whoever comes. */
export async function nobodyYet(db: Queries): Promise<boolean> {
  const [row] = await db.select({ n: count() }).from(accounts);
  return (row?.n ?? 0) === 0;
}
