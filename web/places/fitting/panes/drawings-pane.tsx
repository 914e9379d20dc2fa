'use client';

import {
  type CutoutPart,
  type CutoutRig,
  copyExposure,
  type ExposureKey,
  exposedAt,
  type FittingEdits,
  readPartName,
  withExposure,
} from '@velvet-reel/motion';
import { clsx } from 'clsx';
import { useEffect, useMemo, useState } from 'react';
import { Lane, seek, TimeAxis, useAxis } from '@/parts/lanes/axis';
import { MissingLabels } from '@/parts/missing-labels';
import type { Clock } from '@/stage/clock';
import { drawingAddress } from '@/stage/paper-art';
import { useArt } from '@/stage/use-art';
import { Button } from '@/ui/button';
import { Select } from '@/ui/field';
import { drawingsPane as texts } from '../texts';

interface DrawingsPaneProps {
  clock: Clock;
  frames: number;
  rig: CutoutRig;
  /** Hash of the figure's pictures. */
  art: string;
  edits: FittingEdits;
  onChange: (edits: FittingEdits, label: string) => void;
}

const NOBODY = ' ';
const HEIGHT = 26;

/** Which drawing shows when: a lane for every part that has several, set label by label at the playhead. */
export function DrawingsPane({ clock, frames, rig, art: hash, edits, onChange }: DrawingsPaneProps) {
  const art = useArt(hash);
  const parts = useMemo(() => rig.parts.filter((p) => p.drawings.length > 1), [rig]);
  const [name, setName] = useState<string | null>(null);
  const part = parts.find((p) => p.name === name) ?? parts[0];
  const [frame, setFrame] = useState(clock.frame);
  useEffect(() => clock.onTick(() => setFrame(clock.frame)), [clock]);
  const [asking, setAsking] = useState<{ to: string; missing: readonly string[]; keys: readonly ExposureKey[] } | null>(
    null,
  );
  if (!part) return <p className="px-4 py-2 text-muted">{texts.everyPartOfThis}</p>;
  const keysOf = (p: CutoutPart): readonly ExposureKey[] => edits.exposures?.find((e) => e.part === p.name)?.keys ?? [];
  const put = (p: string, keys: readonly ExposureKey[], label: string): void => {
    const others = (edits.exposures ?? []).filter((e) => e.part !== p);
    onChange({ ...edits, frames, exposures: keys.length > 0 ? [...others, { part: p, keys }] : others }, label);
  };
  const own = keysOf(part);
  const now = exposedAt({ keys: own }, part, frame);
  const kind = readPartName(part.name).kind;
  const alike = parts.filter((p) => p !== part && (readPartName(p.name).kind === kind || kind === undefined));
  const copyTo = (to: string): void => {
    const other = parts.find((p) => p.name === to);
    if (!other) return;
    const { keys, missing } = copyExposure(own, other);
    if (missing.length > 0) setAsking({ to, missing, keys });
    else put(to, keys, texts.copiedTheDrawingsOf(part.name, to));
  };
  return (
    <div className="px-4 pb-3">
      <div className="mb-1.5 flex flex-wrap items-center gap-1" role="toolbar" aria-label={texts.drawingsOf(part.name)}>
        {part.drawings.map((label) => {
          const drawing = art?.drawings.find((d) => d.part === part.name && d.label === label);
          return (
            <button
              key={label}
              type="button"
              aria-pressed={now === label}
              title={texts.showFromFrameOn(label, frame + 1)}
              className={clsx(
                'flex h-12 min-w-12 flex-col items-center justify-end gap-0.5 rounded-md border bg-velvet px-1 text-[11px]',
                now === label ? 'border-brass text-brass-text' : 'border-line text-muted hover:text-ink',
              )}
              onClick={() => put(part.name, withExposure(own, frame, label), texts.showedOn(label, part.name))}
            >
              {art && drawing && (
                // biome-ignore lint/performance/noImgElement: a picture made of the page's own data
                <img src={drawingAddress(art, drawing, 2)} alt="" className="max-h-7 max-w-10" />
              )}
              {label}
            </button>
          );
        })}
      </div>
      <div className="mb-1.5 flex flex-wrap items-center gap-2 text-[12px] text-muted">
        <span>
          {own.length === 0
            ? texts.showsThroughoutChooseA(part.name, part.drawings[0]!)
            : texts.jointsKeepTheirKeys(part.name, own.length)}
        </span>
        {own.length > 0 && (
          <>
            {alike.length > 0 && (
              <Select
                label={texts.theSameOn}
                value={NOBODY}
                options={[
                  { value: NOBODY, label: texts.theSameOn2 },
                  ...alike.map((p) => ({ value: p.name, label: p.name })),
                ]}
                onChange={(to) => to !== NOBODY && copyTo(to)}
              />
            )}
            <Button size="tiny" onClick={() => put(part.name, [], texts.clearedTheDrawingsOf(part.name))}>
              {texts.clear}
            </Button>
          </>
        )}
      </div>
      {asking && (
        <MissingLabels
          to={asking.to}
          missing={asking.missing}
          onCopy={() => {
            put(asking.to, asking.keys, texts.copiedTheDrawingsOf(part.name, asking.to));
            setAsking(null);
          }}
          onLeave={() => setAsking(null)}
        />
      )}
      <TimeAxis clock={clock} frames={frames} ends={8}>
        {parts.map((p) => (
          <Exposures
            key={p.name}
            part={p}
            keys={keysOf(p)}
            chosen={p === part}
            clock={clock}
            onChoose={() => setName(p.name)}
            onRemove={(at) =>
              put(
                p.name,
                keysOf(p).filter((k) => k.frame !== at),
                texts.removedADrawingOf(p.name),
              )
            }
          />
        ))}
      </TimeAxis>
    </div>
  );
}

/** The drawings of one part as boxes from change to change. */
function Exposures({
  part,
  keys,
  chosen,
  clock,
  onChoose,
  onRemove,
}: {
  part: CutoutPart;
  keys: readonly ExposureKey[];
  chosen: boolean;
  clock: Clock;
  onChoose: () => void;
  onRemove: (frame: number) => void;
}) {
  const { x, width, frames } = useAxis();
  const runs = [...(keys[0]?.frame === 0 ? [] : [{ frame: 0, label: part.drawings[0]! }]), ...keys];
  return (
    <Lane
      name={
        <button
          type="button"
          className={clsx('truncate', chosen ? 'text-brass-text' : 'hover:text-ink')}
          onClick={onChoose}
        >
          {part.name}
        </button>
      }
      height={HEIGHT}
    >
      {runs.map(({ frame, label }, i) => {
        const end = runs[i + 1]?.frame ?? frames;
        const left = Math.max(0, x(frame));
        const right = Math.min(width, x(end));
        const set = keys.some((k) => k.frame === frame);
        return (
          <button
            key={frame}
            type="button"
            aria-label={texts.fromFrame(part.name, label, frame + 1, set)}
            className={clsx(
              'absolute top-0.5 bottom-0.5 overflow-hidden rounded border px-1 text-left text-[11px] text-ellipsis whitespace-nowrap',
              set ? 'border-brass/60 bg-raised text-ink' : 'border-line bg-transparent text-muted',
              chosen && 'border-brass',
            )}
            style={{ left, width: Math.max(3, right - left - 1) }}
            onClick={() => {
              onChoose();
              seek(clock, frame);
            }}
            onKeyDown={(e) => {
              if ((e.key === 'Delete' || e.key === 'Backspace') && set) {
                e.preventDefault();
                onRemove(frame);
              }
            }}
          >
            {label}
          </button>
        );
      })}
    </Lane>
  );
}
