import fc from 'fast-check';
import { findHolds, holdTracks } from '../analysis/holds';
import { steadiness } from '../analysis/steadiness';
import { measureBody } from '../body/body';
import { guessBodyMap } from '../bodymap/guess';
import { jointOf } from '../bodymap/slots';
import { largestError } from '../codec/error';
import { angleBetweenQuats, axisAngleQuat, mulQuat, normalizeQuat, twistQuat } from '../math/quat';
import { type Motion, PoseReader } from '../motion/motion';
import { restPose } from '../rig/rig';
import { buildRig, PLAIN, party, posedRig, wander, withOddAxes } from '../test/bodies';
import { measureCrossings, rodDistance } from './crossing';
import { extraChains, matchChains } from './extra-chains';
import { handGoalsFor } from './hand-goals';
import { defaultLimits, keepLimits, measureLimits } from './limits';
import { planRetarget } from './plan';
import { reportOf, retarget } from './retarget';

const plain = buildRig();
const source = party(plain);
const n = plain.names.length;

/** The rest pose for some frames, with turns of named joints over time. */
function posed(frames: number, turns: Record<string, (f: number) => number[]>, fps = 60): Motion {
  const rotations = new Float32Array(4 * n * frames);
  const places = new Float32Array(3 * frames);
  for (let f = 0; f < frames; f++) {
    rotations.set(plain.restR, 4 * n * f);
    places.set(plain.restT.subarray(0, 3), 3 * f);
    for (const [name, turn] of Object.entries(turns)) rotations.set(turn(f), 4 * (n * f + plain.names.indexOf(name)));
  }
  return {
    fps,
    frameCount: frames,
    turns: rotations,
    places: [{ joint: 0, values: places }],
    numbers: [],
    scales: [],
    steps: [],
  };
}
const about = (x: number, y: number, z: number, degrees: number): number[] => {
  const q = [0, 0, 0, 1];
  axisAngleQuat(q, 0, x, y, z, (degrees * Math.PI) / 180);
  return q;
};

describe('there and back', () => {
  test.each([
    ['other rest, other axes, other lengths', posedRig(40, 0.7, true)],
    ['taller', posedRig(70, 1.2)],
  ])('A to B to A without plants keeps every limb within 0.3° on average: %s', (_, rig) => {
    const motion = wander(plain, 60, 5);
    const there = retarget(source, motion, party(rig), { plants: false });
    const back = retarget(party(rig), there.motion, source, { plants: false });
    let sum = 0;
    for (let o = 0; o < motion.turns.length; o += 4) sum += angleBetweenQuats(motion.turns, o, back.motion.turns, o);
    expect((sum / (motion.turns.length / 4)) * (180 / Math.PI)).toBeLessThan(0.3);
  });
});

describe('travel at the source’s speed', () => {
  test('the ground passes as fast, in fewer frames on shorter legs', () => {
    const motion = wander(plain, 121, 1, 60, 0.1);
    const short = party(posedRig(90, 0.5));
    const done = retarget(source, motion, short, { travel: 'speed', plants: false });
    expect(done.motion.frameCount).toBe(61);
    const speed = (m: Motion): number => {
      const { values } = m.places[0]!;
      return ((values[3 * (m.frameCount - 1) + 2]! - values[2]!) * m.fps) / (m.frameCount - 1);
    };
    expect(speed(done.motion)).toBeCloseTo(speed(motion), 2);
    expect(reportOf(done).direction.maxDeg).toBeLessThan(0.02);
  });
});

describe('overruling the alignment', () => {
  test('a turn by hand moves the joint by just that, and nothing else', () => {
    const motion = wander(plain, 5, 1);
    const joint = plain.names.indexOf('LeftHand');
    const turn = about(0, 0, 1, 20);
    const target = { ...party(posedRig(45)), adjust: new Map([[joint, turn]]) };
    const a = retarget(source, motion, party(posedRig(45)), { plants: false }).motion;
    const b = retarget(source, motion, target, { plants: false }).motion;
    for (let j = 0; j < n; j++) {
      const angle = (angleBetweenQuats(a.turns, 4 * j, b.turns, 4 * j) * 180) / Math.PI;
      expect(angle).toBeCloseTo(j === joint ? 20 : 0, 2);
    }
  });
});

describe('twist joints', () => {
  const rig = buildRig([
    ...PLAIN,
    ['LeftForeArmTwist', 'LeftForeArm', 0.575, 1.4, 0],
    ['LeftArmTwist', 'LeftArm', 0.31, 1.4, 0],
  ]);

  test('share a wrist’s twist by their place along the bone; limbs do not move', () => {
    const motion = posed(3, { LeftHand: () => about(1, 0, 0, 60) });
    const done = retarget(source, motion, party(rig), { plants: false }).motion;
    const j = rig.names.indexOf('LeftForeArmTwist');
    const twist = [0, 0, 0, 1];
    twistQuat(twist, 0, done.turns, 4 * j, 1, 0, 0);
    expect((2 * Math.atan2(twist[0]!, twist[3]!) * 180) / Math.PI).toBeCloseTo(30, 0);
    const a = new PoseReader(plain, motion).at(1).p;
    const b = new PoseReader(rig, done).at(1).p;
    for (let o = 0; o < 3 * n; o++) expect(b[o]).toBeCloseTo(a[o]!, 4);
  });

  test('an upper arm’s twist is taken back towards the shoulder', () => {
    const motion = posed(2, { LeftArm: () => about(1, 0, 0, 40) });
    const done = retarget(source, motion, party(rig), { plants: false }).motion;
    const j = rig.names.indexOf('LeftArmTwist');
    const twist = [0, 0, 0, 1];
    twistQuat(twist, 0, done.turns, 4 * j, 1, 0, 0);
    expect((2 * Math.atan2(twist[0]!, twist[3]!) * 180) / Math.PI).toBeCloseTo(-20, 0);
  });

  test('a rig with twist joints onto itself stays what it was', () => {
    const motion = wander(rig, 20, 3);
    expect(largestError(rig, motion, retarget(party(rig), motion, party(rig), { plants: false }).motion)).toBeLessThan(
      1e-5,
    );
  });
});

describe('extra chains', () => {
  const tail = (names: string[], offset: [number, number, number]) =>
    names.map(
      (name, i) =>
        [
          name,
          i === 0 ? 'Hips' : names[i - 1]!,
          offset[0] * (i + 1),
          0.95 + offset[1] * (i + 1),
          offset[2] * (i + 1) - 0.05,
        ] as const,
    );
  const long = buildRig([...PLAIN, ...tail(['tailA', 'tailB', 'tailC', 'tailD'], [0, -0.02, -0.12])]);
  const short = withOddAxes(buildRig([...PLAIN, ...tail(['rear1', 'rear2'], [0, 0, -0.2])]));

  test('are matched by where they hang and lead, and share the bend by length', () => {
    const plan = planRetarget(party(long), party(short));
    const joints = ['rear1', 'rear2'].map((x) => short.names.indexOf(x));
    expect(joints.map((j) => plan.a[j]! >= n)).toEqual([true, true]);
    // every joint of the long tail bends by 20°: the short one's end leads as far round
    const m = wander(long, 1, 1, 30, 0);
    for (const name of ['tailA', 'tailB', 'tailC', 'tailD'])
      m.turns.set(about(0, 1, 0, 20), 4 * long.names.indexOf(name));
    const done = retarget(party(long), m, party(short), { plants: false }).motion;
    const world = new PoseReader(short, done).at(0);
    const rest = restPose(short);
    const q = [0, 0, 0, 1];
    const j = joints[1]!;
    mulQuat(
      q,
      0,
      [...world.r.subarray(4 * j, 4 * j + 4)],
      0,
      [-rest.r[4 * j]!, -rest.r[4 * j + 1]!, -rest.r[4 * j + 2]!, rest.r[4 * j + 3]!],
      0,
    );
    expect((angleBetweenQuats(q, 0, [0, 0, 0, 1], 0) * 180) / Math.PI).toBeCloseTo(80, 0);
  });

  test('one that leads elsewhere has no partner', () => {
    const front = buildRig([...PLAIN, ...tail(['sash1', 'sash2'], [0, 0, 0.15])]);
    const of = (rig: typeof long) => {
      const p = party(rig);
      return extraChains(rig, p.map, restPose(rig), planRetarget(p, p).sourceAligned);
    };
    expect(of(long)).toHaveLength(1);
    expect(matchChains(of(long), of(front))).toEqual([]);
  });
});

describe('hands', () => {
  test('that hold one thing keep its width on other shoulders', () => {
    const motion = posed(30, {
      LeftArm: (f) => about(0, -1, 0, 55 + f / 3),
      RightArm: (f) => about(0, 1, 0, 55 + f / 3),
      LeftForeArm: () => about(0, -1, 0, 75),
      RightForeArm: () => about(0, 1, 0, 75),
    });
    const target = party(posedRig(45, 0.62, true));
    const width = (rig: typeof plain, m: Motion, f: number): number => {
      const { p } = new PoseReader(rig, m).at(f);
      const [l, r] = ['LeftHand', 'RightHand'].map((x) => 3 * rig.names.indexOf(x)) as [number, number];
      return Math.hypot(...[0, 1, 2].map((k) => p[l + k]! - p[r + k]!));
    };
    const free = retarget(source, motion, target).motion;
    const held = retarget(source, motion, target, { hands: handGoalsFor('together') });
    for (const f of [2, 15, 28]) {
      expect(Math.abs(width(target.rig, held.motion, f) - width(plain, motion, f))).toBeLessThan(0.004);
      expect(Math.abs(width(target.rig, free, f) - width(plain, motion, f))).toBeGreaterThan(0.05);
    }
    expect(held.handReach.max).toBeLessThan(0.005);
  });

  test('an elbow does not snap where a goal leaves the arm’s reach', () => {
    const motion = posed(120, {
      LeftArm: (f) => about(0, 0, 1, 20 * Math.sin(f / 20)),
      LeftForeArm: () => about(0, -1, 0, 30),
    });
    const target = party(posedRig(90));
    const far = {
      hand: 'L' as const,
      keep: 'point' as const,
      point: [1.6, 1.4, 0.2] as const,
      weight: [
        { frame: 0, weight: 0 },
        { frame: 119, weight: 1 },
      ],
    };
    const done = retarget(source, motion, target, { hands: [far] });
    expect(done.handReach.max).toBeGreaterThan(0.3);
    expect(steadiness(target, done.motion).snap).toBeLessThan(4000);
    expect(() => retarget(source, motion, target, { hands: [{ hand: 'L', keep: 'point' }] })).toThrow(
      /needs the point/,
    );
  });
});

describe('hands and knees on the ground', () => {
  // on all fours: trunk level, thighs and arms down
  const hipY = 0.5;
  const motion = posed(60, {
    Hips: () => about(1, 0, 0, 90),
    LeftUpLeg: () => about(1, 0, 0, -90),
    RightUpLeg: () => about(1, 0, 0, -90),
    LeftLeg: () => about(1, 0, 0, 90),
    RightLeg: () => about(1, 0, 0, 90),
    LeftArm: () => about(0, -1, 0, 90),
    RightArm: () => about(0, 1, 0, 90),
  });
  const low: Motion = {
    ...motion,
    places: [{ joint: 0, values: Float32Array.from({ length: 180 }, (_, i) => (i % 3 === 1 ? hipY : 0)) }],
  };

  test('are found', () => {
    const body = measureBody(plain, source.map);
    const tracks = holdTracks(source, low, body, restPose(plain));
    const parts = new Set(findHolds(tracks, [], 60, body.leg, 0).map((p) => p.part));
    expect(parts).toEqual(new Set(['handL', 'handR', 'kneeL', 'kneeR']));
  });

  test('stay on the ground of a body with other arms and legs', () => {
    const rig = posedRig(45, 0.62, true);
    const done = retarget(source, low, party(rig));
    const { p } = new PoseReader(rig, done.motion).at(30);
    for (const name of ['LeftHand', 'RightHand']) expect(p[3 * rig.names.indexOf(name) + 1]).toBeGreaterThan(-0.02);
    // the toes of this pose are deeper than its knees: they stand on the ground, and the knees are a little above it
    for (const name of ['LeftLeg', 'RightLeg'])
      expect(Math.abs(p[3 * rig.names.indexOf(name) + 1]! - 0.62 * 0.08)).toBeLessThan(0.08);
  });
});

describe('limits', () => {
  test('a body at rest and a bent knee are within; a knee bent forward and an arm through the back are not', () => {
    expect(measureLimits(source, posed(2, {})).parts).toEqual([]);
    expect(measureLimits(source, posed(2, { LeftLeg: () => about(1, 0, 0, 100) })).parts).toEqual([]);
    const knee = measureLimits(source, posed(2, { LeftLeg: () => about(1, 0, 0, -40) })).parts[0]!;
    // 40° less the 10° a knee may, less what the resting knee is bent
    expect(knee.slot).toBe('shinL');
    expect(Math.abs(knee.degrees - 28)).toBeLessThan(4);
    const elbow = measureLimits(source, posed(2, { LeftForeArm: () => about(0, 1, 0, 60) })).parts[0]!;
    expect(elbow.slot).toBe('forearmL');
    expect(Math.abs(elbow.degrees - 48)).toBeLessThan(2);
  });

  test('keeping them brings arms and head back to the border and leaves what is within alone', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 60 }), (seed) => {
        const motion = wander(plain, 12, seed, 60, 1.6);
        const kept = keepLimits(source, motion);
        const over = measureLimits(source, kept).parts.filter((p) => !/^(thigh|shin|foot)/.test(p.slot));
        expect(over.every((p) => p.degrees < 0.2)).toBe(true);
      }),
      { numRuns: 15 },
    );
    const fine = posed(3, { LeftForeArm: () => about(0, -1, 0, 90) });
    expect(keepLimits(source, fine)).toBe(fine);
  });

  test('can be edited', () => {
    const strict = { ...defaultLimits(), head: { bone: [0, 1, 0] as const, middle: [0, 1, 0] as const, cone: 5 } };
    const nod = posed(2, { Head: () => about(1, 0, 0, 20) });
    expect(measureLimits(source, nod).parts).toEqual([]);
    expect(Math.round(measureLimits(source, nod, strict).parts[0]!.degrees)).toBe(15);
  });
});

describe('crossings', () => {
  test('distance of capsules', () => {
    const p = [0, 0, 0, 1, 0, 0, 0.5, 1, -1, 0.5, 1, 1, 3, 0, 0, 4, 0, 0];
    expect(rodDistance(p, 0, 3, 6, 9)).toBeCloseTo(1, 9);
    expect(rodDistance(p, 0, 3, 12, 15)).toBeCloseTo(2, 9);
    expect(rodDistance(p, 0, 3, 0, 3)).toBeCloseTo(0, 9);
  });

  test('forearms through each other are named; what the source does too is not', () => {
    const folded = posed(3, {
      LeftArm: () => about(0, -1, 0, 80),
      LeftForeArm: () => about(0, -1, 0, 100),
      RightArm: () => about(0, 1, 0, 80),
      RightForeArm: () => about(0, 1, 0, 100),
    });
    const [found] = measureCrossings(source, posed(3, {}), source, folded).crossings;
    expect([found?.parts, found!.depth > 0.03]).toEqual([['forearmL', 'forearmR'], true]);
    expect(measureCrossings(source, folded, source, folded).crossings).toEqual([]);
  });
});

describe('bodies that lack parts', () => {
  const without = (pattern: RegExp) => buildRig(PLAIN.filter(([name]) => !pattern.test(name)));

  test.each([
    ['no legs', without(/UpLeg|Leg$|Foot|Toe/), /no legs/],
    ['one arm', without(/^Right(Shoulder|Arm|ForeArm|Hand)/), /no right arm/],
    ['no arms', without(/Shoulder|Arm|Hand/), /no arms/],
  ])('%s: says what it cannot do and does the rest', (_, rig, words) => {
    const target = { rig, map: guessBodyMap(rig) };
    const done = retarget(source, wander(plain, 20, 2), target);
    const report = reportOf(done);
    expect(report.warnings.join(' ')).toMatch(words);
    const chest = jointOf(target.map, 'spine1');
    expect(chest).toBeGreaterThanOrEqual(0);
    expect(done.motion.turns.every(Number.isFinite)).toBe(true);
    const a = done.motion.turns.slice(4 * chest, 4 * chest + 4);
    expect(angleBetweenQuats(a, 0, rig.restR, 4 * chest)).toBeGreaterThan(0.01);
  });

  test('turns are unit whatever comes in', () => {
    const done = retarget(source, wander(plain, 30, 9, 60, 2), party(posedRig(45, 0.8, true))).motion;
    const q = [0, 0, 0, 1];
    for (let o = 0; o < done.turns.length; o += 4) {
      for (let k = 0; k < 4; k++) q[k] = done.turns[o + k]!;
      const before = [...q];
      normalizeQuat(q, 0);
      expect(angleBetweenQuats(q, 0, before, 0)).toBeLessThan(1e-5);
    }
  });
});
