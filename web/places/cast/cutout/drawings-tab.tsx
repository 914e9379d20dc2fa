'use client';

import type { CutoutArt, CutoutPart, CutoutRig } from '@velvet-reel/motion';
import { readPartName } from '@velvet-reel/motion';
import { clsx } from 'clsx';
import { Plus } from 'lucide-react';
import { useState } from 'react';
import type { CastMember } from '@/contract';
import { drawingAddress } from '@/stage/paper-art';
import { Button } from '@/ui/button';
import { drawingsTab as texts } from '../texts';
import { AddDrawingsDialog, firstSet } from './add-drawings-dialog';
import { useKeepDrawings } from './use-keep-drawings';

interface Row {
  readonly part: CutoutPart;
  readonly cells: ReadonlyMap<string, string>;
}

/** Parts that show the same kind of thing stand in one table, so that a label that one of them lacks is a gap in it. */
function tables(rig: CutoutRig, art: CutoutArt): { kind: string; labels: string[]; rows: Row[] }[] {
  const groups = new Map<string, CutoutPart[]>();
  for (const part of rig.parts) {
    if (part.drawings.length < 2) continue;
    const kind = readPartName(part.name).kind ?? part.name;
    groups.set(kind, [...(groups.get(kind) ?? []), part]);
  }
  return [...groups].map(([kind, parts]) => {
    const labels: string[] = [];
    for (const { drawings } of parts) for (const label of drawings) if (!labels.includes(label)) labels.push(label);
    const rows = parts.map((part) => ({
      part,
      cells: new Map(
        part.drawings.flatMap((label) => {
          const drawing = art.drawings.find((d) => d.part === part.name && d.label === label);
          return drawing ? [[label, drawingAddress(art, drawing, 2)] as const] : [];
        }),
      ),
    }));
    return { kind, labels, rows };
  });
}

interface DrawingsTabProps {
  member: CastMember;
  rig: CutoutRig;
  art: CutoutArt;
  mayChange: boolean;
  /** Drawings of the library that are to be added. */
  set: string | null;
  onSet: (set: string | null) => void;
}

/** The drawings that parts can show, by label; gaps and labels that are only a number are marked. */
export function DrawingsTab({ member, rig, art, mayChange, set, onSet }: DrawingsTabProps) {
  const [adding, setAdding] = useState(false);
  const keep = useKeepDrawings(member);
  const all = tables(rig, art);
  return (
    <div className="flex flex-col gap-4">
      {mayChange && (
        <Button onClick={() => setAdding(true)} className="self-start">
          <Plus size={14} /> {texts.addDrawingsFromAnother}
        </Button>
      )}
      {mayChange && (adding || set !== null) && (
        <AddDrawingsDialog
          member={member}
          first={set === null ? '' : firstSet(set)}
          onClose={() => {
            setAdding(false);
            onSet(null);
          }}
        />
      )}
      {all.length === 0 && <p className="text-muted">{texts.everyPartOfThis}</p>}
      {all.map(({ kind, labels, rows }) => (
        <section key={kind} aria-label={kind}>
          <div className="mb-1 flex items-center gap-2">
            <h3 className="min-w-0 flex-1 truncate font-semibold">{kind}</h3>
            {mayChange && (
              <Button
                size="tiny"
                disabled={keep.isPending}
                onClick={() => keep.mutate({ name: `${member.name}: ${kind}`, parts: rows.map((r) => r.part.name) })}
                hint={texts.anItemOfThe}
              >
                {texts.keepAsDrawings}
              </Button>
            )}
          </div>
          <div className="overflow-x-auto">
            <table className="border-separate border-spacing-1 text-[11.5px]">
              <thead>
                <tr>
                  <th className="text-left font-normal text-muted">{texts.part}</th>
                  {labels.map((label) => (
                    <th
                      key={label}
                      className={clsx('font-normal', /^\d+$/.test(label) ? 'text-brass-text' : 'text-muted')}
                      title={/^\d+$/.test(label) ? texts.aNumberSaysNothing : undefined}
                    >
                      {label}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {rows.map(({ part, cells }) => (
                  <tr key={part.name}>
                    <td className="max-w-20 truncate pr-1" title={part.name}>
                      {part.name}
                    </td>
                    {labels.map((label) => {
                      const address = cells.get(label);
                      return (
                        <td key={label}>
                          <span
                            className={clsx(
                              'flex size-10 items-center justify-center rounded border',
                              address ? 'border-line bg-velvet' : 'border-dashed border-raspberry text-raspberry',
                            )}
                            title={address ? `${part.name}: ${label}` : texts.hasNoDrawing(part.name, label)}
                          >
                            {address ? (
                              // biome-ignore lint/performance/noImgElement: a picture made of the page's own data
                              <img src={address} alt={`${part.name}: ${label}`} className="max-h-8 max-w-8" />
                            ) : (
                              texts.none
                            )}
                          </span>
                        </td>
                      );
                    })}
                  </tr>
                ))}
              </tbody>
            </table>
          </div>
        </section>
      ))}
    </div>
  );
}
