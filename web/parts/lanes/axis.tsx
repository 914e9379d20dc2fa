'use client';

import {
  createContext,
  type KeyboardEvent,
  type PointerEvent,
  type ReactNode,
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

/** Lanes under one clock: same width, same frames, one needle through all of them. */
export function TimeAxis({ clock, frames, children }: { clock: Clock; frames: number; children: ReactNode }) {
  const box = useRef<HTMLDivElement>(null);
  const needle = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(0);
  useLayoutEffect(() => {
    const node = box.current;
    if (!node) return;
    const measure = (): void => setWidth(Math.max(0, node.clientWidth - NAME_PX - END_PX));
    measure();
    const watch = new ResizeObserver(measure);
    watch.observe(node);
    return () => watch.disconnect();
  }, []);
  useEffect(() => {
    const show = (): void => {
      if (needle.current)
        needle.current.style.left = `${NAME_PX + (width * (clock.frame + 0.5)) / Math.max(1, frames)}px`;
    };
    show();
    return clock.onTick(show);
  }, [clock, width, frames]);
  const axis: Axis = {
    width,
    frames,
    clock,
    x: (frame) => (width * frame) / Math.max(1, frames),
    frameAt: (x) => Math.max(0, Math.min(frames - 1, Math.floor((x / Math.max(1, width)) * frames))),
    pxToFrames: (px) => Math.round((px / Math.max(1, width)) * frames),
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
  const { width } = useAxis();
  return (
    <div className="flex items-center" style={{ minHeight: height }}>
      <span className="shrink-0 truncate pr-2 text-[12.5px] text-muted" style={{ width: NAME_PX }}>
        {name}
      </span>
      <div className="relative shrink-0" style={{ width, height: height - 5 }}>
        {children}
      </div>
      <span className="shrink-0 text-right text-[12px] whitespace-nowrap text-muted" style={{ width: END_PX }}>
        {end}
      </span>
    </div>
  );
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
