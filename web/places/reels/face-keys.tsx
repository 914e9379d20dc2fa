'use client';

import { levelInLane, type Motion, type ReelMember, restNumber } from '@velvet-reel/motion';
import { useState } from 'react';
import type { CastMember, RigAnswer } from '@/contract';
import type { Clock } from '@/stage/clock';
import { useRestingFrame } from '@/stage/use-resting-frame';
import { Button } from '@/ui/button';
import { Select } from '@/ui/field';
import { Slider } from '@/ui/slider';
import { faceKeys as texts } from './texts';
import { useNumbers } from './use-numbers';

interface FaceKeysProps {
  clock: Clock;
  member: ReelMember;
  who: CastMember;
  rig: RigAnswer;
  motion: Motion;
  mayChange: boolean;
  /** null lets what lies beneath count again from there on. */
  onKey: (name: string, frame: number, value: number | null, gesture?: string) => void;
}

/** Face shapes and other numbers of a member, set by hand at the playhead. */
export function FaceKeys({ clock, member, who, rig, motion, mayChange, onKey }: FaceKeysProps) {
  const frame = useRestingFrame(clock);
  const names = useNumbers(rig, who, motion);
  const [wanted, setWanted] = useState('');
  const name = names.includes(wanted) ? wanted : names[0];
  if (name === undefined || !mayChange) return null;
  const rest = restNumber(name);
  const lane = member.numbers?.find((l) => l.name === name);
  // what has just been set is there before the motion is worked out anew
  const set = lane && levelInLane(lane, frame);
  const value = set ?? motion.numbers.find((t) => t.name === name)?.values[frame] ?? rest;
  const keys = lane?.keys.length ?? 0;
  return (
    <section aria-label={texts.face} className="mt-3 flex flex-col gap-1.5 border-t border-line pt-3">
      <h3 className="text-[12px] text-muted">{texts.faceShapesAndNumbers}</h3>
      <Select
        label={texts.faceShape}
        value={name}
        options={names.map((n) => ({ value: n, label: n }))}
        onChange={setWanted}
      />
      <Slider
        label={texts.atThisFrame}
        value={Number(value.toFixed(2))}
        rest={rest}
        low={Math.min(0, value)}
        high={Math.max(1, value)}
        step={0.01}
        onChange={(x, gesture) => {
          clock.setPlaying(false);
          onKey(name, clock.frame, x, gesture);
        }}
      />
      <p className="text-[12.5px] text-muted">{keys === 0 ? texts.nothingIsSetFor : texts.onItsLane(keys)}</p>
      {keys > 0 && (
        <Button size="small" onClick={() => onKey(name, frame, null)}>
          {texts.asBeneathFromHere}
        </Button>
      )}
    </section>
  );
}
