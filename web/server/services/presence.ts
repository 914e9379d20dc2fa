import { eq, gt, lt, sql } from 'drizzle-orm';
import type { Present } from '../../contract';
import type { Queries } from '../db/client';
import { people, presence } from '../db/schema';

/** A page that says nothing for so long is gone, seconds. */
const GONE_S = 30;

/** Says that a page of this person is open, what it shows, and at which frame. */
export async function bePresent(
  db: Queries,
  personId: string,
  clientId: string,
  subjectId: string | null,
  frame: number | null = null,
): Promise<void> {
  await db
    .insert(presence)
    .values({ clientId, personId, subjectId, frame, at: sql`now(3)` })
    .onDuplicateKeyUpdate({ set: { subjectId, personId, frame, at: sql`now(3)` } });
}

export async function leave(db: Queries, personId: string, clientId: string): Promise<void> {
  await db.delete(presence).where(sql`${presence.clientId} = ${clientId} and ${presence.personId} = ${personId}`);
}

/** Who is here; rows of pages that went away without a word are swept out now and then. */
export async function whoIsHere(db: Queries): Promise<Present[]> {
  if (Math.random() < 0.05)
    await db.delete(presence).where(lt(presence.at, sql`now(3) - interval ${sql.raw(String(10 * GONE_S))} second`));
  return db
    .select({
      clientId: presence.clientId,
      personId: presence.personId,
      name: people.name,
      subjectId: presence.subjectId,
      frame: presence.frame,
    })
    .from(presence)
    .innerJoin(people, eq(people.id, presence.personId))
    .where(gt(presence.at, sql`now(3) - interval ${sql.raw(String(GONE_S))} second`))
    .orderBy(presence.clientId);
}
