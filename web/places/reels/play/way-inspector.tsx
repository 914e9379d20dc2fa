'use client';

import type { Condition, Way } from '@velvet-reel/motion';
import { ArrowDown, ArrowUp, Trash2 } from 'lucide-react';
import type { PlayContent } from '@/documents/play';
import { Button, IconButton } from '@/ui/button';
import { Row, Select } from '@/ui/field';
import { NumberField } from '../number-field';
import { wayInspector as texts } from '../texts';
import type { Chosen } from './play-board';
import { changeWay, movedWay, withoutWay } from './play-edits';

const JOINS = [
  { value: 'decay', label: texts.decay },
  { value: 'crossfade', label: texts.crossfade },
  { value: 'cut', label: texts.cut },
] as const;
const MEETS = [
  { value: 'hips', label: texts.atTheHips },
  { value: 'footL', label: texts.atTheLeftFoot },
  { value: 'footR', label: texts.atTheRightFoot },
  { value: 'world', label: texts.inTheWorld },
] as const;
const ENTRIES = [
  { value: 'start', label: texts.atItsFirstFrame },
  { value: 'phase', label: texts.inTheSamePhase },
  { value: 'alike', label: texts.whereItIsMost },
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
    set({ when: way.when.map((x, k) => (k === i ? c : x)) }, texts.changedWhenAWay);
  const kinds: { value: string; label: string; make: () => Condition }[] = [
    { value: 'ended', label: texts.theEndIsReached, make: () => ({ kind: 'ended' }) },
    { value: 'after', label: texts.someSecondsHavePassed, make: () => ({ kind: 'after', seconds: 2 }) },
    ...play.inputs.flatMap((i): { value: string; label: string; make: () => Condition }[] =>
      i.kind === 'press'
        ? [{ value: `pressed ${i.id}`, label: texts.isPressed(i.name), make: () => ({ kind: 'pressed', input: i.id }) }]
        : i.kind === 'hold'
          ? [
              {
                value: `held ${i.id}`,
                label: texts.isHeld(i.name),
                make: () => ({ kind: 'held', input: i.id, held: true }),
              },
              {
                value: `free ${i.id}`,
                label: texts.isLetGo(i.name),
                make: () => ({ kind: 'held', input: i.id, held: false }),
              },
            ]
          : [
              {
                value: `above ${i.id}`,
                label: texts.isAbove(i.name),
                make: () => ({ kind: 'above', input: i.id, value: (i.min + i.max) / 2 }),
              },
              {
                value: `below ${i.id}`,
                label: texts.isBelow(i.name),
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
      <p className="text-[12px] text-muted">{texts.way}</p>
      <Row name={texts.from}>
        <Select
          label={texts.stateItLeaves}
          className="w-full"
          value={way.from ?? ANY}
          options={[{ value: ANY, label: texts.anyState }, ...play.states.map((s) => ({ value: s.id, label: s.name }))]}
          onChange={(from) => set({ from: from === ANY ? null : from }, texts.changedWhereAWay)}
        />
      </Row>
      <Row name={texts.to}>
        <Select
          label={texts.stateItLeadsTo}
          className="w-full"
          value={way.to}
          options={play.states.map((s) => ({ value: s.id, label: s.name }))}
          onChange={(to) => set({ to }, texts.changedWhereAWayLeads)}
        />
      </Row>
      <p className="mt-1 text-[12px] text-muted">{texts.takenWhenAllOf}</p>
      {way.when.length === 0 && <p className="text-brass-text">{texts.nothingIsAskedFor}</p>}
      {way.when.map((c, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: conditions have no names of their own
        <div key={i} className="flex flex-col gap-1">
          <div className="flex items-center gap-1.5">
            <Select
              label={texts.condition(i + 1)}
              className="min-w-0 flex-1"
              value={keyOf(c)}
              options={options}
              onChange={(k) => setCondition(i, kinds.find((x) => x.value === k)!.make())}
            />
            <IconButton
              label={texts.removeCondition(i + 1)}
              quiet
              onClick={() => set({ when: way.when.filter((_, k) => k !== i) }, texts.removedACondition)}
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
              label={texts.after}
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
          label={texts.addACondition}
          className="w-full"
          value={ANY}
          options={[{ value: ANY, label: texts.andWhen }, ...options]}
          onChange={(k) => {
            const found = kinds.find((x) => x.value === k);
            if (found) set({ when: [...way.when, found.make()] }, texts.addedACondition);
          }}
        />
      )}
      <p className="mt-1 text-[12px] text-muted">{texts.howItJoins}</p>
      <Row name={texts.join}>
        <Select
          label={texts.kindOfJoin}
          className="w-full"
          value={way.join.kind}
          options={JOINS}
          onChange={(kind) => set({ join: { ...way.join, kind } }, texts.changedAJoin)}
        />
      </Row>
      {way.join.kind !== 'cut' && (
        <NumberField
          label={texts.over}
          unit="frames"
          value={way.join.frames}
          low={0}
          high={600}
          onKeep={(frames) => set({ join: { ...way.join, frames } }, texts.changedTheLengthOf)}
        />
      )}
      <Row name={texts.meets}>
        <Select
          label={texts.whereBothMeet}
          className="w-full"
          value={way.join.meet}
          options={MEETS}
          onChange={(meet) => set({ join: { ...way.join, meet } }, texts.changedWhereBothMeet)}
        />
      </Row>
      <Row name={texts.begins}>
        <Select
          label={texts.whereTheNextState}
          className="w-full"
          value={way.entry}
          options={ENTRIES}
          onChange={(entry) => set({ entry }, texts.changedWhereTheNext)}
        />
      </Row>
      {mayChange && (
        <div className="mt-2 flex gap-1.5">
          <IconButton
            label={texts.askForItEarlier}
            onClick={() => onChange(movedWay(play, way.id, -1), texts.askedEarlier)}
          >
            <ArrowUp size={14} />
          </IconButton>
          <IconButton label={texts.askForItLater} onClick={() => onChange(movedWay(play, way.id, 1), texts.askedLater)}>
            <ArrowDown size={14} />
          </IconButton>
          <Button
            onClick={() => {
              onChange(withoutWay(play, way.id), texts.removedAWay);
              onChoose(null);
            }}
          >
            <Trash2 size={13} /> {texts.removeTheWay}
          </Button>
        </div>
      )}
    </fieldset>
  );
}
