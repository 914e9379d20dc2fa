import type { Facts } from '@velvet-reel/motion';
import { and, asc, count, desc, eq, inArray, isNotNull, isNull, like, or, type SQL, sql } from 'drizzle-orm';
import type { ReadClip } from '../../workers/heavy';
import type { Queries } from '../db/client';
import {
  castMembers,
  type ItemKind,
  items,
  itemTags,
  itemVersions,
  motions,
  type Provenance,
  tags,
} from '../db/schema';
import { notFound } from '../errors';
import { newId, sha256 } from '../ids';
import { folderByPath, listFolders } from './folders';
import { itemsLike } from './likeness';
import { setTags, tagsOf } from './tags';

export interface ItemRow {
  id: string;
  name: string;
  kind: ItemKind;
  note: string;
  folderId: string | null;
  tags: string[];
  versionId: string;
  version: number;
  motionHash: string;
  rigId: string;
  facts: Facts;
  provenance: Provenance;
  createdAt: Date;
  binnedAt: Date | null;
}

export interface ItemSearch {
  words?: string | undefined;
  kind?: ItemKind | undefined;
  tag?: string | undefined;
  folderId?: string | undefined;
  bin?: boolean | undefined;
  /** Only what moves like this item, the likest first. */
  like?: string | undefined;
}

export interface ItemList {
  items: ItemRow[];
  /** Number in the same place (library or bin) without any narrowing. */
  total: number;
}

const pattern = (word: string): string => `%${word.replace(/[\\%_]/g, '\\$&')}%`;

/** Every word must stand in name, note or a tag; a leading minus means it must not. */
function wordFilters(words: string): SQL[] {
  return words
    .trim()
    .split(/\s+/)
    .filter((w) => w !== '' && w !== '-')
    .slice(0, 12)
    .map((raw) => {
      const p = pattern(raw.replace(/^-/, ''));
      const tagged = sql`exists (select 1 from ${itemTags} join ${tags} on ${tags.id} = ${itemTags.tagId} where ${itemTags.itemId} = ${items.id} and ${tags.name} like ${p})`;
      const hit = or(like(items.name, p), like(items.note, p), tagged)!;
      return raw.startsWith('-') ? sql`not (${hit})` : hit;
    });
}

/** The folder and everything below it. */
async function folderTree(db: Queries, id: string): Promise<string[]> {
  const all = await listFolders(db);
  const out = [id];
  for (let i = 0; i < out.length; i++) out.push(...all.filter((f) => f.parentId === out[i]).map((f) => f.id));
  return out;
}

const columns = {
  id: items.id,
  name: items.name,
  kind: items.kind,
  note: items.note,
  folderId: items.folderId,
  versionId: items.versionId,
  createdAt: items.createdAt,
  binnedAt: items.binnedAt,
  version: itemVersions.number,
  motionHash: itemVersions.motionHash,
  rigId: itemVersions.rigId,
  facts: itemVersions.facts,
  provenance: itemVersions.provenance,
};

export async function searchItems(db: Queries, search: ItemSearch, limit = 2000): Promise<ItemList> {
  const place = search.bin ? isNotNull(items.binnedAt) : isNull(items.binnedAt);
  const filters = [place, ...wordFilters(search.words ?? '')];
  if (search.kind) filters.push(eq(items.kind, search.kind));
  if (search.folderId) filters.push(inArray(items.folderId, await folderTree(db, search.folderId)));
  if (search.tag) {
    filters.push(
      sql`exists (select 1 from ${itemTags} join ${tags} on ${tags.id} = ${itemTags.tagId} where ${itemTags.itemId} = ${items.id} and ${tags.name} = ${search.tag})`,
    );
  }
  const alike = search.like ? await itemsLike(db, search.like) : undefined;
  if (alike) filters.push(inArray(items.id, [...alike.keys()]));
  const rows = await db
    .select(columns)
    .from(items)
    .innerJoin(itemVersions, eq(itemVersions.id, items.versionId))
    .where(and(...filters))
    .orderBy(...(search.bin ? [desc(items.binnedAt)] : [asc(items.name), asc(items.id)]))
    .limit(limit);
  if (alike) rows.sort((a, b) => alike.get(a.id)! - alike.get(b.id)!);
  const [all] = await db.select({ n: count() }).from(items).where(place);
  const named = await tagsOf(
    db,
    rows.map((r) => r.id),
  );
  return { items: rows.map((r) => ({ ...r, tags: named.get(r.id) ?? [] })), total: all?.n ?? 0 };
}

export async function getItem(db: Queries, id: string): Promise<ItemRow> {
  const row = (
    await db
      .select(columns)
      .from(items)
      .innerJoin(itemVersions, eq(itemVersions.id, items.versionId))
      .where(eq(items.id, id))
  )[0];
  if (!row) throw notFound('The item');
  return { ...row, tags: (await tagsOf(db, [id])).get(id) ?? [] };
}

export interface NewItem {
  name: string;
  kind: ItemKind;
  note?: string;
  folder?: string | undefined;
  folderId?: string | null;
  tags?: readonly string[];
  rigId: string;
  clip: ReadClip;
  provenance: Provenance;
  personId: string;
}

/** Keeps a motion under its hash; equal bytes are kept once. */
export async function keepMotion(db: Queries, clip: ReadClip): Promise<string> {
  const hash = sha256(clip.packed);
  await db
    .insert(motions)
    .ignore()
    .values({ hash, frameCount: clip.facts.frameCount, fps: clip.facts.fps, packed: clip.packed });
  return hash;
}

export async function addItem(db: Queries, item: NewItem): Promise<ItemRow> {
  const hash = await keepMotion(db, item.clip);
  const id = newId();
  const versionId = newId();
  const folderId = item.folderId ?? (item.folder ? await folderByPath(db, item.folder) : null);
  await db.insert(itemVersions).values({
    id: versionId,
    itemId: id,
    number: 1,
    motionHash: hash,
    rigId: item.rigId,
    facts: item.clip.facts,
    strip: item.clip.strip,
    descriptor: item.clip.descriptor,
    provenance: item.provenance,
    createdBy: item.personId,
  });
  await db.insert(items).values({
    id,
    kind: item.kind,
    name: item.name.slice(0, 200),
    note: item.note ?? '',
    folderId,
    versionId,
    createdBy: item.personId,
  });
  await setTags(db, id, item.tags ?? []);
  return getItem(db, id);
}

export interface ItemChange {
  name?: string | undefined;
  note?: string | undefined;
  kind?: ItemKind | undefined;
  /** A folder by path; an empty path takes the item out of all folders. */
  folder?: string | undefined;
  tags?: string[] | undefined;
  binned?: boolean | undefined;
}

/** Changes an item and answers with what would undo it. */
export async function changeItem(
  db: Queries,
  id: string,
  change: ItemChange,
): Promise<{ item: ItemRow; undo: ItemChange }> {
  const before = await getItem(db, id);
  const undo: ItemChange = {};
  const set: Partial<typeof items.$inferInsert> = { updatedAt: new Date() };
  if (change.name !== undefined) {
    set.name = change.name;
    undo.name = before.name;
  }
  if (change.note !== undefined) {
    set.note = change.note;
    undo.note = before.note;
  }
  if (change.kind !== undefined) {
    set.kind = change.kind;
    undo.kind = before.kind;
  }
  if (change.folder !== undefined) {
    set.folderId = await folderByPath(db, change.folder);
    undo.folder = await pathOf(db, before.folderId);
  }
  if (change.binned !== undefined) {
    set.binnedAt = change.binned ? new Date() : null;
    undo.binned = before.binnedAt !== null;
  }
  await db.update(items).set(set).where(eq(items.id, id));
  if (change.tags !== undefined) {
    await setTags(db, id, change.tags);
    undo.tags = before.tags;
  }
  return { item: await getItem(db, id), undo };
}

export async function pathOf(db: Queries, folderId: string | null): Promise<string> {
  const all = await listFolders(db);
  const names: string[] = [];
  for (let f = all.find((x) => x.id === folderId); f; f = all.find((x) => x.id === f!.parentId)) names.unshift(f.name);
  return names.join(' / ');
}

/** Strips of many items at once, in the order found. */
export const stripsOf = (db: Queries, versionIds: readonly string[]): Promise<{ id: string; strip: Uint8Array }[]> =>
  versionIds.length === 0
    ? Promise.resolve([])
    : db
        .select({ id: itemVersions.id, strip: itemVersions.strip })
        .from(itemVersions)
        .where(inArray(itemVersions.id, [...versionIds]));

export async function motionBytes(db: Queries, hash: string): Promise<Uint8Array> {
  const row = (await db.select({ packed: motions.packed }).from(motions).where(eq(motions.hash, hash)))[0];
  if (!row) throw notFound('The motion');
  return row.packed;
}

export interface Counts {
  kinds: { kind: ItemKind; n: number }[];
  tags: { name: string; n: number }[];
  bin: number;
  cast: number;
}

/** What narrowings there are and how many items each would leave. */
export async function libraryCounts(db: Queries): Promise<Counts> {
  const live = isNull(items.binnedAt);
  const kinds = await db.select({ kind: items.kind, n: count() }).from(items).where(live).groupBy(items.kind);
  const named = await db
    .select({ name: tags.name, n: count() })
    .from(itemTags)
    .innerJoin(tags, eq(tags.id, itemTags.tagId))
    .innerJoin(items, eq(items.id, itemTags.itemId))
    .where(live)
    .groupBy(tags.name)
    .orderBy(desc(count()), tags.name)
    .limit(60);
  const [bin] = await db.select({ n: count() }).from(items).where(isNotNull(items.binnedAt));
  const [cast] = await db.select({ n: count() }).from(castMembers).where(isNull(castMembers.binnedAt));
  return { kinds, tags: named, bin: bin?.n ?? 0, cast: cast?.n ?? 0 };
}
