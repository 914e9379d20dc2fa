import fc from 'fast-check';
import { addOffsets } from '../layer/offsets';
import { angleBetweenQuats } from '../math/quat';
import { buildRig, posedRig, wander } from '../test/bodies';
import { ChainReader } from './chain-reader';
import {
  assertMotion,
  durationOf,
  type Motion,
  PoseReader,
  restMotion,
  transformMotion,
  worldPositions,
} from './motion';
import { moveJoint } from './move-joint';
import { resample } from './timing';
import { betweenFrames } from './tracks';

const rig = posedRig(60);
const n = rig.names.length;
const at = (name: string): number => rig.names.indexOf(name);
const turnAt = (m: Motion, joint: number, frame: number): number[] => [
  ...m.turns.subarray(4 * (frame * n + joint), 4 * (frame * n + joint) + 4),
];

describe('reading poses', () => {
  test('some joints alone stand where all of them would', () => {
    const motion = wander(rig, 12, 4);
    const all = new PoseReader(rig, motion);
    const hand = at('LeftHand');
    const foot = at('RightFoot');
    const some = new ChainReader(rig, motion, [hand, foot]);
    for (let f = 0; f < 12; f++) {
      const a = all.at(f);
      const b = some.at(f);
      for (const j of [hand, foot, at('Hips'), at('LeftForeArm')]) {
        for (let k = 0; k < 3; k++) expect(b.p[3 * j + k]).toBeCloseTo(a.p[3 * j + k]!, 6);
        for (let k = 0; k < 4; k++) expect(b.r[4 * j + k]).toBeCloseTo(a.r[4 * j + k]!, 6);
      }
    }
  });

  test('places of all frames are those of each frame', () => {
    const motion = wander(rig, 5, 2);
    const places = worldPositions(rig, motion);
    const reader = new PoseReader(rig, motion);
    for (const f of [0, 3, 4]) {
      const { p } = reader.at(f);
      for (let k = 0; k < 3 * n; k += 7) expect(places[3 * n * f + k]).toBeCloseTo(p[k]!, 5);
    }
  });

  test('a rest motion stands as its rig rests', () => {
    const m = restMotion(rig, 24);
    expect([m.fps, m.frameCount, durationOf(m)]).toEqual([24, 1, 0]);
    expect([...m.turns]).toEqual([...rig.restR]);
    assertMotion(rig, m);
  });
});

describe('what is no motion of a rig is refused with its place', () => {
  const good = wander(rig, 4, 1);
  const broken = (change: (m: { -readonly [K in keyof Motion]: Motion[K] }) => void): Motion => {
    const m = { ...good, turns: good.turns.slice() };
    change(m);
    return m;
  };
  test.each([
    ['no rate', broken((m) => (m.fps = 0)), /rate is not above 0/],
    ['an endless rate', broken((m) => (m.fps = Number.POSITIVE_INFINITY)), /rate/],
    ['no frames', broken((m) => (m.frameCount = 0)), /no frames/],
    ['too few turns', broken((m) => (m.turns = m.turns.slice(4))), /rotation numbers/],
    ['a turn that is none', broken((m) => (m.turns[4 * (2 * n + 3)] = Number.NaN)), /not a finite number/],
    [
      'travel of a joint that is not there',
      broken((m) => (m.places = [{ joint: 99, values: new Float32Array(12) }])),
      /names joint 99; the rig has 21 joints/,
    ],
    [
      'travel that is too short',
      broken((m) => (m.places = [{ joint: 0, values: new Float32Array(3) }])),
      /holds 3 numbers; 4 frames need 12/,
    ],
    [
      'a place that is none',
      broken((m) => (m.places = [{ joint: 0, values: new Float32Array(12).fill(Number.NaN) }])),
      /places holds a number that is not finite/,
    ],
    [
      'labels too few for its frames',
      broken((m) => (m.steps = [{ name: 'eye', labels: ['open'], values: new Uint16Array(3) }])),
      /"eye" holds 3 labels for 4 frames/,
    ],
    [
      'a label that is not there',
      broken((m) => (m.steps = [{ name: 'eye', labels: ['open'], values: new Uint16Array(4).fill(1) }])),
      /"eye" shows a label that it does not have/,
    ],
    [
      'a size that is none',
      broken((m) => (m.scales = [{ joint: 0, values: new Float32Array(12).fill(Number.NaN) }])),
      /scales holds a number that is not finite/,
    ],
  ])('%s', (_, motion, words) => {
    expect(() => assertMotion(rig, motion)).toThrow(words);
  });

  test('joint and frame are told', () => {
    const m = broken((x) => (x.turns[4 * (2 * n + 3) + 1] = Number.NaN));
    expect(() => assertMotion(rig, m)).toThrow(
      expect.objectContaining({ code: 'bad-number', place: { joint: rig.names[3], frame: 2 } }),
    );
  });
});

describe('another rate', () => {
  test('keeps the first frame, and the duration within one of its frames', () => {
    fc.assert(
      fc.property(fc.integer({ min: 2, max: 60 }), fc.constantFrom(12, 24, 25, 29.97, 48, 60, 120), (frames, fps) => {
        const m = wander(rig, frames, 3, 30);
        const done = resample(rig, m, fps);
        expect(turnAt(done, 5, 0)).toEqual(turnAt(m, 5, 0).map((x) => expect.closeTo(x, 5)));
        expect(durationOf(done)).toBeLessThanOrEqual(durationOf(m) + 1e-6);
        expect(durationOf(done)).toBeGreaterThan(durationOf(m) - 1 / fps - 1e-6);
        assertMotion(rig, done);
      }),
      { numRuns: 40 },
    );
  });

  test('doubled and halved again it is what it was', () => {
    const m = wander(rig, 21, 8, 30);
    const back = resample(rig, resample(rig, m, 60), 30);
    expect(back.frameCount).toBe(21);
    for (let f = 0; f < 21; f += 4)
      for (let j = 0; j < n; j++)
        expect(angleBetweenQuats(m.turns, 4 * (f * n + j), back.turns, 4 * (f * n + j))).toBeLessThan(1e-3);
  });

  test('numbers over time go along, and a rate that is none is refused', () => {
    const m: Motion = { ...wander(rig, 3, 1, 10), numbers: [{ name: 'smile', values: Float32Array.of(0, 1, 0) }] };
    const done = resample(rig, m, 20);
    expect([...done.numbers[0]!.values]).toEqual([0, 0.5, 1, 0.5, 0].map((x) => expect.closeTo(x, 5)));
    for (const fps of [0, -1, 1001, Number.NaN])
      expect(() => resample(rig, m, fps)).toThrow(/above 0 and at most 1000/);
    expect(resample(rig, m, 10)).toBe(m);
  });

  test('a moment lies between two frames, and never outside', () => {
    expect(betweenFrames(1.5, 5)).toEqual({ a: 1, b: 2, t: expect.closeTo(0.5, 9) });
    expect(betweenFrames(-30, 5)).toEqual({ a: 0, b: 0, t: 0 });
    expect(betweenFrames(990, 5)).toEqual({ a: 4, b: 4, t: 0 });
  });
});

describe('moving things', () => {
  test('a motion turned and scaled as a whole ends where its places turned and scaled end', () => {
    const m = wander(rig, 6, 5);
    const s = Math.SQRT1_2;
    const scaled = { ...rig, restT: rig.restT.map((x) => 2 * x) };
    const a = worldPositions(rig, m);
    const b = worldPositions(scaled, transformMotion(rig, m, [0, s, 0, s], 2));
    // a quarter turn about the upright axis: x becomes −z, z becomes x
    for (let o = 0; o < a.length; o += 3 * 11) {
      expect(b[o]).toBeCloseTo(2 * a[o + 2]!, 4);
      expect(b[o + 1]).toBeCloseTo(2 * a[o + 1]!, 4);
      expect(b[o + 2]).toBeCloseTo(-2 * a[o]!, 4);
    }
  });

  test('one joint goes through the world with what hangs from it; the rest stays', () => {
    const m = wander(rig, 8, 6);
    const chest = at('Chest');
    const done = moveJoint(rig, m, chest, (f) => (f === 3 ? [0.1, -0.2, 0.3] : undefined));
    const [before, after] = [new PoseReader(rig, m), new PoseReader(rig, done)];
    for (const f of [2, 3]) {
      const [a, b] = [before.at(f).p, after.at(f).p];
      for (const [name, moves] of [
        ['Chest', true],
        ['LeftHand', true],
        ['Hips', false],
        ['LeftFoot', false],
      ] as const) {
        const j = 3 * at(name);
        const by = f === 3 && moves ? [0.1, -0.2, 0.3] : [0, 0, 0];
        for (let k = 0; k < 3; k++) expect(b[j + k]! - a[j + k]!).toBeCloseTo(by[k]!, 5);
      }
    }
    expect(m.places).toHaveLength(1);
  });

  test('the root moves as it is told, on a rig of one joint too', () => {
    const one = buildRig([['Only', null, 0, 1, 0]]);
    const m = restMotion(one);
    const done = moveJoint(one, m, 0, () => [1, 2, 3]);
    expect([...worldPositions(one, done)]).toEqual([1, 3, 3]);
  });
});

describe('how an offset gets from key to key', () => {
  const still: Motion = { ...wander(rig, 11, 1, 30, 0), places: [] };
  const place = (ease: 'smooth' | 'linear' | 'step'): number[] => {
    const done = addOffsets(rig, still, [
      {
        joint: 4,
        keys: [
          { frame: 2, move: [0, 0, 0], ease },
          { frame: 8, move: [0, 0.6, 0] },
        ],
      },
    ]);
    const { values } = done.places.find((t) => t.joint === 4)!;
    return Array.from({ length: 11 }, (_, f) => values[3 * f + 1]! - rig.restT[13]!);
  };
  test('evenly, eased, or held; the ends hold beyond their keys', () => {
    const even = place('linear');
    expect(even[5]).toBeCloseTo(0.3, 5);
    expect(even[3]).toBeCloseTo(0.1, 5);
    const eased = place('smooth');
    expect(eased[5]).toBeCloseTo(0.3, 5);
    expect(eased[3]!).toBeLessThan(0.1);
    expect(eased[7]!).toBeGreaterThan(0.5);
    const held = place('step');
    expect(held[7]).toBeCloseTo(0, 6);
    expect(held[8]).toBeCloseTo(0.6, 5);
    for (const way of [even, eased, held]) {
      expect(way[0]).toBeCloseTo(0, 6);
      expect(way[10]).toBeCloseTo(0.6, 5);
      for (let f = 1; f < 11; f++) expect(way[f]!).toBeGreaterThanOrEqual(way[f - 1]! - 1e-6);
    }
  });

  test('a turn of no length is refused', () => {
    expect(() => addOffsets(rig, still, [{ joint: 4, keys: [{ frame: 0, turn: [0, 0, 0, 0] }] }])).toThrow();
  });
});
