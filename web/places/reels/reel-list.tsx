'use client';

import { Film, Plus, Trash2, Undo2 } from 'lucide-react';
import { useItem, usePerformer, useReels } from '@/client/queries';
import { useStrip } from '@/client/strips';
import type { RigAnswer } from '@/contract';
import { MiniStrip } from '@/stage/mini-strip';
import { Button, IconButton } from '@/ui/button';
import { Empty } from '@/ui/empty';
import { PlayList } from './play/play-list';
import { reelList as texts } from './texts';
import { useBinning } from './use-binning';

/** All reels there are, those worked on last first. */
export function ReelList({
  bin,
  mayChange,
  onOpen,
  onNew,
  onField,
  onLive,
  onBin,
  onPlay,
  onNewPlay,
}: {
  bin: boolean;
  mayChange: boolean;
  onOpen: (id: string) => void;
  onNew: () => void;
  onField: () => void;
  onLive: () => void;
  onBin: (bin: boolean) => void;
  onPlay: (id: string) => void;
  onNewPlay: () => void;
}) {
  const { data, error } = useReels(bin);
  const { rig } = usePerformer();
  const move = useBinning('reels');
  if (error) return <Empty title={texts.theReelsCouldNot}>{error.message}</Empty>;
  if (!data) return null;
  return (
    <div className="h-full overflow-y-auto p-5">
      <div className="mb-4 flex items-center gap-3">
        <h1 className="heading text-xl">{bin ? texts.reelsInTheBin : texts.reels}</h1>
        <span className="text-muted">{data.length}</span>
        <button type="button" className="text-muted hover:text-ink" onClick={() => onBin(!bin)}>
          {bin ? texts.backToTheReels : texts.bin}
        </button>
        {mayChange && !bin && (
          <>
            <Button className="ml-auto" onClick={onLive}>
              {texts.liveStage}
            </Button>
            <Button onClick={onField}>{texts.fieldOfPoses}</Button>
          </>
        )}
        {mayChange && !bin && (
          <Button look="brass" onClick={onNew}>
            <Plus size={14} className="mr-1 inline" /> {texts.newReel}
          </Button>
        )}
      </div>
      {data.length === 0 ? (
        <Empty
          title={bin ? texts.noReelsInThe : texts.noReelsYet}
          action={
            mayChange && !bin ? (
              <Button look="brass" onClick={onNew}>
                {texts.beginAReel}
              </Button>
            ) : undefined
          }
        >
          {bin ? texts.aReelInThe : texts.onAReelItems}
        </Empty>
      ) : (
        <ul className="grid grid-cols-[repeat(auto-fill,minmax(300px,1fr))] gap-3">
          {data.map((reel) => (
            <li key={reel.id} className="relative">
              <button
                type="button"
                onClick={() => onOpen(reel.id)}
                className="flex w-full flex-col gap-1 overflow-hidden rounded-xl border border-line bg-panel p-3 text-left hover:border-brass"
              >
                <span className="heading truncate pr-8 text-[16px]">{reel.name}</span>
                <Picture itemId={reel.first} performer={rig} />
                <span className="text-muted">{reel.members.map((m) => m.name).join(', ') || texts.nobodyOnItYet}</span>
                <span className="text-[12px] text-muted">
                  {(reel.frames / reel.fps).toFixed(1)} s · {reel.items} {reel.items === 1 ? texts.item : texts.items}
                  {reel.changedByName &&
                    ` · ${reel.changedByName}, ${new Date(reel.changedAt).toLocaleDateString('en')}`}
                </span>
              </button>
              {mayChange && (
                <span className="absolute top-2 right-2">
                  <IconButton
                    label={bin ? texts.bringBack(reel.name) : texts.moveToTheBin(reel.name)}
                    onClick={() => void move(reel, !bin)}
                    quiet
                  >
                    {bin ? <Undo2 size={14} /> : <Trash2 size={14} />}
                  </IconButton>
                </span>
              )}
            </li>
          ))}
        </ul>
      )}
      <PlayList bin={bin} mayChange={mayChange} onOpen={onPlay} onNew={onNewPlay} />
    </div>
  );
}

function Picture({ itemId, performer }: { itemId: string | null; performer: RigAnswer | undefined }) {
  const { data: item } = useItem(itemId);
  return (
    <span className="relative block h-[84px] rounded-md bg-velvet">
      {item && performer ? (
        <Drawn readingId={item.readingId} performer={performer} />
      ) : (
        <Film size={20} className="absolute inset-0 m-auto text-line" aria-hidden="true" />
      )}
    </span>
  );
}

function Drawn({ readingId, performer }: { readingId: string; performer: RigAnswer }) {
  const strip = useStrip(readingId);
  return strip ? (
    <MiniStrip strip={strip} performer={performer} width={272} height={80} from={0} to={1} laps={1} />
  ) : null;
}
