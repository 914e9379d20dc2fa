import { standIn } from '../body/stand-in';
import { jointOf, SIDES } from '../bodymap/slots';
import { PoseReader } from '../motion/motion';
import { buildRig, PLAIN, party, posedRig } from '../test/bodies';
import { proofOn } from './proof';

/** Most that a joint's place goes along an axis while a step lasts, from where it begins, metres. */
function goes(
  who: ReturnType<typeof party>,
  slot: string,
  step: string,
  axis: 0 | 1 | 2,
): { up: number; down: number } {
  const { motion, steps } = proofOn(who);
  const i = steps.findIndex((s) => s.text.startsWith(step));
  const reader = new PoseReader(who.rig, motion);
  const at = (f: number): number => reader.at(f).p[3 * jointOf(who.map, slot) + axis]!;
  const first = at(steps[i]!.start);
  const end = steps[i + 1]?.start ?? motion.frameCount;
  const way = Array.from({ length: end - steps[i]!.start }, (_, k) => at(steps[i]!.start + k) - first);
  return { up: Math.max(...way), down: -Math.min(...way) };
}
const BODIES = [
  ['a stand-in', party(standIn('A'))],
  ['arms that slant', party(posedRig(45))],
  ['arms level', party(posedRig(90))],
] as const;

test.each(BODIES)('%s: the part that is named moves, its way, and the other side does not', (_, who) => {
  expect(goes(who, 'handL', 'the left arm', 1).up).toBeGreaterThan(0.3);
  expect(goes(who, 'handR', 'the left arm', 1).up).toBeLessThan(0.02);
  expect(goes(who, 'handR', 'the right arm', 1).up).toBeGreaterThan(0.3);
  // the knee comes up in front
  expect(goes(who, 'shinL', 'the left knee', 1).up).toBeGreaterThan(0.15);
  expect(goes(who, 'shinL', 'the left knee', 2).up).toBeGreaterThan(0.2);
  expect(goes(who, 'footR', 'the left knee', 1).up).toBeLessThan(0.02);
  expect(goes(who, 'head', 'the trunk bends', 2).up).toBeGreaterThan(0.15);
  // to the left, then to the right
  const look = goes(who, 'handL', 'the trunk turns', 2);
  expect(Math.min(look.up, look.down)).toBeGreaterThan(0.01);
});

test.each(SIDES)('fingers close into the palm, the thumb across it, %s', (side) => {
  const who = party(standIn('T'));
  const { motion, steps } = proofOn(who);
  const i = steps.findIndex((s) => s.text.startsWith('the fingers close'));
  const reader = new PoseReader(who.rig, motion);
  const apart = (f: number, a: string, b: string): number => {
    const { p } = reader.at(f);
    const [x, y] = [a, b].map((slot) => 3 * jointOf(who.map, slot + side));
    return Math.hypot(...[0, 1, 2].map((k) => p[x! + k]! - p[y! + k]!));
  };
  const [open, closed] = [steps[i]!.start, Math.round((steps[i]!.start + steps[i + 1]!.start) / 2)];
  for (const [finger, to] of [
    ['index3', 'hand'],
    ['pinky3', 'hand'],
    ['thumb3', 'pinky1'],
  ] as const)
    expect(apart(closed, finger, to)).toBeLessThan(0.9 * apart(open, finger, to));
});

test('it begins and ends in one pose and is smooth', () => {
  const who = party(posedRig(45));
  const { motion } = proofOn(who);
  const n = 4 * who.rig.names.length;
  const last = n * (motion.frameCount - 1);
  for (let k = 0; k < n; k++) expect(motion.turns[last + k]).toBeCloseTo(motion.turns[k]!, 4);
  let most = 0;
  for (let i = n; i < motion.turns.length; i++)
    most = Math.max(most, Math.abs(motion.turns[i]! - motion.turns[i - n]!));
  expect(most).toBeLessThan(0.2);
});

test('a part that has no joint is named', () => {
  const armless = party(buildRig(PLAIN.filter(([name]) => !/Left(Arm|ForeArm|Hand)/.test(name))));
  const missing = proofOn(armless).steps.filter((s) => s.missing.length > 0);
  expect(missing.map((s) => s.text)).toEqual(
    expect.arrayContaining(['the left arm rises, elbow and wrist bend', 'the fingers close']),
  );
});
