import { and, asc, count, desc, eq, gt, inArray, notExists, sql } from 'drizzle-orm';
import type { JobKind, JobRow, PartRow, PartState } from '../../contract';
import type { Person } from '../auth/person';
import type { Database, Queries } from '../db/client';
import { jobParts, jobs, people } from '../db/schema';
import { transact } from '../db/transact';
import { notFound, Refusal } from '../errors';
import { newId } from '../ids';
import { newGroup, record } from './history';
import { can } from './rights';

export interface NewPart {
  name: string;
  bytes?: number;
  /** waiting: its file has yet to come. */
  state: 'waiting' | 'ready';
  payload: Record<string, unknown>;
}

/** Most parts of one job. */
export const MOST_PARTS = 50_000;

/** Open jobs of one person. */
export const MOST_OPEN = 100;

export async function addJob(
  db: Database,
  person: Pick<Person, 'id'>,
  job: { kind: JobKind; title: string; order: Record<string, unknown>; parts: readonly NewPart[] },
): Promise<{ id: string }> {
  if (job.parts.length === 0) throw new Refusal(400, 'empty', 'There is nothing to do.');
  if (job.parts.length > MOST_PARTS)
    throw new Refusal(400, 'too-many', `One job takes at most ${MOST_PARTS} files; bring the rest in with another.`);
  const [open] = await db
    .select({ n: count() })
    .from(jobs)
    .where(and(eq(jobs.personId, person.id), inArray(jobs.state, ['queued', 'paused'])));
  if (open && open.n >= MOST_OPEN)
    throw new Refusal(
      429,
      'too-many-jobs',
      `You have ${open.n} jobs open. Wait until some are done, or cancel what you no longer need.`,
    );
  const id = newId();
  await db.transaction(async (tx) => {
    await tx.insert(jobs).values({
      id,
      kind: job.kind,
      title: job.title.slice(0, 200),
      personId: person.id,
      state: 'queued',
      order: job.order,
    });
    await addParts(tx, id, 0, job.parts);
    await record(tx, [
      {
        subject: 'job',
        subjectId: id,
        groupId: newGroup(),
        personId: person.id,
        action: 'add',
        label: `Started: ${job.title}`,
      },
    ]);
  });
  return { id };
}

/** Adds parts to a job, numbered from `from`. */
export async function addParts(db: Queries, jobId: string, from: number, parts: readonly NewPart[]): Promise<void> {
  for (let i = 0; i < parts.length; i += 500)
    await db.insert(jobParts).values(
      parts.slice(i, i + 500).map((p, k) => ({
        id: newId(),
        jobId,
        number: from + i + k,
        state: p.state,
        name: p.name.slice(0, 400),
        bytes: p.bytes ?? 0,
        payload: p.payload,
        result: null,
      })),
    );
}

const NONE: Record<PartState, number> = { waiting: 0, ready: 0, running: 0, done: 0, refused: 0, cancelled: 0 };
/** The pace is that of the last so many seconds. */
const PACE_S = 60;

export async function listJobs(db: Queries, ids?: readonly string[], limit = 50): Promise<JobRow[]> {
  const rows = await db
    .select({
      id: jobs.id,
      kind: jobs.kind,
      title: jobs.title,
      state: jobs.state,
      personId: jobs.personId,
      personName: people.name,
      createdAt: jobs.createdAt,
      startedAt: jobs.startedAt,
      endedAt: jobs.endedAt,
      order: jobs.order,
    })
    .from(jobs)
    .leftJoin(people, eq(people.id, jobs.personId))
    .where(ids === undefined ? undefined : inArray(jobs.id, [...ids]))
    .orderBy(desc(jobs.createdAt))
    .limit(limit);
  if (rows.length === 0) return [];
  const own = rows.map((r) => r.id);
  const states = await db
    .select({ jobId: jobParts.jobId, state: jobParts.state, n: count() })
    .from(jobParts)
    .where(inArray(jobParts.jobId, own))
    .groupBy(jobParts.jobId, jobParts.state);
  const since = new Date(Date.now() - PACE_S * 1000);
  const lately = await db
    .select({ jobId: jobParts.jobId, n: count() })
    .from(jobParts)
    .where(and(inArray(jobParts.jobId, own), gt(jobParts.endedAt, since)))
    .groupBy(jobParts.jobId);
  return rows.map((r) => {
    const counts = { ...NONE };
    for (const s of states) if (s.jobId === r.id) counts[s.state] = s.n;
    const recent = lately.find((l) => l.jobId === r.id)?.n ?? 0;
    const started = Math.max(r.startedAt?.getTime() ?? r.createdAt.getTime(), since.getTime());
    const pace = recent / Math.max(1, (Date.now() - started) / 1000);
    const left = counts.waiting + counts.ready + counts.running;
    return { ...r, counts, leftS: r.state === 'queued' && pace > 0 && left > 0 ? Math.ceil(left / pace) : null };
  });
}

export async function getJob(db: Queries, id: string): Promise<JobRow> {
  const [job] = await listJobs(db, [id]);
  if (!job) throw notFound('The job');
  return job;
}

/** Parts of a job, those with trouble first where asked for. */
export async function listParts(
  db: Queries,
  jobId: string,
  {
    states,
    offset = 0,
    limit = 200,
  }: { states?: readonly PartState[] | undefined; offset?: number; limit?: number } = {},
): Promise<PartRow[]> {
  return db
    .select({
      id: jobParts.id,
      number: jobParts.number,
      state: jobParts.state,
      name: jobParts.name,
      bytes: jobParts.bytes,
      message: jobParts.message,
      result: jobParts.result,
    })
    .from(jobParts)
    .where(and(eq(jobParts.jobId, jobId), states === undefined ? undefined : inArray(jobParts.state, [...states])))
    .orderBy(asc(jobParts.number))
    .limit(limit)
    .offset(offset);
}

/** Pauses, goes on with, or cancels a job. What is done stays done. */
export async function steerJob(
  db: Database,
  person: Person,
  id: string,
  what: 'pause' | 'resume' | 'cancel' | 'retry',
): Promise<JobRow> {
  await transact(db, async (tx) => {
    const [job] = await tx.select().from(jobs).where(eq(jobs.id, id)).for('update');
    if (!job) throw notFound('The job');
    if (job.personId !== person.id && !can(person, 'curate'))
      throw new Refusal(403, 'no-right', 'Only who started a job, or a librarian, can steer it.');
    if (what === 'pause' && job.state === 'queued')
      await tx.update(jobs).set({ state: 'paused' }).where(eq(jobs.id, id));
    if (what === 'resume' && job.state === 'paused')
      await tx.update(jobs).set({ state: 'queued' }).where(eq(jobs.id, id));
    if (what === 'cancel' && (job.state === 'queued' || job.state === 'paused')) await cancelParts(tx, id);
    if (what === 'retry') {
      await tx
        .update(jobParts)
        .set({ state: 'ready', message: '', attempts: 0, worker: null, leaseUntil: null, endedAt: null })
        .where(and(eq(jobParts.jobId, id), eq(jobParts.state, 'refused')));
      await tx.update(jobs).set({ state: 'queued', endedAt: null }).where(eq(jobs.id, id));
    }
    await record(tx, [
      {
        subject: 'job',
        subjectId: id,
        groupId: newGroup(),
        personId: person.id,
        action: what,
        label: `${TOLD[what]}: ${job.title}`,
      },
    ]);
  });
  if (what === 'retry') await endJobIfDone(db, id);
  return getJob(db, id);
}
const TOLD = {
  pause: 'Paused',
  resume: 'Resumed',
  cancel: 'Cancelled',
  retry: 'Tried the refused ones again',
} as const;

/** Ends what somebody has under way who has left; what was done stays. */
export async function cancelJobsOf(db: Queries, personId: string): Promise<void> {
  const open = await db
    .select({ id: jobs.id })
    .from(jobs)
    .where(and(eq(jobs.personId, personId), inArray(jobs.state, ['queued', 'paused'])));
  for (const { id } of open) await cancelParts(db, id);
}

async function cancelParts(db: Queries, jobId: string): Promise<void> {
  // a part that runs is allowed to end; it finds the job cancelled and writes nothing
  await db
    .update(jobParts)
    .set({ state: 'cancelled', endedAt: new Date() })
    .where(and(eq(jobParts.jobId, jobId), inArray(jobParts.state, ['waiting', 'ready', 'running'])));
  await db.update(jobs).set({ state: 'cancelled', endedAt: new Date() }).where(eq(jobs.id, jobId));
}

/** Jobs of which no part is left to do and that nobody has ended: who did their last part died just then. */
export async function unendedJobs(db: Queries): Promise<string[]> {
  const left = db
    .select({ one: sql`1` })
    .from(jobParts)
    .where(and(eq(jobParts.jobId, jobs.id), inArray(jobParts.state, ['waiting', 'ready', 'running'])));
  const rows = await db
    .select({ id: jobs.id })
    .from(jobs)
    .where(and(eq(jobs.state, 'queued'), notExists(left)))
    .limit(100);
  return rows.map((r) => r.id);
}

/** Ends a job of which no part is left to do. Safe to call from anywhere, any number of times. */
export function endJobIfDone(db: Database, id: string): Promise<boolean> {
  // the parts are read as they are, without locks: whoever takes one holds it and then wants the job's row
  return transact(
    db,
    async (tx) => {
      const [job] = await tx.select().from(jobs).where(eq(jobs.id, id)).for('update');
      if (job?.state !== 'queued') return false;
      const [left] = await tx
        .select({ id: jobParts.id })
        .from(jobParts)
        .where(and(eq(jobParts.jobId, id), inArray(jobParts.state, ['waiting', 'ready', 'running'])))
        .limit(1);
      if (left) return false;
      await tx.update(jobs).set({ state: 'done', endedAt: new Date() }).where(eq(jobs.id, id));
      await record(tx, [
        {
          subject: 'job',
          subjectId: id,
          groupId: newGroup(),
          personId: job.personId,
          action: 'done',
          label: `Done: ${job.title}`,
        },
      ]);
      return true;
    },
    { isolationLevel: 'read committed' },
  );
}
