import { measureBody } from '../body/body';
import { yawQuat } from '../body/root-frame';
import { MotionError } from '../errors';
import { mulQuat } from '../math/quat';
import { type Motion, worldPositions } from '../motion/motion';
import { pickFrames, resample, trim } from '../motion/timing';
import { lengthTrack } from '../motion/tracks';
import { ownPlan } from '../retarget/plan';
import { party, posedRig, standing, wander } from '../test/bodies';
import { mixOnly } from '../test/plain-crossfade';
import { underRoot } from '../test/variants';
import { moveRoots } from '../tune/place';
import { carryOn, leadIn } from './carry-on';
import { checkJoin } from './check';
import { JOIN_DEFAULTS, type JoinWish } from './laid';
import { layLane } from './lane';
import { findMatches } from './match';
import { Course, meet, turnBetween } from './meet';
import { groundedOn } from './steps';

const rig = posedRig(60, 1, true);
const who = party(rig);
const free = wander(rig, 90, 3, 60, 0.2);
const join = (wish: Partial<JoinWish> = {}): JoinWish => ({ ...JOIN_DEFAULTS, ...wish });
const hips = (m: Motion, f: number): number[] => [
  ...worldPositions(rig, m).subarray(3 * rig.names.length * f, 3 * rig.names.length * f + 3),
];

/** The body at rest, with one knee a little bent by so much, so that poses differ. */
const still = (frames: number, lean = 0): Motion =>
  standing(party(posedRig(60)).rig, posedRig(60).restT[1]!, frames, (_, set) => {
    set('Spine', [Math.sin(lean), 0, 0, Math.cos(lean)]);
  });

describe('meeting', () => {
  test('carries the second motion to where the first is and lets it face as that does', () => {
    const turned = moveRoots(who, free, [3, 0, -2], 2.2);
    const way = meet(who, new Course(who, free), 40, new Course(who, turned), 40, 'hips');
    expect(turnBetween(0, way.turn + 2.2)).toBeCloseTo(0, 4);
    const lane = layLane(
      who,
      [
        { motion: trim(rig, free, 0, 45), at: 0, join: join() },
        { motion: trim(rig, turned, 36, 89), at: 36, join: join() },
      ],
      90,
    );
    // both are one motion, so laid over each other they are it
    expect(Math.hypot(...hips(lane.motion, 80).map((x, k) => x - hips(free, 80)[k]!))).toBeLessThan(2e-3);
  });

  test('in the world leaves both where they are', () => {
    const away = moveRoots(who, free, [3, 0, -2], 0);
    const lane = layLane(
      who,
      [
        { motion: free, at: 0, join: join() },
        { motion: away, at: 85, join: join({ meet: 'world' }) },
      ],
      170,
    );
    expect(Math.hypot(...hips(lane.motion, 150).map((x, k) => x - hips(away, 65)[k]!))).toBeLessThan(1e-3);
  });

  test('an offset comes on top, about the place where it meets', () => {
    const laid = (turn: number) =>
      layLane(
        who,
        [
          { motion: free, at: 0, join: join() },
          { motion: free, at: 90, join: join({ kind: 'cut' }), offset: { turn, by: [0, 0] } },
        ],
        180,
      ).motion;
    const a = hips(laid(0), 90);
    const b = hips(laid(Math.PI / 2), 90);
    expect(Math.hypot(a[0]! - b[0]!, a[2]! - b[2]!)).toBeLessThan(0.02);
    expect(Math.hypot(...hips(laid(Math.PI / 2), 170).map((x, k) => x - hips(laid(0), 170)[k]!))).toBeGreaterThan(0.3);
  });
});

describe('a lane', () => {
  test('of one motion is that motion, its ends held', () => {
    const lane = layLane(who, [{ motion: trim(rig, free, 0, 49), at: 10, join: join() }], 100);
    expect(hips(lane.motion, 3)).toEqual(hips(free, 0));
    expect(hips(lane.motion, 35)).toEqual(hips(free, 25));
    expect(hips(lane.motion, 99)).toEqual(hips(free, 49));
  });

  test.each(['crossfade', 'decay', 'bridge'] as const)(
    '%s passes without a step larger than either side takes',
    (kind) => {
      const at = kind === 'bridge' ? 100 : kind === 'crossfade' ? 80 : 90;
      const other = wander(rig, 90, 8, 60, 0.2);
      const lane = layLane(
        who,
        [
          { motion: free, at: 0, join: join() },
          { motion: other, at, join: join({ kind, frames: 24 }) },
        ],
        170,
      );
      const soft = checkJoin(who, lane, lane.joins[0]!);
      const hard = layLane(
        who,
        [
          { motion: free, at: 0, join: join() },
          { motion: other, at: 90, join: join({ kind: 'cut' }) },
        ],
        170,
      );
      const cut = checkJoin(who, hard, { start: 85, end: 95 });
      expect(cut.stepRatio).toBeGreaterThan(4);
      expect(soft.stepRatio).toBeLessThan(0.5 * cut.stepRatio);
      expect(soft.placePercentLeg).toBeLessThan(0.3);
      expect(lane.joins[0]!.kind).toBe(kind);
    },
  );

  test('outside a passage is each motion as it was, bit for bit but for where it stands', () => {
    const lane = layLane(
      who,
      [
        { motion: free, at: 0, join: join() },
        { motion: free, at: 80, join: join() },
      ],
      170,
    );
    const n = 4 * rig.names.length;
    expect([...lane.motion.turns.subarray(n * 20, n * 21)]).toEqual([...free.turns.subarray(n * 20, n * 21)]);
    const own = lane.motion.turns.subarray(n * 140 + 8, n * 141);
    const theirs = free.turns.subarray(n * 60 + 8, n * 61);
    const same = [...own].every((x, i) => Math.abs(Math.abs(x) - Math.abs(theirs[i]!)) < 1e-6);
    expect(same).toBe(true);
  });

  test('a body whose travel hangs below a joint on the ground is joined just the same', () => {
    const low = underRoot({ rig, motion: free });
    const lower = party(low.rig);
    const lane = layLane(
      lower,
      [
        { motion: low.motion, at: 0, join: join() },
        { motion: low.motion, at: 80, join: join() },
      ],
      170,
    );
    const plain = layLane(
      who,
      [
        { motion: free, at: 0, join: join() },
        { motion: free, at: 80, join: join() },
      ],
      170,
    );
    const a = worldPositions(rig, plain.motion);
    const b = worldPositions(low.rig, lane.motion);
    const n = rig.names.length;
    const at = (f: number) => Math.hypot(...[0, 2].map((k) => a[3 * n * f + k]! - b[3 * (n + 1) * f + 3 + k]!));
    expect(Math.max(at(79), at(85), at(120), at(169))).toBeLessThan(0.01);
  });

  test.each(['crossfade', 'decay', 'bridge', 'cut'] as const)(
    'sizes pass over in a %s, a figure turned over is so at once',
    (kind) => {
      const first = still(40);
      const size = new Float32Array(3 * 40).map((_, i) => [-1, 1, 1][i % 3]!);
      const second = {
        ...still(40),
        scales: [{ joint: 0, values: size }],
        numbers: [{ name: lengthTrack('Spine'), values: new Float32Array(40).fill(0.5) }],
      };
      const lane = layLane(
        who,
        [
          { motion: first, at: 0, join: join() },
          { motion: second, at: 30, join: join({ kind, frames: 10 }) },
        ],
        70,
      );
      const [scale] = lane.motion.scales;
      expect([...scale!.values.subarray(0, 3)]).toEqual([1, 1, 1]);
      expect([...scale!.values.subarray(3 * 65, 3 * 65 + 3)]).toEqual([-1, 1, 1]);
      expect([...scale!.values].every((x) => Math.abs(x) === 1)).toBe(true);
      const [long] = lane.motion.numbers;
      expect(long!.values[10]).toBe(1);
      expect(long!.values[65]).toBe(0.5);
      expect([...long!.values].every((x) => x >= 0.5 && x <= 1)).toBe(true);
    },
  );

  test('labels change in the middle of a crossfade and numbers pass over', () => {
    const named = (m: Motion, value: number, label: string): Motion => ({
      ...m,
      numbers: [{ name: 'jaw', values: new Float32Array(m.frameCount).fill(value) }],
      steps: [{ name: 'eyes', labels: [label], values: new Uint16Array(m.frameCount) }],
    });
    const lane = layLane(
      who,
      [
        { motion: named(free, 0, 'open'), at: 0, join: join() },
        { motion: named(free, 1, 'shut'), at: 80, join: join() },
      ],
      170,
    );
    const [jaw] = lane.motion.numbers;
    expect([jaw!.values[79], jaw!.values[100]]).toEqual([0, 1]);
    expect(jaw!.values[85]!).toBeCloseTo(0.5, 0);
    const [eyes] = lane.motion.steps;
    expect([82, 88].map((f) => eyes!.labels[eyes!.values[f]!])).toEqual(['open', 'shut']);
  });

  test('is refused empty, and out of order', () => {
    expect(() => layLane(who, [], 10)).toThrow(MotionError);
    expect(() =>
      layLane(
        who,
        [
          { motion: free, at: 9, join: join() },
          { motion: free, at: 2, join: join() },
        ],
        10,
      ),
    ).toThrow('rising order');
  });
});

describe('feet through a passage', () => {
  const plain = party(posedRig(60));
  const body = measureBody(plain.rig, plain.map);
  const laid = (by: number, kind: JoinWish['kind'] = 'crossfade') => [
    { motion: still(60), at: 0, join: join() },
    {
      motion: moveRoots(plain, still(90, 0.1), [by, 0, 0], 0),
      at: kind === 'crossfade' ? 50 : 60,
      join: join({ kind, meet: 'world' as const, frames: 12 }),
    },
  ];

  test('stay on their spots where a plain crossfade drags them', () => {
    const led = layLane(plain, laid(0.04), 140);
    const dragged = mixOnly(plain, laid(0.04), 140);
    expect(checkJoin(plain, dragged, dragged.joins[0]!).slipCm).toBeGreaterThan(3.5);
    expect(checkJoin(plain, led, led.joins[0]!).slipCm).toBeLessThan(0.05);
  });

  test('step over, one after the other, where they would stay displaced for long', () => {
    const far = 0.3 * body.leg;
    const led = layLane(plain, laid(far, 'decay'), 150);
    const check = checkJoin(plain, led, led.joins[0]!);
    expect(check.slipPercentLeg).toBeLessThan(0.5);
    const both = [...led.held.L.keys()].filter((f) => !led.held.L[f] && !led.held.R[f]);
    const single = [...led.held.L.keys()].filter((f) => !led.held.L[f] !== !led.held.R[f]);
    expect(single.length).toBeGreaterThan(20);
    expect(both.length).toBeLessThan(4);
    // at the end it stands where the second motion does
    const foot = plain.map.slots.footL!.joint;
    const end = worldPositions(plain.rig, led.motion).subarray(3 * (149 * plain.rig.names.length + foot));
    const goal = worldPositions(plain.rig, laid(far)[1]!.motion).subarray(3 * (80 * plain.rig.names.length + foot));
    expect(Math.hypot(end[0]! - goal[0]!, end[2]! - goal[2]!)).toBeLessThan(0.01);
  });
});

describe('carrying on', () => {
  /** Everything swings with a period of 40 frames while the body goes ahead. */
  const cycle = (frames: number): Motion => {
    const lap = wander(rig, 40, 5, 60, 0.3);
    const rounds = pickFrames(
      rig,
      lap,
      Float64Array.from({ length: frames }, (_, f) => 20 + 15 * Math.sin((2 * Math.PI * f) / 40)),
    );
    const values = Float32Array.from({ length: 3 * frames }, (_, i) =>
      i % 3 === 1 ? rig.restT[1]! : i % 3 === 2 ? i / 300 : 0,
    );
    return { ...rounds, places: [{ joint: 0, values }] };
  };

  test('goes round where a motion has just come round, before as behind', () => {
    const whole = cycle(220);
    const on = carryOn(who, trim(rig, whole, 0, 119), 60);
    expect(on.lap).toBe(40);
    const at = (m: Motion, f: number): number[] => [
      ...worldPositions(rig, m).subarray(3 * rig.names.length * f, 3 * rig.names.length * (f + 1)),
    ];
    const far = (a: number[], b: number[]): number => Math.max(...a.map((x, i) => Math.abs(x - b[i]!)));
    expect(far(at(on.motion, 170), at(whole, 170))).toBeLessThan(0.03);
    const back = leadIn(who, trim(rig, whole, 100, 219), 60);
    expect(back.lap).toBe(40);
    expect(far(at(back.motion, 10), at(whole, 50))).toBeLessThan(0.03);
  });

  test('round a bend does not swing round a root on the ground', () => {
    // a gait along a circle, far from where the root stands
    const straight = cycle(220);
    const turns = straight.turns.slice();
    const values = straight.places[0]!.values.slice();
    const n = 4 * rig.names.length;
    for (let f = 0; f < 220; f++) {
      const heading = (1.4 * f) / 40;
      mulQuat(turns, n * f, yawQuat(heading), 0, turns, n * f);
      values.set([8 - Math.cos(heading), rig.restT[1]!, 6 + Math.sin(heading)], 3 * f);
    }
    const low = underRoot({ rig, motion: { ...straight, turns, places: [{ joint: 0, values }] } });
    const lower = party(low.rig);
    const kind = join({ kind: 'bridge', meet: 'world' });
    const lane = layLane(
      lower,
      [
        { motion: trim(low.rig, low.motion, 0, 119), at: 0, join: kind },
        { motion: trim(low.rig, low.motion, 160, 219), at: 160, join: kind },
      ],
      220,
    );
    const check = checkJoin(lower, lane, lane.joins[0]!);
    expect(check.placePercentLeg).toBeLessThan(1);
    const [made, real] = [worldPositions(low.rig, lane.motion), worldPositions(low.rig, low.motion)];
    const o = 3 * (140 * low.rig.names.length + 1);
    expect(Math.hypot(made[o]! - real[o]!, made[o + 2]! - real[o + 2]!)).toBeLessThan(0.1);
  });

  test('comes to rest where it has not', () => {
    const on = carryOn(who, still(60, 0.2), 30);
    expect(on.lap).toBe(0);
    const going = carryOn(who, trim(rig, free, 0, 30), 60);
    expect(going.lap).toBe(0);
    const last = worldPositions(rig, going.motion);
    const n = 3 * rig.names.length;
    const step = (f: number): number =>
      Math.max(...[...Array(n).keys()].map((i) => Math.abs(last[n * f + i]! - last[n * (f - 1) + i]!)));
    expect(step(31)).toBeGreaterThan(5 * step(80));
  });
});

const clamp01 = (x: number): number => Math.max(0, Math.min(1, x));

describe('found matches', () => {
  test('of two halves of one motion are its own frames', () => {
    const a = trim(rig, free, 0, 60);
    const b = moveRoots(who, trim(rig, free, 25, 89), [2, 0, 1], 1);
    const [best, ...others] = findMatches(who, a, b);
    expect(best!.a - best!.b).toBe(25);
    expect(best!.apartPercentLeg).toBeLessThan(3);
    for (const other of others) expect(other.apartPercentLeg).toBeGreaterThanOrEqual(best!.apartPercentLeg);
  });

  test('are those of one step, whichever step of the stairs most of a motion stands on', () => {
    const plain = posedRig(60);
    // stands, steps up, stands; one arm goes round all the while
    const level = standing(plain, 0.95, 240, (f, set) => set('LeftArm', [0, Math.sin(f / 90), 0, Math.cos(f / 90)]));
    const values = Float32Array.from(
      { length: 720 },
      (_, i) => [0, 0.95 + 0.4 * clamp01((Math.floor(i / 3) - 116) / 8), 0][i % 3]!,
    );
    const climbs = { ...level, places: [{ joint: 0, values }] };
    const up = party(plain);
    // the second half knows nothing of the step below
    const [a, b] = [trim(plain, climbs, 0, 200), trim(plain, climbs, 130, 239)];
    const [best] = findMatches(up, a, b, { from: [140, 200], to: [5, 65] });
    expect(best!.a - best!.b).toBe(130);
    expect(best!.apartPercentLeg).toBeLessThan(1);
    const { ground } = groundedOn(ownPlan(up), climbs);
    expect(ground[200]! - ground[40]!).toBeCloseTo(0.4, 1);
    expect(Math.max(...ground) - Math.min(...ground)).toBeLessThan(0.45);
  });

  test('are sought within a range only, and never between rates', () => {
    const found = findMatches(who, free, free, { from: [50, 60], to: [5, 10], count: 3 });
    for (const m of found) expect([m.a >= 50 && m.a <= 60, m.b >= 5 && m.b <= 10]).toEqual([true, true]);
    expect(() => findMatches(who, free, resample(rig, free, 30))).toThrow('one frame rate');
    expect(() => findMatches(who, free, free, { from: [200, 300] })).toThrow('No frame lies');
  });
});
