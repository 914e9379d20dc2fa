'use client';

import { type HandMode, LEAVE_WORDS, type LeaveWord, type Travel } from '@velvet-reel/motion';
import { clsx } from 'clsx';
import Link from 'next/link';
import { memo } from 'react';
import type { CastMember, Item, RigAnswer } from '@/contract';
import type { SavingState } from '@/documents/shared-document';
import { FindMotion } from '@/parts/find-motion';
import { HipsSlider } from '@/parts/hips-slider';
import { TuningSliders } from '@/parts/tuning-sliders';
import type { FitAnswer } from '@/solver/solve';
import { Button } from '@/ui/button';
import { Chip } from '@/ui/chip';
import { Select, SwitchRow } from '@/ui/field';
import { Hint } from '@/ui/hint';
import { FIT_DEFAULTS, type FitSettings, TUNING_DEFAULTS } from '@/wishes/wishes';
import { FlatSettingsFields } from './flat-settings';
import { Setting } from './setting';

const TRAVEL_CHOICES: { value: Travel; label: string }[] = [
  { value: 'leg', label: 'scaled by leg length' },
  { value: 'path', label: 'the source’s path' },
  { value: 'speed', label: 'the source’s ground speed' },
  { value: 'none', label: 'on the spot' },
];
/** A cut-out goes as far as its legs carry it, or stays. */
const FLAT_TRAVEL = TRAVEL_CHOICES.filter((c) => c.value === 'leg' || c.value === 'none');

const HAND_CHOICES: { value: HandMode; label: string }[] = [
  { value: 'free', label: 'follow the arms' },
  { value: 'together', label: 'the same distance apart as in the source' },
  { value: 'head', label: 'near the head when the source’s are' },
  { value: 'hips', label: 'near the hips when the source’s are' },
];

/** What the settings tell of a rig. */
export type RigFacts = Pick<RigAnswer, 'restKind' | 'match' | 'limits' | 'skin' | 'rig'>;
/** What they tell of a result. */
export type Figures = Pick<FitAnswer, 'report' | 'score' | 'scale' | 'solveMs'>;

interface SettingsPanelProps {
  item: Item | undefined;
  cast: readonly CastMember[];
  member: CastMember | undefined;
  source: RigFacts | undefined;
  target: RigFacts | undefined;
  settings: FitSettings;
  answer: Figures | undefined;
  keeping: boolean;
  stored: SavingState;
  /** Why it is not stored. */
  trouble: string | null;
  onRetry: () => void;
  onGiveUp: () => void;
  aside: boolean;
  onAside: () => void;
  onItem: (id: string) => void;
  onCast: (id: string) => void;
  onSettings: (change: Partial<FitSettings>, label: string, gesture?: string) => void;
  onKeep: () => void;
  onExport: () => void;
  onMany: () => void;
}

const REST: Readonly<Record<string, string>> = { T: 'T', A: 'A', hanging: 'hanging arms', other: 'another pose' };
const STORED: Readonly<Record<SavingState, string>> = {
  saved: 'saved',
  waiting: 'saving …',
  saving: 'saving …',
  offline: 'offline',
  refused: 'not saved',
};

export const SettingsPanel = memo(function SettingsPanel(p: SettingsPanelProps) {
  const { item, cast, member, source, target, settings, answer, keeping } = p;
  const report = answer?.report;
  const set = p.onSettings;
  const swap = source?.rig.kind === 'cutout' && target?.rig.kind === 'cutout';
  const rest = (rig: RigFacts): string =>
    rig.match ? `posed (${rig.match.how})` : (REST[rig.restKind] ?? rig.restKind);
  return (
    <aside className="flex w-[304px] shrink-0 flex-col border-l border-line bg-panel">
      <div className="min-h-0 flex-1 overflow-y-auto px-4 py-3">
        <div className="mb-2 flex items-baseline gap-2">
          <h1 className="heading text-lg">Fitting</h1>
          <span className="text-[11.5px] text-muted" role="status">
            {STORED[p.stored]}
          </span>
          {answer && (
            <Hint text="Out of 100, from everything measured below">
              <span
                className={clsx(
                  'ml-auto tabular-nums',
                  answer.score < 60 ? 'text-raspberry' : answer.score < 85 ? 'text-brass-text' : 'text-ink',
                )}
              >
                score {answer.score}
              </span>
            </Hint>
          )}
        </div>
        <WhatOnWhom item={item} cast={cast} member={member} onItem={p.onItem} onCast={p.onCast} />
        {(p.stored === 'offline' || p.stored === 'refused') && (
          <div role="alert" className="mb-3 rounded-md border border-raspberry px-2 py-1.5 text-[12px]">
            <p>
              {p.stored === 'offline'
                ? 'The server cannot be reached. Your work is kept in this browser and saved as soon as it is back.'
                : `The server refused to save this: ${p.trouble ?? ''}`}
            </p>
            <p className="mt-1 flex gap-2">
              <Button onClick={p.onRetry}>Try again</Button>
              {p.stored === 'refused' && <Button onClick={p.onGiveUp}>Discard unsaved changes</Button>}
            </p>
          </div>
        )}
        {p.aside && (
          <p className="mb-3 rounded-md border border-brass/60 px-2 py-1.5 text-[12px]">
            These settings came along from the motion before. This pair has its own, saved earlier.{' '}
            <button type="button" className="text-brass-text underline" onClick={p.onAside}>
              Use those
            </button>
          </p>
        )}
        <Setting title="Rest pose">
          {source && target && member && (
            <p>
              {rest(source)} to {rest(target)}{' '}
              <Chip>{source.restKind === target.restKind && !target.match ? 'alike' : 'matched'}</Chip>{' '}
              <Link className="text-[12px] text-brass-text hover:underline" href={`/cast?member=${member.id}&tab=rest`}>
                look at it
              </Link>
            </p>
          )}
        </Setting>
        {swap ? (
          <Setting title="Swap">
            <p className="text-[12px] text-muted">
              Turns, easing and drawings stay as they are, and the figure is set down on the foot that stands. What
              differs is under Swap; which foot stands when, under Plants.
            </p>
            {answer && <p className="mt-1 text-[12px] text-muted">leg length × {answer.scale.toFixed(2)}</p>}
          </Setting>
        ) : (
          <>
            <Setting
              title="Travel"
              changed={settings.travel !== FIT_DEFAULTS.travel}
              onReset={() => set({ travel: FIT_DEFAULTS.travel }, 'Reset travel')}
            >
              <Select
                label="Travel"
                value={settings.travel}
                onChange={(travel) => set({ travel }, 'Changed travel')}
                options={target?.rig.kind === 'cutout' ? FLAT_TRAVEL : TRAVEL_CHOICES}
                className="w-full"
              />
              {answer && settings.travel === 'leg' && (
                <p className="mt-1 text-[12px] text-muted">leg length × {answer.scale.toFixed(2)}</p>
              )}
            </Setting>
            <Setting
              title="Plants"
              changed={settings.plants !== FIT_DEFAULTS.plants}
              onReset={() => set({ plants: FIT_DEFAULTS.plants }, 'Reset plants')}
            >
              <SwitchRow
                label="Hold soles"
                checked={settings.plants}
                onChange={(plants) => set({ plants }, plants ? 'Held plants' : 'Released plants')}
              >
                hold planted soles in place
              </SwitchRow>
              {report && (
                <p className="mt-1 text-[12px] text-muted">
                  {report.plants.length} plants · worst slip {report.slip.maxCm.toFixed(1)} cm · deepest sole{' '}
                  {report.floor.maxDepthCm.toFixed(1)} cm
                </p>
              )}
              {target?.rig.kind !== 'cutout' && (
                <HipsSlider
                  value={settings.lower}
                  onChange={(lower, gesture) => set({ lower }, 'Moved the hips', gesture)}
                />
              )}
            </Setting>
            {target?.rig.kind === 'cutout' ? (
              <FlatSettingsFields settings={settings} onSettings={set} />
            ) : (
              <>
                <Setting
                  title="Hands"
                  changed={settings.hands !== FIT_DEFAULTS.hands}
                  onReset={() => set({ hands: FIT_DEFAULTS.hands }, 'Reset hands')}
                >
                  <Select
                    label="Hands"
                    value={settings.hands}
                    onChange={(hands) => set({ hands }, 'Changed what hands keep')}
                    options={HAND_CHOICES}
                    className="w-full"
                  />
                </Setting>
                <Setting
                  title="Clearance"
                  changed={settings.clear !== FIT_DEFAULTS.clear}
                  onReset={() => set({ clear: FIT_DEFAULTS.clear }, 'Reset clearance')}
                >
                  <SwitchRow
                    label="Keep limbs out of one another"
                    checked={settings.clear}
                    onChange={(clear) =>
                      set({ clear }, clear ? 'Kept limbs out of one another' : 'Let limbs run into one another')
                    }
                  >
                    {target && !target.skin
                      ? 'needs a mesh, to know how thick the body is'
                      : 'forearms clear the body, and a swinging leg clears the other'}
                  </SwitchRow>
                </Setting>
              </>
            )}
            <Setting
              title="Not taken from the source"
              changed={settings.leave.length > 0}
              onReset={() => set({ leave: [] }, 'Included everything from the source')}
            >
              <div className="flex flex-wrap gap-1">
                {LEAVE_WORDS.map((w) => (
                  <LeaveChip
                    key={w}
                    word={w}
                    on={settings.leave.includes(w)}
                    onToggle={() =>
                      set(
                        {
                          leave: settings.leave.includes(w)
                            ? settings.leave.filter((x) => x !== w)
                            : [...settings.leave, w],
                        },
                        settings.leave.includes(w) ? `Included ${w} from the source` : `Left ${w} out`,
                      )
                    }
                  />
                ))}
              </div>
            </Setting>
          </>
        )}
        {target?.rig.kind !== 'cutout' && (
          <Setting
            title="Limits"
            changed={settings.limits !== FIT_DEFAULTS.limits}
            onReset={() => set({ limits: FIT_DEFAULTS.limits }, 'Reset limits')}
          >
            <SwitchRow
              label="Keep joint limits"
              checked={settings.limits}
              onChange={(limits) => set({ limits }, limits ? 'Turned joint limits on' : 'Turned joint limits off')}
            >
              keep arms and head within {target?.limits ? 'this character’s' : 'the standard'} joint limits
            </SwitchRow>
          </Setting>
        )}
        <Setting
          title="Tuning"
          changed={JSON.stringify(settings.tuning) !== JSON.stringify(TUNING_DEFAULTS)}
          onReset={() => set({ tuning: TUNING_DEFAULTS }, 'Reset tuning')}
        >
          <TuningSliders
            value={settings.tuning}
            onChange={(tuning, gesture) => set({ tuning }, 'Tuned the motion', gesture)}
          />
        </Setting>
        {report && !swap && (
          <p className="text-[12px] text-muted">
            Limb directions differ by {report.direction.meanDeg.toFixed(1)}° on average,{' '}
            {report.direction.maxDeg.toFixed(0)}° at most. Solved in {answer.solveMs.toFixed(0)} ms.
          </p>
        )}
      </div>
      <div className="flex gap-2 border-t border-line px-4 py-3">
        <Button
          look="brass"
          size="small"
          className="flex-1"
          onClick={p.onKeep}
          disabled={!answer || keeping}
          keys="K"
          hint="Save the result as a new item"
        >
          {keeping ? 'Keeping …' : 'Keep as item'}
        </Button>
        <Button
          size="small"
          onClick={p.onMany}
          disabled={!item}
          keys="M"
          hint="Use these settings for a folder, a pack or several characters"
        >
          Many …
        </Button>
        <Button size="small" onClick={p.onExport} disabled={!answer} keys="E" hint="Save the result as a file">
          Export
        </Button>
      </div>
    </aside>
  );
});

/** The long lists, drawn anew only when they change. */
const WhatOnWhom = memo(function WhatOnWhom({
  item,
  cast,
  member,
  onItem,
  onCast,
}: Pick<SettingsPanelProps, 'item' | 'cast' | 'member' | 'onItem' | 'onCast'>) {
  const sameName = cast.filter((c) => c.name === member?.name).length > 1;
  return (
    <div className="mb-3 grid grid-cols-[46px_1fr] items-center gap-x-2 gap-y-1.5">
      <span className="text-muted">motion</span>
      <FindMotion chosen={item} onChoose={onItem} />
      <span className="text-muted">onto</span>
      <Select
        label="Character"
        value={member?.id ?? ''}
        onChange={onCast}
        options={cast.map((c) => ({
          value: c.id,
          label: sameName && c.name === member?.name ? `${c.name}, ${c.heightM.toFixed(2)} m` : c.name,
        }))}
        className="min-w-0"
      />
    </div>
  );
});

function LeaveChip({ word, on, onToggle }: { word: LeaveWord; on: boolean; onToggle: () => void }) {
  return (
    <button
      type="button"
      aria-pressed={on}
      onClick={onToggle}
      className={clsx(
        'rounded-full border px-2 py-px text-[12px]',
        on ? 'border-brass text-brass-text line-through' : 'border-line text-muted hover:border-muted hover:text-ink',
      )}
    >
      {word}
    </button>
  );
}
