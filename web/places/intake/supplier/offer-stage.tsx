'use client';

import Link from 'next/link';
import { useState } from 'react';
import type { CastMember, Offer, RigAnswer } from '@/contract';
import { Clock } from '@/stage/clock';
import { SoloStage } from '@/stage/solo-stage';
import { Transport } from '@/stage/transport';
import { Button } from '@/ui/button';
import { Chip } from '@/ui/chip';
import { offerStage as texts } from '../texts';
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
    <aside aria-label={texts.theChosenTake} className="flex w-[400px] shrink-0 flex-col border-line border-l">
      <div className="relative min-h-0 flex-1">
        {offer && rig ? (
          <SoloStage
            clock={clock}
            member={member}
            rig={rig}
            motion={preview.data}
            label={texts.onPerformer(offer.name, member?.name)}
          />
        ) : (
          <p className="stage-back flex h-full items-center justify-center p-8 text-center text-muted">
            {rig ? texts.chooseATakeTo : texts.putACastMember}
          </p>
        )}
        {preview.isLoading && <p className="absolute inset-x-0 bottom-3 text-center text-muted">{texts.fetching}</p>}
        {preview.error && (
          <p role="alert" className="absolute inset-x-0 bottom-3 px-4 text-center text-raspberry">
            {preview.error.message}{' '}
            <button type="button" className="underline" onClick={() => void preview.refetch()}>
              {texts.tryAgain}
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
            {texts.sAtFramesA(offer.seconds.toFixed(1), offer.fps, offer.issue)}
          </p>
          <Deed {...props} offer={offer} />
        </div>
      )}
    </aside>
  );
}

function Deed({ offer, linked, mayBuy, mayFetch, onBuy, onTake, onTakeOwned }: OfferStageProps & { offer: Offer }) {
  if (offer.onTheWay) return <p role="status">{texts.onItsWayInto}</p>;
  if (offer.item)
    return (
      <p>
        {texts.inTheLibraryAs}{' '}
        <Link href={`/library?item=${offer.item.id}`} className="text-brass-text hover:underline">
          {offer.item.name}
        </Link>
        {offer.item.binned && texts.inTheBin}
        {offer.item.issue < offer.issue && texts.inIssueSeeNew(offer.item.issue)}.
      </p>
    );
  if (!linked) return <p className="text-muted">{texts.creditLinkAnAccount(offer.price)}</p>;
  if (offer.owned)
    return (
      <Button look="brass" disabled={!mayFetch} onClick={() => (mayBuy ? onTake(offer) : onTakeOwned())}>
        {mayBuy ? texts.takeItIn : texts.takeInAllThat}
      </Button>
    );
  return mayBuy ? (
    <Button look="brass" onClick={() => onBuy(offer)}>
      {texts.buyForCredit(offer.price)}
    </Button>
  ) : (
    <p className="text-muted">{texts.creditALibrarianCan(offer.price)}</p>
  );
}
