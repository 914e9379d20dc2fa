'use client';

import type { CutoutArt, CutoutRig, Facing } from '@velvet-reel/motion';
import { facingOf, slotLabel } from '@velvet-reel/motion';
import { clsx } from 'clsx';
import { ArrowDown, ArrowUp } from 'lucide-react';
import type { CastMember, RigAnswer } from '@/contract';
import { drawingAddress } from '@/stage/paper-art';
import { Button, IconButton } from '@/ui/button';
import { Select } from '@/ui/field';
import { Slider } from '@/ui/slider';
import { partsTab as texts } from '../texts';
import type { CutoutEditing } from './use-cutout';

const FACINGS: { value: Facing; label: string }[] = [
  { value: 'front', label: texts.fromTheFront },
  { value: 'right', label: texts.facingRight },
  { value: 'left', label: texts.facingLeft },
];

interface PartsTabProps {
  member: CastMember;
  rig: CutoutRig;
  art: CutoutArt;
  answer: RigAnswer;
  lit: string | null;
  mayChange: boolean;
  editing: CutoutEditing;
  onLit: (joint: string | null) => void;
  onMark: () => void;
}

/** Every part from front to back: what it is, what it hangs on, and how its joint behaves. */
export function PartsTab({ rig, art, answer, lit, mayChange, editing, onLit, onMark }: PartsTabProps) {
  const slotOf = new Map(
    Object.entries(answer.map.slots).flatMap(([slot, e]) =>
      e.joint === null ? [] : [[e.joint, { slot, ...e }] as const],
    ),
  );
  const move = (i: number, by: 1 | -1): void => {
    const order = rig.parts.map((p) => p.name);
    const [part] = order.splice(i, 1);
    order.splice(i + by, 0, part!);
    editing.change({ order }, by > 0 ? texts.movedForwards(part!) : texts.movedBackwards(part!));
  };
  const chosen = lit === null ? undefined : lit;
  return (
    <div className="flex flex-col gap-2">
      <div className="flex items-center gap-2">
        <span className="text-muted">{texts.drawn}</span>
        <Select
          label={texts.howTheFigureIs}
          value={facingOf(rig)}
          options={FACINGS}
          onChange={(facing) =>
            mayChange &&
            editing.change({ facing }, texts.setTheFigureTo(FACINGS.find((f) => f.value === facing)!.label))
          }
        />
      </div>
      {mayChange && (
        <Button size="small" className="self-start" hint={texts.whenPartsWereTaken} onClick={onMark}>
          {texts.markTheJoints}
        </Button>
      )}
      <h3 className="font-semibold">{texts.partsTheForemostFirst}</h3>
      <ul className="flex flex-col">
        {rig.parts
          .map((part, i) => ({ part, i }))
          .reverse()
          .map(({ part, i }) => {
            const joint = rig.names[part.joint]!;
            const slot = slotOf.get(joint);
            const parent = rig.parents[part.joint]!;
            const drawing = art.drawings.find((d) => d.part === part.name);
            const main = part.attachments.some((a) => a.name === 'end') || parent < 0;
            const swing = rig.hinges?.[joint]?.swing ?? 0;
            return (
              <li
                key={part.name}
                className={clsx('rounded px-1 py-0.5', joint === chosen && 'bg-raised')}
                onPointerEnter={() => onLit(joint)}
                onPointerLeave={() => onLit(null)}
              >
                <div className="flex items-center gap-2">
                  <span className="flex size-8 shrink-0 items-center justify-center rounded bg-velvet">
                    {drawing && (
                      // biome-ignore lint/performance/noImgElement: a picture made of the page's own data
                      <img src={drawingAddress(art, drawing, 2)} alt="" className="max-h-7 max-w-7" />
                    )}
                  </span>
                  <span className="min-w-0 flex-1">
                    <span className="block truncate" title={part.name}>
                      {part.name}
                      {part.view && <span className="text-muted"> · {part.view}</span>}
                      {part.drawings.length > 1 && (
                        <span className="text-muted">{texts.drawings(part.drawings.length)}</span>
                      )}
                    </span>
                    <span
                      className={clsx(
                        'block truncate text-[11.5px]',
                        slot?.state === 'guessed' ? 'text-brass-text' : 'text-muted',
                      )}
                      title={slot?.why}
                    >
                      {main && slot ? slotLabel(slot.slot) : texts.on(joint)}
                      {main && slot?.state === 'guessed' && texts.guessed}
                    </span>
                  </span>
                  {mayChange && (
                    <span className="flex">
                      <IconButton
                        label={texts.drawFurtherForward(part.name)}
                        quiet
                        disabled={editing.busy || i === rig.parts.length - 1}
                        onClick={() => move(i, 1)}
                      >
                        <ArrowUp size={13} />
                      </IconButton>
                      <IconButton
                        label={texts.drawFurtherBack(part.name)}
                        quiet
                        disabled={editing.busy || i === 0}
                        onClick={() => move(i, -1)}
                      >
                        <ArrowDown size={13} />
                      </IconButton>
                    </span>
                  )}
                </div>
                {main && swing > 0 && (
                  <Slider
                    label={texts.swingsAfter}
                    value={Math.round(100 * swing)}
                    rest={0}
                    low={0}
                    high={100}
                    step={5}
                    unit=" %"
                    onChange={(x) =>
                      mayChange &&
                      editing.change(
                        { hinges: { [joint]: { ...rig.hinges?.[joint], swing: x / 100 } } },
                        texts.changedHowMuchSwings(joint),
                      )
                    }
                  />
                )}
              </li>
            );
          })}
      </ul>
    </div>
  );
}
