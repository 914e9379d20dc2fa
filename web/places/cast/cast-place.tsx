'use client';
import { Bone, Plus } from 'lucide-react';
import dynamic from 'next/dynamic';
import { useRouter } from 'next/navigation';
import { parseAsBoolean, parseAsString, parseAsStringLiteral, useQueryStates } from 'nuqs';
import { useState } from 'react';
import { useKeys } from '@/client/keys';
import { useLookingAt } from '@/client/live';
import { useCast, useCastRig, useChangeCast } from '@/client/queries';
import { useChoosePerformer, useMay, useMe } from '@/client/session';
import type { CastMember } from '@/contract';
import { Button } from '@/ui/button';
import { Empty } from '@/ui/empty';
import { CastCard } from './cast-card';
import { MemberPage, TABS } from './member-page';
import { StandInDialog } from './stand-in-dialog';
import { castPlace as texts } from './texts';

/** Loaded when it is wanted: it brings a thread and its readers along. */
const BareMeshPage = dynamic(() => import('./bare-mesh/bare-mesh-page').then((m) => m.BareMeshPage), { ssr: false });

/** Everybody there is; one of them turned into view with all that is known. */
export function CastPlace() {
  const router = useRouter();
  const me = useMe();
  const mayChange = useMay('animator');
  const choosePerformer = useChoosePerformer();
  const [view, setView] = useQueryStates(
    {
      member: parseAsString,
      bin: parseAsBoolean,
      tab: parseAsStringLiteral(TABS).withDefault('about'),
      body: parseAsStringLiteral(['mesh', 'joints', 'both'] as const).withDefault('mesh'),
      axes: parseAsBoolean.withDefault(false),
      names: parseAsBoolean.withDefault(false),
      mesh: parseAsBoolean.withDefault(false),
      // drawings from the library that are to be added
      set: parseAsString,
    },
    { history: 'replace' },
  );
  const cast = useCast(view.bin ?? false);
  const members = cast.data ?? [];
  const member =
    members.find((c) => c.id === view.member) ?? members.find((c) => c.id === me.performerId) ?? members[0];
  const rig = useCastRig(member?.id);
  const [adding, setAdding] = useState(false);
  useLookingAt(member?.id);
  const change = useChangeCast();
  const bin = (m: CastMember): void => {
    const out = m.binnedAt === null;
    change.mutate({
      id: m.id,
      change: { binned: out },
      label: out ? texts.movedToTheBin(m.name) : texts.restored(m.name),
    });
  };
  const move = (by: number): void => {
    const next = members[members.findIndex((m) => m.id === member?.id) + by];
    if (next) void setView({ member: next.id });
  };
  useKeys('right,down', () => move(1));
  useKeys('left,up', () => move(-1));
  useKeys('h', () => member && choosePerformer(member.id));
  useKeys('j', () => setView({ body: view.body === 'mesh' ? 'joints' : view.body === 'joints' ? 'both' : 'mesh' }));
  useKeys('x', () => setView({ axes: !view.axes }));
  useKeys('n', () => setView({ names: !view.names }));

  const standInDialog = adding && (
    <StandInDialog onClose={() => setAdding(false)} onMade={(id) => void setView({ member: id, bin: null })} />
  );
  const bare = view.mesh && mayChange && (
    <BareMeshPage
      onClose={() => void setView({ mesh: null })}
      onMade={(id) => void setView({ mesh: null, member: id, bin: null })}
    />
  );
  if (cast.error) return <Empty title={texts.theCastCouldNot}>{cast.error.message}</Empty>;
  if (cast.data && members.length === 0 && bare) return <div className="flex h-full">{bare}</div>;
  if (cast.data && members.length === 0) {
    return view.bin ? (
      <Empty
        title={texts.noCastMembersIn}
        action={<Button onClick={() => void setView({ bin: null })}>{texts.backToTheCast}</Button>}
      />
    ) : (
      <>
        <Empty
          title={texts.theCastIsEmpty}
          action={
            <span className="flex gap-2">
              <Button look="brass" onClick={() => router.push('/intake')}>
                {texts.bringACharacterIn}
              </Button>
              {mayChange && <Button onClick={() => setAdding(true)}>{texts.addAStandIn}</Button>}
              {mayChange && <Button onClick={() => void setView({ mesh: true })}>{texts.giveABareMesh}</Button>}
            </span>
          }
        >
          {texts.aGlbOrGltf}
        </Empty>
        {standInDialog}
      </>
    );
  }
  const tallest = Math.max(...members.map((m) => m.heightM), 0.1);
  return (
    <div className="flex h-full">
      <section
        aria-label={texts.castMembers}
        className="flex w-[214px] shrink-0 flex-col overflow-y-auto border-r border-line p-3"
      >
        <div className="mb-2 flex items-baseline gap-3">
          <h1 className="heading text-lg">{view.bin ? texts.castInTheBin : texts.cast}</h1>
          <span className="text-muted">{members.length}</span>
          <button
            type="button"
            className="ml-auto text-muted hover:text-ink"
            onClick={() => void setView({ bin: view.bin ? null : true, member: null })}
          >
            {view.bin ? texts.backToTheCast : texts.bin}
          </button>
        </div>
        {view.member !== null && cast.data && !members.some((m) => m.id === view.member) && (
          <p role="status" className="mb-2 text-[12.5px] text-brass-text">
            {texts.theCastMemberIn}
            {view.bin ? '' : texts.orIsInThe}.
          </p>
        )}
        <div className="flex flex-col gap-2">
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
        {mayChange && !view.bin && (
          <button
            type="button"
            onClick={() => setAdding(true)}
            className="mt-2 flex items-center gap-1.5 rounded-lg border border-dashed border-line px-2.5 py-1.5 text-left text-[12.5px] text-muted hover:border-brass hover:text-ink"
          >
            <Plus size={13} /> {texts.addAStandIn}
          </button>
        )}
        {mayChange && !view.bin && (
          <button
            type="button"
            onClick={() => void setView({ mesh: true })}
            className="mt-2 flex items-center gap-1.5 rounded-lg border border-dashed border-line px-2.5 py-1.5 text-left text-[12.5px] text-muted hover:border-brass hover:text-ink"
          >
            <Bone size={13} /> {texts.giveABareMesh}
          </button>
        )}
        {standInDialog}
      </section>
      {bare ? (
        bare
      ) : member && rig.data ? (
        <MemberPage
          key={`${member.id} ${member.rigId}`}
          member={member}
          members={members}
          rig={rig.data}
          mayChange={mayChange}
          performer={member.id === me.performerId}
          view={{ body: view.body, axes: view.axes, names: view.names, cones: view.tab === 'limits' }}
          tab={view.tab}
          set={view.set}
          onView={(v) => void setView(v)}
          onPerformer={() => choosePerformer(member.id)}
          onBin={() => bin(member)}
          onMember={(id) => void setView({ member: id })}
        />
      ) : (
        <div className="stage-back flex-1" />
      )}
    </div>
  );
}
