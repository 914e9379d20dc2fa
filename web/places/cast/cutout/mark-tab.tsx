'use client';

import { type JointMarks, MARKED_JOINTS } from '@velvet-reel/motion';
import { Button } from '@/ui/button';
import { SwitchRow } from '@/ui/field';
import { markTab as texts } from '../texts';
import { markName } from './marks';

interface MarkTabProps {
  marks: JointMarks;
  lit: string | null;
  busy: boolean;
  onLit: (slot: string | null) => void;
  /** A joint is there or it is not. */
  onHas: (slot: string, there: boolean) => void;
  onKeep: () => void;
  onLeave: () => void;
}

/** Which joints a figure has, while they are marked on the stage. */
export function MarkTab({ marks, lit, busy, onLit, onHas, onKeep, onLeave }: MarkTabProps) {
  return (
    <div className="flex flex-col gap-2">
      <h3 className="font-semibold">{texts.markTheJoints}</h3>
      <p className="text-muted">{texts.dragEachMark}</p>
      <div className="flex gap-2">
        <Button look="brass" disabled={busy} onClick={onKeep}>
          {texts.putItTogether}
        </Button>
        <Button onClick={onLeave}>{texts.leaveIt}</Button>
      </div>
      <ul>
        {MARKED_JOINTS.filter((slot) => slot !== 'hips').map((slot) => (
          <li
            key={slot}
            className={lit === slot ? 'rounded bg-raised px-1' : 'px-1'}
            onPointerEnter={() => onLit(slot)}
            onPointerLeave={() => onLit(null)}
          >
            <SwitchRow
              label={markName(slot)}
              checked={marks[slot] !== undefined}
              onChange={(there) => onHas(slot, there)}
            />
          </li>
        ))}
      </ul>
      <p className="text-muted">{texts.drawingsStay}</p>
    </div>
  );
}
