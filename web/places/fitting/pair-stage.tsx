'use client';

import { jointOf } from '@velvet-reel/motion';
import { useEffect, useState } from 'react';
import type { CastMember, RigAnswer } from '@/client/types';
import type { Clock } from '@/stage/clock';
import { useBoneFigure, useMeshFigure } from '@/stage/figures';
import { rigView } from '@/stage/rig-view';
import { Performance, Stage } from '@/stage/stage';
import type { FitAnswer, Playable } from '@/workers/solve';

interface PairStageProps {
  clock: Clock;
  source: RigAnswer;
  target: RigAnswer;
  member: CastMember;
  answer: FitAnswer | undefined;
  over: boolean;
  lit: { source: number | undefined; target: number | undefined } | undefined;
}

const fitting = (motion: Playable | undefined, joints: number): Playable | undefined =>
  motion && motion.rotations.length === 4 * joints * motion.frameCount ? motion : undefined;

/** Source and target on one clock: the target in the world, the source kept abreast of it. */
export function PairStage({ clock, source, target, member, answer, over, lit }: PairStageProps) {
  const from = rigView(source);
  const to = rigView(target);
  const bones = useBoneFigure(from, over ? 'pale' : 'plain');
  const mesh = useMeshFigure(member.fileHash, to.rig.names.length);
  const targetBones = useBoneFigure(member.fileHash ? undefined : to);
  const figure = mesh ?? targetBones;
  const a = fitting(answer?.source, from.rig.names.length);
  const b = fitting(answer?.result, to.rig.names.length);
  const [root] = useState(() => ({ current: null as null | { x: number; y: number; z: number } }));
  useEffect(() => {
    if (b) clock.load(b.frameCount, b.fps);
  }, [b, clock]);
  const tall = Math.max(source.heightM, target.heightM);
  const gap = over ? 0 : 0.34 * (source.heightM + target.heightM) * 0.5 + 0.25;
  return (
    <>
      <Stage clock={clock} height={tall} width={tall * 0.7 + 2 * gap} label={`Source and ${member.name} side by side`}>
        {figure && b && (
          <Performance
            key={`t${member.id}`}
            clock={clock}
            figure={figure}
            motion={b}
            x={gap}
            hips={Math.max(0, jointOf(to.map, 'hips'))}
            leads
            lit={lit?.target}
            shares={root}
          />
        )}
        {bones && a && (
          <Performance
            key={`s${source.id}${over}`}
            clock={clock}
            figure={bones}
            motion={a}
            x={-gap}
            hips={Math.max(0, jointOf(from.map, 'hips'))}
            lit={lit?.source}
            abreast={root}
          />
        )}
      </Stage>
      <p className="absolute top-2.5 left-4 text-muted">
        Source · {source.heightM.toFixed(2)} m{over ? ' (pale bones)' : ', bones on the left'}
      </p>
      <p className="absolute top-2.5 left-1/2 text-muted">
        Target · {member.name}, {target.heightM.toFixed(2)} m
      </p>
    </>
  );
}
