import { useEffect, useState } from 'react';
import { type Clock, useClock } from './clock';

/** The frame that is shown, for what is set at it by hand; while it plays it stays, so that nothing is drawn anew. */
export function useRestingFrame(clock: Clock): number {
  const { playing } = useClock(clock);
  const [frame, setFrame] = useState(clock.frame);
  useEffect(() => {
    if (playing) return;
    setFrame(clock.frame);
    return clock.onTick(() => setFrame(clock.frame));
  }, [clock, playing]);
  return frame;
}
