import type { Folder } from '@/contract';

/** Path of a folder: "Ferry / Deck". */
export function pathOf(folders: readonly Folder[], id: string | null): string {
  const names: string[] = [];
  for (let f = folders.find((x) => x.id === id); f && names.length < 64; f = folders.find((x) => x.id === f!.parentId))
    names.unshift(f.name);
  return names.join(' / ');
}

export interface TreeRow {
  folder: Folder;
  depth: number;
  /** Items in it and below it. */
  total: number;
}

/** Folders as they are drawn, each below its parent. */
export function treeOf(folders: readonly Folder[]): TreeRow[] {
  const children = new Map<string | null, Folder[]>();
  for (const f of folders) children.set(f.parentId, [...(children.get(f.parentId) ?? []), f]);
  const out: TreeRow[] = [];
  const visit = (parentId: string | null, depth: number): number => {
    let sum = 0;
    for (const folder of depth < 64 ? (children.get(parentId) ?? []) : []) {
      const row = { folder, depth, total: 0 };
      out.push(row);
      row.total = folder.n + visit(folder.id, depth + 1);
      sum += row.total;
    }
    return sum;
  };
  visit(null, 0);
  return out;
}
