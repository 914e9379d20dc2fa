import { and, eq, inArray, isNotNull, isNull, notInArray, or } from 'drizzle-orm';
import { many } from '../../naming/counts';
import type { Person } from '../auth/person';
import type { Database, Queries } from '../db/client';
import {
  favourites,
  itemLinks,
  items,
  itemTags,
  itemVersions,
  motions,
  packMembers,
  playItems,
  plays,
  readings,
  reelItems,
  reels,
} from '../db/schema';
import { Refusal } from '../errors';
import { newGroup, record } from './history';

export interface InUse {
  id: string;
  name: string;
  /** Live items made from it, packs that hold it, reels it lies on and play-throughs that show it. */
  by: string[];
}

/** Of items that are to go for good: those which something outside them uses. */
export async function inUse(db: Queries, ids: readonly string[]): Promise<InUse[]> {
  if (ids.length === 0) return [];
  const gone = new Set(ids);
  const rows = await db
    .select({ id: items.id, name: items.name })
    .from(items)
    .where(inArray(items.id, [...ids]));
  const made = await db
    .select({ from: items.derivedFrom, id: items.id, name: items.name })
    .from(items)
    .where(and(inArray(items.derivedFrom, [...ids]), isNull(items.binnedAt)));
  const held = await db
    .select({ from: packMembers.itemId, id: items.id, name: items.name })
    .from(packMembers)
    .innerJoin(items, eq(items.id, packMembers.packId))
    .where(and(inArray(packMembers.itemId, [...ids]), isNull(items.binnedAt)));
  const laid = await db
    .select({ from: reelItems.itemId, id: reels.id, name: reels.name })
    .from(reelItems)
    .innerJoin(reels, eq(reels.id, reelItems.reelId))
    .where(and(inArray(reelItems.itemId, [...ids]), isNull(reels.binnedAt)));
  const shown = await db
    .select({ from: playItems.itemId, id: plays.id, name: plays.name })
    .from(playItems)
    .innerJoin(plays, eq(plays.id, playItems.playId))
    .where(and(inArray(playItems.itemId, [...ids]), isNull(plays.binnedAt)));
  return rows
    .map((r) => ({
      ...r,
      by: [
        ...new Set(
          [...made, ...held, ...laid, ...shown].filter((u) => u.from === r.id && !gone.has(u.id)).map((u) => u.name),
        ),
      ],
    }))
    .filter((r) => r.by.length > 0);
}

/**
 * Destroys items that are in the bin. Nothing in use goes unless that was said; motions that no version needs any more go
 * with them. This is the one thing that cannot be taken back.
 */
export async function destroyItems(
  db: Database,
  person: Person,
  ids: readonly string[],
  evenInUse: boolean,
): Promise<{ destroyed: number }> {
  const rows = await db
    .select({ id: items.id, name: items.name })
    .from(items)
    .where(and(inArray(items.id, [...ids]), isNotNull(items.binnedAt)));
  const found = rows.map((r) => r.id);
  if (found.length === 0) throw new Refusal(400, 'not-binned', 'Only what is in the bin can be destroyed.');
  if (!evenInUse) {
    const used = await inUse(db, found);
    if (used.length > 0)
      throw new Refusal(
        409,
        'in-use',
        `${used[0]!.name} is used by ${used[0]!.by.slice(0, 3).join(', ')}${used.length > 1 ? `, and ${used.length - 1} more are in use` : ''}. Nothing was destroyed.`,
        { used },
      );
  }
  await db.transaction(async (tx) => {
    const versions = await tx
      .select({ readingId: itemVersions.readingId })
      .from(itemVersions)
      .where(inArray(itemVersions.itemId, found));
    await tx.delete(itemTags).where(inArray(itemTags.itemId, found));
    await tx.delete(favourites).where(inArray(favourites.itemId, found));
    await tx.delete(packMembers).where(inArray(packMembers.itemId, found));
    await tx.delete(packMembers).where(inArray(packMembers.packId, found));
    const emptied = await refillPacks(tx, found);
    await tx.delete(itemLinks).where(or(inArray(itemLinks.fromId, found), inArray(itemLinks.toId, found)));
    await tx.delete(itemVersions).where(inArray(itemVersions.itemId, found));
    await tx.delete(items).where(inArray(items.id, found));
    await sweep(tx, [...new Set(versions.map((v) => v.readingId))]);
    const groupId = newGroup();
    await record(
      tx,
      [...rows, ...emptied].map((r) => ({
        subject: 'item' as const,
        subjectId: r.id,
        groupId,
        personId: person.id,
        action: 'destroy',
        label: rows.length === 1 ? `Destroyed ${r.name}` : `Destroyed ${many(rows.length, 'item')} from the bin`,
      })),
    );
  });
  return { destroyed: found.length };
}

/** Packs that showed something that goes show what is first of them now; a pack that is left empty goes, too. */
async function refillPacks(db: Queries, gone: readonly string[]): Promise<{ id: string; name: string }[]> {
  const packs = await db
    .select({ id: items.id, name: items.name })
    .from(items)
    .innerJoin(itemVersions, eq(itemVersions.id, items.versionId))
    .where(and(inArray(itemVersions.itemId, [...gone]), notInArray(items.id, [...gone])));
  const emptied: { id: string; name: string }[] = [];
  for (const { id, name } of packs) {
    const [first] = await db
      .select({ versionId: items.versionId })
      .from(packMembers)
      .innerJoin(items, eq(items.id, packMembers.itemId))
      .where(eq(packMembers.packId, id))
      .orderBy(packMembers.position)
      .limit(1);
    if (first)
      await db.update(items).set({ versionId: first.versionId, updatedAt: new Date() }).where(eq(items.id, id));
    else {
      await db.delete(itemTags).where(eq(itemTags.itemId, id));
      await db.delete(favourites).where(eq(favourites.itemId, id));
      await db.delete(items).where(eq(items.id, id));
      emptied.push({ id, name });
    }
  }
  return emptied;
}

/** Takes away readings, and motions, that nothing points at any more. */
async function sweep(db: Queries, readingIds: readonly string[]): Promise<void> {
  if (readingIds.length === 0) return;
  const kept = new Set(
    (
      await db
        .select({ id: itemVersions.readingId })
        .from(itemVersions)
        .where(inArray(itemVersions.readingId, [...readingIds]))
    ).map((r) => r.id),
  );
  const loose = readingIds.filter((id) => !kept.has(id));
  if (loose.length === 0) return;
  const hashes = (await db.select({ hash: readings.motionHash }).from(readings).where(inArray(readings.id, loose))).map(
    (r) => r.hash,
  );
  await db.delete(readings).where(inArray(readings.id, loose));
  const needed = new Set(
    (await db.select({ hash: readings.motionHash }).from(readings).where(inArray(readings.motionHash, hashes))).map(
      (r) => r.hash,
    ),
  );
  const free = hashes.filter((h) => !needed.has(h));
  if (free.length > 0) await db.delete(motions).where(inArray(motions.hash, free));
}
