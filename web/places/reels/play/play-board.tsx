'use client';

import type { Way } from '@velvet-reel/motion';
import { clsx } from 'clsx';
import { type KeyboardEvent, type PointerEvent, useRef, useState } from 'react';
import type { PlayContent } from '@/documents/play';
import { playBoard as texts } from '../texts';
import { BOX, whenWords } from './play-edits';

/** What is looked at on the board. */
export type Chosen = { readonly state: string } | { readonly way: string } | null;

interface BoardProps {
  play: PlayContent;
  chosen: Chosen;
  /** State that plays and way that is being taken. */
  now: { readonly state: string; readonly way: string | null; readonly share: number } | undefined;
  faulty: ReadonlySet<string>;
  mayChange: boolean;
  onChoose: (chosen: Chosen) => void;
  onMove: (id: string, at: readonly [number, number], gesture: string) => void;
  onWay: (from: string, to: string) => void;
}

const STEP = 10;
/** Ways that run both ways between two boxes, or from any state, are told apart by this much. */
const APART = 14;

type Point = readonly [number, number];
const middle = (at: Point): Point => [at[0] + BOX.width / 2, at[1] + BOX.height / 2];

/** Where the line from the middle of a box towards a point leaves the box. */
function edgeOf(at: Point, towards: Point): Point {
  const [x, y] = middle(at);
  const [dx, dy] = [towards[0] - x, towards[1] - y];
  const k = Math.min(
    dx === 0 ? Number.POSITIVE_INFINITY : BOX.width / 2 / Math.abs(dx),
    dy === 0 ? Number.POSITIVE_INFINITY : BOX.height / 2 / Math.abs(dy),
  );
  return Number.isFinite(k) ? [x + k * dx, y + k * dy] : [x, y];
}

/** The course of a way from box to box; one from any state comes from above. */
function courseOf(play: PlayContent, way: Way): { path: string; at: Point } | undefined {
  const to = play.states.find((s) => s.id === way.to);
  const from = play.states.find((s) => s.id === way.from);
  if (!to || (way.from !== null && !from)) return undefined;
  const beside = play.ways.filter((w) => w.from === way.from && w.to === way.to).findIndex((w) => w.id === way.id);
  if (!from) {
    const x = to.at[0] + 24 + 18 * beside;
    return { path: `M ${x} ${to.at[1] - 30} L ${x} ${to.at[1]}`, at: [x, to.at[1] - 36] };
  }
  if (from.id === to.id) {
    const x = to.at[0] + BOX.width;
    const y = to.at[1] + 14;
    return { path: `M ${x} ${y} C ${x + 46} ${y - 34}, ${x + 46} ${y + 46}, ${x} ${y + 18}`, at: [x + 36, y + 8] };
  }
  const [a, b] = [middle(from.at), middle(to.at)];
  const length = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
  const bow = APART + 12 * beside;
  const aside: Point = [(-(b[1] - a[1]) / length) * bow, ((b[0] - a[0]) / length) * bow];
  const over: Point = [(a[0] + b[0]) / 2 + 2 * aside[0], (a[1] + b[1]) / 2 + 2 * aside[1]];
  const [start, end] = [edgeOf(from.at, over), edgeOf(to.at, over)];
  return {
    path: `M ${start[0]} ${start[1]} Q ${over[0]} ${over[1]} ${end[0]} ${end[1]}`,
    at: [(start[0] + 2 * over[0] + end[0]) / 4, (start[1] + 2 * over[1] + end[1]) / 4],
  };
}

/** States as boxes and ways as arrows: drag a box to move it, drag from its dot to another box for a way. */
export function PlayBoard({ play, chosen, now, faulty, mayChange, onChoose, onMove, onWay }: BoardProps) {
  const board = useRef<SVGSVGElement>(null);
  const [drag, setDrag] = useState<
    { kind: 'box'; id: string; grip: Point; gesture: string } | { kind: 'way'; from: string; to: Point } | null
  >(null);
  const width = Math.max(860, ...play.states.map((s) => s.at[0] + BOX.width + 60));
  const height = Math.max(300, ...play.states.map((s) => s.at[1] + BOX.height + 40));
  const pointOf = (e: PointerEvent): Point => {
    const box = board.current!.getBoundingClientRect();
    return [e.clientX - box.left, e.clientY - box.top];
  };
  const move = (e: PointerEvent): void => {
    if (!drag) return;
    const [x, y] = pointOf(e);
    if (drag.kind === 'way') setDrag({ ...drag, to: [x, y] });
    else
      onMove(
        drag.id,
        [Math.max(0, Math.round(x - drag.grip[0])), Math.max(34, Math.round(y - drag.grip[1]))],
        drag.gesture,
      );
  };
  const end = (e: PointerEvent): void => {
    if (drag?.kind === 'way') {
      const [x, y] = pointOf(e);
      const to = play.states.find(
        (s) => x >= s.at[0] && x <= s.at[0] + BOX.width && y >= s.at[1] && y <= s.at[1] + BOX.height,
      );
      if (to && to.id !== drag.from) onWay(drag.from, to.id);
    }
    setDrag(null);
  };
  const byKey = (e: KeyboardEvent, id: string, at: Point): void => {
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[e.key];
    if (e.key === 'Enter' || e.key === ' ') onChoose({ state: id });
    else if (by && mayChange)
      onMove(id, [Math.max(0, at[0] + STEP * by[0]!), Math.max(34, at[1] + STEP * by[1]!)], `key ${id}`);
    else return;
    e.preventDefault();
  };
  const pulled = drag?.kind === 'way' ? play.states.find((s) => s.id === drag.from) : undefined;
  return (
    <div className="h-full overflow-auto bg-velvet">
      {/* biome-ignore lint/a11y/useKeyWithClickEvents: Escape does the same */}
      <svg
        ref={board}
        width={width}
        height={height}
        onPointerMove={move}
        onPointerUp={end}
        onPointerLeave={end}
        onClick={(e) => e.target === board.current && onChoose(null)}
      >
        <title>{texts.boardOfStates}</title>
        <defs>
          {['line', 'brass', 'muted'].map((c) => (
            <marker
              key={c}
              id={`head-${c}`}
              viewBox="0 0 8 8"
              refX="7"
              refY="4"
              markerWidth="8"
              markerHeight="8"
              orient="auto"
            >
              <path d="M0 0 L8 4 L0 8 z" style={{ fill: `var(--${c})` }} />
            </marker>
          ))}
        </defs>
        {play.ways.map((w) => {
          const course = courseOf(play, w);
          if (!course) return null;
          const on = chosen !== null && 'way' in chosen && chosen.way === w.id;
          const taken = now?.way === w.id;
          const name = play.states.find((s) => s.id === w.to)?.name ?? '';
          const label = whenWords(w, play.inputs);
          return (
            // biome-ignore lint/a11y/useSemanticElements: a drawing has no buttons
            <g
              key={w.id}
              role="button"
              tabIndex={0}
              aria-label={texts.wayTo(name, label)}
              aria-pressed={on}
              className="cursor-pointer outline-none focus-visible:[&_text]:fill-(--brass-text)"
              onClick={() => onChoose({ way: w.id })}
              onKeyDown={(e) => {
                if (e.key !== 'Enter' && e.key !== ' ') return;
                e.preventDefault();
                onChoose({ way: w.id });
              }}
            >
              <path d={course.path} fill="none" stroke="transparent" strokeWidth={14} />
              <path
                d={course.path}
                fill="none"
                strokeWidth={on || taken ? 2.2 : 1.4}
                markerEnd={`url(#head-${on || taken ? 'brass' : 'muted'})`}
                style={{ stroke: on || taken ? 'var(--brass)' : 'var(--muted)' }}
              />
              <text
                x={course.at[0]}
                y={course.at[1] - 4}
                textAnchor="middle"
                style={{ paintOrder: 'stroke', stroke: 'var(--velvet)', strokeWidth: 4 }}
                className={clsx('text-[11px]', on || taken ? 'fill-(--brass-text)' : 'fill-(--muted)')}
              >
                {w.from === null ? texts.anyIt(label) : label}
              </text>
            </g>
          );
        })}
        {pulled && drag?.kind === 'way' && (
          <path
            d={`M ${middle(pulled.at)[0]} ${middle(pulled.at)[1]} L ${drag.to[0]} ${drag.to[1]}`}
            style={{ stroke: 'var(--brass)' }}
            strokeWidth={1.6}
            strokeDasharray="4 4"
          />
        )}
        {play.states.map((s) => {
          const on = chosen !== null && 'state' in chosen && chosen.state === s.id;
          const plays = now?.state === s.id;
          const start = play.start === s.id;
          return (
            <g key={s.id} transform={`translate(${s.at[0]} ${s.at[1]})`}>
              {/* biome-ignore lint/a11y/useSemanticElements: as above */}
              <g
                role="button"
                tabIndex={0}
                aria-pressed={on}
                aria-label={texts.state(s.name, start, plays)}
                className="cursor-pointer outline-none focus-visible:[&_rect]:stroke-(--brass)"
                onPointerDown={(e) => {
                  onChoose({ state: s.id });
                  if (!mayChange) return;
                  const [x, y] = pointOf(e);
                  setDrag({ kind: 'box', id: s.id, grip: [x - s.at[0], y - s.at[1]], gesture: `box ${e.timeStamp}` });
                }}
                onKeyDown={(e) => byKey(e, s.id, s.at)}
              >
                <rect
                  width={BOX.width}
                  height={BOX.height}
                  rx={9}
                  strokeWidth={on || plays ? 2 : 1}
                  style={{
                    fill: plays ? 'color-mix(in oklab, var(--brass) 26%, var(--raised))' : 'var(--raised)',
                    stroke: on || plays ? 'var(--brass)' : faulty.has(s.id) ? 'var(--raspberry)' : 'var(--line)',
                  }}
                />
                <text x={12} y={20} className="fill-(--ink) text-[13px] font-medium">
                  {s.name.length > 19 ? `${s.name.slice(0, 18)}…` : s.name}
                </text>
                <text x={12} y={36} className="fill-(--muted) text-[11px]">
                  {start ? texts.beginsHere : ''}
                  {s.content.kind === 'mix'
                    ? texts.mixes(s.content.items.length)
                    : s.repeats
                      ? texts.goesRound
                      : texts.playsOnce}
                </text>
              </g>
              {mayChange && (
                <circle
                  cx={BOX.width}
                  cy={BOX.height / 2}
                  r={6}
                  className="cursor-crosshair"
                  style={{ fill: 'var(--panel)', stroke: 'var(--brass)' }}
                  onPointerDown={(e) => {
                    e.stopPropagation();
                    setDrag({ kind: 'way', from: s.id, to: pointOf(e) });
                  }}
                >
                  <title>{texts.dragToAnotherState}</title>
                </circle>
              )}
            </g>
          );
        })}
      </svg>
    </div>
  );
}
