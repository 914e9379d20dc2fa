'use client';

import { jointOf, type Shot } from '@velvet-reel/motion';
import { memo, type RefObject, useEffect, useMemo } from 'react';
import type { CastMember, RigAnswer } from '@/contract';
import { type Held, heldName } from '@/parts/held';
import type { ReelPerformance } from '@/solver/solve-reel';
import type { Clock } from '@/stage/clock';
import type { StageHandle } from '@/stage/contract';
import { useFigure } from '@/stage/figures';
import { Ghosts } from '@/stage/ghosts';
import { HandleGizmo, type Pull } from '@/stage/handle-gizmo';
import { Performance } from '@/stage/performance';
import { rigView } from '@/stage/rig-view';
import { AHEAD, Stage } from '@/stage/stage';
import { reelStage as texts } from './texts';

export interface OnStage {
  readonly id: string;
  readonly cast: CastMember;
  readonly rig: RigAnswer;
  readonly done: ReelPerformance;
  readonly chosen: boolean;
}

interface ReelStageProps {
  clock: Clock;
  members: readonly OnStage[];
  ghosts: boolean;
  held: Held | null;
  mode: 'move' | 'turn';
  handle: RefObject<StageHandle | null>;
  /** Looked through at a camera of the reel. */
  shot: ((frame: number) => Shot | undefined) | undefined;
  onPullStart: () => void;
  onPull: (pull: Pull) => void;
}

const NOTHING = (): void => undefined;

/** All members of a reel where they are in the world, each doing what its lanes say. */
export const ReelStage = memo(function ReelStage({ clock, members, handle, shot, ...rest }: ReelStageProps) {
  const tall = Math.max(0.5, ...members.map((m) => m.rig.heightM));
  const paper = members.length > 0 && members.every((m) => m.rig.rig.kind === 'cutout');
  return (
    <Stage
      clock={clock}
      height={tall}
      width={tall * (1 + 0.45 * Math.max(0, members.length - 1))}
      label={texts.stage(members.map((m) => m.cast.name).join(', '))}
      handle={handle}
      shot={shot}
      from={paper ? AHEAD : undefined}
    >
      {members.map((m, i) => (
        <Acting key={`${m.id} ${m.rig.id}`} of={m} listed={i} clock={clock} {...rest} />
      ))}
    </Stage>
  );
});

interface ActingProps extends Omit<ReelStageProps, 'members' | 'handle' | 'shot'> {
  of: OnStage;
  listed: number;
}

function Acting({
  of: { cast, rig, done, chosen },
  listed,
  clock,
  ghosts,
  held,
  mode,
  onPullStart,
  onPull,
}: ActingProps) {
  const view = rigView(rig);
  const figure = useFigure(view, cast.assets);
  const { motion } = done;
  const fits = motion.turns.length === 4 * view.rig.names.length * motion.frameCount ? motion : undefined;
  useEffect(() => {
    if (fits) return clock.play(fits);
  }, [fits, clock]);
  const hips = Math.max(0, jointOf(view.map, 'hips'));
  const joint = useMemo(() => {
    if (!held || !chosen) return -1;
    return 'joint' in held ? view.rig.names.indexOf(held.joint) : jointOf(view.map, held.handle);
  }, [held, chosen, view]);
  if (!figure || !fits) return null;
  return (
    <>
      <Performance
        clock={clock}
        figure={figure}
        motion={fits}
        hips={hips}
        listed={listed}
        // who is worked on stays in view, wherever the others go
        followAt={chosen ? view.stands : undefined}
      >
        {ghosts && chosen && <Ghosts clock={clock} view={view} motion={fits} />}
      </Performance>
      {held && joint >= 0 && (
        <HandleGizmo
          key={joint}
          figure={figure}
          joint={joint}
          name={heldName(held)}
          mode={'joint' in held ? 'turn' : mode}
          onStart={onPullStart}
          onPull={onPull}
          onEnd={NOTHING}
        />
      )}
    </>
  );
}
