'use client';

import { useQuery } from '@tanstack/react-query';
import { Check, TriangleAlert } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import { API, getJson } from '@/client/api';
import { useItems } from '@/client/queries';
import { saveFile } from '@/client/save-file';
import type { CastMember, EngineConditionRow } from '@/contract';
import { useDocuments } from '@/documents/use-document';
import { kindOf } from '@/kinds/kinds';
import { Button } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import { SwitchRow } from '@/ui/field';
import { exportCharacterDialog as texts } from './texts';

/** So many of what was made for a character travel in one file at most. */
const MOST = 500;

/** Hands a character over: figure alone, motion alone, or both, as one file. */
export function ExportCharacterDialog({ member, onClose }: { member: CastMember; onClose: () => void }) {
  const { saved } = useDocuments();
  const { data } = useItems({ q: `made:"${member.name}"`, sort: 'name' }, MOST);
  const own = (data?.items ?? []).filter((i) => kindOf(i).fits && i.madeFor === member.id);
  const items = own.filter((i) => i.rigId === member.rigId);
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const [mesh, setMesh] = useState(member.assets.figure !== undefined);
  const [sparse, setSparse] = useState(false);
  const [curved, setCurved] = useState(false);
  const [vrm, setVrm] = useState(false);
  const [busy, setBusy] = useState(false);
  const going = items.filter((i) => !left.has(i.id));
  const save = async (): Promise<void> => {
    setBusy(true);
    try {
      await saved();
      const answer = await fetch(`${API}/cast/${member.id}/export`, {
        method: 'POST',
        headers: { 'content-type': 'application/json' },
        body: JSON.stringify({
          itemIds: vrm ? [] : going.map((i) => i.id),
          mesh,
          vrm,
          keys: sparse ? 1 : null,
          curves: curved ? 'smooth' : 'straight',
        }),
      });
      toast(texts.isSaved(await saveFile(answer, `${member.name}.${vrm ? 'vrm' : 'glb'}`)));
      onClose();
    } catch (error) {
      toast.error((error as Error).message);
      setBusy(false);
    }
  };
  const toggle = (id: string): void => {
    const next = new Set(left);
    if (!next.delete(id)) next.add(id);
    setLeft(next);
  };
  return (
    <Dialog open onOpenChange={onClose} title={texts.exportIt(member.name)} about={texts.oneGlbFileWhich}>
      <div className="flex flex-col gap-3">
        {member.assets.figure === undefined ? (
          <p className="text-brass-text">{texts.thisCharacterHasNo}</p>
        ) : (
          <SwitchRow label={texts.withTheMesh} checked={mesh} onChange={setMesh} />
        )}
        <SwitchRow label={texts.asVrmTheFigure} checked={vrm} onChange={setVrm} />
        <fieldset className="min-w-0 disabled:opacity-50" disabled={vrm}>
          <legend className="mb-1 flex w-full items-baseline gap-2 text-muted">
            <span className="flex-1">
              {texts.motionInIt}
              {data && items.length > 0 && texts.ofIt(going.length, items.length)}
            </span>
            {items.length > 0 && (
              <button
                type="button"
                className="text-[12px] underline hover:text-ink"
                onClick={() => setLeft(going.length > 0 ? new Set(items.map((i) => i.id)) : new Set())}
              >
                {going.length > 0 ? texts.none : texts.all}
              </button>
            )}
          </legend>
          {data && items.length === 0 && (
            <p className="text-[12.5px] text-muted">
              {own.length > 0 ? texts.everythingMadeForIt : texts.nothingHasBeenMade}
            </p>
          )}
          {data && data.found > data.items.length && (
            <p className="text-[12.5px] text-brass-text">{texts.wereMadeForItThe(data.found, data.items.length)}</p>
          )}
          <ul className="flex max-h-56 flex-col overflow-y-auto">
            {items.map((i) => (
              <li key={i.id}>
                <label className="flex cursor-pointer items-center gap-2 rounded px-1 py-px hover:bg-raised">
                  <input
                    type="checkbox"
                    className="accent-(--brass)"
                    checked={!left.has(i.id)}
                    onChange={() => toggle(i.id)}
                  />
                  <span className="min-w-0 flex-1 truncate">{i.name}</span>
                  <span className="text-[12px] text-muted">{i.facts.frameCount} f</span>
                </label>
              </li>
            ))}
          </ul>
        </fieldset>
        <SwitchRow label={texts.leaveOutKeysWithin} checked={sparse} onChange={setSparse} />
        {sparse && <SwitchRow label={texts.curvesBetweenTheKeys} checked={curved} onChange={setCurved} />}
        <Conditions castId={member.id} />
        <Button look="brass" disabled={busy || !data} onClick={() => void save()}>
          {busy ? texts.writing : texts.saveTheFile}
        </Button>
      </div>
    </Dialog>
  );
}

/** What engines ask of the character: what is not met first, all of it when opened. */
function Conditions({ castId }: { castId: string }) {
  const { data } = useQuery({
    queryKey: ['cast', 'conditions', castId],
    queryFn: () => getJson<EngineConditionRow[]>(`${API}/cast/${castId}/conditions`),
    retry: false,
  });
  const [open, setOpen] = useState(false);
  if (!data) return null;
  const breaches = data.filter((c) => !c.met);
  return (
    <section aria-label={texts.forGameEngines} className="text-[12.5px]">
      <button
        type="button"
        aria-expanded={open}
        className="flex w-full items-baseline gap-2 text-left text-muted hover:text-ink"
        onClick={() => setOpen(!open)}
      >
        <span className="flex-1">
          {breaches.length === 0
            ? texts.meetsWhatGameEngines
            : texts.gameEnginesMayObject(breaches.length, data.length)}
        </span>
        <span className="underline">{open ? texts.less : texts.allOfIt}</span>
      </button>
      <ul className="mt-1 flex flex-col gap-0.5">
        {(open ? data : breaches).map((c) => (
          <li key={c.code} className="flex items-start gap-1.5">
            {c.met ? (
              <Check size={13} className="mt-0.5 shrink-0 text-verdigris" aria-label={texts.met} />
            ) : (
              <TriangleAlert size={13} className="mt-0.5 shrink-0 text-brass-text" aria-label={texts.notMet} />
            )}
            {c.words}
          </li>
        ))}
      </ul>
    </section>
  );
}
