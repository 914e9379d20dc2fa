'use client';

import { AXES, type CorrectionTrack, type Ease, type LevelKey, type ReelMember } from '@velvet-reel/motion';
import { clsx } from 'clsx';
import { useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import { type Held, heldName } from '@/parts/held';
import { Lane, useAxis } from '@/parts/lanes/axis';
import { Button } from '@/ui/button';
import { Select } from '@/ui/field';
import { NumberField } from '../number-field';
import { curveLane as texts } from '../texts';
import { CurveDrawing, channelName, HEIGHT, LOOKS, type Picked, UNITS } from './curve-drawing';
import {
  addKey,
  type Channel,
  type CurveKey,
  easeOf,
  type Kind,
  keyValue,
  kindsOf,
  putKey,
  retimed,
  setEase,
  trackName,
  withValue,
} from './track-curves';

const EASES: readonly { word: string; ease: Ease }[] = [
  { word: 'hold', ease: 'step' },
  { word: 'straight', ease: 'linear' },
  { word: 'smooth', ease: 'smooth' },
];

/** What a value that is typed may be. */
const MOST: Readonly<Record<Kind, number>> = { move: 1000, turn: 180, number: 1000 };

interface CurveLaneProps {
  member: ReelMember;
  range: { start: number; end: number } | null;
  mayChange: boolean;
  onChange: (keys: CorrectionTrack[], label: string, gesture?: string) => void;
  /** The keys of a number (a face shape); its lane goes with its last one. */
  onNumber: (name: string, keys: LevelKey[], label: string, gesture?: string) => void;
}

/** What has curves: a part that is keyed by hand, or a number. */
interface Keyed {
  /** Parts and numbers may be called the same. */
  readonly id: string;
  readonly name: string;
  readonly kinds: readonly Kind[];
  readonly keys: readonly CurveKey[];
  readonly track?: CorrectionTrack;
}

const keyedOf = ({ keys, numbers }: ReelMember): Keyed[] => [
  ...keys.map((t) => ({
    id: `part ${trackName(t)}`,
    name: heldName(t as Held),
    kinds: kindsOf(t),
    keys: t.keys,
    track: t,
  })),
  ...(numbers ?? []).map((l) => ({ id: `number ${l.name}`, name: l.name, kinds: ['number'] as const, keys: l.keys })),
];

/** Whether a member has anything that is shown as curves. */
export const hasCurves = (member: ReelMember): boolean => keyedOf(member).length > 0;

/** The keys of one part or number as curves: values over frames, keys and bends that are dragged, numbers that are typed. */
export function CurveLane({ member, range, mayChange, onChange, onNumber }: CurveLaneProps) {
  const { clock } = useAxis();
  const [id, setId] = useState('');
  const all = keyedOf(member);
  const shown = all.find((k) => k.id === id) ?? all[0];
  const [wanted, setKind] = useState<Kind>('move');
  const [off, setOff] = useState<ReadonlySet<number>>(new Set());
  const [picked, setPicked] = useState<Picked | null>(null);
  const sight = useRef<HTMLSpanElement>(null);
  // opened below what is in view they would not be seen
  useEffect(() => {
    sight.current?.scrollIntoView?.({ block: 'nearest' });
  }, []);
  if (!shown) return null;
  const { name: part, kinds, keys, track } = shown;
  const kind = kinds.includes(wanted) ? wanted : kinds.at(-1)!;
  const axes = kind === 'number' ? ([0] as const) : ([0, 1, 2] as const).filter((a) => !off.has(a));
  const channels = axes.map((axis): Channel => ({ kind, axis }));
  const write = (next: CurveKey[], label: string, gesture?: string): void => {
    if (!mayChange) return;
    if (!track) onNumber(part, next as LevelKey[], label, gesture);
    else
      onChange(
        member.keys
          .map((t) => (t === track ? ({ ...t, keys: next } as CorrectionTrack) : t))
          .filter((t) => t.keys.length > 0),
        label,
        gesture,
      );
  };
  const key = picked && keys.find((k) => k.frame === picked.frame);
  const after = key && keys.find((k) => k.frame > key.frame);
  const passes = after && picked && keyValue(after, picked.channel) !== undefined;
  const add = (): void => {
    const next = addKey(keys, clock.frame);
    if (next) write(next, texts.addedAKeyFor(part, clock.frame + 1));
    else toast(texts.nothingIsSetAt(part, clock.frame + 1));
  };
  return (
    <>
      <Lane height={34} name={<span className="pl-3">{texts.curves}</span>}>
        <div className="flex items-center gap-1.5 overflow-hidden whitespace-nowrap pl-2 text-[12.5px]">
          {key && picked ? (
            <>
              <NumberField
                label={texts.frame}
                value={key.frame + 1}
                low={1}
                high={1_000_000}
                onKeep={(f) => {
                  write(putKey(keys, key.frame, { ...key, frame: f - 1 }), texts.movedAKeyOf(part, f));
                  setPicked({ ...picked, frame: f - 1 });
                }}
              />
              <NumberField
                label={channelName(picked.channel)}
                unit={UNITS[picked.channel.kind]}
                value={keyValue(key, picked.channel) ?? 0}
                low={-MOST[picked.channel.kind]}
                high={MOST[picked.channel.kind]}
                step={0.01}
                onKeep={(v) =>
                  write(
                    putKey(keys, key.frame, withValue(key, picked.channel, v)),
                    texts.setTheAtFrame(part, key.frame + 1),
                  )
                }
              />
              {passes && (
                <>
                  <span className="text-muted">{texts.toTheNextKey}</span>
                  {EASES.map(({ word, ease }) => (
                    <Button
                      key={word}
                      size="tiny"
                      look={easeOf(key) === ease ? 'brass' : 'plain'}
                      aria-pressed={easeOf(key) === ease}
                      onClick={() => write(setEase(keys, key.frame, ease), texts.madeTheWayFrom(key.frame + 1, word))}
                    >
                      {word}
                    </Button>
                  ))}
                  {typeof key.ease === 'object' && <span className="text-brass-text">{texts.bentByHand}</span>}
                </>
              )}
              <Button
                size="tiny"
                onClick={() => {
                  write(
                    keys.filter((k) => k !== key),
                    texts.removedAKeyOf(part),
                  );
                  setPicked(null);
                }}
              >
                {texts.remove}
              </Button>
            </>
          ) : (
            <>
              <Button size="tiny" disabled={!mayChange} hint={texts.aKeyAtThe} onClick={add}>
                {texts.addAKeyHere}
              </Button>
              {range ? (
                <Retime
                  key={`${range.start} ${range.end}`}
                  range={range}
                  onRetime={(to) =>
                    write(
                      retimed(keys, range, to),
                      texts.movedTheSKeys(part, range.start + 1, range.end + 1, to.start + 1, to.end + 1),
                    )
                  }
                />
              ) : (
                <span className="text-muted">{texts.pressAKeyTo}</span>
              )}
            </>
          )}
        </div>
      </Lane>
      <Lane
        height={HEIGHT}
        name={
          <div className="flex flex-col gap-1 pl-3">
            <Select
              label={texts.curvesOf}
              value={shown.id}
              options={all.map((k) => ({ value: k.id, label: k.name }))}
              onChange={(next) => {
                setId(next);
                setPicked(null);
              }}
            />
            {kinds.length > 1 && (
              <span className="flex gap-1">
                {kinds.map((k) => (
                  <Button key={k} size="tiny" look={k === kind ? 'brass' : 'plain'} onClick={() => setKind(k)}>
                    {k}
                  </Button>
                ))}
              </span>
            )}
            <span className="flex gap-1">
              {(kind === 'number' ? [] : AXES).map((axis, a) => (
                <button
                  key={axis}
                  type="button"
                  aria-pressed={!off.has(a)}
                  aria-label={texts.inView(axis)}
                  onClick={() => {
                    const next = new Set(off);
                    if (!next.delete(a)) next.add(a);
                    setOff(next);
                  }}
                  className={clsx(
                    'rounded border px-1.5 text-[12px]',
                    off.has(a) ? 'border-line text-muted' : 'text-ink',
                  )}
                  style={off.has(a) ? undefined : { borderColor: LOOKS[a] }}
                >
                  {axis}
                </button>
              ))}
            </span>
          </div>
        }
      >
        <span ref={sight} className="absolute bottom-0" />
        <CurveDrawing
          part={part}
          keys={keys}
          channels={channels}
          picked={picked}
          mayChange={mayChange}
          onPick={setPicked}
          onWrite={write}
        />
      </Lane>
    </>
  );
}

/** Where the keys of the range are to begin and end. */
function Retime({
  range,
  onRetime,
}: {
  range: { start: number; end: number };
  onRetime: (to: { start: number; end: number }) => void;
}) {
  const [to, setTo] = useState(range);
  return (
    <>
      <span className="text-muted">{texts.moveTheKeysIn}</span>
      <NumberField
        label={texts.from}
        value={to.start + 1}
        low={1}
        high={1_000_000}
        onKeep={(x) => setTo({ start: x - 1, end: Math.max(x - 1, to.end) })}
      />
      <NumberField
        label={texts.until}
        value={to.end + 1}
        low={to.start + 1}
        high={1_000_000}
        onKeep={(x) => setTo({ ...to, end: x - 1 })}
      />
      <Button size="tiny" disabled={to.start === range.start && to.end === range.end} onClick={() => onRetime(to)}>
        {texts.retime}
      </Button>
    </>
  );
}
