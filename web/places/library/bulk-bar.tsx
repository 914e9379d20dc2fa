'use client';

import { useQuery } from '@tanstack/react-query';
import { ChevronsRight, Columns2, Layers, Tags, Trash2, X } from 'lucide-react';
import { DropdownMenu, Popover } from 'radix-ui';
import { type ReactNode, useCallback, useState } from 'react';
import { toast } from 'sonner';
import { API, getJson, sendJson } from '@/client/api';
import { useEdit, useFolders, useRefresh, useTags } from '@/client/queries';
import { useMay, useMe } from '@/client/session';
import { useUndo } from '@/client/undo';
import { RIGHTS_WORDS } from '@/client/words';
import type { Item, ItemChange, Rights } from '@/contract';
import { MOTION_KINDS } from '@/kinds/kinds';
import { many } from '@/naming/counts';
import { FitManyDialog } from '@/parts/fit-many-dialog';
import { Button } from '@/ui/button';
import { inputLook } from '@/ui/field';
import { pathOf } from './folder-tree';
import { RenameDialog } from './rename-dialog';
import { type Step, useSteps } from './sequence-line';

interface BulkBarProps {
  ids: readonly string[];
  loaded: (id: string) => Item | undefined;
  bin: boolean;
  onClear: () => void;
  onCompare: () => void;
  onBin: () => void;
  onDestroy: () => void;
}

const menu = 'z-50 max-h-96 min-w-44 overflow-auto rounded-lg border border-line bg-raised p-1 shadow-xl';
const row = 'rounded px-2 py-1 outline-none select-none data-highlighted:bg-panel';

/** What can be done with everything that is chosen, each as one step that can be undone. */
export function BulkBar({ ids, loaded, bin, onClear, onCompare, onBin, onDestroy }: BulkBarProps) {
  const edit = useEdit();
  const refresh = useRefresh();
  const push = useUndo((s) => s.push);
  const setSteps = useSteps();
  const mayChange = useMay('animator');
  const mayCurate = useMay('librarian');
  const { data: tags = [] } = useTags();
  const { data: folders = [] } = useFolders();
  const [renaming, setRenaming] = useState(false);
  const [fitting, setFitting] = useState(false);
  const me = useMe();
  const [tag, setTag] = useState('');
  const [folder, setFolder] = useState('');
  const n = ids.length;
  const all = (change: ItemChange, label: string): void =>
    edit.mutate({ edits: ids.map((id) => ({ id, change })), label });
  const { data: items } = useQuery({
    queryKey: ['items', 'some', ids],
    queryFn: async () => {
      const out: Item[] = [];
      for (let i = 0; i < ids.length; i += 400)
        out.push(...(await getJson<Item[]>(`${API}/items/some?ids=${ids.slice(i, i + 400).join(',')}`)));
      return out;
    },
    enabled: renaming,
  });
  const folderOf = useCallback((i: Item) => pathOf(folders, i.folderId), [folders]);
  const pack = async (): Promise<void> => {
    const first = loaded(ids[0]!)?.name ?? 'Pack';
    try {
      const made = await sendJson<Item>('POST', `${API}/packs`, { name: `${first} and ${n - 1} more`, ids });
      push({
        label: `Made the pack ${made.name}`,
        undo: () => sendJson('PATCH', `${API}/items/${made.id}`, { change: { binned: true } }),
      });
      toast(`${made.name} holds ${many(made.members, 'item')}`);
      refresh();
    } catch (e) {
      toast.error((e as Error).message);
    }
  };
  return (
    <div
      role="toolbar"
      aria-label="For everything selected"
      className="mx-4 mb-2 flex flex-wrap items-center gap-1 rounded-lg border border-brass/60 bg-raised px-3 py-1.5"
    >
      <span className="mr-1 flex items-center gap-1 font-semibold">
        {n} selected
        <button
          type="button"
          aria-label="Clear selection"
          title="Clear selection"
          onClick={onClear}
          className="rounded p-1 text-muted hover:text-ink"
        >
          <X size={14} />
        </button>
      </span>
      {mayChange && !bin && (
        <>
          <Drop label="Tags" icon={<Tags size={13} />}>
            <form
              className="flex gap-1.5 p-1"
              onSubmit={(e) => {
                e.preventDefault();
                if (tag.trim()) all({ addTags: [tag.trim()] }, `Added ${tag.trim()} to ${many(n, 'item')}`);
                setTag('');
              }}
            >
              <input
                aria-label="Tag to add to all of them"
                list="all-tags"
                placeholder="Tag"
                className={`${inputLook} w-40 py-0.5`}
                value={tag}
                onChange={(e) => setTag(e.target.value)}
              />
              <datalist id="all-tags">
                {tags.map((t) => (
                  <option key={t.id} value={t.name} />
                ))}
              </datalist>
              <Button type="submit" size="small">
                Add
              </Button>
              <Button
                size="small"
                onClick={() => {
                  if (tag.trim()) all({ removeTags: [tag.trim()] }, `Took ${tag.trim()} off ${many(n, 'item')}`);
                  setTag('');
                }}
              >
                Remove
              </Button>
            </form>
          </Drop>
          <Drop label="Folder">
            <form
              className="flex gap-1.5 p-1"
              onSubmit={(e) => {
                e.preventDefault();
                all(
                  { folder },
                  folder ? `Moved ${many(n, 'item')} to ${folder}` : `Took ${many(n, 'item')} out of their folders`,
                );
              }}
            >
              <input
                aria-label="Folder for all of them"
                list="all-folders"
                placeholder="Folder / in folder"
                className={`${inputLook} w-56 py-0.5`}
                value={folder}
                onChange={(e) => setFolder(e.target.value)}
              />
              <datalist id="all-folders">
                {folders.map((f) => (
                  <option key={f.id} value={pathOf(folders, f.id)} />
                ))}
              </datalist>
              <Button type="submit" size="small">
                Move
              </Button>
            </form>
          </Drop>
          <Button size="small" onClick={() => setRenaming(true)}>
            Rename
          </Button>
          <Menu label="Kind">
            {MOTION_KINDS.map((k) => (
              <DropdownMenu.Item
                key={k}
                className={row}
                onSelect={() => all({ kind: k }, `Made ${many(n, 'item')} ${k}s`)}
              >
                {k}
              </DropdownMenu.Item>
            ))}
          </Menu>
          <Menu label="Rights">
            {(Object.keys(RIGHTS_WORDS) as Rights[]).map((r) => (
              <DropdownMenu.Item
                key={r}
                className={row}
                onSelect={() => all({ rights: r }, `Set the rights of ${many(n, 'item')}`)}
              >
                {RIGHTS_WORDS[r]}
              </DropdownMenu.Item>
            ))}
          </Menu>
          <Menu label="Stars">
            {[5, 4, 3, 2, 1, 0].map((s) => (
              <DropdownMenu.Item
                key={s}
                className={row}
                onSelect={() => all({ rating: s }, `Gave ${many(n, 'item')} ${s} stars`)}
              >
                {s === 0 ? 'none' : '★'.repeat(s)}
              </DropdownMenu.Item>
            ))}
          </Menu>
          <Button size="small" onClick={() => void pack()} hint="Groups them under one entry that you can open">
            <Layers size={13} /> Pack
          </Button>
          <Button
            size="small"
            onClick={() =>
              void setSteps(
                ids.slice(1).map((id, i): Step => [ids[i]!, id]),
                true,
                `Put ${many(n, 'item')} in sequence`,
              )
            }
            hint="In the order you chose them, each leads to the next"
          >
            <ChevronsRight size={13} /> Sequence
          </Button>
          <Button
            size="small"
            onClick={() => setFitting(true)}
            hint="Fits all of them onto one or more characters as one job"
          >
            Fit to …
          </Button>
        </>
      )}
      <Button
        size="small"
        onClick={onCompare}
        disabled={n > 6}
        keys="B"
        hint="Plays up to six of them side by side, in step"
      >
        <Columns2 size={13} /> Compare
      </Button>
      {mayChange && (
        <Button size="small" onClick={onBin} keys="Del">
          {bin ? 'Restore' : 'Move to bin'}
        </Button>
      )}
      {bin && mayCurate && (
        <Button size="small" onClick={onDestroy}>
          <Trash2 size={13} /> Destroy
        </Button>
      )}
      {fitting && (
        <FitManyDialog
          onClose={() => setFitting(false)}
          items={ids.map((id) => loaded(id) ?? { id, name: 'item', kind: 'clip' as const })}
          castIds={me.performerId ? [me.performerId] : []}
        />
      )}
      <RenameDialog open={renaming} onOpenChange={setRenaming} items={items ?? []} folderOf={folderOf} />
    </div>
  );
}

const trigger =
  'inline-flex items-center gap-1.5 rounded-md border border-line bg-raised px-2 py-0.5 font-medium hover:border-muted';

function Drop({ label, icon, children }: { label: string; icon?: ReactNode; children: ReactNode }) {
  return (
    <Popover.Root>
      <Popover.Trigger className={trigger}>
        {icon} {label}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content sideOffset={4} align="start" className={menu}>
          {children}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function Menu({ label, children }: { label: string; children: ReactNode }) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger className={trigger}>{label}</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content sideOffset={4} align="start" className={menu}>
          {children}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
