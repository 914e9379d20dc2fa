'use client';

import type { CorrectionTrack, LevelKey, Motion, Overlay, Placement, Stretch } from '@velvet-reel/motion';
import { laidOf, shotAt, stretchLength } from '@velvet-reel/motion';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { toast } from 'sonner';
import { useLookingAt, useTellPlayhead } from '@/client/live';
import { useCast } from '@/client/queries';
import { useMe } from '@/client/session';
import { useStable } from '@/client/use-stable';
import type { CastMember, Item } from '@/contract';
import type { ReelContent } from '@/documents/reel';
import { type Held, heldKey, heldName, pulledKey, withKey } from '@/parts/held';
import { within } from '@/parts/lanes/axis';
import type { Stretch as Frames, Grip } from '@/parts/lanes/span';
import { Clock } from '@/stage/clock';
import type { StageHandle } from '@/stage/contract';
import type { Pull } from '@/stage/handle-gizmo';
import { rigView } from '@/stage/rig-view';
import { newGesture } from '@/ui/gesture';
import type { Chosen } from '../chosen';
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
  removeStretch,
  setMuted,
  setNumberKeys,
  split,
  trimmed,
} from '../reel-edits';
import type { OnStage } from '../reel-stage';
import { reelDesk as texts } from '../texts';
import { useMatching } from '../use-matching';
import { layable, usePerformances } from '../use-performances';
import { useReel } from '../use-reel';
import { useTrialWish } from '../use-trial-wish';

type Side = 'chosen' | 'hand' | 'library' | 'record';
const NOBODY: readonly CastMember[] = [];

/** What is open on a reel, what is chosen there, and all that can be done with it. */
export function useDesk(id: string) {
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
  const onNumber = useStable((m: string, n: string, keys: LevelKey[], label: string, gesture?: string): void =>
    set(setNumberKeys(reel, m, n, keys), label, gesture),
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
  return {
    id,
    mayChange,
    document,
    reel,
    members,
    clock,
    stage,
    chosen,
    setChosen,
    trial,
    setTrial,
    data,
    trialWish,
    side,
    setSide,
    setView,
    view,
    range,
    setRange,
    shift,
    setShift,
    ghosts,
    setGhosts,
    held,
    setHeld,
    mode,
    setMode,
    baking,
    setBaking,
    curvesOf,
    setCurvesOf,
    setThrough,
    camera,
    through,
    shot,
    memberId,
    member,
    who,
    set,
    itemOf,
    lengthOf,
    nameOf,
    placement,
    overlay,
    choose,
    onPlace,
    onOver,
    onRemove,
    setKeys,
    onKeys,
    onNumber,
    onMoveKey,
    onRemoveKey,
    onRemoveLevelKey,
    setRecorded,
    pending,
    setPending,
    layItem,
    onDrop,
    onAddMember,
    onMute,
    marks,
    onMarker,
    onPullStart,
    onPull,
    previous,
    join,
    matching,
    tryPose,
    takeNewest,
    removeChosen,
    cut,
    copy,
    zoomTo,
    zoom,
    mark,
    shown,
    rig,
    paper,
    joints,
  };
}

export type Desk = ReturnType<typeof useDesk>;
