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
import { reelFields as texts } from './texts';

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
      toast(texts.isSaved(await saveFile(await fetch(`${API}/reels/${id}/export`), `${reel.name}.glb`)));
    } catch (error) {
      toast.error((error as Error).message);
    } finally {
      setBusy(false);
    }
  };
  if (!mayChange) return null;
  return (
    <section aria-label={texts.theReel} className="mt-4 flex flex-col gap-1 border-t border-line pt-3">
      <h3 className="text-[12px] text-muted">{texts.theReel2}</h3>
      <NumberField
        label={texts.lengthFrames}
        value={reel.frames}
        low={1}
        high={100_000}
        onKeep={(frames) => onChange({ ...reel, frames }, texts.reelOfFrames(frames))}
      />
      <NumberField
        label={texts.framesASecond}
        value={reel.fps}
        low={1}
        high={240}
        onKeep={(fps) => onChange({ ...reel, fps }, `Reel at ${fps} frames/s`)}
      />
      {reel.markers.map((m) => (
        <div key={m.id} className="flex items-center gap-1">
          <KeptInput
            aria-label={texts.nameOfTheMarker(m.frame + 1)}
            className="min-w-0 flex-1 py-0.5!"
            value={m.name}
            onKeep={(name) => onChange(changeMarker(reel, m.id, { name }), texts.namedAMarker(name))}
          />
          <span className="w-12 text-right text-muted">{m.frame + 1}</span>
          <IconButton
            label={texts.remove(m.name)}
            onClick={() => onChange(removeMarker(reel, m.id), texts.removed(m.name))}
            quiet
          >
            <X size={12} />
          </IconButton>
        </div>
      ))}
      <Button size="small" onClick={onMark} keys="A">
        {texts.markThePlayhead}
      </Button>
      <Button
        size="small"
        disabled={busy || !reel.members.some((m) => m.base.length > 0)}
        onClick={() => void save()}
        hint={texts.allVisibleMembersWith}
      >
        {busy ? texts.writing : texts.saveTheSceneAs}
      </Button>
    </section>
  );
}
