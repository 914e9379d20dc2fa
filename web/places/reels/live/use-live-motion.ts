'use client';

import { driveCutout, guessBodyMap, type Party, planRetarget, type SkeletonRig, solve } from '@velvet-reel/motion';
import { useEffect, useMemo, useState } from 'react';
import type { RigAnswer } from '@/contract';
import type { Playable } from '@/solver/solve';
import type { Clock } from '@/stage/clock';
import { type RigView, rigView } from '@/stage/rig-view';
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
  const show = useMemo(() => {
    if (!performer) return undefined;
    const put = puts(performer.rig, rigView(target));
    return () => frameNow(performer, put);
  }, [performer, target]);
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

/** How a frame of a performer's is put on a character; a single frame has no plants to hold. */
function puts(from: SkeletonRig, { rig, map, cutout }: RigView): (frame: Playable) => Playable {
  const source: Party = { rig: from, map: guessBodyMap(from) };
  if (cutout)
    return (frame) => driveCutout(source, frame, { rig: cutout, map }, { plants: false, swing: false }).motion;
  const plan = planRetarget(source, { rig, map });
  return (frame) => solve(plan, frame, { plants: false }).motion;
}

function frameNow(performer: OnStage, put: (frame: Playable) => Playable): Playable | undefined {
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
  return put(one);
}
