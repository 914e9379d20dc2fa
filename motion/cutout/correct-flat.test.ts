import { guessBodyMap } from '../bodymap/guess';
import { jointOf } from '../bodymap/slots';
import { FITTING_DEFAULTS, NO_EDITS } from '../fitting/document';
import { evaluateFitting } from '../fitting/evaluate';
import type { Handle } from '../layer/correct';
import type { Motion } from '../motion/motion';
import { PlaneReader } from '../motion/plane-pose';
import { asSkeleton } from '../rig/flat';
import { paperFigure, paperTraits } from '../test/paper';
import { walking } from '../test/variants';
import { cutoutFromSvg } from './assemble';
import { correctFlat } from './correct-flat';
import { driveCutout } from './drive';
import { type CutoutKeys, evaluateKeys, keyedAt, keysOfMotion } from './keys';
import { rekeyed } from './rekey';

const figure = cutoutFromSvg(
  new TextEncoder().encode(
    paperFigure(paperTraits(4, { facing: 'right', language: 'plain', depth: false, nested: false })).svg,
  ),
);
const walk = walking();
const driven = driveCutout({ rig: walk.rig, map: guessBodyMap(walk.rig) }, walk.motion, figure, {
  foreshorten: 1,
  swing: false,
}).motion;
/** The same walk by a figure that is turned over all the while. */
const over: Motion = {
  ...driven,
  scales: [
    {
      joint: jointOf(figure.map, 'hips'),
      between: 'hold',
      values: Float32Array.from({ length: 3 * driven.frameCount }, (_, i) => (i % 3 === 0 ? -1 : 1)),
    },
  ],
};

const at = (motion: Motion, slot: string, f: number): number[] => {
  const frames = new PlaneReader(figure.rig, motion).read(f / motion.fps);
  const o = 6 * jointOf(figure.map, slot);
  return [...frames.subarray(o, o + 6)];
};
const pull = (handle: Handle, x: number, y: number) => [{ handle, keys: [{ frame: 0, move: [x, y, 0.3] as const }] }];

describe.each([
  ['as driven', driven],
  ['turned over', over],
])('a cut-out corrected by hand, %s', (_, motion) => {
  test.each(['handL', 'handR', 'footL', 'footR'] as const)('%s goes where it is pulled and keeps its turn', (slot) => {
    // towards the joint it hangs from, so that it is within reach in every frame
    const root = slot.startsWith('hand') ? `upperArm${slot.at(-1)}` : `thigh${slot.at(-1)}`;
    for (const f of [0, 31, 77]) {
      const [a, b] = [at(motion, slot, f), at(motion, root, f)];
      const [x, y] = [0.2 * (b[4]! - a[4]!), 0.2 * (b[5]! - a[5]!)];
      const pulled = correctFlat(figure, motion, pull(slot, x, y));
      const now = at(pulled, slot, f);
      expect(now[4]!).toBeCloseTo(a[4]! + x, 5);
      expect(now[5]!).toBeCloseTo(a[5]! + y, 5);
      for (let k = 0; k < 4; k++) expect(now[k]!).toBeCloseTo(a[k]!, 5);
      expect(at(pulled, 'head', f)).toEqual(at(motion, 'head', f));
    }
  });

  test('what is out of reach is reached for, without a jump', () => {
    const pulled = correctFlat(figure, motion, pull('handL', 2, 3));
    const n = figure.rig.names.length;
    let most = 0;
    let was = 0;
    for (let f = 1; f < motion.frameCount; f++)
      for (let i = 0; i < 4 * n; i++) {
        most = Math.max(most, Math.abs(pulled.turns[4 * n * f + i]! - pulled.turns[4 * n * (f - 1) + i]!));
        was = Math.max(was, Math.abs(motion.turns[4 * n * f + i]! - motion.turns[4 * n * (f - 1) + i]!));
      }
    expect(most).toBeLessThan(1.5 * was + 0.02);
    const [u, h] = [at(pulled, 'upperArmL', 40), at(pulled, 'handL', 40)];
    expect(Math.hypot(h[4]! - u[4]!, h[5]! - u[5]!)).toBeGreaterThan(0.1);
  });

  test('hips that are lowered leave the feet where they are', () => {
    const sunk = correctFlat(figure, motion, pull('hips', 0.01, -0.04));
    for (const f of [0, 20, 63, 119]) {
      const [a, b] = [at(motion, 'hips', f), at(sunk, 'hips', f)];
      expect([b[4]! - a[4]!, b[5]! - a[5]!].map((v) => v.toFixed(4))).toEqual(['0.0100', '-0.0400']);
      for (const foot of ['footL', 'footR']) {
        const [c, d] = [at(motion, foot, f), at(sunk, foot, f)];
        expect(Math.hypot(d[4]! - c[4]!, d[5]! - c[5]!)).toBeLessThan(1e-5);
      }
    }
  });
});

test.each([
  [
    'keys out of order',
    [
      { frame: 9, move: [0, 0, 0] },
      { frame: 3, move: [0, 0, 0] },
    ],
    'bad-argument',
  ],
  ['a move that is no number', [{ frame: 3, move: [Number.NaN, 0, 0] }], 'bad-number'],
] as const)('%s are refused', (_, keys, code) => {
  expect(() => correctFlat(figure, driven, [{ handle: 'handL', keys }])).toThrow(expect.objectContaining({ code }));
});

test('turns out of the plane are turned into it, and what the figure lacks is passed over', () => {
  const half = Math.SQRT1_2;
  const turned = correctFlat(figure, driven, [
    { joint: 'head', keys: [{ frame: 0, turn: [0.5, 0.5, 0.5 * half, 0.5 * half] }] },
    { joint: 'third arm', keys: [{ frame: 0, turn: [0, 0, 1, 0] }] },
  ]);
  const n = figure.rig.names.length;
  for (let i = 0; i < turned.turns.length; i += 4) expect([turned.turns[i], turned.turns[i + 1]]).toEqual([0, 0]);
  const o = 4 * figure.rig.names.indexOf('head');
  const angle = (m: Motion): number => 2 * Math.atan2(m.turns[o + 2]!, m.turns[o + 3]!);
  expect(angle(turned) - angle(driven)).toBeCloseTo(Math.PI / 2, 5);
  expect(turned.turns.length).toBe(4 * n * driven.frameCount);
});

describe('keys of what was corrected', () => {
  const dense = keysOfMotion(figure.rig, driven);
  const keys: CutoutKeys = {
    ...dense,
    tracks: dense.tracks
      .filter((t) => t.channel !== 'scale')
      .map((t) => ({
        ...t,
        keys: t.keys.filter((k) => k.frame % 12 === 0).map((k) => ({ ...k, ease: [0.2, 0, 0.6, 1.1] as const })),
      })),
    steps: [],
  };
  const motion = evaluateKeys(figure.rig, keys);

  test('nothing corrected, nothing changed', () => {
    const again = rekeyed(figure.rig, keys, motion);
    for (const t of keys.tracks) expect(again.tracks).toContainEqual(t);
  });

  test('an offset that holds moves the keys and leaves their easing', () => {
    const turn = [0, 0, Math.sin(0.1), Math.cos(0.1)] as const;
    const nodded = correctFlat(figure, motion, [{ joint: 'head', keys: [{ frame: 0, turn }] }]);
    const [was, now] = [keys, rekeyed(figure.rig, keys, nodded)].map(
      (k) => k.tracks.find((t) => t.joint === 'head' && t.channel === 'turn')!,
    );
    expect(now!.keys.map((k) => [k.frame, k.ease])).toEqual(was!.keys.map((k) => [k.frame, k.ease]));
    now!.keys.forEach((k, i) => expect(k.value[0]! - was!.keys[i]!.value[0]!).toBeCloseTo(0.2, 4));
  });

  test('a hand that is pulled gets keys close enough, and only its arm does', () => {
    const pulled = correctFlat(figure, motion, [
      {
        handle: 'handR',
        keys: [
          { frame: 30, move: [0, 0, 0] },
          { frame: 45, move: [0.05, 0.1, 0] },
          { frame: 60, move: [0, 0, 0] },
        ],
      },
    ]);
    const made = rekeyed(figure.rig, keys, pulled);
    const again = evaluateKeys(figure.rig, made);
    for (let f = 0; f < motion.frameCount; f += 3) {
      const [a, b] = [at(pulled, 'handR', f), at(again, 'handR', f)];
      expect(Math.hypot(a[4]! - b[4]!, a[5]! - b[5]!)).toBeLessThan(0.003);
    }
    const changed = made.tracks.filter((t) => !keys.tracks.includes(t)).map((t) => t.joint);
    expect(changed.length).toBeGreaterThan(0);
    for (const joint of changed) expect(joint).toMatch(/(arm|hand) R$/);
  });

  test('a fitting onto another figure keeps keys, retimed where it is made slower', () => {
    const fitter = { rig: asSkeleton(figure.rig), map: figure.map, cutout: figure.rig, keys };
    const slow = { ...FITTING_DEFAULTS, tuning: { ...FITTING_DEFAULTS.tuning, speed: 0.5 } };
    const same = evaluateFitting(fitter, motion, fitter, FITTING_DEFAULTS);
    const done = evaluateFitting(fitter, motion, fitter, slow);
    const head = (k: CutoutKeys | undefined) => k!.tracks.find((t) => t.joint === 'head' && t.channel === 'turn')!;
    expect(head(same.keys).keys.map((k) => k.frame)).toEqual(head(keys).keys.map((k) => k.frame));
    const by = (done.motion.frameCount - 1) / (motion.frameCount - 1);
    expect(by).toBeGreaterThan(1.9);
    head(done.keys).keys.forEach((k, i) => expect(k.frame).toBeCloseTo(by * head(keys).keys[i]!.frame, 6));
    expect(keyedAt(head(done.keys), by * 18)![0]!).toBeCloseTo(keyedAt(head(keys), 18)![0]!, 3);
    const lean = { ...FITTING_DEFAULTS, tuning: { ...FITTING_DEFAULTS.tuning, arms: 4 } };
    expect(evaluateFitting(fitter, motion, fitter, lean).keys).toBeUndefined();
    // who stands when can be said
    const plants = [{ part: 'ballL', start: 0, end: 50 }] as const;
    const edits = { ...NO_EDITS, frames: motion.frameCount, plants };
    const told = evaluateFitting(fitter, motion, fitter, FITTING_DEFAULTS, edits).swapped!;
    expect(told.plants.map(({ part, start, end }) => ({ part, start, end }))).toEqual(plants);
    expect(told.airborne).toEqual([{ start: 51, end: motion.frameCount - 1 }]);
  });
});
