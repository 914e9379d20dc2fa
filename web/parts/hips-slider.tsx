'use client';

import { Slider } from '../ui/slider';
import { hipsSlider as texts } from './texts';

/** How much lower the hips stand, told in per cent of the leg, kept as a share. */
export function HipsSlider({ value, onChange }: { value: number; onChange: (lower: number, gesture: string) => void }) {
  return (
    <Slider
      label={texts.hipsLower}
      value={Number((100 * value).toFixed(1))}
      rest={0}
      low={-10}
      high={15}
      step={0.5}
      unit=" %"
      onChange={(x, gesture) => onChange(x / 100, gesture)}
    />
  );
}
