'use client';

import { type FittingEdits, otherEnd, PLANT_PARTS, type Plant, type PlantPart, tidyPlants } from '@velvet-reel/motion';
import { Pin, PinOff, Plus, RotateCcw, Trash2 } from 'lucide-react';
import { useRef, useState } from 'react';
import { Lane, seek, TimeAxis, useAxis } from '@/parts/lanes/axis';
import { type Grip, Span } from '@/parts/lanes/span';
import type { Clock } from '@/stage/clock';
import { Button, IconButton } from '@/ui/button';
import { inputLook } from '@/ui/field';
import { plantsPane as texts } from '../texts';

const LABELS: Readonly<Record<PlantPart, string>> = {
  heelL: 'heel L',
  ballL: 'ball L',
  heelR: 'heel R',
  ballR: 'ball R',
  handL: 'hand L',
  handR: 'hand R',
  kneeL: 'knee L',
  kneeR: 'knee R',
  seat: 'seat',
};
const HEIGHT = 24;

interface PlantsPaneProps {
  clock: Clock;
  frames: number;
  fps: number;
  /** Plants in force: found, or those set by hand. */
  plants: readonly Plant[];
  edits: FittingEdits;
  held: boolean;
  /** Where a part of the result is at a frame, x and z, metres. */
  spotAt: (part: PlantPart, frame: number) => [number, number] | undefined;
  onChange: (edits: FittingEdits, label: string) => void;
}

const same = (a: Plant, b: Plant | null): boolean =>
  b !== null && a.part === b.part && a.start === b.start && a.end === b.end;

/** Plants as spans on a timeline: drawn, moved, cut, pinned to a spot by hand; found ones until the first is touched. */
export function PlantsPane({ clock, frames, fps, plants, edits, held, spotAt, onChange }: PlantsPaneProps) {
  const [chosen, setChosen] = useState<Plant | null>(null);
  const own = chosen && plants.find((p) => same(p, chosen));
  const rows = PLANT_PARTS.filter(
    (part) => part.startsWith('heel') || part.startsWith('ball') || plants.some((p) => p.part === part),
  );
  const write = (next: readonly Plant[], label: string, follow?: Plant): void => {
    const tidy = tidyPlants(next, frames);
    onChange({ ...edits, frames, plants: tidy }, label);
    if (follow)
      setChosen(tidy.find((p) => p.part === follow.part && p.start <= follow.start && p.end >= follow.end) ?? follow);
  };
  const replace = (from: Plant, to: Plant, label: string): void =>
    write(
      plants.map((p) => (same(p, from) ? to : p)),
      label,
      to,
    );
  const remove = (p: Plant): void => {
    setChosen(null);
    write(
      plants.filter((x) => !same(x, p)),
      texts.removedAPlantOf(LABELS[p.part]),
    );
  };
  const add = (part: PlantPart, at: number): void => {
    const made: Plant = { part, start: at, end: Math.min(frames - 1, at + Math.max(2, Math.round(0.25 * fps))) };
    write([...plants, made], texts.addedAPlantOf(LABELS[part]), made);
  };
  return (
    <div className="px-4 pb-3">
      <div className="mb-1 flex flex-wrap items-center gap-2 text-[12px] text-muted">
        {!held ? (
          <span className="text-brass-text">{texts.plantsAreNotHeld}</span>
        ) : edits.plants === null ? (
          <span>{texts.foundDragAPlantOr(plants.length)}</span>
        ) : (
          <>
            <span className="text-brass-text">{texts.setByHand(plants.length)}</span>
            <Button
              size="tiny"
              onClick={() => {
                setChosen(null);
                onChange({ ...edits, frames, plants: null }, texts.wentBackToThe);
              }}
            >
              <RotateCcw size={12} /> {texts.backToPlantsAs}
            </Button>
          </>
        )}
      </div>
      <TimeAxis clock={clock} frames={frames}>
        {rows.map((part) => (
          <PlantLane
            key={part}
            part={part}
            plants={plants.filter((p) => p.part === part)}
            chosen={chosen}
            onChoose={setChosen}
            onReplace={replace}
            onRemove={remove}
            onAdd={(at) => add(part, at)}
          />
        ))}
      </TimeAxis>
      {own ? (
        <div className="mt-2 flex flex-wrap items-center gap-2 rounded-lg border border-line bg-raised px-2 py-1.5 text-[12.5px]">
          <span className="font-medium">{LABELS[own.part]}</span>
          <FrameField
            label={texts.fromFrame}
            value={own.start}
            most={own.end}
            onKeep={(start) => replace(own, { ...own, start }, texts.changedWhenAPlant)}
          />
          <FrameField
            label={texts.toFrame}
            value={own.end}
            least={own.start}
            most={frames - 1}
            onKeep={(end) => replace(own, { ...own, end }, texts.changedWhenAPlantEnds)}
          />
          {otherEnd(own.part) !== own.part && (
            <Button
              size="tiny"
              onClick={() => {
                const part = otherEnd(own.part);
                replace(own, { ...own, part, pin: undefined }, texts.changedAPlantTo(LABELS[part]));
              }}
            >
              {texts.makeItThe} {own.part.startsWith('heel') ? texts.ball : texts.heel}
            </Button>
          )}
          {own.pin ? (
            <>
              <PinField
                label={texts.x}
                value={own.pin[0]}
                onKeep={(x) => replace(own, { ...own, pin: [x, own.pin![1]] }, texts.movedAPinnedPlant)}
              />
              <PinField
                label={texts.z}
                value={own.pin[1]}
                onKeep={(z) => replace(own, { ...own, pin: [own.pin![0], z] }, texts.movedAPinnedPlant)}
              />
              <IconButton
                label={texts.letTheMotionSet}
                quiet
                onClick={() => replace(own, { ...own, pin: undefined }, texts.unpinnedAPlant)}
              >
                <PinOff size={13} />
              </IconButton>
            </>
          ) : (
            <Button
              size="tiny"
              hint={texts.keepItWhereIt}
              onClick={() => {
                const pin = spotAt(own.part, Math.floor((own.start + own.end) / 2));
                if (pin)
                  replace(
                    own,
                    { ...own, pin: [Number(pin[0].toFixed(3)), Number(pin[1].toFixed(3))] },
                    texts.pinnedAPlantTo,
                  );
              }}
            >
              <Pin size={12} /> {texts.pinToItsSpot}
            </Button>
          )}
          <IconButton label={texts.removeThisPlant} keys={texts.del} quiet onClick={() => remove(own)}>
            <Trash2 size={13} />
          </IconButton>
        </div>
      ) : (
        <div className="mt-2 flex flex-wrap items-center gap-1.5 text-[12px] text-muted">
          <Plus size={12} /> {texts.atThisFrame}
          {rows.slice(0, 4).map((part) => (
            <Button key={part} size="tiny" onClick={() => add(part, clock.frame)}>
              {LABELS[part]}
            </Button>
          ))}
        </div>
      )}
    </div>
  );
}

function PlantLane({
  part,
  plants,
  chosen,
  onChoose,
  onReplace,
  onRemove,
  onAdd,
}: {
  part: PlantPart;
  plants: readonly Plant[];
  chosen: Plant | null;
  onChoose: (p: Plant) => void;
  onReplace: (from: Plant, to: Plant, label: string) => void;
  onRemove: (p: Plant) => void;
  onAdd: (frame: number) => void;
}) {
  const { width, frameAt, clock } = useAxis();
  const lane = useRef<HTMLDivElement>(null);
  const at = (clientX: number): number => frameAt(clientX - (lane.current?.getBoundingClientRect().left ?? 0));
  return (
    <Lane name={LABELS[part]} height={HEIGHT} end={plants.length}>
      {/* biome-ignore lint/a11y/noStaticElementInteractions: plants can be added by the buttons below too */}
      <div
        ref={lane}
        className="relative h-full rounded-sm bg-raised"
        style={{ width }}
        data-testid={`plants-${part}`}
        onDoubleClick={(e) => e.target === e.currentTarget && onAdd(at(e.clientX))}
        onPointerDown={(e) => e.target === e.currentTarget && seek(clock, at(e.clientX))}
      >
        {plants.map((p, i) => (
          <Span
            // by place in the lane, so that a plant keeps the focus while keys move it
            // biome-ignore lint/suspicious/noArrayIndexKey: see above
            key={i}
            stretch={p}
            label={texts.held(LABELS[part], p.start + 1, p.end + 1, p.pin !== undefined)}
            chosen={same(p, chosen)}
            look={lookOf(part)}
            onChoose={() => onChoose(p)}
            onChange={({ start, end }, grip) => onReplace(p, { ...p, start, end }, MOVED[grip])}
            onRemove={() => onRemove(p)}
          >
            {p.pin && <Pin size={10} />}
          </Span>
        ))}
      </div>
    </Lane>
  );
}

const MOVED: Readonly<Record<Grip, string>> = {
  whole: texts.movedAPlant,
  start: texts.changedWhenAPlant,
  end: texts.changedWhenAPlantEnds,
};
const lookOf = (part: PlantPart): string =>
  part.endsWith('L') ? 'bg-verdigris' : part.endsWith('R') ? 'bg-terracotta' : 'bg-brass';

/** Frames are told from 1 to people, from 0 to the motion. */
function FrameField({
  label,
  value,
  least = 0,
  most,
  onKeep,
}: {
  label: string;
  value: number;
  least?: number;
  most: number;
  onKeep: (value: number) => void;
}) {
  return (
    <label className="flex items-center gap-1 text-muted">
      {label}
      <input
        key={value}
        type="number"
        className={`${inputLook} w-16 py-0!`}
        min={least + 1}
        max={most + 1}
        defaultValue={value + 1}
        onBlur={(e) => keep(e.currentTarget, least, most, value, onKeep)}
        onKeyDown={(e) => e.key === 'Enter' && keep(e.currentTarget, least, most, value, onKeep)}
      />
    </label>
  );
}

function keep(input: HTMLInputElement, least: number, most: number, value: number, onKeep: (v: number) => void): void {
  const n = Math.round(Number(input.value)) - 1;
  if (!Number.isFinite(n) || n === value) {
    input.value = String(value + 1);
    return;
  }
  onKeep(Math.max(least, Math.min(most, n)));
}

function PinField({ label, value, onKeep }: { label: string; value: number; onKeep: (value: number) => void }) {
  const read = (input: HTMLInputElement): void => {
    const n = Number(input.value);
    if (Number.isFinite(n) && n !== value && Math.abs(n) <= 1000) onKeep(n);
  };
  return (
    <label className="flex items-center gap-1 text-muted">
      {label}
      <input
        key={value}
        type="number"
        step="0.01"
        aria-label={texts.spotMetres(label)}
        className={`${inputLook} w-20 py-0!`}
        defaultValue={value}
        onBlur={(e) => read(e.currentTarget)}
        onKeyDown={(e) => e.key === 'Enter' && read(e.currentTarget)}
      />
    </label>
  );
}
