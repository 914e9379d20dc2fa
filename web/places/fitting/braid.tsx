'use client';

import { CORE_SLOTS, type SlotState, slotLabel } from '@velvet-reel/motion';
import { clsx } from 'clsx';
import { ChevronDown, ChevronRight } from 'lucide-react';
import { Popover } from 'radix-ui';
import { useMemo, useState } from 'react';
import type { RigAnswer } from '@/client/types';
import { inputLook } from '@/ui/field';

/** What is pointed at: a slot of the common body, or a joint by name. */
export interface Pointed {
  slot?: string;
  joint?: string;
}

interface BraidProps {
  source: RigAnswer;
  target: RigAnswer;
  onPoint: (pointed: Pointed | null) => void;
  onSet: (rig: RigAnswer, slot: string, joint: string | null) => void;
}

type Entry = RigAnswer['map']['slots'][string];

const ROW = 21;
const RANK: Record<SlotState, number> = { sure: 0, empty: 0, guessed: 1, missing: 2 };
const groupOf = (slot: string): string =>
  /^(thumb|index|middle|ring|pinky)/.test(slot)
    ? `Fingers ${slot.at(-1)}`
    : slot.includes('Twist')
      ? 'Twist joints'
      : 'Body';

/** Source joints, common body, target joints, tied by lines. Groups that are folded show their worst state. */
export function Braid({ source, target, onPoint, onSet }: BraidProps) {
  const [open, setOpen] = useState<Record<string, boolean>>({ Body: true });
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
  return (
    <section aria-label="Joint braid" className="flex h-full flex-col">
      <header className="flex items-baseline gap-3 px-4 pt-2 pb-1">
        <h2 className="heading text-[15px]">Joint braid</h2>
        <span className="text-[12px] text-muted">
          {counts.sure} sure · {counts.guessed} guessed · {counts.missing} missing · {counts.empty} empty on purpose
        </span>
      </header>
      <div className="min-h-0 flex-1 overflow-y-auto px-4 pb-3">
        {groups.map(([name, slots]) => {
          const worst = worstOf(slots, source, target);
          const shown = open[name] ?? worst > 0;
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
                  <span className={clsx('ml-auto', worst > 0 && 'text-brass-text')}>
                    {slots.length} slots, {worst === 2 ? 'some missing' : worst === 1 ? 'some guessed' : 'all settled'}
                  </span>
                </button>
              )}
              {shown &&
                slots.map((slot) => (
                  <Strand key={slot} slot={slot} source={source} target={target} onPoint={onPoint} onSet={onSet} />
                ))}
            </div>
          );
        })}
      </div>
    </section>
  );
}

function order(slot: string): number {
  const body = [
    'hips',
    'spine',
    'neck',
    'head',
    'collarL',
    'upperArmL',
    'forearmL',
    'handL',
    'collarR',
    'upperArmR',
    'forearmR',
    'handR',
    'thighL',
    'shinL',
    'footL',
    'toesL',
    'thighR',
    'shinR',
    'footR',
    'toesR',
  ];
  const plain = slot.replace(/\d+$/, '');
  const i = body.indexOf(plain);
  return (i < 0 ? 100 + (slot.endsWith('R') ? 50 : 0) : i) * 10 + Number(/\d/.exec(slot)?.[0] ?? 0);
}

/** A slot filled on neither side, or on one only because the other has no such joint, is no fault of the map. */
const worstOf = (slots: readonly string[], source: RigAnswer, target: RigAnswer): number =>
  Math.max(...slots.flatMap((s) => [source.map.slots[s], target.map.slots[s]]).map((e) => (e ? RANK[e.state] : 0)));

function Strand({ slot, source, target, onPoint, onSet }: BraidProps & { slot: string }) {
  const a = source.map.slots[slot];
  const b = target.map.slots[slot];
  return (
    <div
      className="grid grid-cols-[minmax(0,1fr)_34px_92px_34px_minmax(0,1fr)] items-center hover:bg-raised"
      style={{ height: ROW }}
      onPointerEnter={() => onPoint({ slot })}
      onPointerLeave={() => onPoint(null)}
    >
      <JointCell rig={source} slot={slot} entry={a} side="source" onSet={onSet} />
      <Line entry={a} />
      <span className="flex items-center gap-1.5 truncate text-[12px] text-muted">
        <span
          className={clsx(
            'size-2 shrink-0 rounded-full border',
            a?.joint && b?.joint ? 'border-brass bg-brass' : 'border-brass',
          )}
        />
        {slotLabel(slot)}
      </span>
      <Line entry={b} />
      <JointCell rig={target} slot={slot} entry={b} side="target" onSet={onSet} />
    </div>
  );
}

/** Whole for sure, dashed for guessed, none where there is no joint. */
function Line({ entry }: { entry: Entry | undefined }) {
  if (!entry?.joint) return <span />;
  return (
    <svg width="34" height={ROW} aria-hidden="true">
      <path
        d={`M3 ${ROW / 2} C 12 ${ROW / 2 - 2}, 22 ${ROW / 2 + 2}, 31 ${ROW / 2}`}
        fill="none"
        stroke={entry.state === 'guessed' ? 'var(--brass)' : 'var(--ink)'}
        strokeWidth="1.5"
        strokeDasharray={entry.state === 'guessed' ? '3 3' : undefined}
      />
    </svg>
  );
}

function JointCell({
  rig,
  slot,
  entry,
  side,
  onSet,
}: {
  rig: RigAnswer;
  slot: string;
  entry: Entry | undefined;
  side: 'source' | 'target';
  onSet: BraidProps['onSet'];
}) {
  const [open, setOpen] = useState(false);
  const [text, setText] = useState('');
  const state = entry?.state ?? 'missing';
  // a slot that the map does not even list is beyond this rig: its chain shares the turn
  const label = entry?.joint ?? (state === 'empty' ? 'empty on purpose' : entry ? 'missing' : 'none of its own');
  const joints = open
    ? rig.rig.joints.map((j) => j.name).filter((n) => n.toLowerCase().includes(text.toLowerCase()))
    : [];
  const set = (joint: string | null): void => {
    setOpen(false);
    setText('');
    onSet(rig, slot, joint);
  };
  return (
    <Popover.Root open={open} onOpenChange={setOpen}>
      <Popover.Trigger
        title={entry ? `${state}: ${entry.why}` : 'no joint'}
        aria-label={`${slotLabel(slot)} of the ${side}: ${label}, ${state}. Change`}
        className={clsx(
          'truncate rounded px-1 text-[12.5px] hover:text-brass-text',
          side === 'source' ? 'text-right' : 'text-left',
          !entry?.joint && 'text-muted italic',
          state === 'guessed' && 'text-brass-text',
        )}
      >
        {label}
        {state === 'guessed' && ' ?'}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={2}
          collisionPadding={10}
          className="z-50 w-64 rounded-lg border border-line bg-raised p-2 shadow-xl"
        >
          <p className="mb-1.5 text-[12px] text-muted">
            <span className="font-medium text-ink">{slotLabel(slot)}</span> · {entry ? entry.why : 'nothing found'}
          </p>
          <input
            // biome-ignore lint/a11y/noAutofocus: the list was opened to type in it
            autoFocus
            aria-label="Joint name"
            placeholder="Joint name"
            className={`${inputLook} mb-1.5 w-full py-1!`}
            value={text}
            onChange={(e) => setText(e.target.value)}
            onKeyDown={(e) => e.key === 'Enter' && joints[0] && set(joints[0])}
          />
          <div className="max-h-52 overflow-y-auto">
            {joints.map((n) => (
              <button
                key={n}
                type="button"
                onClick={() => set(n)}
                className={clsx(
                  'block w-full truncate rounded px-2 py-0.5 text-left hover:bg-panel',
                  n === entry?.joint && 'text-brass-text',
                )}
              >
                {n}
              </button>
            ))}
            {joints.length === 0 && <p className="px-2 py-1 text-muted">No joint is called that.</p>}
          </div>
          <button
            type="button"
            onClick={() => set(null)}
            className="mt-1.5 w-full rounded border border-line px-2 py-1 text-left text-muted hover:text-ink"
          >
            Empty on purpose
          </button>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
