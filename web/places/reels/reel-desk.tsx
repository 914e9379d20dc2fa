'use client';

import type { CorrectionTrack, Match, Overlay, Placement, Stretch } from '@velvet-reel/motion';
import { laidOf, meetAt, stretchLength } from '@velvet-reel/motion';
import { LayoutGrid, Maximize2, X } from 'lucide-react';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { toast } from 'sonner';
import { useKeys } from '@/client/keys';
import { useLookingAt } from '@/client/live';
import { useCast, useItem } from '@/client/queries';
import { useMe } from '@/client/session';
import { solver } from '@/client/solver';
import { useStable } from '@/client/use-stable';
import type { CastMember, Item } from '@/contract';
import type { ReelContent } from '@/documents/reel';
import { type Held, heldKey, heldName, pulledKey, withKey } from '@/parts/held';
import type { Stretch as Frames, Grip } from '@/parts/lanes/span';
import { OthersHere } from '@/parts/others-here';
import type { ReelWish } from '@/solver/solve-reel';
import { Clock } from '@/stage/clock';
import type { StageHandle } from '@/stage/contract';
import type { Pull } from '@/stage/handle-gizmo';
import { Transport } from '@/stage/transport';
import { Button, IconButton } from '@/ui/button';
import { Empty } from '@/ui/empty';
import { KeptInput, Select } from '@/ui/field';
import { newGesture } from '@/ui/gesture';
import { Edge, Panel, Panels } from '@/ui/panels';
import { TabList, TabPanel, Tabs } from '@/ui/tabs';
import { BakeDialog } from './bake-dialog';
import type { Chosen } from './chosen';
import { HandPanel } from './hand-panel';
import { JoinInspector, MemberInspector, OverlayInspector, PlacementInspector } from './inspector';
import { LibraryDrawer } from './library-drawer';
import { NumberField } from './number-field';
import { PoseTrial } from './pose-trial';
import {
  addMarker,
  addMember,
  changeKeys,
  changeMarker,
  changeOverlay,
  changePlacement,
  copyStretch,
  landmarks,
  lay,
  layBehind,
  layOverBase,
  longEnough,
  removeMarker,
  removeMember,
  removeStretch,
  sameOn,
  setMuted,
  split,
  trimmed,
} from './reel-edits';
import { newerThan, ReelLanes, within } from './reel-lanes';
import { type OnStage, ReelStage } from './reel-stage';
import { layable, type ReelData, sameWish, usePerformances } from './use-performances';
import { useReel } from './use-reel';

type Side = 'chosen' | 'hand' | 'library';
const NOBODY: readonly CastMember[] = [];

const SAVING = {
  saved: 'saved',
  waiting: 'saving …',
  saving: 'saving …',
  offline: 'not saved: the server is away',
  refused: 'not saved',
} as const;

/** One reel: its stage, its lanes, and what is chosen on them. */
export function ReelDesk({ id, onAll }: { id: string; onAll: () => void }) {
  const me = useMe();
  const mayChange = me.role !== 'viewer';
  const document = useReel(id, mayChange);
  const reel = document.content;
  const cast = useCast();
  const members = cast.data ?? NOBODY;
  useLookingAt(id);
  const [clock] = useState(() => new Clock());
  const stage = useRef<StageHandle | null>(null);
  const [chosen, setChosen] = useState<Chosen | null>(null);
  // a pose on trial: shown on top of what is kept, until its key is set or it is given up
  const [trial, setTrial] = useState<{
    item: Item;
    memberId: string;
    frame: number;
    keys: readonly CorrectionTrack[] | null;
  } | null>(null);
  const seen = useMemo(() => (trial?.keys ? changeKeys(reel, trial.memberId, trial.keys) : reel), [reel, trial]);
  const data = usePerformances(seen);
  const trialWish = useTrialWish(reel, trial?.memberId, data);
  const [side, setSide] = useState<Side>('library');
  const [wanted, setView] = useState<{ start: number; shown: number } | null>(null);
  const view = useMemo(
    () => (wanted ? within(wanted.start, wanted.shown, reel.frames) : { start: 0, shown: reel.frames }),
    [wanted, reel.frames],
  );
  const [range, setRange] = useState<{ start: number; end: number } | null>(null);
  const [shift, setShift] = useState(false);
  const [ghosts, setGhosts] = useState(false);
  const [held, setHeld] = useState<Held | null>(null);
  const [mode, setMode] = useState<'move' | 'turn'>('move');
  const [baking, setBaking] = useState(false);
  const [matches, setMatches] = useState<{ of: string; list: readonly Match[]; items: MatchItems } | null>(null);
  const [trying, setTrying] = useState<number | null>(null);
  const memberId = chosen?.memberId ?? reel.members[0]?.id;
  const member = reel.members.find((m) => m.id === memberId);
  const who = members.find((c) => c.id === member?.castId);

  useEffect(() => clock.play({ frameCount: reel.frames, fps: reel.fps }), [clock, reel.frames, reel.fps]);
  useEffect(() => {
    clock.setPlaying(false);
  }, [clock]);

  const set = useStable((next: ReelContent, label: string, gesture?: string): void => {
    if (mayChange && next !== reel) document.change(next, label, gesture);
  });
  const itemOf = useCallback((s: Stretch) => data.items.get(laidOf(s)), [data.items]);
  const lengthOf = useCallback(
    (s: Placement | Overlay): number => {
      const item = data.items.get(laidOf(s));
      return item ? stretchLength(s, item.facts, reel.fps) : 24;
    },
    [data.items, reel.fps],
  );
  const nameOf = (s: Stretch): string => itemOf(s)?.name ?? 'the item';
  const placement = chosen && member?.base.find((p) => p.id === chosen.id);
  const overlay = chosen?.kind === 'over' ? member?.overlays.find((o) => o.id === chosen.id) : undefined;
  const stretch = chosen?.kind === 'base' ? placement : overlay;
  const choose = useStable((next: Chosen): void => {
    setChosen(next);
    if (next.kind !== 'key') setSide('chosen');
    if (next.kind === 'join' && next.id !== matches?.of) {
      setMatches(null);
      setTrying(null);
    }
  });

  // what is dragged on the lanes
  const onPlace = useStable((m: string, p: Placement, to: Frames, grip: Grip): void => {
    const item = itemOf(p);
    if (!item) return;
    const change = grip === 'whole' ? { at: to.start } : trimmed(p, to, layable(item), reel.fps);
    const next = changePlacement(reel, m, p.id, change, shift && grip === 'whole');
    const end = (change.at ?? p.at) + stretchLength({ ...p, ...change }, item.facts, reel.fps) - 1;
    set(longEnough(next, end), grip === 'whole' ? `Moved ${item.name}` : `Trimmed ${item.name}`);
  });
  const onOver = useStable((m: string, o: Overlay, to: Frames, grip: Grip): void => {
    const item = itemOf(o);
    if (!item) return;
    const change = grip === 'whole' ? { at: to.start } : trimmed(o, to, layable(item), reel.fps);
    set(
      longEnough(changeOverlay(reel, m, o.id, change), to.end),
      grip === 'whole' ? `Moved ${item.name}` : `Trimmed ${item.name}`,
    );
  });
  const onRemove = useStable((m: string, what: string): void => {
    const own = reel.members.find((x) => x.id === m);
    const s = [...(own?.base ?? []), ...(own?.overlays ?? [])].find((x) => x.id === what);
    if (!s) return;
    set(removeStretch(reel, m, what), `Removed ${nameOf(s)}`);
    setChosen({ kind: 'member', memberId: m });
  });
  const setKeys = useStable((keys: CorrectionTrack[], label: string, gesture?: string): void => {
    if (member) set(changeKeys(reel, member.id, keys), label, gesture);
  });
  const onMoveKey = useStable((m: string, from: number, to: number): void => {
    const own = reel.members.find((x) => x.id === m);
    if (!own) return;
    const keys = own.keys.map((t) => ({
      ...t,
      keys: t.keys
        .filter((k) => k.frame === from || k.frame !== to || !t.keys.some((x) => x.frame === from))
        .map((k) => (k.frame === from ? { ...k, frame: to } : k))
        .sort((a, b) => a.frame - b.frame),
    }));
    set(changeKeys(reel, m, keys), `Moved the keys at frame ${from + 1} to ${to + 1}`);
  });
  const onRemoveKey = useStable((m: string, frame: number): void => {
    const own = reel.members.find((x) => x.id === m);
    if (!own) return;
    const keys = own.keys
      .map((t) => ({ ...t, keys: t.keys.filter((k) => k.frame !== frame) }))
      .filter((t) => t.keys.length > 0);
    set(changeKeys(reel, m, keys), `Removed the keys at frame ${frame + 1}`);
  });

  // laying
  const [pending, setPending] = useState<{
    memberId: string | null;
    itemId: string;
    frame: number;
    over: boolean;
  } | null>(null);
  const withSomebody = (): { reel: ReelContent; memberId: string } | undefined => {
    if (memberId) return { reel, memberId };
    const castId = me.performerId ?? members[0]?.id;
    if (!castId) return undefined;
    const added = addMember(reel, castId);
    return { reel: added.reel, memberId: added.id };
  };
  const layItem = (item: Item, m: string | null, frame: number | null, over: boolean): void => {
    const on = m ? { reel, memberId: m } : withSomebody();
    if (!on) {
      toast('Bring a character into the cast first: items are laid on somebody.');
      return;
    }
    const what = layable(item);
    const laid = over
      ? layOverBase(on.reel, on.memberId, what, frame ?? clock.frame, ['head'])
      : frame === null
        ? layBehind(on.reel, on.memberId, what, lengthOf)
        : lay(on.reel, on.memberId, what, frame);
    set(laid.reel, over ? `Laid ${item.name} over the base` : `Laid ${item.name}`);
    setChosen({ kind: over ? 'over' : 'base', memberId: on.memberId, id: laid.id });
    if (over) setSide('chosen');
  };
  const onDrop = useStable((m: string | null, itemId: string, frame: number, over: boolean): void =>
    setPending({ memberId: m, itemId, frame, over }),
  );
  const onAddMember = useStable((): void => {
    const free = members.find((c) => !reel.members.some((m) => m.castId === c.id)) ?? members[0];
    if (!free) {
      toast('The cast is empty: bring a character in first.');
      return;
    }
    const added = addMember(reel, free.id);
    set(added.reel, `Put ${free.name} on the reel`);
    setChosen({ kind: 'member', memberId: added.id });
    setSide('chosen');
  });
  const onMute = useStable((m: string, muted: boolean): void =>
    set(setMuted(reel, m, muted), muted ? 'Hidden' : 'Shown'),
  );
  const marks = useMemo(() => landmarks(reel, lengthOf), [reel, lengthOf]);
  const onMarker = useStable((marker: { id: string; name: string }, frame: number): void =>
    set(changeMarker(reel, marker.id, { frame }), `Moved ${marker.name}`),
  );

  // posing
  const start = useRef<ReturnType<typeof heldKey>>({ move: [0, 0, 0], turn: [0, 0, 0, 1] });
  const gesture = useRef('');
  const onPullStart = useStable((): void => {
    clock.setPlaying(false);
    gesture.current = newGesture();
    if (held && member) start.current = heldKey(member.keys, held, clock.frame);
  });
  const onPull = useStable((by: Pull): void => {
    if (!held || !member) return;
    const key = pulledKey(start.current, by, mode, held);
    setKeys(
      withKey(member.keys, held, clock.frame, key),
      `Pulled the ${heldName(held)} at frame ${clock.frame + 1}`,
      gesture.current,
    );
  });

  // joins
  const previous = useMemo(() => {
    if (chosen?.kind !== 'join' || !member) return undefined;
    const lane = member.base.filter((p) => !p.muted);
    return lane[lane.findIndex((p) => p.id === chosen.id) - 1];
  }, [chosen, member]);
  const join =
    chosen?.kind === 'join' ? data.done.get(chosen.memberId)?.joins.find((j) => j.to === chosen.id) : undefined;
  const findBest = useStable(async (): Promise<void> => {
    const wish = memberId && data.wishes.get(memberId);
    if (!wish || !previous || !placement) return;
    try {
      const found = await solver().matches(wish, previous, placement);
      setMatches({ of: placement.id, list: found.matches, items: found.items });
      if (found.matches.length > 0) takeMatch(0, found.matches, found.items);
    } catch (e) {
      toast.error((e as Error).message);
    }
  });
  const takeMatch = useStable((i: number, list: readonly Match[], items: MatchItems): void => {
    if (!member || !previous || !placement || !list[i]) return;
    const met = meetAt({ ...previous, to: null }, { ...placement, from: 0 }, list[i], items, reel.fps);
    const cut = changePlacement(reel, member.id, previous.id, met.previous);
    const next = changePlacement(cut, member.id, placement.id, met.next, true);
    const end = Math.max(...next.members.flatMap((m) => m.base.map((p) => p.at + lengthOf(p))));
    set(longEnough(next, end - 1), `Met where ${nameOf(previous)} and ${nameOf(placement)} are most alike`);
    setTrying(i);
    clock.setPlaying(false);
    clock.seekFrame(met.next.at);
  });

  const tryPose = (item: Item): void => {
    if (!member) return;
    clock.setPlaying(false);
    setHeld(null);
    setTrial({ item, memberId: member.id, frame: clock.frame, keys: null });
    setSide('hand');
  };
  const takeNewest = (s: Placement | Overlay): void => {
    const now = data.newest.get(s.itemId);
    if (!now || !memberId) return;
    const change = { versionId: now.versionId };
    const next =
      'join' in s ? changePlacement(reel, memberId, s.id, change) : changeOverlay(reel, memberId, s.id, change);
    set(next, `Took the newest version of ${now.name}`);
  };
  const removeChosen = (): void => {
    if (!chosen) return;
    if (chosen.kind === 'key') onRemoveKey(chosen.memberId, Number(chosen.id));
    else if (chosen.kind === 'base' || chosen.kind === 'over') onRemove(chosen.memberId, chosen.id);
  };
  const cut = (): void => {
    const item = placement && itemOf(placement);
    if (!placement || !item || !memberId) return;
    const made = split(reel, memberId, placement.id, clock.frame, item.facts);
    if (!made) {
      toast(
        placement.repeats > 1
          ? 'What repeats cannot be cut: set it to be played once first.'
          : 'Move the playhead onto the item first: it is cut there.',
      );
      return;
    }
    set(made.reel, `Cut ${item.name} at frame ${clock.frame + 1}`);
    setChosen({ kind: 'base', memberId, id: made.id });
  };
  const copy = (): void => {
    if (!stretch || !memberId) return;
    const made = copyStretch(reel, memberId, stretch.id, lengthOf);
    set(made.reel, `Copied ${nameOf(stretch)}`);
    setChosen({ kind: chosen!.kind as 'base' | 'over', memberId, id: made.id });
  };
  const zoomTo = (first: number, last: number): void => {
    const pad = Math.max(6, 0.25 * (last - first));
    setView(within(first - pad, last - first + 2 * pad, reel.frames));
  };
  const zoom = (by: number): void => {
    const shown = Math.min(reel.frames, Math.max(10, view.shown * by));
    setView(within(clock.frame - shown / 2, shown, reel.frames));
  };
  const mark = (): void => {
    set(addMarker(reel, clock.frame, `mark ${reel.markers.length + 1}`), `Marked frame ${clock.frame + 1}`);
  };
  useKeys('space', () => clock.setPlaying(!clock.playing));
  useKeys('comma', () => clock.step(-1));
  useKeys('period', () => clock.step(1));
  useKeys('l', () => clock.setLoop(!clock.loop));
  useKeys('delete,backspace', removeChosen);
  useKeys('s', cut);
  useKeys('d', copy);
  useKeys('n', () => chosen?.kind === 'join' && findBest());
  useKeys('k', () => memberId && setBaking(true));
  useKeys('g', () => setGhosts(!ghosts));
  useKeys('f', () => setView(null));
  useKeys('j', () => join && zoomTo(join.start, join.end));
  useKeys('equal', () => zoom(0.6));
  useKeys('minus', () => zoom(1 / 0.6));
  useKeys('a', mark);
  useKeys('t', () => setMode(mode === 'move' ? 'turn' : 'move'));
  useKeys('1', () => setSide('library'));
  useKeys('2', () => setSide('chosen'));
  useKeys('3', () => setSide('hand'));
  useKeys('bracketleft', () =>
    setRange({ start: clock.frame, end: Math.max(clock.frame, range?.end ?? reel.frames - 1) }),
  );
  useKeys('bracketright', () => setRange({ start: Math.min(clock.frame, range?.start ?? 0), end: clock.frame }));
  useKeys('escape', () => {
    setRange(null);
    setHeld(null);
    setTrial(null);
  });

  const shown = useMemo<readonly OnStage[]>(
    () =>
      reel.members.flatMap((m) => {
        const own = members.find((c) => c.id === m.castId);
        const rig = data.rigs.get(m.id);
        const done = data.done.get(m.id);
        return own && rig && done && !m.muted ? [{ id: m.id, cast: own, rig, done, chosen: m.id === memberId }] : [];
      }),
    [reel.members, members, data.rigs, data.done, memberId],
  );
  const rig = memberId ? data.rigs.get(memberId) : undefined;
  const joints = useMemo(() => rig?.rig.joints.map((j) => j.name) ?? [], [rig]);
  if (!document.loaded)
    return document.trouble ? (
      <Empty title="This reel could not be opened" action={<Button onClick={onAll}>All reels</Button>}>
        {document.trouble}
      </Empty>
    ) : (
      <div className="stage-back h-full" />
    );
  const problems = [...data.errors.values()];
  return (
    <div className="flex h-full">
      {pending && (
        <LayPending
          key={`${pending.itemId} ${pending.frame}`}
          itemId={pending.itemId}
          onItem={(item) => {
            layItem(item, pending.memberId, pending.frame, pending.over);
            setPending(null);
          }}
        />
      )}
      <Panels id="reel" upright className="min-w-0 flex-1">
        <Panel id="stage" defaultSize="52" minSize={180}>
          <section aria-label="Stage" className="relative h-full min-w-0">
            <ReelStage
              clock={clock}
              members={shown}
              ghosts={ghosts}
              held={side === 'hand' && mayChange ? held : null}
              mode={mode}
              handle={stage}
              onPullStart={onPullStart}
              onPull={onPull}
            />
            <div className="absolute top-2.5 left-3.5 flex items-center gap-2">
              <IconButton label="All reels" onClick={onAll} quiet>
                <LayoutGrid size={15} />
              </IconButton>
              <KeptInput
                aria-label="Name of the reel"
                className="heading w-56 border-transparent! bg-transparent! px-1! py-0! text-[17px] hover:border-line!"
                value={reel.name}
                readOnly={!mayChange}
                onKeep={(name) => name && set({ ...reel, name }, `Named the reel ${name}`)}
              />
              <span
                role="status"
                className={document.state === 'saved' || !mayChange ? 'text-muted' : 'text-brass-text'}
                title={document.trouble ?? undefined}
              >
                {mayChange ? SAVING[document.state] : 'you may look and try; nothing is stored'}
              </span>
              {document.state === 'refused' && (
                <>
                  <span className="text-raspberry">{document.trouble}</span>
                  <Button size="tiny" onClick={document.giveUp}>
                    Give it up
                  </Button>
                </>
              )}
            </div>
            <OthersHere subjectId={id} className="absolute top-10 left-3.5" />
            {problems.length > 0 && (
              <p
                role="alert"
                className="absolute bottom-2 left-3.5 max-w-md rounded-md border border-raspberry bg-panel px-2 py-1"
              >
                {problems[0]}
              </p>
            )}
            {reel.members.length === 0 && (
              <div className="absolute inset-0">
                <Empty
                  title="Nobody is on this reel yet"
                  action={
                    mayChange ? (
                      <Button look="brass" onClick={onAddMember}>
                        Add a cast member
                      </Button>
                    ) : undefined
                  }
                >
                  Then lay items of the library on their lane, one behind the other.
                </Empty>
              </div>
            )}
          </section>
        </Panel>
        <Edge label="Between stage and lanes" upright />
        <Panel id="lanes" minSize={160}>
          <div className="flex h-full min-w-0 flex-col bg-velvet">
            <div className="flex items-center gap-2 border-b border-line px-3 py-1">
              <div className="w-[430px] shrink-0">
                <Transport clock={clock} />
              </div>
              <span className="text-muted">{reel.fps} frames/s</span>
              <Button size="tiny" onClick={() => setView(null)} keys="F" hint="The whole reel in view">
                <Maximize2 size={12} className="mr-1 inline" /> whole
              </Button>
              <Button
                size="tiny"
                look={shift ? 'brass' : 'plain'}
                aria-pressed={shift}
                onClick={() => setShift(!shift)}
                hint="What lies behind an item that is moved goes along with it"
              >
                {shift ? 'the rest goes along' : 'the rest stays'}
              </Button>
              <span className="ml-auto" />
              {range && (
                <button
                  type="button"
                  className="text-brass-text"
                  onClick={() => setRange(null)}
                  title="Esc takes the range away"
                >
                  frames {range.start + 1} to {range.end + 1} ×
                </button>
              )}
              {mayChange && (
                <Button
                  size="small"
                  look="brass"
                  disabled={!member || member.base.length === 0}
                  onClick={() => setBaking(true)}
                  keys="K"
                >
                  {range ? 'Grab this range' : 'Bake'} …
                </Button>
              )}
            </div>
            <div className="min-h-0 flex-1">
              <ReelLanes
                clock={clock}
                reel={reel}
                data={data}
                cast={members}
                view={view}
                range={range}
                chosen={chosen}
                landmarks={marks}
                mayChange={mayChange}
                onChoose={choose}
                onPlace={onPlace}
                onOver={onOver}
                onMoveKey={onMoveKey}
                onRemoveKey={onRemoveKey}
                onRemove={onRemove}
                onMute={onMute}
                onDrop={onDrop}
                onMarker={onMarker}
                onAddMember={onAddMember}
                onView={setView}
              />
            </div>
          </div>
        </Panel>
      </Panels>
      <aside aria-label="Reel" className="flex w-[300px] shrink-0 flex-col border-l border-line bg-panel p-3">
        <Tabs value={side} onChange={setSide} className="flex min-h-0 flex-1 flex-col gap-2">
          <TabList
            label="What stands here"
            tabs={[
              { value: 'library', word: 'Library', title: '1' },
              { value: 'chosen', word: 'Chosen', title: '2' },
              { value: 'hand', word: 'By hand', title: '3' },
            ]}
          />
          <TabPanel value="library" className="min-h-0 flex-1">
            <LibraryDrawer
              performer={rig ?? undefined}
              onLay={mayChange ? (item) => layItem(item, memberId ?? null, null, false) : undefined}
              onOver={mayChange && member ? (item) => layItem(item, member.id, null, true) : undefined}
              onPose={mayChange && member ? tryPose : undefined}
            />
          </TabPanel>
          <TabPanel value="chosen" className="-mr-3 min-h-0 flex-1 overflow-y-auto pr-3">
            {chosen?.kind === 'join' && placement && member ? (
              <JoinInspector
                from={previous && itemOf(previous)}
                to={itemOf(placement)}
                placement={placement}
                join={join}
                matches={matches?.of === placement.id ? matches.list : undefined}
                trying={trying}
                mayChange={mayChange}
                onChange={(change, label, g) =>
                  set(
                    changePlacement(reel, member.id, placement.id, { join: { ...placement.join, ...change } }),
                    label,
                    g,
                  )
                }
                onFind={() => void findBest()}
                onMatch={(i) => matches && takeMatch(i, matches.list, matches.items)}
              />
            ) : chosen?.kind === 'base' && placement && member ? (
              <PlacementInspector
                of={placement}
                castId={member.castId}
                newer={newerThan(placement, data)}
                onNewest={() => takeNewest(placement)}
                item={itemOf(placement)}
                reel={reel}
                mayChange={mayChange}
                onSplit={cut}
                onCopy={copy}
                onRemove={removeChosen}
                onChange={(change, label) => {
                  const next = changePlacement(reel, member.id, placement.id, change, shift);
                  set(longEnough(next, (change.at ?? placement.at) + lengthOf({ ...placement, ...change }) - 1), label);
                }}
              />
            ) : overlay && member ? (
              <OverlayInspector
                of={overlay}
                newer={newerThan(overlay, data)}
                onNewest={() => takeNewest(overlay)}
                absolute={data.done.get(member.id)?.absolute.includes(overlay.id) ?? false}
                item={itemOf(overlay)}
                reel={reel}
                mayChange={mayChange}
                onCopy={copy}
                onRemove={removeChosen}
                onChange={(change, label, g) => set(changeOverlay(reel, member.id, overlay.id, change), label, g)}
              />
            ) : member ? (
              <MemberInspector
                member={member}
                who={who}
                cast={members}
                mayChange={mayChange}
                onSameOn={(castId) => {
                  const made = sameOn(reel, member.id, castId);
                  set(
                    made.reel,
                    `Put the same on ${members.find((c) => c.id === castId)?.name ?? 'another character'}`,
                  );
                  setChosen({ kind: 'member', memberId: made.id });
                }}
                onRemove={() => {
                  set(removeMember(reel, member.id), `Took ${who?.name ?? 'a member'} off the reel`);
                  setChosen(null);
                }}
                onBake={() => setBaking(true)}
              />
            ) : (
              <p className="text-muted">Choose something on the lanes.</p>
            )}
            <ReelFields reel={reel} mayChange={mayChange} onChange={set} onMark={mark} />
          </TabPanel>
          <TabPanel value="hand" className="min-h-0 flex-1 overflow-y-auto">
            {member && reel.members.length > 1 && (
              <Select
                label="Who is posed"
                className="mb-2 w-full"
                value={member.id}
                options={reel.members.map((m) => ({
                  value: m.id,
                  label: members.find((c) => c.id === m.castId)?.name ?? 'gone',
                }))}
                onChange={(m) => setChosen({ kind: 'member', memberId: m })}
              />
            )}
            {trial && (
              <PoseTrial
                key={trial.item.id}
                item={trial.item}
                wish={trialWish}
                frame={trial.frame}
                onTry={(keys) => setTrial((t) => (t ? { ...t, keys } : null))}
                onSet={(keys, label) => {
                  set(changeKeys(reel, trial.memberId, keys), label);
                  setTrial(null);
                }}
                onCancel={() => setTrial(null)}
              />
            )}
            {member && !trial && (
              <HandPanel
                keys={member.keys}
                joints={joints}
                held={held}
                mode={mode}
                frame={() => clock.frame}
                fps={reel.fps}
                mayChange={mayChange}
                onHold={(h) => {
                  clock.setPlaying(false);
                  setHeld(h);
                }}
                onMode={setMode}
                onChange={setKeys}
              />
            )}
          </TabPanel>
        </Tabs>
      </aside>
      {baking && member && (
        <BakeDialog
          reelId={id}
          reel={reel}
          memberId={member.id}
          who={who?.name ?? 'a character'}
          range={range}
          others={reel.members
            .filter((m) => m.id !== member.id && !m.muted && m.base.length > 0)
            .map((m) => members.find((c) => c.id === m.castId)?.name ?? 'somebody')}
          onShow={(frame) => {
            clock.setPlaying(false);
            clock.seekFrame(frame);
          }}
          muted={[...member.base, ...member.overlays].filter((s) => s.muted).map((s) => nameOf(s))}
          onClose={() => setBaking(false)}
        />
      )}
    </div>
  );
}

type MatchItems = Parameters<typeof meetAt>[3];

/** What a trial is asked of: what is kept, whatever is shown on top of it; the same until that changes. */
function useTrialWish(reel: ReelContent, memberId: string | undefined, { wishes }: ReelData): ReelWish | undefined {
  const member = reel.members.find((m) => m.id === memberId);
  const wish = memberId ? wishes.get(memberId) : undefined;
  const now = useMemo(() => (wish && member ? { ...wish, member } : undefined), [wish, member]);
  const last = useRef(now);
  if (!now || !last.current || !sameWish(last.current, now)) last.current = now;
  return last.current;
}

/** An item that was dropped is read before it can be laid, for its length has to be known. */
function LayPending({ itemId, onItem }: { itemId: string; onItem: (item: Item) => void }) {
  const { data, error } = useItem(itemId);
  const lay = useStable(onItem);
  useEffect(() => {
    if (data) lay(data);
    else if (error) toast.error(error.message);
  }, [data, error, lay]);
  return null;
}

/** What is set for the reel as a whole. */
function ReelFields({
  reel,
  mayChange,
  onChange,
  onMark,
}: {
  reel: ReelContent;
  mayChange: boolean;
  onChange: (next: ReelContent, label: string) => void;
  onMark: () => void;
}) {
  if (!mayChange) return null;
  return (
    <section aria-label="The reel" className="mt-4 flex flex-col gap-1 border-t border-line pt-3">
      <h3 className="text-[12px] text-muted">the reel</h3>
      <NumberField
        label="length, frames"
        value={reel.frames}
        low={1}
        high={100_000}
        onKeep={(frames) => onChange({ ...reel, frames }, `Reel of ${frames} frames`)}
      />
      <NumberField
        label="frames a second"
        value={reel.fps}
        low={1}
        high={240}
        onKeep={(fps) => onChange({ ...reel, fps }, `Reel at ${fps} frames/s`)}
      />
      {reel.markers.map((m) => (
        <div key={m.id} className="flex items-center gap-1">
          <KeptInput
            aria-label={`Name of the marker at frame ${m.frame + 1}`}
            className="min-w-0 flex-1 py-0.5!"
            value={m.name}
            onKeep={(name) => onChange(changeMarker(reel, m.id, { name }), `Named a marker ${name}`)}
          />
          <span className="w-12 text-right text-muted">{m.frame + 1}</span>
          <IconButton
            label={`Remove ${m.name}`}
            onClick={() => onChange(removeMarker(reel, m.id), `Removed ${m.name}`)}
            quiet
          >
            <X size={12} />
          </IconButton>
        </div>
      ))}
      <Button size="small" onClick={onMark} keys="A">
        Mark the playhead
      </Button>
    </section>
  );
}
