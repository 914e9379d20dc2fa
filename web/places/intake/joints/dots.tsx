'use client';

import { clsx } from 'clsx';
import { jointColumns as texts } from '../texts';
import { axesOf, type Dot } from './columns';

/** The dots of one row of a table, looked at from two sides. A dot that is pressed is the joint that is asked for. */
export function Dots({
  dots,
  row,
  named,
  onPick,
}: {
  dots: readonly Dot[];
  row: number;
  /** By dot: the joint that it is, in words. */
  named: readonly (string | undefined)[];
  onPick: (dot: number) => void;
}) {
  const { up, across, ahead } = axesOf(dots, row);
  return (
    <div className="grid grid-cols-2 gap-2">
      <View dots={dots} row={row} named={named} onPick={onPick} axes={[across, up]} title={texts.oneSide} labelled />
      <View dots={dots} row={row} named={named} onPick={onPick} axes={[ahead, up]} title={texts.otherSide} />
    </div>
  );
}

const MARGIN = 8;

function View({
  dots,
  row,
  named,
  onPick,
  axes,
  title,
  labelled = false,
}: Parameters<typeof Dots>[0] & { axes: readonly [number, number]; title: string; labelled?: boolean }) {
  const shown = dots.map((d) => axes.map((k) => d.places[row]?.[k] ?? Number.NaN) as [number, number]);
  const seen = shown.filter(([x, y]) => Number.isFinite(x + y));
  const bounds = [0, 1].map((k) => [Math.min(...seen.map((p) => p[k]!)), Math.max(...seen.map((p) => p[k]!))] as const);
  // both views at one scale, whatever the room
  const size = Math.max(...bounds.map(([low, high]) => high - low)) || 1;
  const percent = (value: number, k: 0 | 1): number => {
    const [low, high] = bounds[k]!;
    return 50 + ((100 - 2 * MARGIN) * (value - (low + high) / 2)) / size;
  };
  return (
    <figure className="relative">
      <div className="stage-back relative aspect-square overflow-hidden rounded-lg border border-line">
        {shown.map(
          ([x, y], i) =>
            Number.isFinite(x + y) && (
              <button
                // biome-ignore lint/suspicious/noArrayIndexKey: dots are told apart by their number
                key={i}
                type="button"
                tabIndex={-1}
                title={named[i] ?? dots[i]!.label}
                aria-label={named[i] ? texts.isThe(dots[i]!.label, named[i]) : dots[i]!.label}
                onClick={() => onPick(i)}
                style={{ left: `${percent(x, 0)}%`, bottom: `${percent(y, 1)}%` }}
                className={clsx(
                  'absolute h-3 w-3 -translate-x-1/2 translate-y-1/2 rounded-full border',
                  // what is not told yet lies above what is
                  named[i] ? 'border-brass bg-brass' : 'z-10 border-ink/70 bg-panel hover:bg-ink',
                )}
              >
                {labelled && named[i] && (
                  <span className="pointer-events-none absolute bottom-3 left-2 whitespace-nowrap text-[10.5px] text-ink">
                    {named[i]}
                  </span>
                )}
              </button>
            ),
        )}
      </div>
      <figcaption className="mt-1 text-[11.5px] text-muted">{title}</figcaption>
    </figure>
  );
}
