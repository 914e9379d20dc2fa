'use client';

import { guessBodyMap, type Party, retarget } from '@velvet-reel/motion';
import { useEffect, useMemo, useState } from 'react';
import type { RigAnswer } from '@/contract';
import type { Playable } from '@/solver/solve';
import { rigView } from '@/stage/rig-view';
import type { OnStage } from './use-stage';

export interface LiveNow {
  readonly motion: Playable;
  /** How far in the past the picture is, seconds. */
  readonly delay: number;
  readonly lost: readonly string[];
}

/** Of a stage's performer what a character shows now: one frame, put on it as it comes, once a picture. */
export function useLiveMotion(performer: OnStage | undefined, target: RigAnswer): LiveNow | undefined {
  const [now, setNow] = useState<LiveNow>();
  const source = useMemo(
    (): Party | undefined => performer && { rig: performer.rig, map: guessBodyMap(performer.rig) },
    [performer],
  );
  useEffect(() => {
    if (!performer || !source) {
      setNow(undefined);
      return;
    }
    const view = rigView(target);
    const party: Party = { rig: view.rig, map: view.map };
    let frame = 0;
    const look = (): void => {
      frame = requestAnimationFrame(look);
      const pose = performer.buffer.at(performance.now() / 1000);
      if (!pose) return;
      const one: Playable = {
        fps: performer.fps,
        frameCount: 1,
        turns: pose.turns,
        places: [{ joint: 0, values: pose.place }],
        numbers: [],
        scales: [],
        steps: [],
      };
      // a single frame has no plants to hold
      const { motion } = retarget(source, one, party, { plants: false });
      setNow({ motion, delay: performer.buffer.delay, lost: pose.lost.map((j) => performer.rig.names[j]!) });
    };
    frame = requestAnimationFrame(look);
    return () => cancelAnimationFrame(frame);
  }, [performer, source, target]);
  return now;
}
