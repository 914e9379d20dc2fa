import { isSole, type Plant, soleTracks } from '../analysis/plants';
import type { Body, Sole } from '../body/body';
import type { Side } from '../bodymap/slots';
import type { Motion } from '../motion/motion';
import { moveJoint } from '../motion/move-joint';
import { runningMean } from './envelope';
import type { RetargetPlan } from './plan';

/** How long a foot takes to be held and to be let go, seconds. */
const EASE_S = 0.08;

/** The target with what it stands on: legs of one joint stand on their ends, and are as long as the hips are high. */
export function standingBody({ target, stiff }: Pick<RetargetPlan, 'target' | 'stiff'>): Body {
  const soles: Partial<Record<Side, Sole>> = { ...target.body.soles };
  for (const { kind, side, joint } of stiff) {
    const end = Float64Array.from(target.rig.tips.subarray(3 * joint, 3 * joint + 3));
    if (kind === 'leg') soles[side] = { foot: joint, toes: -1, heel: end, ball: end, tip: end };
  }
  const onEnds = target.body.leg === 0 && Object.keys(soles).length > 0;
  return { ...target.body, soles, leg: onEnds ? target.body.hipHeight : target.body.leg };
}

/**
 * Lets a body whose legs are one joint each stand where its feet are planted: it cannot reach for a spot, so it travels as the
 * leg that stands swings, and between two that stand by as little slip of both as there can be. Heights are left as they are.
 * @param moved the motion as it was carried over @param plants of the source, in frames of both motions
 */
export function standOnEnds(plan: RetargetPlan, moved: Motion, plants: readonly Plant[]): Motion {
  const { target, stiff, carrier } = plan;
  if (!stiff.some((part) => part.kind === 'leg') || !plants.some((p) => isSole(p.part))) return moved;
  const ends = soleTracks(target.rig, moved, standingBody(plan));
  const n = moved.frameCount;
  const legs = stiff.flatMap(({ kind, side }) => {
    const track = kind === 'leg' && ends[`heel${side}`];
    return track ? [{ track, stands: standing(plants, side, n, moved.fps) }] : [];
  });
  const by = new Float64Array(2 * n);
  for (let f = 1; f < n; f++)
    for (const [i, k] of [
      [0, 0],
      [1, 2],
    ] as const) {
      let [slip, held] = [0, 0];
      for (const { track, stands } of legs) {
        slip += stands[f]! * (track[3 * f + k]! - track[3 * f - 3 + k]!);
        held += stands[f]!;
      }
      by[2 * f + i] = by[2 * f - 2 + i]! - slip / Math.max(1, held);
    }
  return moveJoint(target.rig, moved, carrier, (f) => [by[2 * f]!, 0, by[2 * f + 1]!]);
}

/** How much a foot stands, frame by frame: 1 while any of its parts is planted, easing in and out. */
function standing(plants: readonly Plant[], side: Side, frames: number, fps: number): Float64Array {
  const stands = new Float64Array(frames);
  for (const { part, start, end } of plants)
    if (isSole(part) && part.endsWith(side)) stands.fill(1, Math.max(0, start), end + 1);
  return runningMean(stands, Math.max(1, Math.round(EASE_S * fps)));
}
