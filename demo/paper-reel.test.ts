import {
  asSkeleton,
  cutoutFromSvg,
  driveCutout,
  type JoinWish,
  jointOf,
  type Motion,
  mixCycles,
  PLACEMENT_DEFAULTS,
  type Placement,
  ReelEvaluator,
  resample,
  turnedOver,
} from '../motion/index';
import { PlaneReader } from '../motion/motion/plane-pose';
import { stanceWidth } from '../motion/tune/stance';
import { CUTOUTS } from './cutouts/cutouts';
import { performAll } from './world';

const TAKES = ['Deck walk', 'Kneel and scrub', 'Quay run', 'Sit on the bollard'];
const FPS = 24;
const JOINS: readonly (readonly [JoinWish['kind'], number])[] = [
  ['crossfade', -10],
  ['decay', 0],
  ['bridge', 14],
];
const { actor, performances } = performAll((s) => TAKES.includes(s.name));

describe.each(CUTOUTS.map(({ name, svg }) => [name, svg] as const))(
  '%s goes from one motion into the next',
  (_, svg) => {
    const figure = cutoutFromSvg(new TextEncoder().encode(svg()));
    const who = { rig: asSkeleton(figure.rig), map: figure.map, cutout: figure.rig };
    const driven = new Map(
      performances.map(({ score, motion }) => [
        score.name,
        driveCutout({ rig: actor.rig, map: actor.map }, motion, figure).motion,
      ]),
    );
    /** How far anything turns out of the plane, and how far a foot slips from a frame to the next while it stands, metres. */
    function through(a: string, b: string, kind: JoinWish['kind'], gap: number, change = (m: Motion): Motion => m) {
      const motionOf = ({ itemId }: { itemId: string }): Motion => change(driven.get(itemId)!);
      const at = Math.round((driven.get(a)!.frameCount / driven.get(a)!.fps) * FPS) + gap;
      const join = { ...PLACEMENT_DEFAULTS.join, kind, frames: 10 };
      const base: Placement[] = [
        { ...PLACEMENT_DEFAULTS, id: 'a', itemId: a, at: 0 },
        { ...PLACEMENT_DEFAULTS, id: 'b', itemId: b, at, join },
      ];
      const { motion, held } = new ReelEvaluator(who, FPS).evaluate(
        { base, overlays: [], keys: [] },
        at + 40,
        motionOf,
      );
      const reader = new PlaneReader(figure.rig, motion);
      const slips: number[] = [];
      for (const side of ['L', 'R'] as const) {
        const o = 6 * jointOf(figure.map, `foot${side}`) + 4;
        const foot = Array.from({ length: motion.frameCount }, (__, f) => [...reader.read(f / FPS).subarray(o, o + 2)]);
        // heel and ball both stand
        for (let f = 1; f < foot.length; f++)
          if (held[side][f] === 3 && held[side][f - 1] === 3)
            slips.push(Math.hypot(foot[f]![0]! - foot[f - 1]![0]!, foot[f]![1]! - foot[f - 1]![1]!));
      }
      const out = motion.turns.reduce((most, x, i) => (i % 4 < 2 ? Math.max(most, Math.abs(x)) : most), 0);
      return { out, slips };
    }

    test.each(JOINS)('by a %s it stays in its plane, and what stands stays', (kind, gap) => {
      for (const [a, b] of [
        ['Deck walk', 'Sit on the bollard'],
        ['Kneel and scrub', 'Deck walk'],
      ] as const) {
        const { out, slips } = through(a, b, kind, gap);
        expect(out).toBeLessThan(1e-6);
        expect(slips.length).toBeGreaterThan(20);
        expect(Math.max(...slips)).toBeLessThan(0.006);
      }
    });

    test('turned over all the while as well', () => {
      const { out, slips } = through('Deck walk', 'Sit on the bollard', 'crossfade', -10, (m) =>
        turnedOver(figure.rig, m),
      );
      expect(out).toBeLessThan(1e-6);
      expect(slips.length).toBeGreaterThan(20);
      expect(Math.max(...slips)).toBeLessThan(0.006);
    });
  },
);

describe('a cycle between two of paper', () => {
  const figure = cutoutFromSvg(new TextEncoder().encode(CUTOUTS[1]!.svg()));
  const who = { rig: asSkeleton(figure.rig), map: figure.map, cutout: figure.rig };
  const [walk, run] = ['Deck walk', 'Quay run'].map((name) => {
    const { motion } = performances.find((p) => p.score.name === name)!;
    return resample(who.rig, driveCutout({ rig: actor.rig, map: actor.map }, motion, figure).motion, FPS);
  }) as [Motion, Motion];
  const mix = mixCycles(who, walk, run, 0.4);

  test('stays in the plane, and goes at a pace between', () => {
    expect(Math.max(...mix.turns.filter((_, i) => i % 4 < 2).map(Math.abs))).toBeLessThan(1e-6);
    const pace = ({ places, frameCount }: Motion): number => {
      const { values } = places.find((t) => t.joint === jointOf(figure.map, 'hips'))!;
      return (values[3 * (frameCount - 1)]! - values[0]!) / (frameCount - 1);
    };
    expect(pace(mix)).toBeGreaterThan(1.1 * pace(walk));
    expect(pace(mix)).toBeLessThan(0.9 * pace(run));
  });

  test('limbs are drawn as long as they are, and as the nearer one shows them', () => {
    const names = ({ numbers, steps }: Motion) => [...numbers, ...steps].map((t) => t.name);
    expect(names(mix)).toEqual(expect.arrayContaining(names(walk)));
    for (const { name, values } of mix.numbers) {
      const [low, high] = [walk, run]
        .flatMap((m) => [...(m.numbers.find((t) => t.name === name)?.values ?? [1])])
        .reduce(([a, b], x) => [Math.min(a, x), Math.max(b, x)], [1, 0]);
      for (const x of values) expect(x >= low! - 1e-6 && x <= Math.max(1, high!) + 1e-6).toBe(true);
    }
    expect(mix.steps.map((t) => t.labels)).toEqual(walk.steps.map((t) => t.labels));
  });
});

test('feet that are laid flat stand as they are drawn, seen from the front as well', () => {
  const figure = cutoutFromSvg(new TextEncoder().encode(CUTOUTS[0]!.svg()));
  const who = { rig: asSkeleton(figure.rig), map: figure.map, cutout: figure.rig };
  const { motion } = performances.find((p) => p.score.name === 'Deck walk')!;
  const walk = driveCutout({ rig: actor.rig, map: actor.map }, motion, figure).motion;
  const foot = 6 * jointOf(figure.map, 'footL');
  const ways = (m: Motion): number[] => {
    const reader = new PlaneReader(figure.rig, m);
    return Array.from({ length: m.frameCount }, (_, f) => {
      const frames = reader.read(f / m.fps);
      return (180 / Math.PI) * Math.atan2(frames[foot + 1]!, frames[foot]!);
    });
  };
  const [before, after] = [walk, stanceWidth(who, walk, 1.2)].map(ways);
  after!.forEach((way, f) => expect(Math.abs(way - before![f]!)).toBeLessThan(5));
});
