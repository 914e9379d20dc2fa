import { and, asc, eq, inArray, lt, or, sql } from 'drizzle-orm';
import type { Database, Queries, Transaction } from '../db/client';
import { jobParts, jobs } from '../db/schema';

export type Job = typeof jobs.$inferSelect;
export type Part = typeof jobParts.$inferSelect;

/** How long a worker may keep a part without a sign of life, seconds. */
export const LEASE_S = 30;
/** A part that broke off so often is given up. */
export const MOST_ATTEMPTS = 5;

const dbNow = sql`now(3)`;
const lease = sql`now(3) + interval ${sql.raw(String(LEASE_S))} second`;

/**
 * Takes the next part that is ready, or one whose worker has died. Jobs take turns, part by part, the one that has waited
 * longest first and a new one before all others: a single fitting does not wait behind thousands of files. Workers do not wait
 * for each other: rows that another one is just taking are skipped. The clock is the database's, so machines need not agree.
 */
export async function takePart(db: Database, worker: string): Promise<{ job: Job; part: Part } | undefined> {
  const open = await db
    .select()
    .from(jobs)
    .where(eq(jobs.state, 'queued'))
    .orderBy(asc(jobs.servedAt), asc(jobs.createdAt))
    .limit(200);
  for (const job of open) {
    const part = await db.transaction(async (tx) => {
      const [row] = await tx
        .select()
        .from(jobParts)
        .where(
          and(
            eq(jobParts.jobId, job.id),
            or(eq(jobParts.state, 'ready'), and(eq(jobParts.state, 'running'), lt(jobParts.leaseUntil, dbNow))),
          ),
        )
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
 * the part was cancelled or given to another worker meanwhile.
 */
export async function endPart(
  db: Database,
  part: Part,
  write: (
    tx: Transaction,
  ) => Promise<{ state: 'done' | 'refused'; message?: string; result?: Record<string, unknown> }>,
): Promise<boolean> {
  return db.transaction(async (tx) => {
    const [own] = await tx.select().from(jobParts).where(eq(jobParts.id, part.id)).for('update');
    if (own?.state !== 'running' || own.attempts !== part.attempts) return false;
    const { state, message = '', result = null } = await write(tx);
    await tx
      .update(jobParts)
      .set({ state, message: message.slice(0, 1000), result, endedAt: new Date(), leaseUntil: null })
      .where(eq(jobParts.id, part.id));
    return true;
  });
}

/** Uploaded bytes that no part waits for any more. */
export async function uploadsInUse(db: Queries, hashes: readonly string[]): Promise<Set<string>> {
  const rows = await db
    .select({ payload: jobParts.payload })
    .from(jobParts)
    .where(inArray(jobParts.state, ['ready', 'running', 'waiting', 'refused']));
  const used = new Set(rows.flatMap((r) => [r.payload.hash, r.payload.skeleton].filter((h) => typeof h === 'string')));
  return new Set(hashes.filter((h) => used.has(h)));
}
