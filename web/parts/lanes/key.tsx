'use client';

import { clsx } from 'clsx';
import { useRef, useState } from 'react';
import { useAxis } from './axis';

/** A pointer that moved less has pressed, not dragged, pixels. */
const PRESS_PX = 5;

interface KeyDotProps {
  frame: number;
  label: string;
  chosen?: boolean;
  onChoose: () => void;
  /** Told once, when a drag ends or an arrow key is pressed. */
  onMove: (to: number) => void;
  onRemove: () => void;
}

/** A key on a lane: pressed to go there, dragged along the lane, moved by the arrow keys, removed by Delete. */
export function KeyDot({ frame, label, chosen = false, onChoose, onMove, onRemove }: KeyDotProps) {
  const { frames, x, pxToFrames } = useAxis();
  const [fromX, setFromX] = useState<number | null>(null);
  const [by, setBy] = useState(0);
  const dragged = useRef(false);
  const within = (f: number): number => Math.max(0, Math.min(frames - 1, f));
  const end = (): void => {
    setFromX(null);
    setBy(0);
  };
  return (
    <button
      type="button"
      aria-label={label}
      className={clsx(
        'absolute top-1/2 size-3 -translate-x-1/2 -translate-y-1/2 cursor-grab touch-none rounded-full border border-velvet bg-brass',
        chosen && 'outline-2 outline-ink',
      )}
      style={{ left: x(within(frame + by) + 0.5) }}
      onClick={() => {
        // a drag ends with a click, too
        if (!dragged.current) onChoose();
        dragged.current = false;
      }}
      onPointerDown={(e) => {
        if (e.button !== 0) return;
        e.currentTarget.setPointerCapture(e.pointerId);
        setFromX(e.clientX);
      }}
      onPointerMove={(e) => {
        if (fromX !== null && Math.abs(e.clientX - fromX) > PRESS_PX) setBy(pxToFrames(e.clientX - fromX));
      }}
      onPointerUp={() => {
        dragged.current = by !== 0;
        if (by !== 0) onMove(within(frame + by));
        end();
      }}
      onPointerCancel={end}
      onKeyDown={(e) => {
        const step = e.key === 'ArrowLeft' ? -1 : e.key === 'ArrowRight' ? 1 : 0;
        if (e.key === 'Delete' || e.key === 'Backspace') onRemove();
        else if (step !== 0) onMove(within(frame + step));
        else return;
        e.preventDefault();
        e.stopPropagation();
      }}
    />
  );
}
