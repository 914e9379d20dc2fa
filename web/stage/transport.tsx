'use client';

import { ChevronLeft, ChevronRight, Pause, Play, Repeat } from 'lucide-react';
import { memo, useEffect, useRef } from 'react';
import { IconButton } from '@/ui/button';
import { type Clock, useClock } from './clock';
import { transport as texts } from './texts';

const SPEEDS = [0.25, 0.5, 1, 2];

/** Play, step, scrub, speed, loop; the frame counter is written past React. */
export const Transport = memo(function Transport({ clock, disabled = false }: { clock: Clock; disabled?: boolean }) {
  useClock(clock);
  const bar = useRef<HTMLInputElement>(null);
  const counter = useRef<HTMLSpanElement>(null);
  useEffect(() => {
    const show = (): void => {
      if (bar.current) {
        // told before React is, or a place beyond the former end would be cut off
        bar.current.max = String(Math.max(0, clock.frameCount - 1));
        bar.current.value = String(clock.frame);
        bar.current.style.setProperty('--at', `${(100 * clock.frame) / Math.max(1, clock.frameCount - 1)}%`);
      }
      if (counter.current) counter.current.textContent = `${clock.frame + 1} / ${clock.frameCount}`;
    };
    show();
    const stops = [clock.onTick(show), clock.subscribe(show)];
    return () => {
      for (const stop of stops) stop();
    };
  }, [clock]);
  return (
    <div className="flex items-center gap-1.5" aria-disabled={disabled}>
      <IconButton
        label={clock.playing ? texts.pause : texts.play}
        keys="Space"
        onClick={() => clock.setPlaying(!clock.playing)}
        disabled={disabled}
      >
        {clock.playing ? <Pause size={15} /> : <Play size={15} />}
      </IconButton>
      <IconButton label={texts.oneFrameBack} keys="," onClick={() => clock.step(-1)} disabled={disabled} quiet>
        <ChevronLeft size={15} />
      </IconButton>
      <IconButton label={texts.oneFrameForward} keys="." onClick={() => clock.step(1)} disabled={disabled} quiet>
        <ChevronRight size={15} />
      </IconButton>
      <input
        ref={bar}
        type="range"
        aria-label={texts.frame}
        className="scrub h-6 min-w-16 flex-1"
        min={0}
        max={Math.max(0, clock.frameCount - 1)}
        defaultValue={0}
        disabled={disabled}
        onInput={(e) => {
          // read first: whatever changes the clock writes its own frame here
          const frame = Number(e.currentTarget.value);
          clock.setPlaying(false);
          clock.seekFrame(frame);
        }}
      />
      <span ref={counter} className="min-w-16 text-right text-muted" />
      <button
        type="button"
        className="w-9 rounded px-1 py-1 text-muted hover:bg-raised hover:text-ink"
        aria-label={texts.speedClickForThe(clock.speed)}
        onClick={() => clock.setSpeed(SPEEDS[(SPEEDS.indexOf(clock.speed) + 1) % SPEEDS.length]!)}
        disabled={disabled}
      >
        {clock.speed}×
      </button>
      <IconButton
        label={clock.loop ? texts.looping : texts.playingOnce}
        keys="L"
        onClick={() => clock.setLoop(!clock.loop)}
        disabled={disabled}
        quiet
        pressed={clock.loop}
      >
        <Repeat size={14} />
      </IconButton>
    </div>
  );
});
