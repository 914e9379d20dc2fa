'use client';

import { AXES, type CorrectionTrack, type Ease, type OffsetKey, type ReelMember } from '@velvet-reel/motion';
import { clsx } from 'clsx';
import { useEffect, useMemo, useRef, useState } from 'react';
import { type Held, heldName } from '@/parts/held';
import { Lane, useAxis } from '@/parts/lanes/axis';
import { Button } from '@/ui/button';
import { Select } from '@/ui/field';
import { newGesture } from '@/ui/gesture';
import { NumberField } from '../number-field';
import {
  addKey,
  bendPoints,
  bentTo,
  type Channel,
  type Kind,
  keyValue,
  kindsOf,
  putKey,
  retimed,
  setEase,
  trackName,
  valueAtFrame,
  withValue,
} from './track-curves';

const HEIGHT = 168;
const INSET = 10;
/** Curves of the three axes. */
const LOOKS = ['var(--raspberry)', 'var(--verdigris)', 'var(--brass)'] as const;
const UNITS: Readonly<Record<Kind, string>> = { move: 'cm', turn: '°' };
const EASES: readonly { word: string; ease: Ease }[] = [
  { word: 'hold', ease: 'step' },
  { word: 'straight', ease: 'linear' },
  { word: 'smooth', ease: 'smooth' },
];
/** Less than this is shown as if it were this, so that a tremble does not look like a leap. */
const LEAST: Readonly<Record<Kind, number>> = { move: 2, turn: 10 };

interface CurveLaneProps {
  member: ReelMember;
  range: { start: number; end: number } | null;
  mayChange: boolean;
  onChange: (keys: CorrectionTrack[], label: string, gesture?: string) => void;
}

interface Picked {
  readonly frame: number;
  readonly channel: Channel;
}

/** The keys of one part as curves: values over frames, keys and bends that are dragged, numbers that are typed. */
export function CurveLane({ member, range, mayChange, onChange }: CurveLaneProps) {
  const { clock } = useAxis();
  const [name, setName] = useState('');
  const track = member.keys.find((t) => trackName(t) === name) ?? member.keys[0];
  const [wanted, setKind] = useState<Kind>('move');
  const [off, setOff] = useState<ReadonlySet<number>>(new Set());
  const [picked, setPicked] = useState<Picked | null>(null);
  const sight = useRef<HTMLSpanElement>(null);
  // opened below what is in view they would not be seen
  useEffect(() => {
    sight.current?.scrollIntoView?.({ block: 'nearest' });
  }, []);
  if (!track) return null;
  const kind = kindsOf(track).includes(wanted) ? wanted : 'turn';
  const channels = ([0, 1, 2] as const).filter((a) => !off.has(a)).map((axis): Channel => ({ kind, axis }));
  const part = heldName(track as Held);
  const { keys } = track;
  const write = (next: OffsetKey[], label: string, gesture?: string): void => {
    if (!mayChange) return;
    onChange(
      member.keys
        .map((t) => (t === track ? ({ ...t, keys: next } as CorrectionTrack) : t))
        .filter((t) => t.keys.length > 0),
      label,
      gesture,
    );
  };
  const key = picked && keys.find((k) => k.frame === picked.frame);
  const stretchEnds = key && keys.some((k) => k.frame > key.frame);
  return (
    <>
      <Lane height={34} name={<span className="pl-3">curves</span>}>
        <div className="flex items-center gap-1.5 overflow-hidden whitespace-nowrap pl-2 text-[12.5px]">
          {key && picked ? (
            <>
              <NumberField
                label="frame"
                value={key.frame + 1}
                low={1}
                high={1_000_000}
                onKeep={(f) => {
                  write(putKey(keys, key.frame, { ...key, frame: f - 1 }), `Moved a key of the ${part} to frame ${f}`);
                  setPicked({ ...picked, frame: f - 1 });
                }}
              />
              <NumberField
                label={AXES[picked.channel.axis]}
                unit={UNITS[picked.channel.kind]}
                value={keyValue(key, picked.channel) ?? 0}
                low={picked.channel.kind === 'move' ? -1000 : -180}
                high={picked.channel.kind === 'move' ? 1000 : 180}
                step={0.01}
                onKeep={(v) =>
                  write(
                    putKey(keys, key.frame, withValue(key, picked.channel, v)),
                    `Set the ${part} at frame ${key.frame + 1}`,
                  )
                }
              />
              {stretchEnds && (
                <>
                  <span className="text-muted">to the next key:</span>
                  {EASES.map(({ word, ease }) => (
                    <Button
                      key={word}
                      size="tiny"
                      look={(key.ease ?? 'smooth') === ease ? 'brass' : 'plain'}
                      aria-pressed={(key.ease ?? 'smooth') === ease}
                      onClick={() =>
                        write(setEase(keys, key.frame, ease), `Made the way from frame ${key.frame + 1} ${word}`)
                      }
                    >
                      {word}
                    </Button>
                  ))}
                  {typeof key.ease === 'object' && <span className="text-brass-text">bent by hand</span>}
                </>
              )}
              <Button
                size="tiny"
                onClick={() => {
                  write(
                    keys.filter((k) => k !== key),
                    `Removed a key of the ${part}`,
                  );
                  setPicked(null);
                }}
              >
                Remove
              </Button>
            </>
          ) : (
            <>
              <Button
                size="tiny"
                disabled={!mayChange}
                hint="A key at the playhead; the curves stay as they are"
                onClick={() =>
                  write(addKey(keys, clock.frame), `Added a key for the ${part} at frame ${clock.frame + 1}`)
                }
              >
                Add a key here
              </Button>
              {range ? (
                <Retime
                  key={`${range.start} ${range.end}`}
                  range={range}
                  onRetime={(to) =>
                    write(
                      retimed(keys, range, to),
                      `Moved the ${part}’s keys of frames ${range.start + 1} to ${range.end + 1} to ${to.start + 1} to ${to.end + 1}`,
                    )
                  }
                />
              ) : (
                <span className="text-muted">
                  Press a key to change it; set a range with [ and ] to move its keys together.
                </span>
              )}
            </>
          )}
        </div>
      </Lane>
      <Lane
        height={HEIGHT}
        name={
          <div className="flex flex-col gap-1 pl-3">
            <Select
              label="Curves of"
              value={trackName(track)}
              options={member.keys.map((t) => ({ value: trackName(t), label: heldName(t as Held) }))}
              onChange={(n) => {
                setName(n);
                setPicked(null);
              }}
            />
            {kindsOf(track).length > 1 && (
              <span className="flex gap-1">
                {kindsOf(track).map((k) => (
                  <Button key={k} size="tiny" look={k === kind ? 'brass' : 'plain'} onClick={() => setKind(k)}>
                    {k}
                  </Button>
                ))}
              </span>
            )}
            <span className="flex gap-1">
              {AXES.map((axis, a) => (
                <button
                  key={axis}
                  type="button"
                  aria-pressed={!off.has(a)}
                  aria-label={`${axis} in view`}
                  onClick={() => {
                    const next = new Set(off);
                    if (!next.delete(a)) next.add(a);
                    setOff(next);
                  }}
                  className={clsx(
                    'rounded border px-1.5 text-[12px]',
                    off.has(a) ? 'border-line text-muted' : 'text-ink',
                  )}
                  style={off.has(a) ? undefined : { borderColor: LOOKS[a] }}
                >
                  {axis}
                </button>
              ))}
            </span>
          </div>
        }
      >
        <span ref={sight} className="absolute bottom-0" />
        <Curves
          part={part}
          keys={keys}
          channels={channels}
          picked={picked}
          mayChange={mayChange}
          onPick={setPicked}
          onWrite={write}
        />
      </Lane>
    </>
  );
}

/** Where the keys of the range are to begin and end. */
function Retime({
  range,
  onRetime,
}: {
  range: { start: number; end: number };
  onRetime: (to: { start: number; end: number }) => void;
}) {
  const [to, setTo] = useState(range);
  return (
    <>
      <span className="text-muted">
        keys of {range.start + 1} to {range.end + 1} go to
      </span>
      <NumberField
        label="from"
        value={to.start + 1}
        low={1}
        high={1_000_000}
        onKeep={(x) => setTo({ start: x - 1, end: Math.max(x - 1, to.end) })}
      />
      <NumberField
        label="until"
        value={to.end + 1}
        low={to.start + 1}
        high={1_000_000}
        onKeep={(x) => setTo({ ...to, end: x - 1 })}
      />
      <Button size="tiny" disabled={to.start === range.start && to.end === range.end} onClick={() => onRetime(to)}>
        Retime
      </Button>
    </>
  );
}

type Drag =
  | { readonly of: 'key'; readonly key: OffsetKey; readonly channel: Channel }
  | {
      readonly of: 'bend';
      readonly from: OffsetKey;
      readonly to: OffsetKey;
      readonly channel: Channel;
      readonly which: 0 | 1;
    };

function Curves({
  part,
  keys,
  channels,
  picked,
  mayChange,
  onPick,
  onWrite,
}: {
  part: string;
  keys: readonly OffsetKey[];
  channels: readonly Channel[];
  picked: Picked | null;
  mayChange: boolean;
  onPick: (picked: Picked | null) => void;
  onWrite: (keys: OffsetKey[], label: string, gesture?: string) => void;
}) {
  const { width, start, shown, frames, x, clock } = useAxis();
  const svg = useRef<SVGSVGElement>(null);
  const gesture = useRef('');
  const drag = useRef<Drag | null>(null);
  const [kept, setKept] = useState<{ low: number; high: number } | null>(null);
  const kind = channels[0]?.kind ?? 'turn';
  const span = useMemo(() => {
    let [low, high] = [0, 0];
    for (const channel of channels)
      for (const k of keys) {
        const v = keyValue(k, channel) ?? 0;
        low = Math.min(low, v);
        high = Math.max(high, v);
      }
    const least = LEAST[kind];
    const wide = Math.max(high - low, least);
    const middle = (low + high) / 2;
    return { low: middle - 0.6 * wide, high: middle + 0.6 * wide };
  }, [keys, channels, kind]);
  // what is dragged does not change what it is measured by
  const { low, high } = kept ?? span;
  const room = HEIGHT - 5 - 2 * INSET;
  const y = (value: number): number => INSET + ((high - value) / (high - low)) * room;
  const pointAt = (e: { clientX: number; clientY: number }): { frame: number; value: number } => {
    const box = svg.current!.getBoundingClientRect();
    return {
      frame: start + ((e.clientX - box.left) / Math.max(1, width)) * shown - 0.5,
      value: high - ((e.clientY - box.top - INSET) / room) * (high - low),
    };
  };
  const put = (key: OffsetKey, channel: Channel, to: { frame: number; value: number }): OffsetKey => {
    // a key stays between its neighbours while it is dragged
    const before = keys.filter((k) => k.frame < key.frame).at(-1)?.frame ?? -1;
    const after = keys.find((k) => k.frame > key.frame)?.frame ?? frames;
    const frame = Math.min(after - 1, Math.max(before + 1, Math.round(to.frame)));
    const next = { ...withValue(key, channel, to.value), frame };
    onWrite(putKey(keys, key.frame, next), `Moved a key of the ${part}`, gesture.current);
    onPick({ frame, channel });
    return next;
  };
  const begin = (what: Drag, pointer: number): void => {
    if (!mayChange) return;
    svg.current?.setPointerCapture(pointer);
    gesture.current = newGesture();
    drag.current = what;
    setKept(span);
  };
  const end = (): void => {
    drag.current = null;
    setKept(null);
  };
  const steps = Math.max(2, Math.min(400, Math.floor(width / 3)));
  const lines = useMemo(
    () =>
      channels.map((channel) =>
        Array.from({ length: steps + 1 }, (_, i) => {
          const f = start + (i / steps) * shown;
          return { f, v: valueAtFrame(keys, channel, f) };
        }),
      ),
    [channels, keys, steps, start, shown],
  );
  const inner = picked && keys.find((k) => k.frame === picked.frame);
  const next = inner && keys.find((k) => k.frame > inner.frame);
  const bends = inner && next && picked ? bendPoints(inner, next, picked.channel) : undefined;
  return (
    // biome-ignore lint/a11y/useSemanticElements: a drawing whose points are sliders; a fieldset cannot be drawn in
    <svg
      ref={svg}
      width={width}
      height={HEIGHT - 5}
      role="group"
      aria-label={`Curves of the ${part}`}
      className="touch-none overflow-visible rounded-md bg-panel"
      onPointerDown={(e) => {
        if (e.target !== svg.current) return;
        onPick(null);
        clock.setPlaying(false);
        clock.seekFrame(Math.max(0, Math.min(frames - 1, Math.round(pointAt(e).frame))));
      }}
      onPointerMove={(e) => {
        const d = drag.current;
        if (!d) return;
        if (d.of === 'key') drag.current = { ...d, key: put(d.key, d.channel, pointAt(e)) };
        else {
          const ease = bentTo(d.from, d.to, d.channel, d.which, pointAt(e));
          onWrite(setEase(keys, d.from.frame, ease), `Bent a curve of the ${part}`, gesture.current);
          drag.current = { ...d, from: { ...d.from, ease } };
        }
      }}
      onPointerUp={end}
      onPointerCancel={end}
    >
      <line x1={0} x2={width} y1={y(0)} y2={y(0)} stroke="var(--line)" strokeDasharray="3 4" pointerEvents="none" />
      <text x={4} y={INSET + 8} className="fill-muted text-[10.5px]" pointerEvents="none">
        {high.toFixed(high - low < 10 ? 1 : 0)} {UNITS[kind]}
      </text>
      <text x={4} y={HEIGHT - 10} className="fill-muted text-[10.5px]" pointerEvents="none">
        {low.toFixed(high - low < 10 ? 1 : 0)} {UNITS[kind]}
      </text>
      {lines.map((line, i) => (
        <polyline
          key={channels[i]!.axis}
          points={line.map(({ f, v }) => `${x(f + 0.5).toFixed(1)},${y(v).toFixed(1)}`).join(' ')}
          fill="none"
          stroke={LOOKS[channels[i]!.axis]}
          strokeWidth="1.5"
          pointerEvents="none"
        />
      ))}
      {bends && inner && next && (
        <g>
          {bends.map((p, i) => {
            const end = i === 0 ? inner : next;
            return (
              <line
                key={i === 0 ? 'out' : 'in'}
                x1={x(end.frame + 0.5)}
                y1={y(keyValue(end, picked!.channel) ?? 0)}
                x2={x(p.frame + 0.5)}
                y2={y(p.value)}
                stroke="var(--muted)"
                pointerEvents="none"
              />
            );
          })}
        </g>
      )}
      {channels.map((channel) =>
        keys.map((k) => {
          const value = keyValue(k, channel);
          if (value === undefined || k.frame < start - 1 || k.frame > start + shown) return null;
          const own = picked?.frame === k.frame && picked.channel.axis === channel.axis;
          return (
            <circle
              key={`${channel.axis} ${k.frame}`}
              cx={x(k.frame + 0.5)}
              cy={y(value)}
              r={own ? 5.5 : 4.5}
              role="slider"
              tabIndex={0}
              aria-label={`${AXES[channel.axis]} of the ${part} at frame ${k.frame + 1}`}
              aria-valuenow={Number(value.toFixed(2))}
              aria-valuetext={`${value.toFixed(2)} ${UNITS[channel.kind]}`}
              className="cursor-grab"
              fill={LOOKS[channel.axis]}
              stroke={own ? 'var(--ink)' : 'var(--velvet)'}
              strokeWidth={own ? 2 : 1}
              onFocus={() => onPick({ frame: k.frame, channel })}
              onPointerDown={(e) => {
                onPick({ frame: k.frame, channel });
                begin({ of: 'key', key: k, channel }, e.pointerId);
              }}
              onKeyDown={(e) => {
                if (!mayChange) return;
                if (!e.repeat) gesture.current = newGesture();
                const fine = e.shiftKey ? 0.1 : 1;
                const up = e.key === 'ArrowUp' ? fine : e.key === 'ArrowDown' ? -fine : 0;
                const on = e.key === 'ArrowRight' ? 1 : e.key === 'ArrowLeft' ? -1 : 0;
                if (e.key === 'Delete' || e.key === 'Backspace')
                  onWrite(
                    keys.filter((o) => o !== k),
                    `Removed a key of the ${part}`,
                  );
                else if (up !== 0 || on !== 0) put(k, channel, { frame: k.frame + on, value: value + up });
                else return;
                e.preventDefault();
                e.stopPropagation();
              }}
            />
          );
        }),
      )}
      {bends?.map((p, i) => (
        <rect
          key={i === 0 ? 'out' : 'in'}
          x={x(p.frame + 0.5) - 4}
          y={y(p.value) - 4}
          width={8}
          height={8}
          role="slider"
          tabIndex={0}
          aria-label={i === 0 ? 'Bend after this key' : 'Bend before the next key'}
          aria-valuenow={Number(p.value.toFixed(2))}
          className="cursor-grab fill-ink"
          onPointerDown={(e) =>
            begin({ of: 'bend', from: inner!, to: next!, channel: picked!.channel, which: i as 0 | 1 }, e.pointerId)
          }
          onKeyDown={(e) => {
            const up = e.key === 'ArrowUp' ? 1 : e.key === 'ArrowDown' ? -1 : 0;
            const on = e.key === 'ArrowRight' ? 1 : e.key === 'ArrowLeft' ? -1 : 0;
            if (!mayChange || (up === 0 && on === 0)) return;
            if (!e.repeat) gesture.current = newGesture();
            const ease = bentTo(inner!, next!, picked!.channel, i as 0 | 1, {
              frame: p.frame + on,
              value: p.value + up,
            });
            onWrite(setEase(keys, inner!.frame, ease), `Bent a curve of the ${part}`, gesture.current);
            e.preventDefault();
            e.stopPropagation();
          }}
        />
      ))}
    </svg>
  );
}
