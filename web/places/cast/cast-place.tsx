'use client';

import { defaultLimits } from '@velvet-reel/motion';
import { clsx } from 'clsx';
import { Archive, ArchiveRestore, CopyPlus, Download, FileUp, Plus } from 'lucide-react';
import { useRouter } from 'next/navigation';
import { parseAsBoolean, parseAsString, parseAsStringLiteral, useQueryStates } from 'nuqs';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { toast } from 'sonner';
import { API, sendJson } from '@/client/api';
import { useKeys } from '@/client/keys';
import { useLookingAt } from '@/client/live';
import { useCast, useCastRig, useChangeCast, useRefresh } from '@/client/queries';
import { useChoosePerformer, useMay, useMe } from '@/client/session';
import { solver } from '@/client/solver';
import type { CastMember, RigAnswer } from '@/client/types';
import { useUndo } from '@/client/undo';
import { Clock } from '@/stage/clock';
import type { Figure3D } from '@/stage/figures';
import type { Pull } from '@/stage/handle-gizmo';
import { rigView } from '@/stage/rig-view';
import type { StageHandle } from '@/stage/stage';
import { turnedBy } from '@/stage/turned-by';
import { Button } from '@/ui/button';
import { Empty } from '@/ui/empty';
import { KeptInput } from '@/ui/field';
import { OthersHere } from '@/ui/others-here';
import { CastCard } from './cast-card';
import { bindTurns, CastStage, type CastView } from './cast-stage';
import { ExportCharacterDialog } from './export-character-dialog';
import { ReplaceDialog } from './replace-dialog';
import { StandInDialog } from './stand-in-dialog';
import { AboutTab } from './tabs/about-tab';
import { BodyTab } from './tabs/body-tab';
import { LimitsTab } from './tabs/limits-tab';
import { MadeTab } from './tabs/made-tab';
import { RestTab } from './tabs/rest-tab';
import { SidesTab } from './tabs/sides-tab';
import { type RigSetting, useRigSetting } from './use-rig-setting';

const TABS = ['about', 'body', 'rest', 'sides', 'limits', 'made'] as const;
const TAB_WORDS: Readonly<Record<(typeof TABS)[number], string>> = {
  about: 'Readiness',
  body: 'Body',
  rest: 'Rest pose',
  sides: 'Sides',
  limits: 'Limits',
  made: 'Made',
};

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
  useKeys('j', () => setView({ body: view.body === 'mesh' ? 'joints' : view.body === 'joints' ? 'both' : 'mesh' }));
  useKeys('x', () => setView({ axes: !view.axes }));
  useKeys('n', () => setView({ names: !view.names }));

  const standInDialog = adding && (
    <StandInDialog onClose={() => setAdding(false)} onMade={(id) => void setView({ member: id, bin: null })} />
  );
  if (cast.error) return <Empty title="The cast could not be opened">{cast.error.message}</Empty>;
  if (cast.data && members.length === 0) {
    return view.bin ? (
      <Empty
        title="No cast member is in the bin"
        action={<Button onClick={() => void setView({ bin: null })}>Back to the cast</Button>}
      />
    ) : (
      <>
        <Empty
          title="The cast is empty"
          action={
            <span className="flex gap-2">
              <Button look="brass" onClick={() => router.push('/intake')}>
                Bring a character in
              </Button>
              {mayChange && <Button onClick={() => setAdding(true)}>Add a stand-in</Button>}
            </span>
          }
        >
          A GLB or glTF file with a skin becomes a cast member. Motion is then shown and fitted on it. A stand-in is a
          body of common proportions, for as long as there is none.
        </Empty>
        {standInDialog}
      </>
    );
  }
  const tallest = Math.max(...members.map((m) => m.heightM), 0.1);
  return (
    <div className="flex h-full">
      <section
        aria-label="Cast members"
        className="flex w-[214px] shrink-0 flex-col overflow-y-auto border-r border-line p-3"
      >
        <div className="mb-2 flex items-baseline gap-3">
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
            <Plus size={13} /> Add a stand-in
          </button>
        )}
        {standInDialog}
      </section>
      {member && rig.data ? (
        <MemberPage
          key={`${member.id} ${member.rigId}`}
          member={member}
          members={members}
          rig={rig.data}
          mayChange={mayChange}
          performer={member.id === me.performerId}
          view={{ body: view.body, axes: view.axes, names: view.names, cones: view.tab === 'limits' }}
          tab={view.tab}
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

interface MemberPageProps {
  member: CastMember;
  members: readonly CastMember[];
  rig: RigAnswer;
  mayChange: boolean;
  performer: boolean;
  view: CastView;
  tab: (typeof TABS)[number];
  onView: (
    view: Partial<{ body: CastView['body']; axes: boolean; names: boolean; tab: (typeof TABS)[number] }>,
  ) => void;
  onPerformer: () => void;
  onBin: () => void;
  onMember: (id: string) => void;
}

function MemberPage(p: MemberPageProps) {
  const { member, rig, mayChange, view, tab } = p;
  const seen = rigView(rig);
  const [clock] = useState(() => {
    const c = new Clock();
    c.playing = false;
    return c;
  });
  const stage = useRef<StageHandle | null>(null);
  const [figure, setFigure] = useState<Figure3D>();
  const [faces, setFaces] = useState<Record<string, number>>({});
  const [lit, setLit] = useState<readonly number[]>();
  const [posing, setPosing] = useState<string | null>(null);
  const [drawn, setDrawn] = useState<number[] | null>(null);
  const [comparing, setComparing] = useState(false);
  const [level, setLevel] = useState<number[]>();
  const [replacing, setReplacing] = useState(false);
  const [exporting, setExporting] = useState(false);
  const [copying, setCopying] = useState(false);
  const change = useChangeCast();
  const refresh = useRefresh();
  const push = useUndo((s) => s.push);
  const setRig = useRigSetting();
  const set = (setting: RigSetting, label: string): void => void setRig(rig, setting, label);
  const turns = drawn ?? (tab === 'rest' ? rig.match?.turns : undefined);
  const limits = useMemo(() => rig.limits ?? defaultLimits(), [rig.limits]);
  useEffect(() => {
    if (!comparing) return setLevel(undefined);
    let gone = false;
    void solver()
      .straighten(rig, 'all', 'L')
      .then((t) => !gone && setLevel(t));
    return () => {
      gone = true;
    };
  }, [comparing, rig]);
  const began = useRef<number[]>([]);
  const held = tab === 'rest' && posing ? seen.rig.names.indexOf(posing) : -1;
  const pull = (by: Pull, start: boolean): void => {
    if (held < 0) return;
    if (start) {
      began.current = [...(rig.match?.turns ?? bindTurns(seen))];
      return;
    }
    const next = [...began.current];
    next.splice(4 * held, 4, ...turnedBy(next.slice(4 * held, 4 * held + 4), by.from, by.turn));
    setDrawn(next);
  };
  const onFigure = useCallback((f: Figure3D | undefined) => setFigure(f), []);
  const shapes = useMemo(
    () => [...new Set((figure?.faces ?? []).flatMap((f) => Object.keys(f.morphTargetDictionary ?? {})))],
    [figure],
  );
  const copy = async (): Promise<void> => {
    setCopying(true);
    try {
      const made = await sendJson<CastMember>('POST', `${API}/cast/${member.id}/copy`, {
        name: `${member.name}, copy`,
      });
      push({
        label: `Copied ${member.name}`,
        undo: () => sendJson('PATCH', `${API}/cast/${made.id}`, { binned: true }),
      });
      toast(`${made.name} has everything of ${member.name}; nothing done to it touches the original`);
      refresh();
      p.onMember(made.id);
    } catch (error) {
      toast.error((error as Error).message);
    } finally {
      setCopying(false);
    }
  };
  const chip = (on: boolean): string =>
    clsx(
      'rounded-md border bg-panel/85 px-2 py-0.5 text-[12px]',
      on ? 'border-brass text-brass-text' : 'border-line text-muted hover:text-ink',
    );
  return (
    <section aria-label="Chosen cast member" className="flex min-w-0 flex-1">
      <div className="relative min-w-0 flex-1">
        <CastStage
          clock={clock}
          member={member}
          rig={rig}
          view={view}
          limits={limits}
          turns={turns}
          beside={tab === 'rest' ? level : undefined}
          lit={lit}
          held={held}
          handle={stage}
          faces={faces}
          onFigure={onFigure}
          onPull={pull}
          onPullEnd={() => {
            if (drawn)
              void setRig(rig, { match: { turns: drawn, how: 'posed by hand' } }, `Turned ${posing} for matching`).then(
                () => setDrawn(null),
              );
          }}
        />
        <div className="absolute inset-x-3 bottom-2 flex gap-1" role="toolbar" aria-label="What the stage shows">
          {(['mesh', 'joints', 'both'] as const).map((b) => (
            <button
              key={b}
              type="button"
              disabled={b !== 'joints' && member.fileHash === null}
              aria-pressed={view.body === b}
              title="Key J"
              className={clsx(chip(view.body === b), 'disabled:opacity-45')}
              onClick={() => p.onView({ body: b })}
            >
              {b === 'both' ? 'mesh and joints' : b}
            </button>
          ))}
          <button
            type="button"
            aria-pressed={view.axes}
            title="Key X"
            className={chip(view.axes)}
            onClick={() => p.onView({ axes: !view.axes })}
          >
            axes
          </button>
          <button
            type="button"
            aria-pressed={view.names}
            title="Key N"
            className={chip(view.names)}
            onClick={() => p.onView({ names: !view.names })}
          >
            names
          </button>
        </div>
      </div>
      <aside className="flex w-[372px] shrink-0 flex-col border-l border-line bg-panel">
        <div className="px-4 pt-3">
          <KeptInput
            aria-label="Name"
            value={member.name}
            onKeep={(name) =>
              name && change.mutate({ id: member.id, change: { name }, label: `Renamed ${member.name} to ${name}` })
            }
            className="heading w-full border-transparent! bg-transparent! px-1! py-0! text-xl hover:border-line!"
          />
          <OthersHere subjectId={member.id} className="mt-1" />
          <div role="tablist" aria-label="About this cast member" className="mt-1.5 flex flex-wrap gap-0.5">
            {TABS.map((t) => (
              <button
                key={t}
                type="button"
                role="tab"
                aria-selected={tab === t}
                onClick={() => p.onView({ tab: t })}
                className={clsx(
                  'rounded px-1.5 py-0.5 text-[12.5px]',
                  tab === t ? 'bg-raised font-semibold text-ink' : 'text-muted hover:text-ink',
                )}
              >
                {TAB_WORDS[t]}
                {t === 'rest' && rig.match && <span className="ml-1 inline-block size-1.5 rounded-full bg-brass" />}
              </button>
            ))}
          </div>
        </div>
        <div className="min-h-0 flex-1 overflow-y-auto px-4 py-3">
          {tab === 'about' && (
            <AboutTab
              member={member}
              rig={rig}
              figure={figure}
              mayChange={mayChange}
              variantOf={p.members.find((m) => m.id === member.variantOf)}
            />
          )}
          {tab === 'body' && (
            <BodyTab
              member={member}
              rig={rig}
              shapes={shapes}
              faces={faces}
              onFace={(name, value) => setFaces({ ...faces, [name]: value })}
            />
          )}
          {tab === 'rest' && (
            <RestTab
              member={member}
              rig={rig}
              mayChange={mayChange}
              comparing={comparing}
              onCompare={setComparing}
              posing={posing}
              onPosing={setPosing}
              onSet={(match, label) => set({ match }, label)}
            />
          )}
          {tab === 'sides' && <SidesTab rig={rig} mayChange={mayChange} onLit={setLit} onSet={set} />}
          {tab === 'limits' && <LimitsTab rig={rig} mayChange={mayChange} onSet={set} />}
          {tab === 'made' && <MadeTab member={member} mayChange={mayChange} />}
        </div>
        <div className="flex flex-wrap gap-2 border-t border-line px-4 py-3">
          <Button
            look={p.performer ? 'plain' : 'brass'}
            className="basis-full"
            onClick={p.onPerformer}
            disabled={p.performer || member.binnedAt !== null}
            keys="H"
            hint="Show everything on this one"
          >
            {p.performer ? 'Is on hand' : 'Put on hand'}
          </Button>
          <Button onClick={() => setExporting(true)} hint="As a file, with or without motion">
            <Download size={14} /> Export
          </Button>
          {mayChange && (
            <>
              <Button
                onClick={() => void copy()}
                disabled={copying}
                hint="A safe copy with everything, to try things on"
              >
                <CopyPlus size={14} /> Copy
              </Button>
              <Button onClick={() => setReplacing(true)} hint="Another file in its place, keeping map and history">
                <FileUp size={14} /> Replace
              </Button>
              <Button
                onClick={p.onBin}
                hint={member.binnedAt ? 'Bring back from the bin' : 'Move to the bin'}
                aria-label={member.binnedAt ? 'Bring back' : 'Move to the bin'}
              >
                {member.binnedAt ? <ArchiveRestore size={14} /> : <Archive size={14} />}
              </Button>
            </>
          )}
        </div>
      </aside>
      {exporting && <ExportCharacterDialog member={member} onClose={() => setExporting(false)} />}
      {replacing && <ReplaceDialog member={member} onClose={() => setReplacing(false)} />}
    </section>
  );
}
