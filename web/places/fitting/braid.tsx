'use client';

import { CORE_SLOTS, type Side, type SlotState, slotLabel } from '@velvet-reel/motion';
import { clsx } from 'clsx';
import { ChevronDown, ChevronRight, Crosshair, TriangleAlert } from 'lucide-react';
import { Popover } from 'radix-ui';
import { memo, type RefObject, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { RigAnswer } from '@/contract';
import { inputLook } from '@/ui/field';
import { BraidMenu } from './braid-menu';
import { braid as texts } from './texts';
import type { MapEditor } from './use-map';

/** What is pointed at: a slot of the common body, or a joint by name. */
export interface Pointed {
  slot?: string;
  joint?: string;
}
export type BraidSide = 'source' | 'target';
/** A slot that waits for a joint to be picked in the stage. */
export interface Picking {
  side: BraidSide;
  slot: string;
}

interface BraidProps {
  source: RigAnswer;
  target: RigAnswer;
  editor: MapEditor;
  /** Joints that move in the source and have no partner. */
  moving: readonly string[];
  /** Row to be shown and marked, as pointed at in the stage or the lanes. */
  marked: string | undefined;
  onPoint: (pointed: Pointed | null) => void;
  onPick: (picking: Picking) => void;
}

type Entry = RigAnswer['map']['slots'][string];
const ROW = 22;
const RANK: Record<SlotState, number> = { sure: 0, empty: 0, guessed: 1, missing: 2 };
const groupOf = (slot: string): string =>
  /^(thumb|index|middle|ring|pinky)/.test(slot)
    ? texts.fingers(slot.at(-1)!)
    : slot.includes('Twist')
      ? texts.twistJoints
      : texts.body;
const ORDER =
  'hips spine neck head collarL upperArmL forearmL handL collarR upperArmR forearmR handR thighL shinL footL toesL thighR shinR footR toesR'.split(
    ' ',
  );
function order(slot: string): number {
  const i = ORDER.indexOf(slot.replace(/\d+$/, ''));
  return (i < 0 ? 100 + (slot.endsWith('R') ? 50 : 0) : i) * 10 + Number(/\d/.exec(slot)?.[0] ?? 0);
}

interface Drag {
  side: BraidSide;
  joint: string;
  from: string;
  x: number;
  y: number;
}

/** The row under the pointer, inside the list. */
const rowAt = (x: number, y: number, list: Element | null): string | null => {
  const row = document.elementFromPoint(x, y)?.closest('[data-slot]');
  return row && list?.contains(row) ? row.getAttribute('data-slot') : null;
};

/** Source joints, common body, target joints, tied by lines. Groups that are folded show their worst state. */
export const Braid = memo(function Braid({ source, target, editor, moving, marked, onPoint, onPick }: BraidProps) {
  const [open, setOpen] = useState<Record<string, boolean>>({ Body: true });
  const [drag, setDrag] = useState<Drag | null>(null);
  const [over, setOver] = useState<string | null>(null);
  const list = useRef<HTMLDivElement>(null);
  // rows are drawn anew when their own entries change, not whenever anything of a map does
  const rigs = useRef({ source, target });
  rigs.current = { source, target };
  const groups = useMemo(() => {
    const slots = [
      ...new Set([...CORE_SLOTS.slice(0, 2), ...Object.keys(source.map.slots), ...Object.keys(target.map.slots)]),
    ];
    const out = new Map<string, string[]>();
    for (const s of slots.sort((a, b) => order(a) - order(b))) out.set(groupOf(s), [...(out.get(groupOf(s)) ?? []), s]);
    return [...out];
  }, [source.map, target.map]);
  const counts = useMemo(() => {
    const c = { sure: 0, guessed: 0, missing: 0, empty: 0 };
    for (const e of [...Object.values(source.map.slots), ...Object.values(target.map.slots)]) c[e.state]++;
    return c;
  }, [source.map, target.map]);
  useEffect(() => {
    if (marked)
      list.current?.querySelector(`[data-slot="${CSS.escape(marked)}"]`)?.scrollIntoView({ block: 'nearest' });
  }, [marked]);
  const onDrag = useCallback((d: Drag) => setDrag(d), []);
  const { setSlot } = editor;
  const dragging = drag !== null;
  const held = useRef(drag);
  held.current = drag;
  // wherever the pointer goes, and is let go: a line dropped outside the list goes back where it was
  useEffect(() => {
    if (!dragging) return;
    const end = (): void => {
      setDrag(null);
      setOver(null);
    };
    const move = (e: PointerEvent): void => {
      setDrag((d) => d && { ...d, x: e.clientX, y: e.clientY });
      setOver(rowAt(e.clientX, e.clientY, list.current));
    };
    const drop = (e: PointerEvent): void => {
      const slot = rowAt(e.clientX, e.clientY, list.current);
      const line = held.current;
      if (line && slot && slot !== line.from) setSlot(rigs.current[line.side], slot, line.joint);
      end();
    };
    const key = (e: KeyboardEvent): void => {
      if (e.key !== 'Escape') return;
      e.preventDefault();
      end();
    };
    const on = { pointermove: move, pointerup: drop, pointercancel: end, keydown: key, blur: end } as const;
    for (const [name, run] of Object.entries(on)) window.addEventListener(name, run as EventListener);
    return () => {
      for (const [name, run] of Object.entries(on)) window.removeEventListener(name, run as EventListener);
    };
  }, [dragging, setSlot]);
  return (
    <section aria-label={texts.jointBraid} className="flex h-full flex-col">
      <header className="flex items-center gap-3 px-4 pt-2 pb-1">
        <h2 className="heading shrink-0 text-[15px] whitespace-nowrap">{texts.jointBraid}</h2>
        <span className="truncate text-[12px] text-muted">
          {texts.sure(counts.sure)}
          <span className={clsx(counts.guessed > 0 && 'text-brass-text')}>{texts.guessed3(counts.guessed)}</span> ·{' '}
          <span className={clsx(counts.missing > 0 && 'text-raspberry')}>{texts.missing3(counts.missing)}</span>
          {texts.emptyOnPurpose3(counts.empty)}
        </span>
        <BraidMenu source={source} target={target} editor={editor} guessed={counts.guessed} />
      </header>
      <div ref={list} className="min-h-0 flex-1 overflow-y-auto px-4 pb-3">
        {groups.map(([name, slots]) => {
          const states = slots
            .flatMap((s) => [source.map.slots[s], target.map.slots[s]])
            .map((e) => (e ? RANK[e.state] : 0));
          const worst = Math.max(...states);
          const shown = open[name] ?? worst > 0;
          const n = (rank: number): number => states.filter((s) => s === rank).length;
          return (
            <div key={name}>
              {name !== 'Body' && (
                <button
                  type="button"
                  onClick={() => setOpen({ ...open, [name]: !shown })}
                  aria-expanded={shown}
                  className="flex w-full items-center gap-1.5 border-t border-line/60 py-1 text-[12px] text-muted hover:text-ink"
                >
                  {shown ? <ChevronDown size={13} /> : <ChevronRight size={13} />}
                  {name}
                  <span
                    className={clsx(
                      'ml-auto flex items-center gap-1',
                      worst === 2 ? 'text-raspberry' : worst === 1 && 'text-brass-text',
                    )}
                  >
                    {worst === 2 && <TriangleAlert size={12} />}
                    {worst === 0
                      ? texts.allSet(slots.length)
                      : [n(2) > 0 && texts.missing(n(2)), n(1) > 0 && texts.guessed(n(1))].filter(Boolean).join(', ')}
                  </span>
                </button>
              )}
              {shown &&
                slots.map((slot) => (
                  <Strand
                    key={slot}
                    slot={slot}
                    a={source.map.slots[slot]}
                    b={target.map.slots[slot]}
                    rigs={rigs}
                    marked={marked === slot || over === slot}
                    onPoint={onPoint}
                    onPick={onPick}
                    onSet={editor.setSlot}
                    onDrag={onDrag}
                  />
                ))}
            </div>
          );
        })}
        <Loose title={texts.sourceJointsWithoutA} rig={source} moving={moving} onPoint={onPoint} />
        <Loose title={texts.targetJointsWithoutA} rig={target} moving={[]} onPoint={onPoint} />
      </div>
      {drag && (
        <span
          className="pointer-events-none fixed z-50 rounded border border-brass bg-raised px-1.5 py-0.5 text-[12px]"
          style={{ left: drag.x + 10, top: drag.y + 6 }}
        >
          {drag.joint}
          {over && over !== drag.from && (
            <span className="text-brass-text">
              {' '}
              {texts.becomes} {slotLabel(over)}
            </span>
          )}
        </span>
      )}
    </section>
  );
});

/** Joints that no slot names; those that move in the source are lost and stand first. */
function Loose({
  title,
  rig,
  moving,
  onPoint,
}: {
  title: string;
  rig: RigAnswer;
  moving: readonly string[];
  onPoint: BraidProps['onPoint'];
}) {
  const [open, setOpen] = useState(false);
  const used = new Set(Object.values(rig.map.slots).map((s) => s.joint));
  const loose = rig.rig.joints.map((j) => j.name).filter((n) => !used.has(n));
  if (loose.length === 0) return null;
  const lost = loose.filter((n) => moving.includes(n));
  return (
    <div>
      <button
        type="button"
        onClick={() => setOpen(!open)}
        aria-expanded={open}
        className="flex w-full items-center gap-1.5 border-t border-line/60 py-1 text-[12px] text-muted hover:text-ink"
      >
        {open ? <ChevronDown size={13} /> : <ChevronRight size={13} />}
        {title}
        <span className={clsx('ml-auto', lost.length > 0 && 'text-brass-text')}>
          {loose.length}
          {lost.length > 0 && texts.ofThemMove(lost.length)}
        </span>
      </button>
      {open && (
        <ul className="flex flex-wrap gap-1 pb-1">
          {[...lost, ...loose.filter((n) => !lost.includes(n))].map((n) => (
            <li
              key={n}
              onPointerEnter={() => onPoint({ joint: n })}
              onPointerLeave={() => onPoint(null)}
              className={clsx(
                'rounded border px-1.5 text-[12px]',
                lost.includes(n) ? 'border-brass text-brass-text' : 'border-line text-muted',
              )}
            >
              {n}
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}

type Rigs = RefObject<Record<BraidSide, RigAnswer>>;

interface StrandProps {
  slot: string;
  a: Entry | undefined;
  b: Entry | undefined;
  rigs: Rigs;
  marked: boolean;
  onPoint: BraidProps['onPoint'];
  onPick: BraidProps['onPick'];
  onSet: MapEditor['setSlot'];
  onDrag: (drag: Drag) => void;
}

const Strand = memo(function Strand({ slot, a, b, rigs, marked, onPoint, onPick, onSet, onDrag }: StrandProps) {
  return (
    <div
      data-slot={slot}
      className={clsx(
        'grid grid-cols-[minmax(0,1fr)_38px_96px_38px_minmax(0,1fr)] items-center rounded hover:bg-raised',
        marked && 'bg-raised outline outline-brass/70',
      )}
      style={{ height: ROW }}
      onPointerEnter={() => onPoint({ slot })}
      onPointerLeave={() => onPoint(null)}
    >
      <JointCell rigs={rigs} slot={slot} entry={a} side="source" onSet={onSet} onPick={onPick} />
      <Line entry={a} onDown={(x, y) => a?.joint && onDrag({ side: 'source', joint: a.joint, from: slot, x, y })} />
      <span className="flex items-center gap-1.5 truncate text-[12px] text-muted">
        <span
          className={clsx(
            'size-2 shrink-0 rounded-full border',
            a?.joint && b?.joint ? 'border-brass bg-brass' : 'border-brass',
          )}
        />
        {slotLabel(slot)}
      </span>
      <Line entry={b} onDown={(x, y) => b?.joint && onDrag({ side: 'target', joint: b.joint, from: slot, x, y })} />
      <JointCell rigs={rigs} slot={slot} entry={b} side="target" onSet={onSet} onPick={onPick} />
    </div>
  );
});

/** Whole for sure, dashed for guessed, cut off where a joint is missing. Can be dragged to another slot. */
function Line({ entry, onDown }: { entry: Entry | undefined; onDown: (x: number, y: number) => void }) {
  if (!entry) return <span />;
  if (!entry.joint)
    return entry.state === 'missing' ? (
      <svg width="38" height={ROW} aria-hidden="true">
        <path d={`M4 ${ROW / 2} H14 M24 ${ROW / 2} H34`} stroke="var(--raspberry)" strokeWidth="1.5" />
      </svg>
    ) : (
      <span />
    );
  return (
    <svg
      width="38"
      height={ROW}
      aria-hidden="true"
      className="cursor-grab touch-none"
      onPointerDown={(e) => {
        e.preventDefault();
        onDown(e.clientX, e.clientY);
      }}
    >
      <path
        d={`M3 ${ROW / 2} C 13 ${ROW / 2 - 3}, 25 ${ROW / 2 + 3}, 35 ${ROW / 2}`}
        fill="none"
        stroke={entry.state === 'guessed' ? 'var(--brass)' : 'var(--ink)'}
        strokeWidth="1.5"
        strokeDasharray={entry.state === 'guessed' ? '3 3' : undefined}
      />
    </svg>
  );
}

function JointCell({
  rigs,
  slot,
  entry,
  side,
  onSet,
  onPick,
}: {
  rigs: Rigs;
  slot: string;
  entry: Entry | undefined;
  side: BraidSide;
  onSet: MapEditor['setSlot'];
  onPick: BraidProps['onPick'];
}) {
  const [open, setOpen] = useState(false);
  // the list is made when it is first asked for: a body has a hundred of these cells
  const [asked, setAsked] = useState(false);
  const [text, setText] = useState('');
  const rig = rigs.current[side];
  const state = entry?.state ?? 'missing';
  // a slot that the map does not even list is beyond this rig: its chain shares the turn
  const label = entry?.joint ?? (state === 'empty' ? texts.emptyOnPurpose : entry ? 'missing' : texts.notInThisBody);
  const joints = open
    ? rig.rig.joints.map((j) => j.name).filter((n) => n.toLowerCase().includes(text.toLowerCase()))
    : [];
  const servesAs = useMemo(
    () =>
      new Map(
        open
          ? Object.entries(rig.map.slots).flatMap(([s, e]) => (e.joint ? [[e.joint, slotLabel(s)] as const] : []))
          : [],
      ),
    [open, rig.map],
  );
  const set = (joint: string | null): void => {
    onSet(rig, slot, joint);
    // the figure first, the list after it
    requestAnimationFrame(() => {
      setOpen(false);
      setText('');
    });
  };
  const look = {
    title: entry ? `${state}: ${entry.why}` : texts.noJoint,
    'aria-label': texts.ofTheChange(slotLabel(slot), side, label, state),
    className: clsx(
      'truncate rounded px-1 text-[12.5px] hover:text-brass-text',
      side === 'source' ? 'text-right' : 'text-left',
      !entry?.joint && 'italic',
      !entry?.joint && (entry && state === 'missing' ? 'text-raspberry' : 'text-muted'),
      state === 'guessed' && 'text-brass-text',
    ),
  };
  const words = (
    <>
      {label}
      {state === 'guessed' && ' ?'}
    </>
  );
  if (!asked)
    return (
      <button
        type="button"
        aria-haspopup="dialog"
        {...look}
        onClick={() => {
          setAsked(true);
          setOpen(true);
        }}
      >
        {words}
      </button>
    );
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger {...look}>{words}</Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={2}
          collisionPadding={10}
          className="z-50 w-68 rounded-lg border border-line bg-raised p-2 shadow-xl"
        >
          <p className="mb-1.5 text-[12px] text-muted">
            <span className="font-medium text-ink">{slotLabel(slot)}</span> · {entry ? entry.why : texts.nothingFound}
          </p>
          <div className="mb-1.5 flex gap-1">
            <input
              // biome-ignore lint/a11y/noAutofocus: the list was opened to type in it
              autoFocus
              aria-label={texts.jointName}
              placeholder={texts.jointName}
              className={`${inputLook} min-w-0 flex-1 py-1!`}
              value={text}
              onChange={(e) => setText(e.target.value)}
              onKeyDown={(e) => e.key === 'Enter' && joints[0] && set(joints[0])}
            />
            <button
              type="button"
              className="flex items-center gap-1 rounded border border-line px-1.5 hover:border-muted"
              onClick={() => {
                setOpen(false);
                onPick({ side, slot });
              }}
            >
              <Crosshair size={13} /> {texts.inTheStage}
            </button>
          </div>
          <div className="max-h-52 overflow-y-auto">
            {joints.map((n) => (
              <button
                key={n}
                type="button"
                onClick={() => set(n)}
                aria-label={n}
                className={clsx(
                  'flex w-full gap-2 truncate rounded px-2 py-0.5 text-left hover:bg-panel',
                  n === entry?.joint && 'text-brass-text',
                )}
              >
                {n}
                <span className="ml-auto text-[11.5px] text-muted">{servesAs.get(n)}</span>
              </button>
            ))}
            {joints.length === 0 && <p className="px-2 py-1 text-muted">{texts.noJointWithThat}</p>}
          </div>
          <div className="mt-1.5 flex gap-1">
            {state === 'guessed' && entry?.joint && (
              <button
                type="button"
                onClick={() => set(entry.joint)}
                className="flex-1 rounded border border-brass px-2 py-1 text-brass-text"
              >
                {texts.thatsRight}
              </button>
            )}
            <button
              type="button"
              onClick={() => set(null)}
              className="flex-1 rounded border border-line px-2 py-1 text-left text-muted hover:text-ink"
            >
              {texts.emptyOnPurpose2}
            </button>
          </div>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

export const sideWord = (side: Side): string => (side === 'L' ? 'left' : 'right');
