'use client';

import { useQueryClient } from '@tanstack/react-query';
import { Trash2, Users } from 'lucide-react';
import { Popover } from 'radix-ui';
import { type ReactNode, useState } from 'react';
import { toast } from 'sonner';
import { API, sendJson } from '@/client/api';
import { useSearches } from '@/client/queries';
import { useMay } from '@/client/session';
import type { SavedSearch } from '@/contract';
import { Button, IconButton } from '@/ui/button';
import { inputLook, SwitchRow } from '@/ui/field';
import { savedSearches as texts } from './texts';
import type { LibraryView } from './use-library';

const KEPT = ['q', 'folder', 'like', 'pack', 'bin', 'view', 'sort', 'backwards'] as const;

/** The part of the view that a saved search keeps. */
const write = (view: LibraryView): string =>
  JSON.stringify(Object.fromEntries(KEPT.flatMap((k) => (view[k] ? [[k, view[k]]] : []))));

function read(text: string): Partial<LibraryView> {
  const nothing = Object.fromEntries(KEPT.map((k) => [k, null]));
  try {
    return { ...nothing, ...(JSON.parse(text) as object) } as Partial<LibraryView>;
  } catch {
    return nothing as Partial<LibraryView>;
  }
}

/** Searches worth keeping, one's own and those that colleagues share. */
export function SavedSearches({
  view,
  onOpen,
  icon,
}: {
  view: LibraryView;
  onOpen: (change: Partial<LibraryView>) => void;
  icon: ReactNode;
}) {
  const client = useQueryClient();
  const { data: searches = [] } = useSearches();
  const mayShare = useMay('animator');
  const [name, setName] = useState('');
  const [shared, setShared] = useState(false);
  const refresh = (): void => void client.invalidateQueries({ queryKey: ['searches'] });
  const save = async (): Promise<void> => {
    try {
      await sendJson('POST', `${API}/searches`, { name, view: write(view), shared });
      toast(texts.savedTheSearch(name));
      setName('');
      refresh();
    } catch (e) {
      toast.error((e as Error).message);
    }
  };
  const remove = async (search: SavedSearch): Promise<void> => {
    try {
      await sendJson('DELETE', `${API}/searches/${search.id}`, {});
    } catch (e) {
      toast.error((e as Error).message);
      return;
    }
    refresh();
    toast(texts.deletedTheSearch(search.name), {
      action: {
        label: texts.restore,
        onClick: () =>
          void sendJson('POST', `${API}/searches`, {
            name: search.name,
            view: search.view,
            shared: search.shared,
          }).then(refresh),
      },
    });
  };
  return (
    <Popover.Root>
      <Popover.Trigger
        aria-label={searches.length > 0 ? texts.savedSearches(searches.length) : texts.savedSearches2}
        title={texts.savedSearches2}
        className="inline-flex h-8 items-center gap-1.5 rounded-md border border-line bg-raised px-2 text-muted hover:text-ink"
      >
        {icon}
        {searches.length > 0 && <span className="text-[11.5px]">{searches.length}</span>}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="end"
          sideOffset={6}
          className="z-30 flex w-80 flex-col gap-1 rounded-xl border border-line bg-panel p-3 shadow-2xl"
        >
          {searches.length === 0 && <p className="text-muted">{texts.noSavedSearchesYet}</p>}
          {searches.map((s) => (
            <div key={s.id} className="flex items-center gap-1">
              <Popover.Close asChild>
                <button
                  type="button"
                  onClick={() => onOpen(read(s.view))}
                  className="flex min-w-0 flex-1 items-center gap-2 rounded px-2 py-1 text-left hover:bg-raised"
                >
                  <span className="truncate">{s.name}</span>
                  {s.shared && (
                    <span className="ml-auto flex items-center gap-1 text-[11.5px] text-muted">
                      <Users size={12} /> {s.mine ? texts.shared : s.byName}
                    </span>
                  )}
                </button>
              </Popover.Close>
              {s.mine && (
                <IconButton label={texts.remove(s.name)} quiet onClick={() => void remove(s)}>
                  <Trash2 size={13} />
                </IconButton>
              )}
            </div>
          ))}
          <form
            className="mt-2 flex flex-col gap-1.5 border-t border-line pt-2"
            onSubmit={(e) => {
              e.preventDefault();
              void save();
            }}
          >
            <input
              aria-label={texts.nameForThisSearch}
              placeholder={texts.saveThisViewAs}
              className={inputLook}
              value={name}
              maxLength={120}
              onChange={(e) => setName(e.target.value)}
            />
            {mayShare && <SwitchRow label={texts.shareItWithColleagues} checked={shared} onChange={setShared} />}
            <Button type="submit" disabled={name.trim() === ''}>
              {texts.saveTheSearch}
            </Button>
          </form>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
