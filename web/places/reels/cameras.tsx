'use client';

import type { Shot } from '@velvet-reel/motion';
import { Video, VideoOff, X } from 'lucide-react';
import type { ReelContent } from '@/documents/reel';
import { Lane, seek, useAxis } from '@/parts/lanes/axis';
import { KeyDot } from '@/parts/lanes/key';
import { Button, IconButton } from '@/ui/button';
import { KeptInput } from '@/ui/field';
import { addCamera, changeCamera, moveCameraKey, removeCamera, setCameraKey } from './reel-edits';
import { cameras as texts } from './texts';

const HEIGHT = 24;

interface CameraProps {
  reel: ReelContent;
  mayChange: boolean;
  /** The camera that is looked through. */
  through: string | null;
  onThrough: (id: string | null) => void;
  onChange: (next: ReelContent, label: string) => void;
}

/** A lane for every camera: its keys, and a switch to look through it. */
export function CameraLanes({ reel, mayChange, through, onThrough, onChange }: CameraProps) {
  const { clock } = useAxis();
  return (reel.cameras ?? []).map(({ id, name, keys }) => (
    <Lane
      key={id}
      height={HEIGHT}
      name={
        <span className="flex items-center gap-1">
          <span className="min-w-0 flex-1 truncate">{name}</span>
          <IconButton
            label={through === id ? texts.leave(name) : texts.lookThrough(name)}
            pressed={through === id}
            onClick={() => onThrough(through === id ? null : id)}
            quiet
          >
            {through === id ? <VideoOff size={13} /> : <Video size={13} />}
          </IconButton>
        </span>
      }
    >
      <div className="absolute inset-0 rounded-md bg-panel">
        {keys.map((k) => (
          <KeyDot
            key={k.frame}
            frame={k.frame}
            label={texts.keyOfAtFrame(name, k.frame + 1)}
            onChoose={() => {
              seek(clock, k.frame);
              onThrough(id);
            }}
            onMove={(to) =>
              mayChange && onChange(moveCameraKey(reel, id, k.frame, to), texts.movedAKeyOf(name, k.frame + 1, to + 1))
            }
            onRemove={() =>
              mayChange && onChange(setCameraKey(reel, id, k.frame, null), texts.removedTheKeyOf(name, k.frame + 1))
            }
          />
        ))}
      </div>
    </Lane>
  ));
}

/** The cameras by name: added with the current view, given keys, renamed, removed. */
export function CameraFields({
  reel,
  mayChange,
  through,
  onThrough,
  onChange,
  view,
  frame,
}: CameraProps & { view: () => Shot | undefined; frame: () => number }) {
  if (!mayChange) return null;
  const cameras = reel.cameras ?? [];
  const add = (): void => {
    const shot = view();
    if (!shot) return;
    const name = `camera ${cameras.length + 1}`;
    const made = addCamera(reel, name, frame(), shot);
    onChange(made.reel, texts.setUp(name));
    onThrough(made.id);
  };
  return (
    <section aria-label={texts.cameras} className="mt-3 flex flex-col gap-1 border-t border-line pt-3">
      <h3 className="text-[12px] text-muted">{texts.cameras2}</h3>
      {cameras.map(({ id, name }) => (
        <div key={id} className="flex items-center gap-1">
          <KeptInput
            aria-label={texts.nameOf(name)}
            className="min-w-0 flex-1 py-0.5!"
            value={name}
            onKeep={(to) => onChange(changeCamera(reel, id, { name: to }), texts.namedACamera(to))}
          />
          <Button
            size="tiny"
            hint={texts.setsThisCameraTo}
            onClick={() => {
              const shot = view();
              if (!shot) return;
              onChange(setCameraKey(reel, id, frame(), shot), texts.setAtFrame(name, frame() + 1));
              onThrough(id);
            }}
          >
            {texts.setHere}
          </Button>
          <IconButton
            label={texts.remove(name)}
            onClick={() => {
              if (through === id) onThrough(null);
              onChange(removeCamera(reel, id), texts.removed(name));
            }}
            quiet
          >
            <X size={12} />
          </IconButton>
        </div>
      ))}
      <Button size="small" onClick={add} hint={texts.addsACameraWith}>
        {texts.cameraFromThisView}
      </Button>
    </section>
  );
}
