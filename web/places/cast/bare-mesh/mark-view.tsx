'use client';

import type { MarkSlot } from '@velvet-reel/motion';
import { type ClayView, fromPicture, inPicture, type MarkSource } from '@velvet-reel/motion';
import { clsx } from 'clsx';
import { RotateCw } from 'lucide-react';
import { useEffect, useRef } from 'react';
import { IconButton } from '@/ui/button';
import { markView as texts } from '../texts';
import { FRAMES, type Marks, markWord, type Place } from './use-bare-mesh';

interface MarkViewProps {
  view: ClayView;
  picture: ImageBitmap;
  marks: Marks;
  sources: Record<MarkSlot, MarkSource>;
  lit: MarkSlot | null;
  /** A loose part that is pointed out. */
  part?: { low: Place; high: Place } | undefined;
  onLit: (slot: MarkSlot | null) => void;
  onMove: (slot: MarkSlot, to: Place, held: boolean) => void;
  /** Turns the body by a quarter, clockwise as it is seen here. */
  onTurn: () => void;
}

const NUDGE = 0.004;
const KEYS: Readonly<Record<string, readonly [number, number]>> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
};

/** The mesh from one side with its marks, which can be dragged, or moved by the arrow keys. */
export function MarkView({ view, picture, marks, sources, lit, part, onLit, onMove, onTurn }: MarkViewProps) {
  const frame = FRAMES[view];
  const drag = useRef<{ slot: MarkSlot; held: boolean } | null>(null);
  const place = (e: React.PointerEvent<SVGElement>, slot: MarkSlot): Place => {
    const box = e.currentTarget.closest('svg')!.getBoundingClientRect();
    const at: [number, number] = [
      ((e.clientX - box.left) / box.width) * frame.width,
      ((e.clientY - box.top) / box.height) * frame.height,
    ];
    return fromPicture(view, frame, at, marks[slot]);
  };
  return (
    <div className="relative" style={{ aspectRatio: `${frame.width} / ${frame.height}` }}>
      <Picture picture={picture} label={texts.theMeshFromThe(view)} />
      <div className="absolute top-1.5 right-1.5 z-10">
        <IconButton label={texts.turnAQuarter(view)} onClick={onTurn} quiet>
          <RotateCw size={15} />
        </IconButton>
      </div>
      <svg
        viewBox={`0 0 ${frame.width} ${frame.height}`}
        className="absolute inset-0 size-full touch-none select-none"
        aria-label={texts.marksFromThe(view)}
      >
        {part && <Around view={view} {...part} />}
        {(Object.keys(marks) as MarkSlot[]).map((slot) => {
          const [x, y] = inPicture(view, frame, marks[slot]);
          const side = slot.endsWith('L') ? 'L' : slot.endsWith('R') ? 'R' : '';
          return (
            // biome-ignore lint/a11y/useSemanticElements: a handle within a drawing
            <g
              key={slot}
              role="button"
              tabIndex={0}
              aria-label={texts.fromThe(markWord(slot), view)}
              className="cursor-grab outline-none focus-visible:[&>circle]:stroke-brass"
              onPointerEnter={() => onLit(slot)}
              onPointerLeave={() => onLit(null)}
              onFocus={() => onLit(slot)}
              onBlur={() => onLit(null)}
              onPointerDown={(e) => {
                e.currentTarget.setPointerCapture(e.pointerId);
                drag.current = { slot, held: false };
              }}
              onPointerMove={(e) => {
                const d = drag.current;
                if (d?.slot !== slot) return;
                onMove(slot, place(e, slot), d.held);
                d.held = true;
              }}
              onPointerUp={() => {
                drag.current = null;
              }}
              onKeyDown={(e) => {
                const by = KEYS[e.key];
                if (!by) return;
                e.preventDefault();
                e.stopPropagation();
                const [px, py, pz] = marks[slot];
                const step = NUDGE * (e.shiftKey ? 5 : 1);
                const across = by[0] * step;
                onMove(
                  slot,
                  view === 'front' ? [px + across, py + by[1] * step, pz] : [px, py + by[1] * step, pz + across],
                  false,
                );
              }}
            >
              <circle cx={x} cy={y} r={16} fill="transparent" />
              <circle
                cx={x}
                cy={y}
                r={lit === slot ? 8 : 6}
                strokeWidth={2.5}
                className={clsx(
                  'stroke-velvet',
                  sources[slot] === 'not found'
                    ? 'fill-raspberry'
                    : side === 'L'
                      ? 'fill-verdigris'
                      : side === 'R'
                        ? 'fill-terracotta'
                        : 'fill-ink',
                )}
              />
              {lit === slot && (
                <text
                  x={x + (x > frame.width * 0.7 ? -14 : 14)}
                  y={y + 4}
                  textAnchor={x > frame.width * 0.7 ? 'end' : 'start'}
                  className="fill-ink stroke-velvet font-semibold text-[14px]"
                  style={{ paintOrder: 'stroke', strokeWidth: 4 }}
                >
                  {markWord(slot)}
                </text>
              )}
            </g>
          );
        })}
      </svg>
    </div>
  );
}

/** A frame around a loose part. */
function Around({ view, low, high }: { view: ClayView; low: Place; high: Place }) {
  const [a, b] = [inPicture(view, FRAMES[view], low), inPicture(view, FRAMES[view], high)];
  const [x, y] = [Math.min(a[0], b[0]), Math.min(a[1], b[1])];
  return (
    <rect
      data-part
      x={x - 3}
      y={y - 3}
      width={Math.abs(a[0] - b[0]) + 6}
      height={Math.abs(a[1] - b[1]) + 6}
      rx={5}
      className="fill-none stroke-brass"
      strokeWidth={2}
      pointerEvents="none"
    />
  );
}

/** Both views beside one another, as large as there is room for. */
export function Views({ children }: { children: React.ReactNode }) {
  const { front, side } = FRAMES;
  const wide = front.width + side.width;
  return (
    <div
      className="grid w-full gap-3"
      style={{
        gridTemplateColumns: `${front.width}fr ${side.width}fr`,
        maxWidth: `calc((100vh - 190px) * ${wide / front.height})`,
      }}
    >
      {children}
    </div>
  );
}

/** A picture of the thread's, drawn once. */
export function Picture({ picture, label }: { picture: ImageBitmap; label: string }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const context = canvas.current?.getContext('2d');
    if (!context) return;
    context.clearRect(0, 0, picture.width, picture.height);
    context.drawImage(picture, 0, 0);
  }, [picture]);
  return (
    <canvas
      ref={canvas}
      width={picture.width}
      height={picture.height}
      role="img"
      aria-label={label}
      className="absolute inset-0 size-full rounded-xl bg-panel"
    />
  );
}
