'use client';

import type { ReelMember } from '@velvet-reel/motion';
import { useState } from 'react';
import type { CastMember } from '@/contract';
import { Button } from '@/ui/button';
import { Select } from '@/ui/field';

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
      <p className="text-[12px] text-muted">Cast member</p>
      <p className="heading text-[16px]">{who?.name ?? 'A character that is gone'}</p>
      <p className="text-muted">
        {member.base.length} on the base lane, {member.overlays.length} over it, {keys} {keys === 1 ? 'key' : 'keys'} by
        hand
      </p>
      {mayChange && (
        <>
          <Button look="brass" onClick={onBake} keys="K" disabled={member.base.length === 0}>
            Bake into an item …
          </Button>
          {onto && (
            <div className="flex flex-col gap-1.5">
              <Select
                label="Character to copy to"
                className="w-full"
                value={onto}
                options={others.map((c) => ({ value: c.id, label: c.name }))}
                onChange={setTo}
              />
              <Button onClick={() => onSameOn(onto)}>Copy to this character</Button>
              {member.keys.some((t) => 'joint' in t) && (
                <p className="text-[12px] text-muted">
                  Keys of single joints stay behind: skeletons name joints differently.
                </p>
              )}
            </div>
          )}
          <Button onClick={onRemove}>Take off the reel</Button>
        </>
      )}
    </div>
  );
}
