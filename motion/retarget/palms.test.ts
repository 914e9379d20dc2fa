import { sharpestBend } from '../analysis/steadiness';
import { type Contacts, type Motion, measureCrossings, type Party, PoseReader, planRetarget, retarget } from '../index';
import { party, posedRig, standing } from '../test/bodies';
import { reachHands } from './arms';

const source = party(posedRig(90));
const joint = (name: string): number => source.rig.names.indexOf(name);
const places = (of: Party, m: Motion, name: string): Float64Array[] => {
  const reader = new PoseReader(of.rig, m);
  return Array.from({ length: m.frameCount }, (_, f) => reader.at(f).p.slice(3 * joint(name), 3 * joint(name) + 3));
};
const apart = (a: ArrayLike<number>, b: ArrayLike<number>): number =>
  Math.hypot(...[0, 1, 2].map((k) => a[k]! - b[k]!));

describe('an elbow over a hand that is held', () => {
  const plan = planRetarget(source, source);
  const FRAMES = 60;
  // level arms; the body jumps by 8 mm towards the hand in one frame
  const still = standing(source.rig, 0.95, FRAMES, () => {});
  const jumps: Motion = {
    ...still,
    places: [{ joint: 0, values: still.places[0]!.values.map((x, i) => x + (i === 3 * 30 ? 0.008 : 0)) }],
  };
  const spot = [0.682, 1.37, 0.02];
  const goal = {
    side: 'L' as const,
    at: Float64Array.from({ length: 3 * FRAMES }, (_, i) => spot[i % 3]!),
    weight: new Float32Array(FRAMES).fill(1),
    gives: true,
  };
  const held = reachHands(plan, jumps, [goal]).motion;
  const sharp = sharpestBend(source, held, 'forearm')!;
  const eased = reachHands(plan, jumps, [goal], sharp / 5).motion;

  test('bends no more sharply than is allowed', () => {
    expect(sharpestBend(source, eased, 'forearm')!).toBeLessThan(sharp / 4.9);
  });

  test('but where the hand has to be exact', () => {
    const exact = reachHands(plan, jumps, [{ ...goal, gives: false }], sharp / 5).motion;
    expect(exact.turns).toEqual(held.turns);
  });

  test('for which the wrist gives way by little, about then alone', () => {
    const away = places(source, eased, 'LeftHand').map((p, f) => apart(p, places(source, held, 'LeftHand')[f]!));
    expect(Math.max(...away)).toBeLessThan(0.009);
    away.forEach((x, f) => {
      if (Math.abs(f - 30) > 12) expect(x).toBeLessThan(1e-5);
    });
  });
});

test('knees and elbows are told apart, and a pose for calibration in the first frame is not counted', () => {
  const bend = (angle: number): number[] => [Math.sin(angle / 2), 0, 0, Math.cos(angle / 2)];
  const motion = standing(source.rig, 0.95, 40, (f, set) => {
    set('LeftLeg', bend(f === 20 ? 0.01 : 0));
    set('RightForeArm', [0, Math.sin(f === 20 ? 0.05 : 0), 0, Math.cos(f === 20 ? 0.05 : 0)]);
    if (f === 0) set('LeftLeg', bend(1.5));
  });
  expect(sharpestBend(source, motion, 'shin')).toBeCloseTo(0.02, 2);
  expect(sharpestBend(source, motion, 'forearm')).toBeCloseTo(0.2, 2);
});

describe('palms on the ground beside a broad trunk', () => {
  // sitting, legs ahead, arms down beside the trunk
  const sits = standing(source.rig, 0.14, 60, (_, set) => {
    for (const [side, s] of [
      ['Left', -1],
      ['Right', 1],
    ] as const) {
      set(`${side}UpLeg`, [-Math.SQRT1_2, 0, 0, Math.SQRT1_2]);
      set(`${side}Arm`, [0, 0, Math.sin(s * 0.72), Math.cos(0.72)]);
    }
  });
  const broad: Party = { ...party(posedRig(45, 1)), radii: { trunk: 0.25, forearmL: 0.05, forearmR: 0.05 } };
  const span = { start: 5, end: 54 };
  const contacts: Contacts = {
    floor: 0,
    plants: (['handL', 'handR', 'heelL', 'heelR'] as const).map((part) => ({ part, ...span })),
  };
  const [through, kept] = [false, true].map((clear) => retarget(source, sits, broad, { contacts, clear }).motion);
  const deepest = (m: Motion): number =>
    Math.max(
      0,
      ...measureCrossings(source, sits, broad, m, {}, broad.radii)
        .crossings.filter((c) => c.parts.includes('trunk'))
        .map((c) => c.depth),
    );

  test('rest farther out than they were carried to', () => {
    expect(deepest(through!)).toBeGreaterThan(0.02);
    expect(deepest(kept!)).toBeLessThan(0.5 * deepest(through!));
    const [was, is] = [through!, kept!].map((m) => places(broad, m, 'LeftHand')[30]!);
    expect(is![0]! - was![0]!).toBeGreaterThan(0.01);
  });

  test('stay on one spot, and leave their height by no more than a straight arm lacks', () => {
    const at = places(broad, kept!, 'LeftHand');
    for (let f = span.start; f <= span.end; f++) {
      expect(Math.hypot(at[f]![0]! - at[30]![0]!, at[f]![2]! - at[30]![2]!)).toBeLessThan(0.004);
      expect(Math.abs(at[f]![1]! - places(broad, through!, 'LeftHand')[f]![1]!)).toBeLessThan(0.02);
    }
  });
});
