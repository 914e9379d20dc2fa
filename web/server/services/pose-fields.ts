import { eq } from 'drizzle-orm';
import type { PoseFieldDocument } from '../../contract';
import { asField, POSE_FIELD } from '../../documents/pose-field';
import type { Batch } from '../../documents/shared-document';
import type { Person } from '../auth/person';
import type { Database, Queries } from '../db/client';
import { people, poseFields } from '../db/schema';
import { wasTaken, withBatch, withWrites } from './batches';
import { getCast } from './cast';
import { newGroup, record } from './history';

/** The field of poses of a character; an empty one where nothing was pinned yet. */
export async function getField(db: Queries, castId: string): Promise<PoseFieldDocument> {
  const [row] = await db
    .select({ field: poseFields, by: people.name })
    .from(poseFields)
    .leftJoin(people, eq(people.id, poseFields.changedBy))
    .where(eq(poseFields.castId, castId));
  return {
    content: row ? asField(row.field.content) : POSE_FIELD.empty,
    version: row?.field.version ?? 0,
    changedByName: row?.by ?? null,
  };
}

/**
 * Lays what a page wrote on the field of a character, beside what others wrote meanwhile.
 * @throws Refusal 404 where the character is gone, 400 for what it cannot hold
 */
export async function writeField(
  db: Database,
  person: Pick<Person, 'id'>,
  castId: string,
  batch: Batch,
): Promise<PoseFieldDocument> {
  const member = await getCast(db, castId);
  // a row of its own first: two who begin within their transactions would wait for each other
  await db
    .insert(poseFields)
    .ignore()
    .values({ castId, content: POSE_FIELD.empty, version: 0, changedBy: person.id, changedAt: new Date() });
  await db.transaction(async (tx) => {
    const [row] = await tx.select().from(poseFields).where(eq(poseFields.castId, castId)).for('update');
    if (wasTaken(row!.taken, batch)) return;
    const content = withWrites(POSE_FIELD, asField(row!.content), batch, asField);
    await tx
      .update(poseFields)
      .set({
        content,
        version: row!.version + 1,
        taken: withBatch(row!.taken, batch),
        changedBy: person.id,
        changedAt: new Date(),
      })
      .where(eq(poseFields.castId, castId));
    await record(tx, [
      {
        subject: 'posefield',
        subjectId: castId,
        groupId: newGroup(),
        personId: person.id,
        action: 'edit',
        label: `Worked on the field of poses of ${member.name}`,
      },
    ]);
  });
  return getField(db, castId);
}
