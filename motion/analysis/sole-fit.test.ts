import { alignmentTurns } from '../body/alignment';
import { type Motion, measureBody, type SkeletonRig } from '../index';
import { axisAngleQuat, mulQuat } from '../math/quat';
import { buildRig, party } from '../test/bodies';
import { fitSoles } from './sole-fit';

const rig = buildRig();
const { map } = party(rig);
const body = measureBody(rig, map);

/** Somebody who stands for a second with feet rolled outwards by so many degrees, left and right. */
function standing(of: SkeletonRig, left: number, right: number): Motion {
  const n = of.names.length;
  const frames = 60;
  const turns = new Float32Array(4 * n * frames);
  const q = [0, 0, 0, 1];
  for (let f = 0; f < frames; f++) {
    turns.set(of.restR, 4 * n * f);
    for (const [name, degrees] of [
      ['LeftFoot', left],
      ['RightFoot', right],
    ] as const) {
      const j = of.names.indexOf(name);
      axisAngleQuat(q, 0, 0, 0, 1, (degrees * Math.PI) / 180);
      mulQuat(q, 0, of.restR, 4 * j, q, 0);
      turns.set(q, 4 * (f * n + j));
    }
  }
  return { fps: 60, frameCount: frames, turns, places: [], numbers: [], scales: [], steps: [] };
}
const fit = (left: number, right: number) => fitSoles(rig, standing(rig, left, right), body, alignmentTurns(rig, map));
const degrees = (q: readonly number[] | undefined): number =>
  (360 / Math.PI) * Math.acos(Math.min(1, Math.abs(q![3]!)));

test('feet that stand as they rest leave the soles as they are', () => {
  expect(fit(0, 0)).toBeUndefined();
});

test('both feet rolled alike: so the skeleton’s soles lie, turned back by as much, mirrored', () => {
  const fitted = fit(8, -8)!;
  expect(degrees(fitted.turns.L)).toBeCloseTo(8, 1);
  expect(degrees(fitted.turns.R)).toBeCloseTo(8, 1);
  expect(fitted.turns.L![2]! * fitted.turns.R![2]!).toBeLessThan(0);
});

test('one foot rolled, or both to the same side, is what the performer does', () => {
  expect(fit(14, 0)).toBeUndefined();
  expect(fit(8, 8)).toBeUndefined();
});

test('feet that never stand tell nothing', () => {
  const motion = standing(rig, 8, -8);
  const n = rig.names.length;
  const thigh = rig.names.indexOf('LeftUpLeg');
  const q = [0, 0, 0, 1];
  for (let f = 0; f < motion.frameCount; f++) {
    axisAngleQuat(q, 0, 1, 0, 0, Math.sin(f));
    motion.turns.set(q, 4 * (f * n + thigh));
  }
  expect(fitSoles(rig, motion, body, alignmentTurns(rig, map))).toBeUndefined();
});
