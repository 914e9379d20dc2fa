import { betterAuth } from 'better-auth';
import { drizzleAdapter } from 'better-auth/adapters/drizzle';
import { hashPassword, verifyPassword } from 'better-auth/crypto';
import { twoFactor } from 'better-auth/plugins';
import { and, count, eq, isNull, ne } from 'drizzle-orm';
import { z } from 'zod';
import { ROLES, type Role } from '../../contract';
import { type Database, database, type Queries, type Transaction } from '../db/client';
import { accounts, people, secondFactors, sessions, verifications } from '../db/schema';
import { notFound, Refusal } from '../errors';
import { newId, sha256 } from '../ids';
import { limitFailures } from '../limits';
import { faultOf, log } from '../log';
import { noteAudit } from '../services/audit';
import { newGroup, record } from '../services/history';
import { cancelJobsOf } from '../services/jobs';
import { DEMO_PEOPLE, inDemo } from './demo-people';
import type { Person } from './person';
import { secrets } from './secret';
import { newcomer, studioPlugin } from './studio';
import { revokeAll } from './tokens';

/** How long a session lasts, and from what age on it is renewed when it is used; seconds. */
export const SESSION = { expiresIn: 30 * 24 * 3600, updateAge: 24 * 3600 };

function makeAuth(db: Database) {
  return betterAuth({
    database: drizzleAdapter(db, {
      provider: 'mysql',
      schema: {
        user: people,
        session: sessions,
        account: accounts,
        verification: verifications,
        twoFactor: secondFactors,
      },
    }),
    appName: 'Velvet Reel',
    user: {
      additionalFields: {
        role: { type: 'string', required: false, input: false },
        performerId: { type: 'string', required: false, input: false },
      },
    },
    plugins: [twoFactor({ issuer: 'Velvet Reel' }), ...studioPlugin()],
    databaseHooks: {
      // accounts of the studio's provider: all others are made by addPerson
      user: { create: { before: async (user) => ({ data: { ...user, ...newcomer(), ...(await onHand(db)) } }) } },
    },
    // what the package encrypts names the secret that it was encrypted with, so that a new one does not lose it
    secrets: secrets().map((value) => ({ version: Number.parseInt(sha256(value).slice(0, 7), 16), value })),
    baseURL: process.env.VELVET_ADDRESS ?? 'http://127.0.0.1:3000',
    emailAndPassword: { enabled: true, disableSignUp: true, minPasswordLength: PASSWORD_LEAST },
    session: SESSION,
    advanced: {
      cookiePrefix: 'velvet',
      useSecureCookies: behindHttps(),
      database: { generateId: () => newId() },
      defaultCookieAttributes: { sameSite: 'strict', httpOnly: true, path: '/' },
      // the way back from the studio's provider begins at another site
      cookies: { state: { attributes: { sameSite: 'lax' } } },
    },
    telemetry: { enabled: false },
    // its own lines spell queries out with their values, session tokens among them
    logger: {
      level: 'error',
      log: (_level, _message, ...more) =>
        log.error(faultOf(more.find((x) => x instanceof Error) ?? new Error('account package')), 'accounts'),
    },
  });
}

/** Whether people reach the application by HTTPS: cookies go no other way then. */
export const behindHttps = (): boolean =>
  process.env.VELVET_HTTPS === '1' || /^https:/i.test(process.env.VELVET_ADDRESS ?? '');

const kept = globalThis as { velvetAuth?: ReturnType<typeof makeAuth> };
export const auth = (): ReturnType<typeof makeAuth> => {
  kept.velvetAuth ??= makeAuth(database());
  return kept.velvetAuth;
};

export const PASSWORD_LEAST = 10;

/** What everybody tries first. */
const COMMON =
  /^(password|passw0rd|letmein|welcome|iloveyou|qwerty|qwertz|azerty|asdfgh|admin|changeme|velvet|velvetreel|secret)[\W\d]*$/i;

export const newPassword = z
  .string()
  .min(PASSWORD_LEAST, `a password has at least ${PASSWORD_LEAST} characters`)
  .max(200)
  .refine((s) => new Set(s.toLowerCase()).size >= 5, 'a password has at least five different characters')
  .refine(
    (s) => !COMMON.test(s) && !/^(0?123456789|987654321)/.test(s),
    'anyone would guess this one among the first; choose another',
  );

/** @throws Refusal 400 where a password is the address or the name that goes with it */
function demandOwnPassword(password: string, { name, email }: { name: string; email: string | null }): void {
  const plain = password.toLowerCase();
  const own = [email?.toLowerCase(), email?.split('@')[0]?.toLowerCase(), name.toLowerCase()];
  if (own.some((o) => o && plain.replace(/[\W\d]+$/, '') === o))
    throw new Refusal(400, 'weak-password', 'The password is too close to the name or the address. Choose another.');
}

export const newPerson = z.object({
  name: z.string().trim().min(1, 'enter a name').max(120),
  email: z.email('enter an e-mail address').max(190),
  role: z.enum(ROLES),
  password: newPassword,
});
export type NewPerson = z.infer<typeof newPerson>;

/** In the demo world somebody is on hand from the first second, also for newcomers: whoever is so for the demo's admin. */
async function onHand(db: Queries): Promise<{ performerId?: string }> {
  if (!inDemo()) return {};
  const [guide] = await db
    .select({ performerId: people.performerId })
    .from(people)
    .where(eq(people.email, DEMO_PEOPLE[0]!.email));
  return guide?.performerId ? { performerId: guide.performerId } : {};
}

/** Makes an account. @throws Refusal 409 where the address is taken */
export async function addPerson(
  db: Database,
  person: NewPerson,
  by: Pick<Person, 'id'> | null,
): Promise<{ id: string }> {
  const id = newId();
  await db.transaction((tx) => addPersonIn(tx, id, person, by));
  return { id };
}

/** Makes an account within a transaction. @throws Refusal as addPerson does */
export async function addPersonIn(
  tx: Transaction,
  id: string,
  person: NewPerson,
  by: Pick<Person, 'id'> | null,
): Promise<void> {
  const email = person.email.toLowerCase();
  demandOwnPassword(person.password, { name: person.name, email });
  const password = await hashPassword(person.password);
  const [taken] = await tx.select({ id: people.id }).from(people).where(eq(people.email, email));
  if (taken) throw new Refusal(409, 'email-taken', `Someone already signs in as ${email}.`);
  const { name, role } = person;
  await tx.insert(people).values({ id, name, email, emailVerified: true, role, ...(await onHand(tx)) });
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
  await noteAudit(tx, by?.id ?? id, 'account made', `${person.name}, ${person.role}`);
}

export interface PersonChange {
  name?: string | undefined;
  role?: Role | undefined;
  left?: boolean | undefined;
  password?: string | undefined;
  /** Only false: codes are asked for no more, as for somebody who lost the device that shows them. */
  secondFactor?: false | undefined;
}

/** Changes an account. There is always an admin left. */
export async function changePerson(db: Database, by: Person, id: string, change: PersonChange): Promise<void> {
  await db.transaction(async (tx) => {
    // all admins are held, in one order: two who demote each other go one after the other
    await tx.select({ id: people.id }).from(people).where(eq(people.role, 'admin')).orderBy(people.id).for('update');
    const [before] = await tx.select().from(people).where(eq(people.id, id)).for('update');
    if (!before) throw notFound('The person');
    if (change.password !== undefined) demandOwnPassword(change.password, before);
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
        ...(change.secondFactor === false && { twoFactorEnabled: false }),
        updatedAt: new Date(),
      })
      .where(eq(people.id, id));
    if (change.password !== undefined) await setPassword(tx, id, change.password);
    if (change.secondFactor === false) await tx.delete(secondFactors).where(eq(secondFactors.userId, id));
    const told = Object.keys(change).filter((k) => change[k as keyof PersonChange] !== undefined);
    await noteAudit(tx, by.id, 'account changed', `${before.name}: ${told.join(', ')}`);
    // who has left, or has a new password, is signed out everywhere, programs too
    if (change.left || change.password !== undefined) {
      await tx.delete(sessions).where(eq(sessions.userId, id));
      await revokeAll(tx, id);
    }
    if (change.left) await cancelJobsOf(tx, id);
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

/** Sets a password; whoever came by the studio's provider has none before. */
async function setPassword(tx: Transaction, id: string, plain: string): Promise<void> {
  const password = await hashPassword(plain);
  const own = and(eq(accounts.userId, id), eq(accounts.providerId, 'credential'));
  const [had] = await tx.select({ id: accounts.id }).from(accounts).where(own);
  if (had) await tx.update(accounts).set({ password, updatedAt: new Date() }).where(own);
  else await tx.insert(accounts).values({ id: newId(), userId: id, accountId: id, providerId: 'credential', password });
}

/**
 * Changes one's own password: all other sessions and all tokens end.
 * @throws Refusal 403 where the old one is wrong, 400 for a weak one
 */
export async function changeOwnPassword(
  db: Database,
  person: Person,
  old: string,
  password: string,
  headers: Headers,
): Promise<void> {
  const [account] = await db
    .select()
    .from(accounts)
    .where(and(eq(accounts.userId, person.id), eq(accounts.providerId, 'credential')));
  await limitFailures(db, sha256(`password ${person.id}`), 10, 300, async () => {
    if (!(account?.password && (await verifyPassword({ hash: account.password, password: old }))))
      throw new Refusal(403, 'wrong', 'The old password is wrong.');
  });
  demandOwnPassword(password, person);
  const own = await auth().api.getSession({ headers });
  const hashed = await hashPassword(password);
  await db.transaction(async (tx) => {
    await tx.update(accounts).set({ password: hashed, updatedAt: new Date() }).where(eq(accounts.id, account!.id));
    await tx
      .delete(sessions)
      .where(and(eq(sessions.userId, person.id), own ? ne(sessions.token, own.session.token) : undefined));
    await revokeAll(tx, person.id);
    await record(tx, [
      {
        subject: 'person',
        subjectId: person.id,
        groupId: newGroup(),
        personId: person.id,
        action: 'edit',
        label: `${person.name} changed their own password`,
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
  secondFactor: boolean | null;
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
    secondFactor: p.twoFactorEnabled,
    createdAt: p.createdAt,
  }));
}

/** Whether nobody can sign in yet, so that the first account may be made by whoever comes. */
export async function nobodyYet(db: Queries): Promise<boolean> {
  const [row] = await db.select({ n: count() }).from(accounts);
  return (row?.n ?? 0) === 0;
}
