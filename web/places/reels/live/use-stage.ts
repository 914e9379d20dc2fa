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

const AGAIN_MS = 2000;

/** What the capture stage sends, performer by performer; connects anew by itself when the stage goes away. */
export function useStage(): StageFeed {
  const [state, setState] = useState<StageState>('connecting');
  const [performers, setPerformers] = useState<readonly OnStage[]>([]);
  const [recording, setRecording] = useState(false);
  const known = useRef(new Map<string, OnStage>());
  const recorders = useRef<Map<string, TakeRecorder> | null>(null);

  useEffect(() => {
    const abort = new AbortController();
    let timer: ReturnType<typeof setTimeout> | undefined;
    const take = (line: string): void => {
      let message: unknown;
      try {
        message = JSON.parse(line);
      } catch {
        return;
      }
      if ((message as { type?: unknown } | null)?.type === 'away') {
        setState('away');
        return;
      }
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
        } else frame(told);
      } catch {
        // what is no message of a stage is passed over: the next one may be
      }
    };
    const frame = (f: StageFrame): void => {
      known.current.get(f.performer)?.buffer.push(f, performance.now() / 1000);
      recorders.current?.get(f.performer)?.push(f);
    };
    const connect = async (): Promise<void> => {
      try {
        const answer = await fetch('/api/stage', { signal: abort.signal });
        const reader = answer.body?.pipeThrough(new TextDecoderStream()).getReader();
        if (!answer.ok || !reader) throw new Error('away');
        let rest = '';
        for (;;) {
          const { value, done } = await reader.read();
          if (done) break;
          const lines = (rest + value).split('\n');
          rest = lines.pop() ?? '';
          for (const line of lines) if (line !== '') take(line);
        }
      } catch {
        // told below
      }
      if (abort.signal.aborted) return;
      setState('away');
      timer = setTimeout(() => void connect(), AGAIN_MS);
    };
    void connect();
    return () => {
      abort.abort();
      clearTimeout(timer);
    };
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
