'use client';

import { FLAT_DEFAULTS, type FlatSettings } from '@velvet-reel/motion';
import { Select, SwitchRow } from '@/ui/field';
import { Slider } from '@/ui/slider';
import type { FitSettings } from '@/wishes/wishes';
import { Setting } from './setting';

const VIEWS: { value: FlatSettings['view']; label: string }[] = [
  { value: 'drawn', label: 'the side it is drawn from' },
  { value: 'front', label: 'the front' },
  { value: 'quarter', label: 'halfway between front and side' },
  { value: 'side', label: 'the side' },
  { value: 'follow', label: 'the same side all the time' },
];

/** What is set on a fitting to a cut-out: how the motion is seen, and what follows from its depth. */
export function FlatSettingsFields({
  settings,
  onSettings,
}: {
  settings: FitSettings;
  onSettings: (change: Partial<FitSettings>, label: string, gesture?: string) => void;
}) {
  const flat = settings.flat ?? FLAT_DEFAULTS;
  const set = (change: Partial<FlatSettings>, label: string, gesture?: string): void =>
    onSettings({ flat: { ...flat, ...change } }, label, gesture);
  const back = (name: keyof FlatSettings, label: string): { changed: boolean; onReset: () => void } => ({
    changed: flat[name] !== FLAT_DEFAULTS[name],
    onReset: () => set({ [name]: FLAT_DEFAULTS[name] }, label),
  });
  return (
    <>
      <Setting title="Seen from" {...back('view', 'Reset the view')}>
        <Select
          label="Seen from"
          value={flat.view}
          onChange={(view) => set({ view }, 'Changed where the motion is seen from')}
          options={VIEWS}
          className="w-full"
        />
      </Setting>
      <Setting title="Limbs that point at the eye" {...back('foreshorten', 'Reset foreshortening')}>
        <Slider
          label="drawn down to"
          value={Math.round(100 * flat.foreshorten)}
          rest={Math.round(100 * FLAT_DEFAULTS.foreshorten)}
          low={20}
          high={100}
          step={5}
          unit=" %"
          onChange={(x, gesture) => set({ foreshorten: x / 100 }, 'Changed foreshortening', gesture)}
        />
      </Setting>
      <Setting title="Drawing order" {...back('order', 'Reset the drawing order')}>
        <SwitchRow
          label="Limbs go before and behind by depth"
          checked={flat.order}
          onChange={(order) => set({ order }, order ? 'Let limbs go before and behind' : 'Kept the drawing order')}
        >
          arms and legs go in front of the body and behind it
        </SwitchRow>
      </Setting>
      <Setting title="Head" {...back('headViews', 'Reset the views of the head')}>
        <SwitchRow
          label="Show the view the head turns to"
          checked={flat.headViews}
          onChange={(headViews) =>
            set({ headViews }, headViews ? 'Let the head change views' : 'Kept one view of the head')
          }
        >
          front, quarter and side, as far as they are drawn
        </SwitchRow>
      </Setting>
      <Setting title="Hanging parts" {...back('swing', 'Reset hanging parts')}>
        <SwitchRow
          label="Hanging parts swing"
          checked={flat.swing}
          onChange={(swing) =>
            set({ swing }, swing ? 'Let hanging parts swing' : 'Stopped hanging parts from swinging')
          }
        >
          hair, hems and whatever else hangs swing after the body
        </SwitchRow>
      </Setting>
    </>
  );
}
