'use client';

import { useState } from 'react';
import { toast } from 'sonner';
import type { ExportFormat } from '@/workers/export-formats';
import type { FitSettings } from '@/workers/settings';
import { Button } from './button';
import { Dialog } from './dialog';
import { Field, inputLook, Select, SwitchRow } from './field';

interface ExportDialogProps {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  itemId: string;
  name: string;
  fps: number;
  /** Fit onto a cast member on the way out. */
  onto?: { id: string; name: string; settings: FitSettings } | undefined;
}

const nice = (fps: number): string => String(Number(fps.toFixed(3)));

/** Saves an item, or its fitting, as a file. */
export function ExportDialog({ open, onOpenChange, itemId, name, fps, onto }: ExportDialogProps) {
  const [format, setFormat] = useState<ExportFormat>('glb');
  const [rate, setRate] = useState(nice(fps));
  const [mesh, setMesh] = useState(true);
  const [sparse, setSparse] = useState(false);
  const [busy, setBusy] = useState(false);
  const bad = !(Number(rate) > 0 && Number(rate) <= 1000);
  const save = async (): Promise<void> => {
    setBusy(true);
    const q = new URLSearchParams({
      format,
      mesh: mesh ? '1' : '0',
      ...(Math.abs(Number(rate) - fps) > 1e-3 ? { fps: rate } : {}),
    });
    if (sparse && format === 'glb') q.set('keys', '1');
    if (onto) {
      q.set('onto', onto.id);
      q.set('settings', JSON.stringify(onto.settings));
    }
    try {
      const answer = await fetch(`/api/items/${itemId}/export?${q}`);
      if (!answer.ok) throw new Error(((await answer.json()) as { message: string }).message);
      const link = document.createElement('a');
      link.href = URL.createObjectURL(await answer.blob());
      link.download = decodeURIComponent(
        /filename\*=UTF-8''(.+)$/.exec(answer.headers.get('content-disposition') ?? '')?.[1] ?? `${name}.${format}`,
      );
      link.click();
      setTimeout(() => URL.revokeObjectURL(link.href), 10_000);
      toast(`${link.download} is saved`);
      onOpenChange(false);
    } catch (error) {
      toast.error((error as Error).message);
    } finally {
      setBusy(false);
    }
  };
  return (
    <Dialog
      open={open}
      onOpenChange={onOpenChange}
      title={`Export ${name}`}
      {...(onto ? { about: `fitted to ${onto.name}` } : {})}
    >
      <div className="flex flex-col gap-4">
        <Field label="Format">
          <Select
            label="Format"
            value={format}
            onChange={setFormat}
            options={[
              { value: 'glb', label: 'GLB: joints, motion, mesh' },
              { value: 'bvh', label: 'BVH: joints and motion' },
              { value: 'csv', label: 'CSV: places and turns, a row a frame' },
              { value: 'json', label: 'JSON: skeleton and motion as plain data' },
            ]}
          />
        </Field>
        <Field label="Frames a second">
          <input
            className={inputLook}
            inputMode="decimal"
            value={rate}
            onChange={(e) => setRate(e.target.value)}
            aria-invalid={bad}
          />
        </Field>
        {bad && <p className="text-raspberry">A number above 0 and at most 1000 is due.</p>}
        {format === 'glb' && (
          <>
            <SwitchRow checked={mesh} onChange={setMesh} label="Mesh of the character goes along" />
            <SwitchRow checked={sparse} onChange={setSparse} label="Leave out keys within 1 mm" />
          </>
        )}
        <Button look="brass" onClick={() => void save()} disabled={busy || bad}>
          {busy ? 'Writing …' : `Save as ${format.toUpperCase()}`}
        </Button>
      </div>
    </Dialog>
  );
}
