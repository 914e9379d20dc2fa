import { desc, eq, sql } from 'drizzle-orm';
import type { DestinationRow, ExportWish } from '../../contract';
import type { Person } from '../auth/person';
import type { Queries } from '../db/client';
import { destinations } from '../db/schema';
import { notFound } from '../errors';
import { newId } from '../ids';
import { newGroup, record } from './history';

/** Places that files are handed over to, the last used first. */
export const listDestinations = (db: Queries): Promise<DestinationRow[]> =>
  db
    .select({ id: destinations.id, name: destinations.name, wish: destinations.wish, usedAt: destinations.usedAt })
    .from(destinations)
    .orderBy(desc(sql`coalesce(${destinations.usedAt}, ${destinations.createdAt})`));

/** Remembers settings for a destination; one of the same name gets the new ones. */
export async function keepDestination(
  db: Queries,
  person: Pick<Person, 'id'>,
  name: string,
  wish: ExportWish,
): Promise<DestinationRow> {
  await db
    .insert(destinations)
    .values({ id: newId(), name, wish, createdBy: person.id, usedAt: new Date() })
    .onDuplicateKeyUpdate({ set: { wish, usedAt: new Date() } });
  const [row] = await db.select().from(destinations).where(eq(destinations.name, name));
  await record(db, [
    {
      subject: 'destination',
      subjectId: row!.id,
      groupId: newGroup(),
      personId: person.id,
      action: 'edit',
      label: `Set the export settings for ${name}`,
    },
  ]);
  return row!;
}

export async function removeDestination(db: Queries, person: Pick<Person, 'id'>, id: string): Promise<DestinationRow> {
  const [row] = await db.select().from(destinations).where(eq(destinations.id, id));
  if (!row) throw notFound('The destination');
  await db.delete(destinations).where(eq(destinations.id, id));
  await record(db, [
    {
      subject: 'destination',
      subjectId: id,
      groupId: newGroup(),
      personId: person.id,
      action: 'remove',
      label: `Forgot the export settings for ${row.name}`,
    },
  ]);
  return row;
}
