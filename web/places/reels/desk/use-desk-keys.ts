'use client';

import { useKeys } from '@/client/keys';
import { hasCurves } from '../curves/curve-lane';
import type { Desk } from './use-desk';

/** The keys of a reel. */
export function useDeskKeys(desk: Desk): void {
  const {
    mayChange,
    reel,
    clock,
    setTrial,
    setSide,
    setView,
    range,
    setRange,
    ghosts,
    setGhosts,
    setHeld,
    mode,
    setMode,
    setBaking,
    curvesOf,
    setCurvesOf,
    setThrough,
    through,
    memberId,
    member,
    join,
    matching,
    removeChosen,
    cut,
    copy,
    zoomTo,
    zoom,
    mark,
  } = desk;
  useKeys('space', () => clock.setPlaying(!clock.playing));
  useKeys('comma', () => clock.step(-1));
  useKeys('period', () => clock.step(1));
  useKeys('l', () => clock.setLoop(!clock.loop));
  useKeys('delete,backspace', removeChosen);
  useKeys('s', cut);
  useKeys('d', copy);
  useKeys('n', matching.find);
  useKeys('k', () => mayChange && memberId && setBaking(true));
  useKeys('g', () => setGhosts(!ghosts));
  useKeys('f', () => setView(null));
  useKeys('j', () => join && zoomTo(join.start, join.end));
  useKeys('equal', () => zoom(0.6));
  useKeys('minus', () => zoom(1 / 0.6));
  useKeys('a', mark);
  useKeys('c', () => member && hasCurves(member) && setCurvesOf(curvesOf === member.id ? null : member.id));
  useKeys('v', () => setThrough(through ? null : (reel.cameras?.[0]?.id ?? null)));
  useKeys('t', () => setMode(mode === 'move' ? 'turn' : 'move'));
  useKeys('1', () => setSide('library'));
  useKeys('2', () => setSide('chosen'));
  useKeys('3', () => setSide('hand'));
  useKeys('4', () => setSide('record'));
  useKeys('bracketleft', () =>
    setRange({ start: clock.frame, end: Math.max(clock.frame, range?.end ?? reel.frames - 1) }),
  );
  useKeys('bracketright', () => setRange({ start: Math.min(clock.frame, range?.start ?? 0), end: clock.frame }));
  useKeys('escape', () => {
    setRange(null);
    setHeld(null);
    setTrial(null);
  });
}
