'use client';

import {
  type JoinWish,
  type Match,
  OVERLAY_MODES,
  type Overlay,
  onsetStrength,
  type Placement,
  REFERENCES,
  REGIONS,
  type ReelMember,
  type Region,
  strengthAt,
  stretchLength,
} from '@velvet-reel/motion';
import { clsx } from 'clsx';
import { Copy, Scissors, Trash2 } from 'lucide-react';
import Link from 'next/link';
import { type ReactNode, useState } from 'react';
import type { CastMember, Item } from '@/contract';
import type { ReelContent } from '@/documents/reel';
import { TimeAxis } from '@/parts/lanes/axis';
import { CurveLine } from '@/parts/lanes/curve';
import type { CheckedJoin } from '@/solver/solve-reel';
import { Clock } from '@/stage/clock';
import { Button, IconButton } from '@/ui/button';
import { Select, SwitchRow } from '@/ui/field';
import { Slider } from '@/ui/slider';
import { figuresOf, troublesOf } from './join-words';
import { NumberField } from './number-field';

/** One of a few, side by side. */
function Choice<T extends string>({
  label,
  value,
  options,
  onChange,
}: {
  label: string;
  value: T;
  options: readonly { value: T; word: string; title?: string }[];
  onChange: (value: T) => void;
}) {
  return (
    <fieldset className="flex flex-wrap gap-1" aria-label={label}>
      {options.map((o) => (
        <button
          key={o.value}
          type="button"
          aria-pressed={o.value === value}
          title={o.title}
          onClick={() => onChange(o.value)}
          className={clsx(
            'rounded-full border px-2 py-px text-[12.5px]',
            o.value === value ? 'border-brass text-brass-text' : 'border-line text-muted hover:text-ink',
          )}
        >
          {o.word}
        </button>
      ))}
    </fieldset>
  );
}

const Heading = ({ children }: { children: ReactNode }) => <h3 className="mt-2 text-[12px] text-muted">{children}</h3>;

interface StretchProps {
  reel: ReelContent;
  item: Item | undefined;
  mayChange: boolean;
  /** Another version of the item is in force than the one that is laid. */
  newer?: boolean;
  onNewest?: () => void;
  onSplit?: () => void;
  onCopy: () => void;
  onRemove: () => void;
}

/** Which stretch of an item plays, where and how. */
function StretchFields({
  of,
  item,
  reel,
  onChange,
}: {
  of: Placement | Overlay;
  item: Item | undefined;
  reel: ReelContent;
  onChange: (change: Partial<Placement & Overlay>, label: string) => void;
}) {
  const last = Math.max(0, (item?.facts.frameCount ?? 1) - 1);
  const to = Math.min(last, of.to ?? last);
  const name = item?.name ?? 'the item';
  return (
    <div className="flex flex-col gap-1">
      <NumberField
        label="begins at frame"
        value={of.at + 1}
        low={1}
        high={100_000}
        onKeep={(x) => onChange({ at: x - 1 }, `Moved ${name} to frame ${x}`)}
      />
      <NumberField
        label="first frame of the item"
        value={Math.min(last, of.from) + 1}
        low={1}
        high={to + 1}
        onKeep={(x) => onChange({ from: x - 1 }, `${name} from its frame ${x}`)}
      />
      <NumberField
        label="last frame of the item"
        value={to + 1}
        low={Math.min(last, of.from) + 1}
        high={last + 1}
        onKeep={(x) => onChange({ to: x - 1 >= last ? null : x - 1 }, `${name} to its frame ${x}`)}
      />
      <NumberField
        label="speed"
        value={of.speed}
        low={0.05}
        high={20}
        step={0.05}
        onKeep={(speed) => onChange({ speed }, `${name} at speed ${speed.toFixed(2)}`)}
      />
      <NumberField
        label="times"
        value={of.repeats}
        low={1}
        high={1000}
        onKeep={(repeats) => onChange({ repeats: Math.round(repeats) }, `${name} ${Math.round(repeats)} times`)}
      />
      <SwitchRow
        label="mirrored"
        checked={of.mirrored}
        onChange={(mirrored) => onChange({ mirrored }, `${mirrored ? 'Mirrored' : 'No longer mirrored'}: ${name}`)}
      />
      <SwitchRow
        label="muted"
        checked={of.muted}
        onChange={(muted) => onChange({ muted }, `${muted ? 'Muted' : 'No longer muted'}: ${name}`)}
      />
      <p className="text-[12px] text-muted">
        {item
          ? `${stretchLength(of, item.facts, reel.fps)} frames of the reel, ${(stretchLength(of, item.facts, reel.fps) / reel.fps).toFixed(2)} s`
          : 'This item is gone or in the bin. Bring it back, or remove it here.'}
      </p>
    </div>
  );
}

function StretchHead({
  title,
  item,
  mayChange,
  newer = false,
  onNewest,
  onSplit,
  onCopy,
  onRemove,
}: StretchProps & { title: string }) {
  return (
    <div className="flex flex-wrap items-start gap-1">
      <div className="min-w-0 flex-1">
        <p className="text-[12px] text-muted">{title}</p>
        {item ? (
          <Link href={`/library?item=${item.id}`} className="heading block truncate text-[16px] hover:text-brass-text">
            {item.name}
          </Link>
        ) : (
          <p className="heading text-[16px]">Gone</p>
        )}
      </div>
      {mayChange && (
        <>
          {onSplit && (
            <IconButton label="Cut in two at the playhead" keys="S" onClick={onSplit} quiet>
              <Scissors size={14} />
            </IconButton>
          )}
          <IconButton label="Copy behind it" keys="D" onClick={onCopy} quiet>
            <Copy size={14} />
          </IconButton>
          <IconButton label="Remove" keys="Del" onClick={onRemove} quiet>
            <Trash2 size={14} />
          </IconButton>
        </>
      )}
      {newer && (
        <p role="status" className="flex w-full items-center gap-2 text-brass-text">
          There is a newer version of it.
          {mayChange && (
            <Button size="tiny" onClick={onNewest}>
              Take it
            </Button>
          )}
        </p>
      )}
    </div>
  );
}

export function PlacementInspector({
  of,
  castId,
  onChange,
  ...p
}: StretchProps & { of: Placement; castId: string; onChange: (change: Partial<Placement>, label: string) => void }) {
  const { offset } = of;
  const name = p.item?.name ?? 'the item';
  return (
    <div className="flex flex-col gap-1.5">
      <StretchHead title="On the base lane" {...p} />
      <StretchFields of={of} item={p.item} reel={p.reel} onChange={onChange} />
      <SwitchRow
        label="in place"
        checked={of.inPlace}
        onChange={(inPlace) => onChange({ inPlace }, `${inPlace ? 'In place' : 'Travels'}: ${name}`)}
      />
      <Heading>moved beyond where it meets what lies before</Heading>
      <div className="flex flex-col gap-1">
        {(
          [
            ['x', 'aside', 'm', 0.05],
            ['z', 'ahead', 'm', 0.05],
            ['turn', 'turned', '°', 1],
          ] as const
        ).map(([key, label, unit, step]) => (
          <NumberField
            key={key}
            label={label}
            unit={unit}
            value={offset[key]}
            low={-1000}
            high={1000}
            step={step}
            onKeep={(x) => onChange({ offset: { ...offset, [key]: x } }, `Moved ${name}`)}
          />
        ))}
      </div>
      {p.item && (
        <Link href={`/fitting?item=${p.item.id}&cast=${castId}`} className="text-[12.5px] text-brass-text underline">
          How it is fitted to this character
        </Link>
      )}
    </div>
  );
}

const JOIN_WORDS = {
  crossfade: { word: 'crossfade', title: 'Both are mixed while they overlap' },
  decay: { word: 'decay', title: 'The second plays from its first frame; what it differs in dies away' },
  bridge: { word: 'bridge', title: 'What lies between them is computed' },
  cut: { word: 'cut', title: 'At once' },
} as const;
const MEET_WORDS = { hips: 'hips', footL: 'left foot', footR: 'right foot', world: 'the world' } as const;

export function JoinInspector({
  from,
  to,
  placement,
  join,
  matches,
  trying,
  mayChange,
  onChange,
  onFind,
  onMatch,
}: {
  from: Item | undefined;
  to: Item | undefined;
  placement: Placement;
  join: CheckedJoin | undefined;
  /** Found matches, best first; undefined until they are asked for. */
  matches: readonly Match[] | undefined;
  trying: number | null;
  mayChange: boolean;
  onChange: (change: Partial<JoinWish>, label: string, gesture?: string) => void;
  onFind: () => void;
  onMatch: (index: number) => void;
}) {
  const wish = placement.join;
  const troubles = join ? troublesOf(join) : [];
  return (
    <div className="flex flex-col gap-1.5">
      <p className="text-[12px] text-muted">Join</p>
      <p className="heading text-[16px] leading-snug">
        {from?.name ?? 'gone'} <span className="text-muted">to</span> {to?.name ?? 'gone'}
      </p>
      <Heading>how it passes</Heading>
      <Choice
        label="How it passes"
        value={wish.kind}
        options={(['crossfade', 'decay', 'bridge', 'cut'] as const).map((value) => ({ value, ...JOIN_WORDS[value] }))}
        onChange={(kind) => onChange({ kind }, `Join: ${kind}`)}
      />
      {join && join.kind !== wish.kind && (
        <p className="text-[12.5px] text-brass-text">
          {wish.kind === 'bridge'
            ? 'There is no gap to bridge: move the second item away from the first. Until then the difference dies away.'
            : 'They do not overlap: move the second item into the first. Until then the difference dies away.'}
        </p>
      )}
      {wish.kind !== 'cut' && wish.kind !== 'bridge' && (
        <Slider
          label="length"
          value={wish.frames}
          rest={10}
          low={1}
          high={60}
          step={1}
          unit=" f"
          onChange={(frames, gesture) => onChange({ frames }, `Join of ${frames} frames`, gesture)}
        />
      )}
      {wish.kind === 'crossfade' && typeof wish.shape === 'string' && (
        <Choice
          label="Shape"
          value={wish.shape}
          options={[
            { value: 'smooth', word: 'smooth' },
            { value: 'linear', word: 'even' },
          ]}
          onChange={(shape) => onChange({ shape }, 'Shape of the crossfade')}
        />
      )}
      <Heading>meets at</Heading>
      <Choice
        label="Meets at"
        value={wish.meet}
        options={(['hips', 'footL', 'footR', 'world'] as const).map((value) => ({ value, word: MEET_WORDS[value] }))}
        onChange={(meet) => onChange({ meet }, `Join meets at ${MEET_WORDS[meet]}`)}
      />
      <SwitchRow
        label="goes on at the height reached"
        checked={wish.level}
        onChange={(level) => onChange({ level }, 'Height of the join')}
      />
      {join && (
        <>
          <Heading>turn and place</Heading>
          <p>
            {Math.hypot(...join.carry.by) < 0.005 && Math.abs(join.carry.turn) < 0.002
              ? 'the second item stays where it is'
              : `second item moved ${Math.hypot(...join.carry.by).toFixed(2)} m, turned ${((join.carry.turn * 180) / Math.PI).toFixed(0)}°`}
          </p>
          <Heading>check</Heading>
          {troubles.length === 0 ? (
            <p className="text-verdigris">nothing an eye would see</p>
          ) : (
            troubles.map((t) => (
              <p key={t} className="text-raspberry">
                {t}
              </p>
            ))
          )}
          <dl className="grid grid-cols-[1fr_auto] text-[12.5px]">
            {figuresOf(join.check).map(([what, value]) => (
              <div key={what} className="contents">
                <dt className="text-muted">{what}</dt>
                <dd className="text-right">{value}</dd>
              </div>
            ))}
          </dl>
        </>
      )}
      {mayChange && wish.kind !== 'bridge' && (
        <div className="mt-1 flex flex-col gap-1">
          {matches === undefined ? (
            <Button onClick={onFind} keys="N">
              Find where they meet best
            </Button>
          ) : matches.length === 0 ? (
            <p className="text-muted">No pair of frames is alike.</p>
          ) : (
            <>
              <Heading>pairs of frames, the most alike first</Heading>
              {matches.map((m, i) => (
                <button
                  key={`${m.a} ${m.b}`}
                  type="button"
                  aria-pressed={trying === i}
                  onClick={() => onMatch(i)}
                  className={clsx(
                    'flex justify-between rounded border px-2 py-0.5 text-left',
                    trying === i ? 'border-brass text-brass-text' : 'border-line hover:border-muted',
                  )}
                >
                  <span>
                    {m.a + 1} and {m.b + 1}
                    {!m.sameFeet && <span className="text-muted"> · other foot</span>}
                  </span>
                  <span className="text-muted">{m.apartPercentLeg.toFixed(1)} % apart</span>
                </button>
              ))}
            </>
          )}
        </div>
      )}
    </div>
  );
}

export function OverlayInspector({
  of,
  absolute = false,
  onChange,
  ...p
}: StretchProps & {
  of: Overlay;
  /** It is added, though it looks as if it told poses outright. */
  absolute?: boolean;
  onChange: (change: Partial<Overlay>, label: string, gesture?: string) => void;
}) {
  const name = p.item?.name ?? 'the overlay';
  // the strength is told from the overlay's own beginning: it has a time of its own
  const [still] = useState(() => new Clock());
  const length = p.item ? stretchLength(of, p.item.facts, p.reel.fps) : 1;
  const most = of.strength.length === 0 ? 1 : Math.max(...of.strength.map((k) => k.value));
  const least = of.strength.length === 0 ? 1 : Math.min(...of.strength.map((k) => k.value));
  const top = Math.abs(most) >= Math.abs(least) ? most : least;
  const onset = of.strength.find((k) => k.value === top)?.frame ?? 0;
  const strength = (value: number, over: number): Overlay['strength'] =>
    over <= 0 ? [{ frame: 0, value }] : onsetStrength(length, over).map((k) => ({ ...k, value: k.value * value }));
  const toggle = (region: Region): void => {
    const regions = of.regions.includes(region) ? of.regions.filter((r) => r !== region) : [...of.regions, region];
    onChange({ regions }, `${name}: ${regions.join(', ') || 'whole body'}`);
  };
  return (
    <div className="flex flex-col gap-1.5">
      <StretchHead title="Over the base" {...p} />
      <Choice
        label="Mode"
        value={of.mode}
        options={OVERLAY_MODES.map((value) => ({
          value,
          word: value === 'replace' ? 'replaces' : 'is added',
        }))}
        onChange={(mode) => onChange({ mode }, `${name} ${mode === 'replace' ? 'replaces' : 'is added'}`)}
      />
      {of.mode === 'add' && (
        <Select
          label="Departs from"
          value={of.reference}
          options={REFERENCES.map((value) => ({
            value,
            label: value === 'first' ? 'what it departs from: its first frame' : 'what it departs from: the rest pose',
          }))}
          onChange={(reference) => onChange({ reference }, `${name} departs from ${reference}`)}
        />
      )}
      {absolute && (
        <div role="status" className="rounded-md border border-brass p-2">
          <p>
            It departs far from the rest pose all along, as if it told poses outright: added, they are put on twice.
          </p>
          <Button size="small" className="mt-1" onClick={() => onChange({ mode: 'replace' }, `${name} replaces`)}>
            Replace instead
          </Button>
        </div>
      )}
      <Heading>parts it takes{of.regions.length + of.joints.length === 0 && ': the whole body'}</Heading>
      <fieldset className="flex flex-wrap gap-1" aria-label="Parts it takes">
        {REGIONS.filter((r) => r !== 'others').map((r) => (
          <button
            key={r}
            type="button"
            aria-pressed={of.regions.includes(r)}
            onClick={() => toggle(r)}
            className={clsx(
              'rounded-full border px-2 py-px text-[12.5px]',
              of.regions.includes(r) ? 'border-brass text-brass-text' : 'border-line text-muted hover:text-ink',
            )}
          >
            {r}
          </button>
        ))}
      </fieldset>
      <Slider
        label="strength"
        value={top}
        rest={1}
        low={-0.5}
        high={1.5}
        step={0.05}
        onChange={(value, gesture) =>
          onChange({ strength: strength(value, onset) }, `Strength of ${name} ${value.toFixed(2)}`, gesture)
        }
      />
      <Slider
        label="comes in over"
        value={onset}
        rest={10}
        low={0}
        high={Math.max(1, Math.min(120, Math.floor(length / 2)))}
        step={1}
        unit=" f"
        onChange={(over, gesture) =>
          onChange({ strength: strength(top, over) }, `${name} comes in over ${over} frames`, gesture)
        }
      />
      <TimeAxis clock={still} frames={length} names={0} ends={0}>
        <CurveLine
          points={of.strength.length > 0 ? of.strength : [{ frame: 0, value: 1 }]}
          valueAt={(f) => strengthAt(of.strength, f)}
          low={-0.5}
          high={1.5}
          height={64}
          label={`Strength of ${name} over time`}
          pointLabel="Strength"
          onChange={(points, gesture) => onChange({ strength: points }, `Strength of ${name}`, gesture)}
        />
      </TimeAxis>
      <SwitchRow
        label="feet that stand stay where they stand"
        checked={of.holdFeet}
        onChange={(holdFeet) => onChange({ holdFeet }, `${name}: feet ${holdFeet ? 'held' : 'given up'}`)}
      />
      <StretchFields of={of} item={p.item} reel={p.reel} onChange={onChange} />
    </div>
  );
}

export function MemberInspector({
  member,
  who,
  cast,
  mayChange,
  onSameOn,
  onRemove,
  onBake,
}: {
  member: ReelMember;
  who: CastMember | undefined;
  cast: readonly CastMember[];
  mayChange: boolean;
  onSameOn: (castId: string) => void;
  onRemove: () => void;
  onBake: () => void;
}) {
  const [to, setTo] = useState('');
  const others = cast.filter((c) => c.id !== member.castId);
  const keys = member.keys.reduce((n, t) => n + t.keys.length, 0);
  return (
    <div className="flex flex-col gap-2">
      <p className="text-[12px] text-muted">Cast member</p>
      <p className="heading text-[16px]">{who?.name ?? 'A character that is gone'}</p>
      <p className="text-muted">
        {member.base.length} on the base lane, {member.overlays.length} over it, {keys} {keys === 1 ? 'key' : 'keys'} by
        hand
      </p>
      {mayChange && (
        <>
          <Button look="brass" onClick={onBake} keys="K" disabled={member.base.length === 0}>
            Bake into an item …
          </Button>
          {others.length > 0 && (
            <div className="flex gap-1.5">
              <Select
                label="Character for the same"
                className="min-w-0 flex-1"
                value={to || others[0]!.id}
                options={others.map((c) => ({ value: c.id, label: c.name }))}
                onChange={setTo}
              />
              <Button onClick={() => onSameOn(to || others[0]!.id)}>Put the same on</Button>
            </div>
          )}
          <Button onClick={onRemove}>Take off the reel</Button>
        </>
      )}
    </div>
  );
}
