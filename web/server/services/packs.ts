import { asc, eq, inArray } from 'drizzle-orm';
import type { ItemRow } from '../../contract';
import { kindOf } from '../../kinds/kinds';
import { many } from '../../naming/counts';
import type { Person } from '../auth/person';
import type { Database, Queries } from '../db/client';
import { items, packMembers } from '../db/schema';
import { Refusal } from '../errors';
import { newId } from '../ids';
import { newGroup, record } from './history';
import { getItem, getItems } from './items';
import { demandFolders } from './rights';

const MOST_MEMBERS = 2000;

/** Puts items together as a pack: one entry with a count, which opens; its members stay usable alone. */
export async function makePack(
  db: Database,
  person: Pick<Person, 'id' | 'role' | 'name'>,
  name: string,
  itemIds: readonly string[],
): Promise<ItemRow> {
  return db.transaction((tx) => makePackIn(tx, person, name, itemIds));
}

export async function makePackIn(
  db: Queries,
  person: Pick<Person, 'id' | 'role' | 'name'>,
  name: string,
  itemIds: readonly string[],
  groupId = newGroup(),
): Promise<ItemRow> {
  const members = (await getItems(db, [...new Set(itemIds)])).filter((i) => kindOf(i).joins);
  const first = members[0];
  if (!first) throw new Refusal(400, 'empty', 'A pack needs at least one item, and packs hold no packs.');
  if (members.length > MOST_MEMBERS) throw new Refusal(400, 'too-many', `A pack holds at most ${MOST_MEMBERS} items.`);
  const folderId = members.every((m) => m.folderId === first.folderId) ? first.folderId : null;
  await demandFolders(db, person, [folderId]);
  const id = newId();
  await db
    .insert(items)
    .values({ id, kind: 'pack', name: name.slice(0, 200), folderId, versionId: first.versionId, createdBy: person.id });
  await db.insert(packMembers).values(members.map((m, position) => ({ packId: id, itemId: m.id, position })));
  await record(db, [
    {
      subject: 'item',
      subjectId: id,
      groupId,
      personId: person.id,
      action: 'add',
      label: `Put ${many(members.length, 'item')} together as ${name}`,
    },
  ]);
  return getItem(db, id, person.id);
}

/** Ids of a pack's members, in their order. */
export const memberIds = async (db: Queries, packId: string): Promise<string[]> =>
  (
    await db
      .select({ id: packMembers.itemId })
      .from(packMembers)
      .where(eq(packMembers.packId, packId))
      .orderBy(asc(packMembers.position))
  ).map((r) => r.id);

/** Makes a pack hold exactly these items in this order. */
export async function setMembers(
  db: Database,
  person: Person,
  packId: string,
  itemIds: readonly string[],
): Promise<ItemRow> {
  await db.transaction(async (tx) => {
    const pack = await getItem(tx, packId);
    if (kindOf(pack).content !== 'members') throw new Refusal(400, 'no-pack', `${pack.name} is not a pack.`);
    await demandFolders(tx, person, [pack.folderId]);
    const members = (await getItems(tx, [...new Set(itemIds)])).filter((i) => kindOf(i).joins);
    if (members.length === 0)
      throw new Refusal(400, 'empty', 'A pack needs at least one item. Move the pack to the bin instead.');
    await tx.delete(packMembers).where(eq(packMembers.packId, packId));
    await tx.insert(packMembers).values(members.map((m, position) => ({ packId, itemId: m.id, position })));
    await tx
      .update(items)
      .set({ versionId: members[0]!.versionId, updatedAt: new Date(), revision: pack.revision + 1 })
      .where(eq(items.id, packId));
    await record(tx, [
      {
        subject: 'item',
        subjectId: packId,
        groupId: newGroup(),
        personId: person.id,
        action: 'members',
        label: `Changed what ${pack.name} holds`,
      },
    ]);
  });
  return getItem(db, packId, person.id);
}

/** Packs that hold any of these items. */
export const packsWith = async (db: Queries, ids: readonly string[]): Promise<string[]> =>
  ids.length === 0
    ? []
    : (
        await db
          .selectDistinct({ id: packMembers.packId })
          .from(packMembers)
          .where(inArray(packMembers.itemId, [...ids]))
      ).map((r) => r.id);
