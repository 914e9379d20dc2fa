import { randomBytes } from 'node:crypto';
import { and, desc, eq, gt, isNull, sql } from 'drizzle-orm';
import type { z } from 'zod';
import type { invitation, newInvitation, Role } from '../../contract';
import type { Database, Queries } from '../db/client';
import { invitations, people } from '../db/schema';
import { notFound, Refusal } from '../errors';
import { newId, sha256 } from '../ids';
import { noteAudit } from '../services/audit';
import { addPersonIn, type NewPerson } from './accounts';
import type { Person } from './person';

const DAY_MS = 24 * 3600 * 1000;

const open = () => and(isNull(invitations.usedById), gt(invitations.expiresAt, sql`now(3)`));

/** Invites somebody. @returns the code of the link, told this once */
export async function invite(
  db: Database,
  by: Person,
  { name, role, days }: z.output<typeof newInvitation>,
): Promise<{ id: string; code: string }> {
  const [id, code] = [newId(), randomBytes(24).toString('base64url')];
  await db.transaction(async (tx) => {
    const expiresAt = new Date(Date.now() + days * DAY_MS);
    await tx.insert(invitations).values({ id, hash: sha256(code), name, role, byId: by.id, expiresAt });
    await noteAudit(tx, by.id, 'invited', `${name}, as ${role}`);
  });
  return { id, code };
}

/** Invitations that nobody has used and that still hold, the newest first. */
export const listInvitations = (db: Queries): Promise<z.output<typeof invitation>[]> =>
  db
    .select({
      id: invitations.id,
      name: invitations.name,
      role: invitations.role,
      by: people.name,
      expiresAt: invitations.expiresAt,
    })
    .from(invitations)
    .innerJoin(people, eq(people.id, invitations.byId))
    .where(open())
    .orderBy(desc(invitations.createdAt)) as Promise<z.output<typeof invitation>[]>;

/** Takes an invitation back. @throws Refusal 404 where it is used, has ended or never was */
export async function withdraw(db: Database, by: Person, id: string): Promise<void> {
  await db.transaction(async (tx) => {
    const [found] = await tx
      .select()
      .from(invitations)
      .where(and(eq(invitations.id, id), open()))
      .for('update');
    if (!found) throw notFound('The invitation');
    await tx.delete(invitations).where(eq(invitations.id, id));
    await noteAudit(tx, by.id, 'invitation withdrawn', found.name);
  });
}

/** What somebody is told who follows a link. @throws Refusal 404 where it does not hold */
export async function readInvitation(db: Queries, code: string): Promise<{ name: string; role: Role; by: string }> {
  const [found] = await db
    .select({ name: invitations.name, role: invitations.role, by: people.name })
    .from(invitations)
    .innerJoin(people, eq(people.id, invitations.byId))
    .where(and(eq(invitations.hash, sha256(code)), open()));
  if (!found) throw ended();
  return found;
}

/** Makes the account of somebody who was invited; a link serves once. @throws Refusal 404 where it does not hold */
export async function accept(db: Database, code: string, person: Omit<NewPerson, 'role'>): Promise<void> {
  const id = newId();
  await db.transaction(async (tx) => {
    const [found] = await tx
      .select()
      .from(invitations)
      .where(and(eq(invitations.hash, sha256(code)), open()))
      .for('update');
    if (!found) throw ended();
    // whoever invites answers for it: an invitation of an admin of former days makes nobody an admin
    const [by] = await tx.select().from(people).where(eq(people.id, found.byId));
    if (by?.role !== 'admin' || by.leftAt) throw ended();
    await addPersonIn(tx, id, { ...person, role: found.role }, null);
    await tx.update(invitations).set({ usedById: id }).where(eq(invitations.id, found.id));
  });
}

const ended = (): Refusal =>
  new Refusal(404, 'no-invitation', 'This invitation has been used, taken back, or has ended. Ask for another one.');
