'use client';

import { useRouter } from 'next/navigation';
import { parseAsBoolean, parseAsString, useQueryStates } from 'nuqs';
import { useEffect, useMemo, useRef, useState } from 'react';
import { toast } from 'sonner';
import { sendJson } from '@/client/api';
import { useHand } from '@/client/hand';
import { useKeys } from '@/client/keys';
import { useChangeItem, useItems, usePerformer, useRefresh, useRig } from '@/client/queries';
import { useReading } from '@/client/reading';
import type { Item } from '@/client/types';
import { useUndo } from '@/client/undo';
import { Clock } from '@/stage/clock';
import { SoloStage, useShown } from '@/stage/solo-stage';
import { Transport } from '@/stage/transport';
import { Button } from '@/ui/button';
import { Empty } from '@/ui/empty';
import { ExportDialog } from '@/ui/export-dialog';
import { type ChangeWish, changeWords, NO_CHANGE } from '@/workers/settings';
import { ChangePanel } from './change-panel';
import { ItemPanel } from './item-panel';
import { PathBar } from './path-bar';
import { SearchBar } from './search-bar';
import { StripList } from './strip-list';

export const itemAbout = (item: Item): string => `${item.kind} · ${item.facts.frameCount} f`;

/** Stage on the left, strips on the right. */
export function LibraryPlace() {
  const router = useRouter();
  const [view, setView] = useQueryStates(
    {
      q: parseAsString,
      kind: parseAsString,
      tag: parseAsString,
      folder: parseAsString,
      like: parseAsString,
      item: parseAsString,
      bin: parseAsBoolean,
    },
    { history: 'replace' },
  );
  const search = useMemo(
    () => ({
      ...(view.q ? { words: view.q } : {}),
      ...(view.kind ? { kind: view.kind } : {}),
      ...(view.tag ? { tag: view.tag } : {}),
      ...(view.folder ? { folderId: view.folder } : {}),
      ...(view.like ? { like: view.like } : {}),
      bin: view.bin ?? false,
    }),
    [view.q, view.kind, view.tag, view.folder, view.like, view.bin],
  );
  const list = useItems(search);
  const items = list.data?.items ?? [];
  const [pointed, setPointed] = useState<Item | null>(null);
  const chosen = items.find((i) => i.id === view.item) ?? items[0];
  const shown = pointed ?? chosen;
  const [clock] = useState(() => new Clock());
  const { member, rig } = usePerformer();
  const source = useRig(shown?.rigId);
  const [changing, setChanging] = useState<{ itemId: string; wish: ChangeWish; name: string | null } | null>(null);
  const change = changing && shown && changing.itemId === shown.id ? changing.wish : undefined;
  const edited = change && changeWords(change).length > 0 ? change : undefined;
  const { motion, error } = useShown(shown, source.data, rig ?? source.data, edited);
  const reading = useReading(chosen, chosen && source.data?.id === chosen.rigId ? source.data : undefined, rig);
  const share = useRef<number | null>(null);
  // a motion that arrives while its strip is pointed at goes straight to the place pointed at
  // biome-ignore lint/correctness/useExhaustiveDependencies: the clock has taken the motion over just before
  useEffect(() => {
    if (share.current !== null) clock.seekFrame(Math.round(share.current * (clock.frameCount - 1)));
  }, [motion, clock]);
  const point = (item: Item | null, at: number | null): void => {
    share.current = at;
    clock.led = at !== null;
    setPointed(item);
    if (at !== null) clock.seekFrame(Math.round(at * (clock.frameCount - 1)));
  };
  const [exporting, setExporting] = useState(false);
  const changeItem = useChangeItem();
  const pickUp = useHand((s) => s.pickUp);
  const field = useRef<HTMLInputElement>(null);

  const choose = (item: Item): void => void setView({ item: item.id });
  const move = (by: number): void => {
    const at = items.findIndex((i) => i.id === chosen?.id);
    const next = items[Math.min(items.length - 1, Math.max(0, at + by))];
    if (next) choose(next);
  };
  const bin = (item: Item): void =>
    changeItem.mutate({
      id: item.id,
      change: { binned: item.binnedAt === null },
      label: item.binnedAt === null ? `Moved ${item.name} to the bin` : `Brought ${item.name} back`,
    });
  const [keeping, setKeeping] = useState(false);
  const refresh = useRefresh();
  const push = useUndo((s) => s.push);
  const keepChange = async (): Promise<void> => {
    if (!changing || !chosen || keeping) return;
    setKeeping(true);
    const name = changing.name ?? `${chosen.name}, ${changeWords(changing.wish).join(', ')}`.slice(0, 200);
    try {
      const kept = await sendJson<Item>('POST', `/api/items/${chosen.id}/change`, { name, change: changing.wish });
      push({ label: `Kept ${kept.name}`, undo: () => sendJson('PATCH', `/api/items/${kept.id}`, { binned: true }) });
      toast(`${kept.name} is in the library`);
      setChanging(null);
      refresh();
      void setView({ item: kept.id });
    } catch (e) {
      toast.error((e as Error).message);
    } finally {
      setKeeping(false);
    }
  };
  const openFitting = (item: Item): void =>
    router.push(`/fitting?item=${item.id}${member ? `&cast=${member.id}` : ''}`);
  const hold = (item: Item): void => pickUp({ id: item.id, name: item.name, about: itemAbout(item) });
  const showAll = (): void => void setView({ q: null, kind: null, tag: null, folder: null, like: null });

  // likeness looks everywhere: the other narrowings would only hide what was asked for
  const likes = (item: Item): void =>
    void setView({ q: null, kind: null, tag: null, folder: null, bin: null, like: item.id, item: item.id });

  useKeys('space', () => clock.setPlaying(!clock.playing));
  useKeys('comma', () => clock.step(-1));
  useKeys('period', () => clock.step(1));
  useKeys('l', () => clock.setLoop(!clock.loop));
  useKeys('down', () => move(1));
  useKeys('up', () => move(-1));
  useKeys('f', () => chosen && openFitting(chosen));
  useKeys('p', () => chosen && hold(chosen));
  useKeys('e', () => chosen && setExporting(true));
  useKeys('delete', () => chosen && bin(chosen));
  useKeys('escape', () => (changing ? setChanging(null) : showAll()));
  useKeys('c', () => chosen && setChanging({ itemId: chosen.id, wish: NO_CHANGE, name: null }));
  useKeys('m', () => chosen && likes(chosen));
  useKeys('slash', () => field.current?.focus());
  // a new item starts from its beginning
  // biome-ignore lint/correctness/useExhaustiveDependencies: only the item counts
  useEffect(() => clock.seekFrame(0), [chosen?.id]);

  const empty = list.data && list.data.total === 0 && !view.bin;
  return (
    <div className="flex h-full">
      <section aria-label="Stage" className="flex w-[372px] shrink-0 flex-col border-r border-line bg-panel">
        <div className="relative m-3 mb-0 min-h-0 flex-1 overflow-hidden rounded-lg">
          {rig ? (
            <SoloStage
              clock={clock}
              member={member}
              rig={rig}
              motion={motion}
              label={shown ? `${shown.name} played by ${member?.name}` : `${member?.name} at rest`}
            />
          ) : shown && source.data ? (
            <SoloStage
              clock={clock}
              member={undefined}
              rig={source.data}
              motion={motion}
              label={`${shown.name} on its own skeleton`}
            />
          ) : (
            <div className="stage-back h-full" />
          )}
          <p className="absolute top-2 left-3 text-[11.5px] text-muted">
            {member ? `on ${member.name}` : 'nobody on hand'}
          </p>
          {error && (
            <p className="absolute inset-x-3 bottom-2 rounded-md border border-raspberry bg-panel p-2 text-raspberry">
              {error.message}
            </p>
          )}
        </div>
        <div className="px-3 py-2">
          <Transport clock={clock} disabled={!motion} />
        </div>
        {chosen ? (
          changing?.itemId === chosen.id ? (
            <ChangePanel
              item={chosen}
              wish={changing.wish}
              reading={reading}
              name={
                changing.name ??
                `${chosen.name}${edited ? `, ${changeWords(changing.wish).join(', ')}` : ''}`.slice(0, 200)
              }
              error={error}
              keeping={keeping}
              onWish={(wish) => setChanging({ ...changing, wish })}
              onName={(name) => setChanging({ ...changing, name })}
              onKeep={() => void keepChange()}
              onClose={() => setChanging(null)}
            />
          ) : (
            <ItemPanel
              key={chosen.id}
              item={chosen}
              performer={member}
              reading={reading}
              onChange={() => setChanging({ itemId: chosen.id, wish: NO_CHANGE, name: null })}
              onFit={() => openFitting(chosen)}
              onExport={() => setExporting(true)}
              onHold={() => hold(chosen)}
              onLike={() => likes(chosen)}
              onBin={() => bin(chosen)}
            />
          )
        ) : (
          <p className="px-4 pb-6 text-muted">Nothing is chosen.</p>
        )}
      </section>
      <section aria-label="Items" className="flex min-w-0 flex-1 flex-col">
        <PathBar
          folderId={view.folder}
          bin={view.bin ?? false}
          shown={items.length}
          total={list.data?.total ?? 0}
          onFolder={(folder) => void setView({ folder, bin: null })}
          onLeaveBin={() => void setView({ bin: null })}
        />
        <SearchBar
          ref={field}
          view={{ q: view.q, kind: view.kind, tag: view.tag, like: view.like }}
          hidden={(list.data?.total ?? 0) - items.length}
          narrowed={Boolean(view.q || view.kind || view.tag || view.folder || view.like)}
          onChange={(c) => void setView(c)}
          onShowAll={showAll}
        />
        <div className="min-h-0 flex-1">
          {list.error ? (
            <Empty
              title="The library could not be opened"
              action={<Button onClick={() => list.refetch()}>Try again</Button>}
            >
              {list.error.message}
            </Empty>
          ) : empty ? (
            <Empty
              title="The library is empty"
              action={
                <Button look="brass" onClick={() => router.push('/intake')}>
                  Bring files in
                </Button>
              }
            >
              Drop motion-capture files or characters at Intake. Each becomes a strip that you can read, play on your
              performer and fit.
            </Empty>
          ) : list.data && items.length === 0 ? (
            <Empty
              title={view.bin ? 'The bin is empty' : 'Nothing fits these words'}
              action={!view.bin && <Button onClick={showAll}>Show everything</Button>}
            >
              {view.bin
                ? 'What is deleted waits here and can be brought back.'
                : `${list.data.total} items are hidden by the search and the narrowings above.`}
            </Empty>
          ) : (
            <StripList
              items={items}
              chosenId={chosen?.id}
              performer={rig}
              clock={clock}
              onChoose={choose}
              onPoint={point}
              onOpen={openFitting}
            />
          )}
        </div>
      </section>
      {chosen && (
        <ExportDialog
          open={exporting}
          onOpenChange={setExporting}
          itemId={chosen.id}
          name={chosen.name}
          fps={chosen.facts.fps}
        />
      )}
    </div>
  );
}
