'use client';

import { STAND_IN_HEIGHT } from '@velvet-reel/motion';
import { useState } from 'react';
import { toast } from 'sonner';
import { API, sendJson } from '@/client/api';
import { useRefresh } from '@/client/queries';
import { useUndo } from '@/client/undo';
import type { CastMember } from '@/contract';
import { Button } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import { Field, inputLook } from '@/ui/field';
import { standInDialog as texts } from './texts';

/** Adds a body of common proportions to the cast. */
export function StandInDialog({ onClose, onMade }: { onClose: () => void; onMade: (id: string) => void }) {
  const [name, setName] = useState(texts.standIn);
  const [rest, setRest] = useState<'T' | 'A'>('T');
  const [height, setHeight] = useState(String(STAND_IN_HEIGHT.usual));
  const [busy, setBusy] = useState(false);
  const refresh = useRefresh();
  const push = useUndo((s) => s.push);
  const metres = Number(height.replace(',', '.'));
  const fits = metres >= STAND_IN_HEIGHT.low && metres <= STAND_IN_HEIGHT.high;
  const make = async (): Promise<void> => {
    setBusy(true);
    try {
      const made = await sendJson<CastMember>('POST', `${API}/cast/stand-in`, {
        name: name.trim(),
        rest,
        heightM: metres,
      });
      push({
        label: texts.added(made.name),
        undo: () => sendJson('PATCH', `${API}/cast/${made.id}`, { binned: true }),
      });
      refresh();
      onMade(made.id);
      onClose();
    } catch (error) {
      toast.error((error as Error).message);
      setBusy(false);
    }
  };
  return (
    <Dialog open onOpenChange={onClose} title={texts.addAStandIn} about={texts.aBodyWithAverage}>
      <form
        className="flex flex-col gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          if (fits && name.trim()) void make();
        }}
      >
        <Field label={texts.name}>
          <input className={inputLook} value={name} maxLength={200} onChange={(e) => setName(e.target.value)} />
        </Field>
        <fieldset>
          <legend className="mb-1 text-muted">{texts.armsAtRest}</legend>
          <div className="flex gap-1.5">
            {(
              [
                ['T', 'level (T-pose)'],
                ['A', 'slanting down (A-pose)'],
              ] as const
            ).map(([value, label]) => (
              <label
                key={value}
                className="flex cursor-pointer items-center gap-1.5 rounded-md border border-line bg-raised px-2 py-1 has-checked:border-brass has-checked:text-brass-text"
              >
                <input
                  type="radio"
                  name="rest"
                  className="accent-(--brass)"
                  checked={rest === value}
                  onChange={() => setRest(value)}
                />
                {label}
              </label>
            ))}
          </div>
        </fieldset>
        <Field label={texts.heightInMetres}>
          <input
            className={`${inputLook} w-24`}
            inputMode="decimal"
            value={height}
            aria-invalid={!fits}
            onChange={(e) => setHeight(e.target.value)}
          />
        </Field>
        {!fits && (
          <p className="-mt-2 text-[12px] text-raspberry">{texts.fromToM(STAND_IN_HEIGHT.low, STAND_IN_HEIGHT.high)}</p>
        )}
        <Button type="submit" look="brass" disabled={busy || !fits || name.trim() === ''}>
          {busy ? texts.adding : texts.addToTheCast}
        </Button>
      </form>
    </Dialog>
  );
}
