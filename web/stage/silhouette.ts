import { tipOf, type WorldPose } from '@velvet-reel/motion';
import { drawPaper } from './paper-strip';
import type { RigView } from './rig-view';

export interface Ink {
  centre: string;
  left: string;
  right: string;
  /** Laid behind every limb, so that limbs in front stand off. */
  rim: string;
}

/** Colours of the page's theme, read once a theme. */
export function pageInk(): Ink {
  const style = getComputedStyle(document.documentElement);
  const v = (name: string): string => style.getPropertyValue(name).trim();
  return { centre: v('--ink'), left: v('--verdigris'), right: v('--terracotta'), rim: v('--panel') };
}

export interface Placing {
  /** Canvas point of the ground under the hips. */
  x: number;
  y: number;
  /** Pixels a metre. */
  scale: number;
  /** Azimuth of the eye in radians, 0 from the front, positive towards the body's left. */
  view: number;
}

interface Drawn {
  ax: number;
  ay: number;
  bx: number;
  by: number;
  ra: number;
  rb: number;
  depth: number;
  side: number;
  kind: 'limb' | 'trunk' | 'head';
}

/** Draws one pose as a figure of tapered limbs, far ones first. */
export function drawFigure(
  ctx: CanvasRenderingContext2D,
  view: RigView,
  pose: WorldPose,
  placing: Placing,
  ink: Ink,
  alpha = 1,
): void {
  if (view.cutout && drawPaper(ctx, view, pose, placing, alpha)) return;
  const cos = Math.cos(placing.view);
  const sin = Math.sin(placing.view);
  const { scale } = placing;
  // the eye looks along −(sin, cos): what lies to its right is (cos, −sin) in x and z
  const flat = (x: number, y: number, z: number): [number, number, number] => [
    placing.x + (x * cos - z * sin) * scale,
    placing.y - y * scale,
    x * sin + z * cos,
  ];
  const parts: Drawn[] = [];
  for (const s of view.segments) {
    const p = pose.p;
    const a = flat(p[3 * s.a]!, p[3 * s.a + 1]!, p[3 * s.a + 2]!);
    const end = s.b >= 0 ? ([p[3 * s.b]!, p[3 * s.b + 1]!, p[3 * s.b + 2]!] as const) : tipOf(view.rig, pose, s.a);
    const b = end
      ? flat(end[0], end[1], end[2])
      : ([a[0], a[1] - s.ra * 1.9 * scale, a[2]] as [number, number, number]);
    parts.push({
      ax: a[0],
      ay: a[1],
      bx: b[0],
      by: b[1],
      ra: s.ra * scale,
      rb: s.rb * scale,
      depth: (a[2] + b[2]) / 2 + (s.kind === 'head' ? 0.05 : 0),
      side: s.side,
      kind: s.kind,
    });
  }
  // the trunk stands between near and far limbs as a whole
  const trunk = parts.filter((p) => p.kind === 'trunk');
  const middle = trunk.reduce((sum, p) => sum + p.depth / trunk.length, 0);
  for (const p of trunk) p.depth = middle;
  parts.sort((m, n) => m.depth - n.depth);
  ctx.save();
  ctx.globalAlpha = alpha;
  let trunkRim = false;
  for (const part of parts) {
    const color = part.side > 0 ? ink.left : part.side < 0 ? ink.right : ink.centre;
    if (part.kind === 'head') {
      const r = Math.max(1.4, part.ra);
      const cx = (part.ax + part.bx) / 2;
      const cy = (part.ay + part.by) / 2;
      ctx.beginPath();
      ctx.arc(cx, cy, r + 1, 0, 7);
      ctx.fillStyle = ink.rim;
      ctx.fill();
      ctx.beginPath();
      ctx.arc(cx, cy, r, 0, 7);
      ctx.fillStyle = color;
      ctx.fill();
      continue;
    }
    // the trunk is one body: its parts get no rim against each other
    if (part.kind !== 'trunk') capsule(ctx, part, 0.9, ink.rim);
    else if (!trunkRim) {
      trunkRim = true;
      for (const p of parts) if (p.kind === 'trunk') capsule(ctx, p, 0.9, ink.rim);
    }
    capsule(ctx, part, 0, color);
  }
  ctx.restore();
}

function capsule(ctx: CanvasRenderingContext2D, s: Drawn, grow: number, color: string): void {
  const ra = Math.max(0.8, s.ra) + grow;
  const rb = Math.max(0.7, s.rb) + grow;
  const angle = Math.atan2(s.by - s.ay, s.bx - s.ax);
  ctx.beginPath();
  ctx.arc(s.ax, s.ay, ra, angle + Math.PI / 2, angle - Math.PI / 2);
  ctx.arc(s.bx, s.by, rb, angle - Math.PI / 2, angle + Math.PI / 2);
  ctx.closePath();
  ctx.fillStyle = color;
  ctx.fill();
}

/** Makes a canvas sharp on this screen and returns its context in CSS pixels. */
export function fitCanvas(canvas: HTMLCanvasElement, width: number, height: number): CanvasRenderingContext2D | null {
  const ratio = Math.min(2, window.devicePixelRatio || 1);
  if (canvas.width !== Math.round(width * ratio) || canvas.height !== Math.round(height * ratio)) {
    canvas.width = Math.round(width * ratio);
    canvas.height = Math.round(height * ratio);
  }
  const ctx = canvas.getContext('2d');
  ctx?.setTransform(ratio, 0, 0, ratio, 0, 0);
  ctx?.clearRect(0, 0, width, height);
  return ctx;
}
