import { clipDistance, describeClip, liesFlat } from '../analysis/descriptor';
import type { Plant } from '../analysis/plants';
import { poseFeatures } from '../analysis/pose-features';
import type { Party } from '../body/party';
import { guessBodyMap } from '../bodymap/guess';
import { jointOf } from '../bodymap/slots';
import { unpackMotion } from '../codec/decode';
import { packMotion } from '../codec/encode';
import { FITTING_DEFAULTS, FLAT_DEFAULTS } from '../fitting/document';
import { evaluateFitting, putOn, reportOfFitting } from '../fitting/evaluate';
import type { Motion } from '../motion/motion';
import { lengthTrack, ORDER_TRACK, viewTrack } from '../motion/tracks';
import { scoreReport } from '../retarget/report-score';
import { asSkeleton } from '../rig/flat';
import { party as partyOf, wander } from '../test/bodies';
import { paperFigure, paperTraits } from '../test/paper';
import { helperJoints, legsAndSpineAreSiblings, underRoot, walking, zUpArmature } from '../test/variants';
import { animatedSvg } from './animated-svg';
import { cutoutFromSvg } from './assemble';
import { driveCutout } from './drive';
import { editCutout } from './edit';
import { toLottie } from './lottie';
import { measureDriven } from './report';
import { sceneFromJson, sceneToJson } from './scene-json';
import { DRIVE_VIEWS } from './seen';
import { CutoutShow } from './show';

const figure = (facing: 'front' | 'right' | 'left', seed = 4) =>
  cutoutFromSvg(
    new TextEncoder().encode(paperFigure(paperTraits(seed, { facing, language: 'plain', depth: false })).svg),
  );
const walk = walking();
const source = { rig: walk.rig, map: guessBodyMap(walk.rig) };
/** While one foot lifts the other stands. */
const contacts: Plant[] = [
  ...(
    [
      [17, 43],
      [77, 103],
    ] as const
  ).map(([start, end]) => ({ side: 'L', start, end })),
  ...(
    [
      [0, 13],
      [47, 73],
      [107, 119],
    ] as const
  ).map(([start, end]) => ({ side: 'R', start, end })),
].flatMap(({ side, start, end }) => [
  { part: `heel${side as 'L' | 'R'}`, start, end: Math.min(119, end) } as const,
  { part: `ball${side as 'L' | 'R'}`, start, end } as const,
]);
const drive = (facing: 'front' | 'right' | 'left', options = {}) =>
  driveCutout(source, walk.motion, figure(facing), options);

describe('a walk on a paper figure', () => {
  const trees = {
    plain: walk,
    underRoot: underRoot(walk),
    zUpArmature: zUpArmature(walk),
    legsAndSpineAreSiblings: legsAndSpineAreSiblings(walk),
    helperJoints: helperJoints(walk),
  };
  test.each(Object.keys(trees) as (keyof typeof trees)[])(
    'from a %s body: feet stand, nothing comes apart, limbs point as seen',
    (tree) => {
      const { rig, motion } = trees[tree];
      // the tree of joints matters to what is read of the body, whichever way the figure is drawn
      const plain = tree === 'plain';
      for (const facing of plain ? (['front', 'right', 'left'] as const) : (['right'] as const))
        for (const view of plain ? DRIVE_VIEWS : (['side', 'follow'] as const)) {
          const driven = driveCutout({ rig, map: guessBodyMap(rig) }, motion, figure(facing), { view, contacts });
          const { report, gap } = measureDriven(driven);
          const leg = driven.flat.leg;
          expect(report.plants.length).toBeGreaterThan(3);
          expect(report.slip.meanPercentLegPerPlantSecond).toBeLessThan(0.1);
          expect(report.slip.maxCm / 100 / leg).toBeLessThan(5e-4);
          expect(gap.max).toBeLessThan(1e-5);
          expect(report.floor.maxDepthCm).toBeLessThan(0.5);
          // the walk does not keep these feet itself, so its legs have to give
          expect(report.direction.meanDeg).toBeLessThan(6);
          const free = measureDriven(
            driveCutout({ rig, map: guessBodyMap(rig) }, motion, figure(facing), { view, plants: false }),
          );
          expect(free.report.direction.meanDeg).toBeLessThan(0.3);
        }
    },
  );

  test('seen from the side it goes across the picture, the way it faces; on the spot it stays', () => {
    const way = (m: Motion): number => {
      const { values } = m.places.find((t) => t.joint === 0)!;
      return values.at(-3)! - values[0]!;
    };
    expect(way(drive('right').motion)).toBeGreaterThan(0.5);
    expect(way(drive('left').motion)).toBeLessThan(-0.5);
    expect(Math.abs(way(drive('front', { view: 'front' }).motion))).toBeLessThan(0.3);
    expect(Math.abs(way(drive('right', { travel: false, plants: false }).motion))).toBeLessThan(1e-6);
  });

  test('turned right round, the same walk comes out the same: only the performer’s facing counts', () => {
    const angle = 2.1;
    const q = [0, Math.sin(angle / 2), 0, Math.cos(angle / 2)];
    const turned = turnedAbout(walk.motion, walk.rig.names.length, q);
    const [a, b] = [drive('right').motion, driveCutout(source, turned, figure('right')).motion];
    for (let i = 0; i < a.turns.length; i += 97) expect(b.turns[i]!).toBeCloseTo(a.turns[i]!, 3);
  });

  test('a profile that turns round is turned over, and its feet still stand', () => {
    const about = turning(walk.motion, walk.rig.names.length);
    const driven = driveCutout(source, about, figure('right'), { view: 'side', contacts });
    const scale = driven.motion.scales.find((t) => t.joint === driven.flat.hips)!.values;
    expect([...new Set(scale.filter((_, i) => i % 3 === 0))].sort()).toEqual([-1, 1]);
    expect(measureDriven(driven).report.slip.meanPercentLegPerPlantSecond).toBeLessThan(0.1);
    expect(measureDriven(driven).report.floor.maxDepthCm).toBeLessThan(0.5);
  });

  test.each([
    ['front', 3],
    ['quarter', 8],
    ['side', 21],
  ] as const)(
    'seen from the %s, what is nearer by 4 %% of the height lies before: limbs, and arms against the trunk',
    (view, seed) => {
      const wild = wander(walk.rig, 240, seed, 30, 1.2);
      const driven = driveCutout(source, wild, figure('front', 2), { view });
      const { at, body } = driven.seen;
      const track = driven.motion.steps.find((s) => s.name === ORDER_TRACK)!;
      const ends = ['forearmL', 'forearmR', 'shinL', 'shinR', 'hips'].map((slot) => {
        const other = slot === 'hips' ? 'chest' : (slot.startsWith('fore') ? 'hand' : 'foot') + slot.at(-1);
        const joint = jointOf(driven.flat.map, slot === 'hips' ? 'spine1' : slot);
        const part = driven.flat.rig.parts.findIndex((p) => p.joint === (joint < 0 ? driven.flat.hips : joint));
        return { slot, part, depth: (f: number) => 0.5 * (at[slot]![3 * f + 2]! + at[other]![3 * f + 2]!) };
      });
      const share = (one: RegExp, two: RegExp): number => {
        let [right, all] = [0, 0];
        for (let f = 0; f < wild.frameCount; f++) {
          const order = track.labels[track.values[f]!]!.split(' ').map(Number);
          for (const x of ends.filter((e) => one.test(e.slot)))
            for (const y of ends.filter((e) => e !== x && two.test(e.slot))) {
              const by = x.depth(f) - y.depth(f);
              if (Math.abs(by) < 0.04 * 2 * body.hipHeight) continue;
              all++;
              if (order.indexOf(x.part) > order.indexOf(y.part) === by > 0) right++;
            }
        }
        expect(all).toBeGreaterThan(100);
        return right / all;
      };
      expect(share(/forearm|shin/, /forearm|shin/)).toBeGreaterThan(0.97);
      expect(share(/forearm/, /hips/)).toBeGreaterThan(0.97);
    },
  );

  test('limbs are drawn shorter within the bound, or not at all', () => {
    const shortest = (m: Motion, part: RegExp): number =>
      Math.min(1, ...m.numbers.filter((t) => part.test(t.name)).flatMap((t) => [...t.values]));
    expect(shortest(drive('front', { view: 'front', foreshorten: 0.8 }).motion, /arm/)).toBeGreaterThanOrEqual(
      0.8 - 1e-6,
    );
    expect(drive('front', { view: 'front', foreshorten: 1 }).motion.numbers).toEqual([]);
    expect(drive('right').motion.numbers.every((t) => t.name.startsWith(lengthTrack('')))).toBe(true);
  });

  test('arms go before and behind by depth, and no order flickers', () => {
    const driven = drive('right', { view: 'side' });
    const track = driven.motion.steps.find((s) => s.name === ORDER_TRACK)!;
    const parts = driven.flat.rig.parts.length;
    for (const label of track.labels)
      expect(
        label
          .split(' ')
          .map(Number)
          .sort((a, b) => a - b),
      ).toEqual([...Array(parts).keys()]);
    let runs = 1;
    for (let f = 1; f < track.values.length; f++) if (track.values[f] !== track.values[f - 1]) runs++;
    expect(runs / (track.values.length / driven.motion.fps)).toBeLessThan(3);
    expect(drive('right', { order: false }).motion.steps).toEqual([]);
  });

  test('what it comes to is kept exactly: packed, and as JSON', () => {
    const { motion, flat, plants } = drive('front');
    const back = unpackMotion(packMotion(flat.rig, motion));
    expect(back.steps).toEqual(motion.steps);
    motion.scales.forEach((t, i) => expect([...back.scales[i]!.values.slice(0, 9)]).toEqual([...t.values.slice(0, 9)]));
    const scene = JSON.parse(JSON.stringify(sceneToJson(figure('front'), motion, { name: 'walk', plants })));
    const read = sceneFromJson(scene);
    expect(read.motion.steps).toEqual(motion.steps);
    for (let i = 0; i < motion.turns.length; i += 53) expect(read.motion.turns[i]!).toBeCloseTo(motion.turns[i]!, 5);
  });
});

describe('a scene as JSON measured by nothing of ours', () => {
  const own = figure('right');
  const driven = driveCutout(source, walk.motion, own, { contacts });
  const scene = sceneToJson(own, driven.motion, { plants: driven.plants });
  const moved = (m: readonly number[], [x, y]: readonly number[]): [number, number] => [
    m[0]! * x! + m[2]! * y! + m[4]!,
    m[1]! * x! + m[3]! * y! + m[5]!,
  ];

  test('no gap at attachment points is wider than a hundredth of a unit', () => {
    for (const { matrices } of scene.frames)
      scene.parts.forEach((part, i) => {
        for (const { name, at } of part.attachments) {
          const child = scene.parts.findIndex((p) => p.joint === name && p.parent === part.name);
          if (child < 0) continue;
          const [a, b] = [moved(matrices[i]!, at), moved(matrices[child]!, scene.parts[child]!.pivot)];
          expect(Math.hypot(a[0] - b[0], a[1] - b[1])).toBeLessThan(0.01);
        }
      });
  });

  test('planted points stay on their spots', () => {
    for (const plant of scene.plants) {
      const foot = scene.feet.find((f) => plant.part.endsWith(f.side))!;
      const part = scene.parts.findIndex((p) => p.name === foot.part);
      const point = plant.part.startsWith('heel') ? foot.heel : foot.ball;
      for (let f = plant.start; f <= plant.end; f++) {
        const [x, y] = moved(scene.frames[f]!.matrices[part]!, point);
        expect(Math.hypot(x - plant.spot[0]!, y - plant.spot[1]!)).toBeLessThan(0.1);
      }
    }
  });

  test('Lottie says the same places, drawing by drawing', () => {
    const { animation, asPictures } = toLottie(own, driven.motion);
    expect(asPictures).toEqual([]);
    const layers = animation.layers as LottieLayer[];
    const show = new CutoutShow(own.rig, own.art, driven.motion);
    const frame = boxCorner(animation, show);
    for (let f = 0; f < driven.motion.frameCount; f += 7) {
      const shown = show.at(f / driven.motion.fps);
      // the uppermost layer stands first
      const now = layers.filter((l) => l.ip <= f && f < l.op).reverse();
      expect(now.map((l) => l.nm)).toEqual(shown.map((s) => `${s.drawing.part}: ${s.drawing.label}`));
      shown.forEach(({ matrix, drawing: d }, i) => {
        const m = matrixOf(now[i]!.ks, f);
        for (const [x, y] of [
          [d.box[0], d.box[1]],
          [d.box[0] + d.box[2], d.box[1] + d.box[3]],
        ] as const) {
          const [a, b] = [moved(m, [x, y]), moved(matrix, [x, y])];
          expect(Math.hypot(a[0] + frame[0] - b[0], a[1] + frame[1] - b[1])).toBeLessThan(0.3);
        }
      });
    }
  });

  test('a playing SVG holds every drawing once and a group for every frame', () => {
    const text = animatedSvg(own, driven.motion);
    expect(text.match(/<animate /g)).toHaveLength(driven.motion.frameCount);
    const drawn = new Set([...text.matchAll(/<g id="(drawing\d+)"/g)].map((m) => m[1]));
    for (const [, used] of text.matchAll(/<use xlink:href="#(drawing\d+)"/g)) expect(drawn).toContain(used);
  });
});

describe('fittings', () => {
  const target = figure('right');
  const flat = { rig: asSkeleton(target.rig), map: target.map, cutout: target.rig };
  test('take a cut-out as they take a body, with their own settings', () => {
    const fitted = evaluateFitting(source, walk.motion, flat, FITTING_DEFAULTS);
    expect(fitted.motion.steps.some((s) => s.name === ORDER_TRACK)).toBe(true);
    expect(reportOfFitting(fitted).troubles).toEqual([]);
    const plain = evaluateFitting(source, walk.motion, flat, {
      ...FITTING_DEFAULTS,
      flat: { ...FLAT_DEFAULTS, order: false, foreshorten: 1 },
    });
    expect([plain.motion.steps.some((s) => s.name === ORDER_TRACK), plain.motion.numbers]).toEqual([false, []]);
  });

  test('a turn by hand stays in the plane', () => {
    const edits = {
      frames: walk.motion.frameCount,
      plants: null,
      goals: [],
      looks: [],
      corrections: [{ joint: 'head', keys: [{ frame: 0, turn: [0.3, 0.2, 0.4, 0.8] as const }] }],
    };
    const fitted = evaluateFitting(source, walk.motion, flat, FITTING_DEFAULTS, edits as never);
    const head = jointOf(target.map, 'head');
    const [x, y, z] = fitted.motion.turns.subarray(4 * head, 4 * head + 3);
    expect(Math.hypot(x!, y!)).toBeLessThan(1e-6);
    expect(Math.abs(z! - fitted.solved.motion.turns[4 * head + 2]!)).toBeGreaterThan(0.05);
  });

  test('a cut-out’s motion drives a body in space, and another cut-out', () => {
    const own = driveCutout(source, walk.motion, target).motion;
    const back = putOn({ ...flat, cutout: undefined }, own, source);
    expect(back.frameCount).toBe(own.frameCount);
    const other = figure('front', 9);
    const again = putOn(flat, own, { rig: asSkeleton(other.rig), map: other.map, cutout: other.rig });
    expect(again.turns.every(Number.isFinite)).toBe(true);
  });
});

describe('what is set by hand', () => {
  const { rig, art } = figure('front');
  test('a pivot that is moved leaves the figure at rest as it was drawn', () => {
    const edited = editCutout(rig, art, {
      pivots: { 'forearm L': [art.pivots[3]![0] + 9, 300] },
      hinges: { head: { swing: 0.5 } },
    });
    for (const { matrix } of new CutoutShow(edited.rig, edited.art, restOf(edited.rig)).at(0))
      [1, 0, 0, 1, 0, 0].forEach((x, k) => expect(matrix[k]!).toBeCloseTo(x, 3));
    expect(edited.rig.hinges).toMatchObject({ head: { swing: 0.5 } });
  });

  test('an order names every part once', () => {
    const names = rig.parts.map((p) => p.name);
    const turned = editCutout(rig, art, { order: [...names].reverse() });
    expect(turned.rig.parts.map((p) => p.name)).toEqual([...names].reverse());
    expect(turned.art.pivots).toEqual([...art.pivots].reverse());
    expect(() => editCutout(rig, art, { order: names.slice(1) })).toThrow(/every part once/);
    expect(() => editCutout(rig, art, { pivots: { nobody: [0, 0] } })).toThrow(/no joint/);
  });
});

test('a head drawn in three views shows the one it turns to, mirrored where it turns the other way', () => {
  const svg = paperFigure(
    paperTraits(4, { facing: 'front', language: 'plain', nested: false, hat: false, scale: 1 }),
  ).svg.replace(
    /<g id="head">(.*?)<\/g>/,
    (_, inside: string) =>
      `<g id="head"><g id="front"><g id="face">${inside}</g></g><g id="quarter" display="none"><g id="face">${inside}</g></g><g id="side" display="none"><g id="face">${inside}</g></g></g>`,
  );
  const own = cutoutFromSvg(new TextEncoder().encode(svg));
  const driven = driveCutout(source, turning(walk.motion, walk.rig.names.length), own, { view: 'front' });
  const track = driven.motion.steps.find((s) => s.name === viewTrack('head'))!;
  expect([...track.labels].sort()).toEqual(['front', 'quarter', 'side']);
  expect(new Set(track.values).size).toBe(3);
  const head = jointOf(own.map, 'head');
  expect(driven.motion.scales.some((t) => t.joint === head && t.values.includes(-1))).toBe(true);
  const shown = new CutoutShow(own.rig, own.art, driven.motion).at(0).filter((s) => own.rig.parts[s.part]!.view);
  expect(shown).toHaveLength(1);
});

interface LottieProperty {
  readonly a: 0 | 1;
  readonly k: unknown;
}
interface LottieLayer {
  readonly nm: string;
  readonly ip: number;
  readonly op: number;
  readonly ks: Readonly<Record<'a' | 'p' | 's' | 'r' | 'sk', LottieProperty>>;
}

/** A property at a frame, keyframes with straight ways between. */
function propertyAt({ a, k }: LottieProperty, f: number): number[] {
  if (a === 0) return Array.isArray(k) ? (k as number[]) : [k as number];
  const keys = k as { t: number; s: number[] }[];
  const i = Math.max(
    0,
    keys.findLastIndex((x) => x.t <= f),
  );
  const [from, to] = [keys[i]!, keys[i + 1]];
  if (!to) return from.s;
  const t = (f - from.t) / (to.t - from.t);
  return from.s.map((x, n) => (1 - t) * x + t * to.s[n]!);
}

/** The matrix of a layer's transform, as the format's specification composes it: anchor, size, skew, turn, place. */
function matrixOf(ks: LottieLayer['ks'], f: number): number[] {
  const [px, py] = propertyAt(ks.p, f) as [number, number];
  const [sx, sy] = propertyAt(ks.s, f).map((x) => x / 100) as [number, number];
  const r = (propertyAt(ks.r, f)[0]! * Math.PI) / 180;
  const shear = -Math.tan((propertyAt(ks.sk, f)[0]! * Math.PI) / 180);
  const [c, s] = [Math.cos(r), Math.sin(r)];
  const m = [c * sx, s * sx, (c * shear - s) * sy, (s * shear + c) * sy] as const;
  const [ax, ay] = propertyAt(ks.a, f) as [number, number];
  return [...m, px - m[0] * ax - m[2] * ay, py - m[1] * ax - m[3] * ay];
}

/** Corner of the part of the picture that the animation shows: its layers' places are told from there. */
function boxCorner(animation: Record<string, unknown>, show: CutoutShow): [number, number] {
  const layers = animation.layers as LottieLayer[];
  const first = show.at(0)[0]!;
  const layer = layers.filter((l) => l.ip <= 0 && l.op > 0).at(-1)!;
  const m = matrixOf(layer.ks, 0);
  return [first.matrix[4] - m[4]!, first.matrix[5] - m[5]!];
}

const restOf = (rig: Parameters<typeof editCutout>[0]): Motion => ({
  fps: 24,
  frameCount: 1,
  turns: rig.restR,
  places: [],
  scales: [],
  numbers: [],
  steps: [],
});

/** The whole body turned about the vertical through the origin. */
function turnedAbout(motion: Motion, joints: number, q: readonly number[]): Motion {
  const turns = motion.turns.slice();
  for (let f = 0; f < motion.frameCount; f++) spin(turns, 4 * joints * f, q);
  const places = motion.places.map((t) => {
    if (t.joint !== 0) return t;
    const values = t.values.slice();
    const a = 2 * Math.atan2(q[1]!, q[3]!);
    for (let o = 0; o < values.length; o += 3) {
      const [x, z] = [values[o]!, values[o + 2]!];
      values[o] = x * Math.cos(a) + z * Math.sin(a);
      values[o + 2] = z * Math.cos(a) - x * Math.sin(a);
    }
    return { ...t, values };
  });
  return { ...motion, turns, places };
}

/** On the spot, turning once about. */
function turning(motion: Motion, joints: number): Motion {
  const turns = motion.turns.slice();
  for (let f = 0; f < motion.frameCount; f++) {
    const a = (2 * Math.PI * f) / motion.frameCount;
    spin(turns, 4 * joints * f, [0, Math.sin(a / 2), 0, Math.cos(a / 2)]);
  }
  return { ...motion, turns };
}

function spin(turns: Float32Array, o: number, [x, y, z, w]: readonly number[]): void {
  const [a, b, c, d] = [turns[o]!, turns[o + 1]!, turns[o + 2]!, turns[o + 3]!];
  turns[o] = w! * a + x! * d + y! * c - z! * b;
  turns[o + 1] = w! * b - x! * c + y! * d + z! * a;
  turns[o + 2] = w! * c + x! * b - y! * a + z! * d;
  turns[o + 3] = w! * d - x! * a - y! * b - z! * c;
}

test('moves like the body it comes from, seen from whichever side it is drawn', () => {
  const party = partyOf(walk.rig);
  const describe = (who: Party, motion: Motion): Int8Array => describeClip(poseFeatures(who, motion));
  const motions = [walk.motion, ...[1, 2, 3].map((seed) => wander(walk.rig, 120, seed, walk.motion.fps, 0.4))];
  const bodies = motions.map((m) => describe(party, m));
  for (const facing of ['front', 'right', 'left'] as const)
    for (const [i, motion] of motions.entries()) {
      const paper = figure(facing);
      const { motion: flat } = driveCutout(source, motion, paper);
      const own = describe({ rig: asSkeleton(paper.rig), map: paper.map }, flat);
      expect(liesFlat(own, 0)).toBe(true);
      const far = bodies.map((b) => clipDistance(own, b));
      expect(far.indexOf(Math.min(...far))).toBe(i);
      expect(bodies.map((b) => clipDistance(b, own))).toEqual(far);
    }
  expect(bodies.some((b) => liesFlat(b, 0))).toBe(false);
});

test('a figure in which neither head nor legs were found is told so, and has no good score', () => {
  const whole = figure('right');
  const party = { rig: walk.rig, map: guessBodyMap(walk.rig) };
  const slots = Object.entries(whole.map.slots).map(([slot, e]) =>
    /^(head|thigh|shin|foot)/.test(slot) ? [slot, { ...e, joint: -1, state: 'missing' as const }] : [slot, e],
  );
  const half = { ...whole, map: { ...whole.map, slots: Object.fromEntries(slots) } };
  const told = (f: typeof whole) =>
    measureDriven(driveCutout(party, walk.motion, f, { view: 'side', contacts })).report;
  const lacks = told(half).troubles.find((t) => t.kind === 'unpaired')!;
  expect(lacks.names).toHaveLength(3);
  expect(scoreReport(told(half))).toBeLessThan(40);
  expect(told(whole).troubles.some((t) => t.kind === 'unpaired')).toBe(false);
  expect(scoreReport(told(half))).toBeLessThan(0.5 * scoreReport(told(whole)));
});
