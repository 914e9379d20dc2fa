'use client';

import Link from 'next/link';
import { useState } from 'react';
import type { CastMember, Offer, RigAnswer } from '@/contract';
import { many } from '@/naming/counts';
import { Clock } from '@/stage/clock';
import { SoloStage } from '@/stage/solo-stage';
import { Transport } from '@/stage/transport';
import { Button } from '@/ui/button';
import { Chip } from '@/ui/chip';
import { usePreview } from './use-supplier';

interface OfferStageProps {
  offer: Offer | undefined;
  member: CastMember | undefined;
  rig: RigAnswer | undefined;
  linked: boolean;
  mayBuy: boolean;
  mayFetch: boolean;
  onBuy: (offer: Offer) => void;
  onTake: (offer: Offer) => void;
  onTakeOwned: () => void;
}

/** An offered take on the performer on hand, what it is, and what can be done with it. */
export function OfferStage(props: OfferStageProps) {
  const { offer, member, rig } = props;
  const [clock] = useState(() => new Clock());
  const preview = usePreview(offer?.id, rig);
  return (
    <aside aria-label="The chosen take" className="flex w-[400px] shrink-0 flex-col border-line border-l">
      <div className="relative min-h-0 flex-1">
        {offer && rig ? (
          <SoloStage
            clock={clock}
            member={member}
            rig={rig}
            motion={preview.data}
            label={`${offer.name} on ${member?.name ?? 'the performer'}`}
          />
        ) : (
          <p className="stage-back flex h-full items-center justify-center p-8 text-center text-muted">
            {rig
              ? 'Choose a take to see its beginning on your performer before you pay for it.'
              : 'Put a cast member on hand to see takes on it before you pay for them.'}
          </p>
        )}
        {preview.isLoading && <p className="absolute inset-x-0 bottom-3 text-center text-muted">Fetching …</p>}
        {preview.error && (
          <p role="alert" className="absolute inset-x-0 bottom-3 px-4 text-center text-raspberry">
            {preview.error.message}{' '}
            <button type="button" className="underline" onClick={() => void preview.refetch()}>
              Try again
            </button>
          </p>
        )}
      </div>
      {offer && (
        <div className="flex flex-col gap-2 border-line border-t p-3">
          <Transport clock={clock} disabled={!preview.data} />
          <h2 className="heading">{offer.name}</h2>
          <p className="text-muted">{offer.note}</p>
          <p className="flex flex-wrap gap-1.5">
            {offer.tags.map((t) => (
              <Chip key={t}>{t}</Chip>
            ))}
          </p>
          <p className="text-[12.5px] text-muted tabular-nums">
            {offer.seconds.toFixed(1)} s at {offer.fps} frames a second, issue {offer.issue}. Shown: the first three
            seconds, coarsely.
          </p>
          <Deed {...props} offer={offer} />
        </div>
      )}
    </aside>
  );
}

function Deed({ offer, linked, mayBuy, mayFetch, onBuy, onTake, onTakeOwned }: OfferStageProps & { offer: Offer }) {
  if (offer.onTheWay) return <p role="status">On its way into the library …</p>;
  if (offer.item)
    return (
      <p>
        In the library as{' '}
        <Link href={`/library?item=${offer.item.id}`} className="text-brass-text hover:underline">
          {offer.item.name}
        </Link>
        {offer.item.binned && ', in the bin'}
        {offer.item.issue < offer.issue && `, in issue ${offer.item.issue}: see New issues`}.
      </p>
    );
  if (!linked) return <p className="text-muted">{many(offer.price, 'credit')}. Link an account to buy it.</p>;
  if (offer.owned)
    return (
      <Button look="brass" disabled={!mayFetch} onClick={() => (mayBuy ? onTake(offer) : onTakeOwned())}>
        {mayBuy ? 'Take it in' : 'Take in all that is owned'}
      </Button>
    );
  return mayBuy ? (
    <Button look="brass" onClick={() => onBuy(offer)}>
      Buy for {many(offer.price, 'credit')}
    </Button>
  ) : (
    <p className="text-muted">{many(offer.price, 'credit')}. A librarian can buy it.</p>
  );
}
