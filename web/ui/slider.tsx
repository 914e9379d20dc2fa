'use client';

import { RotateCcw } from 'lucide-react';
import { Slider as Radix } from 'radix-ui';
import { useRef } from 'react';
import { newGesture } from '@/ui/gesture';
import { IconButton } from './button';
import { slider as texts } from './texts';

interface SliderProps {
  label: string;
  value: number;
  /** Where it stands when nothing is asked for; a change from it is marked and can be taken back. */
  rest: number;
  low: number;
  high: number;
  step: number;
  unit?: string;
  /** @param gesture the same while a drag or a held key goes on */
  onChange: (value: number, gesture: string) => void;
}

const shown = (x: number, step: number): string => x.toFixed(step < 0.1 ? 2 : step < 1 ? 1 : 0);

/** An amount with its name, number and way back, on one line. */
export function Slider({ label, value, rest, low, high, step, unit = '', onChange }: SliderProps) {
  const changed = value !== rest;
  const gesture = useRef('');
  const begin = (): void => {
    gesture.current = newGesture();
  };
  return (
    <div className="grid h-7 grid-cols-[92px_1fr_52px_24px] items-center gap-2">
      <span className={changed ? 'text-brass-text' : 'text-muted'}>{label}</span>
      <Radix.Root
        min={low}
        max={high}
        step={step}
        value={[value]}
        onPointerDownCapture={begin}
        onKeyDownCapture={(e) => !e.repeat && begin()}
        onValueChange={([x]) => x !== undefined && onChange(x, gesture.current)}
        className="relative flex h-5 touch-none items-center select-none"
      >
        <Radix.Track className="relative h-1 grow rounded-full bg-line">
          <Radix.Range className="absolute h-full rounded-full bg-muted" />
        </Radix.Track>
        <Radix.Thumb
          aria-label={label}
          className="block size-3.5 rounded-full border border-brass bg-brass focus-visible:outline-2"
        />
      </Radix.Root>
      <span className="text-right tabular-nums">
        {shown(value, step)}
        {unit}
      </span>
      {changed ? (
        <IconButton label={texts.reset(label.toLowerCase())} onClick={() => onChange(rest, newGesture())} quiet>
          <RotateCcw size={12} />
        </IconButton>
      ) : (
        <span />
      )}
    </div>
  );
}
