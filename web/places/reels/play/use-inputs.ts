'use client';

import type { PlayInput } from '@velvet-reel/motion';
import { useCallback, useEffect, useRef } from 'react';
import type { Pressed } from '@/solver/play-thread';

/** How fast keys move a number: from one end to the other in so many seconds. */
const SWEEP_S = 0.8;
/** A stick nearer to its middle than this is let go. */
const REST = 0.12;

const typing = (target: EventTarget | null): boolean =>
  target instanceof HTMLElement && target.closest('input, textarea, select, [contenteditable], [role=dialog]') !== null;

/** What is pressed on keyboard and gamepad while a play-through runs; presses are handed out once. */
export function useInputs(inputs: readonly PlayInput[], on: boolean): () => Pressed {
  const down = useRef(new Set<string>());
  const pressed = useRef(new Set<string>());
  const padDown = useRef(new Set<number>());
  const numbers = useRef(new Map<string, number>());
  const stick = useRef(new Set<string>());
  const last = useRef(0);
  const known = useRef(inputs);
  known.current = inputs;

  useEffect(() => {
    if (!on) return;
    const mine = (code: string): boolean => known.current.some((i) => i.key === code || i.lessKey === code);
    const press = (e: KeyboardEvent): void => {
      if (typing(e.target) || e.ctrlKey || e.metaKey || e.altKey || !mine(e.code)) return;
      // what is played with does nothing else
      e.preventDefault();
      e.stopPropagation();
      if (e.repeat) return;
      down.current.add(e.code);
      for (const i of known.current) if (i.kind === 'press' && i.key === e.code) pressed.current.add(i.id);
    };
    const release = (e: KeyboardEvent): void => void down.current.delete(e.code);
    const forget = (): void => down.current.clear();
    window.addEventListener('keydown', press, true);
    window.addEventListener('keyup', release, true);
    window.addEventListener('blur', forget);
    return () => {
      window.removeEventListener('keydown', press, true);
      window.removeEventListener('keyup', release, true);
      window.removeEventListener('blur', forget);
      forget();
      pressed.current.clear();
      numbers.current.clear();
    };
  }, [on]);

  return useCallback(() => {
    const now = performance.now() / 1000;
    const passed = Math.min(0.1, last.current > 0 ? now - last.current : 0);
    last.current = now;
    const pad = navigator.getGamepads?.().find((p) => p?.connected);
    const held: string[] = [];
    for (const i of known.current) {
      const button = i.pad >= 0 && i.kind !== 'number' ? pad?.buttons[i.pad]?.pressed === true : false;
      if (i.kind === 'hold' && (down.current.has(i.key) || button)) held.push(i.id);
      if (i.kind === 'press' && button && !padDown.current.has(i.pad)) pressed.current.add(i.id);
      if (i.kind !== 'number') continue;
      const range = i.max - i.min;
      let x = numbers.current.get(i.id) ?? i.min;
      const way = (down.current.has(i.key) ? 1 : 0) - (down.current.has(i.lessKey) ? 1 : 0);
      x += (way * range * passed) / SWEEP_S;
      const lean = i.pad >= 0 ? -(pad?.axes[i.pad] ?? 0) : 0;
      // a stick says where the number is while it is off its middle, and once more when it is let go
      if (Math.abs(lean) > REST || stick.current.has(i.id)) {
        x = i.min + range * Math.max(0, lean);
        if (Math.abs(lean) > REST) stick.current.add(i.id);
        else stick.current.delete(i.id);
      }
      numbers.current.set(i.id, Math.min(i.max, Math.max(i.min, x)));
    }
    padDown.current = new Set(pad?.buttons.flatMap((b, i) => (b.pressed ? [i] : [])));
    const out: Pressed = { held, pressed: [...pressed.current], numbers: [...numbers.current] };
    pressed.current.clear();
    return out;
  }, []);
}
