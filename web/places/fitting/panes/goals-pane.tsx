'use client';

import { type FittingEdits, type HandGoal, type ImportanceKey, importanceAt, type LookGoal } from '@velvet-reel/motion';
import { Plus, Trash2 } from 'lucide-react';
import { many } from '@/naming/counts';
import { Lane, TimeAxis } from '@/parts/lanes/axis';
import { CurveLine } from '@/parts/lanes/curve';
import type { Clock } from '@/stage/clock';
import { Button, IconButton } from '@/ui/button';
import { inputLook, Select } from '@/ui/field';

interface GoalsPaneProps {
  clock: Clock;
  frames: number;
  edits: FittingEdits;
  /** Where a hand or the head of the result is now, metres. */
  placeNow: (slot: string) => [number, number, number] | undefined;
  onChange: (edits: FittingEdits, label: string) => void;
}

const KEEPS: { value: HandGoal['keep']; label: string }[] = [
  { value: 'head', label: 'its place relative to the head' },
  { value: 'hips', label: 'its place relative to the hips' },
  { value: 'otherHand', label: 'its distance from the other hand' },
  { value: 'point', label: 'a point in the world' },
];
const HANDS: { value: HandGoal['hand']; label: string }[] = [
  { value: 'L', label: 'left hand' },
  { value: 'R', label: 'right hand' },
  { value: 'both', label: 'both hands' },
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
          onClick={() => goals([...edits.goals, { hand: 'L', keep: 'hips', weight: 1 }], 'Added a hand goal')}
        >
          <Plus size={12} /> Hand goal
        </Button>
        <Button
          size="tiny"
          onClick={() => {
            const head = rounded(placeNow('head'));
            looks(
              [...edits.looks, { point: [head[0], head[1], head[2] + 1.5], weight: 1 }],
              'Added a point to look at',
            );
          }}
        >
          <Plus size={12} /> Head looks at a point
        </Button>
        {edits.goals.length + edits.looks.length === 0 && (
          <span className="text-[12px] text-muted">Hands and head follow the source until a goal says otherwise.</span>
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
                  label="Hand"
                  value={g.hand}
                  options={HANDS}
                  onChange={(hand) => set({ hand }, 'Changed a goal’s hand')}
                />
                <span className="text-muted">keeps</span>
                <Select
                  label="What it keeps"
                  value={g.keep}
                  options={KEEPS}
                  onChange={(keep) =>
                    set(
                      keep === 'point'
                        ? { keep, point: rounded(placeNow(g.hand === 'R' ? 'handR' : 'handL')) }
                        : { keep, point: undefined },
                      'Changed what a hand keeps',
                    )
                  }
                />
                {g.keep === 'point' && g.point && (
                  <SpotFields point={g.point} onKeep={(point) => set({ point }, 'Moved the point of a hand goal')} />
                )}
                <Select
                  label="When it counts"
                  value={how(g.weight)}
                  options={[
                    { value: 'always', label: 'all the time' },
                    { value: 'near', label: 'more when near' },
                    { value: 'curve', label: 'along a curve' },
                  ]}
                  onChange={(w) =>
                    set(
                      { weight: w === 'always' ? 1 : w === 'near' ? 'near' : bump(clock.frame, frames) },
                      'Changed when a goal counts',
                    )
                  }
                />
                <IconButton
                  label="Remove this goal"
                  quiet
                  onClick={() =>
                    goals(
                      edits.goals.filter((_, k) => k !== i),
                      'Removed a hand goal',
                    )
                  }
                >
                  <Trash2 size={13} />
                </IconButton>
              </div>
              {isCurve(g.weight) && (
                <Importance keys={g.weight} onChange={(weight) => set({ weight }, 'Changed an importance curve')} />
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
                the head looks at
                <SpotFields point={l.point} onKeep={(point) => set({ point }, 'Moved what the head looks at')} />
                <Select
                  label="When the look counts"
                  value={isCurve(l.weight) ? 'curve' : 'always'}
                  options={[
                    { value: 'always', label: 'all the time' },
                    { value: 'curve', label: 'along a curve' },
                  ]}
                  onChange={(w) =>
                    set({ weight: w === 'always' ? 1 : bump(clock.frame, frames) }, 'Changed when a look counts')
                  }
                />
                <IconButton
                  label="Remove this look"
                  quiet
                  onClick={() =>
                    looks(
                      edits.looks.filter((_, k) => k !== i),
                      'Removed a look',
                    )
                  }
                >
                  <Trash2 size={13} />
                </IconButton>
              </div>
              {isCurve(l.weight) && (
                <Importance keys={l.weight} onChange={(weight) => set({ weight }, 'Changed an importance curve')} />
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
        label="How much the goal counts over time"
        pointLabel="Importance"
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
            aria-label={`Spot ${axis}, metres`}
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
