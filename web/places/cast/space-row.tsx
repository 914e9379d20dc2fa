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
import { spaceRow as texts } from './texts';

const SIZES = [
  { value: '1', label: texts.sizeAsImported },
  { value: '100', label: texts.n100Larger },
  { value: '10', label: texts.n10Larger },
  { value: '0.1', label: texts.n10Smaller },
  { value: '0.01', label: texts.n100Smaller },
  { value: '2.54', label: texts.inchesReadAsCm },
  { value: '0.3048', label: texts.feetReadAsM },
] as const;
const TURNS = [
  { value: 'none', label: texts.directionAsImported },
  { value: 'left', label: texts.turnLeft },
  { value: 'right', label: texts.turnRight },
  { value: 'around', label: texts.turnAround },
  { value: 'forwards', label: texts.tipForwards },
  { value: 'backwards', label: texts.tipBackwards },
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
        label: texts.correctedTheSizeOr(member.name),
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
      <span className="text-muted">{texts.importedWrongly}</span>
      <Select label={texts.size} value={scale} options={SIZES} onChange={setScale} className="py-0!" />
      <Select label={texts.direction} value={turn} options={TURNS} onChange={setTurn} className="py-0!" />
      {(scale !== '1' || turn !== 'none') && (
        <Button size="tiny" disabled={busy} onClick={() => void apply()}>
          {busy ? texts.turning : texts.correctIt}
        </Button>
      )}
    </div>
  );
}
