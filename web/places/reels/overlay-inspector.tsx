'use client';

import {
  OVERLAY_MODES,
  type Overlay,
  onsetStrength,
  REFERENCES,
  REGIONS,
  type Region,
  strengthAt,
  stretchLength,
} from '@velvet-reel/motion';
import { useState } from 'react';
import { TimeAxis } from '@/parts/lanes/axis';
import { CurveLine } from '@/parts/lanes/curve';
import { Clock } from '@/stage/clock';
import { Button } from '@/ui/button';
import { Select, SwitchRow } from '@/ui/field';
import { Slider } from '@/ui/slider';
import { Choice, Heading, Pill } from './choice';
import { regionWord } from './join-words';
import { StretchFields, StretchHead, type StretchProps } from './stretch-inspector';
import { overlayInspector as texts } from './texts';

export function OverlayInspector({
  of,
  absolute = false,
  paper = false,
  onChange,
  ...p
}: StretchProps & {
  of: Overlay;
  /** It is added, though it looks as if it held whole poses. */
  absolute?: boolean;
  /** The member is a cut-out. */
  paper?: boolean;
  onChange: (change: Partial<Overlay>, label: string, gesture?: string) => void;
}) {
  const name = p.item?.name ?? texts.theOverlay;
  // the strength is told from the overlay's own beginning: it has a time of its own
  const [still] = useState(() => new Clock());
  const length = p.item ? stretchLength(of, p.item.facts, p.reel.fps) : 1;
  const most = of.strength.length === 0 ? 1 : Math.max(...of.strength.map((k) => k.value));
  const least = of.strength.length === 0 ? 1 : Math.min(...of.strength.map((k) => k.value));
  const top = Math.abs(most) >= Math.abs(least) ? most : least;
  const onset = of.strength.find((k) => k.value === top)?.frame ?? 0;
  const strength = (value: number, over: number): Overlay['strength'] =>
    over <= 0 ? [{ frame: 0, value }] : onsetStrength(length, over).map((k) => ({ ...k, value: k.value * value }));
  const toggle = (region: Region): void => {
    const regions = of.regions.includes(region) ? of.regions.filter((r) => r !== region) : [...of.regions, region];
    onChange({ regions }, `${name}: ${regions.map((r) => regionWord(r, paper)).join(', ') || texts.wholeBody}`);
  };
  return (
    <div className="flex flex-col gap-1.5">
      <StretchHead title={texts.overTheBase} {...p} />
      <Choice
        label={texts.mode}
        value={of.mode}
        options={OVERLAY_MODES.map((value) => ({
          value,
          word: value === 'replace' ? 'replaces' : texts.isAdded,
        }))}
        onChange={(mode) => onChange({ mode }, `${name} ${mode === 'replace' ? 'replaces' : texts.isAdded}`)}
      />
      {of.mode === 'add' && (
        <Select
          label={texts.whatIsAdded}
          value={of.reference}
          options={REFERENCES.map((value) => ({
            value,
            label: value === 'first' ? texts.changeFromItsFirst : texts.changeFromTheRest,
          }))}
          onChange={(reference) => onChange({ reference }, texts.changeFrom(name, reference === 'first'))}
        />
      )}
      {absolute && (
        <div role="status" className="rounded-md border border-brass p-2">
          <p>{texts.itStaysFarFrom}</p>
          <Button size="small" className="mt-1" onClick={() => onChange({ mode: 'replace' }, texts.replaces(name))}>
            {texts.replaceInstead}
          </Button>
        </div>
      )}
      <Heading>
        {texts.partsOfTheBody}
        {of.regions.length + of.joints.length === 0 && texts.theWholeBody}
      </Heading>
      <fieldset className="flex flex-wrap gap-1" aria-label={texts.partsOfTheBody2}>
        {REGIONS.filter((r) => r !== 'others').map((r) => (
          <Pill key={r} on={of.regions.includes(r)} onClick={() => toggle(r)}>
            {regionWord(r, paper)}
          </Pill>
        ))}
      </fieldset>
      <Slider
        label={texts.strength}
        value={top}
        rest={1}
        low={-0.5}
        high={1.5}
        step={0.05}
        onChange={(value, gesture) =>
          onChange({ strength: strength(value, onset) }, texts.strengthOf(name, value.toFixed(2)), gesture)
        }
      />
      <Slider
        label={texts.fadesInOver}
        value={onset}
        rest={10}
        low={0}
        high={Math.max(1, Math.min(120, Math.floor(length / 2)))}
        step={1}
        unit=" f"
        onChange={(over, gesture) =>
          onChange({ strength: strength(top, over) }, texts.fadesInOverFrames(name, over), gesture)
        }
      />
      <TimeAxis clock={still} frames={length} names={0} ends={0}>
        <CurveLine
          points={of.strength.length > 0 ? of.strength : [{ frame: 0, value: 1 }]}
          valueAt={(f) => strengthAt(of.strength, f)}
          low={-0.5}
          high={1.5}
          height={64}
          label={texts.strengthOfOverTime(name)}
          pointLabel={texts.strength2}
          onChange={(points, gesture) => onChange({ strength: points }, texts.strengthOf2(name), gesture)}
        />
      </TimeAxis>
      <SwitchRow
        label={texts.keepPlantedFeetIn}
        checked={of.holdFeet}
        onChange={(holdFeet) => onChange({ holdFeet }, texts.feet(name, holdFeet))}
      />
      <StretchFields of={of} item={p.item} reel={p.reel} playhead={p.playhead} onChange={onChange} />
    </div>
  );
}
