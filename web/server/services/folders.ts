import { and, eq, isNull } from 'drizzle-orm';
import type { Queries } from '../db/client';
import { folders } from '../db/schema';
import { newId } from '../ids';

export interface FolderRow {
  id: string;
  parentId: string | null;
  name: string;
}

export const listFolders = (db: Queries): Promise<FolderRow[]> =>
  db.select({ id: folders.id, parentId: folders.parentId, name: folders.name }).from(folders).orderBy(folders.name);

/** Finds or makes a folder by its path, "Deck work / Ropes". */
export async function folderByPath(db: Queries, path: string): Promise<string | null> {
  let parentId: string | null = null;
  for (const name of path
    .split('/')
    .map((s) => s.trim())
    .filter(Boolean)) {
    const same = parentId === null ? isNull(folders.parentId) : eq(folders.parentId, parentId);
    const found = (
      await db
        .select({ id: folders.id })
        .from(folders)
        .where(and(same, eq(folders.name, name.slice(0, 160))))
    )[0];
    const id: string = found?.id ?? newId();
    if (!found) await db.insert(folders).values({ id, parentId, name: name.slice(0, 160) });
    parentId = id;
  }
  return parentId;
}
