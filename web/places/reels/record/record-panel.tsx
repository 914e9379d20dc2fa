'use client';

import { type Motion, type Party, type Pass, type ReelMember, writePass } from '@velvet-reel/motion';
import { clsx } from 'clsx';
import { Circle, Square } from 'lucide-react';
import { type PointerEvent, useEffect, useMemo, useRef, useState } from 'react';
import { useKeys } from '@/client/keys';
import { useStable } from '@/client/use-stable';
import type { CastMember, RigAnswer } from '@/contract';
import type { Clock } from '@/stage/clock';
import { rigView } from '@/stage/rig-view';
import { Button } from '@/ui/button';
import { Row, Select } from '@/ui/field';
import { recordPanel as texts } from '../texts';
import { useNumbers } from '../use-numbers';
import { levelOf, type PassState, usePass } from './use-pass';
import { type LabelTarget, labelTargets, padChoices } from './what';

const COUNTS = [0, 1, 2, 3] as const;
/** A stick nearer to its middle than this is let go. */
const REST = 0.12;
const MOST_KEYS = 9;

interface RecordPanelProps {
  clock: Clock;
  member: ReelMember;
  who: CastMember;
  rig: RigAnswer;
  motion: Motion;
  range: { start: number; end: number } | null;
  frames: number;
  onMember: (member: ReelMember, label: string) => void;
  /** What is shown while a pass is recorded; undefined when it is over. */
  onShown: (motion: Motion | undefined) => void;
}

/** Plays part of a member by hand while all else that is there plays along. */
export function RecordPanel(p: RecordPanelProps) {
  const { clock, member, who, rig, motion, range, frames } = p;
  const view = rigView(rig);
  const party = useMemo((): Party => ({ rig: view.rig, map: view.map, cutout: view.cutout }), [view]);
  const numbers = useNumbers(rig, who, motion);
  const pads = useMemo(() => padChoices(view, numbers), [view, numbers]);
  const targets = useMemo(() => labelTargets(view.cutout), [view.cutout]);
  const [pad, setPad] = useState('head');
  const [chosen, setChosen] = useState<string>();
  const [countS, setCountS] = useState<number>(3);
  const [at, setAt] = useState<readonly [number, number]>([0, 0]);
  const [label, setLabel] = useState<string | null>(null);
  const hands = useRef({ at, label });
  hands.current = { at, label };
  const padChoice = pads.find((x) => x.value === pad) ?? pads[1] ?? pads[0]!;
  const target = targets.find((t) => t.name === chosen) ?? null;
  const [from, to] = range ? [range.start, range.end] : [clock.frame, frames - 1];
  const words = [padChoice.target && padChoice.label, target?.words].filter(Boolean).join(' and ');
  const done = (pass: Pass, first: number, last: number): void =>
    p.onMember(writePass(member, pass, first, last), texts.recordedAPassOf(words, first + 1, last + 1));
  const { state, shown, start, stop } = usePass(clock, party, motion, member.keys, () => hands.current, done);
  const { onShown } = p;
  useEffect(() => onShown(shown), [shown, onShown]);
  useEffect(() => () => onShown(undefined), [onShown]);
  const toggle = useStable((): void => {
    if (state.kind !== 'idle') stop();
    else if (padChoice.target || target)
      start({
        pad: padChoice.target,
        labels: target,
        from: range ? range.start : clock.frame,
        to: range ? range.end : frames - 1,
        countS,
      });
  });
  useKeys('r', toggle);
  const choose = useStable((l: string): void => {
    setLabel(l);
    hands.current = { ...hands.current, label: l };
    if (state.kind === 'idle' && target)
      p.onMember(
        writePass(
          member,
          { turns: [], numbers: [], labels: [{ name: target.name, samples: [{ frame: clock.frame, label: l }] }] },
          clock.frame,
          frames - 1,
        ),
        texts.showedFromFrameOn(l, clock.frame + 1),
      );
  });
  useLabelKeys(target, choose);
  useStickOn(padChoice.target !== null, setAt);
  const idle = state.kind === 'idle';
  return (
    <div className="flex flex-col gap-2.5">
      <p className="text-muted">{texts.playOnePartOfWhile(who.name)}</p>
      <fieldset disabled={!idle} className="flex min-w-0 flex-col gap-2">
        <Row name={texts.thePadMoves}>
          <Select
            label={texts.whatThePadMoves}
            className="w-full"
            value={padChoice.value}
            options={pads}
            onChange={setPad}
          />
        </Row>
        {targets.length > 0 && (
          <Row name={texts.keysChoose}>
            <Select
              label={texts.whatTheKeysChoose}
              className="w-full"
              value={target?.name ?? ' '}
              options={[
                { value: ' ', label: texts.nothing },
                ...targets.map((t) => ({ value: t.name, label: t.words })),
              ]}
              onChange={(t) => {
                setChosen(t === ' ' ? undefined : t);
                setLabel(null);
              }}
            />
          </Row>
        )}
        <Row name={texts.countIn}>
          <Select
            label={texts.secondsToCountIn}
            className="w-full"
            value={String(countS)}
            options={COUNTS.map((c) => ({ value: String(c), label: c === 0 ? texts.atOnce : `${c} s` }))}
            onChange={(c) => setCountS(Number(c))}
          />
        </Row>
      </fieldset>
      {padChoice.target && (
        <Pad
          at={at}
          flat={padChoice.target.kind === 'number'}
          words={padChoice.target.kind === 'number' ? levelOf(at).toFixed(2) : ''}
          onAt={(a) => {
            hands.current = { ...hands.current, at: a };
            setAt(a);
          }}
        />
      )}
      {target && (
        <div className="flex flex-wrap gap-1" role="toolbar" aria-label={texts.chooseFromThe(target.words)}>
          {target.labels.slice(0, MOST_KEYS).map((l, i) => (
            <Button
              key={l}
              size="small"
              look={label === l ? 'brass' : 'plain'}
              aria-pressed={label === l}
              hint={idle ? texts.showFromThePlayhead(l) : undefined}
              onClick={() => choose(l)}
            >
              <kbd>{i + 1}</kbd> {l}
            </Button>
          ))}
        </div>
      )}
      <p className="text-[12.5px] text-muted">
        {range ? texts.writesFramesToIt(from + 1, to + 1) : texts.writesFromThePlayhead}
      </p>
      <Button look={idle ? 'brass' : 'plain'} keys="R" disabled={!padChoice.target && !target} onClick={toggle}>
        {idle ? <Circle size={13} /> : <Square size={13} />} {idle ? texts.recordAPass : texts.stop}
      </Button>
      <Told state={state} />
    </div>
  );
}

function Told({ state }: { state: PassState }) {
  if (state.kind === 'idle') return null;
  return (
    <p role="status" className={clsx('text-center', state.kind === 'recording' && 'text-raspberry')}>
      {state.kind === 'counting' ? <span className="heading text-3xl">{state.left}</span> : texts.recording}
    </p>
  );
}

const KEY_STEP = 0.1;

/** A square to move about in: the middle is rest. */
function Pad({
  at,
  flat,
  words,
  onAt,
}: {
  at: readonly [number, number];
  /** Only up and down counts. */
  flat: boolean;
  words: string;
  onAt: (at: readonly [number, number]) => void;
}) {
  const box = useRef<HTMLDivElement>(null);
  const clamp = (x: number): number => Math.min(1, Math.max(-1, x));
  const move = (e: PointerEvent): void => {
    const r = box.current!.getBoundingClientRect();
    const x = flat ? 0 : clamp((2 * (e.clientX - r.left)) / r.width - 1);
    onAt([x, clamp(1 - (2 * (e.clientY - r.top)) / r.height)]);
  };
  return (
    <div
      ref={box}
      role="application"
      aria-label={texts.padMoveThePointer}
      // biome-ignore lint/a11y/noNoninteractiveTabindex: it is moved by the arrow keys
      tabIndex={0}
      className="relative aspect-square w-full max-w-52 cursor-crosshair touch-none self-center rounded-xl border border-line bg-velvet"
      onPointerMove={move}
      onPointerDown={move}
      onKeyDown={(e) => {
        const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[e.key];
        if (!by) return;
        e.preventDefault();
        e.stopPropagation();
        onAt([flat ? 0 : clamp(at[0] + KEY_STEP * by[0]!), clamp(at[1] + KEY_STEP * by[1]!)]);
      }}
    >
      <span className="absolute inset-x-0 top-1/2 border-line border-t" />
      {!flat && <span className="absolute inset-y-0 left-1/2 border-line border-l" />}
      <span
        className="absolute size-4 -translate-x-1/2 -translate-y-1/2 rounded-full bg-brass"
        style={{ left: `${50 * (at[0] + 1)}%`, top: `${50 * (1 - at[1])}%` }}
      />
      <span className="absolute right-2 bottom-1 text-[12px] text-muted tabular-nums">{words}</span>
    </div>
  );
}

/** Digits choose labels. */
function useLabelKeys(target: LabelTarget | null, onLabel: (label: string) => void): void {
  useEffect(() => {
    if (!target) return;
    const press = (e: KeyboardEvent): void => {
      const i = /^Digit([1-9])$/.exec(e.code)?.[1];
      const own = i === undefined ? undefined : target.labels[Number(i) - 1];
      if (own === undefined || e.ctrlKey || e.metaKey || e.altKey) return;
      if (e.target instanceof HTMLElement && e.target.closest('input, textarea, [role=dialog]')) return;
      // digits change the side panel elsewhere
      e.preventDefault();
      e.stopPropagation();
      onLabel(own);
    };
    window.addEventListener('keydown', press, true);
    return () => window.removeEventListener('keydown', press, true);
  }, [target, onLabel]);
}

/** While a gamepad's left stick is off its middle, it says where on the pad the hand is. */
function useStickOn(on: boolean, onAt: (at: readonly [number, number]) => void): void {
  const held = useRef(false);
  useEffect(() => {
    if (!on || typeof navigator.getGamepads !== 'function') return;
    let frame = 0;
    const look = (): void => {
      frame = requestAnimationFrame(look);
      const own = navigator.getGamepads().find((g) => g?.connected);
      const [x, y] = [own?.axes[0] ?? 0, -(own?.axes[1] ?? 0)];
      const off = Math.hypot(x, y) > REST;
      if (off || held.current) onAt(off ? [x, y] : [0, 0]);
      held.current = off;
    };
    frame = requestAnimationFrame(look);
    return () => cancelAnimationFrame(frame);
  }, [on, onAt]);
}
