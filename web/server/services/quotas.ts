import { desc, eq, sql } from 'drizzle-orm';
import type { z } from 'zod';
import type { newQuota, QuotaOf, Storage } from '../../contract';
import type { Person } from '../auth/person';
import type { Database, Queries } from '../db/client';
import { castMembers, files, itemVersions, jobParts, jobs, motions, people, quotas, readings } from '../db/schema';
import { Refusal } from '../errors';
import { noteAudit } from './audit';
import { can } from './rights';

// What somebody has stored: motions of the versions they made, once each, figures of the cast members they made, and files on
// their way in. Motions that two people share count for both: either could delete theirs and free nothing.

async function quotaOf(db: Queries, of: QuotaOf): Promise<number | null> {
  const [row] = await db.select({ bytes: quotas.bytes }).from(quotas).where(eq(quotas.of, of));
  return row?.bytes ?? null;
}

async function libraryUsed(db: Queries): Promise<number> {
  const sum = async (table: typeof motions | typeof files): Promise<number> => {
    const [row] = await db.select({ n: sql<string>`coalesce(sum(${table.size}), 0)` }).from(table);
    return Number(row!.n);
  };
  return (await sum(motions)) + (await sum(files));
}

/** Bytes by person; those who stored nothing are left out. @param only one person's */
async function usedBy(db: Queries, only?: string): Promise<Map<string, number>> {
  const mine = <T>(column: T) => (only === undefined ? sql`1` : sql`${column} = ${only}`);
  const used = new Map<string, number>();
  const add = (rows: { id: string | null; n: string }[]): void => {
    for (const { id, n } of rows) if (id !== null) used.set(id, (used.get(id) ?? 0) + Number(n));
  };
  const made = db
    .selectDistinct({ id: itemVersions.createdBy, hash: readings.motionHash })
    .from(itemVersions)
    .innerJoin(readings, eq(readings.id, itemVersions.readingId))
    .where(mine(itemVersions.createdBy))
    .as('made');
  add(
    await db
      .select({ id: made.id, n: sql<string>`sum(${motions.size})` })
      .from(made)
      .innerJoin(motions, eq(motions.hash, made.hash))
      .groupBy(made.id),
  );
  add(
    await db
      .select({ id: castMembers.createdBy, n: sql<string>`sum(${files.size})` })
      .from(castMembers)
      .innerJoin(files, sql`${files.hash} = json_value(${castMembers.assets}, '$.figure')`)
      .where(mine(castMembers.createdBy))
      .groupBy(castMembers.createdBy),
  );
  add(
    await db
      .select({ id: jobs.personId, n: sql<string>`sum(${jobParts.bytes})` })
      .from(jobParts)
      .innerJoin(jobs, eq(jobs.id, jobParts.jobId))
      .where(sql`${jobs.kind} = 'intake' and ${jobParts.state} = 'ready' and ${mine(jobs.personId)}`)
      .groupBy(jobs.personId),
  );
  return used;
}

/** What is stored, and how much may be: of everybody for an admin, of oneself for others. */
export async function readStorage(db: Queries, person: Person): Promise<Storage> {
  const all = can(person, 'govern');
  const [most, used, mostOfEach] = [
    await quotaOf(db, 'library'),
    await usedBy(db, all ? undefined : person.id),
    await quotaOf(db, 'person'),
  ];
  const names = all
    ? await db.select({ id: people.id, name: people.name }).from(people).orderBy(desc(people.name))
    : [person];
  return {
    library: { used: await libraryUsed(db), most },
    people: names
      .map(({ id, name }) => ({ id, name, used: used.get(id) ?? 0, most: mostOfEach }))
      .sort((a, b) => b.used - a.used),
  };
}

/** Sets a quota, or takes it away. What is stored already stays, also beyond it. */
export async function setQuota(db: Database, by: Person, { of, bytes }: z.output<typeof newQuota>): Promise<void> {
  await db.transaction(async (tx) => {
    if (bytes === null) await tx.delete(quotas).where(eq(quotas.of, of));
    else await tx.insert(quotas).values({ of, bytes }).onDuplicateKeyUpdate({ set: { bytes } });
    const whose = of === 'library' ? 'the library' : 'each person';
    await noteAudit(tx, by.id, 'quota set', `${whose}: ${bytes === null ? 'none' : sized(bytes)}`);
  });
}

const sized = (bytes: number): string =>
  bytes < 1e8 ? `${(bytes / 1e6).toFixed(1)} MB` : `${(bytes / 1e9).toFixed(1)} GB`;

/**
 * @param more what is about to be stored, bytes
 * @throws Refusal 507 where it would go beyond the library's quota or the person's
 */
export async function demandQuota(db: Queries, person: Pick<Person, 'id'>, more: number): Promise<void> {
  const [ofLibrary, ofPerson] = [await quotaOf(db, 'library'), await quotaOf(db, 'person')];
  if (ofLibrary !== null && (await libraryUsed(db)) + more > ofLibrary)
    throw new Refusal(
      507,
      'quota',
      `The library may hold ${sized(ofLibrary)}, and this would be more. Ask an admin for a larger quota, or a librarian to empty the bin.`,
    );
  if (ofPerson !== null && ((await usedBy(db, person.id)).get(person.id) ?? 0) + more > ofPerson)
    throw new Refusal(
      507,
      'quota',
      `You may store ${sized(ofPerson)}, and this would be more. Ask an admin for a larger quota, or destroy what you no longer need.`,
    );
}
