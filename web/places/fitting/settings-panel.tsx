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
import { settingsPanel as texts } from './texts';

const TRAVEL_CHOICES: { value: Travel; label: string }[] = [
  { value: 'leg', label: texts.scaledByLegLength },
  { value: 'path', label: texts.theSourcesPath },
  { value: 'speed', label: texts.theSourcesGroundSpeed },
  { value: 'none', label: texts.onTheSpot },
];
/** A cut-out goes as far as its legs carry it, or stays. */
const FLAT_TRAVEL = TRAVEL_CHOICES.filter((c) => c.value === 'leg' || c.value === 'none');

const HAND_CHOICES: { value: HandMode; label: string }[] = [
  { value: 'free', label: texts.followTheArms },
  { value: 'together', label: texts.theSameDistanceApart },
  { value: 'head', label: texts.nearTheHeadWhen },
  { value: 'hips', label: texts.nearTheHipsWhen },
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

const REST: Readonly<Record<string, string>> = { T: 'T', A: 'A', hanging: texts.hangingArms, other: texts.anotherPose };
const STORED: Readonly<Record<SavingState, string>> = {
  saved: 'saved',
  waiting: 'saving …',
  saving: 'saving …',
  offline: 'offline',
  refused: texts.notSaved,
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
          <h1 className="heading text-lg">{texts.fitting}</h1>
          <span className="text-[11.5px] text-muted" role="status">
            {STORED[p.stored]}
          </span>
          {answer && (
            <Hint text={texts.outOf100From}>
              <span
                className={clsx(
                  'ml-auto tabular-nums',
                  answer.score < 60 ? 'text-raspberry' : answer.score < 85 ? 'text-brass-text' : 'text-ink',
                )}
              >
                {texts.score(answer.score)}
              </span>
            </Hint>
          )}
        </div>
        <WhatOnWhom item={item} cast={cast} member={member} onItem={p.onItem} onCast={p.onCast} />
        {(p.stored === 'offline' || p.stored === 'refused') && (
          <div role="alert" className="mb-3 rounded-md border border-raspberry px-2 py-1.5 text-[12px]">
            <p>{p.stored === 'offline' ? texts.theServerCannotBe : texts.theServerRefusedTo(p.trouble ?? '')}</p>
            <p className="mt-1 flex gap-2">
              <Button onClick={p.onRetry}>{texts.tryAgain}</Button>
              {p.stored === 'refused' && <Button onClick={p.onGiveUp}>{texts.discardUnsavedChanges}</Button>}
            </p>
          </div>
        )}
        {p.aside && (
          <p className="mb-3 rounded-md border border-brass/60 px-2 py-1.5 text-[12px]">
            {texts.theseSettingsCameAlong}{' '}
            <button type="button" className="text-brass-text underline" onClick={p.onAside}>
              {texts.useThose}
            </button>
          </p>
        )}
        <Setting title={texts.restPose}>
          {source && target && member && (
            <p>
              {rest(source)} {texts.to} {rest(target)}{' '}
              <Chip>{source.restKind === target.restKind && !target.match ? texts.alike : texts.matched}</Chip>{' '}
              <Link className="text-[12px] text-brass-text hover:underline" href={`/cast?member=${member.id}&tab=rest`}>
                {texts.lookAtIt}
              </Link>
            </p>
          )}
        </Setting>
        {swap ? (
          <Setting title={texts.swap}>
            <p className="text-[12px] text-muted">{texts.turnsEasingAndDrawings}</p>
            {answer && <p className="mt-1 text-[12px] text-muted">{texts.legLength(answer.scale.toFixed(2))}</p>}
          </Setting>
        ) : (
          <>
            <Setting
              title={texts.travel}
              changed={settings.travel !== FIT_DEFAULTS.travel}
              onReset={() => set({ travel: FIT_DEFAULTS.travel }, texts.resetTravel)}
            >
              <Select
                label={texts.travel}
                value={settings.travel}
                onChange={(travel) => set({ travel }, texts.changedTravel)}
                options={target?.rig.kind === 'cutout' ? FLAT_TRAVEL : TRAVEL_CHOICES}
                className="w-full"
              />
              {answer && settings.travel === 'leg' && (
                <p className="mt-1 text-[12px] text-muted">{texts.legLength3(answer.scale.toFixed(2))}</p>
              )}
            </Setting>
            <Setting
              title={texts.plants}
              changed={settings.plants !== FIT_DEFAULTS.plants}
              onReset={() => set({ plants: FIT_DEFAULTS.plants }, texts.resetPlants)}
            >
              <SwitchRow
                label={texts.holdSoles}
                checked={settings.plants}
                onChange={(plants) => set({ plants }, plants ? texts.heldPlants : texts.releasedPlants)}
              >
                {texts.holdPlantedSolesIn}
              </SwitchRow>
              {report && (
                <p className="mt-1 text-[12px] text-muted">
                  {texts.plantsWorstSlipCm(
                    report.plants.length,
                    report.slip.maxCm.toFixed(1),
                    report.floor.maxDepthCm.toFixed(1),
                  )}
                </p>
              )}
              {target?.rig.kind !== 'cutout' && (
                <HipsSlider
                  value={settings.lower}
                  onChange={(lower, gesture) => set({ lower }, texts.movedTheHips, gesture)}
                />
              )}
            </Setting>
            {target?.rig.kind === 'cutout' ? (
              <FlatSettingsFields settings={settings} onSettings={set} />
            ) : (
              <>
                <Setting
                  title={texts.hands}
                  changed={settings.hands !== FIT_DEFAULTS.hands}
                  onReset={() => set({ hands: FIT_DEFAULTS.hands }, texts.resetHands)}
                >
                  <Select
                    label={texts.hands}
                    value={settings.hands}
                    onChange={(hands) => set({ hands }, texts.changedWhatHandsKeep)}
                    options={HAND_CHOICES}
                    className="w-full"
                  />
                </Setting>
                <Setting
                  title={texts.clearance}
                  changed={settings.clear !== FIT_DEFAULTS.clear}
                  onReset={() => set({ clear: FIT_DEFAULTS.clear }, texts.resetClearance)}
                >
                  <SwitchRow
                    label={texts.keepLimbsOutOf}
                    checked={settings.clear}
                    onChange={(clear) => set({ clear }, clear ? texts.keptLimbsOutOf : texts.letLimbsRunInto)}
                  >
                    {target && !target.skin ? texts.needsAMeshTo : texts.forearmsClearTheBody}
                  </SwitchRow>
                </Setting>
              </>
            )}
            <Setting
              title={texts.notTakenFromThe}
              changed={settings.leave.length > 0}
              onReset={() => set({ leave: [] }, texts.includedEverythingFromThe)}
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
                        settings.leave.includes(w) ? texts.includedFromTheSource(w) : texts.leftOut(w),
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
            title={texts.limits}
            changed={settings.limits !== FIT_DEFAULTS.limits}
            onReset={() => set({ limits: FIT_DEFAULTS.limits }, texts.resetLimits)}
          >
            <SwitchRow
              label={texts.keepJointLimits}
              checked={settings.limits}
              onChange={(limits) => set({ limits }, limits ? texts.turnedJointLimitsOn : texts.turnedJointLimitsOff)}
            >
              {texts.keepArmsAndHead} {target?.limits ? texts.thisCharacters : texts.theStandard} {texts.jointLimits}
            </SwitchRow>
          </Setting>
        )}
        <Setting
          title={texts.tuning}
          changed={JSON.stringify(settings.tuning) !== JSON.stringify(TUNING_DEFAULTS)}
          onReset={() => set({ tuning: TUNING_DEFAULTS }, texts.resetTuning)}
        >
          <TuningSliders
            value={settings.tuning}
            onChange={(tuning, gesture) => set({ tuning }, texts.tunedTheMotion, gesture)}
          />
        </Setting>
        {report && !swap && (
          <p className="text-[12px] text-muted">
            {texts.limbDirectionsDifferByOn(
              report.direction.meanDeg.toFixed(1),
              report.direction.maxDeg.toFixed(0),
              answer.solveMs.toFixed(0),
            )}
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
          hint={texts.saveTheResultAs}
        >
          {keeping ? texts.keeping : texts.keepAsItem}
        </Button>
        <Button size="small" onClick={p.onMany} disabled={!item} keys="M" hint={texts.useTheseSettingsFor}>
          {texts.many}
        </Button>
        <Button size="small" onClick={p.onExport} disabled={!answer} keys="E" hint={texts.saveTheResultAsA}>
          {texts.exportIt}
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
      <span className="text-muted">{texts.motion}</span>
      <FindMotion chosen={item} onChoose={onItem} />
      <span className="text-muted">{texts.onto}</span>
      <Select
        label={texts.character}
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
