'use client';

import { parseAsBoolean, parseAsString, useQueryStates } from 'nuqs';
import { useEffect, useState } from 'react';
import { toast } from 'sonner';
import { API, sendJson } from '@/client/api';
import { useReels, useRefresh } from '@/client/queries';
import { useMay, useMe } from '@/client/session';
import { Empty } from '@/ui/empty';
import { FieldPage } from './field/field-page';
import { LivePage } from './live/live-page';
import { PlayPage } from './play/play-page';
import { ReelDesk } from './reel-desk';
import { ReelList } from './reel-list';
import { reelsPlace as texts } from './texts';

/** Reels: the one worked on last, another one by its address, or all of them. */
export function ReelsPlace() {
  const me = useMe();
  const mayChange = useMay('animator');
  const [view, setView] = useQueryStates(
    {
      reel: parseAsString,
      all: parseAsBoolean.withDefault(false),
      bin: parseAsBoolean.withDefault(false),
      field: parseAsBoolean.withDefault(false),
      live: parseAsBoolean.withDefault(false),
      play: parseAsString,
    },
    { history: 'push' },
  );
  const reels = useReels();
  const refresh = useRefresh();
  const [asked, setAsked] = useState(false);
  const last = reels.data?.[0]?.id ?? null;
  useEffect(() => {
    // whoever comes without naming one goes on with what was worked on last
    if (!view.reel && !view.field && !view.live && !view.play && !view.all && !view.bin && last && !asked)
      void setView({ reel: last }, { history: 'replace' });
    if (last) setAsked(true);
  }, [view, last, asked, setView]);
  const begin = async (): Promise<void> => {
    try {
      const castId = me.performerId;
      const { id } = await sendJson<{ id: string }>('POST', `${API}/reels`, {
        name: texts.reelOf(new Date().toLocaleDateString('en', { day: 'numeric', month: 'long' })),
        ...(castId && {
          members: [{ id: 'first', castId, order: 1, muted: false, base: [], overlays: [], keys: [] }],
        }),
      });
      refresh();
      void setView({ reel: id, all: false, bin: false });
    } catch (e) {
      toast.error((e as Error).message);
    }
  };
  const beginPlay = async (): Promise<void> => {
    try {
      const name = texts.playThroughOf(new Date().toLocaleDateString('en', { day: 'numeric', month: 'long' }));
      const { id } = await sendJson<{ id: string }>('POST', `${API}/plays`, { name, castId: me.performerId });
      refresh();
      void setView({ play: id, all: false, bin: false });
    } catch (e) {
      toast.error((e as Error).message);
    }
  };
  if (view.play)
    return <PlayPage key={view.play} id={view.play} onClose={() => void setView({ play: null, all: true })} />;
  if (view.live) return <LivePage onClose={() => void setView({ live: null })} />;
  if (view.field)
    return (
      <FieldPage
        onClose={() => void setView({ field: null })}
        onReel={(id) => void setView({ field: null, reel: id })}
      />
    );
  if (view.reel && !view.bin)
    return (
      <ReelDesk
        key={view.reel}
        id={view.reel}
        onAll={() => void setView({ reel: null, all: true })}
        onField={() => void setView({ field: true })}
        onLive={() => void setView({ live: true })}
      />
    );
  if (!view.all && !view.bin && !reels.data && !reels.error) return <Empty title={texts.opening} />;
  return (
    <ReelList
      bin={view.bin}
      mayChange={mayChange}
      onOpen={(id) => void setView({ reel: id, all: false, bin: false })}
      onNew={() => void begin()}
      onField={() => void setView({ field: true })}
      onLive={() => void setView({ live: true })}
      onBin={(bin) => void setView({ bin, all: !bin, reel: null })}
      onPlay={(id) => void setView({ play: id, all: false, bin: false })}
      onNewPlay={() => void beginPlay()}
    />
  );
}
