'use client';

import type { JoinWish, Match, Placement } from '@velvet-reel/motion';
import { clsx } from 'clsx';
import type { Item } from '@/contract';
import type { CheckedJoin } from '@/solver/solve-reel';
import { Button } from '@/ui/button';
import { SwitchRow } from '@/ui/field';
import { Slider } from '@/ui/slider';
import { Choice, Heading } from './choice';
import { figuresOf, troublesOf } from './join-words';
import { joinInspector as texts } from './texts';

const JOIN_WORDS = {
  crossfade: { word: 'crossfade', title: texts.bothAreMixedWhile },
  decay: { word: 'decay', title: texts.theSecondPlaysFrom },
  bridge: { word: 'bridge', title: texts.whatLiesBetweenThem },
  cut: { word: 'cut', title: texts.atOnce },
} as const;
const MEET_WORDS = { hips: 'hips', footL: 'left foot', footR: 'right foot', world: texts.theWorld } as const;

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
      <p className="text-[12px] text-muted">{texts.join}</p>
      <p className="heading text-[16px] leading-snug">
        {from?.name ?? texts.gone} <span className="text-muted">{texts.to}</span> {to?.name ?? texts.gone}
      </p>
      <Heading>{texts.kind}</Heading>
      <Choice
        label={texts.kindOfJoin}
        value={wish.kind}
        options={(['crossfade', 'decay', 'bridge', 'cut'] as const).map((value) => ({ value, ...JOIN_WORDS[value] }))}
        onChange={(kind) => onChange({ kind }, `Join: ${kind}`)}
      />
      {join && join.kind !== wish.kind && (
        <p className="text-[12.5px] text-brass-text">
          {wish.kind === 'bridge' ? texts.thereIsNoGap : texts.theyDoNotOverlap}
        </p>
      )}
      {wish.kind !== 'cut' && wish.kind !== 'bridge' && (
        <Slider
          label={texts.length}
          value={wish.frames}
          rest={10}
          low={1}
          high={60}
          step={1}
          unit=" f"
          onChange={(frames, gesture) => onChange({ frames }, texts.joinOfFrames(frames), gesture)}
        />
      )}
      {wish.kind === 'crossfade' && typeof wish.shape === 'string' && (
        <Choice
          label={texts.shape}
          value={wish.shape}
          options={[
            { value: 'smooth', word: 'smooth' },
            { value: 'linear', word: 'even' },
          ]}
          onChange={(shape) => onChange({ shape }, texts.shapeOfTheCrossfade)}
        />
      )}
      <Heading>{texts.meetsAt}</Heading>
      <Choice
        label={texts.meetsAt2}
        value={wish.meet}
        options={(['hips', 'footL', 'footR', 'world'] as const).map((value) => ({ value, word: MEET_WORDS[value] }))}
        onChange={(meet) => onChange({ meet }, texts.joinMeetsAt(MEET_WORDS[meet]))}
      />
      <SwitchRow
        label={texts.carryOnAtThe}
        checked={wish.level}
        onChange={(level) => onChange({ level }, texts.heightOfTheJoin)}
      />
      {join && (
        <>
          <Heading>{texts.whatItMoved}</Heading>
          <p>
            {Math.hypot(...join.carry.by) < 0.005 && Math.abs(join.carry.turn) < 0.002
              ? texts.theSecondItemStays
              : texts.secondItemMovedM(
                  Math.hypot(...join.carry.by).toFixed(2),
                  ((join.carry.turn * 180) / Math.PI).toFixed(0),
                )}
          </p>
          <Heading>{texts.check}</Heading>
          {troubles.length === 0 ? (
            <p className="text-verdigris">{texts.nothingThatYouWould}</p>
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
              {texts.findWhereTheyMeet}
            </Button>
          ) : matches.length === 0 ? (
            <p className="text-muted">{texts.noTwoFramesAre}</p>
          ) : (
            <>
              <Heading>{texts.pairsOfFramesMost}</Heading>
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
                    {texts.and(m.a + 1, m.b + 1)}
                    {!m.sameFeet && <span className="text-muted"> {texts.otherFoot}</span>}
                  </span>
                  <span className="text-muted">{texts.apart(m.apartPercentLeg.toFixed(1))}</span>
                </button>
              ))}
            </>
          )}
        </div>
      )}
    </div>
  );
}
