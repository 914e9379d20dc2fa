'use client';

import { clsx } from 'clsx';
import { useCastRig } from '@/client/queries';
import type { CastMember } from '@/contract';
import { many } from '@/naming/counts';
import { PaperPicture, RestFigure } from '@/stage/rest-figure';
import { Chip } from '@/ui/chip';
import { mapSummary } from './map-summary';
import { castCard as texts } from './texts';

const HEIGHT = 96;

interface CastCardProps {
  member: CastMember;
  chosen: boolean;
  performer: boolean;
  tallest: number;
  onChoose: () => void;
}

/** A member with its figure, drawn to one scale with the others. */
export function CastCard({ member, chosen, performer, tallest, onChoose }: CastCardProps) {
  const { data: rig } = useCastRig(member.id);
  const summary = mapSummary(member);
  return (
    <button
      type="button"
      onClick={onChoose}
      aria-pressed={chosen}
      className={clsx(
        'flex overflow-hidden rounded-lg border bg-panel text-left',
        chosen ? 'border-brass' : 'border-line hover:border-muted',
      )}
    >
      <span className="stage-back flex h-[104px] w-[84px] shrink-0 items-end justify-center overflow-hidden">
        {member.assets.art ? (
          <PaperPicture art={member.assets.art} height={HEIGHT} scale={(HEIGHT - 8) / Math.max(tallest, 1.9)} />
        ) : (
          rig && <RestFigure rig={rig} width={84} height={HEIGHT} scale={(HEIGHT - 8) / Math.max(tallest, 1.9)} />
        )}
      </span>
      <span className="flex min-w-0 flex-1 flex-col gap-0.5 p-2">
        <span className="heading truncate text-[15px]" title={member.name}>
          {member.name}
        </span>
        {performer && (
          <span>
            <Chip tone="brass">{texts.onHand}</Chip>
          </span>
        )}
        <span className="text-[11.5px] text-muted">
          {member.heightM.toFixed(2)} m, {many(member.jointCount, 'joint')}
        </span>
        <span className={clsx('text-[11.5px]', summary.open > 0 ? 'text-brass-text' : 'text-muted')}>
          {summary.text}
        </span>
      </span>
    </button>
  );
}
