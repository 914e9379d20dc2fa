'use client';

import type { Lane, Report } from '@velvet-reel/motion';
import { CheckCircle2, TriangleAlert } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import type { Clock } from '@/stage/clock';
import { fitCanvas } from '@/stage/silhouette';
import { useThemeVersion } from '@/stage/use-theme';

interface TroubleLanesProps {
  report: Report | undefined;
  clock: Clock;
  onPointJoint: (joint: string | null) => void;
}

const LANE = 24;
const NAME = 92;

/** Every measured fault over time under one clock, and the faults in words, worst first. */
export function TroubleLanes({ report, clock, onPointJoint }: TroubleLanesProps) {
  const box = useRef<HTMLDivElement>(null);
  const needle = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  useEffect(() => {
    const node = box.current;
    if (!node) return;
    const watch = new ResizeObserver(() => setWidth(Math.max(0, node.clientWidth - NAME - 58)));
    watch.observe(node);
    return () => watch.disconnect();
  }, []);
  useEffect(() => {
    const show = (): void => {
      if (needle.current)
        needle.current.style.left = `${NAME + (width * clock.frame) / Math.max(1, clock.frameCount - 1)}px`;
    };
    show();
    return clock.onTick(show);
  }, [clock, width]);
  return (
    <section aria-label="Trouble lanes" className="flex min-w-0 flex-1 flex-col">
      <header className="flex items-baseline gap-3 px-4 pt-2 pb-1.5">
        <h2 className="heading text-[15px]">Trouble lanes</h2>
        <span className="text-[12px] text-muted">click a lane to go there</span>
      </header>
      <div className="min-h-0 flex-1 overflow-y-auto px-4 pb-3">
        <div ref={box} className="relative">
          {report?.lanes.map((lane) => (
            <LaneRow
              key={lane.name}
              lane={lane}
              width={width}
              onSeek={(frame) => {
                clock.setPlaying(false);
                clock.seekFrame(frame);
              }}
            />
          ))}
          {report && <div ref={needle} className="pointer-events-none absolute top-0 bottom-0 w-px bg-brass" />}
        </div>
        {report && (
          <ul className="mt-2 flex flex-col gap-0.5">
            {report.troubles.map((t) => (
              <li key={t.text}>
                <button
                  type="button"
                  className="flex w-full items-start gap-2 rounded px-1 py-0.5 text-left text-[12.5px] hover:bg-raised"
                  onClick={() => {
                    clock.setPlaying(false);
                    clock.seekFrame(t.frame);
                    onPointJoint(t.joint);
                  }}
                >
                  <TriangleAlert size={14} className="mt-0.5 shrink-0 text-raspberry" aria-label="trouble" />
                  <span className="min-w-0 flex-1">{t.text}</span>
                  {t.frame > 0 && <span className="shrink-0 text-muted">frame {t.frame + 1}</span>}
                </button>
              </li>
            ))}
            {report.troubles.length === 0 && (
              <li className="flex items-center gap-2 px-1 py-0.5 text-[12.5px] text-muted">
                <CheckCircle2 size={14} className="text-verdigris" /> Nothing measured is out of bounds.
              </li>
            )}
            {report.warnings.map((w) => (
              <li key={w} className="px-1 text-[12.5px] text-muted">
                {w}
              </li>
            ))}
          </ul>
        )}
      </div>
    </section>
  );
}

function LaneRow({ lane, width, onSeek }: { lane: Lane; width: number; onSeek: (frame: number) => void }) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const theme = useThemeVersion();
  const worst = lane.values.reduce((m, x) => Math.max(m, x), 0);
  useEffect(() => {
    void theme;
    const ctx = canvas.current && width > 0 && fitCanvas(canvas.current, width, LANE - 6);
    if (!ctx) return;
    const style = getComputedStyle(document.documentElement);
    const color = (name: string): string => style.getPropertyValue(name).trim();
    const cells = Math.min(lane.values.length, Math.floor(width / 5));
    for (let i = 0; i < cells; i++) {
      const from = Math.floor((i * lane.values.length) / cells);
      const to = Math.max(from + 1, Math.floor(((i + 1) * lane.values.length) / cells));
      let most = 0;
      for (let f = from; f < to; f++) most = Math.max(most, lane.values[f]!);
      const share = most / lane.limit;
      const x = (i * width) / cells;
      ctx.fillStyle = color('--raised');
      ctx.fillRect(x, 0, width / cells - 1, LANE - 6);
      if (share < 0.08) continue;
      // height says how much as well as colour
      const h = Math.min(1, 0.2 + 0.8 * share) * (LANE - 6);
      ctx.fillStyle = share > 1 ? color('--raspberry') : color('--brass');
      ctx.globalAlpha = share > 1 ? 1 : 0.35 + 0.5 * share;
      ctx.fillRect(x, LANE - 6 - h, width / cells - 1, h);
      ctx.globalAlpha = 1;
    }
  }, [lane, width, theme]);
  return (
    <div className="flex items-center" style={{ height: LANE }}>
      <span className="shrink-0 text-[12.5px] text-muted" style={{ width: NAME }}>
        {lane.name}
      </span>
      <canvas
        ref={canvas}
        role="slider"
        aria-label={`${lane.name}, at most ${worst.toFixed(1)} ${lane.unit}`}
        aria-valuenow={Math.round(worst * 10) / 10}
        tabIndex={0}
        style={{ width, height: LANE - 6 }}
        className="cursor-pointer"
        onPointerDown={(e) =>
          onSeek(
            Math.round(((e.clientX - e.currentTarget.getBoundingClientRect().left) / width) * (lane.values.length - 1)),
          )
        }
        onKeyDown={(e) => e.key === 'Enter' && onSeek(lane.values.indexOf(worst))}
      />
      <span className="w-[58px] shrink-0 text-right text-[12px] whitespace-nowrap text-muted">
        {worst.toFixed(1)} {lane.unit}
      </span>
    </div>
  );
}
