'use client';

import type { ProofStep } from '@velvet-reel/motion';
import { useEffect, useState } from 'react';
import { toast } from 'sonner';
import { solver } from '@/client/solver';
import type { RigAnswer } from '@/contract';
import type { Playable } from '@/solver/solve';
import type { Clock } from '@/stage/clock';

export interface ProofShown {
  motion: Playable;
  steps: readonly ProofStep[];
}

/** While it is asked for, a short movement of every part in turn; it is worked out anew when the map changes. */
export function useProof(rig: RigAnswer, clock: Clock, asked: boolean): ProofShown | undefined {
  const [proof, setProof] = useState<ProofShown>();
  useEffect(() => {
    if (!asked) return;
    let gone = false;
    solver()
      .proof(rig)
      .then((made) => {
        if (gone) return;
        clock.load(made.motion.frameCount, made.motion.fps);
        clock.seekFrame(0);
        clock.setPlaying(true);
        setProof(made);
      })
      .catch((error: Error) => !gone && toast.error(error.message));
    return () => {
      gone = true;
      clock.setPlaying(false);
      clock.load(1, 30);
      setProof(undefined);
    };
  }, [rig, clock, asked]);
  return proof;
}
