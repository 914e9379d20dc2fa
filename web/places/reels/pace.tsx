'use client';

import { endsOf, itemFramesIn, type Overlay, type PaceKey, type Placement } from '@velvet-reel/motion';
import { Trash2 } from 'lucide-react';
import type { Item } from '@/contract';
import { Button, IconButton } from '@/ui/button';
import { NumberField } from './number-field';
import { pace as texts } from './texts';

/** How fast a stretch plays where: speeds at frames of its item, between which it changes evenly. */
export function Pace({
  of,
  item,
  fps,
  playhead,
  onChange,
}: {
  of: Placement | Overlay;
  item: Item;
  fps: number;
  /** Frame of the reel at which another speed is set. */
  playhead: () => number;
  onChange: (change: Pick<Placement, 'pace'>, label: string) => void;
}) {
  const keys = of.pace ?? [];
  const { from, to } = endsOf(of, item.facts);
  const write = (next: readonly PaceKey[], label: string): void =>
    onChange({ pace: next.length === 0 ? undefined : [...next].sort((a, b) => a.frame - b.frame) }, label);
  const add = (): void => {
    const within = itemFramesIn(of, item.facts, fps, playhead() - of.at);
    // of what repeats every lap plays alike
    const lap = Math.max(1, to - from);
    const frame = from + Math.round(of.repeats > 1 ? ((within % lap) + lap) % lap : Math.min(lap, Math.max(0, within)));
    if (keys.some((k) => k.frame === frame)) return;
    // the first one says how fast it begins, so that the second can differ from it
    const begun = keys.length === 0 && frame > from ? [{ frame: from, speed: 1 }] : keys;
    write([...begun, { frame, speed: 1 }], texts.setAt(item.name, frame + 1));
  };
  return (
    <section aria-label={texts.speeds} className="flex flex-col gap-1">
      {keys.map((k, i) => (
        <div key={k.frame} className="flex items-center gap-1">
          <div className="min-w-0 flex-1">
            <NumberField
              label={texts.atItsFrame(k.frame + 1)}
              value={k.speed}
              low={0.05}
              high={20}
              step={0.05}
              onKeep={(speed) =>
                write(
                  keys.map((x, n) => (n === i ? { ...x, speed } : x)),
                  texts.playsAt(item.name, speed.toFixed(2), k.frame + 1),
                )
              }
            />
          </div>
          <IconButton
            label={texts.removeAt(k.frame + 1)}
            quiet
            onClick={() =>
              write(
                keys.filter((_, n) => n !== i),
                texts.removedAt(item.name, k.frame + 1),
              )
            }
          >
            <Trash2 size={13} />
          </IconButton>
        </div>
      ))}
      <div>
        <Button size="tiny" onClick={add} hint={texts.betweenThem}>
          {texts.anotherHere}
        </Button>
      </div>
    </section>
  );
}
