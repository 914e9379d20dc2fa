import { findPairing } from '../body/pairing';
import { readinessOf } from '../body/readiness';
import { withSkinTips } from '../body/skin-tips';
import { guessBodyMap } from '../bodymap/guess';
import { jointOf } from '../bodymap/slots';
import { writeGlb } from '../formats/gltf-write';
import { type Imported, importFile } from '../formats/import';
import { PoseReader } from '../motion/motion';
import { restPose, type SkeletonRig, tipOf, transformRig, type WorldPose } from '../rig/rig';
import { blockFigure } from '../test/block-figure';
import { walking } from '../test/variants';
import { planRetarget } from './plan';
import { reportOf, retarget } from './retarget';

/** Between two places, as a direction. */
function way(a: ArrayLike<number>, b: ArrayLike<number>): number[] {
  const d = [0, 1, 2].map((k) => b[k]! - a[k]!);
  return d.map((x) => x / Math.hypot(...d));
}
const degrees = (u: readonly number[], v: readonly number[]): number =>
  (Math.acos(
    Math.min(
      1,
      u.reduce((sum, x, k) => sum + x * v[k]!, 0),
    ),
  ) *
    180) /
  Math.PI;
const at = (pose: WorldPose, joint: number): Float64Array | number[] => [...pose.p.subarray(3 * joint, 3 * joint + 3)];

describe('a figure whose limbs are one joint each', () => {
  let block: Imported;
  beforeAll(async () => {
    block = await importFile(await writeGlb(blockFigure()), 'block.glb');
  });

  test('is told by its names, hips and all, and stands upright in metres', () => {
    const names = Object.entries(block.map.slots).flatMap(([slot, e]) =>
      e.joint >= 0 ? [`${slot} ${block.rig.names[e.joint]}`] : [],
    );
    expect(names.sort()).toEqual([
      'head Head',
      'hips Body',
      'thighL Leg_Left',
      'thighR Leg_Right',
      'upperArmL Arm_Left',
      'upperArmR Arm_Right',
    ]);
    expect(block.heightM).toBeCloseTo(1.75, 3);
    expect(block.warnings.join(' ')).toMatch(/Each leg is a single joint/);
  });

  test('is said not to bend, and nothing beyond its limbs is missing', () => {
    const ready = readinessOf(block.rig, block.map, findPairing(block.rig, block.map), 'other', false);
    const said = ready.map((r) => r.text);
    expect(said).toEqual(expect.arrayContaining(['Legs do not bend', 'Arms do not bend', 'It can be mirrored']));
    expect(said.join(' ')).not.toMatch(/toes|Hands|Feet/);
    expect(['forearmL', 'handR', 'shinL', 'footR'].map((slot) => block.map.slots[slot]?.state)).toEqual(
      Array(4).fill('empty'),
    );
  });

  test('has its limbs’ ends from its skin', () => {
    const pose = restPose(block.rig);
    for (const [slot, y] of [
      ['thighL', 0],
      ['thighR', 0],
      ['upperArmL', 0.7],
      ['upperArmR', 0.7],
    ] as const)
      expect(tipOf(block.rig, pose, jointOf(block.map, slot))![1]).toBeCloseTo(y, 3);
  });

  test('may have a skin of any number of points', () => {
    const { rig, figure } = blockFigure();
    const leg = figure.meshes.find((m) => m.name === 'Leg_Left')!;
    const times = 20_000;
    const fine = {
      ...leg,
      positions: Float32Array.from({ length: times * leg.positions.length }, (_, i) => leg.positions[i % 24]!),
      joints: new Uint16Array(times * leg.joints.length).fill(leg.joints[0]!),
      weights: Float32Array.from({ length: times * leg.weights.length }, (_, i) => (i % 4 === 0 ? 1 : 0)),
    };
    const joint = rig.names.indexOf('Leg_Left');
    expect(withSkinTips(rig, { ...figure, meshes: [fine] }, [joint]).tips[3 * joint + 1]).toBeCloseTo(-0.7, 5);
  });

  test('where nothing tells how far a limb goes, it is turned as its first bone is', () => {
    const { rig, motion } = walking();
    const source = { rig, map: guessBodyMap(rig) };
    const bare = { rig: { ...block.rig, tips: block.rig.tips.map(() => Number.NaN) }, map: block.map };
    expect(planRetarget(source, bare).stiff).toEqual([]);
    const { motion: done } = retarget(source, motion, bare);
    expect(done.places.every((t) => t.values.every(Number.isFinite))).toBe(true);
  });

  test('of another unit is measured by its limbs, not by its joints alone', async () => {
    const { rig, figure } = blockFigure();
    const big = {
      rig: transformRig(rig, [0, 0, 0, 1], 10) as SkeletonRig,
      figure: { ...figure, meshes: figure.meshes.map((m) => ({ ...m, positions: m.positions.map((x) => 10 * x) })) },
    };
    expect((await importFile(await writeGlb(big), 'big.glb')).heightM).toBeCloseTo(1.75, 3);
  });

  test('swings each limb along the line between the source limb’s two ends, and stands on the ground', () => {
    const { rig, motion } = walking();
    const map = guessBodyMap(rig);
    const done = retarget({ rig, map }, motion, block);
    const [from, to] = [new PoseReader(rig, motion), new PoseReader(block.rig, done.motion)];
    const ankles = ['footL', 'footR'].map((slot) => jointOf(map, slot));
    const standing = Math.min(...ankles.map((j) => restPose(rig).p[3 * j + 1]!));
    for (let f = 0; f < motion.frameCount; f += 3) {
      const [given, got] = [from.at(f), to.at(f)];
      const ends: number[] = [];
      for (const side of ['L', 'R'])
        for (const [upper, end] of [
          ['upperArm', 'hand'],
          ['thigh', 'foot'],
        ] as const) {
          const joint = jointOf(block.map, upper + side);
          const tip = tipOf(block.rig, got, joint)!;
          const wanted = way(at(given, jointOf(map, upper + side)), at(given, jointOf(map, end + side)));
          expect(degrees(way(at(got, joint), tip), wanted)).toBeLessThan(3);
          if (end === 'foot') ends.push(tip[1]);
        }
      // as high over the ground as the source's lower foot, which rolls over heel and ball
      const lifted = Math.min(...ankles.map((j) => given.p[3 * j + 1]!)) - standing;
      expect(Math.abs(Math.min(...ends) - done.plan.scale * lifted)).toBeLessThan(0.04);
    }
    const report = reportOf(done);
    expect(report.direction.p95Deg).toBeLessThan(2);
    expect(report.warnings.join(' ')).toMatch(/Each leg of the target is a single joint/);
    expect(report.unmapped.source.join(' ')).not.toMatch(/ForeArm|Hand|Leg|Foot$/);
  });

  test('travels as its standing leg swings, so that its feet slip less than by scaled travel; what is left is told', () => {
    const { rig, motion } = walking();
    // left and right stand in turn, half a second each
    const plants = [
      { part: 'heelL', start: 15, end: 45 },
      { part: 'heelR', start: 45, end: 75 },
      { part: 'heelL', start: 75, end: 105 },
    ] as const;
    const source = { rig, map: guessBodyMap(rig) };
    const held = retarget(source, motion, block, { contacts: { plants, floor: 0 } });
    const scaled = retarget(source, motion, block, { plants: false });
    const slip = ({ motion: m }: { motion: typeof motion }): number => {
      const reader = new PoseReader(block.rig, m);
      return plants.reduce((sum, { part, start, end }) => {
        const joint = jointOf(block.map, `thigh${part.at(-1)}`);
        const [from, to] = [start, end].map((f) => tipOf(block.rig, reader.at(f), joint)!);
        return sum + Math.hypot(to![0] - from![0], to![2] - from![2]) / plants.length;
      }, 0);
    };
    expect(slip(scaled)).toBeGreaterThan(0.02);
    expect(slip(held)).toBeLessThan(0.5 * slip(scaled));
    expect(reportOf(held).slip.maxCm).toBeGreaterThanOrEqual(100 * slip(held) - 1e-6);
    // what nobody sees is no trouble: a hundredth of the leg
    const slides = reportOf({ ...scaled, plants, heights: [0, 0, 0] }).troubles.filter((t) => t.kind === 'slip');
    expect(slides.length).toBeGreaterThan(0);
    for (const t of slides) expect(t.amount).toBeGreaterThan(0.7);
    expect(
      reportOf({ ...held, plants: [{ part: 'heelL', start: 20, end: 21 }] }).troubles.map((t) => t.kind),
    ).not.toContain('slip');
    expect(reportOf({ ...scaled, plants, heights: [0, 0, 0] }).slip.maxCm).toBeGreaterThan(reportOf(held).slip.maxCm);
  });
});

test('a leg that goes on below the joint whose name tells is not taken for stiff', () => {
  const { rig } = blockFigure();
  const longer: SkeletonRig = {
    ...rig,
    names: [...rig.names, 'b1'],
    parents: Int16Array.from([...rig.parents, rig.names.indexOf('Leg_Left')]),
    restT: Float32Array.from([...rig.restT, 0, -0.6, 0]),
    restR: Float32Array.from([...rig.restR, 0, 0, 0, 1]),
    tips: Float32Array.from([...rig.tips, Number.NaN, Number.NaN, Number.NaN]),
  };
  const { slots } = guessBodyMap(longer);
  expect([slots.shinL?.state, slots.shinR?.state]).toEqual(['missing', 'empty']);
});

test('joints that bend are left as they are where a limb is more than one joint', () => {
  const { rig } = walking();
  expect(Object.keys(guessBodyMap(rig).slots)).toEqual(expect.arrayContaining(['shinL', 'footR', 'forearmL', 'handR']));
});
