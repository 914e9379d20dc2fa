import { capsulesByName } from '../body/capsules';
import {
  type Motion,
  measureCrossings,
  type Party,
  PoseReader,
  type Radii,
  reportOf,
  restMotion,
  retarget,
} from '../index';
import { angleBetweenQuats } from '../math/quat';
import { party, posedRig, standing } from '../test/bodies';

const source = party(posedRig(90));
const broad: Radii = { trunk: 0.22, forearmL: 0.05, forearmR: 0.05, thighL: 0.08, thighR: 0.08 };
const target: Party = { ...party(posedRig(45, 0.9)), radii: broad };
const joint = (name: string): number => source.rig.names.indexOf(name);

/** Level arms go down to the sides and up again, elbows a little bent. */
const motion = standing(source.rig, 0.95, 120, (f, set) => {
  const down = 0.25 * Math.PI * (1 - Math.cos((2 * Math.PI * f) / 119));
  for (const [side, s] of [
    ['Left', -1],
    ['Right', 1],
  ] as const) {
    set(`${side}Arm`, [0, 0, Math.sin((s * down) / 2), Math.cos(down / 2)]);
    set(`${side}ForeArm`, [0, Math.sin((s * 0.4) / 2), 0, Math.cos(0.2)]);
  }
});
const deepest = (from: Party, to: Party, result: Motion): number =>
  measureCrossings(from, motion, to, result, from.radii, to.radii).crossings[0]?.depth ?? 0;
const world = (side: Party, m: Motion, f: number): Float64Array => new PoseReader(side.rig, m).at(f).r.slice();
const through = retarget(source, motion, target, { clear: false }).motion;
const kept = retarget(source, motion, target).motion;

test('arms that would run into a broad body stay out of it', () => {
  expect(deepest(source, target, through)).toBeGreaterThan(0.05);
  expect(deepest(source, target, kept)).toBeLessThan(0.01);
  const sides = measureCrossings(source, motion, target, kept, {}, broad).lane;
  expect(Math.max(...sides)).toBeLessThan(0.01);
});

test('hands keep their turn, and arms that are clear of the body theirs', () => {
  for (let f = 0; f < motion.frameCount; f += 7) {
    const [a, b] = [world(target, through, f), world(target, kept, f)];
    for (const side of ['Left', 'Right']) {
      expect(angleBetweenQuats(a, 4 * joint(`${side}Hand`), b, 4 * joint(`${side}Hand`))).toBeLessThan(1e-3);
      const moved = angleBetweenQuats(a, 4 * joint(`${side}Arm`), b, 4 * joint(`${side}Arm`));
      if (f < 20 || f > 100) expect(moved).toBeLessThan(1e-6);
      if (f === 56) expect(moved).toBeGreaterThan(0.05);
    }
  }
});

test('it comes and goes without a jerk', () => {
  const sharpest = (m: Motion): number => {
    let worst = 0;
    const j = 4 * joint('LeftArm');
    const n = 4 * source.rig.names.length;
    const step = (f: number): number => angleBetweenQuats(m.turns, n * f + j, m.turns, n * (f - 1) + j);
    for (let f = 2; f < m.frameCount; f++) worst = Math.max(worst, Math.abs(step(f) - step(f - 1)));
    return worst;
  };
  expect(sharpest(kept)).toBeLessThan(sharpest(through) + 0.012);
});

test('what the source does too is left alone', () => {
  const alike: Party = { ...source, radii: { ...broad, trunk: 0.28, thighL: 0.1, thighR: 0.1 } };
  expect(deepest(alike, target, retarget(alike, motion, target).motion)).toBeLessThan(0.01);
  expect(retarget(alike, motion, target).motion.turns).toEqual(through.turns);
});

test('what a body does as it stands is left alone', () => {
  // arms that hang in a trunk as broad as the shoulders
  const hanging: Party = { ...party(posedRig(5, 0.9)), radii: { ...broad, trunk: 0.34 } };
  const rest = deepest(source, hanging, restMotion(hanging.rig));
  expect(rest).toBe(0);
  const done = retarget(
    source,
    standing(source.rig, 0.95, 30, (_, set) => {
      set('LeftArm', [0, 0, -Math.sin(0.74), Math.cos(0.74)]);
      set('RightArm', [0, 0, Math.sin(0.74), Math.cos(0.74)]);
    }),
    hanging,
  );
  expect(reportOf(done).direction.maxDeg).toBeLessThan(1);
});

test('where no skin tells, a trunk lies between the shoulders and thighs beside each other', () => {
  const guessed = capsulesByName(party(posedRig(90)));
  expect(guessed.get('trunk')!.radius).toBeLessThan(0.17);
  expect(guessed.get('thighL')!.radius).toBeCloseTo(0.7 * 0.09, 3);
  expect(guessed.get('shinL')!.radius).toBeCloseTo(0.13 * 0.41, 2);
});

test('where nothing is held nothing is turned; asked for, it is', () => {
  const bare = retarget(source, motion, target, { plants: false }).motion;
  expect(deepest(source, target, bare)).toBeGreaterThan(0.05);
  expect(deepest(source, target, retarget(source, motion, target, { plants: false, clear: true }).motion)).toBeLessThan(
    0.01,
  );
});

test('what a hand has to reach goes before', () => {
  const point = [0.35, 1, 0.25] as const;
  const done = retarget(source, motion, target, {
    hands: [{ hand: 'L', keep: 'point', point: [...point], weight: 1 }],
  });
  const { p } = new PoseReader(target.rig, done.motion).at(60);
  const at = p.subarray(3 * joint('LeftHand'), 3 * joint('LeftHand') + 3);
  expect(Math.hypot(...point.map((x, k) => x - at[k]!))).toBeLessThan(0.002);
});
