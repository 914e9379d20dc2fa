import { and, eq, inArray, sql } from 'drizzle-orm';
import type { Conflict, CustomField, Edit, ItemChange, ItemRow } from '../../contract';
import type { Person } from '../auth/person';
import type { Database, Queries } from '../db/client';
import { changes, favourites, items, itemVersions } from '../db/schema';
import { notFound, Refusal } from '../errors';
import { checkedFields, listFields } from './fields';
import { type FolderRow, folderByPath, listFolders, pathIn } from './folders';
import { newGroup, record } from './history';
import { getItems } from './items';
import { demandFolders } from './rights';
import { setTagsOf, tidyTag } from './tags';

export class EditConflict extends Refusal {
  constructor(readonly conflicts: readonly Conflict[]) {
    const { name, field } = conflicts[0]!;
    super(
      409,
      'changed-meanwhile',
      `${name}: someone changed the ${field} in the meantime${conflicts.length > 1 ? `, and ${conflicts.length - 1} more` : ''}. Your change was not saved; both versions are shown.`,
      { conflicts },
    );
  }
}

const FIELDS = [
  'name',
  'note',
  'heading',
  'kind',
  'folder',
  'tags',
  'rating',
  'rights',
  'source',
  'madeFor',
  'bound',
  'props',
  'fields',
  'binned',
  'stillHash',
  'versionId',
] as const;
type Field = (typeof FIELDS)[number];

function stateOf(item: ItemRow, folders: readonly FolderRow[]): Record<Field, unknown> {
  return {
    name: item.name,
    note: item.note,
    heading: item.heading,
    kind: item.kind,
    folder: pathIn(folders, item.folderId),
    tags: item.tags,
    rating: item.rating,
    rights: item.rights,
    source: item.source,
    madeFor: item.madeFor,
    bound: item.bound,
    props: item.props,
    fields: item.fields,
    binned: item.binnedAt !== null,
    stillHash: item.stillHash,
    versionId: item.versionId,
  };
}

const sorted = (x: unknown): unknown =>
  Array.isArray(x) && x.every((y) => typeof y === 'string')
    ? [...x].sort()
    : x !== null && typeof x === 'object' && !Array.isArray(x)
      ? Object.fromEntries(Object.entries(x).sort(([a], [b]) => (a < b ? -1 : 1)))
      : x;
const same = (a: unknown, b: unknown): boolean => JSON.stringify(sorted(a)) === JSON.stringify(sorted(b));

/** Tags as they will be: given whole, or by what comes and goes. */
function tagsAfter(before: readonly string[], change: ItemChange): string[] | undefined {
  if (!change.tags && !change.addTags && !change.removeTags) return undefined;
  const gone = new Set((change.removeTags ?? []).map(tidyTag));
  const whole = (change.tags ?? before).map(tidyTag);
  return [...new Set([...whole, ...(change.addTags ?? []).map(tidyTag)])]
    .filter((t) => t !== '' && !gone.has(t))
    .sort();
}

export interface Edited {
  /** For undo. */
  group: string;
  items: ItemRow[];
  /** How many really changed. */
  changed: number;
}

/** Most items that one action may change. */
export const MOST_EDITS = 5000;

/**
 * Changes items, all or none, as one step of history. Fields that nobody else touched are merged; a field that holds
 * something else than the editor saw is a conflict, and then nothing is written.
 */
export async function editItems(
  db: Database,
  person: Person,
  edits: readonly Edit[],
  label = '',
  action = 'edit',
): Promise<Edited> {
  if (edits.length > MOST_EDITS)
    throw new Refusal(400, 'too-many', `At most ${MOST_EDITS} items can be changed at once.`);
  const group = newGroup();
  const ids = edits.map((e) => e.id);
  let changed = 0;
  await db.transaction(async (tx) => {
    // the rows are held until the end, so that two editors go one after the other
    await tx.select({ id: items.id }).from(items).where(inArray(items.id, ids)).orderBy(items.id).for('update');
    const rows = new Map((await getItems(tx, ids)).map((r) => [r.id, r]));
    for (const id of ids) if (!rows.has(id)) throw notFound('The item');
    await demandFolders(
      tx,
      person,
      [...rows.values()].map((r) => r.folderId),
    );
    const folders = await listFolders(tx);
    const conflicts: Conflict[] = [];
    const entries: Parameters<typeof record>[1][number][] = [];
    let fieldsKnown: CustomField[] | undefined;
    const paths = new Map<string, string | null>();
    const newTags = new Map<string, readonly string[]>();
    /** What is written, and into which items: most edits of many write the same into all. */
    const writes = new Map<string, { set: Partial<typeof items.$inferInsert>; ids: string[] }>();
    for (const { id, change, expected } of edits) {
      const item = rows.get(id)!;
      const before = stateOf(item, folders);
      const { addTags: _add, removeTags: _remove, tags: _tags, ...plain } = change;
      const tags = tagsAfter(item.tags, change);
      const wanted: Record<string, unknown> = { ...plain, ...(tags && { tags }) };
      if (change.folder !== undefined) wanted.folder = tidyPath(change.folder);
      if (change.fields !== undefined) {
        fieldsKnown ??= await listFields(tx);
        wanted.fields = { ...item.fields, ...checkedFields(fieldsKnown, item.fields, change.fields) };
      }
      const touched = FIELDS.filter((f) => wanted[f] !== undefined && !same(wanted[f], before[f]));
      for (const field of touched) {
        const seen = expected?.[field];
        if (seen !== undefined && !same(field === 'folder' ? tidyPath(String(seen)) : seen, before[field]))
          conflicts.push({ id, name: item.name, field, theirs: before[field], yours: wanted[field] });
      }
      if (touched.length === 0 || conflicts.length > 0) continue;
      changed++;
      const set: Partial<typeof items.$inferInsert> = {};
      for (const field of touched) {
        if (field === 'versionId') await demandOwnVersion(tx, id, String(wanted.versionId));
        if (field === 'folder') {
          const path = wanted.folder as string;
          if (!paths.has(path)) paths.set(path, await folderByPath(tx, path, person));
          set.folderId = paths.get(path)!;
        } else if (field === 'binned') set.binnedAt = wanted.binned ? new Date() : null;
        else if (field === 'tags') newTags.set(id, tags!);
        else Object.assign(set, { [field]: wanted[field] });
      }
      const key = JSON.stringify(set);
      const write = writes.get(key) ?? { set, ids: [] };
      write.ids.push(id);
      writes.set(key, write);
      entries.push({
        subject: 'item',
        subjectId: id,
        groupId: group,
        personId: person.id,
        action,
        label: label || labelFor(item.name, touched, wanted),
        before: Object.fromEntries(touched.map((f) => [f, before[f]])),
        after: Object.fromEntries(touched.map((f) => [f, wanted[f]])),
      });
    }
    if (conflicts.length > 0) throw new EditConflict(conflicts);
    await demandFolders(tx, person, paths.values());
    await setTagsOf(tx, newTags);
    for (const write of writes.values())
      await tx
        .update(items)
        .set({ ...write.set, updatedAt: new Date(), revision: sql`${items.revision} + 1` })
        .where(inArray(items.id, write.ids));
    await record(tx, entries);
  });
  return { group, items: await getItems(db, ids, person.id), changed };
}

async function demandOwnVersion(db: Queries, itemId: string, versionId: string): Promise<void> {
  const [own] = await db
    .select({ id: itemVersions.id })
    .from(itemVersions)
    .where(and(eq(itemVersions.id, versionId), eq(itemVersions.itemId, itemId)));
  if (!own) throw notFound('The version');
}

const tidyPath = (path: string): string =>
  path
    .split('/')
    .map((s) => s.trim())
    .filter(Boolean)
    .join(' / ');

function labelFor(name: string, touched: readonly Field[], wanted: Record<string, unknown>): string {
  if (touched.length > 1) return `Changed ${touched.join(', ')} of ${name}`;
  switch (touched[0]) {
    case 'name':
      return `Renamed ${name} to ${String(wanted.name)}`;
    case 'binned':
      return wanted.binned ? `Moved ${name} to the bin` : `Restored ${name}`;
    case 'folder':
      return `Moved ${name} to ${String(wanted.folder) || 'no folder'}`;
    default:
      return `Changed the ${touched[0]} of ${name}`;
  }
}

/** Changes one item. */
export async function changeItem(
  db: Database,
  person: Person,
  id: string,
  change: ItemChange,
  expected?: ItemChange,
): Promise<{ item: ItemRow; group: string }> {
  const { group, items: rows } = await editItems(db, person, [{ id, change, expected }]);
  return { item: rows[0]!, group };
}

/**
 * Takes an action back: every field it wrote gets its former value, unless somebody has changed that field since, which
 * is a conflict. Taking back is an action of its own and can be taken back too.
 */
export async function undoGroup(db: Database, person: Person, groupId: string): Promise<Edited> {
  const rows = await db
    .select()
    .from(changes)
    .where(and(eq(changes.groupId, groupId), eq(changes.subject, 'item')))
    .orderBy(changes.seq);
  if (rows.length === 0) throw notFound('The action');
  const edits = rows.map((r): Edit => {
    if (r.action === 'add') return { id: r.subjectId, change: { binned: true } };
    return { id: r.subjectId, change: (r.before ?? {}) as ItemChange, expected: (r.after ?? {}) as ItemChange };
  });
  const first = rows.find((r) => r.label !== '')?.label ?? 'a change';
  return editItems(db, person, edits, `Undid: ${first}`.slice(0, 300), 'undo');
}

/** Puts an item among a person's favourites, or takes it out. */
export async function setFavourite(db: Database, person: Person, itemId: string, on: boolean): Promise<void> {
  const [item] = await db.select({ name: items.name }).from(items).where(eq(items.id, itemId));
  if (!item) throw notFound('The item');
  await db.transaction(async (tx) => {
    if (on) await tx.insert(favourites).ignore().values({ personId: person.id, itemId });
    else await tx.delete(favourites).where(and(eq(favourites.personId, person.id), eq(favourites.itemId, itemId)));
    await record(tx, [
      { subject: 'item', subjectId: itemId, groupId: newGroup(), personId: person.id, action: 'favourite' },
    ]);
  });
}
