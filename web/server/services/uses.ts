import { and, asc, eq, ne, or, sql } from 'drizzle-orm';
import type { Uses } from '../../contract';
import type { Queries } from '../db/client';
import { itemLinks, items, itemVersions } from '../db/schema';
import { getItem } from './items';
import { playsWith } from './play-lists';
import { reelsWith } from './reel-lists';
import { neighbours } from './sequences';

/** Where an item is used and what it was made from. */
export async function usesOf(db: Queries, id: string): Promise<Uses> {
  const item = await getItem(db, id);
  const made = await db
    .select({
      id: items.id,
      name: items.name,
      how: sql<string>`coalesce(json_value(${itemVersions.provenance}, '$.how'), '')`,
    })
    .from(items)
    .innerJoin(itemVersions, eq(itemVersions.id, items.versionId))
    .where(eq(items.derivedFrom, id))
    .orderBy(asc(items.name))
    .limit(200);
  const [from] = item.derivedFrom
    ? await db.select({ id: items.id, name: items.name }).from(items).where(eq(items.id, item.derivedFrom))
    : [];
  const variants = await db
    .selectDistinct({ id: items.id, name: items.name })
    .from(itemLinks)
    .innerJoin(items, or(eq(items.id, itemLinks.toId), eq(items.id, itemLinks.fromId)))
    .where(and(eq(itemLinks.kind, 'variant'), or(eq(itemLinks.fromId, id), eq(itemLinks.toId, id)), ne(items.id, id)))
    .limit(200);
  const [on, shown] = await Promise.all([reelsWith(db, id), playsWith(db, id)]);
  return {
    made,
    packs: item.packs,
    from: from ?? null,
    variants,
    reels: on,
    plays: shown,
    ...(await neighbours(db, id)),
  };
}
