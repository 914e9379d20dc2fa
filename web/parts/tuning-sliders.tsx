'use client';

import { TUNING_DEFAULTS, type Tuning } from '@/wishes/wishes';
import { Slider } from '../ui/slider';
import { tuningSliders as texts } from './texts';

const AMOUNTS: { key: keyof Tuning; label: string; low: number; high: number; step: number; unit?: string }[] = [
  { key: 'energy', label: texts.energy, low: 0, high: 2, step: 0.05 },
  { key: 'arms', label: texts.armsApart, low: -30, high: 45, step: 1, unit: '°' },
  { key: 'stance', label: texts.stanceWidth, low: 0.5, high: 2, step: 0.05, unit: ' ×' },
  { key: 'stride', label: texts.stride, low: 0.4, high: 1.6, step: 0.05, unit: ' ×' },
  { key: 'lean', label: texts.lean, low: -25, high: 30, step: 1, unit: '°' },
  { key: 'speed', label: texts.speed, low: 0.4, high: 2, step: 0.05, unit: ' ×' },
];

/** The handful of amounts that a motion is tuned by. */
export function TuningSliders({
  value,
  onChange,
}: {
  value: Tuning;
  onChange: (tuning: Tuning, gesture: string) => void;
}) {
  return (
    <div>
      {AMOUNTS.map((a) => (
        <Slider
          key={a.key}
          label={a.label}
          value={value[a.key]}
          rest={TUNING_DEFAULTS[a.key]}
          low={a.low}
          high={a.high}
          step={a.step}
          {...(a.unit ? { unit: a.unit } : {})}
          onChange={(x, gesture) => onChange({ ...value, [a.key]: x }, gesture)}
        />
      ))}
    </div>
  );
}
