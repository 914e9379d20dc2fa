'use client';

import type { Condition, Way } from '@velvet-reel/motion';
import { ArrowDown, ArrowUp, Trash2 } from 'lucide-react';
import type { PlayContent } from '@/documents/play';
import { Button, IconButton } from '@/ui/button';
import { Row, Select } from '@/ui/field';
import { NumberField } from '../number-field';
import type { Chosen } from './play-board';
import { changeWay, movedWay, withoutWay } from './play-edits';

const JOINS = [
  { value: 'decay', label: 'Decay' },
  { value: 'crossfade', label: 'Crossfade' },
  { value: 'cut', label: 'Cut' },
] as const;
const MEETS = [
  { value: 'hips', label: 'at the hips' },
  { value: 'footL', label: 'at the left foot' },
  { value: 'footR', label: 'at the right foot' },
  { value: 'world', label: 'in the world' },
] as const;
const ENTRIES = [
  { value: 'start', label: 'at its first frame' },
  { value: 'phase', label: 'in the same phase' },
  { value: 'alike', label: 'where it is most alike' },
] as const;
const ANY = ' ';

/** When a way is taken, and how it joins. */
export function WayInspector({
  play,
  way,
  mayChange,
  onChange,
  onChoose,
}: {
  play: PlayContent;
  way: Way;
  mayChange: boolean;
  onChange: (play: PlayContent, label: string) => void;
  onChoose: (chosen: Chosen) => void;
}) {
  const set = (change: Partial<Way>, label: string): void => onChange(changeWay(play, way.id, change), label);
  const setCondition = (i: number, c: Condition): void =>
    set({ when: way.when.map((x, k) => (k === i ? c : x)) }, 'Changed when a way is taken');
  const kinds: { value: string; label: string; make: () => Condition }[] = [
    { value: 'ended', label: 'the end is reached', make: () => ({ kind: 'ended' }) },
    { value: 'after', label: 'some seconds have passed', make: () => ({ kind: 'after', seconds: 2 }) },
    ...play.inputs.flatMap((i): { value: string; label: string; make: () => Condition }[] =>
      i.kind === 'press'
        ? [{ value: `pressed ${i.id}`, label: `${i.name} is pressed`, make: () => ({ kind: 'pressed', input: i.id }) }]
        : i.kind === 'hold'
          ? [
              {
                value: `held ${i.id}`,
                label: `${i.name} is held`,
                make: () => ({ kind: 'held', input: i.id, held: true }),
              },
              {
                value: `free ${i.id}`,
                label: `${i.name} is let go`,
                make: () => ({ kind: 'held', input: i.id, held: false }),
              },
            ]
          : [
              {
                value: `above ${i.id}`,
                label: `${i.name} is above …`,
                make: () => ({ kind: 'above', input: i.id, value: (i.min + i.max) / 2 }),
              },
              {
                value: `below ${i.id}`,
                label: `${i.name} is below …`,
                make: () => ({ kind: 'below', input: i.id, value: (i.min + i.max) / 2 }),
              },
            ],
    ),
  ];
  const keyOf = (c: Condition): string =>
    c.kind === 'held' ? `${c.held ? 'held' : 'free'} ${c.input}` : 'input' in c ? `${c.kind} ${c.input}` : c.kind;
  const options = kinds.map(({ value, label }) => ({ value, label }));
  return (
    <fieldset disabled={!mayChange} className="flex min-w-0 flex-col gap-2">
      <p className="text-[12px] text-muted">Way</p>
      <Row name="From">
        <Select
          label="State it leaves"
          className="w-full"
          value={way.from ?? ANY}
          options={[{ value: ANY, label: 'any state' }, ...play.states.map((s) => ({ value: s.id, label: s.name }))]}
          onChange={(from) => set({ from: from === ANY ? null : from }, 'Changed where a way begins')}
        />
      </Row>
      <Row name="To">
        <Select
          label="State it leads to"
          className="w-full"
          value={way.to}
          options={play.states.map((s) => ({ value: s.id, label: s.name }))}
          onChange={(to) => set({ to }, 'Changed where a way leads')}
        />
      </Row>
      <p className="mt-1 text-[12px] text-muted">Taken when all of these are true</p>
      {way.when.length === 0 && <p className="text-brass-text">Nothing is asked for, so it is never taken.</p>}
      {way.when.map((c, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: conditions have no names of their own
        <div key={i} className="flex flex-col gap-1">
          <div className="flex items-center gap-1.5">
            <Select
              label={`Condition ${i + 1}`}
              className="min-w-0 flex-1"
              value={keyOf(c)}
              options={options}
              onChange={(k) => setCondition(i, kinds.find((x) => x.value === k)!.make())}
            />
            <IconButton
              label={`Remove condition ${i + 1}`}
              quiet
              onClick={() => set({ when: way.when.filter((_, k) => k !== i) }, 'Removed a condition')}
            >
              <Trash2 size={13} />
            </IconButton>
          </div>
          {(c.kind === 'above' || c.kind === 'below') && (
            <NumberField
              label={c.kind}
              value={c.value}
              low={-1e6}
              high={1e6}
              step={0.05}
              onKeep={(value) => setCondition(i, { ...c, value })}
            />
          )}
          {c.kind === 'after' && (
            <NumberField
              label="after"
              unit="s"
              value={c.seconds}
              low={0}
              high={3600}
              step={0.1}
              onKeep={(seconds) => setCondition(i, { ...c, seconds })}
            />
          )}
        </div>
      ))}
      {mayChange && (
        <Select
          label="Add a condition"
          className="w-full"
          value={ANY}
          options={[{ value: ANY, label: 'And when …' }, ...options]}
          onChange={(k) => {
            const found = kinds.find((x) => x.value === k);
            if (found) set({ when: [...way.when, found.make()] }, 'Added a condition');
          }}
        />
      )}
      <p className="mt-1 text-[12px] text-muted">How it joins</p>
      <Row name="Join">
        <Select
          label="Kind of join"
          className="w-full"
          value={way.join.kind}
          options={JOINS}
          onChange={(kind) => set({ join: { ...way.join, kind } }, 'Changed a join')}
        />
      </Row>
      {way.join.kind !== 'cut' && (
        <NumberField
          label="Over"
          unit="frames"
          value={way.join.frames}
          low={0}
          high={600}
          onKeep={(frames) => set({ join: { ...way.join, frames } }, 'Changed the length of a join')}
        />
      )}
      <Row name="Meets">
        <Select
          label="Where both meet"
          className="w-full"
          value={way.join.meet}
          options={MEETS}
          onChange={(meet) => set({ join: { ...way.join, meet } }, 'Changed where both meet')}
        />
      </Row>
      <Row name="Begins">
        <Select
          label="Where the next state begins"
          className="w-full"
          value={way.entry}
          options={ENTRIES}
          onChange={(entry) => set({ entry }, 'Changed where the next state begins')}
        />
      </Row>
      {mayChange && (
        <div className="mt-2 flex gap-1.5">
          <IconButton label="Ask for it earlier" onClick={() => onChange(movedWay(play, way.id, -1), 'Asked earlier')}>
            <ArrowUp size={14} />
          </IconButton>
          <IconButton label="Ask for it later" onClick={() => onChange(movedWay(play, way.id, 1), 'Asked later')}>
            <ArrowDown size={14} />
          </IconButton>
          <Button
            onClick={() => {
              onChange(withoutWay(play, way.id), 'Removed a way');
              onChoose(null);
            }}
          >
            <Trash2 size={13} /> Remove the way
          </Button>
        </div>
      )}
    </fieldset>
  );
}
