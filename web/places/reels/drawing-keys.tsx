'use client';

import {
  type CutoutArt,
  type CutoutRig,
  copyExposure,
  type LabelKey,
  labelInLane,
  type Motion,
  ORDER_TRACK,
  orderLabel,
  orderOf,
  type ReelMember,
} from '@velvet-reel/motion';
import { clsx } from 'clsx';
import { useMemo, useState } from 'react';
import { MissingLabels } from '@/parts/missing-labels';
import type { Clock } from '@/stage/clock';
import { useArt } from '@/stage/use-art';
import { useRestingFrame } from '@/stage/use-resting-frame';
import { Button } from '@/ui/button';
import { Select } from '@/ui/field';
import { pictureOf } from './label-words';
import { type LabelTarget, labelTargets } from './record/what';
import { drawingKeys as texts } from './texts';

interface DrawingKeysProps {
  clock: Clock;
  member: ReelMember;
  rig: CutoutRig;
  art: string | undefined;
  motion: Motion;
  mayChange: boolean;
  /** null lets what lies beneath show again from there on. */
  onKey: (name: string, frame: number, label: string | null, words: string) => void;
  /** All keys of a lane at once. */
  onKeys: (name: string, keys: readonly LabelKey[], words: string) => void;
}

const NOBODY = ' ';

/** Drawings, views and the order of a cut-out, set by hand at the playhead. */
export function DrawingKeys({ clock, member, rig, art: hash, motion, mayChange, onKey, onKeys }: DrawingKeysProps) {
  const frame = useRestingFrame(clock);
  const art = useArt(hash);
  const targets = useMemo(() => labelTargets(rig), [rig]);
  const [wanted, setWanted] = useState('');
  const target = targets.find((t) => t.name === wanted) ?? targets[0];
  if (!mayChange) return null;
  /** What shows of a track now; what has just been set is there before the motion is worked out anew. */
  const shown = (name: string): string | undefined => {
    const lane = member.labels?.find((l) => l.name === name);
    const track = motion.steps.find((s) => s.name === name);
    return (lane && labelInLane(lane, frame)) ?? track?.labels[track.values[frame] ?? 0];
  };
  const set = (name: string, label: string | null, words: string): void => {
    clock.setPlaying(false);
    onKey(name, clock.frame, label, texts.atFrame(words, clock.frame + 1));
  };
  return (
    <section aria-label={texts.drawings} className="mt-3 flex flex-col gap-1.5 border-line border-t pt-3">
      <h3 className="text-[12px] text-muted">{texts.drawingsViewsOrder}</h3>
      {target ? (
        <>
          <Select
            label={texts.whatIsChosen}
            value={target.name}
            options={targets.map((t) => ({ value: t.name, label: t.words }))}
            onChange={setWanted}
          />
          <Labels
            target={target}
            rig={rig}
            art={art}
            now={shown(target.name)}
            onChoose={(label) => set(target.name, label, texts.setTo(target.words, label))}
          />
          <Lane member={member} target={target} targets={targets} rig={rig} onKeys={onKeys}>
            <Button size="small" onClick={() => set(target.name, null, texts.letGo(target.words))}>
              {texts.asBeneathFromHere}
            </Button>
          </Lane>
        </>
      ) : (
        <p className="text-muted">{texts.everyPartHasOne}</p>
      )}
      <Order rig={rig} now={shown(ORDER_TRACK)} onOrder={(label, words) => set(ORDER_TRACK, label, words)} />
    </section>
  );
}

function Labels({
  target,
  rig,
  art,
  now,
  onChoose,
}: {
  target: LabelTarget;
  rig: CutoutRig;
  art: CutoutArt | undefined;
  now: string | undefined;
  onChoose: (label: string) => void;
}) {
  return (
    <div className="flex flex-wrap gap-1.5">
      {target.labels.map((label) => {
        const picture = art && pictureOf(rig, art, target.name, label);
        return (
          <button
            key={label}
            type="button"
            aria-pressed={label === now}
            title={texts.showFromThisFrame(label)}
            onClick={() => onChoose(label)}
            className={clsx(
              'flex w-[60px] flex-col items-center gap-1 rounded-md border p-1 hover:border-brass',
              label === now ? 'border-brass bg-raised' : 'border-line',
            )}
          >
            {picture && (
              // biome-ignore lint/performance/noImgElement: a picture made of the page's own data
              <img src={picture} alt="" className="h-9 w-full object-contain" />
            )}
            <span className="w-full truncate text-center text-[11px]">{label}</span>
          </button>
        );
      })}
    </div>
  );
}

/** How many keys there are, and the same on another part by label; labels that one lacks are told before anything is written. */
function Lane({
  member,
  target,
  targets,
  rig,
  onKeys,
  children,
}: {
  member: ReelMember;
  target: LabelTarget;
  targets: readonly LabelTarget[];
  rig: CutoutRig;
  onKeys: DrawingKeysProps['onKeys'];
  children: React.ReactNode;
}) {
  const [asking, setAsking] = useState<{ to: string; missing: readonly string[]; keys: readonly LabelKey[] } | null>(
    null,
  );
  const keys = member.labels?.find((l) => l.name === target.name)?.keys ?? [];
  if (keys.length === 0) return <p className="text-[12.5px] text-muted">{texts.nothingIsSetFor}</p>;
  // drawings go to drawings: views have names of their own
  const others = targets.filter((t) => t !== target && rig.parts.some((p) => p.name === t.name));
  const copy = (to: string): void => {
    const part = rig.parts.find((p) => p.name === to);
    if (!part) return;
    const told = keys.flatMap((k) => (k.label === null ? [] : [{ frame: k.frame, label: k.label }]));
    const { missing } = copyExposure(told, part);
    const kept = keys.filter((k) => k.label === null || !missing.includes(k.label));
    if (missing.length > 0) setAsking({ to, missing, keys: kept });
    else onKeys(to, kept, texts.copiedTo(target.words, to));
  };
  return (
    <>
      <p className="text-[12.5px] text-muted">{texts.keysOnItsLane(keys.length)}</p>
      <div className="flex flex-wrap gap-2">
        {children}
        {others.length > 0 && rig.parts.some((p) => p.name === target.name) && (
          <Select
            label={texts.theSameOn}
            value={NOBODY}
            options={[
              { value: NOBODY, label: texts.theSameOn2 },
              ...others.map((t) => ({ value: t.name, label: t.name })),
            ]}
            onChange={(to) => to !== NOBODY && copy(to)}
          />
        )}
      </div>
      {asking && (
        <MissingLabels
          to={asking.to}
          missing={asking.missing}
          onCopy={() => {
            onKeys(asking.to, asking.keys, texts.copiedTo(target.words, asking.to));
            setAsking(null);
          }}
          onLeave={() => setAsking(null)}
        />
      )}
    </>
  );
}

/** One part a step nearer to the eye or farther from it, from the playhead on. */
function Order({
  rig,
  now,
  onOrder,
}: {
  rig: CutoutRig;
  now: string | undefined;
  onOrder: (label: string, words: string) => void;
}) {
  const [name, setName] = useState(rig.parts[0]?.name ?? '');
  const part = rig.parts.findIndex((p) => p.name === name);
  if (part < 0 || rig.parts.length < 2) return null;
  const order = now ? orderOf(now) : rig.parts.map((_, i) => i);
  const at = order.indexOf(part);
  const step = (by: 1 | -1): void => {
    const next = [...order];
    [next[at], next[at + by]] = [next[at + by]!, next[at]!];
    onOrder(orderLabel(next), `${name} ${by > 0 ? 'nearer' : 'farther'}`);
  };
  const beside = (by: 1 | -1): string | undefined => rig.parts[order[at + by] ?? -1]?.name;
  return (
    <div className="mt-1 flex flex-col gap-1.5">
      <Select
        label={texts.partInTheOrder}
        value={name}
        options={rig.parts.map((p) => ({ value: p.name, label: texts.orderOf(p.name) }))}
        onChange={setName}
      />
      <div className="grid grid-cols-2 gap-2">
        <Button size="small" disabled={at <= 0} hint={beside(-1) && texts.behind(beside(-1)!)} onClick={() => step(-1)}>
          {texts.aStepBack}
        </Button>
        <Button
          size="small"
          disabled={at >= order.length - 1}
          hint={beside(1) && texts.before(beside(1)!)}
          onClick={() => step(1)}
        >
          {texts.aStepForward}
        </Button>
      </div>
    </div>
  );
}
