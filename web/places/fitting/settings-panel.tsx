'use client';

import type { HandMode, Travel } from '@velvet-reel/motion';
import { RotateCcw } from 'lucide-react';
import type { ReactNode } from 'react';
import type { CastMember, Item, RigAnswer } from '@/client/types';
import { Button, IconButton } from '@/ui/button';
import { Chip } from '@/ui/chip';
import { Select, SwitchRow } from '@/ui/field';
import { TuningSliders } from '@/ui/tuning-sliders';
import { FIT_DEFAULTS, type FitSettings, TUNING_DEFAULTS } from '@/workers/settings';
import type { FitAnswer } from '@/workers/solve';

const TRAVEL_CHOICES: { value: Travel; label: string }[] = [
  { value: 'leg', label: 'scaled by leg length' },
  { value: 'path', label: 'the path of the source' },
  { value: 'speed', label: 'the ground speed of the source' },
  { value: 'none', label: 'on the spot' },
];

const HAND_CHOICES: { value: HandMode; label: string }[] = [
  { value: 'free', label: 'as their turns have them' },
  { value: 'together', label: 'as far apart as the source’s' },
  { value: 'head', label: 'near the head where the source’s are' },
  { value: 'hips', label: 'near the hips where the source’s are' },
];

interface SettingsPanelProps {
  item: Item | undefined;
  items: readonly Item[];
  cast: readonly CastMember[];
  member: CastMember | undefined;
  source: RigAnswer | undefined;
  target: RigAnswer | undefined;
  settings: FitSettings;
  answer: FitAnswer | undefined;
  keeping: boolean;
  onChange: (change: { item?: string; cast?: string }) => void;
  onSettings: (change: Partial<FitSettings>) => void;
  onKeep: () => void;
  onExport: () => void;
}

export function SettingsPanel({
  item,
  items,
  cast,
  member,
  source,
  target,
  settings,
  answer,
  keeping,
  onChange,
  onSettings,
  onKeep,
  onExport,
}: SettingsPanelProps) {
  const report = answer?.report;
  const choices = item && !items.some((i) => i.id === item.id) ? [item, ...items] : items;
  return (
    <aside className="flex w-[304px] shrink-0 flex-col border-l border-line bg-panel">
      <div className="min-h-0 flex-1 overflow-y-auto px-4 py-3">
        <h1 className="heading mb-2 text-lg">Fitting</h1>
        <div className="mb-3 grid grid-cols-[46px_1fr] items-center gap-x-2 gap-y-1.5">
          <span className="text-muted">motion</span>
          <Select
            label="Motion"
            value={item?.id ?? ''}
            onChange={(id) => onChange({ item: id })}
            options={choices.map((i) => ({ value: i.id, label: i.name }))}
            className="min-w-0"
          />
          <span className="text-muted">onto</span>
          <Select
            label="Character"
            value={member?.id ?? ''}
            onChange={(id) => onChange({ cast: id })}
            options={cast.map((c) => ({ value: c.id, label: c.name }))}
            className="min-w-0"
          />
        </div>
        <Setting title="Rest pose">
          {source && target && (
            <p>
              {source.restKind} to {target.restKind}{' '}
              <Chip>{source.restKind === target.restKind ? 'alike' : 'matched'}</Chip>
            </p>
          )}
        </Setting>
        <Setting
          title="Travel"
          changed={settings.travel !== FIT_DEFAULTS.travel}
          onReset={() => onSettings({ travel: FIT_DEFAULTS.travel })}
        >
          <Select
            label="Travel"
            value={settings.travel}
            onChange={(travel) => onSettings({ travel })}
            options={TRAVEL_CHOICES}
            className="w-full"
          />
          {answer && settings.travel === 'leg' && (
            <p className="mt-1 text-[12px] text-muted">leg length × {answer.scale.toFixed(2)}</p>
          )}
        </Setting>
        <Setting
          title="Plants"
          changed={settings.plants !== FIT_DEFAULTS.plants}
          onReset={() => onSettings({ plants: FIT_DEFAULTS.plants })}
        >
          <SwitchRow label="Hold soles" checked={settings.plants} onChange={(plants) => onSettings({ plants })}>
            hold planted soles in place
          </SwitchRow>
          {report && (
            <p className="mt-1 text-[12px] text-muted">
              {report.plants.length} plants · worst slip {report.slip.maxCm.toFixed(1)} cm · deepest sole{' '}
              {report.floor.maxDepthCm.toFixed(1)} cm
            </p>
          )}
        </Setting>
        <Setting
          title="Hands"
          changed={settings.hands !== FIT_DEFAULTS.hands}
          onReset={() => onSettings({ hands: FIT_DEFAULTS.hands })}
        >
          <Select
            label="Hands"
            value={settings.hands}
            onChange={(hands) => onSettings({ hands })}
            options={HAND_CHOICES}
            className="w-full"
          />
        </Setting>
        <Setting
          title="Limits"
          changed={settings.limits !== FIT_DEFAULTS.limits}
          onReset={() => onSettings({ limits: FIT_DEFAULTS.limits })}
        >
          <SwitchRow label="Keep joint limits" checked={settings.limits} onChange={(limits) => onSettings({ limits })}>
            arms and head stay within what a body can
          </SwitchRow>
        </Setting>
        <Setting
          title="Tuning"
          changed={JSON.stringify(settings.tuning) !== JSON.stringify(TUNING_DEFAULTS)}
          onReset={() => onSettings({ tuning: TUNING_DEFAULTS })}
        >
          <TuningSliders value={settings.tuning} onChange={(tuning) => onSettings({ tuning })} />
        </Setting>
        {report && (
          <p className="text-[12px] text-muted">
            Limb directions differ by {report.direction.meanDeg.toFixed(1)}° on average,{' '}
            {report.direction.maxDeg.toFixed(0)}° at most. Solved in {answer.solveMs.toFixed(0)} ms.
          </p>
        )}
      </div>
      <div className="flex gap-2 border-t border-line px-4 py-3">
        <Button
          look="brass"
          className="flex-1"
          onClick={onKeep}
          disabled={!answer || keeping}
          keys="K"
          hint="Store the result as a new item"
        >
          {keeping ? 'Keeping …' : 'Keep as item'}
        </Button>
        <Button onClick={onExport} disabled={!answer} keys="E" hint="Save the result as BVH or GLB">
          Export
        </Button>
      </div>
    </aside>
  );
}

function Setting({
  title,
  changed = false,
  onReset,
  children,
}: {
  title: string;
  changed?: boolean;
  onReset?: () => void;
  children: ReactNode;
}) {
  return (
    <section className="mb-3">
      <h2 className="mb-1 flex h-5 items-center gap-2 text-[12px] font-semibold text-muted">
        {title}
        {changed && (
          <>
            <span className="text-brass-text">changed</span>
            <IconButton label={`Reset ${title.toLowerCase()}`} onClick={() => onReset?.()} quiet>
              <RotateCcw size={12} />
            </IconButton>
          </>
        )}
      </h2>
      {children}
    </section>
  );
}
