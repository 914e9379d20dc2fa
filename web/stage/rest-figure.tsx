'use client';

import { type CutoutArt, restPose } from '@velvet-reel/motion';
import { useEffect, useMemo, useRef, useState } from 'react';
import type { RigAnswer } from '@/contract';
import { loadArt, pictureAddress } from './paper-art';
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

/** A cut-out as it was drawn, standing on the lower edge. */
export function PaperPicture({ art: hash, height, scale }: { art: string; height: number; scale: number }) {
  const [art, setArt] = useState<CutoutArt>();
  useEffect(() => {
    let gone = false;
    loadArt(hash).then(
      (a) => !gone && setArt(a),
      () => undefined,
    );
    return () => {
      gone = true;
    };
  }, [hash]);
  const address = useMemo(() => art && pictureAddress(art), [art]);
  if (!art || !address) return <span style={{ height }} />;
  // biome-ignore lint/performance/noImgElement: a picture made of the page's own data
  return <img src={address} alt="" style={{ height: Math.min(height, art.box[3] * art.unit * scale) }} />;
}
