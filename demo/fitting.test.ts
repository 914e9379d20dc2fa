import {
  evaluateFitting,
  FITTING_DEFAULTS,
  type FittingEdits,
  type FittingSettings,
  findContacts,
  measureBody,
  mendsFor,
  NO_EDITS,
  type Plant,
  PoseReader,
  reportOfFitting,
  soleTracks,
  tidyPlants,
} from '../motion/index';
import { buildBody } from './body-spec';
import { CAST } from './cast';
import { performAll } from './world';

const SHORT = [
  'Deck walk',
  'Gangway walk, steep',
  'Quay run',
  'About turn',
  'Backing off from the winch',
  'Wave to shore',
  'Limp after a stubbed toe',
  'Hop onto the hatch',
];
const { actor: player, performances } = performAll((s) => SHORT.includes(s.name));
const actor = { rig: player.rig, map: player.map };
const bodies = new Map(CAST.map((m) => [m.id, buildBody(m.spec, m.seed)]));
const take = (name: string) => performances.find((p) => p.score.name === name)!.motion;
const onto = (id: string, name: string, settings: Partial<FittingSettings> = {}, edits: FittingEdits = NO_EDITS) =>
  evaluateFitting(actor, take(name), bodies.get(id)!, { ...FITTING_DEFAULTS, ...settings }, edits);

const walk = performances.find((p) => p.score.kind === 'cycle')!.score.name;

describe('hard cases, with figures', () => {
  test('Skerry, Z up and without toes: soles stay on their spots though there is nothing to roll over', () => {
    const { slip, floor, plants } = reportOfFitting(onto('skerry', walk));
    expect(plants.some((p) => p.part.startsWith('ball'))).toBe(true);
    expect(slip.meanPercentLegPerPlantSecond).toBeLessThan(0.1);
    expect(floor.maxDepthCm).toBeLessThan(0.1);
  });

  test('Winch, odd axes and one spine joint: limbs point as the source’s do', () => {
    const { direction } = reportOfFitting(onto('winch', walk, { plants: false }));
    expect(direction.meanDeg).toBeLessThan(0.01);
  });

  test('Tove, five spine joints: the chest bends as far as the source’s, shared over the five', () => {
    const body = bodies.get('tove')!;
    const { motion, solved } = onto('tove', walk, { plants: false });
    const spine = Object.entries(body.map.slots)
      .filter(([slot, e]) => /^spine\d$/.test(slot) && e.joint >= 0)
      .map(([, e]) => e.joint);
    expect(spine).toHaveLength(5);
    const n = body.rig.names.length;
    // every one of them moves, and none takes it all
    const ranges = spine.map((j) => {
      let most = 0;
      for (let f = 0; f < motion.frameCount; f++) {
        let dot = 0;
        for (let k = 0; k < 4; k++) dot += motion.turns[4 * j + k]! * motion.turns[4 * (f * n + j) + k]!;
        most = Math.max(most, 2 * Math.acos(Math.min(1, Math.abs(dot))));
      }
      return most;
    });
    for (const r of ranges) expect(r).toBeGreaterThan(0.001);
    expect(Math.max(...ranges)).toBeLessThan(0.75 * ranges.reduce((a, b) => a + b, 0));
    expect(solved.plan.scale).toBeLessThan(1);
  });

  test('Pip, big head and short arms: hands go no farther into the body than the source’s do, or it is said', () => {
    for (const p of performances.slice(0, 12)) {
      const { crossing, troubles } = reportOfFitting(onto('pip', p.score.name));
      if (crossing.maxCm > 2)
        expect([p.score.name, troubles.some((t) => t.kind === 'crossing')]).toEqual([p.score.name, true]);
    }
  });
});

describe('plants edited', () => {
  const found = (name: string): Plant[] => {
    const body = measureBody(actor.rig, actor.map);
    const motion = take(name);
    return [...findContacts(soleTracks(actor.rig, motion, body), motion.fps, body.leg).plants];
  };
  const place = (id: string, fitted: ReturnType<typeof onto>, part: 'heelL' | 'ballR', f: number): number[] => {
    const body = bodies.get(id)!;
    return [...soleTracks(body.rig, fitted.motion, measureBody(body.rig, body.map))[part]!.subarray(3 * f, 3 * f + 3)];
  };
  const edit = (plants: readonly Plant[]): FittingEdits => ({
    ...NO_EDITS,
    frames: take(walk).frameCount,
    plants: tidyPlants(plants, take(walk).frameCount),
  });

  test('the plants that were found, given back, change nothing', () => {
    const a = onto('tove', walk).motion;
    const b = onto('tove', walk, {}, edit(found(walk))).motion;
    let worst = 0;
    a.turns.forEach((x, i) => {
      worst = Math.max(worst, Math.abs(x - b.turns[i]!));
    });
    expect(worst).toBeLessThan(1e-6);
  });

  test.each(['tove', 'skerry', 'winch', 'pip'])(
    'on %s a plant that is held longer stays on its spot to its new end',
    (id) => {
      const plants = found(walk);
      const i = plants.findIndex((p) => p.part === 'heelL' && p.start > 2);
      const p = plants[i]!;
      const end = Math.min(take(walk).frameCount - 1, p.end + 6);
      const fitted = onto(id, walk, {}, edit(plants.map((x, k) => (k === i ? { ...x, end } : x))));
      const [from, to] = [place(id, fitted, 'heelL', p.start + 1), place(id, fitted, 'heelL', end)];
      const leg = measureBody(bodies.get(id)!.rig, bodies.get(id)!.map).leg;
      expect(Math.hypot(from[0]! - to[0]!, from[2]! - to[2]!)).toBeLessThan(0.002 * leg);
    },
  );

  test('a plant that is pinned stands on the spot it was given', () => {
    const plants = found(walk);
    const i = plants.findIndex((p) => p.part === 'ballR');
    const p = plants[i]!;
    const middle = (p.start + p.end) >> 1;
    const before = place('tove', onto('tove', walk), 'ballR', middle);
    const pin: [number, number] = [before[0]! - 0.05, before[2]! + 0.03];
    const fitted = onto('tove', walk, {}, edit(plants.map((x, k) => (k === i ? { ...x, pin } : x))));
    const after = place('tove', fitted, 'ballR', middle);
    expect(Math.hypot(after[0]! - pin[0], after[2]! - pin[1])).toBeLessThan(0.004);
  });

  test('without any plant the feet go as carried over', () => {
    const free = onto('tove', walk, {}, edit([])).solved;
    expect(free.plants).toEqual([]);
    expect(free.gaveWay).toBe(0);
  });
});

describe('mending', () => {
  test('most troubles that have an offer get smaller by one of them', () => {
    let tried = 0;
    let better = 0;
    for (const id of ['tove', 'skerry', 'winch', 'pip']) {
      for (const p of performances.filter((x) => x.motion.frameCount < 400).slice(0, 3)) {
        const name = p.score.name;
        const settings = { ...FITTING_DEFAULTS, plants: false };
        const report = reportOfFitting(onto(id, name, settings));
        const trouble = report.troubles.find((t) => t.kind === 'slip');
        if (!trouble) continue;
        tried++;
        const offers = mendsFor(trouble, report, settings, NO_EDITS, p.motion.fps);
        const slips = offers.map((m) => reportOfFitting(onto(id, name, m.settings, m.edits)).slip.maxCm);
        if (Math.min(...slips) < 0.2 * report.slip.maxCm) better++;
      }
    }
    expect(tried).toBeGreaterThan(3);
    expect(better / tried).toBeGreaterThan(0.9);
  });
});

test('a correction by hand shows in the result and in its report', () => {
  const plain = onto('winch', walk);
  const edits: FittingEdits = {
    ...NO_EDITS,
    frames: take(walk).frameCount,
    corrections: [{ handle: 'footL', keys: [{ frame: 0, move: [0, -0.05, 0] }] }],
  };
  const low = onto('winch', walk, {}, edits);
  expect(reportOfFitting(low).floor.maxDepthCm).toBeGreaterThan(reportOfFitting(plain).floor.maxDepthCm + 2);
  const body = bodies.get('winch')!;
  const hips = body.map.slots.hips!.joint;
  const y = (m: typeof plain.motion): number => new PoseReader(body.rig, m).at(5).p[3 * hips + 1]!;
  expect(y(low.motion)).toBeCloseTo(y(plain.motion), 5);
});
