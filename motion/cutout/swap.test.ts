import fc from 'fast-check';
import { guessBodyMap } from '../bodymap/guess';
import { splitEase } from '../motion/curve';
import { PlaneReader } from '../motion/plane-pose';
import { ORDER_TRACK } from '../motion/tracks';
import { paperFigure, paperTraits } from '../test/paper';
import { walking } from '../test/variants';
import { cutoutFromSvg } from './assemble';
import { driveCutout } from './drive';
import { measureFlat, pointOn } from './flat';
import { type CutoutKeys, evaluateKeys, type KeyTrack, keyedAt, keysFromJson, keysOfMotion } from './keys';
import { sceneFromJson, sceneToJson } from './scene-json';
import { swapCutout } from './swap';

const figure = (seed: number, broad: number) =>
  cutoutFromSvg(
    new TextEncoder().encode(
      paperFigure(
        paperTraits(seed, { facing: 'right', language: 'plain', depth: false, broad, scale: 1, nested: false }),
      ).svg,
    ),
  );
const thin = figure(4, 0.8);
const broad = figure(9, 1.4);
const walk = walking();

/** Key poses every ten frames of a driven walk, as somebody would set them, with eases between. */
function finished(): CutoutKeys {
  const driven = driveCutout({ rig: walk.rig, map: guessBodyMap(walk.rig) }, walk.motion, thin, {
    foreshorten: 1,
    swing: false,
  });
  const dense = keysOfMotion(thin.rig, driven.motion);
  const poses = (t: KeyTrack): KeyTrack => ({
    ...t,
    keys: t.keys
      .filter((k) => k.frame % 10 === 0 || k.frame === driven.motion.frameCount - 1)
      .map((k) => ({ ...k, ease: 'smooth' as const })),
  });
  return {
    ...dense,
    tracks: dense.tracks.filter((t) => t.channel !== 'scale').map(poses),
    steps: dense.steps.filter((s) => s.name !== ORDER_TRACK),
  };
}

const rest = (joint: string): [number, number] => {
  const j = thin.rig.names.indexOf(joint);
  return [thin.rig.restT[3 * j]!, thin.rig.restT[3 * j + 1]!];
};

function restPlace(rig: typeof thin.rig, joint: number): [number, number] {
  let [x, y] = [0, 0];
  for (let j = joint; j >= 0; j = rig.parents[j]!) {
    x += rig.restT[3 * j]!;
    y += rig.restT[3 * j + 1]!;
  }
  return [x, y];
}

describe('finished animation on another figure', () => {
  const keys = finished();
  const stands = [
    { side: 'R', start: 0, end: 14 },
    { side: 'L', start: 15, end: 44 },
    { side: 'R', start: 50, end: 74 },
    { side: 'L', start: 75, end: 104 },
  ] as const;
  const swapped = swapCutout(thin, { ...keys, plants: stands }, broad);

  test('keeps its keys: turns, times and eases, one for one', () => {
    for (const track of keys.tracks.filter((t) => t.channel === 'turn' && t.keys.length > 0)) {
      const pair = swapped.report.pairs.find((p) => p.from === track.joint)!;
      const own = swapped.keys.tracks.find((t) => t.joint === pair.to && t.channel === 'turn')!;
      expect(own.keys.map((k) => [k.frame, k.ease])).toEqual(track.keys.map((k) => [k.frame, k.ease]));
      const by = own.keys[0]!.value[0]! - track.keys[0]!.value[0]!;
      own.keys.forEach((k, i) => expect(k.value[0]! - track.keys[i]!.value[0]!).toBeCloseTo(by, 9));
    }
    expect(swapped.report.unpaired).toEqual({ from: [], to: [] });
  });

  test('what stands stays on its spot, and the next foot stands where it came down', () => {
    const scene = sceneToJson(broad, swapped.motion, { plants: swapped.report.plants });
    const at = (f: number, side: string): [number, number] => {
      const foot = scene.feet.find((x) => x.side === side)!;
      const m = scene.frames[f]!.matrices[scene.parts.findIndex((p) => p.name === foot.part)]!;
      return [
        m[0]! * foot.ball[0]! + m[2]! * foot.ball[1]! + m[4]!,
        m[1]! * foot.ball[0]! + m[3]! * foot.ball[1]! + m[5]!,
      ];
    };
    expect(scene.plants.length).toBe(stands.length);
    for (const plant of scene.plants) {
      const side = plant.part.at(-1)!;
      for (let f = plant.start; f <= plant.end; f++)
        expect(Math.abs(at(f, side)[0] - plant.spot[0]!)).toBeLessThan(0.02);
      // a hand-over moves nothing
      if (plant.start > 0) expect(Math.abs(at(plant.start, side)[0] - at(plant.start - 1, side)[0])).toBeLessThan(18);
    }
    expect(swapped.report.airborne).toEqual([
      { start: 45, end: 49 },
      { start: 105, end: 119 },
    ]);
  });

  test('stands are found where nobody told them', () => {
    const found = swapCutout(thin, keys, broad).report;
    expect(found.plants.length + found.airborne.length).toBeGreaterThan(0);
  });

  test('keys that only closed gaps go, breaks on purpose stay in proportion', () => {
    const [hx, hy] = rest('hand R');
    const [ex, ey] = rest('forearm R');
    const put = (joint: string, list: readonly (readonly [number, number, number])[]): KeyTrack => ({
      joint,
      channel: 'place',
      keys: list.map(([frame, x, y]) => ({ frame, value: [x, y] })),
    });
    const worked: CutoutKeys = {
      ...keys,
      plants: stands,
      tracks: [
        ...keys.tracks,
        // set between poses, a few thousandths off: these closed gaps
        put('forearm R', [
          [5, ex + 0.004, ey],
          [15, ex, ey - 0.006],
          [25, ex + 0.002, ey + 0.001],
        ]),
        // a hand thrown off its wrist at two poses, back at the next
        put('hand R', [
          [30, hx, hy],
          [40, hx + 0.12, hy + 0.05],
          [50, hx + 0.12, hy + 0.05],
          [60, hx, hy],
          [95, hx + 0.003, hy],
        ]),
      ],
    };
    const { report, keys: made } = swapCutout(thin, worked, broad);
    expect(report.corrections.map((c) => `${c.joint} ${c.frame}`).sort()).toEqual([
      'forearm R 15',
      'forearm R 25',
      'forearm R 5',
      'hand R 95',
    ]);
    expect(report.breaks.map((b) => b.frame)).toEqual([40, 50]);
    const hand = made.tracks.find((t) => t.joint === 'hand R' && t.channel === 'place')!;
    const j = broad.rig.names.indexOf('hand R');
    const off = keyedAt(hand, 40)!.map((x, k) => x - broad.rig.restT[3 * j + k]!);
    expect(off[0]! / off[1]!).toBeCloseTo(0.12 / 0.05, 3);
    expect(off[0]!).toBeCloseTo(0.12 * report.scale, 6);
    expect(made.tracks.some((t) => t.joint === 'forearm R' && t.channel === 'place')).toBe(false);
    // whoever knows better has the last word
    const said = swapCutout(thin, worked, broad, {
      said: [
        { joint: 'forearm R', frame: 15, meant: true },
        { joint: 'hand R', frame: 50, meant: false },
      ],
    });
    expect(said.report.breaks.map((b) => `${b.joint} ${b.frame}`).sort()).toEqual(['forearm R 15', 'hand R 40']);
    expect(said.report.corrections.find((c) => c.joint === 'hand R' && c.frame === 50)!.off).toBeGreaterThan(0.02);
    const arm = said.keys.tracks.find((t) => t.joint === 'forearm R' && t.channel === 'place')!;
    const k = broad.rig.names.indexOf('forearm R');
    expect(keyedAt(arm, 15)![1]! - broad.rig.restT[3 * k + 1]!).toBeCloseTo(-0.006 * report.scale, 6);
  });

  test('a second foot that stands stays, too, at the keys that its leg has', () => {
    const bend = (side: 'L' | 'R', by: number): KeyTrack[] =>
      (
        [
          ['thigh', by],
          ['shin', -2.3 * by],
          ['foot', 1.3 * by],
        ] as const
      ).map(([part, most]) => ({
        joint: `${part} ${side}`,
        channel: 'turn',
        keys: [0, 10, 20, 30].map((frame, i) => ({ frame, value: [[0, most, 0.4 * most, 0][i]!] })),
      }));
    const squat: CutoutKeys = {
      fps: 24,
      frameCount: 31,
      tracks: [...bend('L', 0.5), ...bend('R', -0.3)],
      steps: [],
      plants: (['L', 'R'] as const).map((side) => ({ side, start: 0, end: 30 })),
    };
    const { motion, keys: made, report: told } = swapCutout(thin, squat, broad);
    const carrying = told.plants[0]!.part.at(-1);
    const other = carrying === 'L' ? 'R' : 'L';
    const { foot } = measureFlat(broad.rig, broad.map).legs.find((l) => l.side === other)!;
    const ball = (m: typeof motion, f: number): number =>
      pointOn(new PlaneReader(broad.rig, m).read(f / m.fps), foot.joint, foot.ball)[0];
    for (const f of [10, 20, 30]) expect(Math.abs(ball(motion, f) - ball(motion, 0))).toBeLessThan(0.001);
    // not a key more, and turns alone would have let it slide
    for (const t of squat.tracks) {
      const own = made.tracks.find((x) => x.joint === t.joint && x.channel === 'turn')!;
      expect(own.keys.map((k) => k.frame)).toEqual([0, 10, 20, 30]);
    }
    const slid = swapCutout(thin, squat, broad, {
      stands: [{ side: carrying as 'L' | 'R', start: 0, end: 30 }],
    }).motion;
    expect(Math.abs(ball(slid, 10) - ball(slid, 0))).toBeGreaterThan(0.02);
  });

  test('what a body of other proportions does not carry off is told', () => {
    expect(swapCutout(thin, { ...keys, plants: stands }, thin).report.unlike).toEqual([]);
    // both arms laid on the head: on a figure with short arms they do not get there
    const short = {
      ...broad,
      rig: {
        ...broad.rig,
        restT: broad.rig.restT.map((x, i) =>
          /^(forearm|hand)/.test(broad.rig.names[Math.floor(i / 3)]!) ? 0.4 * x : x,
        ),
      },
    };
    const j = thin.rig.names.indexOf('head');
    const head = restPlace(thin.rig, j);
    const raised: CutoutKeys = {
      fps: 24,
      frameCount: 5,
      tracks: (['L', 'R'] as const).flatMap((side) => {
        const arm = restPlace(thin.rig, thin.rig.names.indexOf(`upper arm ${side}`));
        const [upper, lower] = [`forearm ${side}`, `hand ${side}`].map((n) => {
          const k = thin.rig.names.indexOf(n);
          return [thin.rig.restT[3 * k]!, thin.rig.restT[3 * k + 1]!] as const;
        });
        const far = Math.hypot(head[0] - arm[0], head[1] - arm[1]);
        const [a, b] = [Math.hypot(...upper!), Math.hypot(...lower!)];
        const first =
          Math.atan2(head[1] - arm[1], head[0] - arm[0]) + Math.acos((a * a + far * far - b * b) / (2 * a * far));
        const elbow = [arm[0] + a * Math.cos(first), arm[1] + a * Math.sin(first)] as const;
        const one = first - Math.atan2(upper![1], upper![0]);
        const two = Math.atan2(head[1] - elbow[1], head[0] - elbow[0]) - Math.atan2(lower![1], lower![0]);
        return [
          { joint: `upper arm ${side}`, channel: 'turn' as const, keys: [{ frame: 0, value: [one] }] },
          { joint: `forearm ${side}`, channel: 'turn' as const, keys: [{ frame: 0, value: [two - one] }] },
        ];
      }),
      steps: [],
    };
    const { unlike } = swapCutout(thin, raised, short).report;
    expect(unlike.filter((u) => u.kind === 'reach').flatMap((u) => u.parts)).toContain('head');
    for (const u of unlike) expect(u.after).toBeGreaterThan(u.before + 0.05);
  });

  test('drawings go by their labels, and what is not there is told', () => {
    const withMouth = (labels: readonly string[]) => {
      const { rig, ...rest } = thin;
      return {
        ...rest,
        rig: { ...rig, parts: rig.parts.map((p) => (p.name === 'mouth' ? { ...p, drawings: labels } : p)) },
      };
    };
    const talking: CutoutKeys = {
      ...keys,
      steps: [{ name: 'mouth', keys: ['rest', 'a', 'o', 'rest'].map((label, i) => ({ frame: 20 * i, label })) }],
    };
    const { report, keys: made } = swapCutout(withMouth(['rest', 'a', 'o']), talking, withMouth(['rest', 'a']));
    expect(report.missing).toEqual([{ part: 'mouth', label: 'o' }]);
    expect(made.steps[0]!.keys.map((k) => k.label)).toEqual(['rest', 'a', 'rest']);
  });

  test('as JSON it says the same', () => {
    const json = JSON.parse(JSON.stringify(sceneToJson(broad, swapped.motion, { keys: swapped.keys })));
    const read = sceneFromJson(json);
    expect(read.keys).toEqual(JSON.parse(JSON.stringify(swapped.keys)));
    for (let i = 0; i < read.motion.turns.length; i += 41)
      expect(read.motion.turns[i]!).toBeCloseTo(swapped.motion.turns[i]!, 5);
  });
});

describe('keys', () => {
  test('a stretch that is cut runs as before', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.05, max: 0.95, noNaN: true }),
        fc.tuple(...[0, 1, 2, 3].map((i) => fc.double({ min: i % 2 ? -0.5 : 0, max: i % 2 ? 1.5 : 1, noNaN: true }))),
        (cut, bend) => {
          const ease = bend as unknown as [number, number, number, number];
          const whole: KeyTrack = {
            joint: 'x',
            channel: 'turn',
            keys: [
              { frame: 0, value: [1], ease },
              { frame: 100, value: [3] },
            ],
          };
          const { before, after, share } = splitEase(ease, cut);
          const halves: KeyTrack = {
            joint: 'x',
            channel: 'turn',
            keys: [
              { frame: 0, value: [1], ease: before },
              { frame: 100 * cut, value: [1 + 2 * share], ease: after },
              { frame: 100, value: [3] },
            ],
          };
          if (before === 'step' || after === 'step') return;
          for (let f = 0; f <= 100; f += 3)
            expect(Math.abs(keyedAt(halves, f)![0]! - keyedAt(whole, f)![0]!)).toBeLessThan(2e-5);
        },
      ),
      { numRuns: 60 },
    );
  });

  test('what makes no sense is refused with its joint', () => {
    const track = (keys: unknown): unknown => ({
      fps: 24,
      frameCount: 10,
      tracks: [{ joint: 'head', channel: 'turn', keys }],
    });
    for (const json of [
      null,
      { fps: 24, frameCount: 10, tracks: 3 },
      track([
        { frame: 2, value: [0] },
        { frame: 1, value: [0] },
      ]),
      track([{ frame: 2, value: [Number.NaN] }]),
      track([{ frame: 2, value: [0, 1] }]),
      track([{ frame: 2, value: [0], ease: 'bouncy' }]),
      { fps: 24, frameCount: 10, tracks: [{ joint: 'nobody', channel: 'turn', keys: [] }] },
      { fps: 0, frameCount: 10, tracks: [] },
    ])
      expect(() => keysFromJson(json, thin.rig)).toThrow();
    expect(evaluateKeys(thin.rig, { fps: 24, frameCount: 4, tracks: [], steps: [] }).turns).toHaveLength(
      16 * thin.rig.names.length,
    );
  });
});
