'use client';

import { type FittingEdits, type OffKey, type SwapReport, swapWords } from '@velvet-reel/motion';
import { clsx } from 'clsx';
import { useState } from 'react';
import { Lane, seek, TimeAxis, useAxis } from '@/parts/lanes/axis';
import type { Clock } from '@/stage/clock';
import { Button } from '@/ui/button';
import { swapPane as texts } from '../texts';

interface SwapPaneProps {
  clock: Clock;
  frames: number;
  swap: SwapReport;
  /** Whether the motion came as keys, and whether the result is keys. */
  keyed: { readonly before: boolean; readonly after: boolean };
  edits: FittingEdits;
  onChange: (edits: FittingEdits, label: string) => void;
}

/** A key that puts a part off its joint, and what becomes of it. */
interface Mark extends OffKey {
  readonly meant: boolean;
}

const HEIGHT = 22;
const nameOf = ({ joint, frame }: Mark): string => texts.atFrame(joint, Math.round(frame) + 1);

/** How one cut-out takes another's place: keys that are off their joints, each with what becomes of it, and what differs. */
export function SwapPane({ clock, frames, swap, keyed, edits, onChange }: SwapPaneProps) {
  const said = edits.offKeys ?? [];
  const marks: Mark[] = [
    ...swap.breaks.map((k) => ({ ...k, meant: true })),
    ...swap.corrections.map((k) => ({ ...k, meant: false })),
  ].sort((a, b) => a.joint.localeCompare(b.joint) || a.frame - b.frame);
  const [chosen, setChosen] = useState<string | null>(null);
  const mark = marks.find((m) => nameOf(m) === chosen);
  const isOf = (m: Mark) => (s: (typeof said)[number]) => s.joint === m.joint && s.frame === Math.round(m.frame);
  const say = (m: Mark, meant: boolean): void =>
    onChange(
      {
        ...edits,
        frames,
        offKeys: [...said.filter((s) => !isOf(m)(s)), { joint: m.joint, frame: Math.round(m.frame), meant }],
      },
      meant ? texts.keptOffItsJoint(nameOf(m)) : texts.closedTheGapOf(nameOf(m)),
    );
  const joints = [...new Set(marks.map((m) => m.joint))];
  return (
    <div className="px-4 pb-3">
      <p className="mb-1.5 text-[12px] text-muted">
        {marks.length === 0 ? texts.everyPartLiesOn : texts.filledOffItsJoint}
      </p>
      {mark && (
        <div className="mb-1.5 flex flex-wrap items-center gap-2 text-[12.5px]">
          <span>
            {nameOf(mark)}
            {texts.ofTheHeightOff((100 * mark.off).toFixed(1))}
          </span>
          <Button
            size="tiny"
            look={mark.meant ? 'brass' : 'plain'}
            aria-pressed={mark.meant}
            onClick={() => say(mark, true)}
          >
            {texts.onPurpose}
          </Button>
          <Button
            size="tiny"
            look={mark.meant ? 'plain' : 'brass'}
            aria-pressed={!mark.meant}
            onClick={() => say(mark, false)}
          >
            {texts.closedAGap}
          </Button>
          {said.some(isOf(mark)) && (
            <Button
              size="tiny"
              onClick={() =>
                onChange(
                  { ...edits, frames, offKeys: said.filter((s) => !isOf(mark)(s)) },
                  texts.leftToBeFound(nameOf(mark)),
                )
              }
            >
              {texts.asFound}
            </Button>
          )}
        </div>
      )}
      {marks.length > 0 && (
        <TimeAxis clock={clock} frames={frames}>
          {joints.map((joint) => (
            <Lane key={joint} height={HEIGHT} name={<span className="truncate">{joint}</span>}>
              <Marks
                marks={marks.filter((m) => m.joint === joint)}
                chosen={chosen}
                onChoose={(m) => {
                  setChosen(nameOf(m));
                  seek(clock, Math.round(m.frame));
                }}
              />
            </Lane>
          ))}
        </TimeAxis>
      )}
      <ul className="mt-2 list-disc pl-4 text-[12px] text-muted">
        {!keyed.after && <li>{keyed.before ? texts.tuningOtherThanSpeed : texts.theMotionHasNo}</li>}
        {swapWords(swap).map((word) => (
          <li key={word}>{word}</li>
        ))}
      </ul>
    </div>
  );
}

function Marks({
  marks,
  chosen,
  onChoose,
}: {
  marks: readonly Mark[];
  chosen: string | null;
  onChoose: (mark: Mark) => void;
}) {
  const { width, x } = useAxis();
  return (
    <div className="relative h-full rounded-sm bg-raised" style={{ width }}>
      {marks.map((m) => (
        <button
          key={m.frame}
          type="button"
          aria-pressed={nameOf(m) === chosen}
          aria-label={`${nameOf(m)}, ${m.meant ? texts.onPurpose2 : texts.closedAGap2}`}
          className={clsx(
            'absolute top-1/2 size-3 -translate-x-1/2 -translate-y-1/2 rounded-full border',
            m.meant ? 'border-velvet bg-brass' : 'border-muted bg-raised',
            nameOf(m) === chosen && 'outline-2 outline-ink',
          )}
          style={{ left: x(m.frame + 0.5) }}
          onClick={() => onChoose(m)}
        />
      ))}
    </div>
  );
}
