'use client';

import { X } from 'lucide-react';
import { type ComponentProps, useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import { writeOver } from '@/parts/film/caption';
import { type FilmSink, sinkFor } from '@/parts/film/encode';
import { useFilms } from '@/parts/film/filming';
import { Clock } from '@/stage/clock';
import type { StageHandle } from '@/stage/contract';
import type { Photographed } from '@/stage/shutter';
import { IconButton } from '@/ui/button';
import { FittingStage } from '../fitting-stage';
import { filmStudio as texts } from '../texts';
import { type FilmWish, picturesOf, troublesAt, viewOf, widthOf } from './film-wish';

type StageProps = ComponentProps<typeof FittingStage>;

export interface FilmOrder {
  readonly wish: FilmWish;
  readonly title: string;
  readonly lines: readonly string[];
  /** Where the eye is on the stage that is looked at. */
  readonly eye: [number, number, number];
  readonly stage: Pick<StageProps, 'source' | 'target' | 'member' | 'view'> & {
    readonly answer: NonNullable<StageProps['answer']>;
  };
}

const ENDINGS = { webm: 'webm', gif: 'gif', png: 'zip' } as const;
/** A stage that is not ready by then never will be, milliseconds. */
const READY_MS = 20_000;
/** So long the page may be kept busy before others have their turn, milliseconds. */
const TURN_MS = 24;

const nothing = (): void => undefined;
const pause = (ms = 0): Promise<void> => new Promise((done) => setTimeout(done, ms));

/** A stage of its own out of sight, filmed picture by picture, with a line that says how far it is. */
export function FilmStudio({ order, onEnd }: { order: FilmOrder; onEnd: () => void }) {
  const { wish, stage } = order;
  const [clock] = useState(() => new Clock());
  const handle = useRef<StageHandle | null>(null);
  const box = useRef<HTMLDivElement>(null);
  const [share, setShare] = useState(0);
  const waiting = useFilms((s) => s.queue.length - 1);
  const over = useRef(false);
  const ended = useRef(onEnd);
  ended.current = onEnd;
  const [view] = useState(() => viewOf(wish.shot, stage.view));
  const [height, width] = [wish.lines, widthOf(wish.lines)];
  useEffect(() => {
    over.current = false;
    const run = async (): Promise<void> => {
      let sink: FilmSink | undefined;
      try {
        const blob = await film(order, clock, box.current!, handle, over, setShare, (s) => {
          sink = s;
        });
        if (!blob) {
          await sink?.cancel();
          return;
        }
        const link = document.createElement('a');
        link.href = URL.createObjectURL(blob);
        link.download = `${order.title}.${ENDINGS[wish.format]}`;
        link.click();
        setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
        toast(texts.isSaved(link.download));
        ended.current();
      } catch (e) {
        await sink?.cancel().catch(nothing);
        if (over.current) return;
        toast.error(texts.theFilmCouldNot((e as Error).message));
        ended.current();
      }
    };
    void run();
    return () => {
      over.current = true;
    };
  }, [order, clock, wish.format]);
  return (
    <>
      <div
        ref={box}
        aria-hidden="true"
        inert
        className="pointer-events-none fixed top-0 -left-[9999px]"
        style={{ width, height }}
      >
        <FittingStage
          clock={clock}
          {...stage}
          also={[]}
          wish={undefined}
          view={view}
          lit={undefined}
          picking={null}
          held={null}
          mode="move"
          handle={handle}
          onPointJoint={nothing}
          onPick={nothing}
          onStopPicking={nothing}
          onPullStart={nothing}
          onPull={nothing}
          onPullEnd={nothing}
        />
      </div>
      <div
        role="status"
        className="fixed bottom-1 left-1/2 z-40 flex w-96 -translate-x-1/2 items-center gap-2 rounded-lg border border-line bg-raised px-3 py-1"
      >
        <span className="min-w-0 flex-1">
          <span className="flex gap-2">
            <span className="min-w-0 truncate">{texts.filming(order.title)}</span>
            {waiting > 0 && <span className="shrink-0 text-muted">{texts.waiting(waiting)}</span>}
          </span>
          <span className="mt-1 block h-1 overflow-hidden rounded bg-raised">
            <span className="block h-full bg-brass" style={{ width: `${100 * share}%` }} />
          </span>
        </span>
        <span className="text-right whitespace-nowrap text-muted tabular-nums">{Math.round(100 * share)} %</span>
        <IconButton label={texts.stopFilming} quiet onClick={onEnd}>
          <X size={14} />
        </IconButton>
      </div>
    </>
  );
}

/** Films every picture. @returns undefined where it was stopped */
async function film(
  { wish, title, lines, eye, stage }: FilmOrder,
  clock: Clock,
  box: HTMLElement,
  handle: { readonly current: StageHandle | null },
  over: { readonly current: boolean },
  onShare: (share: number) => void,
  onSink: (sink: FilmSink) => void,
): Promise<Blob | undefined> {
  const canvas = await readyCanvas(box, over);
  if (!canvas) return undefined;
  clock.setPlaying(false);
  handle.current?.look(eye);
  const picture = document.createElement('canvas');
  [picture.width, picture.height] = [widthOf(wish.lines), wish.lines];
  const g = picture.getContext('2d', { willReadFrequently: wish.format === 'gif' })!;
  const sink = await sinkFor(wish.format, picture, {
    ...picture,
    width: picture.width,
    height: picture.height,
    fps: wish.fps,
  });
  onSink(sink);
  const { result } = stage.answer;
  const count = picturesOf(result.frameCount, result.fps, wish.fps);
  const back = backdrop(picture.width, picture.height);
  let turn = performance.now();
  for (let i = 0; i < count; i++) {
    if (over.current) return undefined;
    clock.time = Math.min(clock.duration - 1e-6, i / wish.fps + 1e-6);
    canvas.drawNow?.();
    g.drawImage(back, 0, 0);
    g.drawImage(canvas, 0, 0, picture.width, picture.height);
    const frame = clock.frameOf(result);
    writeOver(g, {
      slate: wish.slate ? [title, ...lines] : [],
      count: wish.count ? `${frame + 1} / ${result.frameCount} · ${(i / wish.fps).toFixed(2)} s` : undefined,
      troubles: wish.troubles ? troublesAt(stage.answer.report.troubles, frame, result.fps) : [],
      sides: wish.shot === 'beside' ? ['original', 'result'] : [],
    });
    await sink.add(picture, i);
    onShare((i + 1) / count);
    if (performance.now() - turn > TURN_MS) {
      await pause();
      turn = performance.now();
    }
  }
  return sink.finish();
}

/** The canvas of the stage once somebody stands on it. */
async function readyCanvas(box: HTMLElement, over: { readonly current: boolean }): Promise<Photographed | undefined> {
  const until = performance.now() + READY_MS;
  while (!over.current) {
    const canvas = box.querySelector<Photographed>('canvas');
    if (canvas?.peopled?.()) return canvas;
    if (performance.now() > until) throw new Error('the stage did not become ready.');
    await pause(50);
  }
  return undefined;
}

/** The light behind a stage, as its own style sheet has it. */
function backdrop(width: number, height: number): HTMLCanvasElement {
  const out = document.createElement('canvas');
  [out.width, out.height] = [width, height];
  const g = out.getContext('2d')!;
  const style = getComputedStyle(document.documentElement);
  const light = g.createRadialGradient(width / 2, 0.42 * height, 0, width / 2, 0.42 * height, 0.6 * width);
  light.addColorStop(0, style.getPropertyValue('--stage-light').trim() || '#3a2731');
  light.addColorStop(1, style.getPropertyValue('--velvet').trim() || '#1a1218');
  g.fillStyle = light;
  g.fillRect(0, 0, width, height);
  return out;
}
