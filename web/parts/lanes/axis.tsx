'use client';

import {
  createContext,
  type KeyboardEvent,
  type PointerEvent,
  type ReactNode,
  type RefObject,
  useContext,
  useEffect,
  useLayoutEffect,
  useRef,
  useState,
} from 'react';
import type { Clock } from '@/stage/clock';

export const NAME_PX = 96;
export const END_PX = 64;

interface Axis {
  width: number;
  frames: number;
  /** First frame in view, and how many are. */
  start: number;
  shown: number;
  names: number;
  ends: number;
  clock: Clock;
  /** Left edge of a frame, pixels from the start of the lane. */
  x: (frame: number) => number;
  frameAt: (x: number) => number;
  /** Frames that a drag of so many pixels goes. */
  pxToFrames: (px: number) => number;
}

const AxisContext = createContext<Axis | null>(null);

export function useAxis(): Axis {
  const axis = useContext(AxisContext);
  if (!axis) throw new Error('Lanes stand inside a TimeAxis.');
  return axis;
}

/** Frames in view: the first, and how many. */
export interface View {
  readonly start: number;
  readonly shown: number;
}

/** A window of frames kept within the lane. */
export function within(start: number, shown: number, frames: number): View {
  const wide = Math.min(frames, Math.max(4, shown));
  return { start: Math.min(Math.max(0, start), Math.max(0, frames - wide)), shown: wide };
}

interface TimeAxisProps {
  clock: Clock;
  frames: number;
  /** First frame in view and how many are; all of them where left out. */
  view?: View;
  /** Room for the names of lanes, and for what stands at their ends, pixels. */
  names?: number;
  ends?: number;
  /** Told when the view is zoomed (wheel with Ctrl) or moved (with Shift). */
  onView?: (view: View) => void;
  children: ReactNode;
}

/** Lanes under one clock: same width, same frames, one needle through all of them. */
export function TimeAxis({ clock, frames, view, names = NAME_PX, ends = END_PX, onView, children }: TimeAxisProps) {
  const start = view?.start ?? 0;
  const shown = Math.max(1, view?.shown ?? frames);
  const box = useRef<HTMLDivElement>(null);
  const needle = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  useLayoutEffect(() => {
    const node = box.current;
    if (!node) return;
    const measure = (): void => setWidth(Math.max(0, node.clientWidth - names - ends));
    measure();
    const watch = new ResizeObserver(measure);
    watch.observe(node);
    return () => watch.disconnect();
  }, [names, ends]);
  // what is shown while a zoom goes on and the lanes have not been drawn anew
  const ahead = useZoom(box, { start, shown }, { frames, names, ends }, onView);
  useEffect(() => {
    const show = (): void => {
      if (!needle.current) return;
      const seen = ahead.current ?? { start, shown };
      const at = (clock.frame + 0.5 - seen.start) / seen.shown;
      needle.current.style.left = `${names + width * at}px`;
      needle.current.style.visibility = at >= 0 && at <= 1 ? 'visible' : 'hidden';
    };
    show();
    return clock.onTick(show);
  }, [clock, width, start, shown, names, ahead]);
  const axis: Axis = {
    width,
    frames,
    start,
    shown,
    names,
    ends,
    clock,
    x: (frame) => (width * (frame - start)) / shown,
    frameAt: (x) => Math.max(0, Math.min(frames - 1, Math.floor(start + (x / Math.max(1, width)) * shown))),
    pxToFrames: (px) => Math.round((px / Math.max(1, width)) * shown),
  };
  return (
    <AxisContext.Provider value={axis}>
      <div ref={box} className="relative">
        {children}
        <div ref={needle} className="pointer-events-none absolute top-0 bottom-0 z-10 w-px bg-brass" />
      </div>
    </AxisContext.Provider>
  );
}

/** One lane: its name, what is drawn over time, and a figure at its end. */
export function Lane({
  name,
  end,
  height,
  children,
}: {
  name: ReactNode;
  end?: ReactNode;
  height: number;
  children: ReactNode;
}) {
  const { width, names, ends } = useAxis();
  return (
    <div className="flex items-center" style={{ minHeight: height }}>
      <span className="shrink-0 truncate pr-2 text-[12.5px] text-muted" style={{ width: names }}>
        {name}
      </span>
      <div className="relative shrink-0" style={{ width, height: height - 5 }}>
        <Ground>{children}</Ground>
      </div>
      <span className="shrink-0 text-right text-[12px] whitespace-nowrap text-muted" style={{ width: ends }}>
        {end}
      </span>
    </div>
  );
}

/** What lies over time in a lane; it is stretched while a zoom goes on. */
export function Ground({ children }: { children: ReactNode }) {
  return (
    <div data-ground className="absolute inset-0 origin-left">
      {children}
    </div>
  );
}

/** Lanes of more elements than this are stretched while they are zoomed, and drawn anew when the wheel rests. */
const MANY = 250;
const RESTS_MS = 100;

/**
 * The wheel zooms about the pointer with Ctrl, and moves the view with Shift. Lanes of few elements are drawn anew at once.
 * @returns the view that is shown ahead of the one that was drawn, if any
 */
function useZoom(
  box: RefObject<HTMLDivElement | null>,
  drawn: View,
  { frames, names, ends }: { frames: number; names: number; ends: number },
  onView: ((view: View) => void) | undefined,
): RefObject<View | null> {
  const ahead = useRef<View | null>(null);
  const { start, shown } = drawn;
  const stretch = (view: View | null): void => {
    const wide = Math.max(1, (box.current?.clientWidth ?? 0) - names - ends);
    for (const ground of box.current?.querySelectorAll<HTMLElement>('[data-ground]') ?? []) {
      const by = view && `translateX(${(wide * (start - view.start)) / view.shown}px) scaleX(${shown / view.shown})`;
      Object.assign(ground.style, { transform: by ?? '', willChange: by ? 'transform' : '' });
      ground.parentElement!.style.overflowX = by ? 'clip' : '';
    }
    // what stands at a frame keeps its shape and goes along
    for (const mark of box.current?.querySelectorAll<HTMLElement>('[data-frame]') ?? []) {
      const frame = Number(mark.dataset.frame);
      const by = view && wide * ((frame - view.start) / view.shown - (frame - start) / shown);
      mark.style.transform = by === null ? '' : `translateX(${by}px)`;
    }
  };
  const latest = useRef({ stretch, drawn, frames, onView });
  useLayoutEffect(() => {
    latest.current = { stretch, drawn, frames, onView };
  });
  // what was drawn anew needs no stretching
  // biome-ignore lint/correctness/useExhaustiveDependencies: another view was drawn
  useLayoutEffect(() => {
    if (!ahead.current) return;
    ahead.current = null;
    latest.current.stretch(null);
  }, [start, shown]);
  const listens = onView !== undefined;
  useEffect(() => {
    const node = box.current?.parentElement;
    if (!node || !listens) return;
    let rests: ReturnType<typeof setTimeout> | undefined;
    const wheel = (e: WheelEvent): void => {
      if (!e.ctrlKey && !e.metaKey && !e.shiftKey) return;
      e.preventDefault();
      const { frames: all, drawn: last, onView: tell } = latest.current;
      const view = ahead.current ?? last;
      const lanes = box.current!;
      const wide = Math.max(1, lanes.clientWidth - names - ends);
      const delta = e.deltaY || e.deltaX;
      let to: View;
      if (e.shiftKey) to = within(view.start + (delta / wide) * view.shown, view.shown, all);
      else {
        const share = Math.min(1, Math.max(0, (e.clientX - lanes.getBoundingClientRect().left - names) / wide));
        const wished = Math.min(all, Math.max(10, view.shown * Math.exp(delta / 400)));
        to = within(view.start + share * (view.shown - wished), wished, all);
      }
      if (node.getElementsByTagName('*').length < MANY) {
        tell!(to);
        return;
      }
      ahead.current = to;
      latest.current.stretch(to);
      clearTimeout(rests);
      rests = setTimeout(() => ahead.current && latest.current.onView?.(ahead.current), RESTS_MS);
    };
    node.addEventListener('wheel', wheel, { passive: false });
    return () => {
      clearTimeout(rests);
      node.removeEventListener('wheel', wheel);
    };
  }, [box, names, ends, listens]);
  return ahead;
}

/** What makes an element of a lane a slider of time: the pointer, held down, and the arrow keys lead the clock. */
export function useScrub() {
  const { clock, frames, frameAt } = useAxis();
  const to = (e: PointerEvent<Element>): void =>
    seek(clock, frameAt(e.clientX - e.currentTarget.getBoundingClientRect().left));
  return {
    role: 'slider',
    tabIndex: 0,
    'aria-valuemin': 1,
    'aria-valuemax': frames,
    'aria-valuenow': clock.frame + 1,
    onPointerDown: (e: PointerEvent<Element>): void => {
      e.currentTarget.setPointerCapture(e.pointerId);
      to(e);
    },
    onPointerMove: (e: PointerEvent<Element>): void => {
      if (e.currentTarget.hasPointerCapture(e.pointerId)) to(e);
    },
    onKeyDown: (e: KeyboardEvent<Element>): void => {
      const by = e.key === 'ArrowLeft' ? -1 : e.key === 'ArrowRight' ? 1 : 0;
      const end = e.key === 'Home' ? 0 : e.key === 'End' ? frames - 1 : -1;
      if (by === 0 && end < 0) return;
      e.preventDefault();
      e.stopPropagation();
      seek(clock, end >= 0 ? end : Math.max(0, Math.min(frames - 1, clock.frame + by)));
      e.currentTarget.setAttribute('aria-valuenow', String(clock.frame + 1));
    },
  } as const;
}

/** Goes to a frame and stands still there. */
export function seek(clock: Clock, frame: number): void {
  clock.setPlaying(false);
  clock.seekFrame(frame);
}
