'use client';

import { useConflict } from '@/client/conflict';
import { useEdit } from '@/client/queries';
import type { ItemChange } from '@/contract';
import { Button } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import { conflictDialog as texts } from './texts';

const show = (value: unknown): string =>
  Array.isArray(value)
    ? value.map((v) => (typeof v === 'string' ? v : JSON.stringify(v))).join(', ') || 'nothing'
    : value === '' || value === null || value === undefined
      ? 'nothing'
      : typeof value === 'object'
        ? JSON.stringify(value)
        : String(value);

/** Two people changed the same: both versions are shown, and whoever came second decides. */
export function ConflictDialog() {
  const { open, close } = useConflict();
  const edit = useEdit();
  if (!open) return null;
  const again = (keepTheirs: boolean): void => {
    const clash = new Set(open.conflicts.map((c) => `${c.id} ${c.field}`));
    const edits = open.edits
      .map(({ id, change }) => ({
        id,
        change: Object.fromEntries(
          Object.entries(change).filter(([field]) => !keepTheirs || !clash.has(`${id} ${field}`)),
        ) as ItemChange,
      }))
      .filter((e) => Object.keys(e.change).length > 0);
    if (edits.length > 0) edit.mutate({ edits, label: open.label });
    close();
  };
  return (
    <Dialog open onOpenChange={close} title={texts.somebodyElseChangedThis} about={texts.yourChangeHasNot} width={620}>
      <table className="w-full table-fixed text-left">
        <thead className="text-muted">
          <tr>
            <th className="w-1/4 py-1 font-normal">{texts.what}</th>
            <th className="py-1 font-normal">{texts.theirsNowSaved}</th>
            <th className="py-1 font-normal">{texts.yours}</th>
          </tr>
        </thead>
        <tbody>
          {open.conflicts.slice(0, 30).map((c) => (
            <tr
              key={`${c.id}${c.field}`}
              className="align-top [&>td]:border-t [&>td]:border-line [&>td]:py-1.5 [&>td]:pr-3"
            >
              <td>
                {c.field} <span className="block truncate text-[11.5px] text-muted">{c.name}</span>
              </td>
              <td className="break-words">{show(c.theirs)}</td>
              <td className="break-words">{show(c.yours)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={() => again(true)}>{texts.keepTheirs}</Button>
        <Button look="brass" onClick={() => again(false)}>
          {texts.saveMine}
        </Button>
      </div>
    </Dialog>
  );
}
