'use client';

import { itemsOf } from '@velvet-reel/motion';
import { useState } from 'react';
import { toast } from 'sonner';
import { API, sendJson } from '@/client/api';
import { useCast, useNamedItems, useRefresh } from '@/client/queries';
import type { PlayContent } from '@/documents/play';
import { Button } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import { Field, inputLook, Select } from '@/ui/field';
import { carryDialog as texts } from '../texts';

const RULE = '{item} on {character}';

/** A play-through for another character: whom, under which names, and what the items will be called. */
export function CarryDialog({ id, play, onClose }: { id: string; play: PlayContent; onClose: () => void }) {
  const cast = useCast();
  const others = (cast.data ?? []).filter((c) => c.id !== play.castId);
  const [castId, setCastId] = useState('');
  const who = others.find((c) => c.id === castId) ?? others[0];
  const [rule, setRule] = useState(RULE);
  const [name, setName] = useState<string>();
  const [folder, setFolder] = useState('');
  const [busy, setBusy] = useState(false);
  const refresh = useRefresh();
  const ids = [...new Set(play.states.flatMap(itemsOf))];
  const items = useNamedItems(ids);
  const copyName = name ?? texts.on(play.name, who?.name ?? '');
  const called = (item: string, n: number): string =>
    (rule.trim() || RULE)
      .replaceAll('{item}', item)
      .replaceAll('{character}', who?.name ?? '')
      .replaceAll('{n}', String(n + 1));
  const go = async (): Promise<void> => {
    if (!who) return;
    setBusy(true);
    try {
      await sendJson('POST', `${API}/plays/${id}/carry`, {
        castId: who.id,
        name: copyName.trim(),
        nameRule: rule,
        folder: folder.trim(),
      });
      toast(texts.onItsWayAppears(copyName.trim()));
      refresh();
      onClose();
    } catch (e) {
      toast.error((e as Error).message);
      setBusy(false);
    }
  };
  return (
    <Dialog open onOpenChange={onClose} title={texts.carryItToAnother} about={texts.everyItemIsFitted} width={520}>
      {!who ? (
        <p className="mt-3 text-muted">{texts.thereIsNoOther}</p>
      ) : (
        <div className="mt-3 flex flex-col gap-3">
          <Field label={texts.character}>
            <Select
              label={texts.characterToCarryIt}
              className="w-full"
              value={who.id}
              options={others.map((c) => ({ value: c.id, label: c.name }))}
              onChange={setCastId}
            />
          </Field>
          <Field label={texts.nameOfTheCopy}>
            <input className={`${inputLook} w-full`} value={copyName} onChange={(e) => setName(e.target.value)} />
          </Field>
          <Field label={texts.namesOfTheItems}>
            <input className={`${inputLook} w-full`} value={rule} onChange={(e) => setRule(e.target.value)} />
          </Field>
          <Field label={texts.folderBesideTheirOriginals}>
            <input className={`${inputLook} w-full`} value={folder} onChange={(e) => setFolder(e.target.value)} />
          </Field>
          <div className="max-h-40 overflow-y-auto rounded border border-line">
            <table className="w-full text-left text-[12.5px]">
              <tbody>
                {items.map((item, n) => (
                  <tr key={item.id} className="[&>td]:px-2 [&>td]:py-0.5">
                    <td className="text-muted">{item.name}</td>
                    <td>{called(item.name, n)}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
          <Button look="brass" disabled={busy || ids.length === 0 || copyName.trim() === ''} onClick={() => void go()}>
            {texts.carryItemAndThe(ids.length)}
          </Button>
        </div>
      )}
    </Dialog>
  );
}
