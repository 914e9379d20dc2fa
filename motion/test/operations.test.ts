import {
  closeLoop,
  correct,
  guessBodyMap,
  keepLimits,
  type Motion,
  makeStrip,
  measureBody,
  mirror,
  type Party,
  packMotion,
  poseFeatures,
  proofOn,
  readFacts,
  reportOf,
  retarget,
  scoreReport,
  seamOf,
  sketchFit,
  suggestWords,
  type TuneStep,
  toRootJoint,
  tune,
  unpackMotion,
} from '../index';
import { layAgain } from '../join/lay-again';
import { party, posedRig } from './bodies';
import {
  apart,
  boneChange,
  type Case,
  fourLegged,
  helperJoints,
  inPlace,
  legsAndSpineAreSiblings,
  underRoot,
  walking,
  zUpArmature,
} from './variants';
import { wildBody } from './wild';

// Every operation over every tree that carries the same body: what it does to the body must not depend on what hangs above
// or beside it.

const plain = walking();
const TREES: readonly [string, (c: Case) => Case][] = [
  ['a root above the hips', underRoot],
  ['an armature with Z up', zUpArmature],
  ['legs and spine side by side', legsAndSpineAreSiblings],
  ['helpers above the thighs', helperJoints],
];
const who = ({ rig }: Case): Party => ({ rig, map: guessBodyMap(rig) });

const STEPS: readonly TuneStep[] = [
  { op: 'energy', amount: 1.4 },
  { op: 'arms', degrees: 10 },
  { op: 'stance', scale: 1.3 },
  { op: 'stride', scale: 0.8 },
  { op: 'lean', forward: 8, left: 3 },
  { op: 'speed', speed: 1.25 },
  { op: 'trim', start: 10, end: 100 },
  { op: 'hold', before: 5, after: 5 },
  { op: 'reverse' },
  { op: 'resample', fps: 48 },
  { op: 'despike' },
  { op: 'smooth', cutoffHz: 8 },
  { op: 'fillGaps' },
  { op: 'inPlace' },
  { op: 'floor' },
  { op: 'place', at: [1, -2], heading: 40 },
  { op: 'mirror' },
];
const OTHERS: readonly [string, (p: Party, m: Motion) => Motion][] = [
  ['mirror in x = 0', (p, m) => mirror(p.rig, p.map, m, { plane: 'world' })],
  ['left onto right', (p, m) => mirror(p.rig, p.map, m, { mode: 'leftToRight' })],
  ['closing a loop', (p, m) => closeLoop(p, m)],
  ['limits', (p, m) => keepLimits(p, m)],
  [
    'handles',
    (p, m) =>
      correct(p, m, [
        { handle: 'hips', keys: [{ frame: 30, move: [0.05, -0.05, 0] }] },
        {
          handle: 'handL',
          keys: [
            { frame: 0, move: [0, 0, 0] },
            { frame: 60, move: [0.1, 0.1, 0.1] },
          ],
        },
        { handle: 'footR', keys: [{ frame: 60, move: [0, 0.05, 0] }] },
      ]),
  ],
  ['onto itself', (p, m) => retarget(p, m, p).motion],
  ['over and over', (p, m) => layAgain(p, m, 4)],
  ['packing', (p, m) => unpackMotion(packMotion(p.rig, m))],
];
const OPERATIONS: readonly [string, (p: Party, m: Motion) => Motion][] = [
  ...STEPS.map((step): [string, (p: Party, m: Motion) => Motion] => [step.op, (p, m) => tune(p, m, [step])]),
  ...OTHERS,
];

describe.each(TREES)('%s', (_, build) => {
  const other = build(plain);

  test('the body is the same one', () => {
    expect(apart(plain, other)).toBeLessThan(1e-5);
    expect(measureBody(other.rig, guessBodyMap(other.rig)).leg).toBeCloseTo(
      measureBody(plain.rig, guessBodyMap(plain.rig)).leg,
      5,
    );
  });

  test.each(OPERATIONS)('%s does to it what it does to the plain body', (name, run) => {
    const a = { rig: plain.rig, motion: run(who(plain), plain.motion) };
    const b = { rig: other.rig, motion: run(who(other), other.motion) };
    expect([name, apart(a, b)]).toEqual([name, expect.toBeWithin(0, name === 'packing' ? 1.2e-3 : 4e-3)]);
    expect(boneChange(b)).toBeLessThan(1e-3);
  });

  test('onto it and from it a motion is carried as onto and from the plain body', () => {
    const tall = party(posedRig(50, 1.2, true));
    const from = [plain, other].map((c) => ({ rig: tall.rig, motion: retarget(who(c), c.motion, tall).motion }));
    expect(apart(from[0]!, from[1]!)).toBeLessThan(4e-3);
    const back = retarget(who(plain), plain.motion, tall).motion;
    const onto = [plain, other].map((c) => ({ rig: c.rig, motion: retarget(tall, back, who(c)).motion }));
    expect(apart(onto[0]!, onto[1]!)).toBeLessThan(4e-3);
  });

  test('what is read off it is the same', () => {
    const [a, b] = [plain, other].map((c) => {
      const p = who(c);
      const strip = makeStrip(c.rig, p.map, c.motion, [], 0);
      const { plants, ...facts } = readFacts(c.rig, p.map, c.motion) as unknown as Record<string, unknown>;
      return {
        places: [...strip.places],
        words: suggestWords(p, c.motion).words.map((w) => w.word),
        features: [...poseFeatures(p, c.motion, 0, 6, measureBody(c.rig, p.map)).values],
        travel: facts.travelM,
        moments: sketchFit(p, c.motion).plants?.length,
        plants: JSON.stringify(plants),
      };
    }) as unknown as [Record<string, unknown>, Record<string, unknown>];
    for (const key of ['places', 'features'] as const)
      (a[key] as number[]).forEach((x, i) => {
        expect([key, i, Math.abs(x - (b[key] as number[])[i]!) < 0.01]).toEqual([key, i, true]);
      });
    for (const key of ['words', 'travel', 'moments', 'plants']) expect([key, b[key]]).toEqual([key, a[key]]);
  });

  test('a root that is made carries the way, whatever was there', () => {
    const p = who(other);
    const rooted = toRootJoint(p, other.motion);
    // the root itself goes along; the body stays where it was
    const rig = { ...rooted.rig, names: rooted.rig.names.map((n, j) => (j === rooted.root ? 'the new root' : n)) };
    expect(apart({ rig, motion: rooted.motion }, other)).toBeLessThan(1e-4);
  });
});

test('a motion that stays in place needs no track of places', () => {
  const none = inPlace(plain);
  const values = Float32Array.from({ length: 3 * 120 }, (_, i) => plain.rig.restT[i % 3]!);
  const told: Case = { rig: plain.rig, motion: { ...plain.motion, places: [{ joint: 0, values }] } };
  for (const [name, run] of OPERATIONS) {
    const [a, b] = [none, told].map((c) => ({ rig: c.rig, motion: run(who(c), c.motion) })) as [Case, Case];
    expect([name, apart(a, b)]).toEqual([name, expect.toBeWithin(0, 1e-3)]);
  }
});

test('a loop under a root closes where the plain one does, and the root stays where it stood', () => {
  const other = underRoot(plain);
  const closed = closeLoop(who(other), other.motion);
  expect(seamOf(who(other), closed).angleDeg).toBeLessThan(0.1);
  const root = closed.places.find((t) => t.joint === 0);
  expect(root?.values.every((x) => Math.abs(x) < 1e-6) ?? true).toBe(true);
});

describe('bodies of every build', () => {
  const tall = party(posedRig(60, 1.1));
  const seeds = [3, 8, 21, 34, 55, 89, 144, 233];

  test.each(seeds)('wild body %i takes a walk and gives it back whole', (seed) => {
    const { rig } = wildBody(seed, { scale: 1 });
    const p = party(rig);
    const done = retarget(who(plain), plain.motion, p);
    const report = reportOf(done);
    expect(boneChange({ rig, motion: done.motion })).toBeLessThan(2e-3);
    expect([seed, report.body.trunkDeg < 12, report.body.apartPercent < 3]).toEqual([seed, true, true]);
    expect([seed, report.slip.meanPercentLegPerPlantSecond < 0.1]).toEqual([seed, true]);
    expect([seed, report.direction.meanDeg < 3]).toEqual([seed, true]);
    const back = reportOf(retarget(p, done.motion, tall));
    expect([seed, back.body.trunkDeg < 12, scoreReport(back) > 60]).toEqual([seed, true, true]);
    // the proof movement moves every limb that is mapped
    expect(proofOn(p).steps.length).toBeGreaterThan(3);
  });

  test('tiny and huge bodies stand as any other does', () => {
    for (const scale of [0.08, 12]) {
      const p = party(posedRig(90, scale));
      const report = reportOf(retarget(who(plain), plain.motion, p));
      expect([scale, report.slip.maxPercentLeg < 0.3, report.direction.meanDeg < 3]).toEqual([scale, true, true]);
    }
  });

  test('a motion on two legs is carried onto four, and that is said', () => {
    const p = party(fourLegged());
    const report = reportOf(retarget(who(plain), plain.motion, p));
    expect(report.troubles.some((t) => t.kind === 'stance' && t.text.includes('four legs'))).toBe(true);
    expect(report.body.apartPercent).toBeLessThan(3);
  });
});

declare global {
  namespace jest {
    interface Expect {
      toBeWithin(low: number, high: number): number;
    }
  }
}
expect.extend({
  toBeWithin: (x: number, low: number, high: number) => ({
    pass: x >= low && x <= high,
    message: () => `${x} lies outside ${low} to ${high}`,
  }),
});
