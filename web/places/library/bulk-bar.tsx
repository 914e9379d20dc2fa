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
import { FitManyDialog } from '@/parts/fit-many-dialog';
import { Button } from '@/ui/button';
import { inputLook } from '@/ui/field';
import { pathOf } from './folder-tree';
import { RenameDialog } from './rename-dialog';
import { type Step, useSteps } from './sequence-line';
import { bulkBar as texts } from './texts';

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
    const first = loaded(ids[0]!)?.name ?? texts.pack;
    try {
      const made = await sendJson<Item>('POST', `${API}/packs`, { name: texts.andMore(first, n - 1), ids });
      push({
        label: texts.madeThePack(made.name),
        undo: () => sendJson('PATCH', `${API}/items/${made.id}`, { change: { binned: true } }),
      });
      toast(texts.holds(made.name, made.members));
      refresh();
    } catch (e) {
      toast.error((e as Error).message);
    }
  };
  return (
    <div
      role="toolbar"
      aria-label={texts.forEverythingSelected}
      className="mx-4 mb-2 flex flex-wrap items-center gap-1 rounded-lg border border-brass/60 bg-raised px-3 py-1.5"
    >
      <span className="mr-1 flex items-center gap-1 font-semibold">
        {texts.selected(n)}
        <button
          type="button"
          aria-label={texts.clearSelection}
          title={texts.clearSelection}
          onClick={onClear}
          className="rounded p-1 text-muted hover:text-ink"
        >
          <X size={14} />
        </button>
      </span>
      {mayChange && !bin && (
        <>
          <Drop label={texts.tags} icon={<Tags size={13} />}>
            <form
              className="flex gap-1.5 p-1"
              onSubmit={(e) => {
                e.preventDefault();
                if (tag.trim()) all({ addTags: [tag.trim()] }, texts.addedTo(tag.trim(), n));
                setTag('');
              }}
            >
              <input
                aria-label={texts.tagToAddTo}
                list="all-tags"
                placeholder={texts.tag}
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
                {texts.add}
              </Button>
              <Button
                size="small"
                onClick={() => {
                  if (tag.trim()) all({ removeTags: [tag.trim()] }, texts.tookOff(tag.trim(), n));
                  setTag('');
                }}
              >
                {texts.remove}
              </Button>
            </form>
          </Drop>
          <Drop label={texts.folder}>
            <form
              className="flex gap-1.5 p-1"
              onSubmit={(e) => {
                e.preventDefault();
                all({ folder }, folder ? texts.movedTo(n, folder) : texts.tookOutOfTheir(n));
              }}
            >
              <input
                aria-label={texts.folderForAllOf}
                list="all-folders"
                placeholder={texts.folderInFolder}
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
                {texts.move}
              </Button>
            </form>
          </Drop>
          <Button size="small" onClick={() => setRenaming(true)}>
            {texts.rename}
          </Button>
          <Menu label={texts.kind}>
            {MOTION_KINDS.map((k) => (
              <DropdownMenu.Item key={k} className={row} onSelect={() => all({ kind: k }, texts.madeS(n, k))}>
                {k}
              </DropdownMenu.Item>
            ))}
          </Menu>
          <Menu label={texts.rights}>
            {(Object.keys(RIGHTS_WORDS) as Rights[]).map((r) => (
              <DropdownMenu.Item key={r} className={row} onSelect={() => all({ rights: r }, texts.setTheRightsOf(n))}>
                {RIGHTS_WORDS[r]}
              </DropdownMenu.Item>
            ))}
          </Menu>
          <Menu label={texts.stars}>
            {[5, 4, 3, 2, 1, 0].map((s) => (
              <DropdownMenu.Item key={s} className={row} onSelect={() => all({ rating: s }, texts.gaveStars(n, s))}>
                {s === 0 ? texts.none : '★'.repeat(s)}
              </DropdownMenu.Item>
            ))}
          </Menu>
          <Button size="small" onClick={() => void pack()} hint={texts.groupsThemUnderOne}>
            <Layers size={13} /> {texts.pack}
          </Button>
          <Button
            size="small"
            onClick={() =>
              void setSteps(
                ids.slice(1).map((id, i): Step => [ids[i]!, id]),
                true,
                texts.putInSequence(n),
              )
            }
            hint={texts.inTheOrderYou}
          >
            <ChevronsRight size={13} /> {texts.sequence}
          </Button>
          <Button size="small" onClick={() => setFitting(true)} hint={texts.fitsAllOfThem}>
            {texts.fitTo}
          </Button>
        </>
      )}
      <Button size="small" onClick={onCompare} disabled={n > 6} keys="B" hint={texts.playsUpToSix}>
        <Columns2 size={13} /> {texts.compare}
      </Button>
      {mayChange && (
        <Button size="small" onClick={onBin} keys={texts.del}>
          {bin ? texts.restore : texts.moveToBin}
        </Button>
      )}
      {bin && mayCurate && (
        <Button size="small" onClick={onDestroy}>
          <Trash2 size={13} /> {texts.destroy}
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
