import fc from 'fast-check';
import type { Plant } from '../analysis/plants';
import type { Party } from '../body/party';
import { jointOf, SIDES } from '../bodymap/slots';
import { type Motion, PoseReader } from '../motion/motion';
import { buildRig, crawling, PLAIN, party } from '../test/bodies';
import { reportOf, retarget } from './retarget';

const crawler = party(buildRig());
/** On the balls of the feet, with knees and all drifting by a centimetre. */
const motion = crawling(60, { shin: 101, foot: -25, height: 0.488, drift: 0.008 });

/** The plain body with thighs, shins and feet of other lengths. */
const withLegs = (thigh: number, shin: number, foot: number): Party =>
  party(
    buildRig(
      PLAIN.map(([name, parent, x, y, z]) => {
        const drop = 0.41 * shin + 0.42 * thigh - 0.83;
        const side = Math.sign(x);
        if (/UpLeg$/.test(name)) return [name, parent, x, 0.92 + drop, z] as const;
        if (/Leg$/.test(name)) return [name, parent, x, 0.09 + 0.41 * shin, z] as const;
        if (/Toe$/.test(name)) return [name, parent, side * 0.09, 0.02, -0.01 + 0.14 * foot] as const;
        return [name, parent, x, /Foot$/.test(name) ? y : y + drop, z] as const;
      }),
    ),
  );

/** Largest way of a joint over the ground within its plants, and its heights there, metres. */
function spots(target: Party, result: Motion, plants: readonly Plant[], part: Plant['part'], joint: number) {
  const reader = new PoseReader(target.rig, result);
  let moved = 0;
  const heights: number[] = [];
  const places: number[][] = [];
  for (const { start, end } of plants.filter((p) => p.part === part)) {
    const first = Array.from(reader.at(start).p.slice(3 * joint, 3 * joint + 3));
    places.push(first);
    for (let f = start; f <= end; f++) {
      const { p } = reader.at(f);
      moved = Math.max(moved, Math.hypot(p[3 * joint]! - first[0]!, p[3 * joint + 2]! - first[2]!));
      heights.push(p[3 * joint + 1]!);
    }
  }
  return { moved, heights, places };
}

const kneesOf = (target: Party, done: ReturnType<typeof retarget>) =>
  SIDES.map((s) => spots(target, done.motion, done.plants, `knee${s}`, jointOf(target.map, `shin${s}`)));

test('knees keep their spots on legs of any proportions, and feet theirs', () => {
  fc.assert(
    fc.property(
      fc.double({ min: 0.6, max: 1.4, noNaN: true }),
      fc.double({ min: 0.6, max: 1.4, noNaN: true }),
      fc.double({ min: 0.7, max: 1.3, noNaN: true }),
      (thigh, shin, foot) => {
        const target = withLegs(thigh, shin, foot);
        const done = retarget(crawler, motion, target);
        for (const { moved, heights } of kneesOf(target, done)) {
          expect(heights.length).toBeGreaterThan(20);
          expect(moved).toBeLessThan(2e-4);
        }
        const report = reportOf(done);
        expect(report.slip.meanPercentLegPerPlantSecond).toBeLessThan(0.1);
        expect(report.floor.maxDepthCm).toBeLessThan(0.1);
      },
    ),
    { numRuns: 25 },
  );
});

test('the source sways over its knees: carried over alone they would slide', () => {
  const target = withLegs(1.3, 0.8, 1);
  const free = retarget(crawler, motion, target, { plants: false });
  const held = retarget(crawler, motion, target);
  const slides = spots(target, free.motion, held.plants, 'kneeL', jointOf(target.map, 'shinL')).moved;
  expect(slides).toBeGreaterThan(0.004);
});

test('a knee rests on its own skin where that is known, on the scaled height of the source’s where not', () => {
  const target = withLegs(0.8, 0.7, 1.2);
  const rests = (p: Party): number => {
    const { heights } = kneesOf(p, retarget(crawler, motion, p))[0]!;
    return heights.sort((a, b) => a - b)[heights.length >> 1]!;
  };
  const bare = rests(target);
  const thick = rests({ ...target, radii: { kneeL: 0.11, kneeR: 0.11 } });
  expect(thick - bare).toBeGreaterThan(0.03);
  // the source's knee is taken to rest on a thickness of its own; what it lies higher is kept
  const same = rests({ ...target, radii: { kneeL: bare, kneeR: bare } });
  expect(Math.abs(same - bare)).toBeLessThan(0.03);
});

test('a knee with a spot chosen by hand comes to it', () => {
  const target = withLegs(0.9, 0.9, 1);
  const done = retarget(crawler, motion, target);
  const [x, , z] = kneesOf(target, done)[0]!.places[0]!;
  const pin = [x! + 0.01, z! - 0.02] as const;
  const plants = done.plants.map((p) => (p.part === 'kneeL' ? { ...p, pin } : p));
  const again = retarget(crawler, motion, target, { contacts: { plants, floor: 0 } });
  const { places, moved } = kneesOf(target, again)[0]!;
  expect(places[0]![0]).toBeCloseTo(pin[0], 3);
  expect(places[0]![2]).toBeCloseTo(pin[1], 3);
  expect(moved).toBeLessThan(2e-4);
});

test('knees do not snap as they are taken up and let go', () => {
  const target = withLegs(1.2, 0.8, 1.2);
  const all = retarget(crawler, motion, target).plants;
  // the left knee is held in the middle only
  const plants = all.map((p) => (p.part === 'kneeL' ? { ...p, start: 20, end: 40 } : p));
  const done = retarget(crawler, motion, target, { contacts: { plants, floor: 0 } });
  const knee = jointOf(target.map, 'shinL');
  const reader = new PoseReader(target.rig, done.motion);
  const at = Array.from({ length: motion.frameCount }, (_, f) =>
    Array.from(reader.at(f).p.slice(3 * knee, 3 * knee + 3)),
  );
  for (let f = 1; f < at.length; f++)
    expect(Math.hypot(...at[f]!.map((x, k) => x - at[f - 1]![k]!))).toBeLessThan(0.012);
});

test('on upright thighs, knees of unequal thickness do not throw the hips aside', () => {
  const rig = crawler.rig;
  const n = rig.names.length;
  const frames = 40;
  const about = (degrees: number): number[] => {
    const half = (degrees * Math.PI) / 360;
    return [Math.sin(half), 0, 0, Math.cos(half)];
  };
  const turns = new Float32Array(4 * n * frames);
  const values = new Float32Array(3 * frames);
  for (let f = 0; f < frames; f++) {
    turns.set(rig.restR, 4 * n * f);
    for (const side of ['Left', 'Right']) {
      turns.set(about(101), 4 * (f * n + rig.names.indexOf(`${side}Leg`)));
      turns.set(about(-25), 4 * (f * n + rig.names.indexOf(`${side}Foot`)));
    }
    values.set([0.004 * Math.sin(f / 6), 0.515, 0.004 * Math.cos(f / 7)], 3 * f);
  }
  const upright: Motion = {
    fps: 30,
    frameCount: frames,
    turns,
    places: [{ joint: 0, values }],
    numbers: [],
    scales: [],
    steps: [],
  };
  const target = { ...withLegs(0.9, 0.9, 1), radii: { kneeL: 0.06, kneeR: 0.09 } };
  const done = retarget(crawler, upright, target);
  expect(new Set(done.plants.map((p) => p.part)).has('kneeL')).toBe(true);
  const hips = jointOf(target.map, 'hips');
  const free = new PoseReader(target.rig, retarget(crawler, upright, target, { plants: false }).motion);
  const held = new PoseReader(target.rig, done.motion);
  for (let f = 0; f < frames; f += 5) {
    const [a, b] = [[...free.at(f).p.subarray(3 * hips, 3 * hips + 3)], held.at(f).p];
    expect(Math.hypot(b[3 * hips]! - a[0]!, b[3 * hips + 2]! - a[2]!)).toBeLessThan(0.08);
  }
  for (const { moved } of kneesOf(target, done)) expect(moved).toBeLessThan(1e-3);
});

describe('a body that sits', () => {
  /** Sits on a box, rocking to and fro by some centimetres. */
  const sitting = (frames = 90): Motion => {
    const rig = buildRig();
    const n = rig.names.length;
    const turns = new Float32Array(4 * n * frames);
    const values = new Float32Array(3 * frames);
    const turn = (degrees: number): number[] => {
      const half = (degrees * Math.PI) / 360;
      return [Math.sin(half), 0, 0, Math.cos(half)];
    };
    for (let f = 0; f < frames; f++) {
      turns.set(rig.restR, 4 * n * f);
      for (const side of ['Left', 'Right']) {
        turns.set(turn(-85), 4 * (f * n + rig.names.indexOf(`${side}UpLeg`)));
        turns.set(turn(85), 4 * (f * n + rig.names.indexOf(`${side}Leg`)));
      }
      values.set([0.015 * Math.sin(f / 14), 0.53, 0.02 * Math.sin(f / 20)], 3 * f);
    }
    return { fps: 30, frameCount: frames, turns, places: [{ joint: 0, values }], numbers: [], scales: [], steps: [] };
  };

  test('stays on its spot, on legs of any length', () => {
    for (const legs of [0.7, 1, 1.3]) {
      const target = withLegs(legs, legs, 1);
      const done = retarget(crawler, sitting(), target);
      const seat = done.plants.find((p) => p.part === 'seat');
      expect(seat && seat.end - seat.start).toBeGreaterThan(60);
      const hips = jointOf(target.map, 'hips');
      const free = retarget(crawler, sitting(), target, { plants: false });
      expect(spots(target, free.motion, done.plants, 'seat', hips).moved).toBeGreaterThan(0.01);
      expect(spots(target, done.motion, done.plants, 'seat', hips).moved).toBeLessThan(1e-4);
      const report = reportOf(done);
      expect(report.slip.meanPercentLegPerPlantSecond).toBeLessThan(0.1);
      expect(report.troubles.filter((t) => t.kind === 'slip')).toEqual([]);
    }
  });

  test('comes to a spot chosen by hand', () => {
    const done = retarget(crawler, sitting(), crawler);
    const plants = done.plants.map((p) => (p.part === 'seat' ? { ...p, pin: [0.1, -0.05] as const } : p));
    const again = retarget(crawler, sitting(), crawler, { contacts: { plants, floor: 0 } });
    const { places } = spots(crawler, again.motion, plants, 'seat', jointOf(crawler.map, 'hips'));
    expect(places[0]![0]).toBeCloseTo(0.1, 3);
    expect(places[0]![2]).toBeCloseTo(-0.05, 3);
  });
});
