import fc from 'fast-check';
import { partPlace } from '../analysis/part-place';
import { steadiness } from '../analysis/steadiness';
import { alignmentTurns } from '../body/alignment';
import { measureBody } from '../body/body';
import { chainOf, jointOf } from '../bodymap/slots';
import { angleBetweenQuats, axisAngleQuat, mulQuat } from '../math/quat';
import { type Motion, PoseReader } from '../motion/motion';
import { restPose } from '../rig/rig';
import { buildRig, crawling, PLAIN, party, posedRig, wander, withOddAxes } from '../test/bodies';
import { weightOf } from './arms';
import { envelope, fillBetween, runningMean } from './envelope';
import { handGoalsFor } from './hand-goals';
import { planRetarget } from './plan';
import { reportOf, retarget, solve } from './retarget';

const plain = buildRig();
const source = party(plain);
const n = plain.names.length;
const DEG = 180 / Math.PI;

const OWN = 0.83;
/** The plain body with longer or shorter arms. */
const withArms = (scale: number) =>
  buildRig(
    PLAIN.map(([name, parent, x, y, z]) => {
      const arm = /(ForeArm|Hand)$/.test(name);
      const s = Math.sign(x);
      return [name, parent, arm ? s * (0.17 + (Math.abs(x) - 0.17) * scale) : x, y, z] as const;
    }),
  );

describe('on hands and knees', () => {
  const motion = crawling();
  // arms that just reach the ground
  const crawler = party(withArms(OWN));

  test('hands and knees are seen to rest on the ground', () => {
    const parts = new Set(retarget(crawler, motion, crawler).plants.map((p) => p.part));
    for (const part of ['handL', 'handR', 'kneeL', 'kneeR'])
      expect([part, parts.has(part as never)]).toEqual([part, true]);
  });

  test.each([0.8, 1, 1.15, 1.25])(
    'arms %d times as long: the trunk pitches, and arms keep their directions',
    (scale) => {
      const target = party(withArms(OWN * scale));
      const done = retarget(crawler, motion, target);
      const report = reportOf(done);
      expect(report.direction.meanDeg).toBeLessThan(5);
      expect(report.direction.p95Deg).toBeLessThan(12);
      expect(report.reach.handsCm).toBeLessThan(1.5);
      // shoulders came up for longer arms and down for shorter ones
      const height = (m: Motion, p: typeof target): number => {
        const at = new PoseReader(p.rig, m).at(30).p;
        return (at[3 * jointOf(p.map, 'upperArmL') + 1]! + at[3 * jointOf(p.map, 'upperArmR') + 1]!) / 2;
      };
      const rise = height(done.motion, target) - height(motion, crawler);
      if (scale > 1) expect(rise).toBeGreaterThan(0.05);
      if (scale < 1) expect(rise).toBeLessThan(-0.02);
      if (scale === 1) expect(Math.abs(rise)).toBeLessThan(0.02);
    },
  );

  test('hands stay on their spots and the head keeps looking where it looked', () => {
    const target = party(withArms(1.3 * OWN));
    const done = retarget(crawler, motion, target);
    const reader = new PoseReader(target.rig, done.motion);
    const hand = 3 * jointOf(target.map, 'handL');
    const span = done.plants.find((p) => p.part === 'handL')!;
    const first = [...reader.at(span.start).p.slice(hand, hand + 3)];
    for (let f = span.start; f <= span.end; f += 5) {
      const now = reader.at(f).p.slice(hand, hand + 3);
      expect(Math.hypot(now[0]! - first[0]!, now[2]! - first[2]!)).toBeLessThan(0.02);
    }
    const head = jointOf(target.map, 'head');
    const [a, b] = [new PoseReader(crawler.rig, motion).at(30).r, reader.at(30).r];
    expect(
      angleBetweenQuats(Float64Array.from(a), 4 * jointOf(crawler.map, 'head'), Float64Array.from(b), 4 * head) * DEG,
    ).toBeLessThan(1);
  });

  test('a hand with a spot chosen by hand comes to it and stays', () => {
    const target = party(withArms(1.1 * OWN));
    const done = retarget(crawler, motion, target);
    const side = { ...target, body: measureBody(target.rig, target.map) };
    const { start, end } = done.plants.find((p) => p.part === 'handL')!;
    const [x, , z] = partPlace(side, done.motion, 'handL', start)!;
    const pin = [x! - 0.03, z! + 0.02] as const;
    const plants = done.plants.map((p) => (p.part === 'handL' ? { ...p, pin } : p));
    const again = retarget(crawler, motion, target, { contacts: { plants, floor: 0 } });
    for (const f of [start, (start + end) >> 1, end]) {
      const at = partPlace(side, again.motion, 'handL', f)!;
      expect(at[0]).toBeCloseTo(pin[0], 3);
      expect(at[2]).toBeCloseTo(pin[1], 3);
    }
  });

  test('told not to hold them, nothing of it happens', () => {
    const done = retarget(crawler, motion, party(withArms(1.4 * OWN)), { holds: false });
    expect(done.plants.every((p) => p.part.startsWith('heel') || p.part.startsWith('ball'))).toBe(true);
  });
});

describe('courses over time', () => {
  const values = fc
    .array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 1, maxLength: 80 })
    .map((x) => Float64Array.from(x));

  test('an envelope is nowhere below, nowhere above the highest, and smooth', () => {
    fc.assert(
      fc.property(values, fc.integer({ min: 1, max: 20 }), (x, w) => {
        const e = envelope(x, w);
        const high = Math.max(...x);
        x.forEach((v, f) => {
          expect(e[f]!).toBeGreaterThanOrEqual(v - 1e-9);
          expect(e[f]!).toBeLessThanOrEqual(high + 1e-9);
        });
        for (let f = 1; f < e.length; f++)
          expect(Math.abs(e[f]! - e[f - 1]!)).toBeLessThanOrEqual(high / (2 * (w >> 1) + 1) + 1e-9);
      }),
    );
  });

  test('a running mean keeps what is even and lies between the extremes', () => {
    fc.assert(
      fc.property(values, fc.nat(12), (x, w) => {
        const m = runningMean(x, w);
        for (const v of m) {
          expect(v).toBeGreaterThanOrEqual(Math.min(...x) - 1e-9);
          expect(v).toBeLessThanOrEqual(Math.max(...x) + 1e-9);
        }
      }),
    );
    expect([...runningMean(new Float64Array(9).fill(3), 2)]).toEqual(Array(9).fill(3));
  });

  test('between what was asked the nearest holds, fading to nothing', () => {
    const ask = new Float64Array(30).fill(Number.NaN);
    ask[10] = 2;
    fillBetween(ask, 5);
    expect(ask[10]).toBe(2);
    expect(ask[11]!).toBeLessThan(2);
    expect(ask[11]!).toBeGreaterThan(1);
    expect([ask[0], ask[15], ask[29]]).toEqual([0, 0, 0]);
    expect(ask.every(Number.isFinite)).toBe(true);
  });

  test('weights are full within their spans and fade on both sides', () => {
    const w = weightOf([{ start: 10, end: 14 }], 30, 4);
    expect([...w.slice(10, 15)]).toEqual(Array(5).fill(1));
    expect(w[9]!).toBeGreaterThan(w[7]!);
    expect(w[15]!).toBeGreaterThan(w[17]!);
    expect([w[0], w[29]]).toEqual([0, 0]);
  });
});

describe('alignment', () => {
  test.each([
    ['T-pose', posedRig(90)],
    ['A-pose', posedRig(45)],
    ['hanging', posedRig(5)],
    ['other axes', withOddAxes(posedRig(60))],
  ])('%s: limbs of the aligned pose point as the common body’s do', (_, rig) => {
    const { map } = party(rig);
    const aligned = alignmentTurns(rig, map);
    const rest = restPose(rig);
    for (const [slot, next, want] of [
      ['upperArmL', 'forearmL', [1, 0, 0]],
      ['forearmR', 'handR', [-1, 0, 0]],
      ['thighL', 'shinL', [0, -1, 0]],
    ] as const) {
      const [j, k] = [jointOf(map, slot), jointOf(map, next)];
      // the bone in its own frame, turned by the aligned turn
      const d = [0, 1, 2].map((c) => rest.p[3 * k + c]! - rest.p[3 * j + c]!);
      const q = [-rest.r[4 * j]!, -rest.r[4 * j + 1]!, -rest.r[4 * j + 2]!, rest.r[4 * j + 3]!];
      const v = [...d, 0];
      mulQuat(v, 0, q, 0, v, 0);
      mulQuat(v, 0, v, 0, [-q[0]!, -q[1]!, -q[2]!, q[3]!], 0);
      const a = [...aligned.slice(4 * j, 4 * j + 4)];
      mulQuat(v, 0, a, 0, v, 0);
      mulQuat(v, 0, v, 0, [-a[0]!, -a[1]!, -a[2]!, a[3]!], 0);
      const length = Math.hypot(...d);
      want.forEach((x, c) => expect(v[c]! / length).toBeCloseTo(x, 1));
    }
  });
});

describe('plans', () => {
  test('same rig: every joint answers itself, nothing is scaled', () => {
    const plan = planRetarget(source, source);
    expect(plan.scale).toBeCloseTo(1, 9);
    expect(plan.equalRigs).toBe(true);
    plan.a.forEach((a, j) => expect([j, a >= 0 ? a : plan.same[j]]).toEqual([j, j]));
  });

  test('a longer spine shares a shorter one by length, in order, its last joint wholly with the chest', () => {
    const long = buildRig([
      ['Hips', null, 0, 0.95, 0],
      ['Spine', 'Hips', 0, 1.0, 0],
      ['Spine1', 'Spine', 0, 1.08, 0],
      ['Spine2', 'Spine1', 0, 1.16, 0],
      ['Spine3', 'Spine2', 0, 1.24, 0],
      ...PLAIN.filter(([name]) => !/^(Hips|Spine|Chest)$/.test(name)).map(
        ([name, parent, x, y, z]) => [name, parent === 'Chest' ? 'Spine3' : parent, x, y, z] as const,
      ),
    ]);
    const target = party(long);
    const plan = planRetarget(source, target);
    const chain = chainOf(target.map, 'spine');
    expect(chain).toHaveLength(4);
    const top = chain.at(-1)!;
    expect(plan.b[top]).toBe(jointOf(source.map, 'spine2'));
    expect(plan.t[top]! === 1 || plan.a[top] === plan.b[top]).toBe(true);
    for (const j of chain) expect(plan.t[j]!).toBeLessThanOrEqual(1);
  });

  test('a plan made once solves as a retarget made anew', () => {
    const motion = wander(plain, 30, 4);
    const target = party(posedRig(50, 0.8, true));
    const plan = planRetarget(source, target);
    expect(solve(plan, motion).motion.turns).toEqual(retarget(source, motion, target).motion.turns);
  });

  test('what is left out on purpose rests', () => {
    const target = party(posedRig(60));
    const head = jointOf(target.map, 'head');
    const map = {
      ...target.map,
      slots: { ...target.map.slots, head: { joint: -1, state: 'empty' as const, why: 'left out' } },
    };
    const done = retarget(source, wander(plain, 20, 3), { rig: target.rig, map }, { plants: false });
    for (const f of [0, 10, 19])
      expect(angleBetweenQuats(done.motion.turns, 4 * (f * n + head), target.rig.restR, 4 * head)).toBeLessThan(1e-5);
  });
});

describe('reports', () => {
  const done = retarget(source, wander(plain, 60, 2), party(posedRig(60, 0.85)));
  const report = reportOf(done);

  test('measure every frame in every lane', () => {
    expect(report.frames).toBe(60);
    for (const lane of report.lanes) {
      expect([lane.name, lane.values.length]).toEqual([lane.name, 60]);
      expect(lane.values.every((x) => Number.isFinite(x) && x >= 0)).toBe(true);
    }
  });

  test('the worst frame of directions is the highest of its lane', () => {
    const lane = report.lanes.find((l) => l.name === 'direction')!;
    expect(Math.max(...lane.values)).toBeCloseTo(report.direction.maxDeg, 3);
    expect(report.direction.meanDeg).toBeLessThanOrEqual(report.direction.p95Deg + 1e-6);
    expect(report.direction.p95Deg).toBeLessThanOrEqual(report.direction.maxDeg + 1e-6);
  });

  test('every trouble has a frame within the motion, a joint and a sentence', () => {
    for (const t of report.troubles) {
      expect(t.frame).toBeGreaterThanOrEqual(0);
      expect(t.frame).toBeLessThan(60);
      expect(t.text.length).toBeGreaterThan(10);
      expect(t.joint).not.toBe('');
    }
  });

  test('a body without one arm says so, and a hand goal for it is not missed', () => {
    const one = buildRig(PLAIN.filter(([name]) => !/^Left(Shoulder|Arm|ForeArm|Hand)$/.test(name)));
    const out = retarget(source, wander(plain, 30, 2), party(one), { hands: handGoalsFor('head') });
    expect(reportOf(out).warnings.join(' ')).toMatch(/no left arm/);
  });
});

describe('steadiness', () => {
  test('is nothing for stillness and grows with noise', () => {
    const still: Motion = {
      fps: 60,
      frameCount: 30,
      turns: Float32Array.from({ length: 4 * n * 30 }, (_, i) => (i % 4 === 3 ? 1 : 0)),
      places: [],
      numbers: [],
      scales: [],
      steps: [],
    };
    expect(steadiness(source, still)).toMatchObject({ jitter: 0, snap: 0 });
    const level = (size: number): number => {
      let seed = 5;
      const random = (): number => {
        seed = (seed * 16807) % 2147483647;
        return seed / 2147483647 - 0.5;
      };
      const turns = still.turns.map((x) => x + size * random());
      for (let o = 0; o < turns.length; o += 4) {
        const l = Math.hypot(...turns.subarray(o, o + 4));
        for (let k = 0; k < 4; k++) turns[o + k] = turns[o + k]! / l;
      }
      return steadiness(source, { ...still, turns }).jitter;
    };
    expect(level(0.02)).toBeGreaterThan(1.5 * level(0.01));
    expect(level(0.01)).toBeGreaterThan(0);
  });

  test('a knee that snaps is named with its frame', () => {
    const motion = wander(plain, 40, 1, 60, 0.2);
    const turns = motion.turns.slice();
    axisAngleQuat(turns, 4 * (20 * n + plain.names.indexOf('RightLeg')), 1, 0, 0, 1.4);
    const s = steadiness(source, { ...motion, turns });
    expect(s.snapSlot).toBe('shinR');
    expect(Math.abs(s.snapFrame - 20)).toBeLessThanOrEqual(1);
  });
});

test('bodies measure the same whatever their axes', () => {
  const [a, b] = [posedRig(90, 0.9), posedRig(90, 0.9, true)].map((rig) => measureBody(rig, party(rig).map));
  expect(b!.leg).toBeCloseTo(a!.leg, 5);
  expect(b!.arm).toBeCloseTo(a!.arm, 5);
  expect(b!.floor).toBeCloseTo(a!.floor, 4);
});
