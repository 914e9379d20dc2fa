'use client';

import { X } from 'lucide-react';
import { type ReactNode, useState } from 'react';
import type { Item, RigAnswer } from '@/contract';
import { kindOf } from '@/kinds/kinds';
import { many } from '@/naming/counts';
import { TuningSliders } from '@/parts/tuning-sliders';
import type { Reading } from '@/solver/solve';
import type { Clock } from '@/stage/clock';
import { Button, IconButton } from '@/ui/button';
import { inputLook, SwitchRow } from '@/ui/field';
import { Slider } from '@/ui/slider';
import { type ChangeWish, changeWords, keysSurvive, MOST_HELD, NO_CHANGE } from '@/wishes/wishes';
import { KeptParts } from './kept-parts';
import { changePanel as texts } from './texts';

interface ChangePanelProps {
  item: Item;
  wish: ChangeWish;
  reading: Reading | undefined;
  source: RigAnswer | undefined;
  clock: Clock;
  name: string;
  error: Error | null;
  keeping: boolean;
  onWish: (wish: ChangeWish) => void;
  onName: (name: string) => void;
  onKeep: (over: boolean) => void;
  onClose: () => void;
}

/** Makes another item of this one; the stage above shows it as it is being set. */
export function ChangePanel({
  item,
  wish,
  reading,
  source,
  clock,
  name,
  error,
  keeping,
  onWish,
  onName,
  onKeep,
  onClose,
}: ChangePanelProps) {
  const set = (change: Partial<ChangeWish>): void => onWish({ ...wish, ...change });
  const words = changeWords(wish);
  const [asking, setAsking] = useState(false);
  const last = item.facts.frameCount - 1;
  return (
    <section aria-label={texts.change} className="flex h-[58%] min-h-0 shrink-0 flex-col border-t border-line">
      <div className="min-h-0 flex-1 overflow-y-auto px-4 pt-3">
        <div className="mb-1 flex items-start gap-2">
          <h2 className="heading min-w-0 flex-1 truncate text-[17px]">{texts.change2(item.name)}</h2>
          <IconButton label={texts.closeAndGoBack} keys={texts.esc} quiet onClick={onClose}>
            <X size={15} />
          </IconButton>
        </div>
        <p className="mb-2 text-[12px] text-muted">
          {texts.theStageShowsThe}
          {item.keysHash !== null && (keysSurvive(wish) ? texts.itIsKeyedAnimation : texts.itIsKeyedAnimationThis)}
        </p>
        <SwitchRow label={texts.mirror} checked={wish.mirror} onChange={(mirror) => set({ mirror })} />
        <SwitchRow label={texts.closeIntoALoop} checked={wish.loop} onChange={(loop) => set({ loop })} />
        {reading && reading.loops.length > 0 && (
          <div className="mb-1 flex flex-wrap gap-1.5 text-[12px]">
            <span className="text-muted">{texts.found}</span>
            {reading.loops.map((l) => {
              const chosen = wish.loop && wish.trim?.start === l.start && wish.trim.end === l.end;
              return (
                <button
                  key={`${l.start}-${l.end}`}
                  type="button"
                  aria-pressed={chosen}
                  onClick={() => set({ loop: true, trim: { start: l.start, end: l.end } })}
                  className={`rounded-full border px-2 py-px hover:border-brass ${chosen ? 'border-brass text-brass-text' : 'border-line'}`}
                >
                  {texts.to2(l.start + 1, l.end + 1)}
                  {l.steps > 0 ? `, ${many(l.steps, 'step')}` : ''}
                </button>
              );
            })}
          </div>
        )}
        <Row label={texts.frames}>
          <span className="flex items-center gap-1.5">
            <FrameInput
              label={texts.firstFrame}
              value={(wish.trim?.start ?? 0) + 1}
              most={last + 1}
              onKeep={(x) => set({ trim: whole({ start: x - 1, end: Math.max(x - 1, wish.trim?.end ?? last) }, last) })}
            />
            {texts.to}
            <FrameInput
              label={texts.lastFrame}
              value={(wish.trim?.end ?? last) + 1}
              most={last + 1}
              onKeep={(x) => set({ trim: whole({ start: Math.min(wish.trim?.start ?? 0, x - 1), end: x - 1 }, last) })}
            />
          </span>
        </Row>
        <div className="mb-1 flex flex-wrap gap-1.5">
          <Button
            size="tiny"
            className="text-[12px]!"
            onClick={() => set({ trim: { start: clock.frame, end: clock.frame }, loop: false })}
            disabled={wish.trim?.start === wish.trim?.end && wish.trim !== null}
            hint={texts.keepOnlyTheFrame}
          >
            {texts.poseAtThisFrame}
          </Button>
          {wish.trim && (
            <Button size="tiny" className="text-[12px]!" onClick={() => set({ trim: null })}>
              {texts.backToAllFrames}
            </Button>
          )}
        </div>
        <Row label={texts.holdBeforeAfter}>
          <span className="flex items-center gap-1.5">
            <FrameInput
              label={texts.framesToHoldThe}
              value={wish.hold.before}
              least={0}
              most={MOST_HELD}
              onKeep={(before) => set({ hold: { ...wish.hold, before } })}
            />
            <FrameInput
              label={texts.framesToHoldTheLast}
              value={wish.hold.after}
              least={0}
              most={MOST_HELD}
              onKeep={(after) => set({ hold: { ...wish.hold, after } })}
            />
          </span>
        </Row>
        <SwitchRow label={texts.backwards} checked={wish.reverse} onChange={(reverse) => set({ reverse })} />
        <KeptParts item={item} source={source} wish={wish} onKeep={set} />
        <SwitchRow label={texts.inPlace} checked={wish.inPlace} onChange={(inPlace) => set({ inPlace })} />
        <SwitchRow label={texts.putOnTheFloor} checked={wish.floor} onChange={(floor) => set({ floor })} />
        <SwitchRow label={texts.removeSpikesAndFlips} checked={wish.despike} onChange={(despike) => set({ despike })} />
        <SwitchRow label={texts.fillGaps} checked={wish.fillGaps} onChange={(fillGaps) => set({ fillGaps })} />
        <Slider
          label={texts.smoothAbove}
          value={wish.smoothHz}
          rest={0}
          low={0}
          high={Math.min(20, Math.floor(item.facts.fps / 2) - 1)}
          step={1}
          unit=" Hz"
          onChange={(smoothHz) => set({ smoothHz })}
        />
        <TuningSliders value={wish.tuning} onChange={(tuning) => set({ tuning })} />
        {error && <p className="my-2 rounded-md border border-raspberry p-2 text-raspberry">{error.message}</p>}
      </div>
      <div className="flex flex-col gap-2 border-t border-line px-4 py-3">
        <input
          aria-label={texts.nameOfTheNew}
          className={`${inputLook} w-full py-1`}
          value={name}
          onChange={(e) => onName(e.target.value)}
        />
        <div className="flex flex-wrap gap-2">
          <Button
            look="brass"
            className="flex-1"
            onClick={() => onKeep(false)}
            disabled={keeping || words.length === 0 || name.trim() === '' || error !== null}
          >
            {keeping ? texts.keeping : texts.keepAsANew}
          </Button>
          {asking ? (
            <Button onClick={() => onKeep(true)} disabled={keeping}>
              {texts.yesSaveAsVersion(item.versions + 1)}
            </Button>
          ) : (
            kindOf(item).versions && (
              <Button
                onClick={() => setAsking(true)}
                disabled={keeping || words.length === 0 || error !== null}
                hint={texts.theCurrentVersionIs}
              >
                {texts.saveOver}
              </Button>
            )
          )}
          <Button onClick={() => onWish(NO_CHANGE)} disabled={words.length === 0}>
            {texts.reset}
          </Button>
        </div>
      </div>
    </section>
  );
}

/** Null where the span is the whole motion. */
const whole = (span: { start: number; end: number }, last: number): ChangeWish['trim'] =>
  span.start <= 0 && span.end >= last ? null : span;

function Row({ label, children }: { label: string; children: ReactNode }) {
  return (
    <div className="flex min-h-7 shrink-0 items-center justify-between gap-3">
      <span className="text-muted">{label}</span>
      {children}
    </div>
  );
}

function FrameInput({
  label,
  value,
  least = 1,
  most,
  onKeep,
}: {
  label: string;
  value: number;
  least?: number;
  most: number;
  onKeep: (frame: number) => void;
}) {
  return (
    <input
      key={value}
      aria-label={label}
      inputMode="numeric"
      defaultValue={value}
      className={`${inputLook} w-16 py-0.5 text-right tabular-nums`}
      onBlur={(e) => {
        const x = Math.round(Number(e.target.value));
        if (Number.isFinite(x) && x !== value) onKeep(Math.min(most, Math.max(least, x)));
        else e.target.value = String(value);
      }}
      onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()}
    />
  );
}
