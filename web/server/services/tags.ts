import { eq, inArray } from 'drizzle-orm';
import type { Queries } from '../db/client';
import { itemTags, tags } from '../db/schema';
import { newId } from '../ids';

/** A tag as it is kept: lower case, single blanks. */
export const tidyTag = (tag: string): string => tag.trim().toLowerCase().replace(/\s+/g, ' ').slice(0, 80);

/** Gives an item exactly these tags. */
export async function setTags(db: Queries, itemId: string, names: readonly string[]): Promise<void> {
  const wanted = [...new Set(names.map(tidyTag).filter(Boolean))];
  await db.delete(itemTags).where(eq(itemTags.itemId, itemId));
  if (wanted.length === 0) return;
  await db
    .insert(tags)
    .ignore()
    .values(wanted.map((name) => ({ id: newId(), name })));
  const rows = await db.select().from(tags).where(inArray(tags.name, wanted));
  await db.insert(itemTags).values(rows.map((t) => ({ itemId, tagId: t.id })));
}

/** Tags of many items, by item. */
export async function tagsOf(db: Queries, itemIds: readonly string[]): Promise<Map<string, string[]>> {
  const out = new Map<string, string[]>();
  if (itemIds.length === 0) return out;
  const rows = await db
    .select({ itemId: itemTags.itemId, name: tags.name })
    .from(itemTags)
    .innerJoin(tags, eq(tags.id, itemTags.tagId))
    .where(inArray(itemTags.itemId, [...itemIds]))
    .orderBy(tags.name);
  for (const { itemId, name } of rows) out.set(itemId, [...(out.get(itemId) ?? []), name]);
  return out;
}
