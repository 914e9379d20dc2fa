'use client';

import { useState } from 'react';
import { toast } from 'sonner';
import { API, sendJson } from '@/client/api';
import { useRefresh } from '@/client/queries';
import { useUndo } from '@/client/undo';
import type { CastMember } from '@/contract';
import { useDocuments } from '@/documents/use-document';
import { Button } from '@/ui/button';
import { Select } from '@/ui/field';

const SIZES = [
  { value: '1', label: 'size as imported' },
  { value: '100', label: '100 × larger' },
  { value: '10', label: '10 × larger' },
  { value: '0.1', label: '10 × smaller' },
  { value: '0.01', label: '100 × smaller' },
  { value: '2.54', label: 'inches read as cm' },
  { value: '0.3048', label: 'feet read as m' },
] as const;
const TURNS = [
  { value: 'none', label: 'direction as imported' },
  { value: 'left', label: 'turn left' },
  { value: 'right', label: 'turn right' },
  { value: 'around', label: 'turn around' },
  { value: 'forwards', label: 'tip forwards' },
  { value: 'backwards', label: 'tip backwards' },
] as const;

/** Corrects units and axes that were guessed wrongly when the file was read. */
export function SpaceRow({ member }: { member: CastMember }) {
  const [scale, setScale] = useState<(typeof SIZES)[number]['value']>('1');
  const [turn, setTurn] = useState<(typeof TURNS)[number]['value']>('none');
  const { saved } = useDocuments();
  const [busy, setBusy] = useState(false);
  const refresh = useRefresh();
  const push = useUndo((s) => s.push);
  const apply = async (): Promise<void> => {
    setBusy(true);
    try {
      await saved();
      const { undo } = await sendJson<{ undo: Record<string, unknown> }>('POST', `${API}/cast/${member.id}/space`, {
        scale: Number(scale),
        turn,
      });
      push({
        label: `Corrected the size or direction of ${member.name}`,
        undo: () => sendJson('PATCH', `${API}/cast/${member.id}`, undo),
      });
      refresh();
    } catch (error) {
      toast.error((error as Error).message);
    } finally {
      setBusy(false);
    }
  };
  return (
    <div className="flex flex-wrap items-center gap-1.5 text-[12.5px]">
      <span className="text-muted">Imported wrongly?</span>
      <Select label="Size" value={scale} options={SIZES} onChange={setScale} className="py-0!" />
      <Select label="Direction" value={turn} options={TURNS} onChange={setTurn} className="py-0!" />
      {(scale !== '1' || turn !== 'none') && (
        <Button size="tiny" disabled={busy} onClick={() => void apply()}>
          {busy ? 'Turning …' : 'Correct it'}
        </Button>
      )}
    </div>
  );
}
