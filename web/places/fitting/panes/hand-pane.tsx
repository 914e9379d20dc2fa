'use client';

import { type CorrectionTrack, type FittingEdits, HANDLES, type NamedEase, type OffsetKey } from '@velvet-reel/motion';
import { clsx } from 'clsx';
import { Move3d, Rotate3d, Trash2 } from 'lucide-react';
import { useMemo } from 'react';
import { HANDLE_LABELS, type Held, heldName, isHeld, withKey } from '@/parts/held';
import { Lane, seek, TimeAxis, useAxis } from '@/parts/lanes/axis';
import { KeyDot } from '@/parts/lanes/key';
import type { Clock } from '@/stage/clock';
import { Button, IconButton } from '@/ui/button';
import { Select } from '@/ui/field';
import { handPane as texts } from '../texts';

interface HandPaneProps {
  clock: Clock;
  frames: number;
  fps: number;
  edits: FittingEdits;
  joints: readonly string[];
  held: Held | null;
  mode: 'move' | 'turn';
  /** Of a cut-out: its parts move in their plane. */
  flat?: boolean;
  onHold: (held: Held | null) => void;
  onMode: (mode: 'move' | 'turn') => void;
  onChange: (edits: FittingEdits, label: string) => void;
}

const HEIGHT = 22;
/** A paper head is turned by its joints; there is no trunk that would bend after it. */
const FLAT_HANDLES = HANDLES.filter((h) => h !== 'head');
const NO_JOINT = ' ';
const NONE: Omit<OffsetKey, 'frame'> = { move: [0, 0, 0], turn: [0, 0, 0, 1] };

/** Corrections by hand on top of the solve: what is held, its keys, and how one passes into the next. */
export function HandPane({
  clock,
  frames,
  fps,
  edits,
  joints,
  held,
  mode,
  flat = false,
  onHold,
  onMode,
  onChange,
}: HandPaneProps) {
  const set = (corrections: CorrectionTrack[], label: string): void =>
    onChange({ ...edits, frames, corrections }, label);
  const own = held && edits.corrections.find((t) => isHeld(t, held));
  const now = own?.keys.find((k) => k.frame === clock.frame);
  const options = useMemo(
    () => [{ value: NO_JOINT, label: texts.oneJoint }, ...joints.map((j) => ({ value: j, label: j }))],
    [joints],
  );
  // a pull that shall show here only needs a key without offset on either side
  const fence = (): void => {
    if (!held || !own) return;
    const gap = Math.max(2, Math.round(0.25 * fps));
    let next = [...edits.corrections];
    for (const f of [clock.frame - gap, clock.frame + gap]) {
      const at = Math.max(0, Math.min(frames - 1, f));
      if (!own.keys.some((k) => k.frame === at)) next = withKey(next, held, at, NONE);
    }
    set(next, texts.limitedTheCorrectionOf(heldName(held)));
  };
  return (
    <div className="px-4 pb-3">
      <div className="mb-1.5 flex flex-wrap items-center gap-1.5">
        {(flat ? FLAT_HANDLES : HANDLES).map((handle) => (
          <Button
            key={handle}
            className={clsx('py-0!', held && isHeld(held, { handle }) && 'border-brass! text-brass-text')}
            aria-pressed={Boolean(held && isHeld(held, { handle }))}
            onClick={() => onHold(held && isHeld(held, { handle }) ? null : { handle })}
          >
            {HANDLE_LABELS[handle]}
          </Button>
        ))}
        <Select
          label={texts.aSingleJoint}
          value={held && 'joint' in held ? held.joint : NO_JOINT}
          options={options}
          onChange={(joint) => onHold(joint === NO_JOINT ? null : { joint })}
          className="max-w-40 py-0!"
        />
        <span className="ml-1 flex">
          <IconButton
            label={texts.moveIt}
            keys="T"
            pressed={mode === 'move'}
            onClick={() => onMode('move')}
            disabled={Boolean(held && 'joint' in held)}
            quiet
          >
            <Move3d size={15} />
          </IconButton>
          <IconButton label={texts.turnIt} keys="T" pressed={mode === 'turn'} onClick={() => onMode('turn')} quiet>
            <Rotate3d size={15} />
          </IconButton>
        </span>
      </div>
      <p className="mb-1 text-[12px] text-muted">
        {!held
          ? flat
            ? texts.chooseAPartAnd
            : texts.chooseAPartAndDrag
          : own
            ? `${own.keys.length} ${own.keys.length === 1 ? texts.keyWhichAppliesTo : 'keys'}.`
            : texts.dragTheInThe(heldName(held))}
      </p>
      {held && own && (
        <div className="mb-1.5 flex flex-wrap items-center gap-1.5 text-[12.5px]">
          {own.keys.length === 1 && (
            <Button size="tiny" onClick={fence}>
              {texts.onlyAroundThisFrame}
            </Button>
          )}
          <Button
            size="tiny"
            onClick={() => set(withKey(edits.corrections, held, clock.frame, NONE), texts.setTheBackAt(heldName(held)))}
          >
            {texts.noCorrectionHere}
          </Button>
          <Select
            label={texts.easingToTheNext}
            value={typeof now?.ease === 'string' ? now.ease : 'smooth'}
            options={[
              { value: 'smooth', label: texts.easesToTheNext },
              { value: 'linear', label: texts.movesEvenlyToThe },
              { value: 'step', label: texts.holdsUntilTheNext },
            ]}
            onChange={(ease) => {
              const key = now ?? own.keys.filter((k) => k.frame <= clock.frame).at(-1) ?? own.keys[0]!;
              set(
                withKey(edits.corrections, held, key.frame, { ...key, ease: ease as NamedEase }),
                texts.changedTheEasingOf,
              );
            }}
            className="py-0!"
          />
          <IconButton
            label={texts.removeAllCorrectionsOf(heldName(held))}
            quiet
            onClick={() =>
              set(
                edits.corrections.filter((t) => !isHeld(t, held)),
                texts.removedTheCorrectionsOf(heldName(held)),
              )
            }
          >
            <Trash2 size={13} />
          </IconButton>
        </div>
      )}
      <TimeAxis clock={clock} frames={frames}>
        {edits.corrections.map((t) => {
          const it: Held = 'handle' in t ? { handle: t.handle } : { joint: t.joint };
          return (
            <KeyLane
              key={heldName(it)}
              name={heldName(it)}
              keys={t.keys}
              chosen={Boolean(held && isHeld(held, it))}
              onChoose={() => onHold(it)}
              onMove={(from, to) => {
                const key = t.keys.find((k) => k.frame === from);
                if (!key || t.keys.some((k) => k.frame === to)) return;
                set(withKey(withKey(edits.corrections, it, from, undefined), it, to, key), texts.movedACorrectionKey);
              }}
              onRemove={(frame) => set(withKey(edits.corrections, it, frame, undefined), texts.removedACorrectionKey)}
            />
          );
        })}
      </TimeAxis>
    </div>
  );
}

function KeyLane({
  name,
  keys,
  chosen,
  onChoose,
  onMove,
  onRemove,
}: {
  name: string;
  keys: readonly OffsetKey[];
  chosen: boolean;
  onChoose: () => void;
  onMove: (from: number, to: number) => void;
  onRemove: (frame: number) => void;
}) {
  const { width, clock } = useAxis();
  return (
    <Lane
      height={HEIGHT}
      name={
        <button
          type="button"
          onClick={onChoose}
          className={clsx('truncate hover:text-ink', chosen && 'text-brass-text')}
        >
          {name}
        </button>
      }
      end={keys.length}
    >
      <div className="relative h-full rounded-sm bg-raised" style={{ width }}>
        {keys.map((k) => (
          <KeyDot
            key={k.frame}
            frame={k.frame}
            label={texts.keyOfTheAt(name, k.frame + 1)}
            onChoose={() => {
              onChoose();
              seek(clock, k.frame);
            }}
            onMove={(to) => to !== k.frame && onMove(k.frame, to)}
            onRemove={() => onRemove(k.frame)}
          />
        ))}
      </div>
    </Lane>
  );
}
