'use client';

import { guessBodyMap, type Party, type Plan, planRetarget, solve } from '@velvet-reel/motion';
import { useEffect, useMemo, useState } from 'react';
import type { RigAnswer } from '@/contract';
import type { Playable } from '@/solver/solve';
import type { Clock } from '@/stage/clock';
import { rigView } from '@/stage/rig-view';
import type { OnStage } from './use-stage';

export interface LiveNow {
  /** What the character shows at this moment, put on it as it comes: one frame; asked for once a picture. */
  readonly show: () => Playable | undefined;
  /** How far in the past the picture is, seconds; undefined until there is one. */
  readonly delay: number | undefined;
  readonly lost: readonly string[];
}

/** Words about the stream are told anew so often, milliseconds. */
const TOLD_MS = 250;
const QUIET: Pick<LiveNow, 'delay' | 'lost'> = { delay: undefined, lost: [] };

/** Of a stage's performer what a character shows now; the clock's stage is asked for pictures while there is something to show. */
export function useLiveMotion(performer: OnStage | undefined, target: RigAnswer, clock: Clock): LiveNow | undefined {
  const [told, setTold] = useState(QUIET);
  const plan = useMemo((): Plan | undefined => {
    if (!performer) return undefined;
    const view = rigView(target);
    const source: Party = { rig: performer.rig, map: guessBodyMap(performer.rig) };
    return planRetarget(source, { rig: view.rig, map: view.map });
  }, [performer, target]);
  const show = useMemo(() => (performer && plan ? () => frameNow(performer, plan) : undefined), [performer, plan]);
  useEffect(() => {
    setTold(QUIET);
    if (!performer) return;
    let frame = 0;
    const ask = (): void => {
      frame = requestAnimationFrame(ask);
      clock.motionArrived();
    };
    frame = requestAnimationFrame(ask);
    const words = setInterval(() => {
      const pose = performer.buffer.at(performance.now() / 1000);
      setTold(pose ? { delay: performer.buffer.delay, lost: pose.lost.map((j) => performer.rig.names[j]!) } : QUIET);
    }, TOLD_MS);
    return () => {
      cancelAnimationFrame(frame);
      clearInterval(words);
    };
  }, [performer, clock]);
  return show && { show, ...told };
}

function frameNow(performer: OnStage, plan: Plan): Playable | undefined {
  const pose = performer.buffer.at(performance.now() / 1000);
  if (!pose) return undefined;
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
  return solve(plan, one, { plants: false }).motion;
}
