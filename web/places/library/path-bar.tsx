'use client';

import { ChevronDown } from 'lucide-react';
import { DropdownMenu } from 'radix-ui';
import { useFolders } from '@/client/queries';
import type { Folder } from '@/client/types';

interface PathBarProps {
  folderId: string | null;
  bin: boolean;
  shown: number;
  total: number;
  onFolder: (id: string | null) => void;
  onLeaveBin: () => void;
}

/** Where you are in the folders, and how much of everything is shown. */
export function PathBar({ folderId, bin, shown, total, onFolder, onLeaveBin }: PathBarProps) {
  const { data: folders = [] } = useFolders();
  const path: Folder[] = [];
  for (let f = folders.find((x) => x.id === folderId); f; f = folders.find((x) => x.id === f!.parentId))
    path.unshift(f);
  const tree = flatten(folders, null, 0);
  return (
    <div className="flex items-center gap-1.5 px-4 pt-3 pb-2">
      {bin ? (
        <>
          <span className="font-semibold">Bin</span>
          <button type="button" onClick={onLeaveBin} className="ml-2 text-brass-text hover:underline">
            back to the library
          </button>
        </>
      ) : (
        <DropdownMenu.Root>
          <DropdownMenu.Trigger
            className="flex items-center gap-1.5 rounded-md px-1.5 py-1 hover:bg-raised"
            aria-label={`${path.map((f) => f.name).join(' / ') || 'All items'}: choose a folder`}
          >
            {path.length === 0 && <span className="font-semibold">All items</span>}
            {path.map((f, i) => (
              <span key={f.id} className={i === path.length - 1 ? 'font-semibold' : 'text-muted'}>
                {f.name}
                {i < path.length - 1 && ' /'}
              </span>
            ))}
            <ChevronDown size={13} className="text-muted" />
          </DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content
              align="start"
              sideOffset={4}
              className="z-50 max-h-96 min-w-56 overflow-auto rounded-lg border border-line bg-raised p-1 shadow-xl"
            >
              <DropdownMenu.Item
                onSelect={() => onFolder(null)}
                className="rounded px-2 py-1.5 outline-none data-highlighted:bg-panel"
              >
                All items
              </DropdownMenu.Item>
              {tree.map(({ folder, depth }) => (
                <DropdownMenu.Item
                  key={folder.id}
                  onSelect={() => onFolder(folder.id)}
                  className="rounded px-2 py-1.5 outline-none data-highlighted:bg-panel"
                  style={{ paddingLeft: 8 + depth * 16 }}
                >
                  {folder.name}
                </DropdownMenu.Item>
              ))}
              {tree.length === 0 && (
                <p className="max-w-56 px-2 py-1.5 text-muted">
                  No folders yet. Give an item a folder on the left and it appears here.
                </p>
              )}
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
      )}
      <span className="ml-auto text-muted">
        {shown} of {total}
      </span>
    </div>
  );
}

function flatten(
  folders: readonly Folder[],
  parentId: string | null,
  depth: number,
): { folder: Folder; depth: number }[] {
  return folders
    .filter((f) => f.parentId === parentId)
    .flatMap((folder) => [{ folder, depth }, ...flatten(folders, folder.id, depth + 1)]);
}
