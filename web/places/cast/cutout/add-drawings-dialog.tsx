'use client';

import type { MergeReport } from '@velvet-reel/motion';
import { useEffect, useState } from 'react';
import { toast } from 'sonner';
import { API, sendJson } from '@/client/api';
import { useCast, useItems, useRefresh } from '@/client/queries';
import { useUndo } from '@/client/undo';
import type { CastMember } from '@/contract';
import { Button } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import { Select } from '@/ui/field';
import { addDrawingsDialog as texts } from '../texts';

interface Answer {
  report: MergeReport;
  words: string[];
  changed?: { undo: unknown };
}

/** Another figure's drawings for the same parts: first what would happen, then the step itself, which can be undone. */
export function AddDrawingsDialog({
  member,
  first = '',
  onClose,
}: {
  member: CastMember;
  /** What to begin with; see sourceOf. */
  first?: string;
  onClose: () => void;
}) {
  const others = (useCast().data ?? []).filter((m) => m.assets.art && m.id !== member.id);
  const sets = useItems({ q: 'kind:drawings' }).data?.items ?? [];
  const [from, setFrom] = useState(first);
  const [answer, setAnswer] = useState<Answer | null>(null);
  const [left, setLeft] = useState<readonly string[]>([]);
  const [busy, setBusy] = useState(false);
  const refresh = useRefresh();
  const push = useUndo((s) => s.push);
  const address = `${API}/cast/${member.id}/drawings`;

  useEffect(() => {
    setAnswer(null);
    setLeft([]);
    if (from === '') return;
    let gone = false;
    sendJson<Answer>('POST', address, { rigId: member.rigId, ...sourceOf(from), check: true })
      .then((a) => {
        if (gone) return;
        setAnswer(a);
        // clothes and limbs have one drawing each: whoever wants another's has to ask for it
        const drawings = (part: string): number => a.report.drawings.filter((d) => d.part === part).length;
        setLeft([...new Set(a.report.drawings.map((d) => d.part))].filter((part) => drawings(part) === 1));
      })
      .catch((error: Error) => gone || toast.error(error.message));
    return () => {
      gone = true;
    };
  }, [from, address, member.rigId]);

  const parts = [...new Set(answer?.report.drawings.map((d) => d.part) ?? [])];
  const chosen = parts.filter((p) => !left.includes(p));
  const fresh = answer?.report.drawings.filter((d) => d.how !== 'same' && chosen.includes(d.part)).length ?? 0;
  const add = async (): Promise<void> => {
    setBusy(true);
    try {
      const { changed } = await sendJson<Answer>('POST', address, {
        rigId: member.rigId,
        ...sourceOf(from),
        parts: chosen,
      });
      if (changed)
        push({
          label: texts.added(fresh),
          undo: () => sendJson('PATCH', `${API}/cast/${member.id}`, changed.undo),
        });
      toast(changed ? texts.addedTo(fresh, member.name) : texts.nothingWasNew);
      refresh();
      onClose();
    } catch (error) {
      toast.error((error as Error).message);
    } finally {
      setBusy(false);
    }
  };

  return (
    <Dialog
      open
      onOpenChange={onClose}
      width={560}
      title={texts.addDrawingsTo(member.name)}
      about={texts.fromAnotherCutOut}
    >
      {others.length + sets.length === 0 ? (
        <p className="text-muted">{texts.thereIsNoOther}</p>
      ) : (
        <div className="flex flex-col gap-3">
          <Select
            label={texts.whereTheDrawingsCome}
            value={from}
            options={[
              { value: '', label: texts.chooseAFigureOr },
              ...others.map((m) => ({ value: m.id, label: m.name })),
              ...sets.map((s) => ({ value: `${SET}${s.id}`, label: texts.drawings(s.name) })),
            ]}
            onChange={setFrom}
          />
          {answer && parts.length === 0 && <p className="text-brass-text">{texts.noPartOfThe}</p>}
          {parts.length > 0 && (
            <ul className="flex max-h-72 flex-col overflow-auto">
              {parts.map((part) => (
                <li key={part} className="border-line border-b py-1 last:border-0">
                  <label className="flex items-baseline gap-2">
                    <input
                      type="checkbox"
                      checked={!left.includes(part)}
                      onChange={(e) => setLeft(e.target.checked ? left.filter((p) => p !== part) : [...left, part])}
                    />
                    <span className="w-28 shrink-0 truncate" title={part}>
                      {part}
                    </span>
                    <span className="text-muted">
                      {answer!.report.drawings
                        .filter((d) => d.part === part)
                        .map(told)
                        .join(', ')}
                    </span>
                  </label>
                </li>
              ))}
            </ul>
          )}
          {answer && answer.report.unpaired.length > 0 && (
            <p className="text-muted" title={answer.report.unpaired.join(', ')}>
              {texts.partOfThatFigure(answer.report.unpaired.length)}
            </p>
          )}
          <Button look="brass" disabled={busy || fresh === 0} onClick={() => void add()}>
            {fresh === 0 ? texts.nothingNewToAdd : texts.add(fresh)}
          </Button>
        </div>
      )}
    </Dialog>
  );
}

const SET = 'set:';
/** The choice that begins with a set of the library. */
export const firstSet = (id: string): string => `${SET}${id}`;
/** A choice as what the server is asked for: a figure's id, or that of an item that keeps drawings. */
const sourceOf = (from: string): { from: string } | { item: string } =>
  from.startsWith(SET) ? { item: from.slice(SET.length) } : { from };

const told = ({ how, label, from }: MergeReport['drawings'][number]): string =>
  how === 'same' ? texts.isThereAlready(from.label) : how === 'added' ? label : texts.asIt(from.label, label);
