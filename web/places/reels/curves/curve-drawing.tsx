'use client';

import { AXES } from '@velvet-reel/motion';
import { useMemo, useRef, useState } from 'react';
import { useAxis } from '@/parts/lanes/axis';
import { newGesture } from '@/ui/gesture';
import { curveDrawing as texts } from '../texts';
import {
  bendPoints,
  bentTo,
  type Channel,
  type CurveKey,
  type Kind,
  keyValue,
  putKey,
  setEase,
  valueAtFrame,
  withValue,
} from './track-curves';

export const HEIGHT = 168;
const INSET = 10;
/** Curves of the three axes. */
export const LOOKS = ['var(--raspberry)', 'var(--verdigris)', 'var(--brass)'] as const;
export const UNITS: Readonly<Record<Kind, string>> = { move: 'cm', turn: '°', number: '' };
/** What an arrow key changes a value by, without Shift. */
const STEP: Readonly<Record<Kind, number>> = { move: 1, turn: 1, number: 0.01 };
/** Decimals of a value that is read out. */
const DIGITS: Readonly<Record<Kind, number>> = { move: 2, turn: 2, number: 3 };
/** What a key is called by: its axis, or that it is a value. */
export const channelName = ({ kind, axis }: Channel): string => (kind === 'number' ? texts.value : AXES[axis]);
/** Less than this is shown as if it were this, so that a tremble does not look like a leap. */
const LEAST: Readonly<Record<Kind, number>> = { move: 2, turn: 10, number: 1 };

/** A key of a channel that is in hand. */
export interface Picked {
  readonly frame: number;
  readonly channel: Channel;
}

type Drag =
  | { readonly of: 'key'; readonly key: CurveKey; readonly channel: Channel }
  | {
      readonly of: 'bend';
      readonly from: CurveKey;
      readonly to: CurveKey;
      readonly channel: Channel;
      readonly which: 0 | 1;
    };

/** Curves with their keys and, of the stretch after the key in hand, the two points that bend it. */
export function CurveDrawing({
  part,
  keys,
  channels,
  picked,
  mayChange,
  onPick,
  onWrite,
}: {
  part: string;
  keys: readonly CurveKey[];
  channels: readonly Channel[];
  picked: Picked | null;
  mayChange: boolean;
  onPick: (picked: Picked | null) => void;
  onWrite: (keys: CurveKey[], label: string, gesture?: string) => void;
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
  const put = (key: CurveKey, channel: Channel, to: { frame: number; value: number }): CurveKey => {
    // a key stays between its neighbours while it is dragged
    const before = keys.filter((k) => k.frame < key.frame).at(-1)?.frame ?? -1;
    const after = keys.find((k) => k.frame > key.frame)?.frame ?? frames;
    const frame = Math.min(after - 1, Math.max(before + 1, Math.round(to.frame)));
    const next = { ...withValue(key, channel, to.value), frame };
    onWrite(putKey(keys, key.frame, next), texts.movedAKeyOf(part), gesture.current);
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
      aria-label={texts.curvesOfThe(part)}
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
          onWrite(setEase(keys, d.from.frame, ease), texts.bentACurveOf(part), gesture.current);
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
      {channels.length > 0 && keys.every((k) => keyValue(k, channels[0]!) === undefined) && kind !== 'number' && (
        <text x={width / 2} y={y(0) - 10} textAnchor="middle" className="fill-muted text-[12px]" pointerEvents="none">
          {kind === 'turn' ? texts.noneOfTheseKeys : texts.noneOfTheseKeysMoves}
        </text>
      )}
      {lines.map((line, i) => (
        <path
          key={channels[i]!.axis}
          d={line
            .map(({ f, v }, at) =>
              v === null
                ? ''
                : `${at > 0 && line[at - 1]!.v !== null ? 'L' : 'M'}${x(f + 0.5).toFixed(1)} ${y(v).toFixed(1)}`,
            )
            .join('')}
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
              aria-label={texts.ofTheAtFrame(channelName(channel), part, k.frame + 1)}
              aria-valuenow={Number(value.toFixed(DIGITS[kind]))}
              aria-valuetext={`${value.toFixed(DIGITS[kind])} ${UNITS[kind]}`.trimEnd()}
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
                const fine = STEP[kind] * (e.shiftKey ? 0.1 : 1);
                const up = e.key === 'ArrowUp' ? fine : e.key === 'ArrowDown' ? -fine : 0;
                const on = e.key === 'ArrowRight' ? 1 : e.key === 'ArrowLeft' ? -1 : 0;
                if (e.key === 'Delete' || e.key === 'Backspace')
                  onWrite(
                    keys.filter((o) => o !== k),
                    texts.removedAKeyOf(part),
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
          aria-label={i === 0 ? texts.bendAfterThisKey : texts.bendBeforeTheNext}
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
              value: p.value + up * STEP[kind],
            });
            onWrite(setEase(keys, inner!.frame, ease), texts.bentACurveOf(part), gesture.current);
            e.preventDefault();
            e.stopPropagation();
          }}
        />
      ))}
    </svg>
  );
}
