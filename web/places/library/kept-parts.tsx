'use client';

import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { type KeptKind, REGIONS, type Region } from '@velvet-reel/motion';
import { solver } from '@/client/solver';
import type { Item, RigAnswer } from '@/contract';
import { inputLook, type Option, Select } from '@/ui/field';
import type { ChangeWish } from '@/wishes/wishes';
import { keptParts as texts } from './texts';

interface KeptPartsProps {
  item: Item;
  source: RigAnswer | undefined;
  wish: ChangeWish;
  onKeep: (kept: Partial<Pick<ChangeWish, 'regions' | 'joints' | 'what'>>) => void;
}

const WHAT: readonly Option<KeptKind>[] = [
  { value: 'all', label: texts.movementAndDrawings },
  { value: 'movement', label: texts.movementAlone },
  { value: 'drawings', label: texts.drawingsAlone },
];

/** Which parts of the body are kept, how many joints that is, what moves and is left out, and whether the ends meet. */
export function KeptParts({ item, source, wish, onKeep }: KeptPartsProps) {
  const { data } = useQuery({
    queryKey: [
      'kept',
      item.motionHash,
      source?.id,
      source?.mapVersion,
      wish.regions,
      wish.joints,
      wish.trim,
      wish.what,
    ],
    queryFn: () => solver().kept(item.motionHash, source!, wish.regions, wish.joints, wish.trim, wish.what),
    enabled: Boolean(source),
    // what was told last stays until the next is told
    placeholderData: keepPreviousData,
    staleTime: Number.POSITIVE_INFINITY,
    retry: false,
  });
  const all = wish.regions.length + wish.joints.length === 0;
  const there = new Set(source?.rig.joints.map((j) => j.name));
  const toggle = (region: Region): void => {
    const now = all ? REGIONS.filter((r) => data?.there.includes(r)) : wish.regions;
    const next = now.includes(region) ? now.filter((r) => r !== region) : [...now, region];
    onKeep({ regions: next.length === (data?.there.length ?? 0) ? [] : next });
  };
  return (
    <fieldset className="mb-1">
      <legend className="text-muted">{texts.partsKept}</legend>
      <div className="flex flex-wrap gap-1 py-1">
        {REGIONS.filter((r) => data?.there.includes(r)).map((r) => {
          const on = all || wish.regions.includes(r);
          return (
            <button
              key={r}
              type="button"
              aria-pressed={on}
              onClick={() => toggle(r)}
              className={`rounded-full border px-2 py-px text-[12px] hover:border-brass ${on ? 'border-brass text-brass-text' : 'border-line text-muted line-through'}`}
            >
              {r}
            </button>
          );
        })}
      </div>
      {source && (
        <details open={wish.joints.length > 0}>
          <summary className="cursor-pointer text-[12px] text-muted hover:text-ink">
            {wish.joints.length > 0
              ? wish.joints.length === 1
                ? texts.andASingleJoint
                : texts.andSingleJoints(wish.joints.length)
              : texts.singleJoints}
          </summary>
          <div className="flex flex-wrap gap-1 py-1">
            {source.sets.map((s) => (
              <button
                key={s.name}
                type="button"
                onClick={() =>
                  onKeep({ joints: [...new Set([...wish.joints, ...s.joints.filter((j) => there.has(j))])] })
                }
                className="rounded-full border border-line px-2 py-px text-[12px] text-muted hover:border-brass hover:text-ink"
              >
                + {s.name}
              </button>
            ))}
            {wish.joints.length > 0 && (
              <button
                type="button"
                onClick={() => onKeep({ joints: [] })}
                className="px-1 text-[12px] text-muted underline hover:text-ink"
              >
                {texts.none}
              </button>
            )}
          </div>
          <select
            multiple
            aria-label={texts.singleJointsThatAre}
            className={`${inputLook} h-24 w-full`}
            value={wish.joints}
            onChange={(e) => onKeep({ joints: [...e.currentTarget.selectedOptions].map((o) => o.value) })}
          >
            {source.rig.joints.map((j) => (
              <option key={j.name} value={j.name}>
                {j.name}
              </option>
            ))}
          </select>
        </details>
      )}
      {data?.drawn && source?.rig.kind === 'cutout' && (
        <div className="flex min-h-7 items-center justify-between gap-3 py-1">
          <span className="text-muted">{texts.ofThese}</span>
          <Select label={texts.whatIsKeptOf} value={wish.what} options={WHAT} onChange={(what) => onKeep({ what })} />
        </div>
      )}
      {data && (
        <p className="text-[12px] text-muted">
          {texts.ofJoint(data.joints, data.allJoints)}
          {data.leftOut.length > 0 && (
            <span className="text-raspberry">
              {texts.leftOutThoughTheyMove(data.leftOut.slice(0, 4).join(', '))}
              {data.leftOut.length > 4 && texts.andMore(data.leftOut.length - 4)}
            </span>
          )}
          {data.leftOutDrawings.length > 0 && (
            <span className="text-raspberry">
              {texts.drawingsLeftOutThoughThey(data.leftOutDrawings.slice(0, 4).join(', '))}
              {data.leftOutDrawings.length > 4 && texts.andMore(data.leftOutDrawings.length - 4)}
            </span>
          )}
          {data.endsDeg !== null && data.endsDeg > 12 && (
            <span className="text-brass-text">{texts.theLastFrameIsFrom(data.endsDeg.toFixed(0))}</span>
          )}
        </p>
      )}
    </fieldset>
  );
}
