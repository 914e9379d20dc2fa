import { and, asc, eq, exists, gt, inArray, lt, or, sql } from 'drizzle-orm';
import { alias } from 'drizzle-orm/mysql-core';
import type { Database, Queries, Transaction } from '../db/client';
import { jobParts, jobs, uploads } from '../db/schema';
import { transact } from '../db/transact';

export type Job = typeof jobs.$inferSelect;
export type Part = typeof jobParts.$inferSelect;

/** How long a worker may keep a part without a sign of life, seconds. */
export const LEASE_S = 30;
/** A part that broke off so often is given up. */
export const MOST_ATTEMPTS = 5;

const dbNow = sql`now(3)`;
const lease = sql`now(3) + interval ${sql.raw(String(LEASE_S))} second`;

/** Jobs that are looked at for a part: where several workers reach for the same one, the rest find the next. */
const MOST_LOOKED_AT = 20;
/** A file that was announced and has not come for so long is given up, hours. */
const WAIT_H = 24;
/** Uploaded bytes that no part names are kept for so long: their part may be just about to be written. */
const ORPHAN_H = 1;

/** What was refused can be tried again for so long, days. */
const AGAIN_D = 7;

const takeable = or(eq(jobParts.state, 'ready'), and(eq(jobParts.state, 'running'), lt(jobParts.leaseUntil, dbNow)));

/**
 * Takes the next part that is ready, or one whose worker has died. People take turns, and each one's jobs do, part by part:
 * whoever has waited longest is next and somebody new comes before all others, so a single fitting does not wait behind
 * thousands of files. Jobs with nothing to do just now are no obstacle, however many there are. Workers do not wait for each
 * other: rows that another one is just taking are skipped. The clock is the database's, so machines need not agree.
 */
export async function takePart(db: Database, worker: string): Promise<{ job: Job; part: Part } | undefined> {
  const own = alias(jobs, 'own');
  const lastServed = db
    .select({ at: sql`max(${own.servedAt})` })
    .from(own)
    .where(eq(own.personId, jobs.personId));
  const some = db
    .select({ one: sql`1` })
    .from(jobParts)
    .where(and(eq(jobParts.jobId, jobs.id), takeable));
  const open = await db
    .select()
    .from(jobs)
    .where(and(eq(jobs.state, 'queued'), exists(some)))
    .orderBy(asc(sql`(${lastServed})`), asc(jobs.servedAt), asc(jobs.createdAt))
    .limit(MOST_LOOKED_AT);
  for (const job of open) {
    const part = await transact(db, async (tx) => {
      const [row] = await tx
        .select()
        .from(jobParts)
        .where(and(eq(jobParts.jobId, job.id), takeable))
        .orderBy(asc(jobParts.number))
        .limit(1)
        .for('update', { skipLocked: true });
      if (!row) return undefined;
      await tx
        .update(jobParts)
        .set({ state: 'running', worker, leaseUntil: lease, attempts: row.attempts + 1 })
        .where(eq(jobParts.id, row.id));
      await tx
        .update(jobs)
        .set({ servedAt: dbNow, startedAt: sql`coalesce(${jobs.startedAt}, ${new Date()})` })
        .where(eq(jobs.id, job.id));
      return { ...row, attempts: row.attempts + 1, worker };
    });
    if (part) return { job, part };
  }
  return undefined;
}

/** Says that the worker lives. False where the part is no longer its own. */
export async function stillAlive(db: Queries, part: Part): Promise<boolean> {
  const [done] = await db
    .update(jobParts)
    .set({ leaseUntil: lease })
    .where(and(eq(jobParts.id, part.id), eq(jobParts.state, 'running'), eq(jobParts.attempts, part.attempts)));
  return done.affectedRows > 0;
}

/**
 * Lays down a part that a living worker could not end, so that nobody waits for its lease. Where the database was away,
 * the part itself is not to blame and the attempt does not count. What was ended or taken over meanwhile stays as it is.
 */
export async function layDown(db: Queries, part: Part, blameless: boolean): Promise<void> {
  await db
    .update(jobParts)
    .set({ state: 'ready', leaseUntil: null, ...(blameless && { attempts: part.attempts - 1 }) })
    .where(and(eq(jobParts.id, part.id), eq(jobParts.state, 'running'), eq(jobParts.attempts, part.attempts)));
}

/**
 * Ends a part together with what it wrote, in one transaction: either both are there or neither. Nothing is written where
 * the part was cancelled or given to another worker meanwhile. What others have written is seen as soon as it is there: of two
 * parts that end at once the later one has to see the other, or neither would take itself for the last.
 */
export async function endPart(
  db: Database,
  part: Part,
  write: (
    tx: Transaction,
  ) => Promise<{ state: 'done' | 'refused'; message?: string; result?: Record<string, unknown> }>,
): Promise<boolean> {
  return transact(db, (tx) => writePart(tx, part, write), { isolationLevel: 'read committed' });
}

async function writePart(tx: Transaction, part: Part, write: Parameters<typeof endPart>[2]): Promise<boolean> {
  const [own] = await tx.select().from(jobParts).where(eq(jobParts.id, part.id)).for('update');
  if (own?.state !== 'running' || own.attempts !== part.attempts) return false;
  const { state, message = '', result = null } = await write(tx);
  await tx
    .update(jobParts)
    .set({ state, message: message.slice(0, 1000), result, endedAt: new Date(), leaseUntil: null })
    .where(eq(jobParts.id, part.id));
  return true;
}

/** Uploaded bytes that no part waits for any more. */
export async function uploadsInUse(db: Queries, hashes: readonly string[]): Promise<Set<string>> {
  const rows = await db
    .select({ payload: jobParts.payload })
    .from(jobParts)
    .where(
      or(
        inArray(jobParts.state, ['ready', 'running', 'waiting']),
        and(
          eq(jobParts.state, 'refused'),
          gt(jobParts.endedAt, sql`now(3) - interval ${sql.raw(String(AGAIN_D))} day`),
        ),
      ),
    );
  const used = new Set(rows.flatMap((r) => [r.payload.hash, r.payload.skeleton].filter((h) => typeof h === 'string')));
  return new Set(hashes.filter((h) => used.has(h)));
}

/** Gives up files that were announced and never came: their jobs end with what did. @returns how many */
export async function expireWaiting(db: Queries): Promise<number> {
  const old = db
    .select({ id: jobs.id })
    .from(jobs)
    .where(and(eq(jobs.state, 'queued'), lt(jobs.createdAt, sql`now(3) - interval ${sql.raw(String(WAIT_H))} hour`)));
  const [done] = await db
    .update(jobParts)
    .set({ state: 'cancelled', message: 'The file never came.', endedAt: new Date() })
    .where(and(eq(jobParts.state, 'waiting'), inArray(jobParts.jobId, old)));
  return done.affectedRows;
}

/** Deletes uploaded bytes that no part needs: those of cancelled jobs, and of senders that went away in between. @returns how many */
export async function sweepUploads(db: Queries): Promise<number> {
  const old = await db
    .select({ hash: uploads.hash })
    .from(uploads)
    .where(lt(uploads.createdAt, sql`now(3) - interval ${sql.raw(String(ORPHAN_H))} hour`));
  const used = await uploadsInUse(
    db,
    old.map((u) => u.hash),
  );
  const free = old.map((u) => u.hash).filter((h) => !used.has(h));
  for (let i = 0; i < free.length; i += 500)
    await db.delete(uploads).where(inArray(uploads.hash, free.slice(i, i + 500)));
  return free.length;
}
