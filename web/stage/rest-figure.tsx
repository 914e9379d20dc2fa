'use client';

import { restPose } from '@velvet-reel/motion';
import { useEffect, useRef } from 'react';
import type { RigAnswer } from '@/contract';
import { rigView } from './rig-view';
import { drawFigure, fitCanvas, pageInk } from './silhouette';
import { useThemeVersion } from './use-theme';

interface RestFigureProps {
  rig: RigAnswer;
  width: number;
  height: number;
  /** Pixels a metre; fills the height where left out. */
  scale?: number;
}

/** A small drawing of a rig in its rest pose. */
export function RestFigure({ rig, width, height, scale }: RestFigureProps) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const theme = useThemeVersion();
  useEffect(() => {
    const ctx = canvas.current && fitCanvas(canvas.current, width, height);
    if (!ctx) return;
    void theme;
    const view = rigView(rig);
    const pose = restPose(view.rig);
    let low = Number.POSITIVE_INFINITY;
    let high = Number.NEGATIVE_INFINITY;
    let wide = 0;
    for (let j = 0; j < view.rig.names.length; j++) {
      low = Math.min(low, pose.p[3 * j + 1]!);
      high = Math.max(high, pose.p[3 * j + 1]!);
      wide = Math.max(wide, Math.abs(pose.p[3 * j]!));
    }
    const tall = Math.max(rig.heightM, high - low);
    const s = scale ?? Math.min((height - 4) / tall, (1.7 * width) / (2 * wide));
    for (let o = 1; o < pose.p.length; o += 3) pose.p[o] = pose.p[o]! - low;
    drawFigure(ctx, view, pose, { x: width / 2, y: height - 3, scale: s, view: 0 }, pageInk());
  }, [rig, width, height, scale, theme]);
  return <canvas ref={canvas} style={{ width, height }} />;
}
