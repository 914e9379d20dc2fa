'use client';

import type { Provenance } from '@/contract';
import { drawingAddress } from '@/stage/paper-art';
import { useArt } from '@/stage/use-art';
import { drawingRow as texts } from './texts';

/** Drawings that fit a row of a list; the others are counted. */
const MOST = 14;

interface DrawingRowProps {
  /** The figure's drawings, by the file that holds them. */
  art: string;
  provenance: Provenance;
  height: number;
}

/** The drawings that an item keeps, side by side. */
export function DrawingRow({ art: hash, provenance, height }: DrawingRowProps) {
  const art = useArt(hash);
  const parts = provenance.how === 'drawings' ? provenance.parts : [];
  const drawings = art?.drawings.filter((d) => parts.includes(d.part)) ?? [];
  return (
    <div className="flex flex-wrap content-center items-center gap-x-3 gap-y-1 overflow-hidden" style={{ height }}>
      {art &&
        drawings.slice(0, MOST).map((d) => (
          // biome-ignore lint/performance/noImgElement: a picture made of the page's own data
          <img
            key={`${d.part} ${d.label}`}
            src={drawingAddress(art, d, 2)}
            alt={`${d.part}: ${d.label}`}
            title={`${d.part}: ${d.label}`}
            className="size-9 shrink-0 object-contain"
          />
        ))}
      {drawings.length > MOST && <span className="text-muted">{texts.andMore(drawings.length - MOST)}</span>}
    </div>
  );
}
