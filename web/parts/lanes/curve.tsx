'use client';

import { useRef, useState } from 'react';
import { newGesture } from '@/ui/gesture';
import { curve as texts } from '../texts';
import { useAxis } from './axis';

/** A point of a curve. */
export interface CurvePoint {
  readonly frame: number;
  /** Between the curve's low and high, from the lane's foot to its top. */
  readonly value: number;
}

interface CurveLineProps {
  points: readonly CurvePoint[];
  /** The curve between its points. */
  valueAt: (frame: number) => number;
  /** What the foot and the top of the lane stand for: 0 and 1 where left out. */
  low?: number;
  high?: number;
  height: number;
  label: string;
  /** Said of a point, before its frame. */
  pointLabel: string;
  /** Told with every step of a drag, in order of frames. @param gesture the same while a drag goes on */
  onChange: (points: CurvePoint[], gesture: string) => void;
}

const INSET = 5;
const within = (x: number, least: number, most: number): number => Math.max(least, Math.min(most, x));

/** A curve on a lane whose points are dragged; a press on the line adds one, Delete takes one away, arrow keys move it. */
export function CurveLine({ points, valueAt, low = 0, high = 1, height, label, pointLabel, onChange }: CurveLineProps) {
  const { width, frames, x, frameAt } = useAxis();
  const svg = useRef<SVGSVGElement>(null);
  const [drag, setDrag] = useState<number | null>(null);
  const gesture = useRef('');
  const begin = (): void => {
    gesture.current = newGesture();
  };
  const sorted = [...points].sort((a, b) => a.frame - b.frame);
  const room = height - 2 * INSET;
  const y = (value: number): number => INSET + ((high - value) / (high - low)) * room;
  const at = (e: { clientX: number; clientY: number }): CurvePoint => {
    const box = svg.current!.getBoundingClientRect();
    const value = within(high - ((e.clientY - box.top - INSET) / room) * (high - low), low, high);
    return { frame: frameAt(e.clientX - box.left), value: Number(value.toFixed(2)) };
  };
  const told = (next: CurvePoint[]): void =>
    onChange(
      next.sort((a, b) => a.frame - b.frame),
      gesture.current,
    );
  const write = (i: number, point: CurvePoint): void => {
    const others = sorted.filter((_, k) => k !== i);
    if (!others.some((k) => k.frame === point.frame)) told([...others, point]);
  };
  /** A point that is dragged stays between its neighbours, so that it remains the one in hand. */
  const dragged = (i: number, to: CurvePoint): void => {
    const least = (sorted[i - 1]?.frame ?? -1) + 1;
    const most = (sorted[i + 1]?.frame ?? frames) - 1;
    write(i, { ...to, frame: within(to.frame, least, most) });
  };
  const steps = Math.max(2, Math.floor(width / 4));
  const line = Array.from({ length: steps + 1 }, (_, i) => {
    const f = (i / steps) * (frames - 1);
    return `${i === 0 ? 'M' : 'L'}${x(f + 0.5).toFixed(1)} ${y(valueAt(f)).toFixed(1)}`;
  }).join(' ');
  return (
    // biome-ignore lint/a11y/useSemanticElements: a drawing whose points are sliders; a fieldset cannot be drawn in
    <svg
      ref={svg}
      width={width}
      height={height}
      className="touch-none rounded-sm bg-raised"
      role="group"
      aria-label={label}
      onPointerDown={(e) => {
        if (e.target !== svg.current && (e.target as Element).tagName !== 'path') return;
        const point = at(e);
        begin();
        if (!sorted.some((k) => k.frame === point.frame)) told([...sorted, point]);
      }}
      onPointerMove={(e) => drag !== null && sorted[drag] && dragged(drag, at(e))}
      onPointerUp={() => setDrag(null)}
      onPointerCancel={() => setDrag(null)}
    >
      <path d={line} fill="none" stroke="var(--brass)" strokeWidth="1.5" />
      {sorted.map((k, i) => (
        <circle
          key={k.frame}
          cx={x(k.frame + 0.5)}
          cy={y(k.value)}
          r={5}
          role="slider"
          tabIndex={0}
          aria-label={texts.atFrame(pointLabel, k.frame + 1)}
          aria-valuenow={k.value}
          aria-valuemin={low}
          aria-valuemax={high}
          className="cursor-grab fill-brass"
          onPointerDown={(e) => {
            svg.current?.setPointerCapture(e.pointerId);
            begin();
            setDrag(i);
          }}
          onKeyDown={(e) => {
            if (!e.repeat) begin();
            const up = e.key === 'ArrowUp' ? 0.05 : e.key === 'ArrowDown' ? -0.05 : 0;
            const on = e.key === 'ArrowRight' ? 1 : e.key === 'ArrowLeft' ? -1 : 0;
            if (e.key === 'Delete' && sorted.length > 1) told(sorted.filter((_, n) => n !== i));
            else if (up !== 0 || on !== 0)
              write(i, {
                frame: within(k.frame + on, 0, frames - 1),
                value: within(Number((k.value + up).toFixed(2)), low, high),
              });
            else return;
            e.preventDefault();
            e.stopPropagation();
          }}
        />
      ))}
    </svg>
  );
}
