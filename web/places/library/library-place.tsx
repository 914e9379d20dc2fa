'use client';

import { useQueryClient } from '@tanstack/react-query';
import { useRouter } from 'next/navigation';
import { useEffect, useMemo, useRef, useState } from 'react';
import { toast } from 'sonner';
import { API, getJson, sendJson } from '@/client/api';
import { useHand } from '@/client/hand';
import { useKeys } from '@/client/keys';
import { useLookingAt } from '@/client/live';
import {
  toQuery,
  undoGroup,
  useCast,
  useChangeItem,
  useCounts,
  useEdit,
  useItem,
  usePerformer,
  useRefresh,
  useRig,
} from '@/client/queries';
import { useReading } from '@/client/reading';
import { solver } from '@/client/solver';
import { useUndo } from '@/client/undo';
import type { CastMember, Item } from '@/contract';
import { kindOf } from '@/kinds/kinds';
import { many } from '@/naming/counts';
import { ExportDialog } from '@/parts/export-dialog';
import { Clock } from '@/stage/clock';
import { SoloStage, useShown } from '@/stage/solo-stage';
import { Transport } from '@/stage/transport';
import { Button } from '@/ui/button';
import { Empty } from '@/ui/empty';
import { Edge, Panel, Panels } from '@/ui/panels';
import { type ChangeWish, changeWords, NO_CHANGE } from '@/wishes/wishes';
import { BinDialog } from './bin-dialog';
import { BulkBar } from './bulk-bar';
import { ChangePanel } from './change-panel';
import { type ColumnId, FIRST_COLUMNS } from './columns';
import { CompareDialog } from './compare-dialog';
import { ItemPanel } from './item-panel';
import { ItemViews } from './item-views';
import { PathBar } from './path-bar';
import { SearchBar } from './search-bar';
import { libraryPlace as texts } from './texts';
import { DENSITIES, useLibrary, useLibraryView } from './use-library';
import { useRunThrough } from './use-run-through';
import { useSelection } from './use-selection';
import { useUses } from './uses-line';
import { VersionsDialog } from './versions-dialog';

export const itemAbout = (item: Item): string => `${item.kind} · ${item.facts.frameCount} f`;

const COLUMNS_KEY = 'velvet-columns';
const keptColumns = (): readonly ColumnId[] => {
  try {
    const kept = JSON.parse(localStorage.getItem(COLUMNS_KEY) ?? 'null') as ColumnId[] | null;
    return kept && kept.length > 0 ? kept : FIRST_COLUMNS;
  } catch {
    return FIRST_COLUMNS;
  }
};

/** Stage on the left, strips on the right. */
export function LibraryPlace() {
  const router = useRouter();
  const client = useQueryClient();
  const [view, setView] = useLibraryView();
  // what is chosen is written into the address a little later, which would call back whoever had left by then
  const written = useRef<Promise<unknown>>(Promise.resolve());
  const library = useLibrary(view);
  const [pointed, setPointed] = useState<Item | null>(null);
  const { data: linked } = useItem(view.item);
  const found = view.item ? library.indexOf(view.item) : 0;
  // where it was found last: its page may not be here any longer after scrolling far
  const place = useRef({ item: view.item, search: library.search, index: -1 });
  if (found >= 0 || place.current.item !== view.item || place.current.search !== library.search)
    place.current = { item: view.item, search: library.search, index: found };
  const known = place.current.index;
  const chosen = (known >= 0 ? library.at(known) : undefined) ?? (view.item ? linked : library.at(0));
  const shown = pointed ?? chosen;
  const selection = useSelection();
  const [clock] = useState(() => new Clock());
  const performer = usePerformer();
  const source = useRig(shown?.rigId);
  const cast = useCast().data ?? [];
  // drawings are looked at on the figure that they belong to
  const onOwn = shown !== undefined && kindOf(shown).onOwn;
  const member = onOwn ? cast.find((c) => c.id === shown.madeFor) : performer.member;
  const rig = onOwn ? source.data : performer.rig;
  const { data: counts } = useCounts();
  const [changing, setChanging] = useState<{ itemId: string; wish: ChangeWish; name: string | null } | null>(null);
  const change = changing && shown && changing.itemId === shown.id ? changing.wish : undefined;
  const edited = change && changeWords(change).length > 0 ? change : undefined;
  const { motion, error } = useShown(shown, source.data, rig ?? source.data, edited);
  const reading = useReading(
    chosen,
    chosen && source.data?.id === chosen.rigId ? source.data : undefined,
    performer.rig,
  );
  const [dialog, setDialog] = useState<'export' | 'versions' | 'compare' | 'bin' | null>(null);
  const [columns, setColumns] = useState<readonly ColumnId[]>(FIRST_COLUMNS);
  useEffect(() => setColumns(keptColumns()), []);

  // colleagues see what is open here
  useLookingAt(chosen?.id);

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
  const changeItem = useChangeItem();
  const edit = useEdit();
  const pickUp = useHand((s) => s.pickUp);
  const field = useRef<HTMLInputElement>(null);

  const told = (error: Error): void => void toast.error(error.message);
  const choose = (item: Item, index: number): void => {
    selection.only(item.id, index);
    written.current = setView({ item: item.id });
  };
  const chooseBy = (item: Item, index: number, how: 'only' | 'toggle' | 'stretch'): undefined => {
    if (how === 'only') {
      choose(item, index);
      return undefined;
    }
    if (how === 'toggle') {
      // what was chosen by a plain click is the first of the selection
      if (selection.ids.size === 0 && chosen) selection.add([chosen.id]);
      selection.toggle(item.id, index);
      return undefined;
    }
    const from = selection.ids.size === 0 ? Math.max(0, known) : selection.anchor;
    const [low, high] = [Math.min(from, index), Math.max(from, index)];
    const stretch = Array.from({ length: high - low + 1 }, (_, i) => library.at(low + i)?.id);
    if (stretch.every((id) => id !== undefined)) {
      selection.set(stretch);
      return undefined;
    }
    allIds().then((ids) => selection.set(ids.slice(low, high + 1)), told);
    return undefined;
  };
  const allIds = async (): Promise<string[]> =>
    (await getJson<{ ids: string[] }>(`${API}/items/ids?${toQuery(library.search)}`)).ids;
  const selectAll = (): void => void allIds().then((ids) => selection.set(ids), told);
  const selectedIds = useMemo(() => [...selection.ids], [selection.ids]);
  const several = selectedIds.length > 1;

  const move = (by: number): void => {
    const next = Math.min(library.count - 1, Math.max(0, Math.max(0, known) + by));
    const item = library.at(next);
    if (item) choose(item, next);
    // its page is fetched by being shown; the item is chosen by its id meanwhile
    else if (known >= 0) allIds().then((ids) => ids[next] !== undefined && showAt(ids[next], next), told);
  };
  const binLabel = (item: Item): string =>
    item.binnedAt === null ? texts.movedToTheBin2(item.name) : texts.restored(item.name);
  const bin = (item: Item): void => {
    if (several) {
      const back = view.bin === true;
      edit.mutate({
        edits: selectedIds.map((id) => ({ id, change: { binned: !back } })),
        label: back ? texts.restored2(selectedIds.length) : texts.movedToTheBin(selectedIds.length),
      });
      selection.clear();
    } else changeItem.mutate({ item, change: { binned: item.binnedAt === null }, label: binLabel(item) });
  };
  const [keeping, setKeeping] = useState(false);
  const refresh = useRefresh();
  const push = useUndo((s) => s.push);
  const keepChange = async (over: boolean): Promise<void> => {
    if (!changing || !chosen || keeping) return;
    setKeeping(true);
    const name = changing.name ?? `${chosen.name}, ${changeWords(changing.wish).join(', ')}`.slice(0, 200);
    try {
      const kept = await sendJson<{ item: Item; group: string | null }>('POST', `${API}/items/${chosen.id}/change`, {
        change: changing.wish,
        ...(over ? { over: chosen.versionId } : { name }),
      });
      const before = chosen.versionId;
      push(
        over
          ? {
              label: texts.savedVersionOf(kept.item.version, kept.item.name),
              undo: () => sendJson('POST', `${API}/items/${chosen.id}/versions/${before}/restore`, {}),
            }
          : {
              label: texts.kept(kept.item.name),
              undo: () => sendJson('PATCH', `${API}/items/${kept.item.id}`, { change: { binned: true } }),
            },
      );
      toast(over ? texts.isAtVersion(kept.item.name, kept.item.version) : texts.isInTheLibrary(kept.item.name));
      setChanging(null);
      refresh();
      void setView({ item: kept.item.id });
    } catch (e) {
      toast.error((e as Error).message);
    } finally {
      setKeeping(false);
    }
  };
  const openPack = (item: Item): void =>
    void setView({ pack: item.id, q: null, folder: null, like: null, pose: null, item: null, bin: null });
  const open = (item: Item): void => {
    // drawings go to the performer where that is another cut-out, else to any
    const fits = (m: CastMember): boolean => m.assets.art !== undefined && m.id !== item.madeFor;
    const onHand = performer.member;
    const figure = onHand && fits(onHand) ? onHand : cast.find(fits);
    const to = {
      motion: `/fitting?item=${item.id}${onHand ? `&cast=${onHand.id}` : ''}`,
      drawings: `/cast?tab=drawings&set=${item.id}${figure ? `&member=${figure.id}` : ''}`,
    };
    const { content } = kindOf(item);
    if (content === 'members') openPack(item);
    else void written.current.then(() => router.push(to[content]));
  };
  const hold = (item: Item): void => pickUp({ id: item.id, name: item.name, about: itemAbout(item) });
  // a step of the browser's own history: Back returns to what was asked for
  const showAll = (): void =>
    void setView({ q: null, folder: null, like: null, pose: null, support: null, pack: null }, { history: 'push' });
  // likeness looks everywhere: the other narrowings would only hide what was asked for
  const likes = (item: Item): void =>
    void setView({ q: null, folder: null, pack: null, bin: null, pose: null, like: item.id, item: item.id });
  const posesLike = async (item: Item): Promise<void> => {
    if (source.data?.id !== item.rigId) return;
    clock.setPlaying(false);
    const pose = await solver().pose(item.motionHash, source.data, clock.frame);
    void setView({ q: null, folder: null, pack: null, bin: null, like: null, pose, item: item.id });
  };
  const favourite = async (item: Item): Promise<void> => {
    try {
      await sendJson('PUT', `${API}/items/${item.id}/favourite`, { on: !item.favourite });
    } catch (error) {
      return told(error as Error);
    }
    void client.invalidateQueries({ queryKey: ['items'] });
    void client.invalidateQueries({ queryKey: ['item', item.id] });
  };
  const rate = (stars: number): void => {
    if (several)
      edit.mutate({
        edits: selectedIds.map((id) => ({ id, change: { rating: stars } })),
        label: texts.gaveStars(selectedIds.length, stars),
      });
    else if (chosen)
      changeItem.mutate({ item: chosen, change: { rating: stars }, label: texts.gaveStars2(chosen.name, stars) });
  };
  const uses = useUses(chosen?.id);
  const run = useRunThrough(clock, (through) => {
    const item = through === 'list' ? library.at(known + 1) : undefined;
    if (item) choose(item, known + 1);
    else if (through === 'list' || !uses?.next[0]) return false;
    else show(uses.next[0].id);
    return true;
  });
  const showAt = (id: string, index: number): void => {
    selection.only(id, index);
    place.current = { item: id, search: library.search, index };
    written.current = setView({ item: id });
  };
  const show = (id: string): void => {
    selection.only(id, library.indexOf(id));
    written.current = setView({ item: id });
  };

  useKeys('space', () => clock.setPlaying(!clock.playing));
  useKeys('comma', () => clock.step(-1));
  useKeys('period', () => clock.step(1));
  useKeys('l', () => clock.setLoop(!clock.loop));
  useKeys('down', () => move(1));
  useKeys('up', () => move(-1));
  useKeys('pagedown', () => move(8));
  useKeys('pageup', () => move(-8));
  useKeys('home', () => move(-library.count));
  useKeys('mod+a', selectAll);
  useKeys('f', () => chosen && open(chosen));
  useKeys('p', () => chosen && hold(chosen));
  useKeys('e', () => chosen && setDialog('export'));
  useKeys('v', () => chosen && setDialog('versions'));
  useKeys('b', () => selectedIds.length > 1 && setDialog('compare'));
  useKeys('h', () => chosen && void favourite(chosen));
  useKeys('r', () => run.toggle('list'));
  useKeys('delete', () => chosen && bin(chosen));
  useKeys('escape', () => (changing ? setChanging(null) : several ? selection.clear() : showAll()));
  useKeys('c', () => chosen && setChanging({ itemId: chosen.id, wish: NO_CHANGE, name: null }));
  useKeys('m', () => chosen && likes(chosen));
  useKeys('n', () => chosen && void posesLike(chosen));
  useKeys('slash', () => field.current?.focus());
  DENSITIES.forEach((density, i) => {
    // biome-ignore lint/correctness/useHookAtTopLevel: the list never changes its length
    useKeys(String(i + 1), () => void setView({ view: density }));
  });
  for (const stars of [0, 1, 2, 3, 4, 5]) {
    // biome-ignore lint/correctness/useHookAtTopLevel: the list never changes its length
    useKeys(`alt+shift+${stars}`, () => rate(stars));
  }
  // a new item starts from its beginning
  // biome-ignore lint/correctness/useExhaustiveDependencies: only the item counts
  useEffect(() => clock.seekFrame(0), [chosen?.id]);

  const { list } = library;
  const empty = list && list.total === 0 && !view.bin;
  return (
    <Panels id="library" className="h-full">
      <Panel id="stage" defaultSize={372} minSize={320} maxSize="60" groupResizeBehavior="preserve-pixel-size">
        <section aria-label={texts.stage} className="flex h-full flex-col bg-panel">
          <div className="relative m-3 mb-0 min-h-0 flex-1 overflow-hidden rounded-lg">
            {rig ? (
              <SoloStage
                clock={clock}
                member={member}
                rig={rig}
                motion={motion}
                label={shown ? texts.playedBy(shown.name, member?.name) : texts.atRest(member?.name ?? '')}
                props={shown?.props}
                propsFor={source.data?.heightM}
              />
            ) : shown && source.data ? (
              <SoloStage
                clock={clock}
                member={undefined}
                rig={source.data}
                motion={motion}
                label={texts.onItsOwnSkeleton(shown.name)}
                props={shown.props}
              />
            ) : (
              <div className="stage-back h-full" />
            )}
            <p className="absolute top-2 left-3 text-[11.5px] text-muted">
              {member ? texts.on(member.name) : onOwn ? texts.onItsOwnFigure : texts.noPerformerOnHand}
              {run.running && shown ? ` · ${shown.name}` : ''}
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
                source={source.data?.id === chosen.rigId ? source.data : undefined}
                clock={clock}
                name={
                  changing.name ??
                  `${chosen.name}${edited ? `, ${changeWords(changing.wish).join(', ')}` : ''}`.slice(0, 200)
                }
                error={error}
                keeping={keeping}
                onWish={(wish) => setChanging({ ...changing, wish })}
                onName={(name) => setChanging({ ...changing, name })}
                onKeep={(over) => void keepChange(over)}
                onClose={() => setChanging(null)}
              />
            ) : (
              <ItemPanel
                key={chosen.id}
                item={chosen}
                performer={performer.member}
                reading={reading}
                onChange={() => setChanging({ itemId: chosen.id, wish: NO_CHANGE, name: null })}
                onFit={() => open(chosen)}
                onExport={() => setDialog('export')}
                onHold={() => hold(chosen)}
                onLike={() => likes(chosen)}
                onPose={() => void posesLike(chosen)}
                onBin={() => bin(chosen)}
                onVersions={() => setDialog('versions')}
                onFavourite={() => void favourite(chosen)}
                onOpenPack={(id) => void setView({ pack: id, item: null, q: null, folder: null, like: null })}
                onShow={show}
                playingOn={run.running === 'sequence'}
                onPlayOn={() => run.toggle('sequence')}
              />
            )
          ) : (
            <p className="px-4 pb-6 text-muted">{texts.nothingSelected}</p>
          )}
        </section>
      </Panel>
      <Edge label={texts.widthOfTheStage} />
      <Panel id="items" minSize={420}>
        <section aria-label={texts.items} className="flex h-full min-w-0 flex-col">
          <PathBar
            folderId={view.folder}
            bin={view.bin ?? false}
            found={list?.found ?? 0}
            total={list?.total ?? 0}
            late={library.late}
            running={run.running === 'list'}
            onRun={() => run.toggle('list')}
            columns={view.view === 'table' ? columns : undefined}
            onColumns={(next) => {
              setColumns(next);
              localStorage.setItem(COLUMNS_KEY, JSON.stringify(next));
            }}
            onFolder={(folder) => void setView({ folder, bin: null, pack: null })}
            onLeaveBin={() => void setView({ bin: null })}
            onEmptyBin={() => setDialog('bin')}
            onSelectAll={selectAll}
          />
          <SearchBar ref={field} view={view} list={list} onChange={(c) => void setView(c)} onShowAll={showAll} />
          {several && (
            <BulkBar
              ids={selectedIds}
              loaded={(id) => {
                const i = library.indexOf(id);
                return i >= 0 ? library.at(i) : undefined;
              }}
              bin={view.bin === true}
              onClear={selection.clear}
              onCompare={() => setDialog('compare')}
              onBin={() => chosen && bin(chosen)}
              onDestroy={() => setDialog('bin')}
            />
          )}
          <div className="min-h-0 flex-1">
            {library.error ? (
              <Empty
                title={texts.theLibraryCouldNot}
                action={<Button onClick={library.refetch}>{texts.tryAgain}</Button>}
              >
                {library.error.message}
              </Empty>
            ) : empty ? (
              <Empty
                title={texts.theLibraryIsEmpty}
                action={
                  <Button look="brass" onClick={() => router.push('/intake')}>
                    {texts.bringFilesIn}
                  </Button>
                }
              >
                {counts && counts.bin > 0 ? texts.theBinHas(counts.bin) : ''}
                {texts.dropMotionFilesOr}
              </Empty>
            ) : list && library.count === 0 ? (
              <Empty
                title={view.bin && list.total === 0 ? texts.theBinIsEmpty : texts.nothingMatches}
                action={!(view.bin && list.total === 0) && <Button onClick={showAll}>{texts.showEverything}</Button>}
              >
                {view.bin && list.total === 0 ? texts.deletedItemsStayHere : texts.theSearchAndFilters(list.total)}
              </Empty>
            ) : list ? (
              <ItemViews
                library={library}
                density={view.view}
                chosenId={chosen?.id}
                selected={selection.ids}
                performer={performer.rig}
                clock={clock}
                columns={columns}
                sort={view.sort}
                backwards={view.backwards ?? false}
                onSort={(sort) =>
                  void setView({ sort, backwards: sort === view.sort && !view.backwards ? true : null })
                }
                onChoose={chooseBy}
                onPoint={point}
                onOpen={open}
              />
            ) : (
              <div className="mx-4 flex flex-col gap-2" aria-busy>
                {[0, 1, 2, 3].map((i) => (
                  <div key={i} className="h-28 animate-pulse rounded-lg bg-raised/50" />
                ))}
              </div>
            )}
          </div>
        </section>
      </Panel>
      {chosen && (
        <>
          <ExportDialog
            open={dialog === 'export'}
            onOpenChange={(o) => setDialog(o ? 'export' : null)}
            itemId={chosen.id}
            name={several ? `${many(selectedIds.length, 'item')}` : chosen.name}
            fps={chosen.facts.fps}
            many={several ? selectedIds : undefined}
            flat={!several && chosen.id === shown?.id && source.data?.rig.kind === 'cutout'}
            performer={performer.member && { id: performer.member.id, name: performer.member.name }}
          />
          <VersionsDialog
            open={dialog === 'versions'}
            onOpenChange={(o) => setDialog(o ? 'versions' : null)}
            item={chosen}
            onUndo={undoGroup}
          />
        </>
      )}
      <CompareDialog
        open={dialog === 'compare'}
        onOpenChange={(o) => setDialog(o ? 'compare' : null)}
        ids={selectedIds}
      />
      <BinDialog
        open={dialog === 'bin'}
        onOpenChange={(o) => setDialog(o ? 'bin' : null)}
        ids={several ? selectedIds : undefined}
      />
    </Panels>
  );
}
