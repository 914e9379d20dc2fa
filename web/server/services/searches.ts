import { asc, eq, or } from 'drizzle-orm';
import type { SavedSearch } from '../../contract';
import type { Person } from '../auth/person';
import type { Queries } from '../db/client';
import { people, savedSearches } from '../db/schema';
import { notFound, Refusal } from '../errors';
import { newId } from '../ids';
import { can } from './rights';

/** A person's own saved searches and those that others share. */
export async function listSearches(db: Queries, person: Person): Promise<SavedSearch[]> {
  const rows = await db
    .select({
      id: savedSearches.id,
      name: savedSearches.name,
      view: savedSearches.view,
      shared: savedSearches.shared,
      personId: savedSearches.personId,
      byName: people.name,
    })
    .from(savedSearches)
    .leftJoin(people, eq(people.id, savedSearches.personId))
    .where(or(eq(savedSearches.personId, person.id), eq(savedSearches.shared, true)))
    .orderBy(asc(savedSearches.name));
  return rows.map(({ personId, ...r }) => ({ ...r, mine: personId === person.id }));
}

export async function saveSearch(
  db: Queries,
  person: Person,
  search: { name: string; view: string; shared: boolean },
): Promise<SavedSearch> {
  if (search.shared && !can(person, 'change'))
    throw new Refusal(403, 'no-right', `${person.name} may look, but not share searches with others.`);
  const id = newId();
  await db.insert(savedSearches).values({ id, personId: person.id, ...search });
  return { id, ...search, mine: true, byName: person.name };
}

export async function removeSearch(db: Queries, person: Person, id: string): Promise<void> {
  const [row] = await db.select().from(savedSearches).where(eq(savedSearches.id, id));
  if (!row) throw notFound('The saved search');
  if (row.personId !== person.id && !can(person, 'curate'))
    throw new Refusal(403, 'no-right', 'Only who saved a search, or a librarian, can remove it.');
  await db.delete(savedSearches).where(eq(savedSearches.id, id));
}
