import { axisAngleQuat, mulQuat } from '../math/quat';
import { restMotion } from '../motion/motion';
import { reportOf, retarget } from '../retarget/retarget';
import { compareRigs } from '../rig/compare-rigs';
import { restPose } from '../rig/rig';
import { buildRig, PLAIN, party, posedRig, wander, withOddAxes } from '../test/bodies';
import { borrowTurns, poseOfTurns, straightenAll, straightenLimb, turnsOfFrame, turnsOfPose } from './match-pose';
import { findPairing } from './pairing';
import { proportionsOf } from './proportions';
import { readinessOf } from './readiness';
import { restKind } from './rest-kind';

const rest = (rig: ReturnType<typeof buildRig>): number[] => [...rig.restR];
const level = (rig: ReturnType<typeof buildRig>, turns: readonly number[], a: string, b: string): number => {
  const { p } = poseOfTurns(rig, turns);
  const [i, j] = [rig.names.indexOf(a), rig.names.indexOf(b)];
  return (Math.atan2(p[3 * j + 1]! - p[3 * i + 1]!, Math.abs(p[3 * j]! - p[3 * i]!)) * 180) / Math.PI;
};

describe('a pose for matching', () => {
  test('turns and world pose are two tellings of one thing', () => {
    const rig = withOddAxes(posedRig(30));
    const turns = turnsOfPose(rig, restPose(rig));
    const again = poseOfTurns(rig, turns);
    again.p.forEach((x, i) => expect(x).toBeCloseTo(restPose(rig).p[i]!, 5));
  });

  test.each([
    ['hanging arms', posedRig(15)],
    ['slanting arms, odd axes', posedRig(45, 1, true)],
  ])('straightening brings %s level and leaves the bind pose alone', (_, rig) => {
    const { map } = party(rig);
    const before = [...rig.restR];
    const turns = straightenLimb(rig, map, rest(rig), 'arm', 'L');
    expect(Math.abs(level(rig, turns, 'LeftArm', 'LeftForeArm'))).toBeLessThan(0.1);
    expect(Math.abs(level(rig, turns, 'LeftForeArm', 'LeftHand'))).toBeLessThan(0.1);
    // the other arm hangs on
    expect(level(rig, turns, 'RightArm', 'RightForeArm')).toBeLessThan(-20);
    expect([...rig.restR]).toEqual(before);
  });

  test('a body that is straightened all over rests in T', () => {
    const rig = posedRig(20);
    const { map } = party(rig);
    expect(restKind(restPose(rig), map)).not.toBe('T');
    const turns = straightenAll(rig, map, rest(rig));
    expect(restKind(poseOfTurns(rig, turns), map)).toBe('T');
  });

  test('wrong arms come right once the pose says how they stand', () => {
    // a rig whose file was saved with one arm raised: its bones say nothing about where level is
    const rig = posedRig(45);
    const target = party(rig);
    const bent = rest(rig);
    const j = rig.names.indexOf('LeftForeArm');
    const q = [0, 0, 0, 1];
    axisAngleQuat(q, 0, 0, 1, 0, 0.9);
    mulQuat(bent, 4 * j, q, 0, bent, 4 * j);
    const source = party(posedRig(90));
    const motion = wander(source.rig, 20);
    const posed = { ...target, pose: poseOfTurns(rig, bent) };
    // matched from the bent pose and measured against it, limbs point as the source's do
    expect(reportOf(retarget(source, motion, posed, { plants: false })).direction.meanDeg).toBeLessThan(0.01);
    // and the result differs from the one matched from the bind pose
    const a = retarget(source, motion, posed, { plants: false }).motion.turns;
    const b = retarget(source, motion, target, { plants: false }).motion.turns;
    expect(a.some((x, i) => Math.abs(x - b[i]!) > 0.05)).toBe(true);
  });

  test('a source at rest gives a target at rest, with a pose for matching too', () => {
    const rig = posedRig(45);
    const target = { ...party(rig), pose: poseOfTurns(rig, straightenAll(rig, party(rig).map, rest(rig))) };
    const source = party(posedRig(90));
    const { motion } = retarget(source, restMotion(source.rig), target, { plants: false });
    expect(
      Math.abs(level(rig, [...motion.turns.subarray(0, 4 * rig.names.length)], 'LeftArm', 'LeftHand')),
    ).toBeLessThan(0.1);
  });

  test('a frame of a motion can be the pose', () => {
    const rig = posedRig(60);
    const motion = wander(rig, 12);
    const turns = turnsOfFrame(rig, motion, 7);
    const n = 4 * rig.names.length;
    turns.forEach((x, i) => expect(Math.abs(Math.abs(x) - Math.abs(motion.turns[7 * n + i]!))).toBeLessThan(1e-5));
    expect(turnsOfFrame(rig, motion, 900)).toEqual(turnsOfFrame(rig, motion, 11));
  });

  test('a like rig’s pose is borrowed whatever its joint axes, and what is missing is named', () => {
    const from = withOddAxes(posedRig(45));
    const turns = straightenAll(from, party(from).map, rest(from));
    const rig = buildRig(
      [...PLAIN, ['Antenna', 'Head', 0, 1.8, 0]].map((j) => j as never),
      (n) => n,
    );
    const hanging = posedRig(45);
    const own = borrowTurns(hanging, from, turns);
    expect(own.missing).toEqual([]);
    expect(Math.abs(level(hanging, own.turns, 'LeftArm', 'LeftHand'))).toBeLessThan(0.5);
    expect(borrowTurns(rig, from, turns).missing).toEqual(['Antenna']);
  });
});

describe('two skeletons compared', () => {
  test('a rig is the same as itself', () => {
    expect(compareRigs(posedRig(45), posedRig(45)).same).toBe(true);
  });

  test('tells what came, went, hangs elsewhere, moved and turned', () => {
    const spec = PLAIN.filter(([name]) => name !== 'LeftToe').map(([name, parent, x, y, z]) => [
      name,
      name === 'RightShoulder' ? 'Neck' : parent,
      name === 'Spine' ? x + 0.05 : x,
      y,
      z,
    ]);
    const after = buildRig([...spec, ['Cap', 'Head', 0, 1.8, 0]] as never);
    const found = compareRigs(buildRig(), after);
    expect(found.added).toEqual(['Cap']);
    expect(found.removed).toEqual(['LeftToe']);
    expect(found.reparented).toEqual([{ joint: 'RightShoulder', from: 'Chest', to: 'Neck' }]);
    expect(found.moved.map((m) => m.joint)).toContain('Spine');
    expect(found.turned).toEqual([]);
    expect(found.same).toBe(false);
    expect(compareRigs(buildRig(), withOddAxes(buildRig())).turned.length).toBeGreaterThan(10);
  });
});

describe('proportions', () => {
  test('are told against the common body, whatever the size', () => {
    const of = (scale: number) => {
      const rig = posedRig(90, scale);
      return proportionsOf(rig, party(rig).map, 1.75 * scale);
    };
    const [one, half] = [of(1), of(0.5)];
    expect(one.map((p) => p.name)).toContain('forearm');
    one.forEach((p, i) => expect(p.ratio).toBeCloseTo(half[i]!.ratio, 4));
    expect(one.find((p) => p.name === 'forearm')!.metres).toBeCloseTo(0.25, 3);
    for (const p of one) expect([p.name, p.ratio > 0.6 && p.ratio < 1.5]).toEqual([p.name, true]);
  });

  test('parts that are not mapped are left out instead of guessed', () => {
    const rig = buildRig(PLAIN.filter(([name]) => !/Arm|Hand|Shoulder/.test(name)) as never);
    const names = proportionsOf(rig, party(rig).map, 1.75).map((p) => p.name);
    expect(names).not.toContain('forearm');
    expect(names).toContain('thigh');
  });
});

describe('readiness', () => {
  const ready = (rig: ReturnType<typeof buildRig>, posed = false) => {
    const { map } = party(rig);
    return readinessOf(rig, map, findPairing(rig, map), restKind(restPose(rig), map), posed);
  };

  test('an ordinary body can hold its feet and be mirrored', () => {
    const texts = ready(buildRig())
      .filter((r) => r.state === 'fine')
      .map((r) => r.text);
    expect(texts).toEqual(expect.arrayContaining(['Feet can be held', 'It can be mirrored', 'Rests in T']));
  });

  test('a body without legs, without a neck, or with one short arm says so', () => {
    const legless = ready(buildRig(PLAIN.filter(([n]) => !/UpLeg|Leg|Foot|Toe/.test(n)) as never));
    expect(legless[0]).toMatchObject({ state: 'stops', text: 'Feet cannot be held' });
    const short = PLAIN.map(([n, p, x, y, z]) => (n === 'LeftForeArm' ? [n, p, 0.38, y, z] : [n, p, x, y, z]));
    expect(ready(buildRig(short as never)).find((r) => r.text === 'Left and right differ')!.why).toMatch(
      /upper arms by \d+ %/,
    );
  });

  test('the worst stands first, and every line says why', () => {
    const list = ready(buildRig(PLAIN.filter(([n]) => !/^Right/.test(n)) as never));
    const rank = list.map((r) => ({ stops: 0, limits: 1, fine: 2 })[r.state]);
    expect(rank).toEqual([...rank].sort((a, b) => a - b));
    for (const r of list) expect(r.why.length).toBeGreaterThan(8);
  });
});
