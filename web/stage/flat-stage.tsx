'use client';

import { type CutoutArt, type CutoutDrawing, type CutoutRig, CutoutShow, type ShownDrawing } from '@velvet-reel/motion';
import { type ReactNode, type RefObject, useEffect, useLayoutEffect, useMemo, useRef, useState } from 'react';
import { toast } from 'sonner';
import type { Playable } from '@/solver/solve';
import type { Clock } from './clock';
import { loadArt, MARGIN, type Raster, rasterOf } from './paper-art';

/** How the picture lies on the page: pixels for each of its units, and where its corner is. */
export interface FlatView {
  readonly scale: number;
  readonly x: number;
  readonly y: number;
}

export interface FlatHandle {
  /** A point of the page, from the stage's upper left corner, in the picture's units. */
  toPicture: (x: number, y: number) => [number, number];
}

interface FlatStageProps {
  rig: CutoutRig;
  /** Hash of the art's file. */
  art: string;
  clock: Clock;
  motion: Playable;
  label: string;
  /** How far parts are drawn away from one another, by part: the picture's units. */
  apart?: ((part: number) => readonly [number, number]) | undefined;
  /** Room that is left about the figure beyond its own, in the picture's units. */
  room?: number;
  /** Part that is drawn bright, the others faint. */
  lit?: number | null;
  handle?: RefObject<FlatHandle | null>;
  /** Told where the picture lies whenever that changes. */
  onView?: (view: FlatView) => void;
  /** Drawn over the picture, in pixels. */
  children?: ReactNode;
}

/** A drawing of a figure over and over again: made once for a size. */
class Rasters {
  private readonly made = new Map<CutoutDrawing, Raster | null>();
  constructor(
    readonly art: CutoutArt,
    readonly scale: number,
    private readonly arrived: () => void,
  ) {}

  of(drawing: CutoutDrawing): Raster | undefined {
    const known = this.made.get(drawing);
    if (known !== undefined) return known ?? undefined;
    this.made.set(drawing, null);
    void rasterOf(this.art, drawing, this.scale).then(
      (raster) => {
        this.made.set(drawing, raster);
        this.arrived();
      },
      () => undefined,
    );
    return undefined;
  }
}

/** Finer than the screen, since turned parts are drawn between its pixels. */
const OVERSAMPLED = 1.5;

/** A cut-out in its plane: the same clock as the stage in space, drawn by the page itself. */
export function FlatStage({
  rig,
  art: hash,
  clock,
  motion,
  label,
  apart,
  room = 0,
  lit,
  handle,
  onView,
  children,
}: FlatStageProps) {
  const frame = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  const [art, setArt] = useState<CutoutArt>();
  useEffect(() => {
    let gone = false;
    setArt(undefined);
    loadArt(hash).then(
      (a) => !gone && setArt(a),
      (error: Error) => toast.error(error.message, { id: hash }),
    );
    return () => {
      gone = true;
    };
  }, [hash]);
  useLayoutEffect(() => {
    const box = frame.current;
    if (!box) return;
    const watch = new ResizeObserver(() => setSize({ width: box.clientWidth, height: box.clientHeight }));
    watch.observe(box);
    return () => watch.disconnect();
  }, []);
  const show = useMemo(
    () => art && art.pivots.length === rig.parts.length && new CutoutShow(rig, art, motion),
    [rig, art, motion],
  );
  const view = useMemo(() => art && fitted(art, size, room), [art, size, room]);
  const close = useMemo(() => art && fitted(art, size, 0)?.scale, [art, size]);
  useEffect(() => {
    if (view) onView?.(view);
    if (handle)
      handle.current = view ? { toPicture: (x, y) => [(x - view.x) / view.scale, (y - view.y) / view.scale] } : null;
  }, [view, onView, handle]);
  const draw = useRef<() => void>(() => undefined);
  const rasters = useMemo(() => {
    if (!art || !close) return undefined;
    const ratio = Math.min(2, devicePixelRatio || 1);
    return new Rasters(art, close * ratio * OVERSAMPLED, () => draw.current());
  }, [art, close]);
  useEffect(() => clock.play(motion), [clock, motion]);
  useEffect(() => clock.begin(matchMedia('(prefers-reduced-motion: reduce)').matches), [clock]);
  // time goes on by itself
  useEffect(() => {
    let before = performance.now();
    let asked = 0;
    const go = (now: number): void => {
      asked = requestAnimationFrame(go);
      clock.advance(Math.min((now - before) / 1000, 0.25));
      before = now;
    };
    asked = requestAnimationFrame(go);
    return () => cancelAnimationFrame(asked);
  }, [clock]);
  useEffect(() => {
    const target = canvas.current;
    if (!target || !show || !view || !rasters) return;
    const ratio = Math.min(2, devicePixelRatio || 1);
    target.width = Math.round(size.width * ratio);
    target.height = Math.round(size.height * ratio);
    const context = target.getContext('2d');
    if (!context) return;
    let asked = 0;
    const now = (): void => {
      asked = 0;
      const shown = show.at(clock.frameOf(motion) / motion.fps);
      paint(context, shown, { view, ratio, rasters, apart, lit: lit ?? null });
    };
    const ask = (): void => {
      if (asked === 0) asked = requestAnimationFrame(now);
    };
    draw.current = ask;
    now();
    const stops = [clock.onTick(ask), clock.subscribe(ask)];
    return () => {
      cancelAnimationFrame(asked);
      for (const stop of stops) stop();
    };
  }, [show, view, rasters, size, clock, motion, apart, lit]);
  return (
    <div ref={frame} className="stage-back relative h-full w-full overflow-hidden">
      <canvas ref={canvas} role="img" aria-label={label} className="absolute inset-0 h-full w-full" />
      {children}
    </div>
  );
}

/** The whole figure, with room about it. */
function fitted(
  art: CutoutArt,
  { width, height }: { width: number; height: number },
  room: number,
): FlatView | undefined {
  if (width < 2 || height < 2) return undefined;
  const rest = art.drawings;
  const x0 = Math.min(...rest.map((d) => d.box[0])) - room;
  const x1 = Math.max(...rest.map((d) => d.box[0] + d.box[2])) + room;
  const y0 = Math.min(...rest.map((d) => d.box[1])) - room;
  const y1 = Math.max(...rest.map((d) => d.box[1] + d.box[3])) + room;
  const scale = Math.min((0.8 * width) / Math.max(1, x1 - x0), (0.78 * height) / Math.max(1, y1 - y0));
  return { scale, x: width / 2 - (scale * (x0 + x1)) / 2, y: height * 0.46 - (scale * (y0 + y1)) / 2 };
}

interface Painting {
  readonly view: FlatView;
  readonly ratio: number;
  readonly rasters: Rasters;
  readonly apart: FlatStageProps['apart'];
  readonly lit: number | null;
}

function paint(
  context: CanvasRenderingContext2D,
  shown: readonly ShownDrawing[],
  { view, ratio, rasters, apart, lit }: Painting,
): void {
  context.setTransform(1, 0, 0, 1, 0, 0);
  context.clearRect(0, 0, context.canvas.width, context.canvas.height);
  const s = view.scale * ratio;
  for (const { part, drawing, matrix: m } of shown) {
    const raster = rasters.of(drawing);
    if (!raster) continue;
    const [ax, ay] = apart?.(part) ?? [0, 0];
    context.globalAlpha = lit === null || lit === part ? 1 : 0.28;
    // pixels of the drawing → units of the picture → moved → pixels of the page
    const [x, y] = [drawing.box[0] - MARGIN / raster.scale, drawing.box[1] - MARGIN / raster.scale];
    const k = s / raster.scale;
    context.setTransform(
      m[0] * k,
      m[1] * k,
      m[2] * k,
      m[3] * k,
      s * (m[0] * x + m[2] * y + m[4] + ax) + view.x * ratio,
      s * (m[1] * x + m[3] * y + m[5] + ay) + view.y * ratio,
    );
    context.drawImage(raster.canvas, 0, 0);
  }
  context.globalAlpha = 1;
}
