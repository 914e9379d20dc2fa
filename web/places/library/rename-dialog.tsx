'use client';

import { useMemo, useState } from 'react';
import { useEdit } from '@/client/queries';
import type { Item } from '@/contract';
import { FORM_WORDS, NO_RENAME, type RenameRule, readPattern, renameAll } from '@/naming/rename';
import { Button } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import { Field, inputLook, SwitchRow } from '@/ui/field';
import { renameDialog as texts } from './texts';

interface RenameDialogProps {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  items: readonly Item[];
  folderOf: (item: Item) => string;
}

const SHOWN = 300;

/** Many names by one rule, all of them previewed before anything is written. */
export function RenameDialog({ open, onOpenChange, items, folderOf }: RenameDialogProps) {
  const [rule, setRule] = useState<RenameRule>(NO_RENAME);
  const edit = useEdit();
  const renamed = useMemo(
    () =>
      renameAll(
        items.map((i) => ({
          id: i.id,
          name: i.name,
          kind: i.kind,
          tags: i.tags,
          folder: folderOf(i),
          character: i.madeForName ?? '',
          steps: i.facts.steps,
          seconds: i.facts.durationS,
          turnDeg: i.facts.turnDeg ?? 0,
        })),
        rule,
      ),
    [items, rule, folderOf],
  );
  const wanted = renamed.filter((r) => r.after !== r.before);
  const faults = wanted.filter((r) => r.fault !== null);
  const broken = rule.pattern && rule.find !== '' ? readPattern(rule.find) : undefined;
  const set = (change: Partial<RenameRule>): void => setRule({ ...rule, ...change });
  const save = (): void => {
    edit.mutate({
      edits: wanted.map((r) => ({ id: r.id, change: { name: r.after }, expected: { name: r.before } })),
      label: texts.renamed(wanted.length),
    });
    onOpenChange(false);
  };
  return (
    <Dialog open={open} onOpenChange={onOpenChange} title={texts.rename(items.length)} width={820}>
      <div className="grid grid-cols-[280px_1fr] gap-6">
        <div className="flex flex-col gap-3">
          <Field label={texts.find}>
            <input className={inputLook} value={rule.find} onChange={(e) => set({ find: e.target.value })} />
          </Field>
          <Field label={texts.replaceWith}>
            <input className={inputLook} value={rule.replace} onChange={(e) => set({ replace: e.target.value })} />
          </Field>
          <SwitchRow label={texts.useAPattern} checked={rule.pattern} onChange={(pattern) => set({ pattern })} />
          {typeof broken === 'string' && <p className="text-raspberry">{broken}</p>}
          <div className="grid grid-cols-2 gap-2">
            <Field label={texts.prefix}>
              <input
                className={`${inputLook} min-w-0`}
                value={rule.prefix}
                onChange={(e) => set({ prefix: e.target.value })}
              />
            </Field>
            <Field label={texts.suffix}>
              <input
                className={`${inputLook} min-w-0`}
                value={rule.suffix}
                onChange={(e) => set({ suffix: e.target.value })}
              />
            </Field>
          </div>
          <Field label={texts.orACompletelyNew}>
            <input
              className={inputLook}
              placeholder={texts.characterTagSideN}
              value={rule.form}
              onChange={(e) => set({ form: e.target.value })}
            />
          </Field>
          <div className="flex flex-wrap gap-1">
            {FORM_WORDS.map((w) => (
              <button
                key={w}
                type="button"
                onClick={() => set({ form: `${rule.form}${rule.form && !rule.form.endsWith(' ') ? ' ' : ''}{${w}}` })}
                className="rounded-full border border-line px-2 py-px text-[11.5px] text-muted hover:border-brass hover:text-ink"
              >
                {w}
              </button>
            ))}
          </div>
          <div className="grid grid-cols-2 gap-2">
            <Field label={texts.numbersFrom}>
              <input
                className={`${inputLook} min-w-0`}
                inputMode="numeric"
                value={rule.start}
                onChange={(e) => set({ start: Math.max(0, Math.round(Number(e.target.value)) || 0) })}
              />
            </Field>
            <Field label={texts.digits}>
              <input
                className={`${inputLook} min-w-0`}
                inputMode="numeric"
                value={rule.digits}
                onChange={(e) => set({ digits: Math.min(8, Math.max(1, Math.round(Number(e.target.value)) || 1)) })}
              />
            </Field>
          </div>
        </div>
        <div className="flex min-h-0 flex-col">
          <div className="max-h-[54vh] overflow-auto rounded-md border border-line">
            <table className="w-full table-fixed text-left">
              <tbody>
                {renamed.slice(0, SHOWN).map((r) => (
                  <tr key={r.id} className="align-top [&>td]:border-b [&>td]:border-line/50 [&>td]:px-2 [&>td]:py-1">
                    <td className="truncate text-muted">{r.before}</td>
                    <td className={r.fault ? 'text-raspberry' : r.after === r.before ? 'text-muted' : ''}>
                      <span className="block truncate">{r.after}</span>
                      {r.fault && <span className="text-[11.5px]">{r.fault}</span>}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          {renamed.length > SHOWN && <p className="mt-1 text-muted">{texts.andMore(renamed.length - SHOWN)}</p>}
          <div className="mt-3 flex items-center gap-3">
            <span className={faults.length > 0 ? 'text-raspberry' : 'text-muted'}>
              {faults.length > 0
                ? texts.namesWouldNotBe(faults.length)
                : texts.ofWillBeRenamed(wanted.length, items.length)}
            </span>
            <Button
              look="brass"
              className="ml-auto"
              disabled={wanted.length === 0 || faults.length > 0 || typeof broken === 'string'}
              onClick={save}
            >
              {texts.rename3(wanted.length)}
            </Button>
          </div>
        </div>
      </div>
    </Dialog>
  );
}
