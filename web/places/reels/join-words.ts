import type { JoinCheck, Region } from '@velvet-reel/motion';
import type { CheckedJoin } from '@/solver/solve-reel';

/** Beyond these an eye sees it: % of the leg per second, cm, degrees, times the larger step on either side if so many m/s. */
const SEEN = { slip: 0.5, placeCm: 1, facing: 1, step: 1.6, speed: 3, floorCm: 2 } as const;

/** What is wrong with a passage, in words; nothing where it is sound. */
export function troublesOf({ check, kind }: Pick<CheckedJoin, 'check' | 'kind'>): string[] {
  return [
    check.slipPercentLeg > SEEN.slip && `feet slip ${check.slipCm.toFixed(1)} cm`,
    check.placeCm > SEEN.placeCm && `the hips jump ${check.placeCm.toFixed(1)} cm`,
    check.facingDeg > SEEN.facing && `the body turns ${check.facingDeg.toFixed(1)}° at once`,
    check.stepRatio > SEEN.step &&
      check.stepSpeed > SEEN.speed &&
      kind !== 'bridge' &&
      `${check.joint} moves ${check.stepRatio.toFixed(1)} times as fast as on either side`,
    check.floorCm > SEEN.floorCm && `a sole is ${check.floorCm.toFixed(1)} cm under the ground`,
  ].filter((x): x is string => typeof x === 'string');
}

/** The figures of a passage, for whoever wants to read them. */
export const figuresOf = (c: JoinCheck): readonly (readonly [string, string])[] => [
  ['slip of the feet', `${c.slipCm.toFixed(2)} cm`],
  ['jump of the hips', `${c.placeCm.toFixed(2)} cm`],
  ['jump of the heading', `${c.facingDeg.toFixed(2)}°`],
  ['fastest step', `${c.stepRatio.toFixed(2)} × either side`],
  ['under the ground', `${Math.max(0, c.floorCm).toFixed(1)} cm`],
];

/** A part of the body in words: what a cut-out has besides joints are its drawings. */
export const regionWord = (region: Region, paper: boolean): string =>
  region === 'face' && paper ? 'drawings' : region;
