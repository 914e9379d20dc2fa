import { MotionError } from '../errors';
import { type Motion, restMotion } from '../motion/motion';
import type { StepTrack } from '../motion/tracks';
import type { CutoutRig } from '../rig/rig';
import type { DrawnFigure } from './merge';

/** Frames a second at which a set of drawings is leafed through. */
const LEAF_FPS = 4;

/**
 * Drawings of some parts as something that can be kept, looked at and searched like any motion: nothing moves, and each frame
 * shows the next drawing of every part; a part with fewer of them stays at its last.
 * @throws MotionError 'bad-argument' for a part that the figure does not have, or for none
 */
export function drawingSet(rig: CutoutRig, parts: readonly string[]): Motion {
  if (parts.length === 0) throw new MotionError('bad-argument', 'A set of drawings needs a part.');
  const chosen = parts.map((name) => {
    const part = rig.parts.find((p) => p.name === name);
    if (!part) throw new MotionError('bad-argument', `The figure has no part “${name}”.`);
    return part;
  });
  const frameCount = Math.max(...chosen.map((p) => p.drawings.length));
  const rest = restMotion(rig, LEAF_FPS);
  const n = rig.names.length;
  const turns = new Float32Array(4 * n * frameCount);
  for (let f = 0; f < frameCount; f++) turns.set(rest.turns, 4 * n * f);
  return {
    ...rest,
    frameCount,
    turns,
    places: [],
    steps: chosen.map(
      (part): StepTrack => ({
        name: part.name,
        labels: part.drawings,
        values: Uint16Array.from({ length: frameCount }, (_, f) => Math.min(f, part.drawings.length - 1)),
      }),
    ),
  };
}

/** A figure with no other drawings than those of a set; a part that the set says nothing of has none. */
export function drawingsOf({ rig, art, map }: DrawnFigure, set: Motion): DrawnFigure {
  const labels = new Map(set.steps.map((s) => [s.name, new Set(s.labels)]));
  const holds = (part: string, label: string): boolean => labels.get(part)?.has(label) ?? false;
  return {
    rig: {
      ...rig,
      parts: rig.parts.map((p) => ({ ...p, drawings: p.drawings.filter((label) => holds(p.name, label)) })),
    },
    art: { ...art, drawings: art.drawings.filter((d) => holds(d.part, d.label)) },
    map,
  };
}
