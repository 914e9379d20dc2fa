'use client';

import { FITTING_DEFAULTS } from '@velvet-reel/motion';
import { useState } from 'react';
import { toast } from 'sonner';
import { API, sendJson } from '@/client/api';
import type { Job } from '@/contract';
import { useDocuments } from '@/documents/use-document';
import { many } from '@/naming/counts';
import { FitSettingsFields } from '@/parts/fit-settings-fields';
import { Button } from '@/ui/button';
import { Dialog } from '@/ui/dialog';
import type { FitSettings } from '@/wishes/wishes';

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
      toast(`Making ${many(again, 'fitting')} again; each becomes a new version of its item`);
      onDone();
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
      title={`Do ${parts.length} again`}
      about="Uses these settings for all of them. Each result becomes a new version of its item; the earlier one stays."
    >
      <div className="flex flex-col gap-2">
        <FitSettingsFields value={settings} onChange={setSettings} />
        <Button look="brass" disabled={busy} onClick={() => void start()}>
          {busy ? 'Starting …' : 'Make them again'}
        </Button>
      </div>
    </Dialog>
  );
}
