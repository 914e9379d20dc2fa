'use client';

import {
  LiveBuffer,
  readStageMessage,
  type StageFrame,
  type StagePerformer,
  type TakeAccount,
  TakeRecorder,
} from '@velvet-reel/motion';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { Playable } from '@/solver/solve';
import type { Heard } from '@/solver/stage-thread';

/** A performer on the stage, with what comes from it. */
export interface OnStage extends StagePerformer {
  readonly fps: number;
  readonly buffer: LiveBuffer;
}

/** A take of one performer, as it was recorded. */
export interface LiveTake {
  readonly performer: StagePerformer;
  readonly motion: Playable;
  readonly account: TakeAccount;
}

export type StageState = 'connecting' | 'on' | 'away';

export interface StageFeed {
  readonly state: StageState;
  readonly performers: readonly OnStage[];
  readonly recording: boolean;
  /** Frames that came since the recording began, of all performers. */
  readonly recorded: () => number;
  start: () => void;
  stop: () => LiveTake[];
}

/** What the capture stage sends, performer by performer; connects anew by itself when the stage goes away. */
export function useStage(): StageFeed {
  const [state, setState] = useState<StageState>('connecting');
  const [performers, setPerformers] = useState<readonly OnStage[]>([]);
  const [recording, setRecording] = useState(false);
  const known = useRef(new Map<string, OnStage>());
  const recorders = useRef<Map<string, TakeRecorder> | null>(null);

  useEffect(() => {
    const worker = new Worker(new URL('../../../solver/stage-thread.ts', import.meta.url), { type: 'module' });
    const take = (message: unknown, at: number): void => {
      const joints = new Map([...known.current].map(([id, p]) => [id, p.rig.names.length]));
      try {
        const told = readStageMessage(message, joints);
        if (told.type === 'hello') {
          known.current = new Map(
            told.performers.map((p) => [
              p.id,
              { ...p, fps: told.fps, buffer: new LiveBuffer(p.rig.names.length, told.fps) },
            ]),
          );
          setPerformers([...known.current.values()]);
          setState('on');
        } else frame(told, at);
      } catch {
        // what is no message of a stage is passed over: the next one may be
      }
    };
    const frame = (f: StageFrame, at: number): void => {
      known.current.get(f.performer)?.buffer.push(f, (at - performance.timeOrigin) / 1000);
      recorders.current?.get(f.performer)?.push(f);
    };
    worker.onmessage = ({ data }: MessageEvent<Heard>) =>
      data.type === 'away' ? setState('away') : take(data.message, data.at);
    worker.onerror = () => setState('away');
    return () => worker.terminate();
  }, []);

  const start = useCallback((): void => {
    recorders.current = new Map([...known.current].map(([id, p]) => [id, new TakeRecorder(p.rig.names.length, p.fps)]));
    setRecording(true);
  }, []);
  const stop = useCallback((): LiveTake[] => {
    const made = [...(recorders.current ?? [])].flatMap(([id, recorder]): LiveTake[] => {
      const performer = known.current.get(id);
      if (!performer || recorder.count === 0) return [];
      return [{ performer, ...recorder.finish() }];
    });
    recorders.current = null;
    setRecording(false);
    return made;
  }, []);
  const recorded = useCallback(
    (): number => [...(recorders.current?.values() ?? [])].reduce((n, r) => n + r.count, 0),
    [],
  );
  return { state, performers, recording, recorded, start, stop };
}
