'use client';

import type { Strip } from '@velvet-reel/motion';
import { useEffect, useRef } from 'react';
import type { RigAnswer } from '@/contract';
import { usePapers } from './paper-strip';
import { type RigView, rigView } from './rig-view';
import { drawFigure, fitCanvas, type Ink, pageInk } from './silhouette';
import { useThemeVersion } from './use-theme';

interface StripCanvasProps {
  strip: Strip;
  performer: RigAnswer;
  width: number;
  height: number;
  /** Where the pointer is, 0 … 1, or null when it leaves. */
  onScrub?: (share: number | null) => void;
}

const SIDE = 26;
const LANES = 15;

interface Layout {
  view: RigView;
  scale: number;
  base: number;
}

function layout(performer: RigAnswer, strip: Strip, height: number): Layout {
  const view = rigView(performer);
  const leg = view.poser.body.leg || 0.9;
  // the tallest moment must fit: hips above the ground, what stands above the hips, and arms overhead
  let tall = 0;
  for (const s of strip.poses) {
    const pose = view.poser.at(strip, s);
    for (let o = 1; o < pose.p.length; o += 3) tall = Math.max(tall, pose.p[o]!);
  }
  return {
    view,
    scale: (height - LANES - 6) / Math.max(tall + 0.14 * leg, performer.heightM * 0.9),
    base: height - LANES,
  };
}

/** x of a frame on the strip. */
const xAt = (strip: Strip, frame: number, width: number): number =>
  SIDE + ((width - 2 * SIDE) * frame) / Math.max(1, strip.frameCount - 1);

/** The ground as the plants show it: level, or rising where the motion climbs. */
function drawGround(
  ctx: CanvasRenderingContext2D,
  strip: Strip,
  { view, scale, base }: Layout,
  width: number,
  color: string,
): void {
  const leg = view.poser.body.leg || 0.9;
  ctx.strokeStyle = color;
  ctx.lineWidth = 1;
  ctx.beginPath();
  ctx.moveTo(SIDE - 16, base + 0.5);
  strip.frames.forEach((frame, s) => {
    if (!strip.plants.some((p) => p.start <= frame && p.end >= frame)) return;
    const { p } = view.poser.at(strip, s);
    let low = Number.POSITIVE_INFINITY;
    for (let o = 1; o < p.length; o += 3) low = Math.min(low, p[o]!);
    ctx.lineTo(xAt(strip, frame, width), base + 0.5 - (low > 0.12 * leg ? low * scale : 0));
  });
  if (strip.frames.length === 1) ctx.lineTo(width - SIDE, base + 0.5);
  ctx.stroke();
}

/** A motion as a row of silhouettes over time, plants beneath; pointing at it brings one pose to life. */
export function StripCanvas({ strip, performer, width, height, onScrub }: StripCanvasProps) {
  const still = useRef<HTMLCanvasElement>(null);
  const live = useRef<HTMLCanvasElement>(null);
  const kept = useRef<{ layout: Layout; ink: Ink } | null>(null);
  const theme = useThemeVersion();
  const papers = usePapers();

  useEffect(() => {
    void theme;
    void papers;
    const ctx = still.current && fitCanvas(still.current, width, height);
    if (!ctx || width < 50) return;
    const l = layout(performer, strip, height);
    const ink = pageInk();
    kept.current = { layout: l, ink };
    const line = getComputedStyle(document.documentElement).getPropertyValue('--line').trim();
    drawGround(ctx, strip, l, width, line);
    const count = Math.min(strip.poses.length, Math.max(2, Math.floor((width - 2 * SIDE) / (l.scale * 0.62)) + 1));
    const chosen =
      count >= strip.poses.length
        ? strip.poses
        : Array.from(
            { length: count },
            (_, i) => strip.poses[Math.round((i * (strip.poses.length - 1)) / (count - 1))]!,
          );
    for (const s of chosen) {
      const x = xAt(strip, strip.frames[s]!, width);
      drawFigure(ctx, l.view, l.view.poser.at(strip, s), { x, y: l.base, scale: l.scale, view: strip.view }, ink, 0.62);
    }
    for (const plant of strip.plants) {
      const left = plant.part.endsWith('L');
      ctx.fillStyle = left ? ink.left : ink.right;
      ctx.globalAlpha = plant.part.startsWith('heel') ? 0.55 : 1;
      const x0 = xAt(strip, plant.start, width);
      ctx.fillRect(x0, l.base + (left ? 4 : 9), Math.max(2, xAt(strip, plant.end, width) - x0), 2.5);
    }
    ctx.globalAlpha = 1;
  }, [strip, performer, width, height, theme, papers]);

  const point = (clientX: number | null): void => {
    const ctx = live.current && fitCanvas(live.current, width, height);
    const now = kept.current;
    if (clientX === null || !ctx || !now || !live.current) {
      if (still.current) still.current.style.opacity = '1';
      onScrub?.(null);
      return;
    }
    const share = Math.min(
      1,
      Math.max(0, (clientX - live.current.getBoundingClientRect().left - SIDE) / (width - 2 * SIDE)),
    );
    const { view, scale, base } = now.layout;
    const x = SIDE + share * (width - 2 * SIDE);
    const brass = getComputedStyle(document.documentElement).getPropertyValue('--brass').trim();
    ctx.fillStyle = brass;
    ctx.fillRect(x - 0.5, 2, 1, height - 4);
    drawFigure(
      ctx,
      view,
      view.poser.at(strip, share * (strip.frames.length - 1)),
      { x, y: base, scale, view: strip.view },
      now.ink,
    );
    if (still.current) still.current.style.opacity = '0.45';
    onScrub?.(share);
  };

  return (
    <div
      className="relative"
      style={{ width, height }}
      onPointerMove={(e) => point(e.clientX)}
      onPointerLeave={() => point(null)}
      data-strip
    >
      <canvas ref={still} className="absolute inset-0" style={{ width, height }} />
      <canvas ref={live} className="absolute inset-0" style={{ width, height }} />
    </div>
  );
}
