import fc from 'fast-check';
import { noiseLevel } from '../analysis/noise';
import { MotionError } from '../errors';
import { addOffsets } from '../layer/offsets';
import { angleBetweenQuats, axisAngleQuat } from '../math/quat';
import { durationOf, type Motion, PoseReader } from '../motion/motion';
import { hold, pickFrames, resample, retime, reverse, trim } from '../motion/timing';
import { betweenFrames } from '../motion/tracks';
import { buildRig, party, posedRig, wander } from '../test/bodies';
import { despike, fillGaps, findGaps, findSpikes, smooth } from './clean';
import { energy } from './energy';
import { moveRoots, place, setOnFloor } from './place';
import { stanceWidth, strideLength } from './stance';
import { inPlace, toRootJoint, withRoot } from './travel';
import { armsApart, lean } from './trunk-and-arms';
import { TUNE_LABELS, type TuneStep, tune } from './tune';

const rigs = { plain: buildRig(), 'odd axes': posedRig(45, 0.8, true) };
const plain = rigs.plain;
const who = party(plain);
const n = plain.names.length;
const at = (name: string): number => plain.names.indexOf(name);

const apart = (a: Motion, b: Motion): number => {
  let worst = 0;
  for (let o = 0; o < a.turns.length; o += 4) worst = Math.max(worst, angleBetweenQuats(a.turns, o, b.turns, o));
  return worst;
};
const places = (rig: typeof plain, motion: Motion, f: number): number[] => [...new PoseReader(rig, motion).at(f).p];
const unit = (m: Motion): void => {
  for (let o = 0; o < m.turns.length; o += 4) expect(Math.hypot(...m.turns.subarray(o, o + 4))).toBeCloseTo(1, 4);
};

describe('every step', () => {
  const steps: TuneStep[] = [
    { op: 'energy', amount: 1.4 },
    { op: 'arms', degrees: 15 },
    { op: 'stance', scale: 1.3 },
    { op: 'stride', scale: 0.8 },
    { op: 'lean', forward: 10, left: -5 },
    { op: 'speed', speed: 1.5 },
    { op: 'trim', start: 3, end: 30 },
    { op: 'hold', before: 2, after: 3 },
    { op: 'reverse' },
    { op: 'resample', fps: 24 },
    { op: 'despike' },
    { op: 'smooth', cutoffHz: 6 },
    { op: 'fillGaps' },
    { op: 'inPlace' },
    { op: 'floor' },
    { op: 'place', at: [1, -2], heading: 90 },
    { op: 'mirror' },
    { op: 'offsets', tracks: [{ joint: 3, keys: [{ frame: 2, turn: [0, 0, 0.1, 0.995] }] }] },
  ];

  test.each(Object.entries(rigs).flatMap(([name, rig]) => steps.map((s) => [s.op, name, s, rig] as const)))(
    '%s on %s is pure, keeps turns unit and numbers sound',
    (_, __, step, rig) => {
      const own = party(rig);
      const motion = wander(rig, 40, 11);
      const before = { r: motion.turns.slice(), t: motion.places[0]!.values.slice() };
      const once = tune(own, motion, [step]);
      expect([motion.turns, motion.places[0]!.values]).toEqual([before.r, before.t]);
      unit(once);
      for (const t of once.places) expect(t.values.every(Number.isFinite)).toBe(true);
      expect(once.turns).toHaveLength(4 * rig.names.length * once.frameCount);
      // the same again gives the same again
      expect(tune(own, motion, [step])).toEqual(once);
    },
  );

  test('has a name in words', () => {
    expect(Object.keys(TUNE_LABELS).sort()).toEqual([...new Set(steps.map((s) => s.op))].sort());
  });

  test('no step at all is the motion itself', () => {
    const motion = wander(plain, 10, 1);
    expect(tune(who, motion, [])).toBe(motion);
  });

  test.each<[TuneStep, RegExp]>([
    [{ op: 'energy', amount: -1 }, /energy/i],
    [{ op: 'arms', degrees: 100 }, /arms/i],
    [{ op: 'stance', scale: 0 }, /stance/i],
    [{ op: 'stride', scale: 9 }, /stride/i],
    [{ op: 'lean', forward: 80 }, /lean/i],
    [{ op: 'speed', speed: 0 }, /speed/i],
    [
      {
        op: 'speed',
        speed: [
          { seconds: 1, speed: 1 },
          { seconds: 0.5, speed: 2 },
        ],
      },
      /rise/,
    ],
    [{ op: 'trim', start: 5, end: 400 }, /inside the motion/],
    [{ op: 'trim', start: 8, end: 3 }, /inside the motion/],
    [{ op: 'hold', before: -1 }, /hold/],
    [{ op: 'smooth', cutoffHz: 0 }, /cut-off|above 0/i],
    [{ op: 'smooth', cutoffHz: 500 }, /cut-off|half/i],
    [{ op: 'resample', fps: -5 }, /./],
    [{ op: 'arms', degrees: Number.NaN }, /arms/i],
  ])('%j is refused with a sentence', (step, words) => {
    const run = (): Motion => tune(who, wander(plain, 40, 1), [step]);
    expect(run).toThrow(MotionError);
    expect(run).toThrow(words);
  });
});

describe('amounts that leave things as they are', () => {
  const motion = wander(plain, 30, 7);
  test.each<[string, () => Motion]>([
    ['energy 1', () => energy(who, motion, 1)],
    ['arms 0', () => armsApart(who, motion, 0)],
    ['lean 0', () => lean(who, motion, 0)],
    ['stance 1', () => stanceWidth(who, motion, 1)],
    ['stride 1', () => strideLength(who, motion, 1)],
    ['speed 1', () => retime(plain, motion, 1)],
    ['the whole span', () => trim(plain, motion, 0, 29)],
    ['no hold', () => hold(plain, motion, 0, 0)],
    ['no gap', () => fillGaps(plain, motion)],
    ['no spike', () => despike(plain, motion)],
    ['no offset', () => addOffsets(plain, motion, [])],
  ])('%s', (_, run) => {
    expect(apart(run(), motion)).toBeLessThan(1e-6);
  });
});

describe('energy', () => {
  const motion = wander(plain, 120, 2);
  const swing = (m: Motion, joint: number): number => {
    let most = 0;
    for (let f = 1; f < m.frameCount; f++)
      most = Math.max(most, angleBetweenQuats(m.turns, 4 * (f * n + joint), m.turns, 4 * ((f - 1) * n + joint)));
    return most;
  };
  test('more of it is a larger motion, less a smaller one, none leaves the slow course alone', () => {
    const j = at('LeftForeArm');
    const [less, usual, more, none] = [0.5, 1, 1.6, 0].map((a) => swing(energy(who, motion, a), j));
    expect(less!).toBeLessThan(0.85 * usual!);
    expect(more!).toBeGreaterThan(1.2 * usual!);
    expect(none!).toBeLessThan(less!);
  });
});

describe('posture', () => {
  const still: Motion = {
    ...wander(plain, 12, 1),
    turns: Float32Array.from({ length: 4 * n * 12 }, (_, i) => (i % 4 === 3 ? 1 : 0)),
  };
  const standing: Motion = {
    ...still,
    places: [{ joint: 0, values: Float32Array.from({ length: 36 }, (_, i) => plain.restT[i % 3]!) }],
  };

  test('arms apart turns both upper arms by just so much, each to its side', () => {
    const out = armsApart(who, standing, 20);
    for (const name of ['LeftArm', 'RightArm'])
      expect((angleBetweenQuats(out.turns, 4 * at(name), standing.turns, 4 * at(name)) * 180) / Math.PI).toBeCloseTo(
        20,
        3,
      );
    const p = places(plain, out, 3);
    expect(p[3 * at('LeftHand') + 1]!).toBeGreaterThan(1.5);
    expect(p[3 * at('RightHand') + 1]!).toBeCloseTo(p[3 * at('LeftHand') + 1]!, 4);
  });

  test('a lean brings the head forward, and to the left, while the feet stay', () => {
    const forward = places(plain, lean(who, standing, 20), 5);
    const left = places(plain, lean(who, standing, 0, 20), 5);
    const rest = places(plain, standing, 5);
    const head = 3 * at('Head');
    expect(forward[head + 2]! - rest[head + 2]!).toBeGreaterThan(0.1);
    expect(left[head]! - rest[head]!).toBeGreaterThan(0.1);
    for (const foot of ['LeftFoot', 'RightFoot'])
      for (let k = 0; k < 3; k++) {
        expect(forward[3 * at(foot) + k]!).toBeCloseTo(rest[3 * at(foot) + k]!, 2);
        expect(left[3 * at(foot) + k]!).toBeCloseTo(rest[3 * at(foot) + k]!, 2);
      }
  });

  test('stance wider and closer sets the feet so, and each stays on one spot', () => {
    const width = (m: Motion, f: number): number => {
      const p = places(plain, m, f);
      return p[3 * at('LeftFoot')]! - p[3 * at('RightFoot')]!;
    };
    const usual = width(standing, 0);
    for (const scale of [0.6, 1.5]) {
      const out = stanceWidth(who, standing, scale);
      expect(width(out, 6) / usual).toBeCloseTo(scale, 1);
      expect(Math.abs(width(out, 2) - width(out, 10))).toBeLessThan(1e-3);
    }
  });

  test('set on the floor, the lowest point of whatever stands is at nothing', () => {
    for (const lift of [-0.4, 0, 0.7]) {
      const raised = moveRoots(who, standing, [0, lift, 0], 0);
      const p = places(plain, setOnFloor(who, raised), 6);
      expect(p[3 * at('LeftFoot') + 1]!).toBeCloseTo(places(plain, standing, 6)[3 * at('LeftFoot') + 1]!, 3);
    }
  });

  test('turned and placed, the first frame stands there and looks that way', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -5, max: 5, noNaN: true }),
        fc.double({ min: -5, max: 5, noNaN: true }),
        fc.double({ min: -179, max: 179, noNaN: true }),
        (x, z, heading) => {
          const out = place(who, standing, [x, z], heading);
          const p = places(plain, out, 0);
          expect(p[0]!).toBeCloseTo(x, 3);
          expect(p[2]!).toBeCloseTo(z, 3);
          // left is the body's left: turned with it
          const across = [
            p[3 * at('LeftArm')]! - p[3 * at('RightArm')]!,
            p[3 * at('LeftArm') + 2]! - p[3 * at('RightArm') + 2]!,
          ];
          const looks = (Math.atan2(-across[1]!, across[0]!) * 180) / Math.PI;
          expect(Math.cos(((looks - heading) * Math.PI) / 180)).toBeCloseTo(1, 3);
        },
      ),
      { numRuns: 40 },
    );
  });

  test('moving everything moves nothing against anything else', () => {
    const motion = wander(plain, 6, 4);
    const out = moveRoots(who, motion, [1, 2, 3], 0.9);
    const [a, b] = [places(plain, motion, 3), places(plain, out, 3)];
    for (let i = 0; i < n; i++)
      for (let j = 0; j < i; j++) {
        const d = (p: number[]): number => Math.hypot(...[0, 1, 2].map((k) => p[3 * i + k]! - p[3 * j + k]!));
        expect(d(b)).toBeCloseTo(d(a), 4);
      }
  });
});

describe('time', () => {
  const motion = wander(plain, 61, 9);

  test('faster is shorter, slower longer; first and last frame stay', () => {
    fc.assert(
      fc.property(fc.double({ min: 0.1, max: 8, noNaN: true }), (speed) => {
        const out = retime(plain, motion, speed);
        expect(Math.abs(out.frameCount - 1 - 60 / speed)).toBeLessThanOrEqual(0.5 + 1e-9);
        expect(out.fps).toBe(motion.fps);
        for (let j = 0; j < n; j++) {
          expect(angleBetweenQuats(out.turns, 4 * j, motion.turns, 4 * j)).toBeLessThan(1e-4);
          const [last, end] = [4 * ((out.frameCount - 1) * n + j), 4 * (60 * n + j)];
          if (out.frameCount > 1) expect(angleBetweenQuats(out.turns, last, motion.turns, end)).toBeLessThan(1e-4);
        }
      }),
      { numRuns: 40 },
    );
  });

  test('a curve of speed lasts as long as the sum of its parts', () => {
    const out = retime(plain, motion, [
      { seconds: 0, speed: 1 },
      { seconds: 0.5, speed: 1 },
      { seconds: 0.5001, speed: 2 },
    ]);
    // half a second as it was, the other half in half the time
    expect(durationOf(out)).toBeCloseTo(0.75, 1);
  });

  test('backwards twice is the motion; backwards the last frame comes first', () => {
    expect(apart(reverse(plain, reverse(plain, motion)), motion)).toBeLessThan(1e-6);
    const back = reverse(plain, motion);
    expect(angleBetweenQuats(back.turns, 4 * 7, motion.turns, 4 * (60 * n + 7))).toBeLessThan(1e-6);
  });

  test('a trimmed stretch is just those frames; trimmed again within it, those of the whole', () => {
    fc.assert(
      fc.property(fc.nat(60), fc.nat(60), fc.nat(60), fc.nat(60), (a, b, c, d) => {
        const [start, end] = [Math.min(a, b), Math.max(a, b)];
        const one = trim(plain, motion, start, end);
        expect(one.frameCount).toBe(end - start + 1);
        const length = end - start;
        const [s2, e2] = [Math.min(c, d, length), Math.min(Math.max(c, d), length)];
        const two = trim(plain, one, s2, e2);
        const whole = trim(plain, motion, start + s2, start + e2);
        expect(apart(two, whole)).toBeLessThan(1e-6);
        expect(two.places[0]!.values).toEqual(whole.places[0]!.values);
      }),
      { numRuns: 60 },
    );
  });

  test('holds repeat the ends and nothing else', () => {
    const out = hold(plain, motion, 4, 6);
    expect(out.frameCount).toBe(71);
    expect(apart(trim(plain, out, 4, 64), motion)).toBeLessThan(1e-6);
    for (const f of [0, 3]) expect(places(plain, out, f)).toEqual(places(plain, motion, 0));
    for (const f of [66, 70]) expect(places(plain, out, f)).toEqual(places(plain, motion, 60));
  });

  test('frames between frames lie between them', () => {
    const half = pickFrames(plain, motion, Float64Array.of(10, 10.5, 11));
    for (let j = 0; j < n; j++) {
      const whole = angleBetweenQuats(half.turns, 4 * j, half.turns, 4 * (2 * n + j));
      expect(angleBetweenQuats(half.turns, 4 * j, half.turns, 4 * (n + j))).toBeCloseTo(whole / 2, 3);
    }
  });

  test('another rate keeps the length and passes through the same moments', () => {
    for (const fps of [24, 30, 90, 120]) {
      const out = resample(plain, motion, fps);
      expect(Math.abs(durationOf(out) - durationOf(motion))).toBeLessThanOrEqual(0.5 / fps + 1e-9);
      // half a second in both: an instant that falls onto a frame of each
      const [a, b] = [betweenFrames(0.5 * motion.fps, motion.frameCount), betweenFrames(0.5 * out.fps, out.frameCount)];
      expect(a.t).toBe(0);
      expect(b.t).toBe(0);
      for (let j = 0; j < n; j++)
        expect(angleBetweenQuats(motion.turns, 4 * (a.a * n + j), out.turns, 4 * (b.a * n + j))).toBeLessThan(0.02);
    }
  });
});

describe('cleaning', () => {
  const motion = wander(plain, 120, 3, 60, 0.4);
  const elbow = at('LeftForeArm');
  const spiked = (): Motion => {
    const turns = motion.turns.slice();
    axisAngleQuat(turns, 4 * (50 * n + elbow), 0, 1, 0, 2.2);
    axisAngleQuat(turns, 4 * (80 * n + elbow), 1, 0, 0, -1.9);
    return { ...motion, turns };
  };

  test('spikes are found in their joint and frame, and taken out without touching anything else', () => {
    const bad = spiked();
    expect(findSpikes(plain, bad).map((s) => [s.joint, s.start, s.end])).toEqual([
      [elbow, 50, 50],
      [elbow, 80, 80],
    ]);
    const good = despike(plain, bad);
    expect(apart(good, motion)).toBeLessThan(0.06);
    expect(findSpikes(plain, good)).toEqual([]);
  });

  test('a turn stored with the other sign is no spike', () => {
    const turns = motion.turns.slice();
    for (let k = 0; k < 4; k++) turns[4 * (30 * n + elbow) + k] = -turns[4 * (30 * n + elbow) + k]!;
    expect(findSpikes(plain, { ...motion, turns })).toEqual([]);
  });

  test('gaps are found where a joint freezes and then jumps, and filled near what was there', () => {
    const turns = motion.turns.slice();
    for (let f = 41; f <= 60; f++)
      turns.copyWithin(4 * (f * n + elbow), 4 * (40 * n + elbow), 4 * (40 * n + elbow) + 4);
    const torn = { ...motion, turns };
    const found = findGaps(plain, torn);
    expect(found).toHaveLength(1);
    expect(found[0]).toMatchObject({ joint: elbow });
    expect([Math.abs(found[0]!.start - 41), Math.abs(found[0]!.end - 60)].every((x) => x <= 1)).toBe(true);
    const filled = fillGaps(plain, torn);
    expect(apart(filled, motion)).toBeLessThan(apart(torn, motion) * 0.6);
    expect(findGaps(plain, filled)).toEqual([]);
  });

  test('smoothing takes noise out and leaves the motion', () => {
    let seed = 1;
    const random = (): number => {
      seed = (seed * 16807) % 2147483647;
      return seed / 2147483647 - 0.5;
    };
    const turns = motion.turns.slice();
    for (let i = 0; i < turns.length; i++) turns[i] = turns[i]! + 0.01 * random();
    const noisy = { ...motion, turns };
    const calm = smooth(plain, noisy, 6);
    const limbs = [elbow, at('LeftArm'), at('RightLeg')];
    expect(noiseLevel(plain, noisy, limbs)).toBeGreaterThan(0.15);
    expect(noiseLevel(plain, calm, limbs)).toBeLessThan(0.25 * noiseLevel(plain, noisy, limbs));
    let sum = 0;
    for (let o = 0; o < motion.turns.length; o += 4) sum += angleBetweenQuats(calm.turns, o, motion.turns, o);
    expect(sum / (motion.turns.length / 4)).toBeLessThan(0.01);
  });
});

describe('travel', () => {
  const motion = wander(plain, 90, 6);

  test('in place takes the way out and leaves height and every angle', () => {
    const out = inPlace(who, motion);
    expect(apart(out, motion)).toBeLessThan(1e-9);
    const [first, last] = [places(plain, out, 0), places(plain, out, 89)];
    expect(Math.hypot(last[0]! - first[0]!, last[2]! - first[2]!)).toBeLessThan(0.35);
    for (const f of [0, 45, 89]) expect(places(plain, out, f)[1]).toBeCloseTo(places(plain, motion, f)[1]!, 5);
    // again it changes hardly anything more
    const twice = inPlace(who, out);
    expect(Math.abs(places(plain, twice, 60)[2]! - places(plain, out, 60)[2]!)).toBeLessThan(0.12);
  });

  test('a root joint takes the way over, and nothing moves in the world', () => {
    const rooted = toRootJoint(who, motion);
    expect(rooted.added).toBe(true);
    expect(rooted.rig.names[rooted.root]).toBe('root');
    for (const f of [0, 30, 89]) {
      const [a, b] = [places(plain, motion, f), places(rooted.rig, rooted.motion, f)];
      for (let j = 0; j < n; j++) for (let k = 0; k < 3; k++) expect(b[3 * (j + 1) + k]!).toBeCloseTo(a[3 * j + k]!, 4);
      // the root stands on the ground
      expect(b[1]!).toBeCloseTo(0, 5);
    }
    const again = toRootJoint({ rig: rooted.rig, map: party(rooted.rig).map }, rooted.motion);
    expect(again.added).toBe(false);
    expect(again.rig.names).toEqual(rooted.rig.names);
  });

  test('a root in front changes no place, and its name is free', () => {
    const named = buildRig(undefined, (x) => (x === 'Spine' ? 'root' : x));
    const { rig } = withRoot(named, wander(named, 3, 1));
    expect(rig.names[0]).toBe('ground_root');
    expect([...rig.parents].filter((p) => p < 0)).toHaveLength(1);
  });
});

describe('a correction layer', () => {
  const motion = wander(plain, 50, 8);
  const j = at('Head');
  const turn = (angle: number): [number, number, number, number] => [0, Math.sin(angle / 2), 0, Math.cos(angle / 2)];

  test('holds before its first key and behind its last, and goes smoothly between', () => {
    const out = addOffsets(plain, motion, [
      {
        joint: j,
        keys: [
          { frame: 10, turn: turn(0) },
          { frame: 30, turn: turn(0.8) },
        ],
      },
    ]);
    const off = (f: number): number => angleBetweenQuats(out.turns, 4 * (f * n + j), motion.turns, 4 * (f * n + j));
    expect(off(0)).toBeLessThan(1e-3);
    expect(off(49)).toBeCloseTo(0.8, 3);
    expect(off(20)).toBeCloseTo(0.4, 2);
    let last = -1;
    for (let f = 10; f <= 30; f++) {
      expect(off(f)).toBeGreaterThanOrEqual(last - 1e-3);
      last = off(f);
    }
    for (let other = 0; other < n; other++)
      if (other !== j)
        expect(angleBetweenQuats(out.turns, 4 * (25 * n + other), motion.turns, 4 * (25 * n + other))).toBeLessThan(
          1e-9,
        );
  });

  test('moves add to the place; steps jump at the next key', () => {
    const out = addOffsets(plain, motion, [
      {
        joint: 0,
        keys: [
          { frame: 0, move: [0, 0, 0], ease: 'step' },
          { frame: 20, move: [0, 0.5, 0] },
        ],
      },
    ]);
    expect(places(plain, out, 19)[1]! - places(plain, motion, 19)[1]!).toBeCloseTo(0, 5);
    expect(places(plain, out, 20)[1]! - places(plain, motion, 20)[1]!).toBeCloseTo(0.5, 5);
  });

  test.each([
    ['a joint that is not there', { joint: 99, keys: [{ frame: 0, turn: turn(0) }] }],
    [
      'keys out of order',
      {
        joint: 1,
        keys: [
          { frame: 5, turn: turn(0) },
          { frame: 2, turn: turn(0) },
        ],
      },
    ],
    ['a turn of no length', { joint: 1, keys: [{ frame: 0, turn: [0, 0, 0, 0] as [number, number, number, number] }] }],
  ])('%s is refused', (_, track) => {
    expect(() => addOffsets(plain, motion, [track])).toThrow(MotionError);
  });
});
