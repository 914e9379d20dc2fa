'use client';

import { type CutoutKeys, type PlantPart, stretchEdits } from '@velvet-reel/motion';
import { useCallback, useLayoutEffect, useMemo, useRef, useState } from 'react';
import { useKeys } from '@/client/keys';
import { useLookingAt } from '@/client/live';
import { useCast, useCastRig, useItem, useItems, useMotionKeys, useRig } from '@/client/queries';
import { useMe } from '@/client/session';
import { useStable } from '@/client/use-stable';
import type { CastMember, RigAnswer } from '@/contract';
import { kindOf } from '@/kinds/kinds';
import { ExportDialog } from '@/parts/export-dialog';
import { FitManyDialog } from '@/parts/fit-many-dialog';
import { type Held, heldKey, heldName, pulledKey, withKey } from '@/parts/held';
import { OthersHere } from '@/parts/others-here';
import type { FitAnswer } from '@/solver/solve';
import type { FitWish, Offer } from '@/solver/solve-fit';
import { Clock } from '@/stage/clock';
import type { StageHandle } from '@/stage/contract';
import type { Pull } from '@/stage/handle-gizmo';
import { rigView } from '@/stage/rig-view';
import { Transport } from '@/stage/transport';
import { Button } from '@/ui/button';
import { newGesture } from '@/ui/gesture';
import { Edge, Panel, Panels } from '@/ui/panels';
import { TabPanel, Tabs } from '@/ui/tabs';
import type { PartyJson } from '@/wishes/party';
import type { FitSettings } from '@/wishes/wishes';
import { Braid, type Picking, type Pointed } from './braid';
import { Film } from './film/film';
import { FittingStage } from './fitting-stage';
import { Lacking } from './lacking';
import { CurvesPane } from './panes/curves-pane';
import { DrawingsPane } from './panes/drawings-pane';
import { GoalsPane } from './panes/goals-pane';
import { HandPane } from './panes/hand-pane';
import { PANE_WORDS, PaneTabs } from './panes/pane-tabs';
import { PlantsPane } from './panes/plants-pane';
import { SwapPane } from './panes/swap-pane';
import { TroublePane } from './panes/trouble-pane';
import { litJoints, slotOf } from './pointing';
import { partSpot, slotPlace } from './result-places';
import { type Figures, type RigFacts, SettingsPanel } from './settings-panel';
import { StageTools, type StageView } from './stage-tools';
import { fittingPlace as texts } from './texts';
import { useFitting } from './use-fitting';
import { useFittingDocument } from './use-fitting-document';
import { useFittingView } from './use-fitting-view';
import { useKeep } from './use-keep';
import { useMap } from './use-map';

const NOBODY: readonly CastMember[] = [];
const NONE: readonly string[] = [];
const NOTHING = (): void => undefined;
/** One take on one character: both moving in step, how their joints answer each other, and what went wrong. */
export function FittingPlace() {
  const me = useMe();
  const [view, setView] = useFittingView();
  const cast = useCast();
  const castId = view.cast ?? me.performerId;
  const member = cast.data?.find((c) => c.id === castId);
  const choices = useItems({});
  const motions = useMemo(() => (choices.data?.items ?? []).filter((i) => kindOf(i).fits), [choices.data]);
  const itemId = view.item ?? motions[0]?.id ?? null;
  const item = useItem(itemId);
  const source = useRig(item.data?.rigId);
  useLookingAt(item.data?.id);
  const target = useCastRig(member?.id);
  const mayChange = me.role !== 'viewer';
  const document = useFittingDocument(item.data?.id, member?.id, mayChange);
  const { settings, edits, change } = document;
  const [preview, setPreview] = useState<Offer | null>(null);
  const motionHash = item.data?.motionHash;
  const sourceFacts = useFacts(source.data);
  const targetFacts = useFacts(target.data);
  const keys = useMotionKeys(item.data?.keysHash);
  const from = useParty(source.data, keys.data);
  const onto = useParty(target.data);
  const wish = useMemo<FitWish | undefined>(
    () =>
      motionHash && from && onto && document.loaded && !keys.isPending
        ? {
            motionHash,
            source: from,
            target: onto,
            settings: preview?.settings ?? settings,
            edits: preview?.edits ?? edits,
          }
        : undefined,
    [motionHash, from, onto, document.loaded, keys.isPending, settings, edits, preview],
  );
  // what is kept, whatever is on trial: offers are always held against it
  const plainWish = useMemo(
    () => (wish && preview ? { ...wish, settings, edits } : wish),
    [wish, preview, settings, edits],
  );
  const [clock] = useState(() => new Clock());
  const { answer, of, error, busy } = useFitting(wish, clock.shown);
  const report = answer?.report;
  // biome-ignore lint/correctness/useExhaustiveDependencies: figures are told anew when they are measured, not when the figure has moved
  const figures = useMemo<Figures | undefined>(() => answer, [report]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: with every wish a motion is on its way
  useLayoutEffect(() => clock.awaitMotion(), [clock, wish]);
  // by hand is told in frames: where the motion has another length now, it is shown and worked on in the new ones
  const length = answer?.result.frameCount;
  const work = useMemo(() => (length === undefined ? edits : stretchEdits(edits, length)), [edits, length]);
  const stage = useRef<StageHandle | null>(null);
  const [pointed, setPointed] = useState<Pointed | null>(null);
  const [picking, setPicking] = useState<Picking | null>(null);
  const [held, setHeld] = useState<Held | null>(null);
  const [mode, setMode] = useState<'move' | 'turn'>('move');
  const [curveJoint, setCurveJoint] = useState('');
  const [exporting, setExporting] = useState(false);
  const [many, setMany] = useState(false);
  const [filming, setFilming] = useState(false);
  const editor = useMap();
  // the result as it was before the last step, to be held against what is now
  const former = useRef<{ before: FitAnswer | undefined; label: string }>({ before: undefined, label: '' });
  const [showBefore, setShowBefore] = useState(false);
  // the key of what is held, as it was when a pull began
  const start = useRef<ReturnType<typeof heldKey>>({ move: [0, 0, 0], turn: [0, 0, 0, 1] });
  const pull = useRef('');
  // the result of what is kept, not of what is on trial
  const latest = useRef(answer);
  if (of?.settings === settings && of.edits === edits) latest.current = answer;
  const step = useCallback(
    (next: Parameters<typeof change>[0], label: string, gesture?: string): void => {
      if (former.current.label !== label) former.current = { before: latest.current, label };
      setPreview(null);
      change(next, label, gesture);
    },
    [change],
  );
  const onSettings = useStable((part: Partial<FitSettings>, label: string, gesture?: string): void =>
    step({ settings: { ...settings, ...part } }, label, gesture),
  );

  const takeOffer = useStable((offer: Offer): void =>
    step({ settings: offer.settings, edits: offer.edits }, offer.label),
  );
  const onView = useStable((v: Partial<StageView>): void => void setView(v));
  const onAlso = useStable((also: string[]): void => void setView({ also }));
  const onPointJoint = useStable((_: string, name: string | null): void => setPointed(name ? { joint: name } : null));
  const onLaneJoint = useStable((name: string | null): void => setPointed(name ? { joint: name } : null));
  const onStartPicking = useStable((wanted: Picking): void => {
    // a joint that moves is hard to hit
    clock.setPlaying(false);
    setPicking(wanted);
  });
  const onStopPicking = useStable((): void => setPicking(null));
  const onPick = useStable((name: string): void => {
    if (picking) editor.setSlot(picking.side === 'source' ? source.data! : target.data!, picking.slot, name);
    setPicking(null);
    setPointed(null);
  });
  const onPullStart = useStable((): void => {
    clock.setPlaying(false);
    pull.current = newGesture();
    if (held) start.current = heldKey(work.corrections, held, clock.frame);
  });
  const onPull = useStable((by: Pull): void => {
    if (!held || !answer) return;
    const key = pulledKey(start.current, by, mode, held);
    step(
      { edits: { ...work, corrections: withKey(work.corrections, held, clock.frame, key) } },
      texts.pulledTheAtFrame(heldName(held), clock.frame + 1),
      pull.current,
    );
  });
  const onItem = useStable((id: string): void => {
    document.carry();
    setPreview(null);
    former.current = { before: undefined, label: '' };
    void setView({ item: id });
  });
  const onCast = useStable((id: string): void => {
    document.dropCarried();
    setPreview(null);
    former.current = { before: undefined, label: '' };
    void setView({ cast: id });
  });
  const onExport = useStable((): void => setExporting(true));
  const onMany = useStable((): void => setMany(true));
  const onFilm = useStable((): void => setFilming(true));
  const members = cast.data ?? NOBODY;
  const also = useMemo(
    () => members.filter((c) => view.also.includes(c.id) && c.id !== member?.id),
    [members, view.also, member?.id],
  );
  const lit = useMemo(
    () => (pointed && source.data && target.data ? litJoints(pointed, source.data, target.data) : undefined),
    [pointed, source.data, target.data],
  );
  const { over, align, trails, ghosts, show, body } = view;
  const stageView = useMemo<StageView>(
    () => ({ over, align, trails, ghosts, show, body }),
    [over, align, trails, ghosts, show, body],
  );
  const moving = useMemo(
    () => (answer?.report.troubles.some((t) => t.kind === 'unpaired') ? answer.report.unmapped.source : NONE),
    [answer],
  );

  const { keep, keeping } = useKeep(item.data, member, settings, document.edited ? edits : undefined);
  useKeys('space', () => clock.setPlaying(!clock.playing));
  useKeys('comma', () => clock.step(-1));
  useKeys('period', () => clock.step(1));
  useKeys('l', () => clock.setLoop(!clock.loop));
  useKeys('k', keep);
  useKeys('e', () => setExporting(true));
  useKeys('m', () => setMany(true));
  useKeys('o', () => void setView({ over: !view.over }));
  useKeys('y', () => void setView({ trails: !view.trails }));
  useKeys('g', () => void setView({ ghosts: !view.ghosts }));
  useKeys('t', () => setMode(mode === 'move' ? 'turn' : 'move'));
  useKeys('b', () => setShowBefore(!showBefore));
  useKeys('1', () => void setView({ pane: 'trouble' }));
  useKeys('2', () => void setView({ pane: 'plants' }));
  useKeys('3', () => void setView({ pane: 'goals' }));
  useKeys('4', () => void setView({ pane: 'hand' }));
  useKeys('5', () => void setView({ pane: 'curves' }));
  useKeys('6', () => void setView({ pane: 'drawings' }));
  useKeys('7', () => void setView({ pane: 'swap' }));

  const lacks =
    (choices.data && motions.length === 0) || (cast.data && cast.data.length === 0)
      ? motions.length === 0
        ? 'motion'
        : 'cast'
      : item.error
        ? 'item'
        : cast.data && !member
          ? 'member'
          : null;
  if (lacks)
    return <Lacking what={lacks} why={item.error?.message ?? ''} onOther={() => void setView({ item: null })} />;
  const before = former.current.before;
  const shown = showBefore && before ? before : answer;
  const names = target.data?.rig.joints.map((j) => j.name) ?? [];
  const paper = target.data && rigView(target.data).cutout;
  const isSwap = source.data?.rig.kind === 'cutout' && target.data?.rig.kind === 'cutout';
  const joint = curveJoint || (target.data?.map.slots.shinL?.joint ?? names[0] ?? '');
  const markedSlot = pointed?.slot ?? slotOf(pointed?.joint, source.data, target.data);
  const frames = answer?.result.frameCount ?? 1;
  const fps = answer?.result.fps ?? 30;
  return (
    <div className="flex h-full">
      <Panels id="fitting" upright className="min-w-0 flex-1">
        <Panel id="stage" defaultSize="53" minSize={220}>
          <section aria-label={texts.stage} className="relative flex h-full min-w-0 flex-col">
            <div className="relative min-h-0 flex-1">
              {source.data && target.data && member ? (
                <>
                  <FittingStage
                    clock={clock}
                    source={source.data}
                    target={target.data}
                    member={member}
                    also={also}
                    answer={shown}
                    wish={wish}
                    view={stageView}
                    lit={lit}
                    picking={picking}
                    held={view.pane === 'hand' && !showBefore ? held : null}
                    mode={mode}
                    handle={stage}
                    onPointJoint={onPointJoint}
                    onPick={onPick}
                    onStopPicking={onStopPicking}
                    onPullStart={onPullStart}
                    onPull={onPull}
                    onPullEnd={NOTHING}
                  />
                  <p className="pointer-events-none absolute top-2.5 left-4 text-muted">
                    {texts.sourceM(item.data?.name ?? '', source.data.heightM.toFixed(2))}
                    {isSwap
                      ? view.over
                        ? texts.pale
                        : texts.onTheLeft
                      : view.over
                        ? texts.paleBones
                        : texts.bonesOnTheLeft}
                  </p>
                  <p className="pointer-events-none absolute top-2.5 right-4 text-right text-muted">
                    {texts.targetM(member.name, target.data.heightM.toFixed(2))}
                    {busy && texts.solving}
                  </p>
                  {item.data?.bound && item.data.madeFor !== member.id && (
                    <p role="status" className="absolute top-8 right-4 text-right text-brass-text">
                      {texts.isMeantFor(item.data.name)} {item.data.madeForName ?? texts.anotherCharacter} {texts.alone}
                    </p>
                  )}
                  <OthersHere subjectId={item.data?.id} className="absolute top-8 left-3.5" />
                  <StageTools
                    view={stageView}
                    onView={onView}
                    stage={stage}
                    cast={members}
                    member={member}
                    also={view.also}
                    onAlso={onAlso}
                    onFilm={onFilm}
                  />
                </>
              ) : (
                <div className="stage-back h-full" />
              )}
              {preview && (
                <p className="absolute inset-x-0 top-9 mx-auto flex w-fit items-center gap-2 rounded-full border border-brass bg-panel px-3 py-1">
                  {texts.trying(preview.label)}
                  <Button size="tiny" look="brass" onClick={() => takeOffer(preview)}>
                    {texts.take}
                  </Button>
                  <Button size="tiny" onClick={() => setPreview(null)}>
                    {texts.back}
                  </Button>
                </p>
              )}
              {!document.loaded && document.trouble && (
                <p role="alert" className="absolute inset-x-6 top-12 rounded-md border border-raspberry bg-panel p-3">
                  {texts.theFittingCouldNotBe(document.trouble)}
                </p>
              )}
              {error && (
                <p className="absolute inset-x-6 top-12 rounded-md border border-raspberry bg-panel p-3 text-raspberry">
                  {error.message}
                </p>
              )}
              {before && !preview && (
                <Button
                  size="tiny"
                  className="absolute right-3 bottom-2"
                  look={showBefore ? 'brass' : 'plain'}
                  aria-pressed={showBefore}
                  keys="B"
                  hint={texts.showsTheResultBefore}
                  onClick={() => setShowBefore(!showBefore)}
                >
                  {showBefore ? texts.showingBefore : texts.before}
                </Button>
              )}
            </div>
            <div className="border-t border-line bg-panel px-4 py-1.5">
              <Transport clock={clock} disabled={!answer} />
            </div>
          </section>
        </Panel>
        <Edge upright label={texts.heightOfTheStage} />
        <Panel id="below" minSize={160}>
          <Panels id="fitting-below" className="h-full">
            <Panel id="braid" defaultSize="47" minSize={380}>
              {source.data && target.data ? (
                <Braid
                  source={source.data}
                  target={target.data}
                  editor={editor}
                  moving={moving}
                  marked={markedSlot}
                  onPoint={setPointed}
                  onPick={onStartPicking}
                />
              ) : null}
            </Panel>
            <Edge label={texts.widthOfTheBraid} />
            <Panel id="pane" minSize={300}>
              <section aria-label={PANE_WORDS[view.pane]} className="flex h-full min-w-0 flex-col">
                <Tabs
                  value={view.pane}
                  onChange={(pane) => void setView({ pane })}
                  className="flex min-h-0 flex-1 flex-col"
                >
                  <PaneTabs
                    troubles={answer?.report.troubles.length ?? 0}
                    edits={edits}
                    flat={target.data?.rig.kind === 'cutout'}
                    swap={isSwap}
                  />
                  <TabPanel value={view.pane} className="min-h-0 flex-1 overflow-y-auto">
                    {view.pane === 'trouble' && (
                      <TroublePane
                        report={shown?.report}
                        clock={clock}
                        wish={plainWish}
                        previewing={preview?.id ?? null}
                        onPointJoint={onLaneJoint}
                        onPreview={setPreview}
                        onTake={takeOffer}
                      />
                    )}
                    {view.pane === 'plants' && answer && (
                      <PlantsPane
                        clock={clock}
                        frames={frames}
                        fps={fps}
                        plants={work.plants ?? answer.report.plants}
                        edits={work}
                        held={settings.plants}
                        spotAt={(part: PlantPart, f) => target.data && partSpot(target.data, answer.result, part, f)}
                        onChange={(e, label) => step({ edits: e }, label)}
                      />
                    )}
                    {view.pane === 'goals' && answer && (
                      <GoalsPane
                        clock={clock}
                        frames={frames}
                        edits={work}
                        placeNow={(slot) => target.data && slotPlace(target.data, answer.result, slot, clock.frame)}
                        onChange={(e, label) => step({ edits: e }, label)}
                      />
                    )}
                    {view.pane === 'hand' && answer && (
                      <HandPane
                        clock={clock}
                        frames={frames}
                        fps={fps}
                        edits={work}
                        joints={names}
                        held={held}
                        mode={mode}
                        flat={target.data?.rig.kind === 'cutout'}
                        onHold={setHeld}
                        onMode={setMode}
                        onChange={(e, label) => step({ edits: e }, label)}
                      />
                    )}
                    {view.pane === 'drawings' && answer && paper && member?.assets.art && (
                      <DrawingsPane
                        clock={clock}
                        frames={frames}
                        rig={paper}
                        art={member.assets.art}
                        edits={work}
                        onChange={(e, label) => step({ edits: e }, label)}
                      />
                    )}
                    {view.pane === 'swap' && answer?.swap && (
                      <SwapPane
                        clock={clock}
                        frames={frames}
                        swap={answer.swap}
                        keyed={{ before: keys.data !== null, after: answer.keyed }}
                        edits={work}
                        onChange={(e, label) => step({ edits: e }, label)}
                      />
                    )}
                    {view.pane === 'curves' && (
                      <CurvesPane
                        clock={clock}
                        fps={fps}
                        wish={wish}
                        joints={names}
                        joint={joint}
                        onJoint={setCurveJoint}
                      />
                    )}
                  </TabPanel>
                </Tabs>
              </section>
            </Panel>
          </Panels>
        </Panel>
      </Panels>
      <SettingsPanel
        item={item.data}
        cast={members}
        member={member}
        source={sourceFacts}
        target={targetFacts}
        settings={preview?.settings ?? settings}
        answer={figures}
        keeping={keeping}
        stored={document.state}
        trouble={document.trouble}
        onRetry={document.retry}
        onGiveUp={document.giveUp}
        aside={document.aside}
        onAside={document.useAside}
        onItem={onItem}
        onCast={onCast}
        onSettings={onSettings}
        onKeep={keep}
        onExport={onExport}
        onMany={onMany}
      />
      {item.data && member && (
        <ExportDialog
          open={exporting}
          onOpenChange={setExporting}
          itemId={item.data.id}
          name={item.data.name}
          fps={item.data.facts.fps}
          flat={target.data?.rig.kind === 'cutout'}
          onto={{ id: member.id, name: member.name, settings, ...(document.edited ? { edits } : {}) }}
        />
      )}
      {item.data && member && source.data && target.data && answer && (
        <Film
          asked={filming}
          onAsked={setFilming}
          item={item.data}
          member={member}
          source={source.data}
          target={target.data}
          answer={answer}
          view={stageView}
          stage={stage}
        />
      )}
      {many && item.data && (
        <FitManyDialog
          onClose={() => setMany(false)}
          items={[item.data]}
          folderId={item.data.folderId}
          castIds={member ? [member.id] : []}
          settings={settings}
        />
      )}
    </div>
  );
}

/** What the settings tell of a rig; a slot changed is none of it. */
function useFacts(rig: RigAnswer | undefined): RigFacts | undefined {
  // biome-ignore lint/correctness/useExhaustiveDependencies: the parts that count
  return useMemo(() => rig, [rig?.id, rig?.restKind, rig?.match, rig?.limits, rig?.skin, rig?.rig]);
}

/** What of a rig a solve takes: the same object until something of it has changed. */
function useParty(rig: RigAnswer | undefined, keys?: CutoutKeys | null): PartyJson | undefined {
  const slots = rig?.map.slots;
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new version of the same slots is the same map
  return useMemo(
    () =>
      rig && {
        rig: rig.rig,
        map: rig.map,
        restPose: rig.restPose,
        match: rig.match,
        limits: rig.limits,
        pairs: rig.pairs,
        floorM: rig.floorM,
        ...(keys && { keys }),
        skin: rig.skin,
      },
    [rig?.rig, slots, rig?.restPose, rig?.match, rig?.limits, rig?.pairs, rig?.floorM, rig?.skin, keys],
  );
}
