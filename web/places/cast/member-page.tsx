'use client';

import { defaultLimits, type JointMarks } from '@velvet-reel/motion';
import { clsx } from 'clsx';
import { Archive, ArchiveRestore, CopyPlus, Download, FileUp } from 'lucide-react';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { toast } from 'sonner';
import { API, sendJson } from '@/client/api';
import { useKeys } from '@/client/keys';
import { useChangeCast, useRefresh } from '@/client/queries';
import { solver } from '@/client/solver';
import { useUndo } from '@/client/undo';
import type { CastMember, RigAnswer } from '@/contract';
import type { RigSetting } from '@/documents/rig-setup';
import { useDocuments } from '@/documents/use-document';
import { useRigSetups } from '@/documents/use-rig-setup';
import { OthersHere } from '@/parts/others-here';
import { Clock } from '@/stage/clock';
import type { StageHandle } from '@/stage/contract';
import type { Figure3D } from '@/stage/figure-3d';
import type { Pull } from '@/stage/handle-gizmo';
import { rigView } from '@/stage/rig-view';
import { turnedBy } from '@/stage/turned-by';
import { useArt } from '@/stage/use-art';
import { Button } from '@/ui/button';
import { KeptInput } from '@/ui/field';
import { Edge, Panel, Panels } from '@/ui/panels';
import { TabList, TabPanel, Tabs } from '@/ui/tabs';
import { bindTurns, CastStage, type CastView } from './cast-stage';
import { CutoutStage } from './cutout/cutout-stage';
import { DrawingsTab } from './cutout/drawings-tab';
import { MarkTab } from './cutout/mark-tab';
import { marksFrom, suggestMark } from './cutout/marks';
import { PartsTab } from './cutout/parts-tab';
import { useCutoutEditing, useMarking } from './cutout/use-cutout';
import { ExportCharacterDialog } from './export-character-dialog';
import { ProofWords } from './proof-words';
import { ReplaceDialog } from './replace-dialog';
import { AboutTab } from './tabs/about-tab';
import { BodyTab } from './tabs/body-tab';
import { LimitsTab } from './tabs/limits-tab';
import { MadeTab } from './tabs/made-tab';
import { RestTab } from './tabs/rest-tab';
import { SidesTab } from './tabs/sides-tab';
import { memberPage as texts } from './texts';
import { useProof } from './use-proof';

export const TABS = ['about', 'parts', 'drawings', 'body', 'rest', 'sides', 'limits', 'made'] as const;
export type CastTab = (typeof TABS)[number];
/** What a cut-out has, and what a body in space has. */
const FLAT_TABS: readonly CastTab[] = ['about', 'parts', 'drawings', 'sides', 'made'];
const BODY_TABS: readonly CastTab[] = ['about', 'body', 'rest', 'sides', 'limits', 'made'];
const TAB_WORDS: Readonly<Record<CastTab, string>> = {
  about: texts.readiness,
  parts: texts.parts,
  drawings: texts.drawings,
  body: texts.body,
  rest: texts.restPose,
  sides: texts.sides,
  limits: texts.limits,
  made: texts.made,
};

const PAPER_WORDS = { mesh: 'parts', joints: 'joints', both: texts.inSpace } as const;

interface MemberPageProps {
  member: CastMember;
  members: readonly CastMember[];
  rig: RigAnswer;
  mayChange: boolean;
  performer: boolean;
  view: CastView;
  tab: CastTab;
  /** Drawings kept in the library that are to be added to it. */
  set: string | null;
  onView: (
    view: Partial<{ body: CastView['body']; axes: boolean; names: boolean; tab: CastTab; set: string | null }>,
  ) => void;
  onPerformer: () => void;
  onBin: () => void;
  onMember: (id: string) => void;
}

/** One cast member turned into view, with all that is known of it. */
export function MemberPage(p: MemberPageProps) {
  const { member, rig, mayChange, view } = p;
  const seen = rigView(rig);
  const tabs = seen.cutout ? FLAT_TABS : BODY_TABS;
  const tab = tabs.includes(p.tab) ? p.tab : 'about';
  const art = useArt(member.assets.art);
  const editing = useCutoutEditing(member);
  const [litJoint, setLitJoint] = useState<string | null>(null);
  const marking = useMarking(member);
  const [marked, setMarks] = useState<JointMarks | null>(null);
  const marks = tab === 'parts' ? marked : null;
  const mark = (slot: string, at: readonly [number, number] | null): void =>
    setMarks((all) => {
      const { [slot]: _, ...rest } = all ?? {};
      return at ? { ...rest, [slot]: at } : rest;
    });
  const paper =
    seen.cutout && art && art.pivots.length === seen.cutout.parts.length ? { rig: seen.cutout, art } : undefined;
  const { saved } = useDocuments();
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
  const [trying, setTrying] = useState(false);
  const proof = useProof(rig, clock, trying);
  useKeys('t', () => setTrying((on) => !on));
  const [replacing, setReplacing] = useState(false);
  const [exporting, setExporting] = useState(false);
  const [copying, setCopying] = useState(false);
  const change = useChangeCast();
  const refresh = useRefresh();
  const push = useUndo((s) => s.push);
  const setups = useRigSetups();
  const set = (setting: RigSetting, label: string): void =>
    setups.change(rig, label, (now) => ({ ...now, ...setting }));
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
      began.current = [...(drawn ?? rig.match?.turns ?? bindTurns(seen))];
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
      await saved();
      const made = await sendJson<CastMember>('POST', `${API}/cast/${member.id}/copy`, {
        name: `${member.name}, copy`,
      });
      push({
        label: texts.copied(member.name),
        undo: () => sendJson('PATCH', `${API}/cast/${made.id}`, { binned: true }),
      });
      toast(texts.isAFullCopy(made.name, member.name));
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
    <section aria-label={texts.chosenCastMember} className="flex min-w-0 flex-1">
      <Panels id="cast" className="min-w-0 flex-1">
        <Panel id="stage" minSize={360}>
          <div className="relative h-full">
            {paper && view.body === 'mesh' ? (
              <CutoutStage
                member={member}
                rig={paper.rig}
                art={paper.art}
                clock={clock}
                motion={proof?.motion}
                lit={litJoint}
                mayChange={mayChange}
                onLit={setLitJoint}
                onPivot={(joint, at) => editing.change({ pivots: { [joint]: at } }, texts.movedThePivotOf(joint))}
                marks={marks}
                onMark={mark}
              />
            ) : (
              <CastStage
                clock={clock}
                member={member}
                rig={rig}
                view={view}
                limits={limits}
                turns={turns}
                motion={proof?.motion}
                beside={tab === 'rest' ? level : undefined}
                lit={lit}
                held={held}
                handle={stage}
                faces={faces}
                onFigure={onFigure}
                onPull={pull}
                onPullEnd={() => {
                  if (!drawn) return;
                  set({ match: { turns: drawn, how: 'posed by hand' } }, texts.turnedForMatching(posing ?? ''));
                  setDrawn(null);
                }}
              />
            )}
            {proof && <ProofWords clock={clock} steps={proof.steps} />}
            <div className="absolute inset-x-3 bottom-2 flex gap-1" role="toolbar" aria-label={texts.whatTheStageShows}>
              {(['mesh', 'joints', 'both'] as const).map((b) => (
                <button
                  key={b}
                  type="button"
                  disabled={b !== 'joints' && member.assets.figure === undefined && member.assets.art === undefined}
                  aria-pressed={view.body === b}
                  title={texts.keyJ}
                  className={clsx(chip(view.body === b), 'disabled:opacity-45')}
                  onClick={() => p.onView({ body: b })}
                >
                  {seen.cutout ? PAPER_WORDS[b] : b === 'both' ? texts.meshAndJoints : b}
                </button>
              ))}
              {!(paper && view.body === 'mesh') && (
                <>
                  <button
                    type="button"
                    aria-pressed={view.axes}
                    title={texts.keyX}
                    className={chip(view.axes)}
                    onClick={() => p.onView({ axes: !view.axes })}
                  >
                    {texts.axes}
                  </button>
                  <button
                    type="button"
                    aria-pressed={view.names}
                    title={texts.keyN}
                    className={chip(view.names)}
                    onClick={() => p.onView({ names: !view.names })}
                  >
                    {texts.names}
                  </button>
                </>
              )}
              <button
                type="button"
                aria-pressed={trying}
                title={texts.keyTMovesEach}
                className={chip(trying)}
                onClick={() => setTrying(!trying)}
              >
                {texts.tryTheJoints}
              </button>
            </div>
          </div>
        </Panel>
        <Edge label={texts.widthOfThePanel} />
        <Panel id="about" defaultSize={372} minSize={320} maxSize="60" groupResizeBehavior="preserve-pixel-size">
          <aside className="flex h-full flex-col bg-panel">
            <Tabs value={tab} onChange={(t) => p.onView({ tab: t })} className="flex min-h-0 flex-1 flex-col">
              <div className="px-4 pt-3">
                <KeptInput
                  aria-label={texts.name}
                  value={member.name}
                  onKeep={(name) =>
                    name &&
                    change.mutate({ id: member.id, change: { name }, label: texts.renamedTo(member.name, name) })
                  }
                  className="heading w-full border-transparent! bg-transparent! px-1! py-0! text-xl hover:border-line!"
                />
                <OthersHere subjectId={member.id} className="mt-1" />
                <TabList
                  label={texts.aboutThisCastMember}
                  className="mt-1.5"
                  tabs={tabs.map((t) => ({
                    value: t,
                    word: (
                      <>
                        {TAB_WORDS[t]}
                        {t === 'rest' && rig.match && (
                          <span className="ml-1 inline-block size-1.5 rounded-full bg-brass" />
                        )}
                      </>
                    ),
                  }))}
                />
              </div>
              <TabPanel value={tab} className="min-h-0 flex-1 overflow-y-auto px-4 py-3">
                {tab === 'about' && (
                  <AboutTab
                    member={member}
                    rig={rig}
                    figure={figure}
                    paper={paper}
                    mayChange={mayChange}
                    variantOf={p.members.find((m) => m.id === member.variantOf)}
                  />
                )}
                {tab === 'parts' && paper && marks && (
                  <MarkTab
                    marks={marks}
                    lit={litJoint}
                    busy={marking.busy}
                    onLit={setLitJoint}
                    onHas={(slot, there) => mark(slot, there ? suggestMark(slot, marks, paper.art, paper.rig) : null)}
                    onKeep={() => void marking.keep(marks).then((done) => done && setMarks(null))}
                    onLeave={() => setMarks(null)}
                  />
                )}
                {tab === 'parts' && paper && !marks && (
                  <PartsTab
                    member={member}
                    rig={paper.rig}
                    art={paper.art}
                    answer={rig}
                    lit={litJoint}
                    mayChange={mayChange}
                    editing={editing}
                    onLit={setLitJoint}
                    onMark={() => setMarks(marksFrom(paper.rig, paper.art, rig.map))}
                  />
                )}
                {tab === 'drawings' && paper && (
                  <DrawingsTab
                    member={member}
                    rig={paper.rig}
                    art={paper.art}
                    mayChange={mayChange}
                    set={p.set}
                    onSet={(set) => p.onView({ set })}
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
              </TabPanel>
            </Tabs>
            <div className="flex flex-wrap gap-2 border-t border-line px-4 py-3">
              <Button
                look={p.performer ? 'plain' : 'brass'}
                className="basis-full"
                onClick={p.onPerformer}
                disabled={p.performer || member.binnedAt !== null}
                keys="H"
                hint={texts.showEveryMotionOn}
              >
                {p.performer ? texts.isOnHand : texts.putOnHand}
              </Button>
              <Button onClick={() => setExporting(true)} hint={texts.saveAsAFile}>
                <Download size={14} /> {texts.exportIt}
              </Button>
              {mayChange && (
                <>
                  <Button onClick={() => void copy()} disabled={copying} hint={texts.aFullCopyThat}>
                    <CopyPlus size={14} /> {texts.copy}
                  </Button>
                  <Button onClick={() => setReplacing(true)} hint={texts.useAnotherFileAnd}>
                    <FileUp size={14} /> {texts.replace}
                  </Button>
                  <Button
                    onClick={p.onBin}
                    hint={member.binnedAt ? texts.restoreFromTheBin : texts.moveToTheBin}
                    aria-label={member.binnedAt ? texts.restore : texts.moveToTheBin}
                  >
                    {member.binnedAt ? <ArchiveRestore size={14} /> : <Archive size={14} />}
                  </Button>
                </>
              )}
            </div>
          </aside>
        </Panel>
      </Panels>
      {exporting && <ExportCharacterDialog member={member} onClose={() => setExporting(false)} />}
      {replacing && <ReplaceDialog member={member} onClose={() => setReplacing(false)} />}
    </section>
  );
}
