'use client';

import { useQuery } from '@tanstack/react-query';
import Link from 'next/link';
import { API, getJson } from '@/client/api';
import type { Item, Uses } from '@/contract';
import { SequenceLine } from './sequence-line';
import { usesLine as texts } from './texts';

const link = 'text-brass-text underline decoration-line underline-offset-3 hover:decoration-brass';
const SHOWN = 6;

export function useUses(itemId: string | undefined): Uses | undefined {
  return useQuery({
    queryKey: ['uses', itemId],
    queryFn: () => getJson<Uses>(`${API}/items/${itemId}/uses`),
    enabled: itemId !== undefined,
    staleTime: 10_000,
  }).data;
}

/** Where the item came from, what was made from it, the sequence it stands in, and the packs that hold it. */
export function UsesLine({
  item,
  closed = false,
  playingOn = false,
  onShow,
  onOpenPack,
  onPlayOn = () => undefined,
}: {
  item: Item;
  closed?: boolean;
  playingOn?: boolean;
  onShow: (id: string) => void;
  onOpenPack: (id: string) => void;
  onPlayOn?: () => void;
}) {
  const data = useUses(item.id);
  if (!data) return null;
  return (
    <div className="flex flex-col gap-0.5 px-1 text-[12px] empty:hidden">
      <SequenceLine
        item={item}
        next={data.next}
        before={data.before}
        closed={closed}
        playingOn={playingOn}
        onShow={onShow}
        onPlayOn={onPlayOn}
      />
      {data.from && (
        <p className="truncate">
          <span className="text-muted">{texts.madeFrom} </span>
          <button type="button" className={link} onClick={() => onShow(data.from!.id)}>
            {data.from.name}
          </button>
        </p>
      )}
      {data.made.length > 0 && (
        <p>
          <span className="text-muted">{texts.madeFromIt} </span>
          {data.made.slice(0, SHOWN).map((m, i) => (
            <span key={m.id}>
              {i > 0 && ', '}
              <button type="button" className={link} onClick={() => onShow(m.id)}>
                {m.name}
              </button>
            </span>
          ))}
          {data.made.length > SHOWN && <span className="text-muted">{texts.andMore(data.made.length - SHOWN)}</span>}
        </p>
      )}
      {data.variants.length > 0 && (
        <p className="truncate">
          <span className="text-muted">{texts.variants} </span>
          {data.variants.slice(0, SHOWN).map((v) => (
            <button key={v.id} type="button" className={`${link} mr-2`} onClick={() => onShow(v.id)}>
              {v.name}
            </button>
          ))}
        </p>
      )}
      {data.reels.length > 0 && (
        <p className="truncate">
          <span className="text-muted">{texts.onTheReels(data.reels.length)}</span>
          {data.reels.map((r) => (
            <Link key={r.id} href={`/reels?reel=${r.id}`} className={`${link} mr-2`}>
              {r.name}
            </Link>
          ))}
        </p>
      )}
      {data.plays.length > 0 && (
        <p className="truncate">
          <span className="text-muted">{texts.inThePlayThroughs(data.plays.length)}</span>
          {data.plays.map((r) => (
            <Link key={r.id} href={`/reels?play=${r.id}`} className={`${link} mr-2`}>
              {r.name}
            </Link>
          ))}
        </p>
      )}
      {data.packs.length > 0 && (
        <p className="truncate">
          <span className="text-muted">{texts.inIt} </span>
          {data.packs.map((p) => (
            <button key={p.id} type="button" className={`${link} mr-2`} onClick={() => onOpenPack(p.id)}>
              {p.name}
            </button>
          ))}
        </p>
      )}
    </div>
  );
}
