'use client';

import { useEffect, useRef } from 'react';

/** A stick nearer to its middle than this is let go. */
const REST = 0.12;

/** While a gamepad's left stick is off its middle, it says where on the field the mix is: its middle is the field's. */
export function useStick(onPoint: (at: readonly [number, number]) => void, on: boolean): void {
  const held = useRef(false);
  useEffect(() => {
    if (!on || typeof navigator.getGamepads !== 'function') return;
    let frame = 0;
    const look = (): void => {
      const pad = navigator.getGamepads().find((p) => p?.connected);
      const [x, y] = [pad?.axes[0] ?? 0, pad?.axes[1] ?? 0];
      const off = Math.hypot(x, y) > REST;
      // the moment of letting go counts, too
      if (off || held.current) onPoint(off ? [(x + 1) / 2, (y + 1) / 2] : [0.5, 0.5]);
      held.current = off;
      frame = requestAnimationFrame(look);
    };
    frame = requestAnimationFrame(look);
    return () => cancelAnimationFrame(frame);
  }, [onPoint, on]);
}
