'use client';

import {
  type CutoutArt,
  type CutoutRig,
  type LabelLane,
  type LevelLane,
  levelInLane,
  type ReelMember,
} from '@velvet-reel/motion';
import { clsx } from 'clsx';
import { Lane, seek, useAxis } from '@/parts/lanes/axis';
import type { Clock } from '@/stage/clock';
import { useArt } from '@/stage/use-art';
import { pictureOf, wordsOf } from './label-words';
import { levelLanes as texts } from './texts';

const LABELS = 24;
const NUMBERS = 30;
/** A line is drawn through no more points than this. */
const MOST_POINTS = 400;

interface LevelLanesProps {
  clock: Clock;
  member: ReelMember;
  /** Of a member that is a cut-out. */
  paper?: { rig: CutoutRig; art: string | undefined } | undefined;
  mayChange: boolean;
  onRemoveKey: (lane: 'numbers' | 'labels', name: string, frame: number) => void;
}

/** Drawings, views, order and numbers of a member as lanes of their own. */
export function LevelLanes({ clock, member, paper, mayChange, onRemoveKey }: LevelLanesProps) {
  const art = useArt(paper?.art);
  return (
    <>
      {(member.labels ?? []).map((lane) => (
        <Lane key={`label ${lane.name}`} height={LABELS} name={<span className="truncate pl-3">{lane.name}</span>}>
          <Labels
            clock={clock}
            lane={lane}
            rig={paper?.rig}
            art={art}
            {...(mayChange && { onRemove: (frame: number) => onRemoveKey('labels', lane.name, frame) })}
          />
        </Lane>
      ))}
      {(member.numbers ?? []).map((lane) => (
        <Lane key={`number ${lane.name}`} height={NUMBERS} name={<span className="truncate pl-3">{lane.name}</span>}>
          <Numbers
            clock={clock}
            lane={lane}
            {...(mayChange && { onRemove: (frame: number) => onRemoveKey('numbers', lane.name, frame) })}
          />
        </Lane>
      ))}
    </>
  );
}

function Labels({
  clock,
  lane,
  rig,
  art,
  onRemove,
}: {
  clock: Clock;
  lane: LabelLane;
  rig: CutoutRig | undefined;
  art: CutoutArt | undefined;
  onRemove?: ((frame: number) => void) | undefined;
}) {
  const { x, width, frames } = useAxis();
  return (
    <div className="absolute inset-0 overflow-clip rounded-md bg-panel">
      {lane.keys.map(({ frame, label }, i) => {
        const left = Math.max(0, x(frame));
        const right = Math.min(width, x(lane.keys[i + 1]?.frame ?? frames));
        if (right < 0 || left > width) return null;
        const words = label === null ? null : wordsOf(lane.name, label, rig);
        const picture = label !== null && rig && art ? pictureOf(rig, art, lane.name, label) : undefined;
        return (
          <button
            key={frame}
            type="button"
            data-lane
            title={words === null ? texts.whatLiesBeneathShows : texts.fromFrame(words, frame + 1)}
            aria-label={texts.laneFromFrame(lane.name, words, frame + 1, Boolean(onRemove))}
            className={clsx(
              'absolute top-0.5 bottom-0.5 flex items-center gap-1 overflow-hidden rounded border px-1 text-left text-[11px] whitespace-nowrap',
              label === null ? 'border-line border-dashed text-muted' : 'border-brass/60 bg-raised',
            )}
            style={{ left, width: Math.max(3, right - left - 1) }}
            onClick={() => seek(clock, frame)}
            onKeyDown={(e) => {
              if ((e.key !== 'Delete' && e.key !== 'Backspace') || !onRemove) return;
              e.preventDefault();
              e.stopPropagation();
              onRemove(frame);
            }}
          >
            {picture && (
              // biome-ignore lint/performance/noImgElement: a picture made of the page's own data
              <img src={picture} alt="" className="h-full max-w-8 shrink-0 object-contain" />
            )}
            <span className="truncate">{words ?? '…'}</span>
          </button>
        );
      })}
    </div>
  );
}

function Numbers({
  clock,
  lane,
  onRemove,
}: {
  clock: Clock;
  lane: LevelLane;
  onRemove?: ((frame: number) => void) | undefined;
}) {
  const { x, width, start, shown, frameAt } = useAxis();
  const values = lane.keys.flatMap((k) => (k.value === null ? [] : [k.value]));
  const low = Math.min(0, ...values);
  const high = Math.max(1, ...values);
  const y = (v: number): number => NUMBERS - 3 - ((v - low) / (high - low)) * (NUMBERS - 6);
  const step = Math.max(1, Math.ceil(shown / MOST_POINTS));
  const parts: string[] = [];
  let pen = false;
  for (let f = Math.max(0, Math.floor(start)); f <= start + shown; f += step) {
    const v = levelInLane(lane, f);
    if (v !== null) parts.push(`${pen ? 'L' : 'M'}${x(f).toFixed(1)} ${y(v).toFixed(1)}`);
    pen = v !== null;
  }
  return (
    <button
      type="button"
      data-lane
      aria-label={texts.keysOfLane(lane.name, lane.keys.length, Boolean(onRemove))}
      className="absolute inset-0 overflow-clip rounded-md bg-panel"
      onClick={(e) => seek(clock, Math.round(frameAt(e.clientX - e.currentTarget.getBoundingClientRect().left)))}
      onKeyDown={(e) => {
        if ((e.key !== 'Delete' && e.key !== 'Backspace') || !onRemove) return;
        e.preventDefault();
        e.stopPropagation();
        const key = lane.keys.findLast((k) => k.frame <= clock.frame);
        if (key) onRemove(key.frame);
      }}
    >
      <svg width={width} height={NUMBERS} aria-hidden="true">
        <path d={parts.join(' ')} fill="none" style={{ stroke: 'var(--brass)' }} strokeWidth={1.5} />
      </svg>
    </button>
  );
}
