'use client';

import { type Motion, PoseReader } from '@velvet-reel/motion';
import { useEffect, useRef } from 'react';
import type { RigAnswer } from '@/contract';
import type { Playable } from '@/solver/solve';
import { rigView } from '@/stage/rig-view';
import { drawFigure, fitCanvas, pageInk } from '@/stage/silhouette';

const POSES = 22;
const HEIGHT = 92;

/** Poses of a solved motion in a row, seen from a quarter to the side, the ground as a line. */
export function ContactSheet({
  name,
  rig,
  motion,
}: {
  name: string;
  rig: RigAnswer | undefined;
  motion: Playable | undefined;
}) {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const el = canvas.current;
    if (!el || !rig || !motion) return;
    const view = rigView(rig);
    const n = view.rig.names.length;
    if (motion.turns.length !== 4 * n * motion.frameCount) return;
    const width = el.clientWidth;
    const ctx = fitCanvas(el, width, HEIGHT);
    if (!ctx) return;
    const ink = pageInk();
    const reader = new PoseReader(view.rig, motion as Motion);
    const base = HEIGHT - 8;
    ctx.clearRect(0, 0, width, HEIGHT);
    ctx.strokeStyle = ink.left;
    ctx.globalAlpha = 0.5;
    ctx.beginPath();
    ctx.moveTo(0, base + 0.5);
    ctx.lineTo(width, base + 0.5);
    ctx.stroke();
    ctx.globalAlpha = 1;
    for (let i = 0; i < POSES; i++) {
      const frame = Math.round((i * (motion.frameCount - 1)) / (POSES - 1));
      const pose = reader.at(frame);
      const hips = { x: pose.p[0]!, z: pose.p[2]! };
      const moved = { r: pose.r, p: pose.p.slice() };
      // climbs are drawn level: what counts is the pose over its ground
      let ground = Number.POSITIVE_INFINITY;
      for (let o = 1; o < moved.p.length; o += 3) ground = Math.min(ground, moved.p[o]!);
      const lift = ground > 0.35 * rig.heightM ? ground : 0;
      for (let o = 0; o < moved.p.length; o += 3) {
        moved.p[o] = moved.p[o]! - hips.x;
        moved.p[o + 1] = moved.p[o + 1]! - lift;
        moved.p[o + 2] = moved.p[o + 2]! - hips.z;
      }
      const scale = (HEIGHT - 16) / (rig.heightM * 1.22);
      drawFigure(ctx, view, moved, { x: 60 + ((width - 100) * i) / (POSES - 1), y: base, scale, view: 0.95 }, ink);
    }
  }, [rig, motion]);
  return (
    <div className="relative" style={{ height: HEIGHT }}>
      <canvas ref={canvas} className="absolute inset-0 h-full w-full" />
      <span className="absolute top-0 left-0 text-[11px] text-muted">{name}</span>
    </div>
  );
}
