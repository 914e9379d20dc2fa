'use client';

import type { CorrectionTrack, Motion, Overlay, Placement, Stretch } from '@velvet-reel/motion';
import { laidOf, shotAt, stretchLength } from '@velvet-reel/motion';
import { Maximize2 } from 'lucide-react';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { toast } from 'sonner';
import { useKeys } from '@/client/keys';
import { useLookingAt, useTellPlayhead } from '@/client/live';
import { useCast } from '@/client/queries';
import { useMe } from '@/client/session';
import { useStable } from '@/client/use-stable';
import type { CastMember, Item } from '@/contract';
import type { ReelContent } from '@/documents/reel';
import { type Held, heldKey, heldName, pulledKey, withKey } from '@/parts/held';
import type { Stretch as Frames, Grip } from '@/parts/lanes/span';
import { OthersHere } from '@/parts/others-here';
import { Clock } from '@/stage/clock';
import type { StageHandle } from '@/stage/contract';
import type { Pull } from '@/stage/handle-gizmo';
import { rigView } from '@/stage/rig-view';
import { Transport } from '@/stage/transport';
import { Button } from '@/ui/button';
import { Empty } from '@/ui/empty';
import { Select } from '@/ui/field';
import { newGesture } from '@/ui/gesture';
import { Edge, Panel, Panels } from '@/ui/panels';
import { TabList, TabPanel, Tabs } from '@/ui/tabs';
import { Awaited } from './awaited';
import { BakeDialog } from './bake-dialog';
import { CameraFields } from './cameras';
import type { Chosen } from './chosen';
import { DrawingKeys } from './drawing-keys';
import { FaceKeys } from './face-keys';
import { HandPanel } from './hand-panel';
import { JoinInspector } from './join-inspector';
import { LayPending } from './lay-pending';
import { LibraryDrawer } from './library-drawer';
import { MemberInspector } from './member-inspector';
import { OverlayInspector } from './overlay-inspector';
import { PoseTrial } from './pose-trial';
import { RecordPanel } from './record/record-panel';
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
  layBetween,
  layOverBase,
  longEnough,
  moveKeys,
  removeKeys,
  removeLevelKey,
  removeMember,
  removeStretch,
  sameOn,
  setLabelKey,
  setLabelKeys,
  setLevelKey,
  setMuted,
  split,
  trimmed,
  withMember,
} from './reel-edits';
import { ReelFields } from './reel-fields';
import { ReelHead } from './reel-head';
import { newerThan, ReelLanes, within } from './reel-lanes';
import { type OnStage, ReelStage } from './reel-stage';
import { PlacementInspector } from './stretch-inspector';
import { reelDesk as texts } from './texts';
import { useMatching } from './use-matching';
import { layable, usePerformances } from './use-performances';
import { useReel } from './use-reel';
import { useTrialWish } from './use-trial-wish';

type Side = 'chosen' | 'hand' | 'library' | 'record';
const NOBODY: readonly CastMember[] = [];

interface ReelDeskProps {
  id: string;
  onAll: () => void;
  onField: () => void;
  onLive: () => void;
}

/** One reel: its stage, its lanes, and what is chosen on them. */
export function ReelDesk({ id, onAll, onField, onLive }: ReelDeskProps) {
  const me = useMe();
  const mayChange = me.role !== 'viewer';
  const document = useReel(id, mayChange);
  const reel = document.content;
  const cast = useCast();
  const members = cast.data ?? NOBODY;
  useLookingAt(id);
  const [clock] = useState(() => new Clock());
  useTellPlayhead(id, clock);
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
  const [curvesOf, setCurvesOf] = useState<string | null>(null);
  const [wantedCamera, setThrough] = useState<string | null>(null);
  const camera = reel.cameras?.find((c) => c.id === wantedCamera);
  const through = camera?.id ?? null;
  const cameraKeys = camera?.keys;
  const shot = useMemo(() => cameraKeys && ((frame: number) => shotAt(cameraKeys, frame)), [cameraKeys]);
  const memberId = chosen?.memberId ?? reel.members[0]?.id;
  const member = reel.members.find((m) => m.id === memberId);
  const who = members.find((c) => c.id === member?.castId);

  useEffect(() => clock.play({ frameCount: reel.frames, fps: reel.fps }), [clock, reel.frames, reel.fps]);
  useEffect(() => {
    clock.setPlaying(false);
  }, [clock]);

  const set = useStable((next: ReelContent, label: string, gesture?: string): void => {
    if (next !== reel) document.change(next, label, gesture);
  });
  const itemOf = useCallback((s: Stretch) => data.items.get(laidOf(s)), [data.items]);
  const lengthOf = useCallback(
    (s: Placement | Overlay): number => {
      const item = data.items.get(laidOf(s));
      return item ? stretchLength(s, item.facts, reel.fps) : 24;
    },
    [data.items, reel.fps],
  );
  const nameOf = (s: Stretch): string => itemOf(s)?.name ?? texts.theItem;
  const placement = chosen ? member?.base.find((p) => p.id === chosen.id) : undefined;
  const overlay = chosen?.kind === 'over' ? member?.overlays.find((o) => o.id === chosen.id) : undefined;
  const stretch = chosen?.kind === 'base' ? placement : overlay;
  const choose = useStable((next: Chosen): void => {
    setChosen(next);
    if (next.kind !== 'key') setSide('chosen');
  });

  // what is dragged on the lanes
  const onPlace = useStable((m: string, p: Placement, to: Frames, grip: Grip): void => {
    const item = itemOf(p);
    if (!item) return;
    const change = grip === 'whole' ? { at: to.start } : trimmed(p, to, layable(item), reel.fps);
    const next = changePlacement(reel, m, p.id, change, shift && grip === 'whole');
    const end = (change.at ?? p.at) + stretchLength({ ...p, ...change }, item.facts, reel.fps) - 1;
    set(longEnough(next, end), grip === 'whole' ? texts.moved(item.name) : texts.trimmed(item.name));
  });
  const onOver = useStable((m: string, o: Overlay, to: Frames, grip: Grip): void => {
    const item = itemOf(o);
    if (!item) return;
    const change = grip === 'whole' ? { at: to.start } : trimmed(o, to, layable(item), reel.fps);
    set(
      longEnough(changeOverlay(reel, m, o.id, change), to.end),
      grip === 'whole' ? texts.moved(item.name) : texts.trimmed(item.name),
    );
  });
  const onRemove = useStable((m: string, what: string): void => {
    const own = reel.members.find((x) => x.id === m);
    const s = [...(own?.base ?? []), ...(own?.overlays ?? [])].find((x) => x.id === what);
    if (!s) return;
    set(removeStretch(reel, m, what), texts.removed(nameOf(s)));
    setChosen({ kind: 'member', memberId: m });
  });
  const setKeys = useStable((keys: CorrectionTrack[], label: string, gesture?: string): void => {
    if (member) set(changeKeys(reel, member.id, keys), label, gesture);
  });
  const onKeys = useStable((m: string, keys: CorrectionTrack[], label: string, gesture?: string): void =>
    set(changeKeys(reel, m, keys), label, gesture),
  );
  const onMoveKey = useStable((m: string, from: number, to: number): void => {
    set(moveKeys(reel, m, from, to), texts.movedTheKeysAt(from + 1, to + 1));
  });
  const onRemoveKey = useStable((m: string, frame: number): void => {
    set(removeKeys(reel, m, frame), texts.removedTheKeysAt(frame + 1));
  });

  const onRemoveLevelKey = useStable((m: string, lane: 'numbers' | 'labels', name: string, frame: number): void => {
    set(removeLevelKey(reel, m, lane, name, frame), texts.removedAKeyOf(name));
  });
  // a pass that is being recorded is shown before it is written
  const [recorded, setRecorded] = useState<Motion>();

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
  const layItem = (item: Item, m: string | null, frame: number | null, over: boolean, between = shift): void => {
    const on = m ? { reel, memberId: m } : withSomebody();
    if (!on) {
      toast(texts.bringACharacterInto);
      return;
    }
    const onto = on.reel.members.find((x) => x.id === on.memberId)?.castId;
    if (item.bound && item.madeFor !== null && item.madeFor !== onto)
      toast(texts.meantFor(item.name, item.madeForName ?? undefined));
    const what = layable(item);
    const laid = over
      ? layOverBase(on.reel, on.memberId, what, frame ?? clock.frame, ['head'])
      : frame === null
        ? layBehind(on.reel, on.memberId, what, lengthOf)
        : between
          ? layBetween(on.reel, on.memberId, what, frame, (p) => itemOf(p)?.facts)
          : lay(on.reel, on.memberId, what, frame);
    set(
      laid.reel,
      over ? texts.laidOverTheBase(item.name) : between ? texts.inserted(item.name) : texts.laid(item.name),
    );
    setChosen({ kind: over ? 'over' : 'base', memberId: on.memberId, id: laid.id });
    if (over) setSide('chosen');
  };
  const onDrop = useStable((m: string | null, itemId: string, frame: number, over: boolean): void =>
    setPending({ memberId: m, itemId, frame, over }),
  );
  const onAddMember = useStable((): void => {
    const free = members.find((c) => !reel.members.some((m) => m.castId === c.id)) ?? members[0];
    if (!free) {
      toast(texts.theCastIsEmpty);
      return;
    }
    const added = addMember(reel, free.id);
    set(added.reel, texts.putOnTheReel(free.name));
    setChosen({ kind: 'member', memberId: added.id });
    setSide('chosen');
  });
  const onMute = useStable((m: string, muted: boolean): void =>
    set(
      setMuted(reel, m, muted),
      `${muted ? texts.hid : texts.showed} ${members.find((c) => c.id === reel.members.find((x) => x.id === m)?.castId)?.name ?? texts.aMember}`,
    ),
  );
  const marks = useMemo(() => landmarks(reel, lengthOf), [reel, lengthOf]);
  const onMarker = useStable((marker: { id: string; name: string }, frame: number): void =>
    set(changeMarker(reel, marker.id, { frame }), texts.moved(marker.name)),
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
      texts.pulledTheAtFrame(heldName(held), clock.frame + 1),
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
  const matching = useMatching({
    wish: memberId ? data.wishes.get(memberId) : undefined,
    previous,
    placement: chosen?.kind === 'join' ? placement : undefined,
    fps: reel.fps,
    onMeet: (before, after) => {
      if (!member || !previous || !placement) return;
      const earlier = changePlacement(reel, member.id, previous.id, before);
      const next = changePlacement(earlier, member.id, placement.id, after, true);
      const end = Math.max(...next.members.flatMap((m) => m.base.map((p) => p.at + lengthOf(p))));
      set(longEnough(next, end - 1), texts.metWhereAndAre(nameOf(previous), nameOf(placement)));
      clock.setPlaying(false);
      clock.seekFrame(after.at);
    },
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
    set(next, texts.tookTheNewestVersion(now.name));
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
      toast(placement.repeats > 1 ? texts.anItemThatRepeats : texts.moveThePlayheadOnto);
      return;
    }
    set(made.reel, texts.cutAtFrame(item.name, clock.frame + 1));
    setChosen({ kind: 'base', memberId, id: made.id });
  };
  const copy = (): void => {
    if (!stretch || !memberId) return;
    const made = copyStretch(reel, memberId, stretch.id, lengthOf);
    set(made.reel, texts.copied(nameOf(stretch)));
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
    set(addMarker(reel, clock.frame, `mark ${reel.markers.length + 1}`), texts.markedFrame(clock.frame + 1));
  };
  useKeys('space', () => clock.setPlaying(!clock.playing));
  useKeys('comma', () => clock.step(-1));
  useKeys('period', () => clock.step(1));
  useKeys('l', () => clock.setLoop(!clock.loop));
  useKeys('delete,backspace', removeChosen);
  useKeys('s', cut);
  useKeys('d', copy);
  useKeys('n', matching.find);
  useKeys('k', () => mayChange && memberId && setBaking(true));
  useKeys('g', () => setGhosts(!ghosts));
  useKeys('f', () => setView(null));
  useKeys('j', () => join && zoomTo(join.start, join.end));
  useKeys('equal', () => zoom(0.6));
  useKeys('minus', () => zoom(1 / 0.6));
  useKeys('a', mark);
  useKeys('c', () => member && member.keys.length > 0 && setCurvesOf(curvesOf === member.id ? null : member.id));
  useKeys('v', () => setThrough(through ? null : (reel.cameras?.[0]?.id ?? null)));
  useKeys('t', () => setMode(mode === 'move' ? 'turn' : 'move'));
  useKeys('1', () => setSide('library'));
  useKeys('2', () => setSide('chosen'));
  useKeys('3', () => setSide('hand'));
  useKeys('4', () => setSide('record'));
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
        if (!own || !rig || !done || m.muted) return [];
        const now = recorded && m.id === memberId ? { ...done, motion: recorded } : done;
        return [{ id: m.id, cast: own, rig, done: now, chosen: m.id === memberId }];
      }),
    [reel.members, members, data.rigs, data.done, memberId, recorded],
  );
  const rig = memberId ? data.rigs.get(memberId) : undefined;
  const body = rig && rigView(rig);
  const paper = body?.cutout ? body : undefined;
  const joints = useMemo(() => rig?.rig.joints.map((j) => j.name) ?? [], [rig]);
  if (!document.loaded)
    return document.trouble ? (
      <Empty title={texts.thisReelCouldNot} action={<Button onClick={onAll}>{texts.allReels}</Button>}>
        {document.trouble}
      </Empty>
    ) : (
      <div className="stage-back h-full" />
    );
  const problems = [...data.errors.values()];
  const awaited = reel.members
    .filter((m) => !m.muted && !data.done.has(m.id) && !data.errors.has(m.id))
    .flatMap((m) => members.find((c) => c.id === m.castId)?.name ?? []);
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
          <section aria-label={texts.stage} className="relative h-full min-w-0">
            <ReelStage
              clock={clock}
              members={shown}
              ghosts={ghosts}
              held={side === 'hand' && mayChange ? held : null}
              mode={mode}
              handle={stage}
              shot={shot}
              onPullStart={onPullStart}
              onPull={onPull}
            />
            <ReelHead
              document={document}
              mayChange={mayChange}
              onAll={onAll}
              onField={onField}
              onLive={onLive}
              onName={(name) => set({ ...reel, name }, texts.namedTheReel(name))}
            />
            <OthersHere subjectId={id} className="absolute top-10 left-3.5" />
            {camera && (
              <p className="absolute right-3 bottom-2 flex items-center gap-2 rounded-md bg-velvet/80 px-2 py-0.5 text-[12.5px]">
                {texts.lookingThrough(camera.name)}
                <button type="button" className="text-brass-text hover:underline" onClick={() => setThrough(null)}>
                  {texts.leave}
                </button>
              </p>
            )}
            <Awaited names={awaited} />
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
                  title={texts.nobodyIsOnThis}
                  action={
                    mayChange ? (
                      <Button look="brass" onClick={onAddMember}>
                        {texts.addACastMember}
                      </Button>
                    ) : undefined
                  }
                >
                  {texts.addACastMemberThen}
                </Empty>
              </div>
            )}
          </section>
        </Panel>
        <Edge label={texts.betweenStageAndLanes} upright />
        <Panel id="lanes" minSize={160}>
          <div className="flex h-full min-w-0 flex-col bg-velvet">
            <div className="flex items-center gap-2 border-b border-line px-3 py-1 whitespace-nowrap">
              <div className="min-w-0 max-w-[430px] flex-1">
                <Transport clock={clock} />
              </div>
              <span className="whitespace-nowrap text-muted">{texts.framesS(reel.fps)}</span>
              <Button size="tiny" onClick={() => setView(null)} keys="F" hint={texts.theWholeReelIn}>
                <Maximize2 size={12} className="mr-1 inline" /> {texts.whole}
              </Button>
              <Button
                size="tiny"
                look={shift ? 'brass' : 'plain'}
                aria-pressed={shift}
                onClick={() => setShift(!shift)}
                hint={texts.movingAnItemMoves}
              >
                {shift ? texts.whatFollowsMovesToo : texts.whatFollowsStays}
              </Button>
              <span className="ml-auto" />
              {range && (
                <button
                  type="button"
                  className="whitespace-nowrap text-brass-text"
                  onClick={() => setRange(null)}
                  title={texts.escTakesTheRange}
                >
                  {texts.framesTo(range.start + 1, range.end + 1)}
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
                  {range ? texts.grabThisRange : texts.bake} …
                </Button>
              )}
            </div>
            <div className="min-h-0 flex-1">
              <ReelLanes
                reelId={id}
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
                curvesOf={curvesOf}
                onCurves={setCurvesOf}
                onKeys={onKeys}
                onRemoveLevelKey={onRemoveLevelKey}
                onRemove={onRemove}
                onMute={onMute}
                onDrop={onDrop}
                onMarker={onMarker}
                through={through}
                onThrough={setThrough}
                onReel={set}
                onAddMember={onAddMember}
                onView={setView}
              />
            </div>
          </div>
        </Panel>
      </Panels>
      <aside aria-label={texts.reel} className="flex w-[300px] shrink-0 flex-col border-l border-line bg-panel p-3">
        <Tabs value={side} onChange={setSide} className="flex min-h-0 flex-1 flex-col gap-2">
          <TabList
            label={texts.sidePanel}
            tabs={[
              { value: 'library', word: texts.library, title: '1' },
              { value: 'chosen', word: texts.chosen, title: '2' },
              { value: 'hand', word: texts.byHand, title: '3' },
              { value: 'record', word: texts.record, title: '4' },
            ]}
          />
          <TabPanel value="library" className="min-h-0 flex-1">
            <LibraryDrawer
              performer={rig ?? undefined}
              onLay={mayChange ? (item) => layItem(item, memberId ?? null, null, false) : undefined}
              onInsert={mayChange && member ? (item) => layItem(item, member.id, clock.frame, false, true) : undefined}
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
                matches={matching.matches}
                trying={matching.trying}
                mayChange={mayChange}
                onChange={(change, label, g) =>
                  set(
                    changePlacement(reel, member.id, placement.id, { join: { ...placement.join, ...change } }),
                    label,
                    g,
                  )
                }
                onFind={matching.find}
                onMatch={matching.take}
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
                playhead={() => clock.frame}
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
                paper={rig?.rig.kind === 'cutout'}
                absolute={data.done.get(member.id)?.absolute.includes(overlay.id) ?? false}
                item={itemOf(overlay)}
                reel={reel}
                mayChange={mayChange}
                playhead={() => clock.frame}
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
                  set(made.reel, texts.copiedTheLanes(members.find((c) => c.id === castId)?.name));
                  setChosen({ kind: 'member', memberId: made.id });
                }}
                onRemove={() => {
                  set(removeMember(reel, member.id), texts.tookOff(who?.name));
                  setChosen(null);
                }}
                onBake={() => setBaking(true)}
              />
            ) : (
              <p className="text-muted">{texts.chooseSomethingOnThe}</p>
            )}
            <CameraFields
              reel={reel}
              mayChange={mayChange}
              through={through}
              onThrough={setThrough}
              onChange={set}
              view={() => stage.current?.view()}
              frame={() => clock.frame}
            />
            <ReelFields id={id} reel={reel} mayChange={mayChange} onChange={set} onMark={mark} />
          </TabPanel>
          <TabPanel value="hand" className="min-h-0 flex-1 overflow-y-auto">
            {member && reel.members.length > 1 && (
              <Select
                label={texts.whoIsPosed}
                className="mb-2 w-full"
                value={member.id}
                options={reel.members.map((m) => ({
                  value: m.id,
                  label: members.find((c) => c.id === m.castId)?.name ?? texts.gone,
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
            {side === 'hand' && member && paper && !trial && data.done.get(member.id) && (
              <DrawingKeys
                key={`drawings ${member.id}`}
                clock={clock}
                member={member}
                rig={paper.cutout!}
                art={paper.art}
                motion={data.done.get(member.id)!.motion}
                mayChange={mayChange}
                onKey={(name, frame, label, words) => set(setLabelKey(reel, member.id, name, frame, label), words)}
                onKeys={(name, keys, words) => set(setLabelKeys(reel, member.id, name, keys), words)}
              />
            )}
            {side === 'hand' && member && who && rig && !trial && data.done.get(member.id) && (
              <FaceKeys
                key={member.id}
                clock={clock}
                member={member}
                who={who}
                rig={rig}
                motion={data.done.get(member.id)!.motion}
                mayChange={mayChange}
                onKey={(name, frame, value, g) =>
                  set(setLevelKey(reel, member.id, name, frame, value), texts.setAtFrame(name, frame + 1), g)
                }
              />
            )}
          </TabPanel>
          <TabPanel value="record" className="min-h-0 flex-1 overflow-y-auto">
            {side === 'record' && member && who && rig && mayChange && data.done.get(member.id) ? (
              <RecordPanel
                key={member.id}
                clock={clock}
                member={member}
                who={who}
                rig={rig}
                motion={data.done.get(member.id)!.motion}
                range={range}
                frames={reel.frames}
                onMember={(next, label) => set(withMember(reel, next), label)}
                onShown={setRecorded}
              />
            ) : (
              <p className="text-muted">{texts.putACastMember}</p>
            )}
          </TabPanel>
        </Tabs>
      </aside>
      {baking && member && (
        <BakeDialog
          reelId={id}
          reel={reel}
          memberId={member.id}
          who={who?.name ?? texts.aCharacter}
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
