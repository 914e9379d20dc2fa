import { and, eq, inArray } from 'drizzle-orm';
import { z } from 'zod';
import type { Person } from '../auth/person';
import { insertUpload } from '../db/bytes';
import type { Database } from '../db/client';
import { jobParts, jobs } from '../db/schema';
import { notFound, Refusal } from '../errors';
import type { Upload } from '../files/upload';
import { sha256 } from '../ids';
import { demandPath } from './folders';
import { addJob } from './jobs';
import { demandQuota } from './quotas';
import { can } from './rights';

/** A path inside what was dropped: no way out of it. */
const inside = z
  .string()
  .min(1)
  .max(390)
  .refine((s) => !s.split(/[\\/]/).includes('..'), 'a file name leads out of its folder');

export const newIntake = z.object({
  title: z.string().trim().min(1).max(200),
  /** Folder of the library under which the dropped folders are kept. */
  folder: z.string().max(600).default(''),
  /** Take files in that are in the library already. */
  again: z.boolean().default(false),
  /** Keep the folders of the files as folders of the library. */
  keepFolders: z.boolean().default(true),
  files: z
    .array(z.object({ name: inside, bytes: z.number().int().min(0) }))
    .min(1)
    .max(50_000),
});
export type NewIntake = z.infer<typeof newIntake>;

/** Opens a job that waits for its files. */
export async function openIntake(db: Database, person: Person, wish: NewIntake): Promise<{ id: string }> {
  await demandPath(db, person, wish.folder);
  // said at once, not after an hour of sending
  await demandQuota(
    db,
    person,
    wish.files.reduce((sum, f) => sum + f.bytes, 0),
  );
  return addJob(db, person, {
    kind: 'intake',
    title: wish.title,
    order: { folder: wish.folder, again: wish.again, keepFolders: wish.keepFolders },
    parts: wish.files.map((f) => ({ name: f.name, bytes: f.bytes, state: 'waiting', payload: {} })),
  });
}

/** Takes the bytes of one file; sending it twice does nothing more. */
export async function receivePart(
  db: Database,
  person: Person,
  jobId: string,
  number: number,
  upload: Upload,
): Promise<{ state: string }> {
  const keep = async (bytes: Uint8Array): Promise<string> => {
    const hash = sha256(bytes);
    await insertUpload(db, hash, bytes);
    return hash;
  };
  const [job] = await db.select().from(jobs).where(eq(jobs.id, jobId));
  if (!job) throw notFound('The job');
  if (job.personId !== person.id)
    throw new Refusal(403, 'no-right', 'Only the person who started an import can send its files.');
  const at = and(eq(jobParts.jobId, jobId), eq(jobParts.number, number));
  const [wanted] = await db.select({ state: jobParts.state }).from(jobParts).where(at);
  if (!wanted) throw notFound('The file’s place in the job');
  // nothing is stored for a part that does not wait for it
  if (wanted.state !== 'waiting') return wanted;
  const hash = await keep(upload.bytes);
  const skeleton = upload.skeleton ? await keep(upload.skeleton) : undefined;
  const [done] = await db
    .update(jobParts)
    .set({ state: 'ready', bytes: upload.bytes.length, payload: { hash, ...(skeleton && { skeleton }) } })
    .where(and(at, eq(jobParts.state, 'waiting')));
  if (done.affectedRows > 0) return { state: 'ready' };
  const [part] = await db.select({ state: jobParts.state }).from(jobParts).where(at);
  return part!;
}

/** Numbers of the files that have not come yet: what a page that was closed has to send again. */
export async function missingParts(
  db: Database,
  jobId: string,
): Promise<{ number: number; name: string; bytes: number }[]> {
  return db
    .select({ number: jobParts.number, name: jobParts.name, bytes: jobParts.bytes })
    .from(jobParts)
    .where(and(eq(jobParts.jobId, jobId), eq(jobParts.state, 'waiting')))
    .orderBy(jobParts.number)
    .limit(50_000);
}

/** Gives up files that will not come. */
export async function giveUpMissing(db: Database, person: Pick<Person, 'id' | 'role'>, jobId: string): Promise<void> {
  const [job] = await db.select({ personId: jobs.personId }).from(jobs).where(eq(jobs.id, jobId));
  if (!job) throw notFound('The job');
  if (job.personId !== person.id && !can(person, 'curate'))
    throw new Refusal(403, 'no-right', 'Only the person who started an import, or a librarian, can give up its files.');
  await db
    .update(jobParts)
    .set({ state: 'cancelled', message: 'The file never came.', endedAt: new Date() })
    .where(and(eq(jobParts.jobId, jobId), inArray(jobParts.state, ['waiting'])));
}
