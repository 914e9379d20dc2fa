'use client';

import { Button } from '@/ui/button';
import { Empty } from '@/ui/empty';
import { Edge, Panel, Panels } from '@/ui/panels';
import { BakeDialog } from './bake-dialog';
import { LanesPanel } from './desk/lanes-panel';
import { SidePanel } from './desk/side-panel';
import { StagePanel } from './desk/stage-panel';
import { useDesk } from './desk/use-desk';
import { useDeskKeys } from './desk/use-desk-keys';
import { LayPending } from './lay-pending';
import { reelDesk as texts } from './texts';

interface ReelDeskProps {
  id: string;
  onAll: () => void;
  onField: () => void;
  onLive: () => void;
}

/** One reel: its stage, its lanes, and what is chosen on them. */
export function ReelDesk({ id, onAll, onField, onLive }: ReelDeskProps) {
  const desk = useDesk(id);
  useDeskKeys(desk);
  const {
    document,
    reel,
    members,
    clock,
    range,
    baking,
    setBaking,
    member,
    who,
    nameOf,
    pending,
    setPending,
    layItem,
  } = desk;
  if (!document.loaded)
    return document.trouble ? (
      <Empty title={texts.thisReelCouldNot} action={<Button onClick={onAll}>{texts.allReels}</Button>}>
        {document.trouble}
      </Empty>
    ) : (
      <div className="stage-back h-full" />
    );
  return (
    <div className="flex h-full">
      {pending && (
        <LayPending
          key={`${pending.itemId} ${pending.frame}`}
          itemId={pending.itemId}
          onItem={(item) => {
            layItem(item, pending.memberId, pending.frame, pending.over);
            setPending(null);
          }}
        />
      )}
      <Panels id="reel" upright className="min-w-0 flex-1">
        <Panel id="stage" defaultSize="52" minSize={180}>
          <StagePanel desk={desk} onAll={onAll} onField={onField} onLive={onLive} />
        </Panel>
        <Edge label={texts.betweenStageAndLanes} upright />
        <Panel id="lanes" minSize={160}>
          <LanesPanel desk={desk} />
        </Panel>
      </Panels>
      <SidePanel desk={desk} />
      {baking && member && (
        <BakeDialog
          reelId={id}
          reel={reel}
          memberId={member.id}
          who={who?.name ?? texts.aCharacter}
          range={range}
          others={reel.members
            .filter((m) => m.id !== member.id && !m.muted && m.base.length > 0)
            .map((m) => members.find((c) => c.id === m.castId)?.name ?? 'somebody')}
          onShow={(frame) => {
            clock.setPlaying(false);
            clock.seekFrame(frame);
          }}
          muted={[...member.base, ...member.overlays].filter((s) => s.muted).map((s) => nameOf(s))}
          onClose={() => setBaking(false)}
        />
      )}
    </div>
  );
}
