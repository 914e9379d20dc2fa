'use client';

import { OthersHere } from '@/parts/others-here';
import { Button } from '@/ui/button';
import { Empty } from '@/ui/empty';
import { Awaited } from '../awaited';
import { ReelHead } from '../reel-head';
import { ReelStage } from '../reel-stage';
import { reelDesk as texts } from '../texts';
import type { Desk } from './use-desk';

/** Everybody on the reel, moving, and what stands over the stage. */
export function StagePanel({
  desk,
  onAll,
  onField,
  onLive,
}: {
  desk: Desk;
  onAll: () => void;
  onField: () => void;
  onLive: () => void;
}) {
  const {
    id,
    mayChange,
    document,
    reel,
    members,
    clock,
    stage,
    data,
    side,
    ghosts,
    held,
    mode,
    setThrough,
    camera,
    shot,
    set,
    onAddMember,
    onPullStart,
    onPull,
    shown,
  } = desk;
  const problems = [...data.errors.values()];
  const awaited = reel.members
    .filter((m) => !m.muted && !data.done.has(m.id) && !data.errors.has(m.id))
    .flatMap((m) => members.find((c) => c.id === m.castId)?.name ?? []);
  return (
    <section aria-label={texts.stage} className="relative h-full min-w-0">
      <ReelStage
        clock={clock}
        members={shown}
        ghosts={ghosts}
        held={side === 'hand' && mayChange ? held : null}
        mode={mode}
        handle={stage}
        shot={shot}
        onPullStart={onPullStart}
        onPull={onPull}
      />
      <ReelHead
        document={document}
        mayChange={mayChange}
        onAll={onAll}
        onField={onField}
        onLive={onLive}
        onName={(name) => set({ ...reel, name }, texts.namedTheReel(name))}
      />
      <OthersHere subjectId={id} className="absolute top-10 left-3.5" />
      {camera && (
        <p className="absolute right-3 bottom-2 flex items-center gap-2 rounded-md bg-velvet/80 px-2 py-0.5 text-[12.5px]">
          {texts.lookingThrough(camera.name)}
          <button type="button" className="text-brass-text hover:underline" onClick={() => setThrough(null)}>
            {texts.leave}
          </button>
        </p>
      )}
      <Awaited names={awaited} />
      {problems.length > 0 && (
        <p
          role="alert"
          className="absolute bottom-2 left-3.5 max-w-md rounded-md border border-raspberry bg-panel px-2 py-1"
        >
          {problems[0]}
        </p>
      )}
      {reel.members.length === 0 && (
        <div className="absolute inset-0">
          <Empty
            title={texts.nobodyIsOnThis}
            action={
              mayChange ? (
                <Button look="brass" onClick={onAddMember}>
                  {texts.addACastMember}
                </Button>
              ) : undefined
            }
          >
            {texts.addACastMemberThen}
          </Empty>
        </div>
      )}
    </section>
  );
}
