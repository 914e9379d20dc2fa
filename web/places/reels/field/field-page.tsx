'use client';

import { PLACEMENT_DEFAULTS } from '@velvet-reel/motion';
import { Circle, Pin as PinIcon, Square, X } from 'lucide-react';
import Link from 'next/link';
import { memo, useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { toast } from 'sonner';
import { API, sendJson } from '@/client/api';
import { useKeys } from '@/client/keys';
import { usePerformer, useRefresh } from '@/client/queries';
import { useMay } from '@/client/session';
import type { CastMember, RigAnswer } from '@/contract';
import { ItemPicker } from '@/parts/item-picker';
import { SavingState } from '@/parts/saving-state';
import type { Playable } from '@/solver/solve';
import { Clock } from '@/stage/clock';
import { SoloStage } from '@/stage/solo-stage';
import { Button, IconButton } from '@/ui/button';
import { Empty } from '@/ui/empty';
import { newGesture } from '@/ui/gesture';
import { fieldPage as texts } from '../texts';
import { FieldPlane } from './field-plane';
import { keepMotion, type Pin, useFieldOfPoses, usePins } from './use-field';
import { useStick } from './use-stick';

type At = readonly [number, number];

const RECORDED_FPS = 60;
const LONGEST_S = 300;

/** Three or more stored poses on a plane; the performer on hand mixes them as the pointer wanders. */
export function FieldPage({ onClose, onReel }: { onClose: () => void; onReel: (id: string) => void }) {
  const { member, rig } = usePerformer();
  if (!member || !rig)
    return (
      <Empty title={texts.aFieldNeedsA} action={<Button onClick={onClose}>{texts.backToTheReels}</Button>}>
        {texts.putACastMember}
      </Empty>
    );
  return <Field key={member.id} member={member} rig={rig} onClose={onClose} onReel={onReel} />;
}

/** Finds poses and pins them. On its own, for a hand on the field moves nothing in it. */
const PosePicker = memo(function PosePicker({ pins, set }: Pick<ReturnType<typeof usePins>, 'pins' | 'set'>) {
  const add = (item: { id: string; name: string }): void => {
    if (pins.some((p) => p.itemId === item.id)) return;
    const angle = (2 * Math.PI * pins.length * 0.382) % (2 * Math.PI);
    const next: Pin = {
      itemId: item.id,
      name: item.name,
      at: [0.5 + 0.36 * Math.sin(angle), 0.5 - 0.36 * Math.cos(angle)],
    };
    set([...pins, next], texts.pinned(item.name));
  };
  return (
    <ItemPicker label={texts.poseToPin} fits={(i) => i.kind === 'pose'} nothing={texts.noPoseIsFound} onPick={add} />
  );
});

function Field({
  member,
  rig,
  onClose,
  onReel,
}: {
  member: CastMember;
  rig: RigAnswer;
  onClose: () => void;
  onReel: (id: string) => void;
}) {
  const mayChange = useMay('animator');
  const refresh = useRefresh();
  const [clock] = useState(() => new Clock());
  const { pins, document, set } = usePins(member.id, mayChange);
  const { field, ready, loading, lost } = useFieldOfPoses(pins, rig);
  const [at, setAt] = useState<At>([0.5, 0.5]);
  // a recording stays until the next one, whatever the pointer does; it is shown until the mix moves
  const [take, setTake] = useState<Playable>();
  const [watching, setWatching] = useState(false);
  const lastAt = useRef<At>(at);
  const [recording, setRecording] = useState(false);
  const [busy, setBusy] = useState(false);
  const course = useRef<{ seconds: number; at: At }[]>([]);
  const began = useRef(0);
  // a pin that is dragged is one step, however far
  const gesture = useRef('');
  const newPull = (): string => {
    gesture.current = newGesture();
    return gesture.current;
  };
  const mix = useMemo(() => field && (() => field.at(lastAt.current)), [field]);
  const weights = useMemo(() => {
    const w = field?.weights(at);
    return pins.map((p) => (w ? (w[ready.indexOf(p)] ?? 0) : 0));
  }, [field, at, pins, ready]);

  const point = useCallback(
    (to: At): void => {
      if (to[0] === lastAt.current[0] && to[1] === lastAt.current[1]) return;
      lastAt.current = to;
      // the figure first: what the plane shows may come a little later
      clock.motionArrived();
      setAt(to);
      setWatching(false);
      if (began.current > 0) course.current.push({ seconds: (performance.now() - began.current) / 1000, at: to });
    },
    [clock],
  );
  useStick(point, field !== undefined);

  const start = (): void => {
    if (!field) return;
    course.current = [{ seconds: 0, at }];
    began.current = performance.now();
    setTake(undefined);
    setWatching(false);
    setRecording(true);
  };
  const stop = useCallback((): void => {
    if (!field || began.current === 0) return;
    course.current.push({ seconds: (performance.now() - began.current) / 1000, at: course.current.at(-1)!.at });
    began.current = 0;
    setRecording(false);
    if (course.current.length < 3) {
      toast(texts.nothingMovedSoNothing);
      return;
    }
    const made = field.record(course.current, RECORDED_FPS);
    setTake(made);
    setWatching(true);
    clock.setPlaying(true);
  }, [field, clock]);
  useEffect(() => {
    if (!recording) return;
    const timer = setTimeout(stop, 1000 * LONGEST_S);
    return () => clearTimeout(timer);
  }, [recording, stop]);
  useKeys('r', () => (recording ? stop() : start()));

  const layOnReel = async (motion: Playable): Promise<void> => {
    setBusy(true);
    const name = `Field, ${(motion.frameCount / motion.fps).toFixed(1)} s`;
    try {
      const item = (await keepMotion(rig, member.assets.art, motion, name)).result?.items[0];
      if (!item) throw new Error(texts.theRecordingCouldNot);
      const placement = { ...PLACEMENT_DEFAULTS, id: 'recorded', itemId: item.id, at: 0 };
      const acting = { id: 'first', castId: member.id, order: 1, muted: false, overlays: [], keys: [] };
      const { id } = await sendJson<{ id: string }>('POST', `${API}/reels`, {
        name: `${name}, ${member.name}`,
        fps: RECORDED_FPS,
        frames: motion.frameCount,
        members: [{ ...acting, base: [placement] }],
      });
      refresh();
      onReel(id);
    } catch (error) {
      toast.error((error as Error).message);
    } finally {
      setBusy(false);
    }
  };
  const keep = async (motion: Playable, name: string): Promise<void> => {
    setBusy(true);
    try {
      const row = await keepMotion(rig, member.assets.art, motion, name);
      const made = row.result?.items[0];
      refresh();
      toast(texts.keptAs(made?.name ?? name), {
        action: made
          ? { label: texts.show, onClick: () => window.location.assign(`/library?item=${made.id}`) }
          : undefined,
      });
    } catch (error) {
      toast.error((error as Error).message);
    } finally {
      setBusy(false);
    }
  };
  const named = (): string => {
    const [first, second] = pins.map((p, i) => ({ p, w: weights[i]! })).sort((a, b) => b.w - a.w);
    return second && second.w > 0.05 ? texts.and(first!.p.name, second.p.name) : (first?.p.name ?? texts.mix);
  };
  const elsewhere = field?.feet.elsewhere ?? [];

  return (
    <div className="flex h-full">
      <div className="relative min-w-0 flex-1">
        <SoloStage
          clock={clock}
          member={member}
          rig={rig}
          motion={watching ? take : undefined}
          live={watching && take ? undefined : mix}
          label={texts.onTheField(member.name)}
        />
        {!field && (
          <p className="pointer-events-none absolute inset-x-0 bottom-8 text-center text-muted">
            {loading ? texts.readingPoses : texts.pinMoreToMix(Math.max(1, 3 - ready.length))}
          </p>
        )}
      </div>
      <aside className="flex w-[400px] shrink-0 flex-col gap-3 overflow-y-auto border-line border-l p-4">
        <div className="flex items-center gap-2">
          <h1 className="heading text-lg">{texts.fieldOfPoses}</h1>
          <SavingState document={document} mayChange={mayChange} onlyLooking={texts.youCanTryIt} />
          <span className="ml-auto" />
          <IconButton label={texts.closeTheField} onClick={onClose}>
            <X size={16} />
          </IconButton>
        </div>
        <FieldPlane
          pins={pins}
          weights={weights}
          at={at}
          recording={recording}
          onPoint={point}
          onPin={(i, to, held) =>
            set(
              pins.map((p, k) => (k === i ? { ...p, at: to } : p)),
              texts.movedPin(pins[i]?.name ?? texts.aPin),
              held ? gesture.current : newPull(),
            )
          }
        />
        <div className="flex flex-wrap gap-2">
          <Button
            look={recording ? undefined : 'brass'}
            disabled={!field}
            onClick={() => (recording ? stop() : start())}
          >
            {recording ? <Square size={13} /> : <Circle size={13} />} {recording ? texts.stop : texts.record}
          </Button>
          {mayChange && (
            <Button disabled={!mix || busy || recording} onClick={() => mix && void keep(mix(), named())}>
              {texts.keepThisMixAs}
            </Button>
          )}
          {take && !recording && !watching && (
            <Button
              onClick={() => {
                setWatching(true);
                clock.setPlaying(true);
              }}
            >
              {texts.watchTheRecording}
            </Button>
          )}
          {mayChange && take && !recording && (
            <Button
              disabled={busy}
              onClick={() => void keep(take, `Field, ${(take.frameCount / take.fps).toFixed(1)} s`)}
            >
              {texts.keepTheRecording}
            </Button>
          )}
          {mayChange && take && !recording && (
            <Button disabled={busy} onClick={() => void layOnReel(take)}>
              {texts.layItOnA}
            </Button>
          )}
        </div>
        <p className="text-[12px] text-muted">
          {texts.thePointerTheArrow} <kbd>{texts.r}</kbd> {texts.startsAndStopsIt}
        </p>
        {elsewhere.length > 0 && (
          <p className="text-[12.5px] text-brass-text">
            {texts.onOtherFeetThanFeet(
              ready[0]?.name ?? '',
              [...new Set(elsewhere.map((e) => e.pose))]
                .map((i) => {
                  const by = Math.max(...elsewhere.filter((e) => e.pose === i).map((e) => e.by));
                  return texts.cm(ready[i]?.name ?? '', (100 * by).toFixed(0));
                })
                .join(', '),
            )}
          </p>
        )}
        {lost.length > 0 && <p className="text-[12.5px] text-raspberry">{texts.noLongerThere(lost.join(', '))}</p>}
        <h2 className="font-semibold">{texts.pinned2}</h2>
        <ul className="flex flex-col">
          {pins.map((pin, i) => (
            <li key={pin.itemId} className="flex items-center gap-2 border-line border-b py-1 last:border-0">
              <PinIcon size={13} className="text-brass-text" />
              <Link href={`/library?item=${pin.itemId}`} className="truncate hover:underline">
                {pin.name}
              </Link>
              <span className="ml-auto text-muted tabular-nums">{Math.round(100 * weights[i]!)} %</span>
              <IconButton
                label={texts.takeOffTheField(pin.name)}
                onClick={() =>
                  set(
                    pins.filter((p) => p !== pin),
                    texts.tookOffTheField(pin.name),
                  )
                }
                quiet
              >
                <X size={13} />
              </IconButton>
            </li>
          ))}
        </ul>
        <PosePicker pins={pins} set={set} />
      </aside>
    </div>
  );
}
