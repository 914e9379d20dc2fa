'use client';

import { X } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import { API } from '@/client/api';
import { saveFile } from '@/client/save-file';
import type { ReelContent } from '@/documents/reel';
import { useDocuments } from '@/documents/use-document';
import { Button, IconButton } from '@/ui/button';
import { KeptInput } from '@/ui/field';
import { NumberField } from './number-field';
import { changeMarker, removeMarker } from './reel-edits';

/** What is set for the reel as a whole. */
export function ReelFields({
  reel,
  id,
  mayChange,
  onChange,
  onMark,
}: {
  reel: ReelContent;
  id: string;
  mayChange: boolean;
  onChange: (next: ReelContent, label: string) => void;
  onMark: () => void;
}) {
  const { saved } = useDocuments();
  const [busy, setBusy] = useState(false);
  const save = async (): Promise<void> => {
    setBusy(true);
    try {
      await saved();
      toast(`${await saveFile(await fetch(`${API}/reels/${id}/export`), `${reel.name}.glb`)} is saved`);
    } catch (error) {
      toast.error((error as Error).message);
    } finally {
      setBusy(false);
    }
  };
  if (!mayChange) return null;
  return (
    <section aria-label="The reel" className="mt-4 flex flex-col gap-1 border-t border-line pt-3">
      <h3 className="text-[12px] text-muted">the reel</h3>
      <NumberField
        label="length, frames"
        value={reel.frames}
        low={1}
        high={100_000}
        onKeep={(frames) => onChange({ ...reel, frames }, `Reel of ${frames} frames`)}
      />
      <NumberField
        label="frames a second"
        value={reel.fps}
        low={1}
        high={240}
        onKeep={(fps) => onChange({ ...reel, fps }, `Reel at ${fps} frames/s`)}
      />
      {reel.markers.map((m) => (
        <div key={m.id} className="flex items-center gap-1">
          <KeptInput
            aria-label={`Name of the marker at frame ${m.frame + 1}`}
            className="min-w-0 flex-1 py-0.5!"
            value={m.name}
            onKeep={(name) => onChange(changeMarker(reel, m.id, { name }), `Named a marker ${name}`)}
          />
          <span className="w-12 text-right text-muted">{m.frame + 1}</span>
          <IconButton
            label={`Remove ${m.name}`}
            onClick={() => onChange(removeMarker(reel, m.id), `Removed ${m.name}`)}
            quiet
          >
            <X size={12} />
          </IconButton>
        </div>
      ))}
      <Button size="small" onClick={onMark} keys="A">
        Mark the playhead
      </Button>
      <Button
        size="small"
        disabled={busy || !reel.members.some((m) => m.base.length > 0)}
        onClick={() => void save()}
        hint="All visible members with their motion, and the cameras; paper figures are left out"
      >
        {busy ? 'Writing …' : 'Save the scene as GLB'}
      </Button>
    </section>
  );
}
