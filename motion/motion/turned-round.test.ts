import type { Plant } from '../analysis/plants';
import { alignmentTurns } from '../body/alignment';
import { headingOf } from '../body/root-frame';
import { guessBodyMap } from '../bodymap/guess';
import { cutoutFromSvg } from '../cutout/assemble';
import { driveCutout } from '../cutout/drive';
import { FITTING_DEFAULTS } from '../fitting/document';
import { evaluateFitting } from '../fitting/evaluate';
import { standsOf } from '../join/steps';
import { axisAngleQuat, mulQuat } from '../math/quat';
import { ownPlan } from '../retarget/plan';
import { flatSkeleton } from '../rig/flat';
import { paperFigure, paperTraits } from '../test/paper';
import { walking } from '../test/variants';
import { type Motion, PoseReader } from './motion';
import { PlaneReader } from './plane-pose';
import { turnedRound } from './turned-round';

const walk = walking();
const body = { rig: walk.rig, map: guessBodyMap(walk.rig) };
/** The walk, with half a turn on the spot in its middle. */
const turning: Motion = (() => {
  const n = walk.rig.names.length;
  const turns = walk.motion.turns.slice();
  const half = new Float32Array(4);
  for (let f = 0; f < walk.motion.frameCount; f++) {
    axisAngleQuat(half, 0, 0, 1, 0, Math.PI * Math.min(1, Math.max(0, (f - 50) / 20)));
    for (let j = 0; j < n; j++)
      if (walk.rig.parents[j]! < 0) mulQuat(turns, 4 * (f * n + j), half, 0, turns, 4 * (f * n + j));
  }
  return {
    ...walk.motion,
    turns,
    places: walk.motion.places.map((t) => ({ ...t, values: t.values.map((x, i) => (i % 3 === 1 ? x : 0)) })),
  };
})();
const figure = cutoutFromSvg(
  new TextEncoder().encode(paperFigure(paperTraits(4, { facing: 'right', language: 'plain', depth: false })).svg),
);
const { motion: flat } = driveCutout(body, turning, figure, { view: 'side' });

describe('a figure that is turned over', () => {
  test('has turned round in space, and every joint is where it was', () => {
    expect(flat.scales.some((t) => t.values.some((x) => x < 0))).toBe(true);
    const round = turnedRound(figure.rig, flat);
    expect(round.scales.every((t) => t.values.every((x) => x > 0))).toBe(true);
    const plane = new PlaneReader(figure.rig, flat);
    const space = new PoseReader(flatSkeleton(figure.rig), round);
    for (let f = 0; f < flat.frameCount; f += 7) {
      plane.read(f / flat.fps);
      const { p } = space.at(f);
      figure.rig.names.forEach((_, j) => {
        expect(p[3 * j]!).toBeCloseTo(plane.frames[6 * j + 4]!, 5);
        expect(p[3 * j + 1]!).toBeCloseTo(plane.frames[6 * j + 5]!, 5);
      });
    }
  });

  test('makes a body in space turn round, too', () => {
    const source = { rig: flatSkeleton(figure.rig), map: figure.map, cutout: figure.rig };
    const { motion } = evaluateFitting(source, flat, body, FITTING_DEFAULTS);
    const aligned = alignmentTurns(body.rig, body.map);
    const hips = body.map.slots.hips!.joint;
    const reader = new PoseReader(body.rig, motion);
    const heading = (f: number): number => headingOf(reader.at(f).r, 4 * hips, aligned, 4 * hips, 0);
    const by = Math.abs(heading(flat.frameCount - 1) - heading(0));
    expect(Math.min(by, 2 * Math.PI - by)).toBeGreaterThan(2.6);
  });

  test('the same walk in a looking-glass stands on the same feet', () => {
    const source = { rig: flatSkeleton(figure.rig), map: figure.map, cutout: figure.rig };
    // while one foot lifts the other stands
    const contacts = (['heel', 'ball'] as const).flatMap((part): Plant[] => [
      { part: `${part}L`, start: 17, end: 43 },
      { part: `${part}R`, start: 47, end: 73 },
    ]);
    const { motion } = driveCutout(body, walk.motion, figure, { view: 'side', contacts });
    const hips = figure.map.slots.hips!.joint;
    const n = figure.rig.names.length;
    const turns = motion.turns.slice();
    for (let f = 0; f < motion.frameCount; f++) turns[4 * (f * n + hips) + 2] = -turns[4 * (f * n + hips) + 2]!;
    const over = Float32Array.from({ length: 3 * motion.frameCount }, (_, i) => (i % 3 === 0 ? -1 : 1));
    const glass: Motion = {
      ...motion,
      turns,
      places: motion.places.map((t) =>
        t.joint === hips ? { ...t, values: t.values.map((x, i) => (i % 3 === 0 ? -x : x)) } : t,
      ),
      scales: [...motion.scales.filter((t) => t.joint !== hips), { joint: hips, values: over }],
    };
    const stands = standsOf(ownPlan(source), motion);
    expect(stands.held.L.some((bits) => bits > 0)).toBe(true);
    expect(standsOf(ownPlan(source), glass).held).toEqual(stands.held);
  });

  test('is tuned as the body in space that it then is', () => {
    const settings = { ...FITTING_DEFAULTS, tuning: { ...FITTING_DEFAULTS.tuning, stance: 1.2 } };
    const source = { rig: flatSkeleton(figure.rig), map: figure.map };
    const { motion } = evaluateFitting({ ...source, cutout: figure.rig }, flat, body, settings);
    expect(motion.turns).toEqual(evaluateFitting(source, turnedRound(figure.rig, flat), body, settings).motion.turns);
  });

  test('what is not turned over stays as it is', () => {
    const { motion } = driveCutout(body, walk.motion, figure, { view: 'side' });
    const upright = { ...motion, scales: [] };
    expect(turnedRound(figure.rig, upright)).toBe(upright);
  });
});
