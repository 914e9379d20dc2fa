'use client';

import type { ReelMember } from '@velvet-reel/motion';
import { useState } from 'react';
import type { CastMember } from '@/contract';
import { Button } from '@/ui/button';
import { Select } from '@/ui/field';
import { memberInspector as texts } from './texts';

export function MemberInspector({
  member,
  who,
  cast,
  mayChange,
  onSameOn,
  onRemove,
  onBake,
}: {
  member: ReelMember;
  who: CastMember | undefined;
  cast: readonly CastMember[];
  mayChange: boolean;
  onSameOn: (castId: string) => void;
  onRemove: () => void;
  onBake: () => void;
}) {
  const [to, setTo] = useState('');
  const others = cast.filter((c) => c.id !== member.castId);
  const onto = (others.find((c) => c.id === to) ?? others[0])?.id;
  const keys = member.keys.reduce((n, t) => n + t.keys.length, 0);
  return (
    <div className="flex flex-col gap-2">
      <p className="text-[12px] text-muted">{texts.castMember}</p>
      <p className="heading text-[16px]">{who?.name ?? texts.aCharacterThatIs}</p>
      <p className="text-muted">{texts.onTheBaseLaneOver(member.base.length, member.overlays.length, keys)}</p>
      {mayChange && (
        <>
          <Button look="brass" onClick={onBake} keys="K" disabled={member.base.length === 0}>
            {texts.bakeIntoAnItem}
          </Button>
          {onto && (
            <div className="flex flex-col gap-1.5">
              <Select
                label={texts.characterToCopyTo}
                className="w-full"
                value={onto}
                options={others.map((c) => ({ value: c.id, label: c.name }))}
                onChange={setTo}
              />
              <Button onClick={() => onSameOn(onto)}>{texts.copyToThisCharacter}</Button>
              {member.keys.some((t) => 'joint' in t) && (
                <p className="text-[12px] text-muted">{texts.keysOfSingleJoints}</p>
              )}
            </div>
          )}
          <Button onClick={onRemove}>{texts.takeOffTheReel}</Button>
        </>
      )}
    </div>
  );
}
