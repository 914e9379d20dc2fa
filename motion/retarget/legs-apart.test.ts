import { type Contacts, type Motion, measureCrossings, type Party, PoseReader, type Radii, retarget } from '../index';
import { mulQuat, rotate3 } from '../math/quat';
import { party, posedRig, standing } from '../test/bodies';

const source = party(posedRig(90));
const joint = (name: string): number => source.rig.names.indexOf(name);
const FRAMES = 90;
const turnAbout = (axis: 0 | 1 | 2, angle: number): [number, number, number, number] => {
  const q: [number, number, number, number] = [0, 0, 0, Math.cos(angle / 2)];
  q[axis] = Math.sin(angle / 2);
  return q;
};
/** Two turns after one another, the second in the parent's frame. */
const both = (first: number[], second: number[]): [number, number, number, number] => {
  const q: [number, number, number, number] = [0, 0, 0, 1];
  mulQuat(q, 0, second, 0, first, 0);
  return q;
};
const feet = ['heelL', 'ballL', 'heelR', 'ballR'] as const;
const still: Contacts = { floor: 0, plants: feet.map((part) => ({ part, start: 0, end: FRAMES - 1 })) };
const depth = (parts: string, motion: Motion, target: Party, result: Motion): number =>
  measureCrossings(source, motion, target, result, {}, target.radii).crossings.find((c) => c.parts.join() === parts)
    ?.depth ?? 0;
const places = (target: Party, m: Motion, name: string): Float64Array[] => {
  const reader = new PoseReader(target.rig, m);
  return Array.from({ length: m.frameCount }, (_, f) => reader.at(f).p.slice(3 * joint(name), 3 * joint(name) + 3));
};
const apart = (a: Float64Array, b: Float64Array): number => Math.hypot(...a.map((x, k) => x - b[k]!));
const farthest = (a: Float64Array[], b: Float64Array[]): number => Math.max(...a.map((x, f) => apart(x, b[f]!)));

/** A squat with the knees brought together half way; the feet stay where they are. */
const squat = standing(source.rig, 0.66, FRAMES, (f, set) => {
  const inward = 0.32 * (0.5 - 0.5 * Math.cos((2 * Math.PI * f) / (FRAMES - 1)));
  for (const [side, s] of [
    ['Left', -1],
    ['Right', 1],
  ] as const) {
    set(`${side}UpLeg`, both(turnAbout(0, -0.95), turnAbout(1, s * inward)));
    set(`${side}Leg`, turnAbout(0, 1.7));
    set(`${side}Foot`, turnAbout(0, -0.75));
  }
});
const stout: Party = { ...party(posedRig(45, 0.9)), radii: { thighL: 0.1, thighR: 0.1, shinL: 0.05, shinR: 0.05 } };

describe('bent knees', () => {
  const through = retarget(source, squat, stout, { contacts: still, clear: false }).motion;
  const spread = retarget(source, squat, stout, { contacts: still }).motion;

  test('that would bring broad thighs into each other give way', () => {
    expect(depth('thighL,thighR', squat, stout, through)).toBeGreaterThan(0.03);
    expect(depth('thighL,thighR', squat, stout, spread)).toBeLessThan(0.01);
  });

  test('turn about the line from hip to ankle: hips and feet stay, and knees no farther than that takes', () => {
    for (const name of ['Hips', 'LeftFoot', 'RightFoot'])
      expect(farthest(places(stout, through, name), places(stout, spread, name))).toBeLessThan(1e-4);
    const [l, r] = ['LeftLeg', 'RightLeg'].map((n) => farthest(places(stout, through, n), places(stout, spread, n)));
    expect(l).toBeGreaterThan(0.01);
    expect(Math.max(l!, r!)).toBeLessThan(depth('thighL,thighR', squat, stout, through));
  });

  test('are left alone where the source has them in each other as well, and without being asked', () => {
    const broad: Radii = { thighL: 0.2, thighR: 0.2, shinL: 0.1, shinR: 0.1 };
    const alike = { ...source, radii: broad };
    const slim: Party = { ...stout, radii: { thighL: 0.1, thighR: 0.1, shinL: 0.05, shinR: 0.05 } };
    const one = retarget(alike, squat, slim, { contacts: still }).motion;
    expect(one.turns).toEqual(retarget(alike, squat, slim, { contacts: still, clear: false }).motion.turns);
  });
});

describe('feet that stand', () => {
  /** Knees a little bent and inwards; the left foot is lifted in the middle and set down again. */
  const narrow = standing(source.rig, 0.88, FRAMES, (f, set) => {
    const lift = f > 30 && f < 60 ? 0.3 * Math.sin((Math.PI * (f - 30)) / 30) ** 2 : 0;
    for (const [side, s, up] of [
      ['Left', -1, lift],
      ['Right', 1, 0],
    ] as const) {
      set(`${side}UpLeg`, both(turnAbout(0, -0.3 - up), turnAbout(2, 0.09 * s)));
      set(`${side}Leg`, turnAbout(0, 0.6 + 2 * up));
      set(`${side}Foot`, turnAbout(0, -0.3 - up));
    }
  });
  const boots: Party = { ...party(posedRig(45, 0.9)), radii: { shinL: 0.09, shinR: 0.09 } };
  const steps: Contacts = {
    floor: 0,
    plants: [
      ...(['heelL', 'ballL'] as const).flatMap((part) => [
        { part, start: 0, end: 28 },
        { part, start: 62, end: FRAMES - 1 },
      ]),
      ...(['heelR', 'ballR'] as const).map((part) => ({ part, start: 0, end: FRAMES - 1 })),
    ],
  };
  const through = retarget(source, narrow, boots, { contacts: steps, clear: false }).motion;
  const cleared = retarget(source, narrow, boots, { contacts: steps }).motion;

  test('stand farther apart where their boots would be in each other', () => {
    expect(depth('shinL,shinR', narrow, boots, through)).toBeGreaterThan(0.03);
    expect(depth('shinL,shinR', narrow, boots, cleared)).toBeLessThan(0.01);
  });

  test('go aside as one contact each: nothing slides, and no height changes', () => {
    for (const name of ['LeftFoot', 'RightFoot']) {
      const at = places(boots, cleared, name);
      const was = places(boots, through, name);
      const spans =
        name === 'LeftFoot'
          ? [
              [0, 28],
              [62, FRAMES - 1],
            ]
          : [[0, FRAMES - 1]];
      for (const [start, end] of spans)
        for (let f = start!; f <= end!; f++) {
          const move = (g: number): Float64Array => at[g]!.map((x, k) => x - was[g]![k]!);
          expect(apart(move(f), move(start!))).toBeLessThan(1e-4);
          expect(Math.abs(move(f)[1]!)).toBeLessThan(1e-4);
        }
    }
  });

  test('stay where their spots were chosen by hand; the other foot makes up for it', () => {
    const { p, r } = new PoseReader(boots.rig, through).at(0);
    const { heel } = retarget(source, narrow, boots, { contacts: steps, clear: false }).plan.target.body.soles.R!;
    const foot = joint('RightFoot');
    const spot = [0, 0, 0];
    rotate3(spot, 0, r, 4 * foot, heel, 0);
    const pin = [p[3 * foot]! + spot[0]!, p[3 * foot + 2]! + spot[2]!] as const;
    const pinned: Contacts = { ...steps, plants: steps.plants.map((x) => (x.part === 'heelR' ? { ...x, pin } : x)) };
    const [before, after] = [false, true].map(
      (clear) => retarget(source, narrow, boots, { contacts: pinned, clear }).motion,
    );
    expect(depth('shinL,shinR', narrow, boots, before!)).toBeGreaterThan(0.03);
    expect(farthest(places(boots, before!, 'RightFoot'), places(boots, after!, 'RightFoot'))).toBeLessThan(1e-4);
    expect(farthest(places(boots, before!, 'LeftFoot'), places(boots, after!, 'LeftFoot'))).toBeGreaterThan(0.03);
    expect(depth('shinL,shinR', narrow, boots, after!)).toBeLessThan(0.01);
  });

  test('are let be where two knees are held', () => {
    const kneeling: Contacts = {
      floor: 0,
      plants: [...steps.plants, ...(['kneeL', 'kneeR'] as const).map((part) => ({ part, start: 0, end: FRAMES - 1 }))],
    };
    const [before, after] = [false, true].map(
      (clear) => retarget(source, narrow, boots, { contacts: kneeling, clear }).motion,
    );
    expect(after!.turns).toEqual(before!.turns);
  });
});
