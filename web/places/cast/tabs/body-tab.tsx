'use client';

import { countStates, type Proportion, proportionsOf, regionsOf, slotLabel } from '@velvet-reel/motion';
import { clsx } from 'clsx';
import Link from 'next/link';
import type { CastMember, RigAnswer } from '@/contract';
import { rigView } from '@/stage/rig-view';
import { Slider } from '@/ui/slider';
import { bodyTab as texts } from '../texts';

interface BodyTabProps {
  member: CastMember;
  rig: RigAnswer;
  shapes: readonly string[];
  faces: Readonly<Record<string, number>>;
  onFace: (name: string, value: number) => void;
}

/** Proportions against the common body, the body map in short, regions, and face shapes to be tried. */
export function BodyTab({ member, rig, shapes, faces, onFace }: BodyTabProps) {
  const view = rigView(rig);
  const rows = proportionsOf(view.rig, view.map, rig.heightM, rig.floorM ?? 0);
  const counts = countStates(view.map);
  const open = Object.entries(rig.map.slots).filter(([, s]) => s.state === 'guessed' || s.state === 'missing');
  return (
    <div className="flex flex-col gap-3">
      <div>
        <h3 className="mb-1 font-semibold">{texts.proportions}</h3>
        <p className="mb-1 text-[12px] text-muted">{texts.comparedWithAnAverageBody(rig.heightM.toFixed(2))}</p>
        <div className="flex flex-col gap-0.5">
          {rows.map((p) => (
            <ProportionBar key={p.name} proportion={p} />
          ))}
        </div>
      </div>
      <div>
        <h3 className="mb-1 font-semibold">{texts.bodyMap}</h3>
        <p>
          {texts.sureGuessedMissingEmpty(counts.sure, counts.guessed, counts.missing, counts.empty)}
          <Link className="text-brass-text hover:underline" href={`/fitting?cast=${member.id}`}>
            {texts.openItInFitting}
          </Link>
        </p>
        {open.length > 0 && (
          <ul className="mt-1 flex flex-col gap-0.5 text-[12px] text-muted">
            {open.slice(0, 10).map(([slot, s]) => (
              <li key={slot}>
                <span className={s.state === 'missing' ? 'text-raspberry' : 'text-brass-text'}>
                  {slotLabel(slot)} {s.state}
                </span>
                : {s.why}
              </li>
            ))}
          </ul>
        )}
        <p className="mt-1 text-[12px] text-muted">
          {texts.regions([...new Set(regionsOf(view.rig, view.map))].join(', '))}
        </p>
      </div>
      <div>
        <h3 className="mb-1 font-semibold">{texts.faceShapes}</h3>
        {shapes.length === 0 && <p className="text-[12px] text-muted">{texts.thisMeshHasNone}</p>}
        {shapes.map((name) => (
          <Slider
            key={name}
            label={name}
            value={faces[name] ?? 0}
            rest={0}
            low={0}
            high={1}
            step={0.05}
            onChange={(x) => onFace(name, x)}
          />
        ))}
      </div>
    </div>
  );
}

function ProportionBar({ proportion: { name, metres, ratio } }: { proportion: Proportion }) {
  // a fifth more or less fills half the bar
  const share = Math.max(-1, Math.min(1, Math.log2(ratio) / Math.log2(1.8)));
  const off = Math.abs(ratio - 1) > 0.2;
  return (
    <div className="grid grid-cols-[104px_1fr_52px_44px] items-center gap-2 text-[12.5px]">
      <span className="text-muted">{name}</span>
      <span className="relative h-2.5 rounded-sm bg-raised">
        <span
          className={clsx('absolute top-0 h-full rounded-sm', off ? 'bg-brass' : 'bg-muted')}
          style={share < 0 ? { right: '50%', width: `${-50 * share}%` } : { left: '50%', width: `${50 * share}%` }}
        />
        <span className="absolute -top-0.5 left-1/2 h-3.5 w-px bg-ink/70" />
      </span>
      <span className="text-right">{texts.cm2((100 * metres).toFixed(1))}</span>
      <span className={clsx('text-right', off ? 'text-brass-text' : 'text-muted')}>{(100 * ratio).toFixed(0)} %</span>
    </div>
  );
}
