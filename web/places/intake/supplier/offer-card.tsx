'use client';

import { clsx } from 'clsx';
import { useState } from 'react';
import { API } from '@/client/api';
import type { Offer } from '@/contract';
import { many } from '@/naming/counts';
import { Chip } from '@/ui/chip';
import { offerCard as texts } from '../texts';

/** What became of an offered take, in a word or two. */
export function standing({ owned, onTheWay, item, issue, price }: Offer): string {
  if (onTheWay) return texts.onItsWay;
  if (item) return item.issue < issue ? texts.newIssue : item.binned ? texts.inTheBin : texts.inTheLibrary;
  return owned ? 'owned' : many(price, 'credit');
}

/** One take of the catalogue: its strip, its name and where it stands. */
export function OfferCard({ offer, chosen, onChoose }: { offer: Offer; chosen: boolean; onChoose: () => void }) {
  const here = offer.owned || offer.item !== null;
  const [strip, setStrip] = useState<'waited for' | 'shown' | 'not to be had'>('waited for');
  return (
    <button
      type="button"
      aria-pressed={chosen}
      onClick={onChoose}
      className={clsx(
        'flex w-full flex-col gap-1 overflow-hidden rounded-lg border bg-panel p-2 text-left',
        chosen ? 'border-brass' : 'border-line hover:border-muted',
      )}
    >
      <span className="relative block h-16 w-full rounded bg-velvet">
        {/* biome-ignore lint/performance/noImgElement: a picture that this server hands on */}
        <img
          src={`${API}/supplier/takes/${offer.id}/strip`}
          alt=""
          loading="lazy"
          className={clsx('size-full object-contain', strip !== 'shown' && 'opacity-0')}
          onLoad={() => setStrip('shown')}
          onError={() => setStrip('not to be had')}
        />
        {strip === 'waited for' && <span className="absolute inset-0 animate-pulse rounded bg-raised/60" />}
        {strip === 'not to be had' && (
          <span className="absolute inset-0 grid place-items-center text-[12px] text-muted">
            {texts.noStripAvailable}
          </span>
        )}
      </span>
      <span className="truncate font-medium" title={offer.name}>
        {offer.name}
      </span>
      <span className="flex items-center gap-2 text-[12px] text-muted">
        <span className="whitespace-nowrap tabular-nums">{offer.seconds.toFixed(1)} s</span>
        <span className="truncate">{offer.tags.slice(0, 3).join(', ')}</span>
        <span className="ml-auto">
          <Chip tone={here ? 'brass' : 'plain'}>{standing(offer)}</Chip>
        </span>
      </span>
    </button>
  );
}
