import type { CutoutKeys } from '@velvet-reel/motion';
import { and, asc, eq, inArray, isNull, sql } from 'drizzle-orm';
import type { ItemRow, Provenance, Rights } from '../../contract';
import type { ItemKind } from '../../kinds/kinds';
import { anyOf } from '../db/any-of';
import { insertFile } from '../db/bytes';
import type { Queries } from '../db/client';
import { castMembers, favourites, items, itemVersions, motions, packMembers, people, readings } from '../db/schema';
import { notFound } from '../errors';
import { newId, sha256 } from '../ids';
import type { ReadClip } from '../threads/work';
import { fileBytes } from './cast';
import { folderByPath } from './folders';
import { newGroup, record } from './history';
import { demandFolders } from './rights';
import { tagNew, tagsOf } from './tags';

const columns = {
  id: items.id,
  name: items.name,
  kind: items.kind,
  note: items.note,
  heading: items.heading,
  folderId: items.folderId,
  rating: items.rating,
  rights: items.rights,
  source: items.source,
  madeFor: items.madeFor,
  bound: items.bound,
  madeForName: castMembers.name,
  props: items.props,
  fields: items.fields,
  derivedFrom: items.derivedFrom,
  stillHash: items.stillHash,
  versionId: items.versionId,
  version: itemVersions.number,
  parts: itemVersions.parts,
  provenance: itemVersions.provenance,
  keysHash: itemVersions.keysHash,
  readingId: readings.id,
  motionHash: readings.motionHash,
  rigId: readings.rigId,
  facts: readings.facts,
  revision: items.revision,
  createdBy: items.createdBy,
  createdByName: people.name,
  createdAt: items.createdAt,
  updatedAt: items.updatedAt,
  binnedAt: items.binnedAt,
  // a pack shows its first member's version, which is not its own
  versions: sql<number>`(select count(*) from item_versions v where v.item_id = items.id)`.mapWith(Number),
  members: sql<number>`(select count(*) from pack_members m where m.pack_id = items.id)`.mapWith(Number),
};

/** Items by id, in the order asked for; what is not there is left out. */
export async function getItems(db: Queries, ids: readonly string[], personId?: string): Promise<ItemRow[]> {
  if (ids.length === 0) return [];
  const wanted = [...new Set(ids)];
  const rows = await db
    .select(columns)
    .from(items)
    .innerJoin(itemVersions, eq(itemVersions.id, items.versionId))
    .innerJoin(readings, eq(readings.id, itemVersions.readingId))
    .leftJoin(people, eq(people.id, items.createdBy))
    .leftJoin(castMembers, eq(castMembers.id, items.madeFor))
    .where(anyOf(items.id, wanted));
  const [named, packs, own] = await Promise.all([
    tagsOf(db, wanted),
    packsOf(db, wanted),
    personId === undefined
      ? []
      : db
          .select({ id: favourites.itemId })
          .from(favourites)
          .where(and(eq(favourites.personId, personId), anyOf(favourites.itemId, wanted))),
  ]);
  const favourite = new Set(own.map((f) => f.id));
  const byId = new Map(
    rows.map((r) => [
      r.id,
      {
        ...r,
        tags: named.get(r.id) ?? [],
        packs: packs.get(r.id) ?? [],
        favourite: favourite.has(r.id),
      },
    ]),
  );
  return ids.flatMap((id) => byId.get(id) ?? []);
}

async function packsOf(db: Queries, ids: readonly string[]): Promise<Map<string, { id: string; name: string }[]>> {
  const rows = await db
    .select({ itemId: packMembers.itemId, id: items.id, name: items.name })
    .from(packMembers)
    .innerJoin(items, eq(items.id, packMembers.packId))
    .where(and(anyOf(packMembers.itemId, ids), isNull(items.binnedAt)))
    .orderBy(asc(items.name));
  const out = new Map<string, { id: string; name: string }[]>();
  for (const { itemId, id, name } of rows) out.set(itemId, [...(out.get(itemId) ?? []), { id, name }]);
  return out;
}

export async function getItem(db: Queries, id: string, personId?: string): Promise<ItemRow> {
  const [row] = await getItems(db, [id], personId);
  if (!row) throw notFound('The item');
  return row;
}

export interface NewItem {
  name: string;
  kind: ItemKind;
  note?: string | undefined;
  heading?: string | undefined;
  folder?: string | undefined;
  folderId?: string | null;
  tags?: readonly string[] | undefined;
  rights?: Rights | undefined;
  source?: string | undefined;
  madeFor?: string | null;
  derivedFrom?: string | null;
  parts?: readonly string[];
  rigId: string;
  clip: ReadClip;
  provenance: Provenance;
  personId: string;
  /** Items made by one action share it. */
  groupId?: string;
}

/** Keeps a motion under its address; equal motions are kept once. */
export async function keepMotion(db: Queries, clip: ReadClip): Promise<string> {
  const hash = clip.address;
  await db.insert(motions).ignore().values({
    hash,
    frameCount: clip.facts.frameCount,
    fps: clip.facts.fps,
    packed: clip.packed,
    size: clip.packed.length,
  });
  return hash;
}

/** Keeps the keys that a motion was made of under their address; null for a motion without. */
export async function keepKeys(db: Queries, { keys }: ReadClip): Promise<string | null> {
  if (keys === undefined) return null;
  const bytes = new TextEncoder().encode(JSON.stringify(keys));
  const hash = sha256(bytes);
  await insertFile(db, hash, 'application/json', bytes);
  return hash;
}

/** The keys that an item's motion was made of; null where it is samples alone. */
export const keysOf = async (db: Queries, { keysHash }: Pick<ItemRow, 'keysHash'>): Promise<CutoutKeys | null> =>
  keysHash === null ? null : JSON.parse(new TextDecoder().decode((await fileBytes(db, keysHash)).bytes));

/** Keeps a motion with what was read off it; the same motion on the same rig is read once. */
export async function keepReading(db: Queries, rigId: string, clip: ReadClip): Promise<string> {
  const motionHash = await keepMotion(db, clip);
  const id = newId();
  await db.insert(readings).ignore().values({
    id,
    motionHash,
    rigId,
    facts: clip.facts,
    strip: clip.strip,
    descriptor: clip.descriptor,
    poses: clip.poses,
    sketch: clip.sketch,
  });
  const [row] = await db
    .select({ id: readings.id })
    .from(readings)
    .where(and(eq(readings.motionHash, motionHash), eq(readings.rigId, rigId)));
  return row!.id;
}

/**
 * Adds an item.
 * @throws Refusal 403 where the person may not change what lies in its folder: nothing gets in past this
 */
export async function addItem(db: Queries, item: NewItem): Promise<ItemRow> {
  const folderId = item.folderId ?? (item.folder ? await folderByPath(db, item.folder, item.personId) : null);
  await demandFolders(db, item.personId, [folderId]);
  const readingId = await keepReading(db, item.rigId, item.clip);
  const id = newId();
  const versionId = newId();
  await db.insert(itemVersions).values({
    id: versionId,
    itemId: id,
    number: 1,
    readingId,
    provenance: item.provenance,
    parts: [...(item.parts ?? [])],
    keysHash: await keepKeys(db, item.clip),
    createdBy: item.personId,
  });
  await db.insert(items).values({
    id,
    kind: item.kind,
    name: item.name.slice(0, 200),
    note: (item.note ?? '').slice(0, 4000),
    heading: (item.heading ?? '').slice(0, 200),
    folderId,
    versionId,
    rights: item.rights ?? 'unknown',
    source: (item.source ?? '').slice(0, 300),
    madeFor: item.madeFor ?? null,
    derivedFrom: item.derivedFrom ?? null,
    createdBy: item.personId,
  });
  await tagNew(db, id, item.tags ?? []);
  await record(db, [
    {
      subject: 'item',
      subjectId: id,
      groupId: item.groupId ?? newGroup(),
      personId: item.personId,
      action: 'add',
      label: `Added ${item.name}`,
    },
  ]);
  return getItem(db, id);
}

/** Strips of many readings at once, in the order found. */
export const stripsOf = (db: Queries, readingIds: readonly string[]): Promise<{ id: string; strip: Uint8Array }[]> =>
  readingIds.length === 0
    ? Promise.resolve([])
    : db
        .select({ id: readings.id, strip: readings.strip })
        .from(readings)
        .where(inArray(readings.id, [...readingIds]));

export async function motionBytes(db: Queries, hash: string): Promise<Uint8Array> {
  const row = (await db.select({ packed: motions.packed }).from(motions).where(eq(motions.hash, hash)))[0];
  if (!row) throw notFound('The motion');
  return row.packed;
}
