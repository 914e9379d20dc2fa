'use client';

import { clsx } from 'clsx';
import { type PointerEvent, useRef } from 'react';

const WAYS: Readonly<Record<string, readonly [number, number]>> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

interface PinProps {
  /** On the stage, pixels. */
  x: number;
  y: number;
  label: string;
  /** Shown beside it while it is pointed at. */
  name: string;
  /** In the picture. */
  at: readonly [number, number];
  lit: boolean;
  mayChange: boolean;
  onLit: (on: boolean) => void;
  onMove: (e: PointerEvent) => void;
  onDrop: () => void;
  /** Moved by the arrow keys, in the picture's units. */
  onNudge: (dx: number, dy: number) => void;
  onRemove?: (() => void) | undefined;
}

/** A point of a figure that can be dragged about the picture. */
export function Pin({ x, y, label, name, at, lit, mayChange, onLit, onMove, onDrop, onNudge, onRemove }: PinProps) {
  const held = useRef(false);
  return (
    <>
      <circle
        cx={x}
        cy={y}
        r={lit ? 7 : 5}
        tabIndex={mayChange ? 0 : -1}
        role="slider"
        aria-label={label}
        aria-valuenow={Math.round(at[0])}
        aria-valuetext={`${at[0].toFixed(0)}, ${at[1].toFixed(0)}`}
        className={clsx(
          'pointer-events-auto stroke-velvet outline-none',
          mayChange && 'cursor-grab',
          lit ? 'fill-ink' : 'fill-brass',
        )}
        strokeWidth={1.5}
        onPointerEnter={() => onLit(true)}
        onPointerLeave={() => onLit(false)}
        onFocus={() => onLit(true)}
        onPointerDown={(e) => {
          if (!mayChange) return;
          e.currentTarget.setPointerCapture(e.pointerId);
          held.current = true;
        }}
        onPointerMove={(e) => held.current && onMove(e)}
        onPointerUp={() => {
          if (held.current) onDrop();
          held.current = false;
        }}
        onPointerCancel={() => {
          held.current = false;
        }}
        onKeyDown={(e) => {
          if (!mayChange) return;
          const by = WAYS[e.key];
          if (by) onNudge(...(by.map((d) => d * (e.shiftKey ? 10 : 1)) as [number, number]));
          else if (onRemove && (e.key === 'Delete' || e.key === 'Backspace')) onRemove();
          else return;
          e.preventDefault();
          e.stopPropagation();
        }}
      />
      {lit && (
        <text x={x + 11} y={y + 4} className="fill-ink text-[12px]">
          {name}
        </text>
      )}
    </>
  );
}
