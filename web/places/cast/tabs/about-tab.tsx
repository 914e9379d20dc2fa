'use client';

import {
  type CutoutArt,
  type CutoutRig,
  facingOf,
  findPairing,
  readinessOf,
  readinessOfCutout,
} from '@velvet-reel/motion';
import { CheckCircle2, CircleAlert, OctagonX } from 'lucide-react';
import { useMemo } from 'react';
import { useChangeCast } from '@/client/queries';
import type { CastMember, RigAnswer } from '@/contract';
import { many } from '@/naming/counts';
import type { Figure3D } from '@/stage/figure-3d';
import { rigView } from '@/stage/rig-view';
import { KeptInput } from '@/ui/field';
import { SpaceRow } from '../space-row';
import { aboutTab as texts } from '../texts';

const REST: Readonly<Record<string, string>> = {
  T: 'T: arms level',
  A: 'A: arms slanting',
  hanging: texts.armsHanging,
  other: texts.anotherPose,
};

const FACED = { front: 'from the front', left: texts.facingLeft, right: texts.facingRight } as const;

interface AboutTabProps {
  member: CastMember;
  rig: RigAnswer;
  figure: Figure3D | undefined;
  /** What a cut-out is made of; undefined for a body in space. */
  paper?: { readonly rig: CutoutRig; readonly art: CutoutArt } | undefined;
  variantOf: CastMember | undefined;
  mayChange: boolean;
}

/** What a character is, and what will and will not work with it. */
export function AboutTab({ member, rig, figure, paper, variantOf, mayChange }: AboutTabProps) {
  const change = useChangeCast();
  const view = rigView(rig);
  const ready = useMemo(() => {
    if (paper) return readinessOfCutout(paper.rig, view.map, paper.art);
    const given = (rig.pairs ?? []).map(([a, b]): [number, number] => [
      view.rig.names.indexOf(a),
      view.rig.names.indexOf(b),
    ]);
    const shapes = new Set((figure?.faces ?? []).flatMap((f) => Object.keys(f.morphTargetDictionary ?? {})));
    return readinessOf(
      view.rig,
      view.map,
      findPairing(view.rig, view.map, undefined, given),
      rig.restKind,
      rig.match !== null,
      member.vertexCount > 0 ? { vertices: member.vertexCount, shapes: shapes.size, bareJoints: [] } : undefined,
    );
  }, [view, rig, figure, paper, member.vertexCount]);
  const about: [string, string][] = paper
    ? [
        [texts.kind, `cut-out, ${many(paper.rig.parts.length, 'part')}`],
        [texts.drawings, String(paper.art.drawings.length)],
        [texts.drawn, FACED[facingOf(paper.rig)]],
      ]
    : [
        [
          texts.mesh,
          member.vertexCount > 0 ? texts.vertices(member.vertexCount.toLocaleString('en')) : texts.noneShownAsBones,
        ],
        [texts.restPose, REST[member.restKind] ?? member.restKind],
        [texts.units, member.found.unitWhy],
        [texts.axes, texts.upFacing(member.found.upAxis, member.found.facing, member.found.certainty)],
      ];
  const rows: [string, string][] = [
    [texts.height, `${member.heightM.toFixed(2)} m`],
    [texts.joints, String(member.jointCount)],
    ...about,
  ];
  return (
    <div className="flex flex-col gap-3">
      <KeptInput
        aria-label={texts.note}
        placeholder={texts.note}
        value={member.note}
        onKeep={(note) =>
          change.mutate({ id: member.id, change: { note }, label: texts.changedTheNoteOf(member.name) })
        }
        className="w-full"
      />
      {variantOf && <p className="text-[12px] text-muted">{texts.aCopyOfChanging(variantOf.name)}</p>}
      <dl className="grid grid-cols-[76px_1fr] gap-x-2 gap-y-1">
        {rows.map(([name, value]) => (
          <div key={name} className="contents">
            <dt className="text-muted">{name}</dt>
            <dd>{value}</dd>
          </div>
        ))}
      </dl>
      {mayChange && !paper && <SpaceRow member={member} />}
      <div>
        <h3 className="mb-1 font-semibold">{texts.whatWorksAndWhat}</h3>
        <ul className="flex flex-col gap-1">
          {ready.map((r) => (
            <li key={r.text} className="flex gap-2">
              {r.state === 'stops' ? (
                <OctagonX size={14} className="mt-0.5 shrink-0 text-raspberry" aria-label={texts.doesNotWork} />
              ) : r.state === 'limits' ? (
                <CircleAlert size={14} className="mt-0.5 shrink-0 text-brass-text" aria-label={texts.partlyWorks} />
              ) : (
                <CheckCircle2 size={14} className="mt-0.5 shrink-0 text-verdigris" aria-label={texts.works} />
              )}
              <span>
                {r.text}
                <span className="block text-[12px] text-muted">{r.why}</span>
              </span>
            </li>
          ))}
        </ul>
      </div>
    </div>
  );
}
