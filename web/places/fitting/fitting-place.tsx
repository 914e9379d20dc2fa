'use client';

import { type PlantPart, stretchEdits } from '@velvet-reel/motion';
import { clsx } from 'clsx';
import { useRouter } from 'next/navigation';
import { parseAsArrayOf, parseAsBoolean, parseAsString, parseAsStringLiteral, useQueryStates } from 'nuqs';
import { useCallback, useMemo, useRef, useState } from 'react';
import { toast } from 'sonner';
import { sendJson } from '@/client/api';
import { useKeys } from '@/client/keys';
import { useCast, useCastRig, useItem, useItems, useRefresh, useRig } from '@/client/queries';
import { useMe } from '@/client/session';
import type { CastMember, Item, RigAnswer } from '@/client/types';
import { useUndo } from '@/client/undo';
import { useStable } from '@/client/use-stable';
import { Clock } from '@/stage/clock';
import type { Pull } from '@/stage/handle-gizmo';
import { rigView } from '@/stage/rig-view';
import type { StageHandle } from '@/stage/stage';
import { Transport } from '@/stage/transport';
import { Button } from '@/ui/button';
import { Empty } from '@/ui/empty';
import { ExportDialog } from '@/ui/export-dialog';
import { FitManyDialog } from '@/ui/fit-many-dialog';
import type { PartyJson } from '@/workers/party';
import type { FitSettings } from '@/workers/settings';
import type { FitAnswer } from '@/workers/solve';
import type { FitWish, Offer } from '@/workers/solve-fit';
import { Braid, type Picking, type Pointed } from './braid';
import { FittingStage } from './fitting-stage';
import { heldKey, pulledKey } from './held-key';
import { CurvesPane } from './panes/curves-pane';
import { GoalsPane } from './panes/goals-pane';
import { HandPane, type Held, heldName, withKey } from './panes/hand-pane';
import { PlantsPane } from './panes/plants-pane';
import { TroublePane } from './panes/trouble-pane';
import { partSpot, slotPlace } from './result-places';
import { SettingsPanel } from './settings-panel';
import { ALIGNS, PLAIN_VIEW, StageTools, type StageView } from './stage-tools';
import { useFitting } from './use-fitting';
import { carrySettings, useFittingDocument } from './use-fitting-document';
import { useMap } from './use-map';

const NOBODY: readonly CastMember[] = [];
const NONE: readonly string[] = [];
const NOTHING = (): void => undefined;
const PANES = ['trouble', 'plants', 'goals', 'hand', 'curves'] as const;
type Pane = (typeof PANES)[number];
const PANE_WORDS: Readonly<Record<Pane, string>> = {
  trouble: 'Trouble lanes',
  plants: 'Plants',
  goals: 'Goals',
  hand: 'By hand',
  curves: 'Curves',
};

/** One take on one character: both moving in step, how their joints answer each other, and what went wrong. */
export function FittingPlace() {
  const router = useRouter();
  const me = useMe();
  const [view, setView] = useQueryStates(
    {
      item: parseAsString,
      cast: parseAsString,
      pane: parseAsStringLiteral(PANES).withDefault('trouble'),
      also: parseAsArrayOf(parseAsString).withDefault([]),
      over: parseAsBoolean.withDefault(PLAIN_VIEW.over),
      align: parseAsStringLiteral(ALIGNS).withDefault(PLAIN_VIEW.align),
      trails: parseAsBoolean.withDefault(PLAIN_VIEW.trails),
      ghosts: parseAsBoolean.withDefault(PLAIN_VIEW.ghosts),
      show: parseAsStringLiteral(['both', 'source', 'target'] as const).withDefault(PLAIN_VIEW.show),
      body: parseAsStringLiteral(['mesh', 'bones'] as const).withDefault(PLAIN_VIEW.body),
    },
    { history: 'replace' },
  );
  const cast = useCast();
  const castId = view.cast ?? me.performerId;
  const member = cast.data?.find((c) => c.id === castId);
  const choices = useItems({});
  const motions = useMemo(() => (choices.data?.items ?? []).filter((i) => i.kind !== 'pack'), [choices.data]);
  const itemId = view.item ?? motions[0]?.id ?? null;
  const item = useItem(itemId);
  const source = useRig(item.data?.rigId);
  const target = useCastRig(member?.id);
  const mayChange = me.role !== 'viewer';
  const document = useFittingDocument(item.data?.id, member?.id, mayChange);
  const { settings, edits, change } = document;
  const [preview, setPreview] = useState<Offer | null>(null);
  const motionHash = item.data?.motionHash;
  const from = useParty(source.data);
  const onto = useParty(target.data);
  const wish = useMemo<FitWish | undefined>(
    () =>
      motionHash && from && onto && document.loaded
        ? {
            motionHash,
            source: from,
            target: onto,
            settings: preview?.settings ?? settings,
            edits: preview?.edits ?? edits,
          }
        : undefined,
    [motionHash, from, onto, document.loaded, settings, edits, preview],
  );
  // what is kept, whatever is on trial: offers are always held against it
  const plainWish = useMemo(
    () => (wish && preview ? { ...wish, settings, edits } : wish),
    [wish, preview, settings, edits],
  );
  const { answer, of, error, busy } = useFitting(wish);
  const [clock] = useState(() => new Clock());
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
  const [keeping, setKeeping] = useState(false);
  const editor = useMap();
  const refresh = useRefresh();
  const push = useUndo((s) => s.push);
  // the result as it was before the last step, to be held against what is now
  const former = useRef<{ before: FitAnswer | undefined; label: string }>({ before: undefined, label: '' });
  const [showBefore, setShowBefore] = useState(false);
  // the key of what is held, as it was when a pull began
  const start = useRef<ReturnType<typeof heldKey>>({ move: [0, 0, 0], turn: [0, 0, 0, 1] });
  // the result of what is kept, not of what is on trial
  const latest = useRef(answer);
  if (of?.settings === settings && of.edits === edits) latest.current = answer;
  const step = useCallback(
    (next: Parameters<typeof change>[0], label: string): void => {
      if (former.current.label !== label) former.current = { before: latest.current, label };
      setPreview(null);
      change(next, label);
    },
    [change],
  );
  const onSettings = useStable((part: Partial<FitSettings>, label: string): void =>
    step({ settings: { ...settings, ...part } }, label),
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
    if (held) start.current = heldKey(work, held, clock.frame);
  });
  const onPull = useStable((by: Pull): void => {
    if (!held || !answer) return;
    const key = pulledKey(start.current, by, mode, held);
    step(
      { edits: { ...work, corrections: withKey(work.corrections, held, clock.frame, key) } },
      `Pulled the ${heldName(held)} at frame ${clock.frame + 1}`,
    );
  });
  const onItem = useStable((id: string): void => {
    carrySettings(settings);
    setPreview(null);
    former.current = { before: undefined, label: '' };
    void setView({ item: id });
  });
  const onCast = useStable((id: string): void => {
    setPreview(null);
    former.current = { before: undefined, label: '' };
    void setView({ cast: id });
  });
  const onExport = useStable((): void => setExporting(true));
  const onMany = useStable((): void => setMany(true));
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

  const keep = useStable(async (): Promise<void> => {
    if (!item.data || !member || keeping) return;
    setKeeping(true);
    try {
      const kept = await sendJson<Item>('POST', '/api/v1/fittings', {
        itemId: item.data.id,
        castId: member.id,
        name: `${item.data.name} on ${member.name}`,
        settings,
        ...(document.edited ? { edits } : {}),
      });
      push({
        label: `Kept ${kept.name}`,
        undo: () => sendJson('PATCH', `/api/v1/items/${kept.id}`, { change: { binned: true } }),
      });
      toast(`${kept.name} is in the library`, {
        action: { label: 'Show', onClick: () => router.push(`/library?item=${kept.id}`) },
      });
      refresh();
    } catch (e) {
      toast.error((e as Error).message);
    } finally {
      setKeeping(false);
    }
  });
  const onKeep = useStable((): void => void keep());
  useKeys('space', () => clock.setPlaying(!clock.playing));
  useKeys('comma', () => clock.step(-1));
  useKeys('period', () => clock.step(1));
  useKeys('l', () => clock.setLoop(!clock.loop));
  useKeys('k', () => void keep());
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

  if ((choices.data && motions.length === 0) || (cast.data && cast.data.length === 0)) {
    return (
      <Empty
        title="A fitting needs a motion and a character"
        action={
          <Button look="brass" onClick={() => router.push('/intake')}>
            Bring files in
          </Button>
        }
      >
        {motions.length === 0 ? 'The library is empty' : 'The cast is empty'}. Drop a BVH, GLB or glTF file at Intake.
      </Empty>
    );
  }
  if (item.error) {
    return (
      <Empty
        title="This motion is not there any more"
        action={<Button onClick={() => void setView({ item: null })}>Choose another</Button>}
      >
        {item.error.message}
      </Empty>
    );
  }
  if (cast.data && !member) {
    return (
      <Empty
        title="Choose a character first"
        action={
          <Button look="brass" onClick={() => router.push('/cast')}>
            To the cast
          </Button>
        }
      >
        Put a cast member on hand, and motions are fitted to it here.
      </Empty>
    );
  }
  const before = former.current.before;
  const shown = showBefore && before ? before : answer;
  const names = target.data?.rig.joints.map((j) => j.name) ?? [];
  const joint = curveJoint || (target.data?.map.slots.shinL?.joint ?? names[0] ?? '');
  const markedSlot = pointed?.slot ?? slotOf(pointed?.joint, source.data, target.data);
  const frames = answer?.result.frameCount ?? 1;
  const fps = answer?.result.fps ?? 30;
  return (
    <div className="flex h-full">
      <div className="flex min-w-0 flex-1 flex-col">
        <section aria-label="Stage" className="relative flex min-h-0 min-w-0 flex-[1.12] flex-col">
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
                  Source · {item.data?.name}, {source.data.heightM.toFixed(2)} m
                  {view.over ? ' (pale bones)' : ', bones on the left'}
                </p>
                <p className="pointer-events-none absolute top-2.5 right-4 text-right text-muted">
                  Target · {member.name}, {target.data.heightM.toFixed(2)} m{busy && ' · solving …'}
                </p>
                <StageTools
                  view={stageView}
                  onView={onView}
                  stage={stage}
                  cast={members}
                  member={member}
                  also={view.also}
                  onAlso={onAlso}
                />
              </>
            ) : (
              <div className="stage-back h-full" />
            )}
            {preview && (
              <p className="absolute inset-x-0 top-9 mx-auto flex w-fit items-center gap-2 rounded-full border border-brass bg-panel px-3 py-1">
                On trial: {preview.label}
                <Button className="py-0!" look="brass" onClick={() => takeOffer(preview)}>
                  Take
                </Button>
                <Button className="py-0!" onClick={() => setPreview(null)}>
                  Back
                </Button>
              </p>
            )}
            {error && (
              <p className="absolute inset-x-6 top-12 rounded-md border border-raspberry bg-panel p-3 text-raspberry">
                {error.message}
              </p>
            )}
            {before && !preview && (
              <Button
                className="absolute right-3 bottom-2 py-0!"
                look={showBefore ? 'brass' : 'plain'}
                aria-pressed={showBefore}
                keys="B"
                hint="The result as it was before the last step"
                onClick={() => setShowBefore(!showBefore)}
              >
                {showBefore ? 'Shows before' : 'Before'}
              </Button>
            )}
          </div>
          <div className="border-t border-line bg-panel px-4 py-1.5">
            <Transport clock={clock} disabled={!answer} />
          </div>
        </section>
        <div className="flex min-h-0 flex-1 border-t border-line">
          <div className="w-[47%] min-w-[420px] border-r border-line">
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
          </div>
          <section aria-label={PANE_WORDS[view.pane]} className="flex min-w-0 flex-1 flex-col">
            <div role="tablist" aria-label="Under the clock" className="flex gap-1 px-3 pt-1.5 pb-1">
              {PANES.map((pane, i) => (
                <button
                  key={pane}
                  type="button"
                  role="tab"
                  aria-selected={view.pane === pane}
                  title={`Key ${i + 1}`}
                  onClick={() => void setView({ pane })}
                  className={clsx(
                    'rounded px-2 py-0.5 text-[13px]',
                    view.pane === pane ? 'heading bg-raised text-ink' : 'text-muted hover:text-ink',
                  )}
                >
                  {PANE_WORDS[pane]}
                  {pane === 'trouble' && answer && answer.report.troubles.length > 0 && (
                    <span className="ml-1 text-raspberry">{answer.report.troubles.length}</span>
                  )}
                  {pane === 'plants' && edits.plants !== null && <Dot />}
                  {pane === 'goals' && edits.goals.length + edits.looks.length > 0 && <Dot />}
                  {pane === 'hand' && edits.corrections.length > 0 && <Dot />}
                </button>
              ))}
            </div>
            <div className="min-h-0 flex-1 overflow-y-auto">
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
                  onHold={setHeld}
                  onMode={setMode}
                  onChange={(e, label) => step({ edits: e }, label)}
                />
              )}
              {view.pane === 'curves' && (
                <CurvesPane clock={clock} fps={fps} wish={wish} joints={names} joint={joint} onJoint={setCurveJoint} />
              )}
            </div>
          </section>
        </div>
      </div>
      <SettingsPanel
        item={item.data}
        items={motions}
        cast={members}
        member={member}
        source={source.data}
        target={target.data}
        settings={preview?.settings ?? settings}
        answer={answer}
        keeping={keeping}
        stored={document.state}
        aside={document.aside !== null}
        onAside={document.useAside}
        onItem={onItem}
        onCast={onCast}
        onSettings={onSettings}
        onKeep={onKeep}
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
          onto={{ id: member.id, name: member.name, settings, ...(document.edited ? { edits } : {}) }}
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

/** What of a rig a solve takes: the same object until something of it has changed. */
function useParty(rig: RigAnswer | undefined): PartyJson | undefined {
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
      },
    [rig?.rig, slots, rig?.restPose, rig?.match, rig?.limits, rig?.pairs, rig?.floorM],
  );
}

const Dot = () => (
  <span className="ml-1 inline-block size-1.5 rounded-full bg-brass align-middle" title="changed by hand" />
);

function slotOf(
  joint: string | undefined,
  source: RigAnswer | undefined,
  target: RigAnswer | undefined,
): string | undefined {
  if (!joint) return undefined;
  for (const rig of [target, source])
    for (const [slot, e] of Object.entries(rig?.map.slots ?? {})) if (e.joint === joint) return slot;
  return undefined;
}

function litJoints(
  pointed: Pointed,
  source: RigAnswer,
  target: RigAnswer,
): { source: number | undefined; target: number | undefined } {
  const find = (rig: RigAnswer, name: string | null | undefined): number | undefined => {
    const at = name ? rigView(rig).rig.names.indexOf(name) : -1;
    return at >= 0 ? at : undefined;
  };
  if (pointed.slot)
    return {
      source: find(source, source.map.slots[pointed.slot]?.joint),
      target: find(target, target.map.slots[pointed.slot]?.joint),
    };
  return { source: find(source, pointed.joint), target: find(target, pointed.joint) };
}
