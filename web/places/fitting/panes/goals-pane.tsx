'use client';

import { type FittingEdits, type HandGoal, type ImportanceKey, importanceAt, type LookGoal } from '@velvet-reel/motion';
import { Plus, Trash2 } from 'lucide-react';
import { many } from '@/naming/counts';
import { Lane, TimeAxis } from '@/parts/lanes/axis';
import { CurveLine } from '@/parts/lanes/curve';
import type { Clock } from '@/stage/clock';
import { Button, IconButton } from '@/ui/button';
import { inputLook, Select } from '@/ui/field';
import { goalsPane as texts } from '../texts';

interface GoalsPaneProps {
  clock: Clock;
  frames: number;
  edits: FittingEdits;
  /** Where a hand or the head of the result is now, metres. */
  placeNow: (slot: string) => [number, number, number] | undefined;
  onChange: (edits: FittingEdits, label: string) => void;
}

const KEEPS: { value: HandGoal['keep']; label: string }[] = [
  { value: 'head', label: texts.itsPlaceRelativeTo },
  { value: 'hips', label: texts.itsPlaceRelativeToThe },
  { value: 'otherHand', label: texts.itsDistanceFromThe },
  { value: 'point', label: texts.aPointInThe },
];
const HANDS: { value: HandGoal['hand']; label: string }[] = [
  { value: 'L', label: texts.leftHand },
  { value: 'R', label: texts.rightHand },
  { value: 'both', label: texts.bothHands },
];
type Weight = HandGoal['weight'];
const isCurve = (w: Weight): w is readonly ImportanceKey[] => Array.isArray(w);
const how = (w: Weight): 'always' | 'near' | 'curve' => (isCurve(w) ? 'curve' : w === 'near' ? 'near' : 'always');
const HEIGHT = 46;

/** What hands and head keep to, and how much it counts over time. */
export function GoalsPane({ clock, frames, edits, placeNow, onChange }: GoalsPaneProps) {
  const goals = (next: readonly HandGoal[], label: string): void => onChange({ ...edits, frames, goals: next }, label);
  const looks = (next: readonly LookGoal[], label: string): void => onChange({ ...edits, frames, looks: next }, label);
  const rounded = (p: readonly number[] | undefined): [number, number, number] =>
    (p ?? [0, 1, 0.5]).map((x) => Number(x.toFixed(3))) as [number, number, number];
  return (
    <div className="px-4 pb-3">
      <div className="mb-1.5 flex flex-wrap items-center gap-2">
        <Button
          size="tiny"
          onClick={() => goals([...edits.goals, { hand: 'L', keep: 'hips', weight: 1 }], texts.addedAHandGoal)}
        >
          <Plus size={12} /> {texts.handGoal}
        </Button>
        <Button
          size="tiny"
          onClick={() => {
            const head = rounded(placeNow('head'));
            looks([...edits.looks, { point: [head[0], head[1], head[2] + 1.5], weight: 1 }], texts.addedAPointTo);
          }}
        >
          <Plus size={12} /> {texts.headLooksAtA}
        </Button>
        {edits.goals.length + edits.looks.length === 0 && (
          <span className="text-[12px] text-muted">{texts.handsAndHeadFollow}</span>
        )}
      </div>
      <TimeAxis clock={clock} frames={frames}>
        {edits.goals.map((g, i) => {
          const set = (change: Partial<HandGoal>, label: string): void =>
            goals(
              edits.goals.map((x, k) => (k === i ? { ...x, ...change } : x)),
              label,
            );
          return (
            // biome-ignore lint/suspicious/noArrayIndexKey: goals have no other name than their place
            <div key={i} className="mb-1 border-y border-line py-1.5">
              <div className="flex flex-wrap items-center gap-1.5 text-[12.5px]">
                <Select
                  label={texts.hand}
                  value={g.hand}
                  options={HANDS}
                  onChange={(hand) => set({ hand }, texts.changedAGoalsHand)}
                />
                <span className="text-muted">{texts.keeps}</span>
                <Select
                  label={texts.whatItKeeps}
                  value={g.keep}
                  options={KEEPS}
                  onChange={(keep) =>
                    set(
                      keep === 'point'
                        ? { keep, point: rounded(placeNow(g.hand === 'R' ? 'handR' : 'handL')) }
                        : { keep, point: undefined },
                      texts.changedWhatAHand,
                    )
                  }
                />
                {g.keep === 'point' && g.point && (
                  <SpotFields point={g.point} onKeep={(point) => set({ point }, texts.movedThePointOf)} />
                )}
                <Select
                  label={texts.whenItCounts}
                  value={how(g.weight)}
                  options={[
                    { value: 'always', label: texts.allTheTime },
                    { value: 'near', label: texts.moreWhenNear },
                    { value: 'curve', label: texts.alongACurve },
                  ]}
                  onChange={(w) =>
                    set(
                      { weight: w === 'always' ? 1 : w === 'near' ? 'near' : bump(clock.frame, frames) },
                      texts.changedWhenAGoal,
                    )
                  }
                />
                <IconButton
                  label={texts.removeThisGoal}
                  quiet
                  onClick={() =>
                    goals(
                      edits.goals.filter((_, k) => k !== i),
                      texts.removedAHandGoal,
                    )
                  }
                >
                  <Trash2 size={13} />
                </IconButton>
              </div>
              {isCurve(g.weight) && (
                <Importance keys={g.weight} onChange={(weight) => set({ weight }, texts.changedAnImportanceCurve)} />
              )}
            </div>
          );
        })}
        {edits.looks.map((l, i) => {
          const set = (change: Partial<LookGoal>, label: string): void =>
            looks(
              edits.looks.map((x, k) => (k === i ? { ...x, ...change } : x)),
              label,
            );
          return (
            // biome-ignore lint/suspicious/noArrayIndexKey: looks have no other name than their place
            <div key={i} className="mb-1 border-y border-line py-1.5">
              <div className="flex flex-wrap items-center gap-1.5 text-[12.5px]">
                {texts.theHeadLooksAt}
                <SpotFields point={l.point} onKeep={(point) => set({ point }, texts.movedWhatTheHead)} />
                <Select
                  label={texts.whenTheLookCounts}
                  value={isCurve(l.weight) ? 'curve' : 'always'}
                  options={[
                    { value: 'always', label: texts.allTheTime },
                    { value: 'curve', label: texts.alongACurve },
                  ]}
                  onChange={(w) =>
                    set({ weight: w === 'always' ? 1 : bump(clock.frame, frames) }, texts.changedWhenALook)
                  }
                />
                <IconButton
                  label={texts.removeThisLook}
                  quiet
                  onClick={() =>
                    looks(
                      edits.looks.filter((_, k) => k !== i),
                      texts.removedALook,
                    )
                  }
                >
                  <Trash2 size={13} />
                </IconButton>
              </div>
              {isCurve(l.weight) && (
                <Importance keys={l.weight} onChange={(weight) => set({ weight }, texts.changedAnImportanceCurve)} />
              )}
            </div>
          );
        })}
      </TimeAxis>
    </div>
  );
}

/** Comes up around now and goes down again: where a curve begins. */
function bump(at: number, frames: number): ImportanceKey[] {
  const w = Math.max(2, Math.round(frames / 8));
  const keys: [number, number][] = [
    [at - 2 * w, 0],
    [at - w, 1],
    [at + w, 1],
    [at + 2 * w, 0],
  ];
  const out = new Map<number, ImportanceKey>();
  for (const [f, weight] of keys) {
    const frame = Math.max(0, Math.min(frames - 1, f));
    out.set(frame, { frame, weight });
  }
  return [...out.values()];
}

/** How much a goal counts over time. */
function Importance({ keys, onChange }: { keys: readonly ImportanceKey[]; onChange: (keys: ImportanceKey[]) => void }) {
  const sorted = [...keys].sort((a, b) => a.frame - b.frame);
  return (
    <Lane name="importance" height={HEIGHT} end={many(keys.length, 'key')}>
      <CurveLine
        points={sorted.map(({ frame, weight }) => ({ frame, value: weight }))}
        valueAt={(frame) => importanceAt(sorted, frame)}
        height={HEIGHT - 5}
        label={texts.howMuchTheGoal}
        pointLabel={texts.importance}
        onChange={(points) => onChange(points.map(({ frame, value }) => ({ frame, weight: value })))}
      />
    </Lane>
  );
}

function SpotFields({
  point,
  onKeep,
}: {
  point: readonly [number, number, number];
  onKeep: (p: [number, number, number]) => void;
}) {
  return (
    <span className="flex items-center gap-1">
      {(['x', 'y', 'z'] as const).map((axis, k) => (
        <label key={axis} className="flex items-center gap-0.5 text-muted">
          {axis}
          <input
            key={point[k]}
            type="number"
            step="0.05"
            aria-label={texts.spotMetres(axis)}
            className={`${inputLook} w-20 py-0!`}
            defaultValue={point[k]}
            onBlur={(e) => {
              const n = Number(e.currentTarget.value);
              if (!Number.isFinite(n) || n === point[k] || Math.abs(n) > 1000) return;
              const next: [number, number, number] = [...point];
              next[k] = n;
              onKeep(next);
            }}
            onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
          />
        </label>
      ))}
    </span>
  );
}
