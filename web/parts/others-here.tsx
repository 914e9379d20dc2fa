'use client';

import { useOthersAt } from '@/client/live';
import { useMe } from '@/client/session';
import { othersHere as texts } from './texts';

/** Which colleagues have this open now; nothing where nobody has. */
export function OthersHere({ subjectId, className = '' }: { subjectId: string | undefined; className?: string }) {
  const others = useOthersAt(subjectId, useMe().id);
  if (others.length === 0) return null;
  return (
    <p
      className={`rounded-md border border-brass/60 bg-panel px-2 py-1 text-[12px] text-brass-text ${className}`}
      role="status"
    >
      {others.join(', ')} {others.length > 1 ? texts.have : texts.has} {texts.thisOpenAsWell}
    </p>
  );
}
