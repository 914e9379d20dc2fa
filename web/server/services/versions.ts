import { desc, eq, max } from 'drizzle-orm';
import type { ItemRow, Provenance, VersionRow } from '../../contract';
import { kindOf } from '../../kinds/kinds';
import type { Person } from '../auth/person';
import type { Database, Queries, Transaction } from '../db/client';
import { items, itemVersions, people, readings } from '../db/schema';
import { notFound, Refusal } from '../errors';
import { newId } from '../ids';
import type { ReadClip } from '../threads/work';
import { editItems } from './edits';
import { newGroup, record } from './history';
import { getItem, keepKeys, keepReading } from './items';
import { demandFolders } from './rights';

/** All versions of an item, newest first. */
export async function listVersions(db: Queries, itemId: string): Promise<VersionRow[]> {
  const item = await getItem(db, itemId);
  const rows = await db
    .select({
      id: itemVersions.id,
      number: itemVersions.number,
      readingId: itemVersions.readingId,
      motionHash: readings.motionHash,
      rigId: readings.rigId,
      facts: readings.facts,
      note: itemVersions.note,
      provenance: itemVersions.provenance,
      byName: people.name,
      createdAt: itemVersions.createdAt,
    })
    .from(itemVersions)
    .innerJoin(readings, eq(readings.id, itemVersions.readingId))
    .leftJoin(people, eq(people.id, itemVersions.createdBy))
    .where(eq(itemVersions.itemId, itemId))
    .orderBy(desc(itemVersions.number));
  return rows.map(({ facts, ...r }) => ({
    ...r,
    frames: facts.frameCount,
    fps: facts.fps,
    current: r.id === item.versionId,
  }));
}

export interface NewVersion {
  rigId: string;
  clip: ReadClip;
  provenance: Provenance;
  note: string;
  parts?: readonly string[];
}

/** Saves over an item: a new version comes into force, the old ones stay. */
export async function saveOver(
  db: Database,
  person: Person,
  itemId: string,
  version: NewVersion,
  /** The version the editor saw; another one in force meanwhile is a conflict. */
  seen: string,
): Promise<{ item: ItemRow; group: string }> {
  const group = await db.transaction((tx) => saveOverIn(tx, person, itemId, version, seen));
  return { item: await getItem(db, itemId, person.id), group };
}

/** The same within a transaction that does more. */
export async function saveOverIn(
  tx: Transaction,
  person: Pick<Person, 'id' | 'role' | 'name'>,
  itemId: string,
  version: NewVersion,
  seen: string,
  /** The step it is a part of; one of its own where left out. */
  group = newGroup(),
): Promise<string> {
  await tx.select({ id: items.id }).from(items).where(eq(items.id, itemId)).for('update');
  const item = await getItem(tx, itemId);
  await demandFolders(tx, person, [item.folderId]);
  if (!kindOf(item).versions) throw new Refusal(400, 'no-versions', `${item.name} ${kindOf(item).instead}.`);
  if (item.versionId !== seen)
    throw new Refusal(
      409,
      'changed-meanwhile',
      `${item.name}: somebody saved version ${item.version} meanwhile. Look at it first, then save over it or keep yours as a new item.`,
    );
  const readingId = await keepReading(tx, version.rigId, version.clip);
  const [last] = await tx
    .select({ n: max(itemVersions.number) })
    .from(itemVersions)
    .where(eq(itemVersions.itemId, itemId));
  const id = newId();
  await tx.insert(itemVersions).values({
    id,
    itemId,
    number: (last?.n ?? 0) + 1,
    readingId,
    provenance: version.provenance,
    parts: [...(version.parts ?? [])],
    keysHash: await keepKeys(tx, version.clip),
    note: version.note.slice(0, 500),
    createdBy: person.id,
  });
  await tx
    .update(items)
    .set({ versionId: id, updatedAt: new Date(), revision: item.revision + 1 })
    .where(eq(items.id, itemId));
  await record(tx, [
    {
      subject: 'item',
      subjectId: itemId,
      groupId: group,
      personId: person.id,
      action: 'version',
      label: `Saved version ${(last?.n ?? 0) + 1} of ${item.name}`,
      before: { versionId: item.versionId },
      after: { versionId: id },
    },
  ]);
  return group;
}

/** Puts an earlier (or later) version in force. */
export async function restoreVersion(
  db: Database,
  person: Person,
  itemId: string,
  versionId: string,
): Promise<{ item: ItemRow; group: string }> {
  const [version] = await db.select().from(itemVersions).where(eq(itemVersions.id, versionId));
  if (version?.itemId !== itemId) throw notFound('The version');
  const { name } = await getItem(db, itemId);
  const label = `Restored version ${version.number} of ${name}`;
  const { group, items: rows } = await editItems(db, person, [{ id: itemId, change: { versionId } }], label, 'restore');
  return { item: rows[0]!, group };
}
