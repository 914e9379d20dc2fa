'use client';

import { itemsOf, type PlayGraph } from '@velvet-reel/motion';
import { proxy, type Remote, wrap } from 'comlink';
import { useCallback, useEffect, useRef, useState } from 'react';
import { getJson } from '@/client/api';
import type { Item, RigAnswer } from '@/contract';
import type { PlayShown, PlaySource, PlayThread, Pressed } from '@/solver/play-thread';
import type { Playable } from '@/solver/solve';
import type { Clock } from '@/stage/clock';
import { usePlaying as texts } from '../texts';

/** More frames than this are not made up for when a page was busy. */
const MOST_AT_ONCE = 6;

export interface PlayingNow {
  /** Where it is; the figure's own pose is asked for with every picture instead. */
  readonly shown: Omit<PlayShown, 'pose'> | undefined;
  readonly pressed: Pressed | undefined;
  /** How much is ready, 0 to 1. */
  readonly share: number;
  readonly trouble: string | undefined;
}

/** How far along a way it is, is told anew so often, milliseconds; what is entered or pressed at once. */
const TOLD_MS = 100;

/** Plays a graph on a character while `on`: keys go in, poses come out, a frame at a time, and the clock's stage is asked for pictures. */
export function usePlaying(
  graph: PlayGraph,
  target: RigAnswer | undefined,
  on: boolean,
  inputs: () => Pressed,
  clock: Clock,
): PlayingNow & { show: () => Playable | undefined } {
  const [now, setNow] = useState<PlayingNow>({ shown: undefined, pressed: undefined, share: 0, trouble: undefined });
  const pose = useRef<Playable>(undefined);
  const show = useCallback(() => pose.current, []);
  const read = useRef(inputs);
  read.current = inputs;
  // a box that is moved on the board changes nothing of what is played
  const key = JSON.stringify([
    graph.fps,
    graph.start,
    graph.inputs,
    graph.states.map((s) => ({ ...s, at: 0 })),
    graph.ways,
  ]);
  const latest = useRef(graph);
  latest.current = graph;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key says what of the graph counts
  useEffect(() => {
    if (!on || !target) {
      setNow((n) => ({ ...n, shown: undefined, pressed: undefined, trouble: undefined }));
      return;
    }
    let over = false;
    let frame = 0;
    const worker = new Worker(new URL('../../../solver/play-thread.ts', import.meta.url), { type: 'module' });
    const thread: Remote<PlayThread> = wrap<PlayThread>(worker);
    const fail = (why: string): void => {
      if (!over) setNow({ shown: undefined, pressed: undefined, share: 0, trouble: why });
    };
    worker.onerror = () => fail(texts.thePlayerCouldNot);
    const own = latest.current;
    const run = async (): Promise<void> => {
      const sources = await Promise.all(
        [...new Set(own.states.flatMap(itemsOf))].map(async (itemId): Promise<PlaySource> => {
          const item = await getJson<Item>(`/api/v1/items/${itemId}`);
          const source = item.rigId === target.id ? null : await getJson<RigAnswer>(`/api/v1/rigs/${item.rigId}`);
          return { itemId, motionHash: item.motionHash, source };
        }),
      );
      await thread.open(
        own,
        sources,
        target,
        proxy((share: number) => {
          if (!over) setNow((n) => ({ ...n, share, trouble: undefined }));
        }),
      );
      let said = '';
      let saidAt = 0;
      let shownAt = performance.now();
      let waits = false;
      const step = (): void => {
        frame = requestAnimationFrame(step);
        const frames = Math.floor(((performance.now() - shownAt) / 1000) * own.fps);
        if (waits || frames < 1) return;
        shownAt += (1000 * frames) / own.fps;
        waits = true;
        const pressed = read.current();
        thread.step(Math.min(MOST_AT_ONCE, frames), pressed).then(
          (shown) => {
            waits = false;
            if (over || !shown) return;
            pose.current = shown.pose;
            clock.motionArrived();
            const words = JSON.stringify([shown.state, shown.way, pressed]);
            if (words === said && performance.now() - saidAt < TOLD_MS) return;
            said = words;
            saidAt = performance.now();
            setNow({ shown, pressed, share: 1, trouble: undefined });
          },
          (e: Error) => fail(e.message),
        );
      };
      frame = requestAnimationFrame(step);
    };
    run().catch((e: Error) => fail(e.message));
    return () => {
      over = true;
      cancelAnimationFrame(frame);
      worker.terminate();
    };
  }, [key, target, on, clock]);
  return { ...now, show };
}
