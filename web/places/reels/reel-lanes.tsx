'use client';

import {
  type CorrectionTrack,
  type CutoutRig,
  type LevelKey,
  laidOf,
  type Marker,
  type Overlay,
  type Placement,
  type ReelMember,
  type Stretch,
  strengthAt,
  stretchLength,
  wayThrough,
} from '@velvet-reel/motion';
import { clsx } from 'clsx';
import { AlertTriangle, Eye, EyeOff, FlipHorizontal2, Plus, Spline } from 'lucide-react';
import { type DragEvent, memo, type ReactNode, useMemo } from 'react';
import { useStrip } from '@/client/strips';
import { useLater } from '@/client/use-later';
import type { CastMember, Item, RigAnswer } from '@/contract';
import type { ReelContent } from '@/documents/reel';
import { Ground, Lane, TimeAxis, useAxis, useScrub, type View } from '@/parts/lanes/axis';
import { OthersHeads } from '@/parts/lanes/heads';
import { KeyDot } from '@/parts/lanes/key';
import { type Stretch as Frames, type Grip, Span } from '@/parts/lanes/span';
import type { CheckedJoin } from '@/solver/solve-reel';
import type { Clock } from '@/stage/clock';
import { MiniStrip } from '@/stage/mini-strip';
import { rigView } from '@/stage/rig-view';
import { IconButton } from '@/ui/button';
import { CameraLanes } from './cameras';
import type { Chosen } from './chosen';
import { CurveLane, hasCurves } from './curves/curve-lane';
import { regionWord, troublesOf } from './join-words';
import { LevelLanes } from './level-lanes';
import { ITEM_TYPE } from './library-drawer';
import { reelLanes as texts } from './texts';
import type { ReelData } from './use-performances';

const BASE = 58;
const OVER = 40;
const KEYS = 24;
const NAMES = 148;
/** Narrower items show neither figures nor words, and narrower passages stand as a line: many of them are in view then. */
const ROOM_PX = 30;
const LINE_PX = 8;
/** So many keys are drawn one by one; more only as where they lie. */
const MOST_DOTS = 160;
/** Figures are drawn anew when their lane has kept its width for so long. */
const REDRAWN_MS = 120;
/** A drag comes to rest on what is so near, pixels. */
const SNAP_PX = 7;

interface ReelLanesProps {
  reelId: string;
  clock: Clock;
  reel: ReelContent;
  data: ReelData;
  cast: readonly CastMember[];
  view: View;
  range: { start: number; end: number } | null;
  chosen: Chosen | null;
  landmarks: readonly number[];
  mayChange: boolean;
  onChoose: (chosen: Chosen) => void;
  onPlace: (memberId: string, p: Placement, to: Frames, grip: Grip) => void;
  onOver: (memberId: string, o: Overlay, to: Frames, grip: Grip) => void;
  onMoveKey: (memberId: string, from: number, to: number) => void;
  onRemoveKey: (memberId: string, frame: number) => void;
  /** Whose keys are shown as curves. */
  curvesOf: string | null;
  onCurves: (memberId: string | null) => void;
  onKeys: (memberId: string, keys: CorrectionTrack[], label: string, gesture?: string) => void;
  onNumber: (memberId: string, name: string, keys: LevelKey[], label: string, gesture?: string) => void;
  onRemoveLevelKey: (memberId: string, lane: 'numbers' | 'labels', name: string, frame: number) => void;
  onRemove: (memberId: string, id: string) => void;
  onMute: (memberId: string, muted: boolean) => void;
  onDrop: (memberId: string | null, itemId: string, frame: number, over: boolean) => void;
  onMarker: (marker: Marker, frame: number) => void;
  /** The camera that is looked through. */
  through: string | null;
  onThrough: (id: string | null) => void;
  onReel: (next: ReelContent, label: string) => void;
  onAddMember: () => void;
  onView: (view: View) => void;
}

/** The lanes of all members under one clock: base, overlays, and keys by hand. */
export const ReelLanes = memo(function ReelLanes(props: ReelLanesProps) {
  const { clock, reel, view, onView, onAddMember, mayChange } = props;
  return (
    <section className="h-full overflow-y-auto px-3 pb-2" aria-label={texts.lanes}>
      <TimeAxis clock={clock} frames={reel.frames} view={view} names={NAMES} ends={4} onView={onView}>
        <div className="sticky top-0 z-20 bg-velvet pt-1">
          <Ruler {...props} />
        </div>
        <CameraLanes
          reel={reel}
          mayChange={mayChange}
          through={props.through}
          onThrough={props.onThrough}
          onChange={props.onReel}
        />
        {reel.members.map((m) => (
          <MemberLanes key={m.id} {...props} member={m} />
        ))}
        <OthersHeads subjectId={props.reelId} />
      </TimeAxis>
      {mayChange && (
        <button
          type="button"
          onClick={onAddMember}
          className="mt-1 flex items-center gap-1.5 rounded px-1.5 py-1 text-muted hover:bg-raised hover:text-ink"
        >
          <Plus size={14} /> {texts.addACastMember}
        </button>
      )}
    </section>
  );
});

const STEPS = [1, 2, 5, 10, 12, 24, 30, 60, 120, 300, 600, 1200, 3000, 6000];

function Ruler({ reel, range, onMarker }: ReelLanesProps) {
  const { width, start, shown, x } = useAxis();
  const scrub = { ...useScrub(), 'aria-label': texts.playhead };
  const step = STEPS.find((s) => (s / shown) * width > 52) ?? 12_000;
  const marks: number[] = [];
  for (let f = Math.ceil(start / step) * step; f < Math.min(reel.frames, start + shown); f += step) marks.push(f);
  return (
    <div className="flex h-8 items-stretch">
      <span style={{ width: NAMES }} className="flex shrink-0 items-end pb-1 text-[11.5px] text-muted">
        {texts.frame}
      </span>
      <div className="relative overflow-clip" style={{ width }}>
        <div {...scrub} className="absolute inset-0 cursor-ew-resize touch-none">
          <Ground>
            {range && (
              <span
                className="absolute bottom-0 h-1.5 rounded-full bg-brass/70"
                style={{ left: x(range.start), width: Math.max(2, x(range.end + 1) - x(range.start)) }}
              />
            )}
          </Ground>
          {marks.map((f) => (
            <span
              key={f}
              data-frame={f}
              className="absolute bottom-0 border-l border-line pl-1 text-[11px] text-muted"
              style={{ left: x(f) }}
            >
              {f + 1}
            </span>
          ))}
        </div>
        {reel.markers.map((m) => (
          <MarkerFlag key={m.id} marker={m} onMove={(f) => onMarker(m, f)} />
        ))}
      </div>
    </div>
  );
}

function MarkerFlag({ marker, onMove }: { marker: Marker; onMove: (frame: number) => void }) {
  const { x, clock } = useAxis();
  return (
    <button
      type="button"
      title={texts.frame2(marker.name, marker.frame + 1)}
      data-frame={marker.frame}
      className="absolute top-0 max-w-28 -translate-x-px truncate rounded-r-sm border-l-2 border-brass bg-raised px-1 text-[10.5px] text-brass-text"
      style={{ left: x(marker.frame) }}
      onClick={() => clock.seekFrame(marker.frame)}
      onKeyDown={(e) => {
        const by = e.key === 'ArrowLeft' ? -1 : e.key === 'ArrowRight' ? 1 : 0;
        if (by === 0) return;
        e.preventDefault();
        e.stopPropagation();
        onMove(Math.max(0, marker.frame + by));
      }}
    >
      {marker.name}
    </button>
  );
}

interface MemberProps extends ReelLanesProps {
  member: ReelMember;
}

function MemberLanes(props: MemberProps) {
  const { member, cast, data, chosen, onChoose, onMute, mayChange } = props;
  const who = cast.find((c) => c.id === member.castId);
  const name = who?.name ?? texts.aCharacterThatIs;
  const own = chosen?.memberId === member.id;
  const error = data.errors.get(member.id);
  const curves = props.curvesOf === member.id;
  return (
    <section
      aria-label={name}
      className={clsx('border-t border-line/60 pt-1 first:border-0', member.muted && 'opacity-90 grayscale')}
    >
      <Lane
        height={BASE}
        name={
          <span className="flex items-center gap-1">
            <button
              type="button"
              onClick={() => onChoose({ kind: 'member', memberId: member.id })}
              aria-pressed={own}
              className={clsx('min-w-0 flex-1 truncate text-left text-[13px]', own ? 'text-brass-text' : 'text-ink')}
            >
              {name}
            </button>
            {error && (
              <span title={error} className="text-raspberry">
                <AlertTriangle size={13} aria-label={error} />
              </span>
            )}
            {mayChange && (
              <IconButton
                label={member.muted ? texts.show(name) : texts.hide(name)}
                onClick={() => onMute(member.id, !member.muted)}
                quiet
              >
                {member.muted ? <EyeOff size={13} /> : <Eye size={13} />}
              </IconButton>
            )}
          </span>
        }
      >
        <Track {...props} over={false} empty={member.base.length === 0 ? texts.dropAnItemHere : ''}>
          {member.base.map((p) => (
            <Laid key={p.id} {...props} of={p} kind="base" />
          ))}
          {data.done.get(member.id)?.joins.map((j) => (
            <JoinMark key={j.to} {...props} join={j} />
          ))}
        </Track>
      </Lane>
      {member.overlays.map((o) => (
        <Lane
          key={o.id}
          height={OVER}
          name={
            <span className="pl-3">
              {texts.over} {partsOf(o, data.rigs.get(member.id)?.rig.kind === 'cutout')}
            </span>
          }
        >
          <Track {...props} over>
            <Laid {...props} of={o} kind="over" />
          </Track>
        </Lane>
      ))}
      {hasCurves(member) && (
        <Lane
          height={KEYS}
          name={
            <span className="flex items-center gap-1 pl-3">
              <span className="flex-1">{texts.byHand}</span>
              <IconButton
                label={curves ? texts.hideTheCurvesOf(name) : texts.showTheKeysOf(name)}
                keys="C"
                pressed={curves}
                onClick={() => props.onCurves(curves ? null : member.id)}
                quiet
              >
                <Spline size={13} />
              </IconButton>
            </span>
          }
        >
          <Keys {...props} />
        </Lane>
      )}
      {curves && hasCurves(member) && (
        <CurveLane
          member={member}
          range={props.range}
          mayChange={mayChange}
          onChange={(keys, label, gesture) => props.onKeys(member.id, keys, label, gesture)}
          onNumber={(n, keys, label, gesture) => props.onNumber(member.id, n, keys, label, gesture)}
        />
      )}
      <LevelLanes
        clock={props.clock}
        member={member}
        paper={paperOf(data.rigs.get(member.id))}
        mayChange={mayChange}
        onRemoveKey={(lane, name, frame) => props.onRemoveLevelKey(member.id, lane, name, frame)}
      />
    </section>
  );
}

/** The cut-out that a member is, and its pictures. */
function paperOf(answer: RigAnswer | undefined): { rig: CutoutRig; art: string | undefined } | undefined {
  const view = answer && rigView(answer);
  return view?.cutout && { rig: view.cutout, art: view.art };
}

const partsOf = (o: Overlay, paper: boolean): string => {
  const parts = [...o.regions.map((r) => regionWord(r, paper)), ...o.joints];
  return parts.length === 0 ? texts.wholeBody : parts.length > 2 ? texts.parts(parts.length) : parts.join(', ');
};

/** The ground of a lane, onto which items can be dropped. */
function Track({
  children,
  over,
  empty = '',
  member,
  onDrop,
  mayChange,
}: MemberProps & { over: boolean; empty?: string; children: ReactNode }) {
  const { frameAt } = useAxis();
  const at = (e: DragEvent<HTMLElement>): number => frameAt(e.clientX - e.currentTarget.getBoundingClientRect().left);
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: dropping is for the pointer; the library lays by keyboard too
    <div
      className="absolute inset-0 overflow-clip rounded-md bg-panel"
      onDragOver={(e) => {
        if (mayChange && e.dataTransfer.types.includes(ITEM_TYPE)) e.preventDefault();
      }}
      onDrop={(e) => {
        const id = e.dataTransfer.getData(ITEM_TYPE);
        if (!id) return;
        e.preventDefault();
        onDrop(member.id, id, at(e), over || e.altKey);
      }}
    >
      {empty && <span className="absolute inset-0 flex items-center pl-3 text-[12px] text-muted">{empty}</span>}
      {children}
    </div>
  );
}

/** Where both ends of a drag come to rest, if something is near. */
function snapped(to: Frames, grip: Grip, marks: readonly number[], reach: number): Frames {
  const near = (f: number): number => {
    let best = f;
    let far = reach;
    for (const m of marks)
      if (Math.abs(m - f) < far) {
        far = Math.abs(m - f);
        best = m;
      }
    return best - f;
  };
  if (grip === 'start') return { ...to, start: Math.min(to.end, to.start + near(to.start)) };
  if (grip === 'end') return { ...to, end: Math.max(to.start, to.end + near(to.end + 1)) };
  const first = near(to.start);
  const last = near(to.end + 1);
  const by = first !== 0 && (last === 0 || Math.abs(first) <= Math.abs(last)) ? first : last;
  return { start: Math.max(0, to.start + by), end: to.end + by };
}

/** Whether the item has another version in force than the one that is laid. */
export const newerThan = (of: Stretch, { newest }: Pick<ReelData, 'newest'>): boolean =>
  of.versionId !== null && (newest.get(of.itemId)?.versionId ?? of.versionId) !== of.versionId;

function Laid({ of, kind, ...p }: MemberProps & { of: Placement | Overlay; kind: 'base' | 'over' }) {
  const { start, shown, x, width, frames } = useAxis();
  const item = p.data.items.get(laidOf(of));
  const length = item ? stretchLength(of, item.facts, p.reel.fps) : 24;
  const end = of.at + length - 1;
  if (end < start || of.at > start + shown) return null;
  const chosen = p.chosen?.kind === kind && p.chosen.memberId === p.member.id && p.chosen.id === of.id;
  const words = [
    item?.name ?? 'gone',
    of.speed !== 1 && `× ${of.speed}`,
    of.pace && texts.speedsAlongTheWay,
    of.repeats > 1 && texts.times(of.repeats),
    of.muted && 'muted',
    newerThan(of, p.data) && texts.newerVersionThere,
  ]
    .filter(Boolean)
    .join(' · ');
  const reach = (SNAP_PX / Math.max(1, width)) * shown;
  const change = (to: Frames, grip: Grip): void => {
    if (kind === 'base') p.onPlace(p.member.id, of as Placement, to, grip);
    else p.onOver(p.member.id, of as Overlay, to, grip);
  };
  const left = Math.max(0, x(of.at));
  const right = Math.min(width, x(end + 1));
  const roomy = right - left > ROOM_PX;
  return (
    <Span
      stretch={{ start: of.at, end }}
      frames={Math.max(frames, end + 1) + 100_000}
      snap={(to, grip) => snapped(to, grip, p.landmarks, reach)}
      label={texts.framesTo(words, of.at + 1, end + 1)}
      chosen={chosen}
      look={clsx(
        'border text-left text-ink!',
        kind === 'base' ? 'border-line bg-raised' : 'border-verdigris/50 bg-verdigris/15',
        of.muted && 'border-dashed! grayscale',
        !item && 'border-raspberry!',
      )}
      onChoose={() => p.onChoose({ kind, memberId: p.member.id, id: of.id })}
      onChange={p.mayChange ? change : () => undefined}
      {...(p.mayChange && { onRemove: () => p.onRemove(p.member.id, of.id) })}
    >
      {item && roomy && (
        <Figures
          item={item}
          rig={p.data.rigs.get(p.member.id)}
          of={of}
          width={x(end + 1) - x(of.at)}
          height={(kind === 'base' ? BASE : OVER) - 24}
        />
      )}
      {kind === 'over' && <StrengthLine of={of as Overlay} length={length} width={x(end + 1) - x(of.at)} />}
      {roomy && (
        <span
          className="pointer-events-none absolute top-0.5 flex items-center gap-1 truncate text-[11.5px]"
          style={{ left: Math.max(6, 6 - x(of.at)), right: 4 }}
        >
          {of.mirrored && <FlipHorizontal2 size={11} className="shrink-0" aria-label={texts.mirrored} />}
          <span className="truncate">{words}</span>
        </span>
      )}
    </Span>
  );
}

function Figures({
  item,
  rig,
  of,
  width,
  height,
}: {
  item: Item;
  rig: RigAnswer | undefined;
  of: Placement | Overlay;
  width: number;
  height: number;
}) {
  const strip = useStrip(item.readingId);
  // while the lanes are zoomed the figures stand as they are
  const drawn = useLater(Math.min(4000, Math.round(width)), REDRAWN_MS);
  const { from, to, speed, pace } = of;
  // where speeds change on the way the figures stand where they are reached
  const through = useMemo(() => wayThrough({ from, to, speed, pace }, item.facts), [from, to, speed, pace, item.facts]);
  if (!strip || !rig) return null;
  const last = Math.max(1, item.facts.frameCount - 1);
  return (
    <MiniStrip
      strip={strip}
      performer={rig}
      width={drawn}
      height={height}
      from={Math.min(1, of.from / last)}
      to={Math.min(1, (of.to ?? last) / last)}
      laps={of.repeats}
      through={through}
      over={rig.rig.kind === 'cutout' ? 'offset' in of && Math.abs(of.offset.turn) > 90 : undefined}
    />
  );
}

function StrengthLine({ of, length, width }: { of: Overlay; length: number; width: number }) {
  const high = OVER - 12;
  const steps = Math.min(120, Math.max(8, Math.round(width / 6)));
  const points = Array.from({ length: steps + 1 }, (_, i) => {
    const value = Math.min(1.5, Math.max(-0.5, strengthAt(of.strength, (i / steps) * (length - 1))));
    return `${((i / steps) * width).toFixed(1)},${(high - (value * high) / 1.5 + 1).toFixed(1)}`;
  });
  return (
    <svg width={width} height={high + 4} className="pointer-events-none absolute bottom-0 left-0" aria-hidden="true">
      <polyline points={points.join(' ')} fill="none" stroke="var(--verdigris)" strokeWidth="1.5" />
    </svg>
  );
}

/** A passage between two items: where it lies, and whether something is wrong with it. */
function JoinMark({ join, member, chosen, onChoose }: MemberProps & { join: CheckedJoin }) {
  const { x, start, shown } = useAxis();
  if (join.end < start || join.start > start + shown) return null;
  const troubles = troublesOf(join);
  const own = chosen?.kind === 'join' && chosen.id === join.to;
  const left = x(join.start);
  const thin = x(join.end) - left < LINE_PX;
  const wide = thin ? 3 : Math.max(14, x(join.end) - left);
  const height = BASE - 9;
  const line = {
    crossfade: `M0 ${height} C ${wide / 2} ${height} ${wide / 2} 0 ${wide} 0`,
    decay: `M0 0 C ${wide / 4} ${height} ${wide / 3} ${height} ${wide} ${height}`,
    bridge: `M0 ${height} Q ${wide / 2} ${-height / 2} ${wide} ${height}`,
    cut: `M${wide / 2} 0 V ${height}`,
  }[join.kind];
  return (
    <button
      type="button"
      aria-label={texts.join([texts.joinOver(join.kind, join.start + 1, join.end + 1), ...troubles])}
      aria-pressed={own}
      data-lane
      title={troubles.join('; ')}
      onClick={() => onChoose({ kind: 'join', memberId: member.id, id: join.to })}
      className={clsx(
        'absolute top-0.5 rounded-sm border',
        own ? 'border-ink' : troubles.length > 0 ? 'border-raspberry' : 'border-brass/60 hover:border-brass',
      )}
      style={{ left, width: wide, height: height + 2 }}
    >
      {!thin && (
        <svg width={wide} height={height} className="absolute inset-0" aria-hidden="true">
          <path
            d={line}
            fill="none"
            stroke={troubles.length > 0 ? 'var(--raspberry)' : 'var(--brass)'}
            strokeWidth="1.5"
          />
        </svg>
      )}
      {!thin && troubles.length > 0 && (
        <AlertTriangle size={11} className="absolute top-0.5 right-0.5 text-raspberry" aria-hidden="true" />
      )}
    </button>
  );
}

/** All frames at which something of a member is set by hand. */
function Keys({ member, chosen, onChoose, onMoveKey, onRemoveKey, mayChange }: MemberProps) {
  const { start, shown, x, clock } = useAxis();
  const frames = useMemo(
    () => [...new Set(member.keys.flatMap((t) => t.keys.map((k) => k.frame)))].sort((a, b) => a - b),
    [member.keys],
  );
  const seen = frames.filter((f) => f >= start && f <= start + shown);
  if (seen.length > MOST_DOTS)
    return (
      <div className="absolute inset-0 overflow-clip" role="img" aria-label={texts.keysByHand(frames.length)}>
        {seen
          .filter((_, i) => i % Math.ceil(seen.length / 400) === 0)
          .map((f) => (
            <span key={f} className="absolute top-1 bottom-1 w-px bg-brass/70" style={{ left: x(f + 0.5) }} />
          ))}
      </div>
    );
  return (
    <div className="absolute inset-0">
      {seen.map((f) => (
        <KeyDot
          key={f}
          frame={f}
          label={texts.keysByHandAt(f + 1)}
          chosen={chosen?.kind === 'key' && chosen.memberId === member.id && chosen.id === String(f)}
          onChoose={() => {
            clock.setPlaying(false);
            clock.seekFrame(f);
            onChoose({ kind: 'key', memberId: member.id, id: String(f) });
          }}
          onMove={(to) => mayChange && onMoveKey(member.id, f, to)}
          onRemove={() => mayChange && onRemoveKey(member.id, f)}
        />
      ))}
    </div>
  );
}
