import {
  type Contacts,
  type Motion,
  measureCrossings,
  type Party,
  PoseReader,
  planRetarget,
  type Radii,
  retarget,
} from '../index';
import { party, posedRig, standing } from '../test/bodies';
import { passLegs } from './legs-clear';

const source = party(posedRig(90));
const stout: Radii = { shinL: 0.075, shinR: 0.075 };
const target: Party = { ...party(posedRig(45, 0.9)), radii: stout };
const joint = (name: string): number => source.rig.names.indexOf(name);

/** On the left foot; the right one is lifted, swings in past the other shin and out again. */
const motion = standing(source.rig, 0.93, 90, (f, set) => {
  const u = f < 20 || f > 70 ? 0 : 0.5 - 0.5 * Math.cos((2 * Math.PI * (f - 20)) / 50);
  const inward = 0.11 * u;
  const [c, s] = [Math.cos(inward / 2), Math.sin(inward / 2)];
  const lift = 0.35 * u;
  // inward after forward
  set('RightUpLeg', [-c * Math.sin(lift / 2), -s * Math.sin(lift / 2), s * Math.cos(lift / 2), c * Math.cos(lift / 2)]);
  set('RightLeg', [Math.sin(lift), 0, 0, Math.cos(lift)]);
});
const contacts: Contacts = {
  floor: 0,
  plants: (['heel', 'ball'] as const).flatMap((point) => [
    { part: `${point}L` as const, start: 0, end: 89 },
    { part: `${point}R` as const, start: 0, end: 18 },
    { part: `${point}R` as const, start: 72, end: 89 },
  ]),
};
const shins = (from: Party, result: Motion): number =>
  measureCrossings(from, motion, target, result, from.radii, stout).crossings.find(
    (c) => c.parts.join() === 'shinL,shinR',
  )?.depth ?? 0;
const places = (m: Motion, name: string): Float64Array[] => {
  const reader = new PoseReader(target.rig, m);
  return Array.from({ length: m.frameCount }, (_, f) => reader.at(f).p.slice(3 * joint(name), 3 * joint(name) + 3));
};
const apart = (a: Float64Array, b: Float64Array): number => Math.hypot(...a.map((x, k) => x - b[k]!));

const through = retarget(source, motion, target, { contacts, clear: false }).motion;
const passed = retarget(source, motion, target, { contacts }).motion;

test('a swinging leg passes beside the one it would run into', () => {
  expect(shins(source, through)).toBeGreaterThan(0.02);
  expect(shins(source, passed)).toBeLessThan(0.01);
});

test('feet that are held stay, and the one that swings comes back before it stands', () => {
  const [stood, stands] = [places(through, 'LeftFoot'), places(passed, 'LeftFoot')];
  for (let f = 0; f < motion.frameCount; f++) expect(apart(stood[f]!, stands[f]!)).toBeLessThan(1e-4);
  const [swung, swings] = [places(through, 'RightFoot'), places(passed, 'RightFoot')];
  const aside = swung.map((at, f) => apart(at, swings[f]!));
  for (let f = 0; f < motion.frameCount; f++) if (f <= 18 || f >= 72) expect(aside[f]).toBeLessThan(1e-4);
  expect(Math.max(...aside)).toBeGreaterThan(0.01);
  // sideways only: what it clears of the ground is the planner's
  for (let f = 0; f < motion.frameCount; f++) expect(Math.abs(swung[f]![1]! - swings[f]![1]!)).toBeLessThan(1e-3);
});

test('it goes and comes back without a jerk', () => {
  const sharpest = (m: Motion): number => {
    const at = places(m, 'RightFoot');
    let worst = 0;
    for (let f = 1; f + 1 < at.length; f++)
      worst = Math.max(worst, Math.hypot(...[0, 1, 2].map((k) => at[f + 1]![k]! - 2 * at[f]![k]! + at[f - 1]![k]!)));
    return worst;
  };
  expect(sharpest(passed)).toBeLessThan(sharpest(through) + 0.001);
});

test('what the source does too is left alone, and so is a slim body', () => {
  const alike: Party = { ...source, radii: { shinL: 0.1, shinR: 0.1 } };
  expect(retarget(alike, motion, target, { contacts }).motion.turns).toEqual(through.turns);
  const slim: Party = { ...target, radii: { shinL: 0.02, shinR: 0.02 } };
  expect(retarget(source, motion, slim, { contacts }).motion.turns).toEqual(through.turns);
});

test('a leg whose knee is held stays where it is', () => {
  const plan = planRetarget(source, target);
  // both shins upright, 8 cm apart
  const shin = (x: number) => Float64Array.from({ length: 6 * 90 }, (_, i) => [x, 0.45, 0, x, 0.08, 0][i % 6]!);
  const goals = (kneeling: readonly (Float32Array | undefined)[]): [boolean, number, number] => {
    const plans = [0.04, -0.04].map((x) => ({
      goal: Float64Array.from({ length: 3 * 90 }, (_, i) => [x, 0.08, 0][i % 3]!),
      held: new Uint8Array(90),
    }));
    const any = passLegs(plan, motion, [shin(0.04), shin(-0.04)], plans, kneeling) > 0;
    return [any, plans[0]!.goal[3 * 45]!, plans[1]!.goal[3 * 45]!];
  };
  const both = goals([]);
  expect([both[0], both[1] > 0.05, both[2] < -0.05]).toEqual([true, true, true]);
  const one = goals([undefined, new Float32Array(90).fill(1)]);
  expect([one[0], one[1] > both[1], one[2]]).toEqual([true, true, -0.04]);
  const knees = [new Float32Array(90).fill(0.2), new Float32Array(90).fill(1)];
  expect(goals(knees)).toEqual([false, 0.04, -0.04]);
});
