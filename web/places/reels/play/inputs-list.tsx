'use client';

import type { PlayInput } from '@velvet-reel/motion';
import { clsx } from 'clsx';
import { Trash2 } from 'lucide-react';
import { useState } from 'react';
import type { PlayContent } from '@/documents/play';
import type { Pressed } from '@/solver/play-thread';
import { Button, IconButton } from '@/ui/button';
import { KeptInput } from '@/ui/field';
import { NumberField } from '../number-field';
import { inputsList as texts } from '../texts';
import { changeInput, keyName, withInput, withoutInput } from './play-edits';

const KIND_WORDS = { hold: 'held down', press: 'pressed', number: texts.aNumber } as const;

/** What is played with: keys, buttons and sticks; while it plays, what is pressed lights up. */
export function InputsList({
  play,
  pressed,
  mayChange,
  onChange,
}: {
  play: PlayContent;
  pressed: Pressed | undefined;
  mayChange: boolean;
  onChange: (play: PlayContent, label: string) => void;
}) {
  return (
    <section aria-label={texts.inputs} className="flex flex-col gap-2">
      <h2 className="font-semibold">{texts.playedWith}</h2>
      {play.inputs.length === 0 && <p className="text-muted">{texts.nothingYetWaysCan}</p>}
      <ul className="flex flex-col gap-1.5">
        {play.inputs.map((i) => (
          <InputRow
            key={i.id}
            input={i}
            lit={pressed?.held.includes(i.id) || pressed?.pressed.includes(i.id) || false}
            value={pressed?.numbers.find(([id]) => id === i.id)?.[1]}
            mayChange={mayChange}
            onSet={(change) => onChange(changeInput(play, i.id, change), texts.changedTheInput(i.name))}
            onRemove={() => onChange(withoutInput(play, i.id), texts.removedTheInput(i.name))}
          />
        ))}
      </ul>
      {mayChange && (
        <div className="flex flex-wrap gap-1.5">
          {(['press', 'hold', 'number'] as const).map((kind) => (
            <Button
              key={kind}
              size="small"
              onClick={() => onChange(withInput(play, kind).content, texts.addedAnInputThat(KIND_WORDS[kind]))}
            >
              + {KIND_WORDS[kind]}
            </Button>
          ))}
        </div>
      )}
    </section>
  );
}

function InputRow({
  input,
  lit,
  value,
  mayChange,
  onSet,
  onRemove,
}: {
  input: PlayInput;
  lit: boolean;
  value: number | undefined;
  mayChange: boolean;
  onSet: (change: Partial<PlayInput>) => void;
  onRemove: () => void;
}) {
  const [open, setOpen] = useState(false);
  const share = value === undefined ? 0 : (value - input.min) / Math.max(1e-9, input.max - input.min);
  return (
    <li className={clsx('rounded-lg border px-2 py-1', lit ? 'border-brass' : 'border-line')}>
      <div className="flex items-center gap-2">
        <KeyCap
          code={input.key}
          label={texts.keyOf(input.name)}
          mayChange={mayChange}
          onKey={(key) => onSet({ key })}
        />
        {input.kind === 'number' && (
          <KeyCap
            code={input.lessKey}
            label={texts.keyThatLowers(input.name)}
            mayChange={mayChange}
            onKey={(lessKey) => onSet({ lessKey })}
          />
        )}
        <button
          type="button"
          aria-expanded={open}
          className="min-w-0 flex-1 truncate text-left"
          onClick={() => setOpen(!open)}
        >
          <span className="font-medium">{input.name}</span>{' '}
          <span className="text-[12px] text-muted">
            {input.kind === 'number' ? texts.ofIt(value?.toFixed(2) ?? input.min, input.max) : KIND_WORDS[input.kind]}
          </span>
        </button>
        {mayChange && (
          <IconButton label={texts.removeTheInput(input.name)} quiet onClick={onRemove}>
            <Trash2 size={13} />
          </IconButton>
        )}
      </div>
      {input.kind === 'number' && (
        <div className="mt-1 h-1 overflow-hidden rounded bg-raised">
          <div className="h-full bg-brass" style={{ width: `${100 * share}%` }} />
        </div>
      )}
      {open && (
        <fieldset disabled={!mayChange} className="mt-2 flex flex-col gap-1.5">
          <KeptInput
            aria-label={texts.nameOfTheInput(input.name)}
            value={input.name}
            onKeep={(name) => name.trim() && onSet({ name: name.trim() })}
          />
          <NumberField
            label={input.kind === 'number' ? texts.axisOfAGamepad : texts.buttonOfAGamepad}
            value={input.pad}
            low={-1}
            high={63}
            onKeep={(pad) => onSet({ pad })}
          />
          {input.kind === 'number' && (
            <>
              <NumberField
                label={texts.least}
                value={input.min}
                low={-1e6}
                high={1e6}
                step={0.1}
                onKeep={(min) => onSet({ min })}
              />
              <NumberField
                label={texts.most}
                value={input.max}
                low={-1e6}
                high={1e6}
                step={0.1}
                onKeep={(max) => onSet({ max })}
              />
            </>
          )}
        </fieldset>
      )}
    </li>
  );
}

/** A key; pressed with the pointer it waits for another one. */
function KeyCap({
  code,
  label,
  mayChange,
  onKey,
}: {
  code: string;
  label: string;
  mayChange: boolean;
  onKey: (code: string) => void;
}) {
  const [waits, setWaits] = useState(false);
  return (
    <button
      type="button"
      disabled={!mayChange}
      aria-label={waits ? texts.pressTheNewKey(label) : texts.keyOfInput(label, keyName(code))}
      className={clsx(
        'min-w-8 rounded border px-1.5 py-0.5 text-center text-[12px]',
        waits ? 'border-brass text-brass-text' : 'border-line bg-raised',
      )}
      onClick={() => setWaits(true)}
      onBlur={() => setWaits(false)}
      onKeyDown={(e) => {
        if (!waits) return;
        e.preventDefault();
        e.stopPropagation();
        setWaits(false);
        if (e.code !== 'Escape' && e.code !== 'Tab') onKey(e.code);
      }}
    >
      {waits ? '…' : keyName(code) || '–'}
    </button>
  );
}
