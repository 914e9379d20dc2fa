'use client';

import { LayoutGrid, Orbit, Radio } from 'lucide-react';
import type { ReelContent } from '@/documents/reel';
import type { DocumentHandle } from '@/documents/use-document';
import { SavingState } from '@/parts/saving-state';
import { IconButton } from '@/ui/button';
import { KeptInput } from '@/ui/field';
import { reelHead as texts } from './texts';

/** A reel's name, and whether what was done to it is stored. */
export function ReelHead({
  document,
  mayChange,
  onAll,
  onField,
  onLive,
  onName,
}: {
  document: DocumentHandle<ReelContent>;
  mayChange: boolean;
  onAll: () => void;
  onField: () => void;
  onLive: () => void;
  onName: (name: string) => void;
}) {
  return (
    <div className="absolute top-2.5 left-3.5 flex items-center gap-2">
      <IconButton label={texts.allReels} onClick={onAll} quiet>
        <LayoutGrid size={15} />
      </IconButton>
      <IconButton label={texts.fieldOfPoses} onClick={onField} quiet>
        <Orbit size={15} />
      </IconButton>
      <IconButton label={texts.liveStage} onClick={onLive} quiet>
        <Radio size={15} />
      </IconButton>
      <KeptInput
        aria-label={texts.nameOfTheReel}
        title={document.content.name}
        className="heading w-72 text-ellipsis border-transparent! bg-transparent! px-1! py-0! text-[17px] hover:border-line!"
        value={document.content.name}
        readOnly={!mayChange}
        onKeep={(name) => name && onName(name)}
      />
      <SavingState document={document} mayChange={mayChange} onlyLooking={texts.youCanTryThings} />
    </div>
  );
}
