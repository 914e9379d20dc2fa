import fc from 'fast-check';
import { guessBodyMap } from '../bodymap/guess';
import { largestError } from '../codec/error';
import { addOffsets } from '../layer/offsets';
import { angleBetweenQuats, axisAngleQuat, mulQuat } from '../math/quat';
import { type Motion, PoseReader, worldPositions } from '../motion/motion';
import { hold, retime, reverse, trim } from '../motion/timing';
import { buildRig, party, wander, withOddAxes } from '../test/bodies';
import { fillGaps, findGaps, findSpikes, smooth } from './clean';
import { place, setOnFloor } from './place';
import { inPlace, toRootJoint } from './travel';
import { tune } from './tune';

const rig = withOddAxes(buildRig());
const self = party(rig);
const n = rig.names.length;
const still = (frames: number, fps = 60): Motion => {
  const turns = new Float32Array(4 * n * frames);
  for (let f = 0; f < frames; f++) turns.set(rig.restR, 4 * n * f);
  return { fps, frameCount: frames, turns, places: [], numbers: [], scales: [], steps: [] };
};

/** A seeded walk over the numbers −1 … 1. */
function noise(seed: number): () => number {
  let a = seed;
  return () => {
    a = (Math.imul(a, 1664525) + 1013904223) >>> 0;
    return a / 2147483648 - 1;
  };
}

describe('timing', () => {
  test('backwards twice is the motion itself, and the first frame becomes the last', () => {
    const m = wander(rig, 31, 3);
    expect(largestError(rig, m, reverse(rig, reverse(rig, m)))).toBeLessThan(1e-6);
    const back = reverse(rig, m);
    expect([...new PoseReader(rig, back).at(0).p]).toEqual([...new PoseReader(rig, m).at(30).p]);
  });

  test('one speed and a curve reach the last frame and take the time they say', () => {
    fc.assert(
      fc.property(fc.double({ min: 0.2, max: 5, noNaN: true }), (speed) => {
        const m = wander(rig, 61, 2);
        const done = retime(rig, m, speed);
        expect(Math.abs(done.frameCount - 1 - 60 / speed)).toBeLessThanOrEqual(0.5 + 1e-6);
        expect([...done.turns.subarray(-4)].map((x) => Math.abs(x))).toEqual(
          [...m.turns.subarray(-4)].map((x) => Math.abs(x)),
        );
      }),
      { numRuns: 30 },
    );
    const m = wander(rig, 121, 2);
    // twice as fast in the second half: 60 + 30 frames
    const curve = retime(rig, m, [
      { seconds: 0, speed: 1 },
      { seconds: 0.999, speed: 1 },
      { seconds: 1, speed: 2 },
    ]);
    expect(curve.frameCount).toBe(91);
    const a = new PoseReader(rig, m).at(30).p.slice();
    expect(Math.abs(new PoseReader(rig, curve).at(30).p[40]! - a[40]!)).toBeLessThan(1e-4);
  });

  test('trim and hold keep the frames they name; what lies outside is refused with both ends in the sentence', () => {
    const m = wander(rig, 20, 1);
    expect(trim(rig, m, 5, 9).turns).toEqual(m.turns.slice(4 * n * 5, 4 * n * 10));
    const held = hold(rig, m, 2, 3);
    expect(held.frameCount).toBe(25);
    expect(held.turns.slice(0, 4 * n)).toEqual(m.turns.slice(0, 4 * n));
    expect(() => trim(rig, m, 5, 20)).toThrow('Frames 5 to 20 are not within 0 to 19');
    expect(() => retime(rig, m, 0)).toThrow(/speed/i);
  });
});

describe('cleaning', () => {
  test('a spike and a flip are found where they are and taken out', () => {
    const m = wander(rig, 120, 5, 60, 0.2);
    const dirty = { ...m, turns: m.turns.slice() };
    const flip = [0, 0, 0, 1];
    axisAngleQuat(flip, 0, 0, 1, 0, Math.PI * 0.9);
    for (const f of [40, 41, 42]) mulQuat(dirty.turns, 4 * (f * n + 3), dirty.turns, 4 * (f * n + 3), flip, 0);
    axisAngleQuat(flip, 0, 1, 0, 0, 0.5);
    mulQuat(dirty.turns, 4 * (80 * n + 7), dirty.turns, 4 * (80 * n + 7), flip, 0);
    expect(findSpikes(rig, dirty)).toEqual([
      { joint: 3, start: 40, end: 42 },
      { joint: 7, start: 80, end: 80 },
    ]);
    expect(findSpikes(rig, m)).toEqual([]);
    const done = tune(self, dirty, [{ op: 'despike' }]);
    let worst = 0;
    for (let o = 0; o < m.turns.length; o += 4) worst = Math.max(worst, angleBetweenQuats(m.turns, o, done.turns, o));
    expect(worst).toBeLessThan(0.02);
  });

  test('gaps of a capture are filled near the truth; hand-made stillness is left alone', () => {
    const random = noise(7);
    const clean = wander(rig, 200, 5, 120, 0.4);
    const m = { ...clean, turns: clean.turns.map((x) => x + 2e-4 * random()) };
    const gappy = { ...m, turns: m.turns.slice() };
    for (let f = 50; f < 70; f++) gappy.turns.copyWithin(4 * (f * n + 4), 4 * (49 * n + 4), 4 * (49 * n + 4) + 4);
    expect(findGaps(rig, gappy)).toEqual([{ joint: 4, start: 50, end: 69 }]);
    const done = fillGaps(rig, gappy);
    const off = (a: Motion): number => angleBetweenQuats(a.turns, 4 * (60 * n + 4), m.turns, 4 * (60 * n + 4));
    expect(off(done)).toBeLessThan(0.25 * off(gappy));
    const handMade = hold(rig, trim(rig, clean, 0, 50), 0, 30);
    expect(findGaps(rig, handMade)).toEqual([]);
    expect(fillGaps(rig, handMade)).toBe(handMade);
  });

  test('smoothing takes noise out, delays nothing and leaves slow motion', () => {
    const random = noise(3);
    const clean = wander(rig, 240, 4, 120, 0.4);
    const dirty = { ...clean, turns: clean.turns.map((x) => x + 0.004 * random()) };
    const done = smooth(rig, dirty, 8);
    const off = (a: Motion): number => {
      let sum = 0;
      for (let o = 4 * n * 20; o < 4 * n * 220; o += 4) sum += angleBetweenQuats(a.turns, o, clean.turns, o) ** 2;
      return Math.sqrt(sum);
    };
    expect(off(done)).toBeLessThan(0.45 * off(dirty));
    // damped by half the power at the cut-off, whichever way time runs
    const tone = still(2400, 120);
    for (let f = 0; f < 2400; f++)
      tone.turns.set([0.01 * Math.sin((2 * Math.PI * 8 * f) / 120), 0, 0, 1], 4 * (f * n + 2));
    const out = smooth(rig, tone, 8);
    let peak = 0;
    for (let f = 600; f < 1800; f++) peak = Math.max(peak, Math.abs(out.turns[4 * (f * n + 2)]!));
    expect(peak / 0.01).toBeCloseTo(Math.SQRT1_2, 2);
    expect(() => smooth(rig, clean, 60)).toThrow(/60 Hz/);
  });
});

describe('place and travel', () => {
  test('placing puts the first frame where it is asked, and changes no pose', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -3, max: 3, noNaN: true }),
        fc.double({ min: -170, max: 170, noNaN: true }),
        (x, heading) => {
          const m = wander(rig, 20, 2);
          const done = place(self, m, [x, 1], heading);
          const p = new PoseReader(rig, done).at(0).p;
          expect(p[0]).toBeCloseTo(x, 4);
          expect(p[2]).toBeCloseTo(1, 4);
          const apart = (a: Motion, f: number): number => {
            const w = worldPositions(rig, a);
            return Math.hypot(...[0, 1, 2].map((k) => w[3 * (f * n + 10) + k]! - w[3 * (f * n + 15) + k]!));
          };
          expect(apart(done, 13)).toBeCloseTo(apart(m, 13), 4);
        },
      ),
      { numRuns: 20 },
    );
  });

  test('setting on the floor', () => {
    const up = tune(self, still(30), [{ op: 'place', at: [0, 0], heading: 0 }]);
    const lifted = {
      ...up,
      places: up.places.map((t) => ({ ...t, values: t.values.map((x, i) => (i % 3 === 1 ? x + 0.4 : x)) })),
    };
    const done = setOnFloor(self, lifted);
    expect(new PoseReader(rig, done).at(0).p[1]).toBeCloseTo(new PoseReader(rig, still(1)).at(0).p[1]!, 3);
  });

  test('in place takes the travel out and leaves height and sway; onto a root joint nothing moves in the world', () => {
    const m = wander(rig, 120, 2);
    const done = inPlace(self, m);
    const a = worldPositions(rig, m);
    const b = worldPositions(rig, done);
    const at = (w: Float32Array, f: number, k: number): number => w[3 * f * n + k]!;
    expect(Math.abs(at(a, 119, 2) - at(a, 0, 2))).toBeGreaterThan(1);
    expect(Math.abs(at(b, 119, 2) - at(b, 0, 2))).toBeLessThan(0.05);
    expect(at(b, 60, 1)).toBeCloseTo(at(a, 60, 1), 6);
    const rooted = toRootJoint(self, m);
    expect([rooted.added, rooted.rig.names[0]]).toEqual([true, 'root']);
    const c = worldPositions(rooted.rig, rooted.motion);
    for (const f of [0, 50, 119])
      for (let j = 0; j < n; j++)
        for (let k = 0; k < 3; k++) expect(c[3 * (f * (n + 1) + j + 1) + k]).toBeCloseTo(a[3 * (f * n + j) + k]!, 5);
    const again = toRootJoint({ rig: rooted.rig, map: guessBodyMap(rooted.rig) }, rooted.motion);
    expect(again.added).toBe(false);
  });
});

describe('corrections', () => {
  test('an offset holds outside its keys, eases between them and leaves other joints alone', () => {
    const m = still(21);
    const turn = [0, 0, 0, 1] as [number, number, number, number];
    axisAngleQuat(turn, 0, 0, 0, 1, 1);
    const done = addOffsets(rig, m, [
      {
        joint: 4,
        keys: [
          { frame: 5, turn: [0, 0, 0, 1] },
          { frame: 15, turn, move: [0, 0.1, 0] },
        ],
      },
    ]);
    const angle = (f: number): number => angleBetweenQuats(done.turns, 4 * (f * n + 4), rig.restR, 16);
    expect([angle(0), angle(5)].map((x) => Number(x.toFixed(4)))).toEqual([0, 0]);
    expect(angle(10)).toBeCloseTo(0.5, 3);
    expect([angle(15), angle(20)].map((x) => Number(x.toFixed(4)))).toEqual([1, 1]);
    expect(done.places[0]!.values[3 * 20 + 1]).toBeCloseTo(rig.restT[13]! + 0.1, 5);
    // a key that says nothing of a move leaves it to the one that does
    expect(done.places[0]!.values[1]).toBeCloseTo(rig.restT[13]! + 0.1, 5);
    expect(() => addOffsets(rig, m, [{ joint: 4, keys: [{ frame: 5 }, { frame: 5 }] }])).toThrow(/rising order/);
    expect(() => addOffsets(rig, m, [{ joint: 99, keys: [] }])).toThrow(/no joint 99/);
  });

  test('nothing asked for is nothing changed, for every step with a neutral amount', () => {
    const m = wander(rig, 20, 1);
    expect(
      tune(self, m, [
        { op: 'energy', amount: 1 },
        { op: 'arms', degrees: 0 },
        { op: 'stance', scale: 1 },
        { op: 'stride', scale: 1 },
        { op: 'lean', forward: 0 },
        { op: 'speed', speed: 1 },
        { op: 'trim', start: 0, end: 19 },
        { op: 'hold' },
        { op: 'resample', fps: 60 },
      ]),
    ).toBe(m);
    expect(() => tune(self, m, [{ op: 'dance' } as never])).toThrow(/no tuning step called "dance"/);
  });
});
