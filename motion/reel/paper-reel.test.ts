import { guessBodyMap } from '../bodymap/guess';
import { jointOf } from '../bodymap/slots';
import { cutoutFromSvg } from '../cutout/assemble';
import { driveCutout } from '../cutout/drive';
import { checkJoin } from '../join/check';
import { PlaneReader } from '../motion/plane-pose';
import { asSkeleton } from '../rig/flat';
import { paperFigure, paperTraits } from '../test/paper';
import { walking } from '../test/variants';
import { PLACEMENT_DEFAULTS, type Placement } from './document';
import { ReelEvaluator } from './evaluate';

const { svg } = paperFigure(paperTraits(4, { facing: 'right', language: 'plain', depth: false, nested: false }));
const figure = cutoutFromSvg(new TextEncoder().encode(svg));
const walk = walking();
const driven = driveCutout({ rig: walk.rig, map: guessBodyMap(walk.rig) }, walk.motion, figure).motion;

const lay = (id: string, at: number, wish: Partial<Placement>): Placement => ({
  id,
  itemId: 'walk',
  at,
  ...PLACEMENT_DEFAULTS,
  ...wish,
});

test('paper that is laid farther back and turned in space stands farther back, and stays flat', () => {
  const who = { rig: asSkeleton(figure.rig), map: figure.map, cutout: figure.rig };
  const base = [
    lay('a', 0, { offset: { x: 0.5, z: -2, turn: 40 }, pace: [{ frame: 0, speed: 0.7 }] }),
    lay('b', 20, { offset: { x: 0, z: 0, turn: 90 } }),
  ];
  const { motion } = new ReelEvaluator(who, 24).evaluate({ base, overlays: [], keys: [] }, 60, () => driven);
  const across = motion.turns.filter((_, i) => i % 4 < 2);
  expect(Math.max(...across.map(Math.abs))).toBeLessThan(1e-6);
  const hips = motion.places.find((t) => t.joint === jointOf(figure.map, 'hips'))!;
  const depths = hips.values.filter((_, i) => i % 3 === 2);
  for (const z of depths) expect(z).toBeCloseTo(-2, 3);
});

test('turned over, it goes the other way, and stands on the same spots of its own', () => {
  const who = { rig: asSkeleton(figure.rig), map: figure.map, cutout: figure.rig };
  const evaluated = (turn: number) => {
    const base = [lay('a', 0, { offset: { x: 0, z: 0, turn } }), lay('b', 40, { offset: { x: 0, z: 0, turn } })];
    const { motion } = new ReelEvaluator(who, 24).evaluate({ base, overlays: [], keys: [] }, 70, () => driven);
    const reader = new PlaneReader(figure.rig, motion);
    return Array.from({ length: 70 }, (_, f) => [...reader.read(f / 24)]);
  };
  const [as, over] = [evaluated(0), evaluated(180)];
  const last = 6 * jointOf(figure.map, 'hips') + 4;
  expect(as[69]![last]! - as[0]![last]!).toBeGreaterThan(0.3);
  for (const f of [0, 30, 42, 69])
    for (const slot of ['hips', 'handL', 'footL', 'footR', 'head']) {
      const o = 6 * jointOf(figure.map, slot);
      expect(over[f]![o + 4]!).toBeCloseTo(-as[f]![o + 4]!, 3);
      expect(over[f]![o + 5]!).toBeCloseTo(as[f]![o + 5]!, 3);
      // seen from its other side
      expect(over[f]![o]! * over[f]![o + 3]! - over[f]![o + 1]! * over[f]![o + 2]!).toBeCloseTo(-1, 2);
    }
});

test('its joins are measured where it is seen to stand', () => {
  const who = { rig: asSkeleton(figure.rig), map: figure.map, cutout: figure.rig };
  const measured = (turn: number) => {
    const offset = { x: 0, z: 0, turn };
    const base = [lay('a', 0, { offset }), lay('b', 40, { offset })];
    const done = new ReelEvaluator(who, 24).evaluate({ base, overlays: [], keys: [] }, 70, () => driven);
    return checkJoin(who, { ...done, joins: [] }, done.joins[0]!);
  };
  const [as, over] = [measured(0), measured(180)];
  expect(over.slipPercentLeg).toBeCloseTo(as.slipPercentLeg, 2);
  expect(over.stepRatio).toBeCloseTo(as.stepRatio, 2);
  expect(over.facingDeg).toBe(0);
});
