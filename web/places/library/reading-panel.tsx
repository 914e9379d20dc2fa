'use client';

import { Check } from 'lucide-react';
import type { Reading } from '@/solver/solve';
import { Hint } from '@/ui/hint';
import { readingPanel as texts } from './texts';

interface ReadingPanelProps {
  reading: Reading | undefined;
  tags: readonly string[];
  performerName: string | undefined;
  closed: boolean;
  onAccept: (words: string[]) => void;
}

/** What the motion itself says: how it fits the performer, words to take over as tags, props it lacks. */
export function ReadingPanel({ reading, tags, performerName, closed, onAccept }: ReadingPanelProps) {
  if (!reading) return <p className="px-1 text-[12px] text-muted">{texts.readingTheMotion}</p>;
  const open = closed ? [] : reading.words.filter((w) => !tags.includes(w.word));
  return (
    <div className="flex flex-col gap-1.5 px-1 text-[12px]">
      {reading.fit && (
        <p>
          <Hint text={reading.fit.reasons.join('; ') || texts.aGoodFit}>
            <span className="cursor-help">
              <b className="text-[13px] tabular-nums">{reading.fit.score}</b>
              <span className="text-muted">{texts.outOf100On(performerName ?? '')}</span>
            </span>
          </Hint>
          {reading.fit.reasons[0] && <span className="text-muted">: {reading.fit.reasons[0]}</span>}
        </p>
      )}
      {open.length > 0 && (
        <div className="flex flex-wrap items-center gap-1.5">
          <span className="text-muted">{texts.looksLike}</span>
          {open.map((w) => (
            <Hint key={w.word} text={texts.addItAsA(w.why)}>
              <button
                type="button"
                onClick={() => onAccept([w.word])}
                className="rounded-full border border-dashed border-muted px-2 py-px hover:border-brass hover:text-brass-text"
              >
                + {w.word}
              </button>
            </Hint>
          ))}
          {open.length > 1 && (
            <button
              type="button"
              onClick={() => onAccept(open.map((w) => w.word))}
              className="inline-flex items-center gap-1 text-muted hover:text-ink"
            >
              <Check size={12} /> {texts.all}
            </button>
          )}
        </div>
      )}
      {reading.props.map((p) => (
        <p key={p.kind} className="text-muted">
          {p.text}
        </p>
      ))}
    </div>
  );
}
