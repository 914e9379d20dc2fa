'use client';

import type { ProofStep } from '@velvet-reel/motion';
import { useEffect, useState } from 'react';
import type { Clock } from '@/stage/clock';
import { proofWords as texts } from './texts';

/** Which step of a proof a frame belongs to. */
export const stepAt = (steps: readonly ProofStep[], frame: number): ProofStep | undefined =>
  steps.findLast((s) => s.start <= frame);

/** Says what should be moving now. */
export function ProofWords({ clock, steps }: { clock: Clock; steps: readonly ProofStep[] }) {
  const [step, setStep] = useState<ProofStep>();
  useEffect(() => {
    const look = (): void => setStep(stepAt(steps, clock.frame));
    look();
    return clock.onTick(look);
  }, [clock, steps]);
  if (!step) return null;
  return (
    <p
      aria-live="polite"
      className="pointer-events-none absolute inset-x-0 top-3 mx-auto w-fit rounded-full border border-line bg-panel/90 px-3 py-1"
    >
      {step.missing.length === 0 ? (
        step.text
      ) : (
        <span className="text-brass-text">{texts.skippedNoJointFor(step.text, step.missing.join(', '))}</span>
      )}
    </p>
  );
}
