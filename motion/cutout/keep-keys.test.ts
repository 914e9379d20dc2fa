import { keepRegions } from '../body/regions';
import { seeded } from '../math/random';
import type { Ease } from '../motion/curve';
import { trim } from '../motion/timing';
import { flatSkeleton } from '../rig/flat';
import { paperFigure, paperTraits } from '../test/paper';
import { cutoutFromSvg } from './assemble';
import { keepKeys } from './keep-keys';
import { type CutoutKeys, evaluateKeys, type KeyTrack } from './keys';

const figure = cutoutFromSvg(
  new TextEncoder().encode(paperFigure(paperTraits(4, { language: 'plain', facing: 'front' })).svg),
);
const { rig, map } = figure;
const EASES: Ease[] = ['smooth', 'linear', 'step', [0.6, -0.4, 0.3, 1.5], [0.1, 0, 0.9, 0.2]];

/** Keys of every kind on every joint, at odd places, easing in every way. */
function keyed(seed: number): CutoutKeys {
  const random = seeded(seed);
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]!;
  const track = (joint: string, channel: KeyTrack['channel'], value: () => number[]): KeyTrack => {
    const frames = [...new Set(Array.from({ length: 5 }, () => Math.floor(random() * 60)))].sort((a, b) => a - b);
    return { joint, channel, keys: frames.map((frame) => ({ frame, value: value(), ease: pick(EASES) })) };
  };
  const rest = (joint: string): number[] => {
    const j = rig.names.indexOf(joint);
    return [rig.restT[3 * j]!, rig.restT[3 * j + 1]!];
  };
  return {
    fps: 24,
    frameCount: 60,
    tracks: rig.names.flatMap((joint, j) => [
      track(joint, 'turn', () => [random() - 0.5]),
      ...(j % 4 === 1 ? [track(joint, 'place', () => rest(joint).map((x) => x + 0.1 * (random() - 0.5)))] : []),
      ...(j % 5 === 2 ? [track(joint, 'scale', () => [0.8 + random(), 1])] : []),
    ]),
    steps: rig.parts.map((p) => ({
      name: p.name,
      keys: [0, 20, 40].map((frame) => ({ frame, label: `${p.name} ${frame}` })),
    })),
    plants: [
      { side: 'L', start: 5, end: 30 },
      { side: 'R', start: 45, end: 59 },
    ],
  };
}

const most = (a: Float32Array, b: Float32Array): number => a.reduce((m, x, i) => Math.max(m, Math.abs(x - b[i]!)), 0);

describe('a part of keyed animation stays keys', () => {
  test.each([1, 2, 3, 4, 5, 6])('a range runs as it did before (%i)', (seed) => {
    const keys = keyed(seed);
    const random = seeded(seed + 100);
    for (let i = 0; i < 8; i++) {
      const start = Math.floor(random() * 50);
      const end = start + Math.floor(random() * (60 - start));
      const part = evaluateKeys(rig, keepKeys(rig, map, keys, { span: { start, end }, regions: [], joints: [] }));
      const whole = trim(flatSkeleton(rig), evaluateKeys(rig, keys), start, end);
      expect(part.frameCount).toBe(end - start + 1);
      expect(most(part.turns, whole.turns)).toBeLessThan(1e-5);
      part.places.forEach((t, k) => expect(most(t.values, whole.places[k]!.values)).toBeLessThan(1e-5));
      part.scales.forEach((t, k) => expect(most(t.values, whole.scales[k]!.values)).toBeLessThan(1e-5));
      const shown = (m: typeof part): string[][] => m.steps.map((s) => Array.from(s.values, (v) => s.labels[v]!));
      expect(shown(part)).toEqual(shown(whole));
    }
  });

  test('keys keep their frames and easing; a range needs at most one more at either end', () => {
    const keys = keyed(9);
    const part = keepKeys(rig, map, keys, { span: { start: 10, end: 50 }, regions: [], joints: [] });
    part.tracks.forEach((t, i) => {
      const inside = keys.tracks[i]!.keys.filter((k) => k.frame >= 10 && k.frame <= 50);
      expect(t.keys.length).toBeLessThanOrEqual(inside.length + 2);
      for (const k of inside) expect(t.keys.some((o) => o.frame === k.frame - 10)).toBe(true);
    });
    expect(part.plants).toEqual([
      { side: 'L', start: 0, end: 20 },
      { side: 'R', start: 35, end: 40 },
    ]);
    expect(keepKeys(rig, map, keys, { regions: [], joints: [] }).tracks).toEqual(keys.tracks);
  });

  test('a range beyond the motion is refused', () => {
    const span = { start: 5, end: 900 };
    expect(() => keepKeys(rig, map, keyed(2), { span, regions: [], joints: [] })).toThrow(/not within 0 to 59/);
  });

  test.each(['all', 'movement', 'drawings'] as const)('regions and joints: %s', (what) => {
    const keys = keyed(11);
    const wish = { regions: ['left arm'] as const, joints: ['head'] };
    const part = keepKeys(rig, map, keys, { regions: [...wish.regions], joints: wish.joints, what });
    const whole = keepRegions(flatSkeleton(rig), map, evaluateKeys(rig, keys), [...wish.regions], wish.joints, {
      cutout: rig,
      what,
    });
    const made = evaluateKeys(rig, part);
    expect(most(made.turns, whole.turns)).toBeLessThan(1e-6);
    expect(made.places.map((t) => t.joint)).toEqual(whole.places.map((t) => t.joint));
    expect(made.steps.map((s) => s.name)).toEqual(whole.steps.map((s) => s.name));
    // what only moves or grows, and never turns, is told apart, too
    const still = { ...keys, tracks: keys.tracks.filter((t) => t.channel !== 'turn') };
    const places = keepKeys(rig, map, still, { regions: [...wish.regions], joints: wish.joints, what }).tracks;
    const inArm = (joint: string): boolean => / L$/.test(joint) && /arm|hand/.test(joint);
    for (const t of places) expect(t.joint === 'head' || inArm(t.joint)).toBe(true);
    expect(part.tracks.length > 0).toBe(what !== 'drawings');
    expect(part.steps.length > 0).toBe(what !== 'movement');
  });
});
