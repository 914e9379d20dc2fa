'use client';

import { Button } from '@/ui/button';

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
      {to} has no drawing {missing.map((m) => `“${m}”`).join(', ')}. Where {missing.length === 1 ? 'it' : 'they'} would
      show, the drawing before stays.
      <span className="ml-2 inline-flex gap-2">
        <Button size="tiny" look="brass" onClick={onCopy}>
          Copy the rest
        </Button>
        <Button size="tiny" onClick={onLeave}>
          Leave it
        </Button>
      </span>
    </div>
  );
}
