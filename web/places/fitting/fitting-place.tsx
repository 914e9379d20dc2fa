'use client';

import { useQueryClient } from '@tanstack/react-query';
import { HAND_MODES, slotLabel, TRAVELS } from '@velvet-reel/motion';
import { useRouter } from 'next/navigation';
import { parseAsBoolean, parseAsJson, parseAsString, parseAsStringLiteral, useQueryStates } from 'nuqs';
import { useState } from 'react';
import { toast } from 'sonner';
import { sendJson } from '@/client/api';
import { useKeys } from '@/client/keys';
import { useCast, useCastRig, useItem, useItems, useRefresh, useRig } from '@/client/queries';
import { useMe } from '@/client/session';
import type { Item, RigAnswer } from '@/client/types';
import { useUndo } from '@/client/undo';
import { Clock } from '@/stage/clock';
import { rigView } from '@/stage/rig-view';
import { Transport } from '@/stage/transport';
import { Button } from '@/ui/button';
import { Empty } from '@/ui/empty';
import { ExportDialog } from '@/ui/export-dialog';
import { type FitSettings, TUNING_DEFAULTS, tuning } from '@/workers/settings';
import { Braid, type Pointed } from './braid';
import { PairStage } from './pair-stage';
import { SettingsPanel } from './settings-panel';
import { TroubleLanes } from './trouble-lanes';
import { useFitting } from './use-fitting';

/** One take on one character: both moving in step, how their joints answer each other, and what went wrong. */
export function FittingPlace() {
  const router = useRouter();
  const me = useMe();
  const [view, setView] = useQueryStates(
    {
      item: parseAsString,
      cast: parseAsString,
      plants: parseAsBoolean.withDefault(true),
      travel: parseAsStringLiteral(TRAVELS).withDefault('leg'),
      hands: parseAsStringLiteral(HAND_MODES).withDefault('free'),
      limits: parseAsBoolean.withDefault(false),
      tune: parseAsJson((x) => tuning.parse(x)).withDefault(TUNING_DEFAULTS),
      over: parseAsBoolean.withDefault(false),
    },
    { history: 'replace' },
  );
  const cast = useCast();
  const castId = view.cast ?? me.performerId;
  const member = cast.data?.find((c) => c.id === castId);
  const choices = useItems({});
  const itemId = view.item ?? choices.data?.items[0]?.id ?? null;
  const item = useItem(itemId);
  const source = useRig(item.data?.rigId);
  const target = useCastRig(member?.id);
  const settings: FitSettings = {
    plants: view.plants,
    travel: view.travel,
    hands: view.hands,
    limits: view.limits,
    tuning: view.tune,
  };
  const { answer, error, busy } = useFitting(item.data, source.data, target.data, settings);
  const [clock] = useState(() => new Clock());
  const [pointed, setPointed] = useState<Pointed | null>(null);
  const [exporting, setExporting] = useState(false);
  const [keeping, setKeeping] = useState(false);
  const saveMap = useSaveMap();
  const refresh = useRefresh();
  const push = useUndo((s) => s.push);

  const keep = async (): Promise<void> => {
    if (!item.data || !member || keeping) return;
    setKeeping(true);
    try {
      const kept = await sendJson<Item>('POST', '/api/v1/fittings', {
        itemId: item.data.id,
        castId: member.id,
        name: `${item.data.name} on ${member.name}`,
        settings,
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
  };
  useKeys('space', () => clock.setPlaying(!clock.playing));
  useKeys('comma', () => clock.step(-1));
  useKeys('period', () => clock.step(1));
  useKeys('l', () => clock.setLoop(!clock.loop));
  useKeys('k', () => void keep());
  useKeys('e', () => setExporting(true));
  useKeys('o', () => void setView({ over: !view.over }));

  if ((choices.data && choices.data.items.length === 0) || (cast.data && cast.data.length === 0)) {
    return (
      <Empty
        title="A fitting needs a motion and a character"
        action={
          <Button look="brass" onClick={() => router.push('/intake')}>
            Bring files in
          </Button>
        }
      >
        {choices.data?.items.length === 0 ? 'The library is empty' : 'The cast is empty'}. Drop a BVH, GLB or glTF file
        at Intake.
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
  const lit = pointed && source.data && target.data ? litJoints(pointed, source.data, target.data) : undefined;
  return (
    <div className="flex h-full">
      <div className="flex min-w-0 flex-1 flex-col">
        <section aria-label="Stage" className="relative flex min-h-0 min-w-0 flex-[1.12] flex-col">
          <div className="relative min-h-0 flex-1">
            {source.data && target.data && member ? (
              <PairStage
                clock={clock}
                source={source.data}
                target={target.data}
                member={member}
                answer={answer}
                over={view.over}
                lit={lit}
              />
            ) : (
              <div className="stage-back h-full" />
            )}
            {error && (
              <p className="absolute inset-x-6 top-12 rounded-md border border-raspberry bg-panel p-3 text-raspberry">
                {error.message}
              </p>
            )}
            <Button
              look="quiet"
              className="absolute bottom-2 left-3 py-1!"
              onClick={() => void setView({ over: !view.over })}
              keys="O"
              hint="Lay the source over the target, or put them side by side"
              aria-pressed={view.over}
            >
              {view.over ? 'Side by side' : 'Lay over each other'}
            </Button>
            {busy && <p className="absolute top-2.5 right-4 text-[11.5px] text-muted">solving …</p>}
          </div>
          <div className="border-t border-line bg-panel px-4 py-1.5">
            <Transport clock={clock} disabled={!answer} />
          </div>
        </section>
        <div className="flex min-h-0 flex-1 border-t border-line">
          <div className="w-[48%] min-w-[440px] border-r border-line">
            {source.data && target.data ? (
              <Braid source={source.data} target={target.data} onPoint={setPointed} onSet={saveMap} />
            ) : null}
          </div>
          <TroubleLanes
            report={answer?.report}
            clock={clock}
            onPointJoint={(joint) => setPointed(joint ? { joint } : null)}
          />
        </div>
      </div>
      <SettingsPanel
        item={item.data}
        items={choices.data?.items ?? []}
        cast={cast.data ?? []}
        member={member}
        source={source.data}
        target={target.data}
        settings={settings}
        answer={answer}
        keeping={keeping}
        onChange={(change) => void setView(change)}
        onSettings={({ tuning: tune, ...rest }) => void setView({ ...rest, ...(tune ? { tune } : {}) })}
        onKeep={() => void keep()}
        onExport={() => setExporting(true)}
      />
      {item.data && member && (
        <ExportDialog
          open={exporting}
          onOpenChange={setExporting}
          itemId={item.data.id}
          name={item.data.name}
          fps={item.data.facts.fps}
          onto={{ id: member.id, name: member.name, settings }}
        />
      )}
    </div>
  );
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

/** Keeps a corrected slot for the rig, for every character and take that has it; can be undone. */
function useSaveMap(): (rig: RigAnswer, slot: string, joint: string | null) => void {
  const client = useQueryClient();
  const push = useUndo((s) => s.push);
  const put = async (
    rigId: string,
    slot: string,
    entry: RigAnswer['map']['slots'][string] | undefined,
  ): Promise<RigAnswer['map']['slots'][string] | undefined> => {
    // always onto the newest version, so that nothing of a colleague's is lost
    const fresh = await client.fetchQuery<RigAnswer>({
      queryKey: ['rig', rigId],
      queryFn: () => fetch(`/api/v1/rigs/${rigId}`).then((r) => r.json() as Promise<RigAnswer>),
      staleTime: 0,
    });
    const slots = { ...fresh.map.slots };
    const before = slots[slot];
    for (const [name, s] of Object.entries(slots)) {
      if (entry?.joint && s.joint === entry.joint && name !== slot)
        slots[name] = { joint: null, state: 'missing', why: `its joint was given to ${slotLabel(slot)}` };
    }
    if (entry) slots[slot] = entry;
    else delete slots[slot];
    await sendJson('PUT', `/api/v1/rigs/${rigId}/map`, { map: { slots }, version: fresh.mapVersion });
    await Promise.all([
      client.invalidateQueries({ queryKey: ['rig', rigId] }),
      client.invalidateQueries({ queryKey: ['cast-rig'] }),
      client.invalidateQueries({ queryKey: ['cast'] }),
    ]);
    return before;
  };
  return (rig, slot, joint) => {
    const entry =
      joint === null
        ? ({ joint: null, state: 'empty', why: 'empty on purpose' } as const)
        : ({ joint, state: 'sure', why: 'set by hand' } as const);
    void put(rig.id, slot, entry)
      .then((before) =>
        push({
          label: `Set ${slotLabel(slot)} to ${joint ?? 'empty on purpose'}`,
          undo: () => put(rig.id, slot, before),
        }),
      )
      .catch((error: Error) => toast.error(error.message));
  };
}
