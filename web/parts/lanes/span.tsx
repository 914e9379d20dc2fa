'use client';

import { clsx } from 'clsx';
import { type ReactNode, useState } from 'react';
import { useAxis } from './axis';

/** A stretch of a lane, frames; both ends belong to it. */
export interface Stretch {
  readonly start: number;
  readonly end: number;
}

/** What a drag has hold of. */
export type Grip = 'start' | 'end' | 'whole';

/** A stretch after one of its ends, or all of it, was moved; it stays within the lane and keeps at least a frame. */
export function movedBy({ start, end }: Stretch, by: number, grip: Grip, frames: number): Stretch {
  const length = end - start;
  if (grip === 'start') return { start: Math.max(0, Math.min(end, start + by)), end };
  if (grip === 'end') return { start, end: Math.min(frames - 1, Math.max(start, end + by)) };
  const from = Math.max(0, Math.min(frames - 1 - length, start + by));
  return { start: from, end: from + length };
}

/** So near an end of it, pixels, the pointer has hold of the end. */
const EDGE_PX = 7;
const gripAt = (clientX: number, box: DOMRect): Grip => {
  const edge = Math.min(EDGE_PX, box.width / 3);
  return clientX - box.left < edge ? 'start' : box.right - clientX < edge ? 'end' : 'whole';
};

interface SpanProps {
  stretch: Stretch;
  /** Said by screen readers. */
  label: string;
  chosen: boolean;
  /** Colour of the bar. */
  look: string;
  onChoose: () => void;
  /** Told once, when a drag ends or a key is pressed. */
  onChange: (to: Stretch, grip: Grip) => void;
  onRemove?: () => void;
  /** Where a drag comes to rest; the arrow keys go frame by frame. */
  snap?: (to: Stretch, grip: Grip) => Stretch;
  /** Up to where it may be moved; the end of the lane where left out. */
  frames?: number;
  children?: ReactNode;
}

/**
 * A bar on a lane: dragged whole or by an end, moved by the arrow keys (Shift: its end, Alt: its beginning), removed by Delete.
 * Nothing but the bar moves while it is dragged.
 */
export function Span({ stretch, label, chosen, look, onChoose, onChange, onRemove, children, ...rest }: SpanProps) {
  const { x, pxToFrames, ...axis } = useAxis();
  const frames = rest.frames ?? axis.frames;
  const [drag, setDrag] = useState<{ grip: Grip; fromX: number } | null>(null);
  const [drawn, setDrawn] = useState<{ of: Stretch; to: Stretch } | null>(null);
  // what was dragged stays where it was let go until the change has come back
  const shown = drawn && drawn.of.start === stretch.start && drawn.of.end === stretch.end ? drawn.to : stretch;
  const end = (): void => {
    setDrag(null);
    setDrawn(null);
  };
  return (
    <button
      type="button"
      aria-label={label}
      aria-pressed={chosen}
      data-lane
      className={clsx(
        'absolute top-0.5 bottom-0.5 flex touch-none items-center justify-center overflow-hidden rounded-sm text-[10px] text-velvet',
        look,
        chosen ? 'outline-2 outline-ink' : 'opacity-85 hover:opacity-100',
      )}
      style={{ left: x(shown.start), width: Math.max(4, x(shown.end + 1) - x(shown.start)) }}
      onPointerDown={(e) => {
        if (e.button !== 0) return;
        onChoose();
        e.currentTarget.setPointerCapture(e.pointerId);
        setDrag({ grip: gripAt(e.clientX, e.currentTarget.getBoundingClientRect()), fromX: e.clientX });
      }}
      onPointerMove={(e) => {
        if (!drag) {
          const over = gripAt(e.clientX, e.currentTarget.getBoundingClientRect());
          e.currentTarget.style.cursor = over === 'whole' ? 'grab' : 'ew-resize';
          return;
        }
        const by = pxToFrames(e.clientX - drag.fromX);
        const to = movedBy(stretch, by, drag.grip, frames);
        setDrawn({ of: stretch, to: rest.snap?.(to, drag.grip) ?? to });
      }}
      onPointerUp={() => {
        if (drag && (shown.start !== stretch.start || shown.end !== stretch.end)) {
          onChange(shown, drag.grip);
          setDrag(null);
        } else end();
      }}
      onPointerCancel={end}
      onFocus={onChoose}
      onKeyDown={(e) => {
        const by = e.key === 'ArrowLeft' ? -1 : e.key === 'ArrowRight' ? 1 : 0;
        if (onRemove && (e.key === 'Delete' || e.key === 'Backspace')) onRemove();
        else if (by !== 0) {
          const grip = e.shiftKey ? 'end' : e.altKey ? 'start' : 'whole';
          const to = movedBy(stretch, by, grip, frames);
          if (to.start !== stretch.start || to.end !== stretch.end) onChange(to, grip);
        } else return;
        e.preventDefault();
        e.stopPropagation();
      }}
    >
      {children}
    </button>
  );
}
