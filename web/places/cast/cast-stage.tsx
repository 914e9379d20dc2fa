'use client';

import { jointOf, type Limits, restPose, turnsOfPose } from '@velvet-reel/motion';
import { type RefObject, useEffect, useMemo } from 'react';
import { Mesh, type MeshLambertMaterial } from 'three';
import type { CastMember, RigAnswer } from '@/contract';
import type { Playable } from '@/solver/solve';
import type { Clock } from '@/stage/clock';
import type { StageHandle } from '@/stage/contract';
import type { Figure3D } from '@/stage/figure-3d';
import { useBoneFigure, useMeshFigure, usePaperFigure } from '@/stage/figures';
import { HandleGizmo, type Pull } from '@/stage/handle-gizmo';
import { Performance } from '@/stage/performance';
import { JointAxes, JointNames, LimitCones } from '@/stage/rig-marks';
import { type RigView, rigView } from '@/stage/rig-view';
import { AHEAD, Stage } from '@/stage/stage';
import { castStage as texts } from './texts';

export interface CastView {
  body: 'mesh' | 'joints' | 'both';
  axes: boolean;
  names: boolean;
  cones: boolean;
}

/** One frame with local turns, to be shown as a motion. */
export function stillOf(turns: readonly number[]): Playable {
  return {
    fps: 30,
    frameCount: 1,
    turns: Float32Array.from(turns),
    places: [],
    numbers: [],
    scales: [],
    steps: [],
  };
}
export const bindTurns = (view: RigView): number[] => turnsOfPose(view.rig, restPose(view.rig));

interface CastStageProps {
  clock: Clock;
  member: CastMember;
  rig: RigAnswer;
  view: CastView;
  limits: Limits;
  /** Local turns to be shown; the bind pose where left out. */
  turns: readonly number[] | undefined;
  /** Shown instead of a pose, at the clock's frame. */
  motion: Playable | undefined;
  /** The common body's aligned pose, laid over it as pale bones. */
  beside: readonly number[] | undefined;
  lit: readonly number[] | undefined;
  /** Joint with a handle on it. */
  held: number;
  handle: RefObject<StageHandle | null>;
  faces: Readonly<Record<string, number>>;
  onFigure: (figure: Figure3D | undefined) => void;
  onPull: (pull: Pull, began: boolean) => void;
  onPullEnd: () => void;
}

/** A cast member at rest: its mesh, its joints, or both, with what is known about them. */
export function CastStage(p: CastStageProps) {
  const { clock, member, rig, view, turns, handle } = p;
  const seen = rigView(rig);
  const body = useMeshFigure(member.assets.figure, seen.rig.names.length);
  const paper = usePaperFigure(seen, member.assets.art);
  const mesh = seen.cutout ? paper : body;
  const drawn = seen.cutout ? member.assets.art !== undefined : member.assets.figure !== undefined;
  const bones = useBoneFigure(seen);
  const pale = useBoneFigure(seen, 'pale');
  const showMesh = drawn && view.body !== 'joints';
  const showBones = view.body !== 'mesh' || !drawn;
  const pose = useMemo(() => stillOf(turns ?? bindTurns(seen)), [seen, turns]);
  const still = p.motion ?? pose;
  const other = useMemo(() => p.beside && stillOf(p.beside), [p.beside]);
  const hips = Math.max(0, jointOf(seen.map, 'hips'));
  const main = (showMesh ? mesh : bones) ?? bones;
  useEffect(() => {
    mesh?.root.traverse((o) => {
      if (!(o instanceof Mesh)) return;
      const material = o.material as MeshLambertMaterial;
      if (seen.cutout) {
        material.opacity = view.body === 'both' ? 0.5 : 1;
        return;
      }
      material.transparent = view.body === 'both';
      material.opacity = view.body === 'both' ? 0.38 : 1;
      material.depthWrite = view.body !== 'both';
      material.needsUpdate = true;
    });
  }, [mesh, view.body, seen.cutout]);
  const { onFigure } = p;
  useEffect(() => onFigure(mesh ?? undefined), [mesh, onFigure]);
  useEffect(() => {
    for (const face of mesh?.faces ?? [])
      for (const [name, k] of Object.entries(face.morphTargetDictionary ?? {}))
        if (face.morphTargetInfluences) face.morphTargetInfluences[k] = p.faces[name] ?? 0;
  }, [mesh, p.faces]);
  return (
    <>
      <Stage
        clock={clock}
        height={rig.heightM}
        width={Math.max(0.9 * rig.heightM, 2 * seen.reach.aside, 2 * seen.reach.ahead)}
        label={texts.atRest(member.name)}
        {...(seen.cutout ? { from: AHEAD } : {})}
        handle={handle}
      >
        {showMesh && mesh && (
          <Performance
            key={`m${member.id}`}
            clock={clock}
            figure={mesh}
            motion={still}
            hips={hips}
            followAt={seen.stands}
            lit={p.lit}
          />
        )}
        {showBones && bones && (
          <Performance
            key={`b${member.id}`}
            clock={clock}
            figure={bones}
            motion={still}
            hips={hips}
            followAt={showMesh ? undefined : seen.stands}
            lit={showMesh ? undefined : p.lit}
          />
        )}
        {other && pale && <Performance key={`o${member.id}`} clock={clock} figure={pale} motion={other} hips={hips} />}
        {main && view.axes && <JointAxes figure={main} />}
        {main && view.cones && <LimitCones figure={main} view={seen} limits={p.limits} />}
        {main && p.held >= 0 && (
          <HandleGizmo
            key={p.held}
            figure={main}
            joint={p.held}
            name={seen.rig.names[p.held]!}
            mode="turn"
            onStart={() => p.onPull({ move: [0, 0, 0], turn: [0, 0, 0, 1], from: [0, 0, 0, 1] }, true)}
            onPull={(pull) => p.onPull(pull, false)}
            onEnd={p.onPullEnd}
          />
        )}
      </Stage>
      {main && view.names && <JointNames stage={handle} figure={main} names={seen.rig.names} />}
    </>
  );
}
