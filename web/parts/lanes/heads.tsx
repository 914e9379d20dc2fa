'use client';

import { usePlayheadsAt } from '@/client/live';
import { useMe } from '@/client/session';
import { heads as texts } from '../texts';
import { useAxis } from './axis';

/** Where colleagues who have the same open stand in time: a line through all lanes with their name at its head. */
export function OthersHeads({ subjectId }: { subjectId: string }) {
  const { names, width, start, shown } = useAxis();
  const others = usePlayheadsAt(subjectId, useMe().id);
  return others.map(({ clientId, name, frame }) => {
    const at = (frame + 0.5 - start) / shown;
    if (at < 0 || at > 1) return null;
    return (
      <div
        key={clientId}
        role="img"
        aria-label={texts.standsAt(name, frame + 1)}
        className="pointer-events-none absolute top-0 bottom-0 z-20 w-px bg-verdigris transition-[left] duration-500 motion-reduce:transition-none"
        style={{ left: names + width * at }}
      >
        <span className="absolute top-0 left-0 max-w-24 truncate rounded-r bg-panel px-1 text-[11px] leading-4 text-verdigris">
          {name}
        </span>
      </div>
    );
  });
}
