'use client';

import { X } from 'lucide-react';
import type { ReelContent } from '@/documents/reel';
import { Button, IconButton } from '@/ui/button';
import { KeptInput } from '@/ui/field';
import { NumberField } from './number-field';
import { changeMarker, removeMarker } from './reel-edits';

/** What is set for the reel as a whole. */
export function ReelFields({
  reel,
  mayChange,
  onChange,
  onMark,
}: {
  reel: ReelContent;
  mayChange: boolean;
  onChange: (next: ReelContent, label: string) => void;
  onMark: () => void;
}) {
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
    </section>
  );
}
