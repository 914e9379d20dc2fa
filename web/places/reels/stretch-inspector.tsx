'use client';

import { type Overlay, type Placement, stretchLength } from '@velvet-reel/motion';
import { Copy, Scissors, Trash2 } from 'lucide-react';
import Link from 'next/link';
import type { Item } from '@/contract';
import type { ReelContent } from '@/documents/reel';
import { Button, IconButton } from '@/ui/button';
import { SwitchRow } from '@/ui/field';
import { Heading } from './choice';
import { NumberField } from './number-field';
import { Pace } from './pace';
import { stretchInspector as texts } from './texts';

export interface StretchProps {
  reel: ReelContent;
  item: Item | undefined;
  mayChange: boolean;
  /** Another version of the item is in force than the one that is laid. */
  newer?: boolean;
  onNewest?: () => void;
  onSplit?: () => void;
  /** Frame of the reel that is shown now. */
  playhead: () => number;
  onCopy: () => void;
  onRemove: () => void;
}

/** Which stretch of an item plays, where and how. */
export function StretchFields({
  of,
  item,
  reel,
  playhead,
  onChange,
}: {
  of: Placement | Overlay;
  item: Item | undefined;
  reel: ReelContent;
  playhead: () => number;
  onChange: (change: Partial<Placement & Overlay>, label: string) => void;
}) {
  const last = Math.max(0, (item?.facts.frameCount ?? 1) - 1);
  const to = Math.min(last, of.to ?? last);
  const name = item?.name ?? texts.theItem;
  return (
    <div className="flex flex-col gap-1">
      <NumberField
        label={texts.beginsAtFrame}
        value={of.at + 1}
        low={1}
        high={100_000}
        onKeep={(x) => onChange({ at: x - 1 }, texts.movedToFrame(name, x))}
      />
      <NumberField
        label={texts.firstFrameOfThe}
        value={Math.min(last, of.from) + 1}
        low={1}
        high={to + 1}
        onKeep={(x) => onChange({ from: x - 1 }, texts.fromItsFrame(name, x))}
      />
      <NumberField
        label={texts.lastFrameOfThe}
        value={to + 1}
        low={Math.min(last, of.from) + 1}
        high={last + 1}
        onKeep={(x) => onChange({ to: x - 1 >= last ? null : x - 1 }, texts.toItsFrame(name, x))}
      />
      <NumberField
        label={texts.speed}
        value={of.speed}
        low={0.05}
        high={20}
        step={0.05}
        onKeep={(speed) => onChange({ speed }, texts.atSpeed(name, speed.toFixed(2)))}
      />
      {item && <Pace of={of} item={item} fps={reel.fps} playhead={playhead} onChange={onChange} />}
      <NumberField
        label={texts.times}
        value={of.repeats}
        low={1}
        high={1000}
        onKeep={(repeats) => onChange({ repeats: Math.round(repeats) }, texts.times2(name, Math.round(repeats)))}
      />
      <SwitchRow
        label={texts.mirrored}
        checked={of.mirrored}
        onChange={(mirrored) =>
          onChange({ mirrored }, `${mirrored ? texts.mirrored2 : texts.noLongerMirrored}: ${name}`)
        }
      />
      <SwitchRow
        label={texts.muted}
        checked={of.muted}
        onChange={(muted) => onChange({ muted }, `${muted ? texts.muted2 : texts.noLongerMuted}: ${name}`)}
      />
      <p className="text-[12px] text-muted">
        {item
          ? texts.framesOfTheReel(
              stretchLength(of, item.facts, reel.fps),
              (stretchLength(of, item.facts, reel.fps) / reel.fps).toFixed(2),
            )
          : texts.thisItemIsGone}
      </p>
    </div>
  );
}

export function StretchHead({
  title,
  item,
  mayChange,
  newer = false,
  onNewest,
  onSplit,
  onCopy,
  onRemove,
}: StretchProps & { title: string }) {
  return (
    <div className="flex flex-wrap items-start gap-1">
      <div className="min-w-0 flex-1">
        <p className="text-[12px] text-muted">{title}</p>
        {item ? (
          <Link href={`/library?item=${item.id}`} className="heading block truncate text-[16px] hover:text-brass-text">
            {item.name}
          </Link>
        ) : (
          <p className="heading text-[16px]">{texts.gone}</p>
        )}
      </div>
      {mayChange && (
        <>
          {onSplit && (
            <IconButton label={texts.cutInTwoAt} keys="S" onClick={onSplit} quiet>
              <Scissors size={14} />
            </IconButton>
          )}
          <IconButton label={texts.copyBehindIt} keys="D" onClick={onCopy} quiet>
            <Copy size={14} />
          </IconButton>
          <IconButton label={texts.remove} keys={texts.del} onClick={onRemove} quiet>
            <Trash2 size={14} />
          </IconButton>
        </>
      )}
      {newer && (
        <p role="status" className="flex w-full items-center gap-2 text-brass-text">
          {texts.thereIsANewer}
          {mayChange && (
            <Button size="tiny" onClick={onNewest}>
              {texts.takeIt}
            </Button>
          )}
        </p>
      )}
    </div>
  );
}

export function PlacementInspector({
  of,
  castId,
  paper,
  onChange,
  ...p
}: StretchProps & {
  of: Placement;
  castId: string;
  paper: boolean;
  onChange: (change: Partial<Placement>, label: string) => void;
}) {
  const { offset } = of;
  const name = p.item?.name ?? texts.theItem;
  return (
    <div className="flex flex-col gap-1.5">
      <StretchHead title={texts.onTheBaseLane} {...p} />
      <StretchFields of={of} item={p.item} reel={p.reel} playhead={p.playhead} onChange={onChange} />
      <SwitchRow
        label={texts.inPlace}
        checked={of.inPlace}
        onChange={(inPlace) => onChange({ inPlace }, `${inPlace ? texts.inPlace2 : texts.travels}: ${name}`)}
      />
      {paper && (
        <SwitchRow
          label={texts.turnedOver}
          checked={Math.abs(offset.turn) > 90}
          onChange={(over) => onChange({ offset: { ...offset, turn: over ? 180 : 0 } }, texts.turned(over, name))}
        />
      )}
      <Heading>{texts.movedFromWhereIt}</Heading>
      <div className="flex flex-col gap-1">
        {(
          [
            ['x', 'aside', 'm', 0.05],
            ['z', 'ahead', 'm', 0.05],
            ['turn', 'turned', '°', 1],
          ] as const
        )
          // paper is turned over or not
          .filter(([key]) => key !== 'turn' || !paper)
          .map(([key, label, unit, step]) => (
            <NumberField
              key={key}
              label={label}
              unit={unit}
              value={offset[key]}
              low={-1000}
              high={1000}
              step={step}
              onKeep={(x) => onChange({ offset: { ...offset, [key]: x } }, texts.moved(name))}
            />
          ))}
      </div>
      {p.item && (
        <Link href={`/fitting?item=${p.item.id}&cast=${castId}`} className="text-[12.5px] text-brass-text underline">
          {texts.howItIsFitted}
        </Link>
      )}
    </div>
  );
}
