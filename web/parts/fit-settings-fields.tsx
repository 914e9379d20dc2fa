'use client';

import type { FitSettings } from '@/wishes/wishes';
import { SwitchRow } from '../ui/field';
import { HipsSlider } from './hips-slider';
import { fitSettingsFields as texts } from './texts';
import { TuningSliders } from './tuning-sliders';

/** What fittings are made with, in short: for jobs that make many of them. */
export function FitSettingsFields({
  value,
  onChange,
}: {
  value: FitSettings;
  onChange: (settings: FitSettings) => void;
}) {
  const set = (change: Partial<FitSettings>): void => onChange({ ...value, ...change });
  return (
    <div className="flex flex-col gap-2">
      <SwitchRow label={texts.holdPlantedSolesIn} checked={value.plants} onChange={(plants) => set({ plants })} />
      <SwitchRow label={texts.keepLimbsOutOf} checked={value.clear} onChange={(clear) => set({ clear })} />
      <SwitchRow label={texts.keepArmsAndHead} checked={value.limits} onChange={(limits) => set({ limits })} />
      <SwitchRow
        label={texts.keepBothHandsThe}
        checked={value.hands === 'together'}
        onChange={(on) => set({ hands: on ? 'together' : 'free' })}
      />
      <HipsSlider value={value.lower} onChange={(lower) => set({ lower })} />
      <TuningSliders value={value.tuning} onChange={(tuning) => set({ tuning })} />
    </div>
  );
}
