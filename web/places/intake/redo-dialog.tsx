'use client';

import { FITTING_DEFAULTS } from '@velvet-reel/motion';
import { useState } from 'react';
import { toast } from 'sonner';
import { API, sendJson } from '@/client/api';
import type { Job } from '@/contract';
import { useDocuments } from '@/documents/use-document';
import { FitSettingsFields } from '@/parts/fit-settings-fields';
import { Button } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import type { FitSettings } from '@/wishes/wishes';
import { redoDialog as texts } from './texts';

/** Makes some fittings of a job again with other settings; what they made stays as the earlier version. */
export function RedoDialog({
  job,
  parts,
  onClose,
  onDone,
}: {
  job: Job;
  parts: readonly string[];
  onClose: () => void;
  onDone: () => void;
}) {
  const [settings, setSettings] = useState<FitSettings>(FITTING_DEFAULTS);
  const { saved } = useDocuments();
  const [busy, setBusy] = useState(false);
  const start = async (): Promise<void> => {
    setBusy(true);
    try {
      await saved();
      const { again } = await sendJson<{ again: number }>('POST', `${API}/jobs/${job.id}/redo`, { parts, settings });
      toast(texts.makingAgainEachBecomes(again));
      onDone();
      onClose();
    } catch (error) {
      toast.error((error as Error).message);
    } finally {
      setBusy(false);
    }
  };
  return (
    <Dialog open onOpenChange={onClose} title={texts.doAgain(parts.length)} about={texts.usesTheseSettingsFor}>
      <div className="flex flex-col gap-2">
        <FitSettingsFields value={settings} onChange={setSettings} />
        <Button look="brass" disabled={busy} onClick={() => void start()}>
          {busy ? texts.starting : texts.makeThemAgain}
        </Button>
      </div>
    </Dialog>
  );
}
