'use client';

import { useQuery } from '@tanstack/react-query';
import type { Lane as LaneData, Report, Trouble } from '@velvet-reel/motion';
import { clsx } from 'clsx';
import { CheckCircle2, TriangleAlert, Wand2 } from 'lucide-react';
import { memo, useEffect, useMemo, useRef, useState } from 'react';
import { solver } from '@/client/solver';
import { Lane, seek, TimeAxis, useAxis, useScrub } from '@/parts/lanes/axis';
import type { FitWish, Offer } from '@/solver/solve-fit';
import type { Clock } from '@/stage/clock';
import { fitCanvas } from '@/stage/silhouette';
import { useThemeVersion } from '@/stage/use-theme';
import { Button } from '@/ui/button';
import { troublePane as texts } from '../texts';
import { wishKey } from '../wish-key';

interface TroublePaneProps {
  report: Report | undefined;
  clock: Clock;
  wish: FitWish | undefined;
  previewing: string | null;
  onPointJoint: (joint: string | null) => void;
  onPreview: (offer: Offer | null) => void;
  onTake: (offer: Offer) => void;
}

const HEIGHT = 22;
/** A lane with less of its limit in it is empty. */
const TOLD = 0.08;
const worst = (l: LaneData): number => l.values.reduce((m, x) => Math.max(m, x), 0);
/** Kinds that the braid mends, not an offer. */
const OF_THE_MAP = new Set(['map', 'still', 'unpaired']);

/** Every measured fault over time, and the faults in words, worst first, with ways to mend them. */
export const TroublePane = memo(function TroublePane({
  report,
  clock,
  wish,
  previewing,
  onPointJoint,
  onPreview,
  onTake,
}: TroublePaneProps) {
  const [all, setAll] = useState(false);
  const told = useMemo(() => new Set(report?.lanes.filter((l) => worst(l) >= TOLD * l.limit)), [report]);
  if (!report) return <p className="px-4 py-2 text-muted">{texts.measuring}</p>;
  const quiet = report.lanes.length - told.size;
  const lanes = all ? report.lanes : [...told];
  return (
    <div className="px-4 pb-3">
      <ul className="mb-2 flex flex-col gap-0.5">
        {report.troubles.map((t) => (
          <TroubleRow
            key={t.text}
            trouble={t}
            wish={wish}
            previewing={previewing}
            onGo={() => {
              seek(clock, t.frame);
              onPointJoint(t.joint);
            }}
            onPreview={onPreview}
            onTake={onTake}
          />
        ))}
        {report.troubles.length === 0 && (
          <li className="flex items-center gap-2 px-1 py-0.5 text-[12.5px] text-muted">
            <CheckCircle2 size={14} className="text-verdigris" /> {texts.everythingMeasuredIsWithin}
          </li>
        )}
        {report.warnings.map((w) => (
          <li key={w} className="px-1 text-[12.5px] text-muted">
            {w}
          </li>
        ))}
      </ul>
      <TimeAxis clock={clock} frames={report.frames}>
        {lanes.map((lane) => (
          <FaultLane key={lane.name} lane={lane} />
        ))}
      </TimeAxis>
      {quiet > 0 && (
        <button
          type="button"
          className="mt-1 text-left text-[12px] text-muted hover:text-ink"
          aria-expanded={all}
          onClick={() => setAll(!all)}
        >
          {all ? texts.showOnlyLanesWith : texts.emptyLanesShowThem(quiet)}
        </button>
      )}
    </div>
  );
});

interface OfferProps {
  trouble: Trouble;
  wish: FitWish | undefined;
  previewing: string | null;
  onPreview: (offer: Offer | null) => void;
  onTake: (offer: Offer) => void;
}

function TroubleRow({ onGo, ...offers }: OfferProps & { onGo: () => void }) {
  const { trouble, onPreview } = offers;
  const [open, setOpen] = useState(false);
  return (
    <li className={clsx('rounded', open && 'border border-line bg-raised/50 p-1')}>
      <div className="flex items-start gap-2 rounded px-1 py-0.5 hover:bg-raised">
        <button type="button" className="flex min-w-0 flex-1 items-start gap-2 text-left text-[12.5px]" onClick={onGo}>
          <TriangleAlert size={14} className="mt-0.5 shrink-0 text-raspberry" aria-label={texts.trouble} />
          <span className="min-w-0 flex-1">{trouble.text}</span>
          {trouble.frame > 0 && <span className="shrink-0 text-muted">{texts.frame(trouble.frame + 1)}</span>}
        </button>
        {!OF_THE_MAP.has(trouble.kind) && (
          <button
            type="button"
            aria-expanded={open}
            aria-label={texts.mend(trouble.text)}
            className="flex shrink-0 items-center gap-1 text-[12.5px] text-brass-text hover:underline"
            onClick={() => {
              if (open) onPreview(null);
              setOpen(!open);
            }}
          >
            <Wand2 size={12} /> {texts.mend2}
          </button>
        )}
      </div>
      {open && <Offers {...offers} />}
    </li>
  );
}

function Offers({ trouble, wish, previewing, onPreview, onTake }: OfferProps) {
  const offers = useQuery({
    queryKey: ['offers', wishKey(wish), trouble],
    queryFn: () => solver().offers(wish!, trouble),
    enabled: wish !== undefined,
    gcTime: 10_000,
    retry: false,
  });
  return (
    <ul className="mt-1 flex flex-col gap-1 pl-6">
      {offers.isFetching && <li className="text-[12px] text-muted">{texts.trying}</li>}
      {offers.error && <li className="text-[12px] text-raspberry">{offers.error.message}</li>}
      {!offers.isFetching && offers.data?.length === 0 && (
        <li className="text-[12px] text-muted">{texts.nothingTriedImprovesThis}</li>
      )}
      {!offers.isFetching &&
        offers.data?.map((o) => (
          <li key={o.id} className="flex items-center gap-2 text-[12.5px]">
            <span className="min-w-0 flex-1">
              {o.label}
              <span className="block text-[12px] text-muted">
                {texts.toScore(o.before.toFixed(1), o.after.toFixed(1), o.unit, o.score)}
                {o.troubles === 1 ? texts.n1Trouble : texts.troubles(o.troubles)}
              </span>
            </span>
            <Button
              size="tiny"
              aria-pressed={previewing === o.id}
              onClick={() => onPreview(previewing === o.id ? null : o)}
            >
              {previewing === o.id ? texts.back : texts.tryIt}
            </Button>
            <Button look="brass" size="tiny" onClick={() => onTake(o)}>
              {texts.take}
            </Button>
          </li>
        ))}
    </ul>
  );
}

const FaultLane = memo(function FaultLane({ lane }: { lane: LaneData }) {
  const { width, clock } = useAxis();
  const scrub = useScrub();
  const canvas = useRef<HTMLCanvasElement>(null);
  const theme = useThemeVersion();
  const most = useMemo(() => worst(lane), [lane]);
  useEffect(() => {
    void theme;
    const h = HEIGHT - 5;
    const ctx = canvas.current && width > 0 && fitCanvas(canvas.current, width, h);
    if (!ctx) return;
    const style = getComputedStyle(document.documentElement);
    const color = (name: string): string => style.getPropertyValue(name).trim();
    const cells = Math.min(lane.values.length, Math.floor(width / 5));
    for (let i = 0; i < cells; i++) {
      const from = Math.floor((i * lane.values.length) / cells);
      const to = Math.max(from + 1, Math.floor(((i + 1) * lane.values.length) / cells));
      let high = 0;
      for (let f = from; f < to; f++) high = Math.max(high, lane.values[f]!);
      const share = high / lane.limit;
      const x = (i * width) / cells;
      ctx.fillStyle = color('--raised');
      ctx.fillRect(x, 0, width / cells - 1, h);
      if (share < TOLD) continue;
      // height says how much as well as colour
      const tall = Math.min(1, 0.2 + 0.8 * share) * h;
      ctx.fillStyle = share > 1 ? color('--raspberry') : color('--brass');
      ctx.globalAlpha = share > 1 ? 1 : 0.35 + 0.5 * share;
      ctx.fillRect(x, h - tall, width / cells - 1, tall);
      ctx.globalAlpha = 1;
    }
  }, [lane, width, theme]);
  return (
    <Lane
      name={lane.name}
      height={HEIGHT}
      end={
        <span className={clsx(most > lane.limit && 'text-raspberry')}>
          {most.toFixed(1)} {lane.unit}
        </span>
      }
    >
      <canvas
        ref={canvas}
        {...scrub}
        aria-label={texts.atMostEnterGoes(lane.name, most.toFixed(1), lane.unit)}
        style={{ width, height: HEIGHT - 5 }}
        className="cursor-pointer"
        onKeyDown={(e) => (e.key === 'Enter' ? seek(clock, lane.values.indexOf(most)) : scrub.onKeyDown(e))}
      />
    </Lane>
  );
});
