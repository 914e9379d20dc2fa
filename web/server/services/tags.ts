import { count, eq, inArray } from 'drizzle-orm';
import type { Tag, TagColour } from '../../contract';
import type { Person } from '../auth/person';
import { anyOf } from '../db/any-of';
import type { Queries } from '../db/client';
import { items, itemTags, tags } from '../db/schema';
import { notFound, Refusal } from '../errors';
import { newId } from '../ids';
import { newGroup, record } from './history';

/** A tag as it is kept: lower case, single blanks. */
export const tidyTag = (tag: string): string => tag.trim().toLowerCase().replace(/\s+/g, ' ').slice(0, 80);

/** Tags an item that was just made and has none. */
export const tagNew = (db: Queries, itemId: string, names: readonly string[]): Promise<void> =>
  insertTags(db, tidied(new Map([[itemId, names]])));

/** Rows written by one statement. */
const PART = 2000;

/** Gives each of many items exactly its tags. */
export async function setTagsOf(db: Queries, namesOf: ReadonlyMap<string, readonly string[]>): Promise<void> {
  const wanted = tidied(namesOf);
  const itemIds = [...wanted.keys()];
  for (let i = 0; i < itemIds.length; i += PART)
    await db.delete(itemTags).where(anyOf(itemTags.itemId, itemIds.slice(i, i + PART)));
  await insertTags(db, wanted);
}

const tidied = (namesOf: ReadonlyMap<string, readonly string[]>): Map<string, string[]> =>
  new Map([...namesOf].map(([id, names]) => [id, [...new Set(names.map(tidyTag).filter(Boolean))]]));

/** Deleting what is not there would lock the place where others insert: what is new is only added to. */
async function insertTags(db: Queries, wanted: ReadonlyMap<string, readonly string[]>): Promise<void> {
  const names = [...new Set([...wanted.values()].flat())];
  if (names.length === 0) return;
  await db
    .insert(tags)
    .ignore()
    .values(names.map((name) => ({ id: newId(), name })));
  const read = (of: readonly string[]) =>
    db.select({ id: tags.id, name: tags.name }).from(tags).where(anyOf(tags.name, of));
  const idOf = new Map((await read(names)).map((t) => [t.name, t.id]));
  const unseen = names.filter((n) => !idOf.has(n));
  // what somebody else has added since this transaction began is seen only by a read that locks
  if (unseen.length > 0) for (const t of await read(unseen).for('update')) idOf.set(t.name, t.id);
  const rows = [...wanted].flatMap(([itemId, own]) => own.map((name) => ({ itemId, tagId: idOf.get(name)! })));
  for (let i = 0; i < rows.length; i += PART) await db.insert(itemTags).values(rows.slice(i, i + PART));
}

/** Tags of many items, by item. */
export async function tagsOf(db: Queries, itemIds: readonly string[]): Promise<Map<string, string[]>> {
  const out = new Map<string, string[]>();
  if (itemIds.length === 0) return out;
  const rows = await db
    .select({ itemId: itemTags.itemId, name: tags.name })
    .from(itemTags)
    .innerJoin(tags, eq(tags.id, itemTags.tagId))
    .where(anyOf(itemTags.itemId, itemIds))
    .orderBy(tags.name);
  for (const { itemId, name } of rows) out.set(itemId, [...(out.get(itemId) ?? []), name]);
  return out;
}

/** All tags, each with how many items have it. @param hidden folders whose items, and what only they are tagged with, stay untold */
export async function listTags(db: Queries, hidden: ReadonlySet<string> = new Set()): Promise<Tag[]> {
  const [counts, within] = await Promise.all([
    usesOfTags(db),
    hidden.size > 0 ? usesOfTags(db, [...hidden]) : undefined,
  ]);
  const rows = await db
    .select({ id: tags.id, name: tags.name, colour: tags.colour, synonyms: tags.synonyms })
    .from(tags)
    .orderBy(tags.name);
  return rows.flatMap((t) => {
    const [all, untold] = [counts.get(t.id) ?? 0, within?.get(t.id) ?? 0];
    return untold > 0 && untold === all ? [] : [{ ...t, n: all - untold }];
  });
}

/** By tag: the items that have it. @param within only those in these folders */
async function usesOfTags(db: Queries, within?: readonly string[]): Promise<Map<string, number>> {
  const uses = db.select({ id: itemTags.tagId, n: count() }).from(itemTags).$dynamic();
  if (within) uses.innerJoin(items, eq(items.id, itemTags.itemId)).where(inArray(items.folderId, [...within]));
  return new Map((await uses.groupBy(itemTags.tagId)).map((r) => [r.id, r.n]));
}

export interface TagChange {
  name?: string | undefined;
  colour?: TagColour | undefined;
  synonyms?: string[] | undefined;
}

/** Colours, renames or explains a tag. Renaming to a tag that exists joins the two. */
export async function changeTag(db: Queries, person: Person, id: string, change: TagChange): Promise<Tag> {
  const before = (await listTags(db)).find((t) => t.id === id);
  if (!before) throw notFound('The tag');
  const name = change.name === undefined ? before.name : tidyTag(change.name);
  if (name === '') throw new Refusal(400, 'invalid', 'name: a tag needs a name');
  const synonyms = change.synonyms?.map(tidyTag).filter((s) => s !== '' && s !== name);
  const [twin] = name === before.name ? [] : await db.select().from(tags).where(eq(tags.name, name));
  const touched = await db.select({ id: itemTags.itemId }).from(itemTags).where(eq(itemTags.tagId, id));
  if (twin) {
    const own = touched.map((t) => t.id);
    if (own.length > 0)
      await db
        .insert(itemTags)
        .ignore()
        .values(own.map((itemId) => ({ itemId, tagId: twin.id })));
    await db.delete(itemTags).where(eq(itemTags.tagId, id));
    await db.delete(tags).where(eq(tags.id, id));
    await db
      .update(tags)
      .set({ synonyms: [...new Set([...twin.synonyms, before.name, ...(synonyms ?? before.synonyms)])] })
      .where(eq(tags.id, twin.id));
  } else
    await db
      .update(tags)
      .set({
        name,
        ...(change.colour && { colour: change.colour }),
        ...(synonyms && { synonyms: [...new Set(synonyms)] }),
      })
      .where(eq(tags.id, id));
  const groupId = newGroup();
  await record(db, [
    {
      subject: 'tag',
      subjectId: twin?.id ?? id,
      groupId,
      personId: person.id,
      action: twin ? 'join' : 'edit',
      label: twin ? `Joined the tag ${before.name} with ${name}` : `Changed the tag ${before.name}`,
      before: { name: before.name, colour: before.colour, synonyms: before.synonyms },
      after: { name, ...(change.colour && { colour: change.colour }), ...(synonyms && { synonyms }) },
    },
    // what carries a renamed tag is found under another word from now on
    ...(name === before.name
      ? []
      : touched.map((t) => ({
          subject: 'item' as const,
          subjectId: t.id,
          groupId,
          personId: person.id,
          action: 'retag',
        }))),
  ]);
  return (await listTags(db)).find((t) => t.id === (twin?.id ?? id))!;
}

/** Items whose rows in a catalogue name a tag. */
export const itemsTagged = async (db: Queries, tagId: string): Promise<string[]> =>
  (
    await db
      .select({ id: items.id })
      .from(itemTags)
      .innerJoin(items, eq(items.id, itemTags.itemId))
      .where(eq(itemTags.tagId, tagId))
  ).map((r) => r.id);
