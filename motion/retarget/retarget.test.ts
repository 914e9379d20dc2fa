import fc from 'fast-check';
import { findContacts, soleTracks } from '../analysis/plants';
import { measureBody } from '../body/body';
import { largestError } from '../codec/error';
import { MotionError } from '../errors';
import { axisAngleQuat, rotate3 } from '../math/quat';
import { type Motion, PoseReader, transformMotion } from '../motion/motion';
import { transformRig } from '../rig/rig';
import { buildRig, party, posedRig, wander } from '../test/bodies';
import { envelope } from './envelope';
import { newLegTurns, solveLeg } from './leg';
import { planRetarget } from './plan';
import { reportOf, retarget, solve } from './retarget';

const source = party(posedRig(90));

describe('carrying poses over, no plants', () => {
  test('onto the same rig nothing changes', () => {
    fc.assert(
      fc.property(fc.integer({ min: 1, max: 500 }), (seed) => {
        const motion = wander(source.rig, 12, seed);
        const done = retarget(source, motion, source, { plants: false });
        expect(largestError(source.rig, motion, done.motion)).toBeLessThan(1e-6);
      }),
      { numRuns: 25 },
    );
  });

  test.each([
    ['from T to A', posedRig(45)],
    ['from T to hanging arms', posedRig(12)],
    ['onto odd axes', posedRig(60, 1, true)],
    ['onto a body half as tall', posedRig(45, 0.5)],
  ])('limbs point the same way, %s', (_, rig) => {
    const motion = wander(source.rig, 30);
    const { direction } = reportOf(retarget(source, motion, party(rig), { plants: false }));
    expect(direction.meanDeg).toBeLessThan(0.01);
    expect(direction.maxDeg).toBeLessThan(0.02);
  });

  test('a plan reads a motion once, and solves it again to the same result, whatever was asked in between', () => {
    const plan = planRetarget(source, party(posedRig(40, 0.7)));
    const motion = wander(source.rig, 90);
    const first = solve(plan, motion);
    solve(plan, wander(source.rig, 90, 9));
    solve(plan, motion, { contacts: { plants: [], floor: 0.3 } });
    const again = solve(plan, motion);
    expect(again.motion).toEqual(first.motion);
    expect(again.plants).toEqual(first.plants);
  });

  test('there and back again is the same motion', () => {
    const other = party(posedRig(40, 0.7, true));
    const motion = wander(source.rig, 30, 5, 60, 0.3);
    const there = retarget(source, motion, other, { plants: false });
    const back = retarget(other, there.motion, source, { plants: false });
    expect(largestError(source.rig, motion, back.motion)).toBeLessThan(2e-3);
  });

  test('overall size does not matter: travel scales with the legs', () => {
    const motion = wander(source.rig, 61);
    const half = party(posedRig(90, 0.5));
    const { motion: result } = retarget(source, motion, half, { plants: false });
    const at = (m: Motion, rig: typeof source.rig): number => new PoseReader(rig, m).at(60).p[2]!;
    expect(at(result, half.rig)).toBeCloseTo(0.5 * at(motion, source.rig), 4);
  });

  test('turning and moving the whole source turns and moves the result', () => {
    const target = party(posedRig(45, 0.8, true));
    const motion = wander(source.rig, 20);
    const q = [0, 0, 0, 1];
    axisAngleQuat(q, 0, 0, 1, 0, 1.1);
    const turned = transformMotion(source.rig, motion, q, 1);
    const a = transformMotion(target.rig, retarget(source, motion, target, { plants: false }).motion, q, 1);
    const b = retarget(source, turned, target, { plants: false }).motion;
    expect(largestError(target.rig, a, b)).toBeLessThan(1e-4);
  });

  test('a motion in a larger space gives the same result', () => {
    const big = party(transformRig(source.rig, [0, 0, 0, 1], 3));
    const target = party(posedRig(45));
    const motion = wander(source.rig, 20);
    const a = retarget(source, motion, target, { plants: false }).motion;
    const b = retarget(big, transformMotion(source.rig, motion, [0, 0, 0, 1], 3), target, { plants: false }).motion;
    expect(largestError(target.rig, a, b)).toBeLessThan(1e-4);
  });

  test('on the spot and along the own path', () => {
    const motion = wander(source.rig, 61);
    const half = party(posedRig(90, 0.5));
    const z = (travel: 'path' | 'none'): number => {
      const reader = new PoseReader(half.rig, retarget(source, motion, half, { plants: false, travel }).motion);
      return reader.at(60).p[2]! - reader.at(0).p[2]!;
    };
    expect(Math.abs(z('none'))).toBeLessThan(0.05);
    expect(z('path')).toBeCloseTo(0.8, 1);
  });

  test('chains of another count share the turn and keep the chest', () => {
    const one = buildRig([
      ['Hips', null, 0, 0.95, 0],
      ['Chest', 'Hips', 0, 1.1, 0],
      ['Head', 'Chest', 0, 1.5, 0],
      ...(['Left', 'Right'] as const).flatMap((s) => {
        const x = s === 'Left' ? 1 : -1;
        return [
          [`${s}Arm`, 'Chest', 0.17 * x, 1.4, 0],
          [`${s}ForeArm`, `${s}Arm`, 0.45 * x, 1.4, 0],
          [`${s}Hand`, `${s}ForeArm`, 0.7 * x, 1.4, 0],
          [`${s}UpLeg`, 'Hips', 0.09 * x, 0.92, 0],
          [`${s}Leg`, `${s}UpLeg`, 0.09 * x, 0.5, 0.01],
          [`${s}Foot`, `${s}Leg`, 0.09 * x, 0.09, -0.01],
          [`${s}Toe`, `${s}Foot`, 0.09 * x, 0.02, 0.13],
        ] as const;
      }),
    ]);
    const motion = wander(source.rig, 20);
    const done = retarget(source, motion, party(one), { plants: false });
    expect(reportOf(done).direction.maxDeg).toBeLessThan(0.02);
    expect(reportOf(done).unmapped.target).toEqual([]);
  });

  test('nothing in common is refused', () => {
    const chain = party(
      buildRig([
        ['x1', null, 0, 0, 0],
        ['x2', 'x1', 0, 1, 0],
      ]),
    );
    expect(() => retarget(source, wander(source.rig, 3), chain)).toThrow(MotionError);
  });
});

/** Steps in place: one foot flat on the ground while the other is lifted, in turn, hips moving a little. */
function stepping(frames = 120, fps = 60): Motion {
  const { rig } = source;
  const n = rig.names.length;
  const turns = new Float32Array(4 * n * frames);
  for (let f = 0; f < frames; f++) {
    for (let j = 0; j < n; j++) turns[4 * (f * n + j) + 3] = 1;
    for (const [side, phase] of [
      ['Left', 0],
      ['Right', 1],
    ] as const) {
      const cycle = (f / fps + phase * 0.5) % 1;
      const lift = cycle < 0.5 ? 0 : Math.sin((cycle - 0.5) * 2 * Math.PI) ** 2 * 0.8;
      for (const [name, angle] of [
        [`${side}UpLeg`, -lift],
        [`${side}Leg`, 2 * lift],
        [`${side}Foot`, -lift],
      ] as const) {
        axisAngleQuat(turns, 4 * (f * n + rig.names.indexOf(name)), 1, 0, 0, angle);
      }
    }
  }
  const places = new Float32Array(3 * frames);
  for (let f = 0; f < frames; f++) places.set([0, rig.restT[1]!, 0], 3 * f);
  return { fps, frameCount: frames, turns, places: [{ joint: 0, values: places }], numbers: [], scales: [], steps: [] };
}

describe('plants', () => {
  const motion = stepping();
  const body = measureBody(source.rig, source.map);

  test('are found for the standing foot only', () => {
    const { plants, floor } = findContacts(soleTracks(source.rig, motion, body), motion.fps, body.leg);
    expect(floor).toBeCloseTo(0, 2);
    const left = plants.filter((p) => p.part === 'heelL');
    // standing twice; a last one may begin as the motion ends
    expect(left.filter((p) => p.start < motion.frameCount - 8).length).toBe(2);
    expect(left[0]!.start).toBe(0);
    expect(left[0]!.end).toBeGreaterThanOrEqual(28);
    expect(left[0]!.end).toBeLessThan(40);
  });

  test.each([
    ['the same body', posedRig(90)],
    ['short legs, other axes', posedRig(45, 0.62, true)],
    ['long legs', posedRig(45, 1.3)],
  ])('are held on %s: no slip, nothing under the floor', (_, rig) => {
    const report = reportOf(retarget(source, motion, party(rig)));
    expect(report.plants.length).toBeGreaterThan(4);
    expect(report.slip.meanPercentLegPerPlantSecond).toBeLessThan(0.5);
    expect(report.slip.maxPercentLeg).toBeLessThan(0.1);
    expect(report.floor.maxDepthCm).toBeLessThan(0.1);
    expect(report.reach.maxCm).toBeLessThan(0.1);
    expect(report.direction.p95Deg).toBeLessThan(8);
  });

  test('hold even where travel would make the feet slide', () => {
    const sliding = {
      ...motion,
      places: [
        {
          joint: 0,
          values: motion.places[0]!.values.map((x, i) => (i % 3 === 2 ? x + 0.0006 * Math.floor(i / 3) : x)),
        },
      ],
    };
    const contacts = findContacts(soleTracks(source.rig, motion, body), motion.fps, body.leg);
    const free = reportOf(retarget(source, sliding, party(posedRig(45)), { plants: false, contacts }));
    const held = reportOf(retarget(source, sliding, party(posedRig(45)), { contacts }));
    expect(free.slip.maxCm === 0 || free.slip.maxCm > 0.5).toBe(true);
    expect(held.slip.maxCm).toBeLessThan(0.01);
  });
});

describe('parts of the solve', () => {
  test('a two-bone limb reaches every goal within reach and bends the way its hinge says', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -0.5, max: 0.5, noNaN: true }),
        fc.double({ min: -0.75, max: -0.2, noNaN: true }),
        fc.double({ min: -0.3, max: 0.4, noNaN: true }),
        (x, y, z) => {
          const p = Float64Array.from([0, 0, 0, 0, -0.45, 0.02, 0, -0.9, 0]);
          const goal = Float64Array.from([x, y, z]);
          const out = newLegTurns();
          solveLeg(out, p, 0, 3, 6, goal, 0, [1, 0, 0]);
          const upper = [0, 0, 0];
          const lower = [0, 0, 0];
          rotate3(upper, 0, out.upper, 0, p, 3);
          rotate3(lower, 0, out.lower, 0, [0, -0.45, -0.02], 0);
          const end = upper.map((v, k) => v + lower[k]!);
          expect(Math.hypot(end[0]! - x, end[1]! - y, end[2]! - z)).toBeCloseTo(out.short, 6);
          expect(out.short).toBeLessThan(Math.max(1e-9, Math.hypot(x, y, z) - 0.899));
        },
      ),
    );
  });

  test('the giving-way course is smooth and never too little', () => {
    const need = Float64Array.from({ length: 100 }, (_, f) => (f === 50 ? 0.1 : f === 70 ? 0.05 : 0));
    const given = envelope(need, 10);
    need.forEach((x, f) => {
      expect(given[f]).toBeGreaterThanOrEqual(x - 1e-12);
    });
    for (let f = 1; f < 100; f++) expect(Math.abs(given[f]! - given[f - 1]!)).toBeLessThan(0.02);
  });
});
