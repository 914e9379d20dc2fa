'use client';

import { ChevronDown, EyeOff, FolderPlus, Lock, PenLine, PersonStanding, Play, Square, Trash2 } from 'lucide-react';
import { DropdownMenu, Popover } from 'radix-ui';
import { type FormEvent, type ReactNode, useState } from 'react';
import { toast } from 'sonner';
import { API, sendJson } from '@/client/api';
import { useFolders, useRefresh } from '@/client/queries';
import { useMay, useMe } from '@/client/session';
import { useUndo } from '@/client/undo';
import type { Folder } from '@/contract';
import { FitManyDialog } from '@/parts/fit-many-dialog';
import { Button, IconButton } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import { Field, inputLook } from '@/ui/field';
import { COLUMNS, type ColumnId } from './columns';
import { pathOf, treeOf } from './folder-tree';
import { pathBar as texts } from './texts';

interface PathBarProps {
  folderId: string | null;
  bin: boolean;
  found: number;
  total: number;
  /** The answer to what is asked for is still out. */
  late?: boolean;
  running: boolean;
  onRun: () => void;
  columns: readonly ColumnId[] | undefined;
  onColumns: (columns: readonly ColumnId[]) => void;
  onFolder: (id: string | null) => void;
  onLeaveBin: () => void;
  onEmptyBin: () => void;
  onSelectAll: () => void;
}

/** Where you are in the folders, and how much of everything is shown. */
export function PathBar(props: PathBarProps) {
  const { folderId, bin, found, total, running, onRun, onFolder, onLeaveBin, onEmptyBin, onSelectAll } = props;
  const { data: folders = [] } = useFolders();
  const path: Folder[] = [];
  for (let f = folders.find((x) => x.id === folderId); f; f = folders.find((x) => x.id === f!.parentId))
    path.unshift(f);
  const here = path.at(-1);
  const mayCurate = useMay('librarian');
  return (
    <div className="flex items-center gap-1.5 px-4 pt-3 pb-2">
      {bin ? (
        <>
          <span className="font-semibold">{texts.bin}</span>
          <button type="button" onClick={onLeaveBin} className="ml-2 text-brass-text hover:underline">
            {texts.backToTheLibrary}
          </button>
          {mayCurate && total > 0 && (
            <Button look="quiet" size="small" onClick={onEmptyBin}>
              <Trash2 size={13} /> {texts.emptyTheBin}
            </Button>
          )}
        </>
      ) : (
        <>
          <FolderMenu folders={folders} path={path} onFolder={onFolder} />
          <FolderActs here={here} folders={folders} onFolder={onFolder} />
        </>
      )}
      <div className="ml-auto flex items-center gap-2 text-muted">
        {props.columns && <ColumnMenu columns={props.columns} onColumns={props.onColumns} />}
        <Button look="quiet" size="small" onClick={onRun} keys="R" hint={texts.playEverythingListedOne}>
          {running ? <Square size={12} /> : <Play size={12} />} {running ? texts.stop : texts.playThrough}
        </Button>
        <Button look="quiet" size="small" onClick={onSelectAll} keys="Ctrl A" hint={texts.selectEverythingFound}>
          {texts.selectAll}
        </Button>
        <span role="status">{props.late ? texts.searching : texts.ofIt(found, total)}</span>
      </div>
    </div>
  );
}

function FolderMenu({
  folders,
  path,
  onFolder,
}: {
  folders: readonly Folder[];
  path: readonly Folder[];
  onFolder: (id: string | null) => void;
}) {
  const tree = treeOf(folders);
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger
        className="flex min-w-0 items-center gap-1.5 rounded-md px-1.5 py-1 hover:bg-raised"
        aria-label={texts.chooseAFolder(path.map((f) => f.name).join(' / '))}
      >
        {path.length === 0 && <span className="font-semibold">{texts.allItems}</span>}
        {path.map((f, i) => (
          <span key={f.id} className={`truncate ${i === path.length - 1 ? 'font-semibold' : 'text-muted'}`}>
            {f.name}
            {i < path.length - 1 && ' /'}
          </span>
        ))}
        {path.at(-1)?.restricted && <Lock size={12} className="text-brass-text" aria-label={texts.restricted} />}
        {path.at(-1)?.hidden && <EyeOff size={12} className="text-brass-text" aria-label={texts.hidden} />}
        <ChevronDown size={13} className="shrink-0 text-muted" />
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          sideOffset={4}
          className="z-50 max-h-96 min-w-64 overflow-auto rounded-lg border border-line bg-raised p-1 shadow-xl"
        >
          <DropdownMenu.Item
            onSelect={() => onFolder(null)}
            className="rounded px-2 py-1.5 outline-none data-highlighted:bg-panel"
          >
            {texts.allItems}
          </DropdownMenu.Item>
          {tree.map(({ folder, depth, total }) => (
            <DropdownMenu.Item
              key={folder.id}
              onSelect={() => onFolder(folder.id)}
              className="flex items-center gap-2 rounded px-2 py-1.5 outline-none data-highlighted:bg-panel"
              style={{ paddingLeft: 8 + depth * 16 }}
            >
              <span className="truncate">{folder.name}</span>
              {folder.restricted && <Lock size={11} className="text-muted" />}
              {folder.hidden && <EyeOff size={11} className="text-muted" />}
              <span className="ml-auto text-muted">{total}</span>
            </DropdownMenu.Item>
          ))}
          {tree.length === 0 && <p className="max-w-56 px-2 py-1.5 text-muted">{texts.noFoldersYetPut}</p>}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

type FolderDialog = 'new' | 'rename' | 'ask';

/** Who may change a folder, or see it: one of the two, on or off, with a way back. */
function AccessButton({
  folder,
  what,
  on,
  off,
  act,
  children,
}: {
  folder: Folder;
  what: 'restricted' | 'hidden';
  on: string;
  off: string;
  act: (run: () => Promise<unknown>) => Promise<void>;
  children: ReactNode;
}) {
  const push = useUndo((s) => s.push);
  const is = folder[what];
  const put = (to: boolean): Promise<unknown> =>
    sendJson('PUT', `${API}/folders/${folder.id}/restricted`, { [what]: to });
  return (
    <IconButton
      label={is ? off : on}
      quiet
      pressed={is}
      onClick={() =>
        void act(async () => {
          await put(!is);
          push({ label: is ? off : on, undo: () => put(is) });
        })
      }
    >
      {children}
    </IconButton>
  );
}

/** Making, renaming, removing, restricting a folder, and asking for the right to change one. */
function FolderActs({
  here,
  folders,
  onFolder,
}: {
  here: Folder | undefined;
  folders: readonly Folder[];
  onFolder: (id: string | null) => void;
}) {
  const mayChange = useMay('animator');
  const mayCurate = useMay('librarian');
  const refresh = useRefresh();
  const push = useUndo((s) => s.push);
  const [dialog, setDialog] = useState<FolderDialog | null>(null);
  const [text, setText] = useState('');
  const [fitting, setFitting] = useState(false);
  const { performerId } = useMe();
  const act = async (run: () => Promise<unknown>): Promise<void> => {
    try {
      await run();
      refresh();
      setDialog(null);
    } catch (e) {
      toast.error((e as Error).message);
    }
  };
  const submit = (e: FormEvent): void => {
    e.preventDefault();
    if (dialog === 'new')
      void act(async () => {
        const path = here ? `${pathOf(folders, here.id)} / ${text}` : text;
        const made = await sendJson<{ id: string }>('POST', `${API}/folders`, { path });
        push({ label: texts.madeTheFolder(text), undo: () => sendJson('DELETE', `${API}/folders/${made.id}`, {}) });
        onFolder(made.id);
      });
    else if (here && dialog === 'rename')
      void act(async () => {
        await sendJson('PATCH', `${API}/folders/${here.id}`, { name: text });
        push({
          label: texts.renamedTheFolderTo(here.name, text),
          undo: () => sendJson('PATCH', `${API}/folders/${here.id}`, { name: here.name }),
        });
      });
    else if (here && dialog === 'ask')
      void act(async () => {
        await sendJson('POST', `${API}/folders/${here.id}/requests`, { note: text });
        toast(texts.theLibrariansHaveBeen);
      });
  };
  const ask = (which: FolderDialog, first = ''): void => {
    setText(first);
    setDialog(which);
  };
  return (
    <div className="flex items-center">
      {mayChange && (
        <IconButton label={here ? texts.newFolderIn(here.name) : texts.newFolder} quiet onClick={() => ask('new')}>
          <FolderPlus size={14} />
        </IconButton>
      )}
      {here && mayChange && (
        <IconButton label={texts.fitEverythingInOnto(here.name)} quiet onClick={() => setFitting(true)}>
          <PersonStanding size={14} />
        </IconButton>
      )}
      {here && fitting && (
        <FitManyDialog
          onClose={() => setFitting(false)}
          items={[]}
          folderId={here.id}
          castIds={performerId ? [performerId] : []}
        />
      )}
      {here?.open && mayChange && (
        <>
          <IconButton label={texts.rename(here.name)} quiet onClick={() => ask('rename', here.name)}>
            <PenLine size={13} />
          </IconButton>
          <IconButton
            label={texts.removeItMustBe(here.name)}
            quiet
            onClick={() =>
              void act(async () => {
                await sendJson('DELETE', `${API}/folders/${here.id}`, {});
                const path = pathOf(folders, here.id);
                push({
                  label: texts.removedTheFolder(here.name),
                  undo: () => sendJson('POST', `${API}/folders`, { path }),
                });
                onFolder(here.parentId);
              })
            }
          >
            <Trash2 size={13} />
          </IconButton>
        </>
      )}
      {here && mayCurate && (
        <>
          <AccessButton
            folder={here}
            what="restricted"
            on={texts.restrictWhoCanChange(here.name)}
            off={texts.letEverybodyChangeAgain(here.name)}
            act={act}
          >
            <Lock size={13} />
          </AccessButton>
          <AccessButton
            folder={here}
            what="hidden"
            on={texts.hideFromEveryoneWithout(here.name)}
            off={texts.showToEverybodyAgain(here.name)}
            act={act}
          >
            <EyeOff size={13} />
          </AccessButton>
        </>
      )}
      {here && !here.open && (
        <Button look="quiet" size="small" className="text-brass-text" onClick={() => ask('ask')}>
          <Lock size={12} /> {texts.restrictedAskForAccess}
        </Button>
      )}
      <Dialog
        open={dialog !== null}
        onOpenChange={() => setDialog(null)}
        title={
          dialog === 'new'
            ? texts.newFolder
            : dialog === 'rename'
              ? texts.renameTheFolder
              : texts.askForAccessTo(here?.name ?? '')
        }
        {...(dialog === 'new' && here ? { about: texts.inIt(pathOf(folders, here.id)) } : {})}
      >
        <form onSubmit={submit} className="flex flex-col gap-3">
          <Field label={dialog === 'ask' ? texts.whatFor : texts.name}>
            <input
              className={inputLook}
              value={text}
              maxLength={dialog === 'ask' ? 500 : 160}
              onChange={(e) => setText(e.target.value)}
            />
          </Field>
          <Button look="brass" type="submit" disabled={dialog !== 'ask' && text.trim() === ''}>
            {dialog === 'new' ? texts.create : dialog === 'rename' ? texts.rename2 : texts.ask}
          </Button>
        </form>
      </Dialog>
    </div>
  );
}

function ColumnMenu({
  columns,
  onColumns,
}: {
  columns: readonly ColumnId[];
  onColumns: (columns: readonly ColumnId[]) => void;
}) {
  return (
    <Popover.Root>
      <Popover.Trigger className="rounded-md px-2 py-0.5 hover:bg-raised hover:text-ink">
        {texts.columns}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={4}
          className="z-30 flex w-48 flex-col rounded-lg border border-line bg-raised p-2 shadow-xl"
        >
          {COLUMNS.filter((c) => c.id !== 'name').map((c) => (
            <label key={c.id} className="flex items-center gap-2 px-1 py-0.5">
              <input
                type="checkbox"
                className="accent-(--brass)"
                checked={columns.includes(c.id)}
                onChange={(e) => onColumns(e.target.checked ? [...columns, c.id] : columns.filter((x) => x !== c.id))}
              />
              {c.label}
            </label>
          ))}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
