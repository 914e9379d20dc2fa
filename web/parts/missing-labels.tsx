'use client';

import { Button } from '@/ui/button';
import { missingLabels as texts } from './texts';

interface MissingLabelsProps {
  /** The part that lacks drawings. */
  to: string;
  missing: readonly string[];
  onCopy: () => void;
  onLeave: () => void;
}

/** Says which drawings a part lacks before others are copied to it by label. */
export function MissingLabels({ to, missing, onCopy, onLeave }: MissingLabelsProps) {
  return (
    <div role="alert" className="mb-1.5 rounded-md border border-brass px-2 py-1.5 text-[12.5px]">
      {texts.hasNoDrawingWhere(to, missing.map((m) => `“${m}”`).join(', '), missing.length)}
      <span className="ml-2 inline-flex gap-2">
        <Button size="tiny" look="brass" onClick={onCopy}>
          {texts.copyTheRest}
        </Button>
        <Button size="tiny" onClick={onLeave}>
          {texts.leaveIt}
        </Button>
      </span>
    </div>
  );
}
