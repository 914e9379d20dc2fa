import fc from 'fast-check';
import { standIn } from '../body/stand-in';
import { guessBodyMap } from '../bodymap/guess';
import { jointOf } from '../bodymap/slots';
import { cutoutFromSvg } from '../cutout/assemble';
import { correctFlat } from '../cutout/correct-flat';
import { correct } from '../layer/correct';
import { axisAngleQuat } from '../math/quat';
import { type Motion, PoseReader, restMotion } from '../motion/motion';
import { PlaneReader } from '../motion/plane-pose';
import { asSkeleton } from '../rig/flat';
import { paperFigure, paperTraits } from '../test/paper';
import { fieldWeights, meanTurn, type PinnedPose, PoseField } from './field';

const rig = standIn('A');
const party = { rig, map: guessBodyMap(rig) };

/** A pose with joints turned about axes of their own, standing where the rest pose stands. */
function pose(
  turns: Readonly<Record<string, readonly [x: number, y: number, z: number, angle: number]>>,
  hips = [0, 0, 0],
): Motion {
  const motion = restMotion(rig);
  for (const [slot, [x, y, z, angle]] of Object.entries(turns))
    axisAngleQuat(motion.turns, 4 * jointOf(party.map, slot), x, y, z, angle);
  // hips that move leave the feet where they are
  return correct(party, motion, [{ handle: 'hips', keys: [{ frame: 0, move: hips as [number, number, number] }] }]);
}

const PINS: PinnedPose[] = [
  { at: [0, 0], pose: pose({}) },
  { at: [1, 0], pose: pose({ upperArmL: [0, 0, 1, 1.2], head: [0, 1, 0, 0.6] }, [0.06, -0.08, 0]) },
  { at: [0.4, 0.9], pose: pose({ upperArmR: [1, 0, 0, -1.4], spine2: [1, 0, 0, 0.4] }, [-0.05, -0.14, 0.05]) },
  { at: [0.2, 0.5], pose: pose({ forearmL: [0, 1, 0, 1.1], neck1: [0, 0, 1, 0.3] }, [0, -0.04, -0.06]) },
];
const field = new PoseField(party, PINS);
const anywhere = fc.tuple(
  fc.double({ min: -0.5, max: 1.5, noNaN: true }),
  fc.double({ min: -0.5, max: 1.5, noNaN: true }),
);

describe('weights', () => {
  test('sum to one, are never below zero, and the nearest pose counts most', () => {
    fc.assert(
      fc.property(anywhere, (at) => {
        const w = field.weights(at);
        expect(w.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 12);
        expect(Math.min(...w)).toBeGreaterThanOrEqual(0);
        const far = PINS.map((p) => Math.hypot(p.at[0] - at[0], p.at[1] - at[1]));
        expect(w.indexOf(Math.max(...w))).toBe(far.indexOf(Math.min(...far)));
      }),
    );
  });

  test('are one at a pose’s own pin, and come there without a kink', () => {
    for (const [i, { at }] of PINS.entries()) {
      expect(field.weights(at)[i]).toBe(1);
      for (const way of [0, 1, 2, 3, 4, 5]) {
        const step = (h: number): number => field.weights([at[0] + h * Math.cos(way), at[1] + h * Math.sin(way)])[i]!;
        // the slope is nought on either side of the pin
        expect(Math.abs(1 - step(1e-4)) / 1e-4).toBeLessThan(1e-3);
        expect(step(1e-10)).toBe(1);
      }
    }
  });

  test('of a hundred pins on one spot and one elsewhere are still numbers', () => {
    const w = fieldWeights([...Array.from({ length: 100 }, () => [0, 0] as [number, number]), [1, 1]], [0, 0]);
    expect(w[0]).toBe(1);
    expect(w.every(Number.isFinite)).toBe(true);
  });
});

test('the mean of turns is the same whichever of both signs they have, and lies between', () => {
  const a = Float64Array.from([0, 0, 0, 1]);
  const b = new Float64Array(4);
  axisAngleQuat(b, 0, 0, 0, 1, 1);
  const [half, flipped, expected] = [new Float64Array(4), new Float64Array(4), new Float64Array(4)];
  meanTurn(half, 0, [a, b], 0, [0.5, 0.5]);
  meanTurn(flipped, 0, [a, b.map((x) => -x)], 0, [0.5, 0.5]);
  axisAngleQuat(expected, 0, 0, 0, 1, 0.5);
  for (let k = 0; k < 4; k++) {
    expect(half[k]).toBeCloseTo(expected[k]!, 9);
    expect(flipped[k]).toBeCloseTo(expected[k]!, 9);
  }
});

describe('a field of poses', () => {
  test('is the pose itself at its own pin', () => {
    for (const { at, pose: own } of PINS) {
      const mixed = field.at(at);
      own.turns.forEach((x, i) => expect(Math.abs(mixed.turns[i]! - x)).toBeLessThan(1e-6));
    }
  });

  test('holds feet that all poses share on their spot, wherever the pointer is', () => {
    expect(field.feet).toEqual({ shared: ['footL', 'footR'], elsewhere: [] });
    const start = new PoseReader(rig, PINS[0]!.pose).at(0).p.slice();
    for (let x = -0.3; x < 1.3; x += 0.17)
      for (let y = -0.3; y < 1.3; y += 0.19) {
        const { p } = new PoseReader(rig, field.at([x, y])).at(0);
        for (const foot of ['footL', 'footR']) {
          const j = jointOf(party.map, foot);
          const off = Math.hypot(...[0, 1, 2].map((k) => p[3 * j + k]! - start[3 * j + k]!));
          // a thousandth of a leg
          expect(off).toBeLessThan(0.001 * 0.85);
        }
      }
  });

  test('says of poses on other feet which foot is elsewhere, and by how much', () => {
    const stepped = restMotion(rig);
    axisAngleQuat(stepped.turns, 4 * jointOf(party.map, 'thighL'), 1, 0, 0, -0.3);
    const { feet } = new PoseField(party, [...PINS.slice(0, 2), { at: [0, 1], pose: stepped }]);
    expect(feet.shared).toEqual(['footR']);
    expect(feet.elsewhere).toEqual([{ pose: 2, foot: 'footL', by: expect.any(Number) }]);
    expect(feet.elsewhere[0]!.by).toBeGreaterThan(0.1);
  });

  test('moves without a step in its speed', () => {
    // a straight way over pins and between them, by small steps: what a joint turns a step changes little from one to the next
    const j = jointOf(party.map, 'upperArmL');
    const count = 400;
    const at = (i: number): Float32Array => field.at([-0.2 + (1.4 * i) / count, 0.0005]).turns.slice(4 * j, 4 * j + 4);
    const speeds: number[] = [];
    for (let i = 1, before = at(0); i <= count; i++) {
      const now = at(i);
      const dot = Math.abs(now.reduce((s, x, k) => s + x * before[k]!, 0));
      speeds.push(2 * Math.acos(Math.min(1, dot)) * count);
      before = now;
    }
    const most = Math.max(...speeds);
    for (let i = 1; i < speeds.length; i++)
      expect(Math.abs(speeds[i]! - speeds[i - 1]!)).toBeLessThan(0.12 * most + 0.4);
  });

  test('a recording has the hand’s own timing and begins with the first movement', () => {
    const course = [
      { seconds: 0, at: [0, 0] as const },
      { seconds: 1, at: [0, 0] as const },
      { seconds: 1.5, at: [1, 0] as const },
      { seconds: 2.5, at: [0.4, 0.9] as const },
    ];
    const motion = field.record(course, 20);
    expect(motion.frameCount).toBe(31);
    const same = (frame: number, pin: number): void =>
      PINS[pin]!.pose.turns.forEach((x, i) =>
        expect(Math.abs(motion.turns[4 * rig.names.length * frame + i]! - x)).toBeLessThan(2e-6),
      );
    same(0, 0);
    same(10, 1);
    same(30, 2);
  });

  test('two poses are no field, nor is one of another skeleton', () => {
    expect(() => new PoseField(party, PINS.slice(0, 2))).toThrow(/at least three/);
    const other = { ...PINS[0]!, pose: { ...PINS[0]!.pose, turns: new Float32Array(8) } };
    expect(() => new PoseField(party, [...PINS, other])).toThrow(/another skeleton/);
  });
});

describe('of paper poses', () => {
  const figure = cutoutFromSvg(
    new TextEncoder().encode(
      paperFigure(paperTraits(4, { facing: 'right', language: 'plain', depth: false, nested: false })).svg,
    ),
  );
  const paper = { rig: asSkeleton(figure.rig), map: figure.map, cutout: figure.rig };
  const hips = jointOf(figure.map, 'hips');
  /** Bent knees on the same feet, an arm raised, and drawings of its own. */
  function paperPose(drop: number, arm: number, more: Partial<Motion> = {}): Motion {
    const motion = restMotion(paper.rig);
    axisAngleQuat(motion.turns, 4 * jointOf(figure.map, 'upperArmL'), 0, 0, 1, arm);
    const bent = correctFlat(figure, motion, [{ handle: 'hips', keys: [{ frame: 0, move: [0, -drop, 0] }] }]);
    return { ...bent, ...more };
  }
  const eyes = (label: string): Partial<Motion> => ({
    steps: [{ name: 'eye L', labels: [label], values: Uint16Array.of(0) }],
  });
  const turned = { joint: hips, values: Float32Array.of(-1.2, 1.2, 1), between: 'hold' as const };
  const poses = [paperPose(0.02, 0), paperPose(0.15, 1, eyes('shut')), paperPose(0.1, -0.6, eyes('open'))];

  test('what they mix stays in their plane, on the feet that they share', () => {
    const pins = poses.map((pose, i): PinnedPose => ({ at: [i, i === 1 ? 1 : 0], pose }));
    const mixed = new PoseField(paper, pins);
    expect(mixed.feet.shared).toEqual(['footL', 'footR']);
    const spot = (motion: Motion): number[] => {
      const frames = new PlaneReader(figure.rig, motion).read(0);
      return ['footL', 'footR'].flatMap((f) => [...frames.subarray(6 * jointOf(figure.map, f) + 4).subarray(0, 2)]);
    };
    const stands = spot(poses[0]!);
    for (const at of [
      [0.5, 0.4],
      [1.4, 0.6],
      [1, 0.2],
    ] as const) {
      const mix = mixed.at(at);
      expect(Math.max(...mix.turns.filter((_, i) => i % 4 < 2).map(Math.abs))).toBeLessThan(1e-6);
      spot(mix).forEach((x, i) => expect(Math.abs(x - stands[i]!)).toBeLessThan(0.001));
    }
  });

  test('drawings and the side that is seen are the nearest pose’s, sizes lie between', () => {
    const over = { ...poses[2]!, scales: [turned] };
    const mixed = new PoseField(
      paper,
      [poses[0]!, poses[1]!, over].map((pose, i): PinnedPose => ({ at: [i, i === 1 ? 1 : 0], pose })),
    );
    const eye = (at: readonly [number, number]): string => {
      const [track] = mixed.at(at).steps;
      return track!.labels[track!.values[0]!]!;
    };
    expect([eye([1, 0.9]), eye([1.9, 0])]).toEqual(['shut', 'open']);
    const size = (at: readonly [number, number]): number => mixed.at(at).scales[0]!.values[0]!;
    expect(size([2, 0])).toBeCloseTo(-1.2, 6);
    expect(size([0, 0])).toBeCloseTo(1, 6);
    expect(size([1.5, 0.1])).toBeLessThan(-1);
    expect(size([0.6, 0.2])).toBeGreaterThan(1);
  });
});
