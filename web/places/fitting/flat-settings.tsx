'use client';

import { FLAT_DEFAULTS, type FlatSettings } from '@velvet-reel/motion';
import { Select, SwitchRow } from '@/ui/field';
import { Slider } from '@/ui/slider';
import type { FitSettings } from '@/wishes/wishes';
import { Setting } from './setting';
import { flatSettings as texts } from './texts';

const VIEWS: { value: FlatSettings['view']; label: string }[] = [
  { value: 'drawn', label: texts.theSideItIs },
  { value: 'front', label: texts.theFront },
  { value: 'quarter', label: texts.halfwayBetweenFrontAnd },
  { value: 'side', label: texts.theSide },
  { value: 'follow', label: texts.theSameSideAll },
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
      <Setting title={texts.seenFrom} {...back('view', texts.resetTheView)}>
        <Select
          label={texts.seenFrom}
          value={flat.view}
          onChange={(view) => set({ view }, texts.changedWhereTheMotion)}
          options={VIEWS}
          className="w-full"
        />
      </Setting>
      <Setting title={texts.limbsThatPointAt} {...back('foreshorten', texts.resetForeshortening)}>
        <Slider
          label={texts.drawnDownTo}
          value={Math.round(100 * flat.foreshorten)}
          rest={Math.round(100 * FLAT_DEFAULTS.foreshorten)}
          low={20}
          high={100}
          step={5}
          unit=" %"
          onChange={(x, gesture) => set({ foreshorten: x / 100 }, texts.changedForeshortening, gesture)}
        />
      </Setting>
      <Setting title={texts.drawingOrder} {...back('order', texts.resetTheDrawingOrder)}>
        <SwitchRow
          label={texts.limbsGoBeforeAnd}
          checked={flat.order}
          onChange={(order) => set({ order }, order ? texts.letLimbsGoBefore : texts.keptTheDrawingOrder)}
        >
          {texts.armsAndLegsGo}
        </SwitchRow>
      </Setting>
      <Setting title={texts.head} {...back('headViews', texts.resetTheViewsOf)}>
        <SwitchRow
          label={texts.showTheViewThe}
          checked={flat.headViews}
          onChange={(headViews) => set({ headViews }, headViews ? texts.letTheHeadChange : texts.keptOneViewOf)}
        >
          {texts.frontQuarterAndSide}
        </SwitchRow>
      </Setting>
      <Setting title={texts.hangingParts} {...back('swing', texts.resetHangingParts)}>
        <SwitchRow
          label={texts.hangingPartsSwing}
          checked={flat.swing}
          onChange={(swing) => set({ swing }, swing ? texts.letHangingPartsSwing : texts.stoppedHangingPartsFrom)}
        >
          {texts.hairHemsAndWhatever}
        </SwitchRow>
      </Setting>
    </>
  );
}
