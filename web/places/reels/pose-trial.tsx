'use client';

import { useQuery } from '@tanstack/react-query';
import {
  AXES,
  type Axis,
  type CorrectionTrack,
  laidOf,
  type MirrorMode,
  NO_EDITS,
  type PoseKeys,
  REGIONS,
  type Region,
} from '@velvet-reel/motion';
import { clsx } from 'clsx';
import { useEffect, useMemo, useState } from 'react';
import { API, getJson } from '@/client/api';
import { useRig } from '@/client/queries';
import { solver } from '@/client/solver';
import { useNewest } from '@/client/use-newest';
import { useStable } from '@/client/use-stable';
import type { FittingDocument, Item } from '@/contract';
import { HANDLE_LABELS } from '@/parts/held';
import type { ReelWish } from '@/solver/solve-reel';
import { Button } from '@/ui/button';
import { Select } from '@/ui/field';
import { Slider } from '@/ui/slider';
import type { ReelSource } from '@/wishes/reel-source';
import { FIT_DEFAULTS } from '@/wishes/wishes';
import { poseTrial as texts } from './texts';

const MIRRORS = [
  { value: 'none', label: texts.asItIs },
  { value: 'exchange', label: texts.bothSidesExchanged },
  { value: 'leftToRight', label: texts.itsLeftSideOnto },
  { value: 'rightToLeft', label: texts.itsRightSideOnto },
] as const;
const HOLDS = ['handL', 'handR', 'footL', 'footR'] as const;

/** An item as it comes onto a member that it does not lie on yet. */
function useSource(item: Item, wish: ReelWish | undefined): ReelSource | undefined {
  const castId = wish?.member.castId;
  const { data: source } = useRig(item.rigId);
  const { data: fitting, isError } = useQuery({
    queryKey: ['fitting-of', castId, item.id],
    queryFn: () => getJson<FittingDocument>(`${API}/cast/${castId}/fittings/${item.id}`),
    enabled: castId !== undefined,
    retry: false,
  });
  return useMemo(() => {
    if (!source || !wish || (!fitting && !isError)) return undefined;
    const own = source.id === (wish.target as { id?: string }).id && !fitting?.settings;
    const fit = { source, settings: fitting?.settings ?? FIT_DEFAULTS, edits: fitting?.edits ?? NO_EDITS };
    return {
      laid: laidOf({ itemId: item.id, versionId: item.versionId }),
      motionHash: item.motionHash,
      fit: own ? null : fit,
    };
  }, [item, source, wish, fitting, isError]);
}

/** A pose of the library tried over what is there: nothing is kept until its key is set. */
export function PoseTrial({
  item,
  wish,
  frame,
  onTry,
  onSet,
  onCancel,
}: {
  item: Item;
  wish: ReelWish | undefined;
  /** Frame of the reel at which it is tried. */
  frame: number;
  /** Shown, not kept. */
  onTry: (keys: readonly CorrectionTrack[]) => void;
  onSet: (keys: readonly CorrectionTrack[], label: string) => void;
  onCancel: () => void;
}) {
  const source = useSource(item, wish);
  const [itemFrame, setItemFrame] = useState(0);
  const [strength, setStrength] = useState(1);
  const [mirror, setMirror] = useState<MirrorMode | 'none'>('none');
  const [regions, setRegions] = useState<readonly Region[]>([]);
  const [axes, setAxes] = useState<readonly Axis[]>(AXES);
  const [moves, setMoves] = useState<readonly Axis[]>([]);
  const [hold, setHold] = useState<readonly (typeof HOLDS)[number][]>([]);
  const [onset, setOnset] = useState(10);
  const [tried, setTried] = useState<PoseKeys | null>(null);
  const [error, setError] = useState('');
  const run = useNewest();
  const show = useStable((keys: PoseKeys): void => {
    setTried(keys);
    setError('');
    onTry(keys.keys);
  });
  useEffect(() => {
    if (!wish || !source) return;
    const trial = {
      source,
      itemFrame,
      frame,
      strength,
      regions,
      joints: [],
      mirror: mirror === 'none' ? null : mirror,
      axes,
      moves,
      hold,
      onset,
    };
    run(
      () => solver().poseOn(wish, trial),
      show,
      (e) => setError(e.message),
    );
  }, [wish, source, itemFrame, frame, strength, regions, mirror, axes, moves, hold, onset, run, show]);
  const last = item.facts.frameCount - 1;
  const toggle = <T extends string>(list: readonly T[], x: T): T[] =>
    list.includes(x) ? list.filter((y) => y !== x) : [...list, x];
  const chip = (on: boolean): string =>
    clsx(
      'rounded-full border px-2 py-px text-[12.5px]',
      on ? 'border-brass text-brass-text' : 'border-line text-muted hover:text-ink',
    );
  const joints = tried?.written.length ?? 0;
  return (
    <section aria-label={texts.poseOnTrial} className="flex flex-col gap-1.5 rounded-md border border-brass p-2">
      <p className="text-[12px] text-muted">{texts.triedAtFrameNot(frame + 1)}</p>
      <p className="heading text-[15px]">{item.name}</p>
      {last > 0 && (
        <Slider
          label={texts.itsFrame}
          value={itemFrame + 1}
          rest={1}
          low={1}
          high={last + 1}
          step={1}
          onChange={(x) => setItemFrame(x - 1)}
        />
      )}
      <Slider
        label={texts.strength}
        value={strength}
        rest={1}
        low={-0.5}
        high={1.5}
        step={0.05}
        onChange={setStrength}
      />
      <Slider
        label={texts.fadesInOver}
        value={onset}
        rest={10}
        low={0}
        high={60}
        step={1}
        unit=" f"
        onChange={setOnset}
      />
      <Select label={texts.mirrored} value={mirror} options={MIRRORS} onChange={setMirror} />
      <p className="mt-1 text-[12px] text-muted">
        {texts.parts}
        {regions.length === 0 && texts.theWholeBody}
      </p>
      <fieldset className="flex flex-wrap gap-1" aria-label={texts.partsOfThePose}>
        {REGIONS.filter((r) => r !== 'others' && r !== 'face').map((r) => (
          <button
            key={r}
            type="button"
            aria-pressed={regions.includes(r)}
            className={chip(regions.includes(r))}
            onClick={() => setRegions(toggle(regions, r))}
          >
            {r}
          </button>
        ))}
      </fieldset>
      <fieldset className="flex items-center gap-1" aria-label={texts.turnsAbout}>
        <span className="text-[12px] text-muted">{texts.turnsAbout2}</span>
        {AXES.map((a) => (
          <button
            key={a}
            type="button"
            aria-pressed={axes.includes(a)}
            className={chip(axes.includes(a))}
            onClick={() => setAxes(toggle(axes, a))}
          >
            {a}
          </button>
        ))}
        {axes.length < AXES.length && (
          <button type="button" className="text-[12px] text-brass-text hover:underline" onClick={() => setAxes(AXES)}>
            {texts.allThree}
          </button>
        )}
      </fieldset>
      <fieldset className="flex items-center gap-1" aria-label={texts.bodyMoves}>
        <span className="text-[12px] text-muted">{texts.bodyMoves}</span>
        {AXES.map((a) => (
          <button
            key={a}
            type="button"
            aria-pressed={moves.includes(a)}
            title={texts.alongAxis[a]}
            className={chip(moves.includes(a))}
            onClick={() => setMoves(toggle(moves, a))}
          >
            {a}
          </button>
        ))}
        {moves.length > 0 && (
          <button type="button" className="text-[12px] text-brass-text hover:underline" onClick={() => setMoves([])}>
            {texts.bodyStays}
          </button>
        )}
      </fieldset>
      <p className="mt-1 text-[12px] text-muted">{texts.staysWhereItIs}</p>
      <fieldset className="flex flex-wrap gap-1" aria-label={texts.staysWhereItIs2}>
        {HOLDS.map((h) => (
          <button
            key={h}
            type="button"
            aria-pressed={hold.includes(h)}
            className={chip(hold.includes(h))}
            onClick={() => setHold(toggle(hold, h))}
          >
            {HANDLE_LABELS[h]}
          </button>
        ))}
      </fieldset>
      <p role="status" className="text-[12.5px]">
        {error ? (
          <span className="text-raspberry">{error}</span>
        ) : !tried ? (
          texts.readingThePose
        ) : (
          texts.jointsAtFrame(joints, frame + 1, [
            ...(moves.length === 0
              ? [texts.place]
              : moves.length < AXES.length
                ? [texts.movesAlong(AXES.filter((a) => !moves.includes(a)).join(' and '))]
                : []),
            ...(axes.length < AXES.length
              ? [texts.turnsAbout3(AXES.filter((a) => !axes.includes(a)).join(' and '))]
              : []),
            ...tried.leftAlone,
          ])
        )}
      </p>
      <div className="flex gap-1.5">
        <Button
          size="small"
          look="brass"
          disabled={!tried || (joints === 0 && tried.moved.every((x) => x === 0))}
          onClick={() => tried && onSet(tried.keys, texts.setOverAtFrame(item.name, joints, frame + 1))}
        >
          {texts.setKey}
        </Button>
        <Button size="small" onClick={onCancel}>
          {texts.cancel}
        </Button>
      </div>
    </section>
  );
}
