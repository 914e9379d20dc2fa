'use client';

import { useRouter } from 'next/navigation';
import { parseAsBoolean, parseAsString, useQueryStates } from 'nuqs';
import { useState } from 'react';
import { useKeys } from '@/client/keys';
import { useCast, useCastRig, useChangeCast } from '@/client/queries';
import { useChoosePerformer, useMe } from '@/client/session';
import type { CastMember } from '@/client/types';
import { Clock } from '@/stage/clock';
import { SoloStage } from '@/stage/solo-stage';
import { Button } from '@/ui/button';
import { Empty } from '@/ui/empty';
import { CastCard } from './cast-card';
import { MemberPanel } from './member-panel';

/** Everybody there is; one of them turned into view with all that is known. */
export function CastPlace() {
  const router = useRouter();
  const me = useMe();
  const choosePerformer = useChoosePerformer();
  const [view, setView] = useQueryStates({ member: parseAsString, bin: parseAsBoolean }, { history: 'replace' });
  const cast = useCast(view.bin ?? false);
  const members = cast.data ?? [];
  const member =
    members.find((c) => c.id === view.member) ?? members.find((c) => c.id === me.performerId) ?? members[0];
  const rig = useCastRig(member?.id);
  const [clock] = useState(() => {
    const c = new Clock();
    c.playing = false;
    return c;
  });
  const change = useChangeCast();
  const bin = (m: CastMember): void => {
    const out = m.binnedAt === null;
    change.mutate({
      id: m.id,
      change: { binned: out },
      label: out ? `Moved ${m.name} to the bin` : `Brought ${m.name} back`,
    });
  };
  const move = (by: number): void => {
    const next = members[members.findIndex((m) => m.id === member?.id) + by];
    if (next) void setView({ member: next.id });
  };
  useKeys('right,down', () => move(1));
  useKeys('left,up', () => move(-1));
  useKeys('h', () => member && choosePerformer(member.id));

  if (cast.error) return <Empty title="The cast could not be opened">{cast.error.message}</Empty>;
  if (cast.data && members.length === 0) {
    return view.bin ? (
      <Empty
        title="No cast member is in the bin"
        action={<Button onClick={() => void setView({ bin: null })}>Back to the cast</Button>}
      />
    ) : (
      <Empty
        title="The cast is empty"
        action={
          <Button look="brass" onClick={() => router.push('/intake')}>
            Bring a character in
          </Button>
        }
      >
        A GLB or glTF file with a skin becomes a cast member. Motion is then shown and fitted on it.
      </Empty>
    );
  }
  const tallest = Math.max(...members.map((m) => m.heightM), 0.1);
  return (
    <div className="flex h-full">
      <section
        aria-label="Cast members"
        className="flex w-[420px] shrink-0 flex-col overflow-y-auto border-r border-line p-4"
      >
        <div className="mb-3 flex items-baseline gap-3">
          <h1 className="heading text-lg">{view.bin ? 'Cast in the bin' : 'Cast'}</h1>
          <span className="text-muted">{members.length}</span>
          <button
            type="button"
            className="ml-auto text-muted hover:text-ink"
            onClick={() => void setView({ bin: view.bin ? null : true, member: null })}
          >
            {view.bin ? 'Back to the cast' : 'Bin'}
          </button>
        </div>
        <div className="grid grid-cols-2 gap-3">
          {members.map((m) => (
            <CastCard
              key={m.id}
              member={m}
              chosen={m.id === member?.id}
              performer={m.id === me.performerId}
              tallest={tallest}
              onChoose={() => void setView({ member: m.id })}
            />
          ))}
        </div>
      </section>
      <section aria-label="Chosen cast member" className="flex min-w-0 flex-1">
        <div className="relative min-w-0 flex-1">
          {member && rig.data && (
            <SoloStage
              clock={clock}
              member={member}
              rig={rig.data}
              motion={undefined}
              label={`${member.name} at rest`}
            />
          )}
        </div>
        {member && (
          <MemberPanel
            key={member.id}
            member={member}
            performer={member.id === me.performerId}
            onPerformer={() => choosePerformer(member.id)}
            onBin={() => bin(member)}
          />
        )}
      </section>
    </div>
  );
}
