import { inArray } from 'drizzle-orm';
import type { ItemListRow } from '../../contract';
import type { Person } from '../auth/person';
import type { CatalogueQuery } from '../catalogue/catalogue';
import type { LiveCatalogue } from '../catalogue/live';
import type { Sort } from '../catalogue/order';
import { anyOf } from '../db/any-of';
import type { Queries } from '../db/client';
import { items } from '../db/schema';
import { notFound } from '../errors';
import { belowFolder, listFolders } from './folders';
import { getItems } from './items';
import { memberIds } from './packs';
import { hiddenFolders } from './rights';
import { scoresFor } from './scores';

export interface LibrarySearch {
  text?: string | undefined;
  folderId?: string | undefined;
  pack?: string | undefined;
  like?: string | undefined;
  /** A pose record, base64url. */
  pose?: string | undefined;
  sameSupport?: boolean | undefined;
  bin?: boolean | undefined;
  sort?: Sort | undefined;
  backwards?: boolean | undefined;
  offset?: number | undefined;
  limit?: number | undefined;
  facets?: boolean | undefined;
  performerId?: string | null | undefined;
}

async function queryOf(
  db: Queries,
  writes: Queries,
  person: Pick<Person, 'id' | 'role'>,
  search: LibrarySearch,
): Promise<CatalogueQuery> {
  if (search.like !== undefined) {
    const [model] = await db
      .select({ id: items.id })
      .from(items)
      .where(inArray(items.id, [search.like]));
    if (!model) throw notFound('The item');
  }
  const outside = await hiddenFolders(db, person);
  return {
    text: search.text,
    personId: person.id,
    bin: search.bin,
    ...(outside.size > 0 && { outside: [...outside] }),
    like: search.like,
    ...(search.pose !== undefined && { pose: new Uint8Array(Buffer.from(search.pose, 'base64url')) }),
    sameSupport: search.sameSupport,
    sort: search.sort,
    backwards: search.backwards,
    offset: search.offset,
    limit: search.limit,
    facets: search.facets,
    ...(search.folderId !== undefined && { folderIds: belowFolder(await listFolders(db), search.folderId) }),
    ...(search.pack !== undefined && { among: await memberIds(db, search.pack) }),
    ...(search.performerId && { scores: await scoresFor(writes, search.performerId) }),
  };
}

/** One page of what a search finds, with counts. */
export async function searchLibrary(
  db: Queries,
  library: LiveCatalogue,
  person: Pick<Person, 'id' | 'role'>,
  search: LibrarySearch,
  /** Where scores that are missing are kept: not a replica. */
  writes: Queries = db,
): Promise<ItemListRow> {
  const query = await queryOf(db, writes, person, search);
  const { ids, ...answer } = await library.search(query);
  const rows = await getItems(db, ids, person.id);
  const scores: Record<string, number> = {};
  if (query.scores)
    for (const r of rows) {
      const score = query.scores.get(r.readingId);
      if (score !== undefined) scores[r.id] = score;
    }
  return { ...answer, items: rows, scores };
}

/** Ids of everything that a search finds. */
export async function findAll(
  db: Queries,
  library: LiveCatalogue,
  person: Pick<Person, 'id' | 'role'>,
  search: LibrarySearch,
  writes: Queries = db,
): Promise<string[]> {
  return library.all(await queryOf(db, writes, person, search));
}

/** More rows than this are not told apart before their page is here. */
const MOST_NAMES = 20_000;
const NAMES_ONE_BY_ONE = 1000;

/** Names and kinds of what a search finds, in its order: what a row can say before its page is here. */
export async function namesOf(
  db: Queries,
  library: LiveCatalogue,
  person: Pick<Person, 'id' | 'role'>,
  search: LibrarySearch,
  writes: Queries = db,
): Promise<[string, string][]> {
  const ids = (await findAll(db, library, person, search, writes)).slice(0, MOST_NAMES);
  if (ids.length === 0) return [];
  // one walk over everything is quicker than looking up thousands one by one
  const rows = await db
    .select({ id: items.id, name: items.name, kind: items.kind })
    .from(items)
    .where(ids.length > NAMES_ONE_BY_ONE ? undefined : anyOf(items.id, ids));
  const found = new Map(rows.map((r): [string, [string, string]] => [r.id, [r.name, r.kind]]));
  return ids.map((id) => found.get(id) ?? ['', '']);
}
