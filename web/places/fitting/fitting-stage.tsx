'use client';

import { jointOf } from '@velvet-reel/motion';
import { memo, type RefObject, useEffect, useMemo, useState } from 'react';
import { toast } from 'sonner';
import { useCastRigs } from '@/client/queries';
import { solver } from '@/client/solver';
import { useNewest } from '@/client/use-newest';
import type { CastMember, RigAnswer } from '@/contract';
import { type Held, heldName } from '@/parts/held';
import type { FitAnswer, Playable } from '@/solver/solve';
import type { FitWish } from '@/solver/solve-fit';
import type { Clock } from '@/stage/clock';
import type { StageHandle } from '@/stage/contract';
import { useBoneFigure, useFigure, usePaperFigure } from '@/stage/figures';
import { Ghosts } from '@/stage/ghosts';
import { HandleGizmo, type Pull } from '@/stage/handle-gizmo';
import { JointPicker } from '@/stage/joint-picker';
import { Performance, type Spot } from '@/stage/performance';
import { type RigView, rigView } from '@/stage/rig-view';
import { AHEAD, Stage } from '@/stage/stage';
import { Trails } from '@/stage/trails';
import type { Picking } from './braid';
import type { StageView } from './stage-tools';
import { fittingStage as texts } from './texts';

interface FittingStageProps {
  clock: Clock;
  source: RigAnswer;
  target: RigAnswer;
  member: CastMember;
  /** Further characters that the same source is shown on. */
  also: readonly CastMember[];
  answer: FitAnswer | undefined;
  wish: FitWish | undefined;
  view: StageView;
  lit: { source: number | undefined; target: number | undefined } | undefined;
  picking: Picking | null;
  held: Held | null;
  mode: 'move' | 'turn';
  handle: RefObject<StageHandle | null>;
  onPointJoint: (side: 'source' | 'target', joint: string | null) => void;
  onPick: (joint: string) => void;
  onStopPicking: () => void;
  onPullStart: () => void;
  onPull: (pull: Pull) => void;
  onPullEnd: () => void;
}

const matching = (motion: Playable | undefined, joints: number): Playable | undefined =>
  motion && motion.turns.length === 4 * joints * motion.frameCount ? motion : undefined;

/** The joint at which source and target are laid together. */
function meetingJoint(view: RigView, align: StageView['align']): number | undefined {
  const slot = align === 'left foot' ? 'footL' : align === 'right foot' ? 'footR' : 'hips';
  const joint = jointOf(view.map, slot);
  return joint >= 0 ? joint : undefined;
}

/** Source and target on one clock: the target in the world, the source kept abreast of it where wanted. */
export const FittingStage = memo(function FittingStage(p: FittingStageProps) {
  const { clock, source, target, member, also, answer, view, lit, picking, held, handle } = p;
  const from = rigView(source);
  const to = rigView(target);
  // one paper figure beside another is shown as it is drawn, whatever stands in space as bones
  const drawn = usePaperFigure(from, to.cutout && view.body === 'mesh' ? source.art : undefined);
  const skeleton = useBoneFigure(drawn ? undefined : from, view.over ? 'pale' : 'plain');
  const bones = drawn ?? skeleton;
  useEffect(() => drawn?.fade(view.over ? 0.45 : 1), [drawn, view.over]);
  const figure = useFigure(to, member.assets, view.body === 'bones');
  const a = matching(answer?.source, from.rig.names.length);
  const b = matching(answer?.result, to.rig.names.length);
  const [root] = useState<Spot>(() => ({ current: null }));
  useEffect(() => {
    if (b) return clock.play(b);
  }, [b, clock]);
  const tall = Math.max(source.heightM, target.heightM, ...also.map((c) => c.heightM));
  const step = 0.34 * (source.heightM + target.heightM) * 0.5 + 0.25;
  const alone = view.show !== 'both';
  // all in one row around the middle: the source, the target, and whoever else
  const row = (view.over ? 1 : 2) + also.length;
  const at = (i: number): number => (i - (row - 1) / 2) * 2 * step;
  const targetX = alone && also.length === 0 ? 0 : at(view.over ? 0 : 1);
  const sourceX = alone && also.length === 0 ? 0 : at(0);
  const world = view.align === 'world';
  const hipsOf = (v: RigView): number => Math.max(0, jointOf(v.map, 'hips'));
  const heldJoint = useMemo(() => {
    if (!held) return -1;
    return 'joint' in held ? to.rig.names.indexOf(held.joint) : jointOf(to.map, held.handle);
  }, [held, to]);
  const pickFigure = picking?.side === 'source' ? bones : figure;
  return (
    <>
      <Stage
        clock={clock}
        height={tall}
        width={
          Math.max(tall * 0.7, 2 * from.reach.ahead, 2 * to.reach.ahead) +
          (alone && also.length === 0 ? 0 : (row - 1) * 2 * step)
        }
        label={texts.sourceAnd(member.name)}
        {...(to.cutout ? { from: AHEAD } : {})}
        handle={handle}
      >
        {figure && b && (
          <Performance
            key={`t${member.id}${view.body}`}
            clock={clock}
            figure={figure}
            motion={b}
            x={targetX}
            hips={hipsOf(to)}
            anchor={meetingJoint(to, view.align)}
            followAt={to.stands}
            lit={lit?.target}
            leaves={root}
            visible={view.show !== 'source' && picking?.side !== 'source'}
          >
            {view.trails && answer && (
              <Trails clock={clock} paths={answer.trails.result as Record<string, Float32Array>} />
            )}
            {view.ghosts && <Ghosts clock={clock} view={to} motion={b} />}
          </Performance>
        )}
        {figure && b && heldJoint >= 0 && !picking && (
          <HandleGizmo
            key={heldJoint}
            figure={figure}
            joint={heldJoint}
            name={heldName(held!)}
            mode={held && 'joint' in held ? 'turn' : p.mode}
            onStart={p.onPullStart}
            onPull={p.onPull}
            onEnd={p.onPullEnd}
          />
        )}
        {bones && a && (
          <Performance
            key={`s${source.id}${view.over}`}
            clock={clock}
            figure={bones}
            motion={a}
            x={sourceX}
            turned={answer?.turned ?? 0}
            hips={hipsOf(from)}
            anchor={meetingJoint(from, view.align)}
            lit={lit?.source}
            // where each goes its own way, the camera keeps to the middle of them
            followAt={world && !alone ? from.stands : undefined}
            {...(world ? {} : { beside: root })}
            visible={view.show !== 'target' && picking?.side !== 'target'}
          >
            {view.trails && answer && (
              <Trails clock={clock} paths={answer.trails.source as Record<string, Float32Array>} faint />
            )}
            {view.ghosts && <Ghosts clock={clock} view={from} motion={a} />}
          </Performance>
        )}
        {p.wish && (
          <Others
            members={also}
            wish={p.wish}
            clock={clock}
            first={targetX}
            step={2 * step}
            root={root}
            world={world}
          />
        )}
      </Stage>
      {picking && pickFigure && (
        <JointPicker
          stage={handle}
          figure={pickFigure}
          names={(picking.side === 'source' ? from : to).rig.names}
          label={texts.pickTheSJoint(picking.side)}
          onPoint={(joint) => p.onPointJoint(picking.side, joint)}
          onPick={p.onPick}
          onCancel={p.onStopPicking}
        />
      )}
    </>
  );
});

/** The same source with the same settings on further characters, side by side. */
function Others({
  members,
  wish,
  clock,
  first,
  step,
  root,
  world,
}: {
  members: readonly CastMember[];
  wish: FitWish;
  clock: Clock;
  first: number;
  step: number;
  root: Spot;
  world: boolean;
}) {
  const rigs = useCastRigs(members.map((m) => m.id));
  return (
    <>
      {members.map((m, i) => {
        const rig = rigs[i];
        return rig ? (
          <Other
            key={m.id}
            member={m}
            rig={rig}
            wish={wish}
            clock={clock}
            x={first + (i + 1) * step}
            root={root}
            world={world}
          />
        ) : null;
      })}
    </>
  );
}

function Other({
  member,
  rig,
  wish,
  clock,
  x,
  root,
  world,
}: {
  member: CastMember;
  rig: RigAnswer;
  wish: FitWish;
  clock: Clock;
  x: number;
  root: Spot;
  world: boolean;
}) {
  const view = rigView(rig);
  const figure = useFigure(view, member.assets);
  const { name } = member;
  const [motion, setMotion] = useState<Playable>();
  const run = useNewest();
  useEffect(() => {
    run(
      () => solver().fitAlong({ ...wish, target: rig }),
      setMotion,
      (error) => toast.error(texts.cannotFollow(name, error.message), { id: rig.id }),
    );
  }, [run, wish, rig, name]);
  const fits = matching(motion, view.rig.names.length);
  if (!figure || !fits) return null;
  return (
    <Performance
      clock={clock}
      figure={figure}
      motion={fits}
      x={x}
      hips={Math.max(0, jointOf(view.map, 'hips'))}
      {...(world ? {} : { beside: root })}
    />
  );
}
