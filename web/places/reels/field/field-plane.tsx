'use client';

import { clsx } from 'clsx';
import { useRef } from 'react';
import { fieldPlane as texts } from '../texts';
import type { Pin } from './use-field';

type At = readonly [number, number];

interface FieldPlaneProps {
  pins: readonly Pin[];
  weights: readonly number[];
  at: At;
  recording: boolean;
  onPoint: (at: At) => void;
  onPin: (index: number, at: At, held: boolean) => void;
}

const clamp = (x: number): number => Math.min(1, Math.max(0, x));
const STEP = 0.02;
const KEYS: Readonly<Record<string, At>> = {
  ArrowLeft: [-STEP, 0],
  ArrowRight: [STEP, 0],
  ArrowUp: [0, -STEP],
  ArrowDown: [0, STEP],
};

/** The field itself: pins to drag, and a pointer that mixes by where it is. */
export function FieldPlane({ pins, weights, at, recording, onPoint, onPin }: FieldPlaneProps) {
  const drag = useRef<{ pin: number; held: boolean } | null>(null);
  const place = (e: React.PointerEvent<Element>): At => {
    const box = e.currentTarget.closest('svg')!.getBoundingClientRect();
    return [clamp((e.clientX - box.left) / box.width), clamp((e.clientY - box.top) / box.height)];
  };
  return (
    <svg
      viewBox="0 0 1 1"
      role="application"
      aria-label={texts.fieldOfPosesArrow}
      // biome-ignore lint/a11y/noNoninteractiveTabindex: see above
      tabIndex={0}
      className={clsx(
        'aspect-square w-full shrink-0 touch-none rounded-xl border bg-velvet outline-none focus-visible:border-brass',
        recording ? 'border-raspberry' : 'border-line',
      )}
      onPointerMove={(e) => {
        const d = drag.current;
        if (d) {
          onPin(d.pin, place(e), d.held);
          d.held = true;
        } else if (e.pointerType === 'mouse' || e.buttons > 0) onPoint(place(e));
      }}
      onPointerDown={(e) => {
        if (!drag.current) onPoint(place(e));
      }}
      onPointerUp={() => {
        drag.current = null;
      }}
      onKeyDown={(e) => {
        const by = KEYS[e.key];
        if (!by) return;
        e.preventDefault();
        e.stopPropagation();
        onPoint([clamp(at[0] + by[0]), clamp(at[1] + by[1])]);
      }}
    >
      {pins.map((pin, i) => (
        <line
          key={`${pin.itemId} way`}
          x1={at[0]}
          y1={at[1]}
          x2={pin.at[0]}
          y2={pin.at[1]}
          strokeWidth={0.004 + 0.02 * (weights[i] ?? 0)}
          className="stroke-brass"
          opacity={0.15 + 0.7 * (weights[i] ?? 0)}
        />
      ))}
      {pins.map((pin, i) => (
        <g key={pin.itemId}>
          <circle
            cx={pin.at[0]}
            cy={pin.at[1]}
            r={0.022 + 0.03 * (weights[i] ?? 0)}
            className="cursor-grab fill-panel stroke-brass"
            strokeWidth={0.006}
            onPointerDown={(e) => {
              if (recording) return;
              e.currentTarget.setPointerCapture(e.pointerId);
              drag.current = { pin: i, held: false };
            }}
          >
            <title>{pin.name}</title>
          </circle>
          <text
            x={pin.at[0]}
            y={pin.at[1] + (pin.at[1] > 0.85 ? -0.05 : 0.075)}
            textAnchor={pin.at[0] > 0.8 ? 'end' : pin.at[0] < 0.2 ? 'start' : 'middle'}
            className="pointer-events-none fill-ink"
            style={{ fontSize: 0.036 }}
          >
            {pin.name.length > 22 ? `${pin.name.slice(0, 21)}…` : pin.name}
          </text>
        </g>
      ))}
      <circle
        cx={at[0]}
        cy={at[1]}
        r={0.014}
        className={recording ? 'fill-raspberry' : 'fill-ink'}
        pointerEvents="none"
      />
    </svg>
  );
}
