'use client';

import { type CorrectionTrack, HANDLES, type OffsetKey } from '@velvet-reel/motion';
import { Move3d, Rotate3d } from 'lucide-react';
import { HANDLE_LABELS, type Held, heldName, isHeld, withKey } from '@/parts/held';
import { Button } from '@/ui/button';
import { Select } from '@/ui/field';
import { handPanel as texts } from './texts';

const NO_JOINT = ' ';
const NONE: Omit<OffsetKey, 'frame'> = { move: [0, 0, 0], turn: [0, 0, 0, 1] };

/** Posing by hand: what is held, and the keys that hold it there. */
export function HandPanel({
  keys,
  joints,
  held,
  mode,
  frame,
  fps,
  mayChange,
  onHold,
  onMode,
  onChange,
}: {
  keys: readonly CorrectionTrack[];
  joints: readonly string[];
  held: Held | null;
  mode: 'move' | 'turn';
  frame: () => number;
  fps: number;
  mayChange: boolean;
  onHold: (held: Held | null) => void;
  onMode: (mode: 'move' | 'turn') => void;
  onChange: (keys: CorrectionTrack[], label: string) => void;
}) {
  const own = held && keys.find((t) => isHeld(t, held));
  const fence = (): void => {
    if (!held) return;
    const f = frame();
    const gap = Math.max(2, Math.round(0.33 * fps));
    let next = [...keys];
    for (const at of [Math.max(0, f - gap), f + gap])
      if (!keys.find((t) => isHeld(t, held))?.keys.some((k) => k.frame === at)) next = withKey(next, held, at, NONE);
    onChange(next, texts.keptWhatIsSet(heldName(held), f - gap + 1, f + gap + 1));
  };
  return (
    <div className="flex flex-col gap-2">
      <p className="text-muted">{texts.holdAPartAnd}</p>
      <div className="flex flex-wrap gap-1">
        {HANDLES.map((h) => (
          <Button
            key={h}
            size="small"
            look={held && 'handle' in held && held.handle === h ? 'brass' : 'plain'}
            aria-pressed={Boolean(held && 'handle' in held && held.handle === h)}
            onClick={() => onHold(held && 'handle' in held && held.handle === h ? null : { handle: h })}
          >
            {HANDLE_LABELS[h]}
          </Button>
        ))}
      </div>
      <Select
        label={texts.oneJoint}
        value={held && 'joint' in held ? held.joint : NO_JOINT}
        options={[{ value: NO_JOINT, label: texts.orOneJoint }, ...joints.map((j) => ({ value: j, label: j }))]}
        onChange={(j) => onHold(j === NO_JOINT ? null : { joint: j })}
      />
      {held && (
        <>
          {'handle' in held && (
            <div className="flex gap-1">
              <Button size="small" look={mode === 'move' ? 'brass' : 'plain'} onClick={() => onMode('move')} keys="T">
                <Move3d size={13} className="mr-1 inline" /> {texts.move}
              </Button>
              <Button size="small" look={mode === 'turn' ? 'brass' : 'plain'} onClick={() => onMode('turn')} keys="T">
                <Rotate3d size={13} className="mr-1 inline" /> {texts.turn}
              </Button>
            </div>
          )}
          <p>{own ? texts.forTheBeforeThe(own.keys.length, heldName(held)) : texts.nothingIsSetFor(heldName(held))}</p>
          {mayChange && own && (
            <div className="flex flex-wrap gap-1">
              <Button size="small" onClick={fence} hint={texts.keysWithoutAChange}>
                {texts.onlyAroundHere}
              </Button>
              <Button
                size="small"
                onClick={() => onChange(withKey(keys, held, frame(), NONE), texts.setTheBackAt(heldName(held)))}
              >
                {texts.noChangeHere}
              </Button>
              <Button
                size="small"
                onClick={() =>
                  onChange(
                    keys.filter((t) => !isHeld(t, held)),
                    texts.removedAllKeysOf(heldName(held)),
                  )
                }
              >
                {texts.removeAllOfIts}
              </Button>
            </div>
          )}
        </>
      )}
    </div>
  );
}
