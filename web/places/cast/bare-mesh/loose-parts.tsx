'use client';

import { RIGGED_JOINTS, slotLabel } from '@velvet-reel/motion';
import { ChevronDown, ChevronRight } from 'lucide-react';
import { useId, useState } from 'react';
import type { ShownPart } from '@/solver/bare-mesh';
import { Button } from '@/ui/button';
import { Select } from '@/ui/field';
import { looseParts as texts } from '../texts';
import type { Ties } from './use-bare-mesh';

/** No joint: a part follows what it lies on. */
const FREE = 'free';

/** What hangs together with nothing else of the mesh, each tied to a joint if somebody says so. */
export function LooseParts({
  parts,
  ties,
  onPoint,
  onTie,
}: {
  parts: readonly ShownPart[];
  ties: Ties;
  onPoint: (part: number | null) => void;
  onTie: (part: number, joint: string | null) => void;
}) {
  const [shown, setShown] = useState(false);
  const list = useId();
  if (parts.length === 0) return null;
  const options = [
    { value: FREE, label: texts.followsWhatItLiesOn },
    ...RIGGED_JOINTS.map((joint) => ({ value: joint as string, label: slotLabel(joint) })),
  ];
  return (
    <section aria-label={texts.looseParts} className="flex flex-col gap-1.5 border-line border-t pt-3">
      <Button
        look="quiet"
        className="flex items-center gap-1.5 self-start"
        aria-expanded={shown}
        aria-controls={list}
        onClick={() => setShown(!shown)}
      >
        {shown ? <ChevronDown size={14} /> : <ChevronRight size={14} />}
        {texts.looseParts} · {parts.length}
        {Object.keys(ties).length > 0 && ` · ${texts.tied(Object.keys(ties).length)}`}
      </Button>
      {shown && (
        <>
          <p className="text-muted">{texts.tieWhatIsStiff}</p>
          <ul id={list} className="flex flex-col gap-1">
            {parts.map(({ name, triangles }, i) => (
              <li
                // biome-ignore lint/suspicious/noArrayIndexKey: parts are told by their number
                key={i}
                className="flex items-center gap-2 rounded px-1 py-0.5 hover:bg-raised"
                onPointerEnter={() => onPoint(i)}
                onPointerLeave={() => onPoint(null)}
                onFocus={() => onPoint(i)}
                onBlur={() => onPoint(null)}
              >
                <span
                  className="min-w-0 flex-1 truncate"
                  title={[name, texts.triangles(triangles)].filter(Boolean).join(', ')}
                >
                  {name || texts.part(i + 1)}
                </span>
                <Select
                  label={texts.whatMoves(name || texts.part(i + 1))}
                  value={ties[i] ?? FREE}
                  options={options}
                  onChange={(joint) => onTie(i, joint === FREE ? null : joint)}
                  className="w-[150px] shrink-0"
                />
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}
