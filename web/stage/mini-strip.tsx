'use client';

import type { Strip } from '@velvet-reel/motion';
import { useEffect, useRef } from 'react';
import type { RigAnswer } from '@/contract';
import { facedAway, usePapers } from './paper-strip';
import { rigView } from './rig-view';
import { drawFigure, fitCanvas, pageInk } from './silhouette';
import { useThemeVersion } from './use-theme';

/** Pixels from one figure to the next. */
const APART = 40;

/** A motion as a few small figures in a row, without its plants: for where it lies among others. */
export function MiniStrip({
  strip,
  performer,
  width,
  height,
  from,
  to,
  laps,
  through,
  over,
}: {
  strip: Strip;
  performer: RigAnswer;
  width: number;
  height: number;
  /** Which stretch of it, shares of the whole, and how often. */
  from: number;
  to: number;
  laps: number;
  /** How far through a lap is how far through the stretch, both as shares; evenly where left out. */
  through?: ((share: number) => number) | undefined;
  /** Of paper: whether it goes the other way than it is drawn. Where left out it faces as the motion does. */
  over?: boolean | undefined;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const theme = useThemeVersion();
  const papers = usePapers();
  useEffect(() => {
    void theme;
    void papers;
    const ctx = canvas.current && fitCanvas(canvas.current, width, height);
    if (!ctx || width < 12) return;
    const view = rigView(performer);
    const ink = pageInk();
    const scale = (height - 4) / (performer.heightM * 1.12);
    const away = facedAway(view, view.poser.at(strip, 0), Math.cos(strip.view), Math.sin(strip.view));
    const turned = over !== undefined && over !== away;
    const count = Math.max(1, Math.floor(width / APART));
    for (let i = 0; i < count; i++) {
      const share = (((i + 0.5) / count) * laps) % 1;
      const at = (from + (to - from) * (through ? through(share) : share)) * (strip.frames.length - 1);
      const x = ((i + 0.5) / count) * width;
      ctx.save();
      ctx.translate(x, 0);
      if (turned) ctx.scale(-1, 1);
      drawFigure(ctx, view, view.poser.at(strip, at), { x: 0, y: height - 2, scale, view: strip.view }, ink, 0.75);
      ctx.restore();
    }
  }, [strip, performer, width, height, from, to, laps, through, over, theme, papers]);
  return <canvas ref={canvas} className="pointer-events-none absolute bottom-0 left-0" style={{ width, height }} />;
}
