'use client';

import { motionToJson, takeWords } from '@velvet-reel/motion';
import { clsx } from 'clsx';
import { Circle, Square, Star, X } from 'lucide-react';
import { useCallback, useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import { API, bringInFile, sendJson } from '@/client/api';
import { useKeys } from '@/client/keys';
import { usePerformer, useRefresh } from '@/client/queries';
import { useMay } from '@/client/session';
import type { CastMember, RigAnswer } from '@/contract';
import { Clock } from '@/stage/clock';
import { SoloStage } from '@/stage/solo-stage';
import { Button, IconButton } from '@/ui/button';
import { Empty } from '@/ui/empty';
import { livePage as texts } from '../texts';
import { useLiveMotion } from './use-live-motion';
import { type LiveTake, useStage } from './use-stage';

/** A take that was recorded here: stored at once, marked as good if it was. */
interface KeptTake {
  readonly key: number;
  readonly name: string;
  readonly words: readonly string[];
  readonly whole: boolean;
  readonly itemId: string | undefined;
  readonly state: 'storing' | 'stored' | 'failed';
  readonly good: boolean;
  readonly take: LiveTake;
}

const STATE_WORDS = {
  connecting: texts.lookingForTheStage,
  on: texts.theStageIsLive,
  away: texts.theStageIsAway,
} as const;

/** A capture stage as it streams: on the performer on hand, recorded in takes with slate and number. */
export function LivePage({ onClose }: { onClose: () => void }) {
  const { member, rig } = usePerformer();
  if (!member || !rig)
    return (
      <Empty title={texts.aLiveStageNeeds} action={<Button onClick={onClose}>{texts.backToTheReels}</Button>}>
        {texts.putACastMember}
      </Empty>
    );
  return <Live member={member} rig={rig} onClose={onClose} />;
}

function Live({ member, rig, onClose }: { member: CastMember; rig: RigAnswer; onClose: () => void }) {
  const mayChange = useMay('animator');
  const refresh = useRefresh();
  const stage = useStage();
  const [clock] = useState(() => new Clock());
  const [seen, setSeen] = useState<string>();
  const performer = stage.performers.find((p) => p.id === seen) ?? stage.performers[0];
  const now = useLiveMotion(performer, rig, clock);
  const [slate, setSlate] = useState(texts.slate);
  const [number, setNumber] = useState(1);
  const [takes, setTakes] = useState<readonly KeptTake[]>([]);
  const nextKey = useRef(1);

  const patch = (key: number, change: Partial<KeptTake>): void =>
    setTakes((all) => all.map((t) => (t.key === key ? { ...t, ...change } : t)));

  const store = useCallback(
    async (kept: KeptTake): Promise<void> => {
      setTakes((all) => all.map((t) => (t.key === kept.key ? { ...t, state: 'storing' } : t)));
      try {
        const { performer: p, motion } = kept.take;
        const json = JSON.stringify(motionToJson(p.rig, [{ name: kept.name, motion }]));
        const file = new File([json], `${kept.name}.json`, { type: 'application/json' });
        const row = await bringInFile(file);
        setTakes((all) =>
          all.map((t) => (t.key === kept.key ? { ...t, state: 'stored', itemId: row.result?.items[0]?.id } : t)),
        );
        refresh();
      } catch (error) {
        setTakes((all) => all.map((t) => (t.key === kept.key ? { ...t, state: 'failed' } : t)));
        toast.error(texts.couldNotBeStored(kept.name, (error as Error).message));
      }
    },
    [refresh],
  );

  const stop = useCallback((): void => {
    const made = stage.stop();
    if (made.length === 0) {
      toast(texts.noFrameCameWhile);
      return;
    }
    const fresh = made.map((take): KeptTake => {
      const many = made.length > 1 ? `, ${take.performer.name}` : '';
      const words = takeWords(take.account, take.performer.rig.names);
      const { frames, came, lostJoints, cutOff } = take.account;
      return {
        key: nextKey.current++,
        name: `${slate.trim() || texts.slate} ${number}${many}`,
        words,
        whole: frames === came && lostJoints.length === 0 && !cutOff,
        itemId: undefined,
        state: 'storing',
        good: false,
        take,
      };
    });
    setTakes((all) => [...fresh, ...all]);
    setNumber(number + 1);
    if (mayChange) for (const kept of fresh) void store(kept);
  }, [stage, slate, number, mayChange, store]);
  const toggle = (): void => (stage.recording ? stop() : stage.start());
  useKeys('r', toggle);
  // whoever leaves in the middle of a take would lose it
  useEffect(() => {
    if (!stage.recording) return;
    const hold = (e: BeforeUnloadEvent): void => e.preventDefault();
    window.addEventListener('beforeunload', hold);
    return () => window.removeEventListener('beforeunload', hold);
  }, [stage.recording]);

  const mark = async (kept: KeptTake): Promise<void> => {
    if (!kept.itemId) return;
    const good = !kept.good;
    patch(kept.key, { good });
    try {
      await sendJson('PATCH', `${API}/items/${kept.itemId}`, { change: { tags: good ? ['good take'] : [] } });
      refresh();
    } catch (error) {
      patch(kept.key, { good: !good });
      toast.error((error as Error).message);
    }
  };

  return (
    <div className="flex h-full">
      <div className="relative min-w-0 flex-1">
        <SoloStage
          clock={clock}
          member={member}
          rig={rig}
          motion={undefined}
          live={now?.show}
          label={texts.live(member.name)}
        />
        {stage.state !== 'on' && (
          <div className="absolute inset-x-0 bottom-8 flex flex-col items-center gap-1 text-center text-muted">
            <p>{STATE_WORDS[stage.state]}</p>
            {stage.state === 'away' && (
              <p className="text-[12.5px]">
                {texts.startOne} <code className="text-ink">{texts.velvetReelCaptureStage}</code>
                {texts.itIsLookedFor}
              </p>
            )}
          </div>
        )}
      </div>
      <aside className="flex w-[340px] shrink-0 flex-col gap-3 overflow-y-auto border-line border-l p-4">
        <div className="flex items-center gap-2">
          <h1 className="heading text-lg">{texts.liveStage}</h1>
          <span
            role="status"
            className={clsx('ml-1 flex items-center gap-1.5', stage.state === 'on' ? 'text-verdigris' : 'text-muted')}
          >
            <span className={clsx('size-2 rounded-full', stage.state === 'on' ? 'bg-verdigris' : 'bg-line')} />
            {stage.state === 'on' ? texts.live2 : stage.state}
          </span>
          <span className="ml-auto" />
          <IconButton label={texts.closeTheLiveStage} onClick={onClose}>
            <X size={16} />
          </IconButton>
        </div>
        {stage.performers.length > 0 && (
          <fieldset className="flex flex-col gap-1">
            <legend className="mb-1 text-muted">{texts.seenOn(member.name)}</legend>
            {stage.performers.map((p) => (
              <label key={p.id} className="flex items-center gap-2">
                <input type="radio" name="seen" checked={p.id === performer?.id} onChange={() => setSeen(p.id)} />
                {p.name}
                <span className="ml-auto text-muted tabular-nums">{texts.aSecond(p.fps)}</span>
              </label>
            ))}
          </fieldset>
        )}
        {now?.delay !== undefined && (
          <p className="text-[12.5px] text-muted">
            {Math.round(1000 * now.delay)} {texts.msBehindSoThat}
            {now.lost.length > 0 && (
              <span className="text-brass-text">{texts.lostJustNow(now.lost.slice(0, 4).join(', '))}</span>
            )}
          </p>
        )}
        <div className="flex items-end gap-2">
          <label className="flex min-w-0 flex-1 flex-col gap-1">
            <span className="text-muted">{texts.slate}</span>
            <input
              value={slate}
              maxLength={80}
              onChange={(e) => setSlate(e.target.value)}
              className="w-full rounded border border-line bg-velvet px-2 py-1"
            />
          </label>
          <label className="flex w-20 flex-col gap-1">
            <span className="text-muted">{texts.take}</span>
            <input
              type="number"
              min={1}
              value={number}
              onChange={(e) => setNumber(Math.max(1, Math.round(Number(e.target.value)) || 1))}
              className="w-full rounded border border-line bg-velvet px-2 py-1 tabular-nums"
            />
          </label>
        </div>
        <Button
          look={stage.recording ? undefined : 'brass'}
          disabled={stage.state !== 'on' && !stage.recording}
          onClick={toggle}
        >
          {stage.recording ? <Square size={13} /> : <Circle size={13} />}{' '}
          {stage.recording ? texts.stopTheTake : texts.recordATake}
        </Button>
        {stage.recording && <RecordedCount recorded={stage.recorded} />}
        <h2 className="font-semibold">{texts.takes}</h2>
        {takes.length === 0 && (
          <p className="text-muted">
            {texts.noneYet} <kbd>{texts.r}</kbd> {texts.startsAndStopsOne}
          </p>
        )}
        <ul className="flex flex-col gap-2">
          {takes.map((t) => (
            <li key={t.key} className="rounded-lg border border-line p-2">
              <div className="flex items-center gap-2">
                {t.itemId ? (
                  <a href={`/library?item=${t.itemId}`} className="truncate font-semibold hover:underline">
                    {t.name}
                  </a>
                ) : (
                  <span className="truncate font-semibold">{t.name}</span>
                )}
                <span className="ml-auto text-muted tabular-nums">
                  {(t.take.motion.frameCount / t.take.motion.fps).toFixed(1)} s
                </span>
                <IconButton
                  label={t.good ? texts.isAGoodTake(t.name) : texts.markAsAGood(t.name)}
                  onClick={() => void mark(t)}
                  disabled={!t.itemId}
                  quiet
                >
                  <Star size={15} className={t.good ? 'fill-brass text-brass' : ''} />
                </IconButton>
              </div>
              {t.words.map((w) => (
                <p key={w} className={clsx('text-[12px]', t.whole ? 'text-muted' : 'text-brass-text')}>
                  {w}
                </p>
              ))}
              {t.state === 'storing' && (
                <p className="text-[12px] text-muted">{mayChange ? texts.storing : texts.youCanWatchHere}</p>
              )}
              {t.state === 'failed' && (
                <Button size="tiny" onClick={() => void store(t)}>
                  {texts.storeItAgain}
                </Button>
              )}
            </li>
          ))}
        </ul>
      </aside>
    </div>
  );
}

/** How much of a take there is so far. */
function RecordedCount({ recorded }: { recorded: () => number }) {
  const [count, setCount] = useState(0);
  useEffect(() => {
    const timer = setInterval(() => setCount(recorded()), 200);
    return () => clearInterval(timer);
  }, [recorded]);
  return <p className="text-raspberry tabular-nums">{texts.framesRecorded(count.toLocaleString('en'))}</p>;
}
