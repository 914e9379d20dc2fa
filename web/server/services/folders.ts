import { and, count, eq, inArray, isNull } from 'drizzle-orm';
import { many } from '../../naming/counts';
import type { Person } from '../auth/person';
import type { Queries } from '../db/client';
import { folders, items } from '../db/schema';
import { notFound, Refusal } from '../errors';
import { newId } from '../ids';
import { newGroup, record } from './history';
import { demandFolders, type Writer } from './rights';

export interface FolderRow {
  id: string;
  parentId: string | null;
  name: string;
  restricted: boolean;
  hidden: boolean;
}

export const listFolders = (db: Queries): Promise<FolderRow[]> =>
  db
    .select({
      id: folders.id,
      parentId: folders.parentId,
      name: folders.name,
      restricted: folders.restricted,
      hidden: folders.hidden,
    })
    .from(folders)
    .orderBy(folders.name);

/** How many items lie in each folder itself, those in the bin left out. */
export async function folderCounts(db: Queries): Promise<Map<string, number>> {
  const rows = await db
    .select({ id: items.folderId, n: count() })
    .from(items)
    .where(isNull(items.binnedAt))
    .groupBy(items.folderId);
  return new Map(rows.flatMap((r) => (r.id === null ? [] : [[r.id, r.n] as const])));
}

const namesIn = (path: string): string[] =>
  path
    .split('/')
    .map((s) => s.trim().slice(0, 160))
    .filter(Boolean)
    .slice(0, 32);

/** The folders of a path as far as they are there, from the top down. */
async function foundOn(db: Queries, names: readonly string[]): Promise<string[]> {
  const found: string[] = [];
  for (const name of names) {
    const parent = found.at(-1);
    const same = parent === undefined ? isNull(folders.parentId) : eq(folders.parentId, parent);
    const [row] = await db
      .select({ id: folders.id })
      .from(folders)
      .where(and(same, eq(folders.name, name)));
    if (!row) break;
    found.push(row.id);
  }
  return found;
}

/** @throws Refusal 403 where the writer may not put anything into a folder, there or to be made, nor anything below it */
export async function demandPath(db: Queries, writer: Writer, path: string): Promise<void> {
  await demandFolders(db, writer, (await foundOn(db, namesIn(path))).slice(-1));
}

/**
 * Finds or makes a folder by its path, "Deck work / Ropes".
 * @throws Refusal 403 where the writer may not change what lies there; nothing is made then
 */
export async function folderByPath(db: Queries, path: string, writer: Writer): Promise<string | null> {
  const names = namesIn(path);
  const found = await foundOn(db, names);
  await demandFolders(db, writer, found.slice(-1));
  let parentId = found.at(-1) ?? null;
  for (const name of names.slice(found.length)) {
    const id = newId();
    await db.insert(folders).values({ id, parentId, name });
    await record(db, [
      {
        subject: 'folder',
        subjectId: id,
        groupId: newGroup(),
        personId: typeof writer === 'string' ? writer : writer.id,
        action: 'add',
        label: `Made the folder ${name}`,
      },
    ]);
    parentId = id;
  }
  return parentId;
}

/** Path of a folder as it is shown: "Ferry / Deck". */
export function pathIn(all: readonly FolderRow[], folderId: string | null): string {
  const byId = new Map(all.map((f) => [f.id, f]));
  const names: string[] = [];
  for (
    let f = folderId === null ? undefined : byId.get(folderId);
    f && names.length < 64;
    f = f.parentId === null ? undefined : byId.get(f.parentId)
  )
    names.unshift(f.name);
  return names.join(' / ');
}

/** The folder and everything below it. */
export function belowFolder(all: readonly FolderRow[], id: string): string[] {
  const children = new Map<string | null, string[]>();
  for (const f of all) children.set(f.parentId, [...(children.get(f.parentId) ?? []), f.id]);
  const out = [id];
  for (let i = 0; i < out.length && out.length <= all.length; i++) out.push(...(children.get(out[i]!) ?? []));
  return out;
}

export interface FolderChange {
  name?: string | undefined;
  parentId?: string | null | undefined;
}

/** Renames or moves a folder; a folder never ends up in itself, nor beside one of its name. */
export async function changeFolder(db: Queries, person: Person, id: string, change: FolderChange): Promise<FolderRow> {
  const all = await listFolders(db);
  const folder = all.find((f) => f.id === id);
  if (!folder) throw notFound('The folder');
  await demandFolders(db, person, [id, change.parentId ?? null]);
  const parentId = change.parentId === undefined ? folder.parentId : change.parentId;
  if (parentId !== null && !all.some((f) => f.id === parentId)) throw notFound('The folder to move it into');
  const name = change.name ?? folder.name;
  if (parentId !== null && belowFolder(all, id).includes(parentId))
    throw new Refusal(400, 'in-itself', 'A folder cannot be moved into itself.');
  if (all.some((f) => f.id !== id && f.parentId === parentId && f.name.toLowerCase() === name.toLowerCase()))
    throw new Refusal(409, 'name-taken', `There is a folder “${name}” there already.`);
  await db.update(folders).set({ name, parentId }).where(eq(folders.id, id));
  await record(db, [
    {
      subject: 'folder',
      subjectId: id,
      groupId: newGroup(),
      personId: person.id,
      action: 'edit',
      label: name !== folder.name ? `Renamed the folder ${folder.name} to ${name}` : `Moved the folder ${name}`,
      before: { name: folder.name, parentId: folder.parentId },
      after: { name, parentId },
    },
  ]);
  return { ...folder, name, parentId };
}

/** Removes a folder with nothing in it or below it. Items are never swept away with a folder. */
export async function removeFolder(db: Queries, person: Person, id: string): Promise<void> {
  const all = await listFolders(db);
  const folder = all.find((f) => f.id === id);
  if (!folder) throw notFound('The folder');
  const tree = belowFolder(all, id);
  await demandFolders(db, person, [id, ...tree]);
  const [inside] = await db.select({ n: count() }).from(items).where(inArray(items.folderId, tree));
  if ((inside?.n ?? 0) > 0)
    throw new Refusal(
      409,
      'not-empty',
      `“${folder.name}” holds ${many(inside!.n, 'item')}, some perhaps in the bin. Move them first.`,
    );
  await db.delete(folders).where(inArray(folders.id, tree));
  await record(db, [
    {
      subject: 'folder',
      subjectId: id,
      groupId: newGroup(),
      personId: person.id,
      action: 'remove',
      label: `Removed the empty folder ${folder.name}`,
    },
  ]);
}
