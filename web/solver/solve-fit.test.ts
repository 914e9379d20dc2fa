import { bodyMapToJson, type Motion, rigToJson } from '@velvet-reel/motion';
import { party, posedRig, wander } from '../../motion/test/bodies';
import type { PartyJson } from '../wishes/party';
import { fitEdits, fitSettings, settingsText } from '../wishes/settings';
import { FIT_DEFAULTS } from '../wishes/wishes';
import { curves, evaluate, type FitWish, measured, offers, TRAIL_SLOTS, trails } from './solve-fit';

const json = (rig: ReturnType<typeof posedRig>): PartyJson => {
  const { map } = party(rig);
  return { rig: rigToJson(rig), map: bodyMapToJson(map, rig), restPose: null, floorM: null };
};
const source = posedRig(90);
const motion: Motion = wander(source, 60, 3, 30, 0.35);
const EMPTY = { frames: 0, plants: null, goals: [], looks: [], corrections: [] };
const wish: FitWish = {
  motionHash: 'a',
  source: json(source),
  target: json(posedRig(45, 0.8, true)),
  settings: FIT_DEFAULTS,
  edits: EMPTY,
};

describe('the solver keeps its last evaluation', () => {
  test('the same wish is answered without another solve, a changed one is not', () => {
    const first = evaluate(wish, motion);
    expect(evaluate({ ...wish, settings: { ...FIT_DEFAULTS } }, motion)).toBe(first);
    expect(evaluate({ ...wish, settings: { ...FIT_DEFAULTS, lower: 0.05 } }, motion)).not.toBe(first);
  });

  test('a map or a pose for matching that changed is another wish', () => {
    const first = evaluate(wish, motion);
    const head = { ...wish.target.map.slots.head!, joint: null, state: 'empty' as const };
    const map = { ...wish.target.map, slots: { ...wish.target.map.slots, head } };
    expect(evaluate({ ...wish, target: { ...wish.target, map } }, motion)).not.toBe(first);
    const turns = wish.target.rig.joints.flatMap(() => [0, 0, 0, 1]);
    expect(evaluate({ ...wish, target: { ...wish.target, match: { turns, how: 'x' } } }, motion)).not.toBe(first);
  });

  test('another body with the same joints and map is another wish, as are its rest, its pairs and its floor', () => {
    const first = evaluate(wish, motion);
    const larger = { ...wish, target: json(posedRig(45, 1.2, true)) };
    expect(Object.keys(larger.target.map.slots)).toEqual(Object.keys(wish.target.map.slots));
    const other = evaluate(larger, motion);
    expect(other).not.toBe(first);
    expect(other.fitted.solved.plan.scale).toBeCloseTo(1.5 * first.fitted.solved.plan.scale, 5);
    const restPose = wish.target.rig.joints.flatMap(() => [0, 0, 0, 1, 0, 0, 0]);
    for (const change of [
      { restPose },
      { pairs: [['LeftHand', 'RightHand']] as [string, string][] },
      { floorM: 0.01 },
    ]) {
      const before = evaluate(wish, motion);
      expect(evaluate({ ...wish, target: { ...wish.target, ...change } }, motion)).not.toBe(before);
    }
  });

  test('trails go through hands, feet and hips of both sides', () => {
    const both = trails(evaluate(wish, motion));
    for (const side of ['source', 'result'] as const)
      for (const slot of TRAIL_SLOTS) expect([side, slot, both[side][slot]?.length]).toEqual([side, slot, 180]);
  });

  test('curves are told for a joint of the target; for a stranger there are none', () => {
    const done = evaluate(wish, motion);
    expect(curves(done, 'LeftForeArm', 'turn')).toMatchObject({ partner: 'LeftForeArm' });
    expect(curves(done, 'Tail', 'turn')).toBeNull();
  });
});

describe('offers', () => {
  test('only what helps is offered, with what it comes to, and the fitting under work stays', () => {
    const free = {
      ...wish,
      settings: { ...FIT_DEFAULTS, plants: false, tuning: { ...FIT_DEFAULTS.tuning, arms: -40 } },
    };
    const before = measured(evaluate(free, motion));
    let offered = 0;
    for (const trouble of before.report.troubles) {
      for (const o of offers(free, motion, trouble)) {
        offered++;
        expect(o.after).toBeLessThan(0.9 * o.before);
        expect(measured(evaluate({ ...free, settings: o.settings, edits: o.edits }, motion)).score).toBe(o.score);
      }
    }
    expect(offered).toBeGreaterThan(0);
    expect(measured(evaluate(free, motion)).report.troubles).toEqual(before.report.troubles);
  });

  test('an offer on a motion that was made longer keeps what was done by hand where it belongs', () => {
    const edits = {
      ...EMPTY,
      frames: 60,
      corrections: [{ handle: 'handL' as const, keys: [{ frame: 30, move: [0, 0.1, 0] as const }] }],
    };
    const slow = { ...wish, settings: { ...FIT_DEFAULTS, tuning: { ...FIT_DEFAULTS.tuning, speed: 0.5 } }, edits };
    const { report } = measured(evaluate(slow, motion));
    const list = offers(slow, motion, {
      kind: 'hands',
      frame: 0,
      joint: 'LeftHand',
      parts: ['handL', 'handR'],
      amount: 6,
      unit: 'cm',
      text: 'x',
    });
    const all = [...list, ...report.troubles.flatMap((t) => offers(slow, motion, t))];
    expect(all.length).toBeGreaterThan(0);
    for (const o of all) {
      expect(o.edits.frames).toBe(report.frames);
      expect(o.edits.corrections[0]!.keys[0]!.frame).toBe(Math.round((30 * (report.frames - 1)) / 59));
    }
    expect(evaluate(slow, motion).fitted.edits.corrections[0]!.keys[0]!.frame).toBeGreaterThan(55);
  });

  test('what cannot be mended by an offer gets none', () => {
    expect(
      offers(wish, motion, { kind: 'unpaired', frame: 0, joint: 'x', parts: [], amount: 0, unit: '', text: 'x' }),
    ).toEqual([]);
  });
});

describe('settings and edits from outside', () => {
  test('an empty object is the default, as in the core', () => {
    expect(fitSettings.parse({})).toEqual(FIT_DEFAULTS);
    expect(settingsText.parse('{"lower":0.1}')).toEqual({ ...FIT_DEFAULTS, lower: 0.1 });
  });

  test.each([
    ['a word that is none', { leave: ['left leg'] }],
    ['hips too low', { lower: 0.5 }],
    ['an amount out of range', { tuning: { energy: 99 } }],
    ['a travel that is none', { travel: 'fly' }],
  ])('%s is refused', (_, given) => {
    expect(fitSettings.safeParse(given).success).toBe(false);
  });

  test.each([
    ['a part that is none', { ...EMPTY, plants: [{ part: 'tail', start: 1, end: 2 }] }],
    ['a spot a thousand miles off', { ...EMPTY, plants: [{ part: 'heelL', start: 1, end: 2, pin: [1e6, 0] }] }],
    ['an importance above 1', { ...EMPTY, goals: [{ hand: 'L', keep: 'head', weight: 3 }] }],
    ['a handle that is none', { ...EMPTY, corrections: [{ handle: 'tail', keys: [] }] }],
    ['a key that is no number', { ...EMPTY, corrections: [{ handle: 'hips', keys: [{ frame: 'x' }] }] }],
    [
      'more plants than a motion can have',
      { ...EMPTY, plants: Array.from({ length: 5001 }, () => ({ part: 'heelL', start: 1, end: 2 })) },
    ],
  ])('%s is refused', (_, given) => {
    expect(fitEdits.safeParse(given).success).toBe(false);
  });

  test('what the place writes passes', () => {
    const edits = {
      frames: 60,
      plants: [{ part: 'ballR', start: 3, end: 9, pin: [0.2, -0.1] }],
      goals: [{ hand: 'both', keep: 'point', point: [0, 1, 0.4], weight: [{ frame: 3, weight: 0.5 }] }],
      looks: [{ point: [0, 1, 2], weight: 1 }],
      corrections: [
        { handle: 'footL', keys: [{ frame: 2, move: [0, 0.1, 0], turn: [0, 0, 0, 1], ease: 'linear' }] },
        { joint: 'Head', keys: [{ frame: 5, turn: [0, 0, 0.1, 0.99] }] },
      ],
    };
    expect(fitEdits.parse(edits)).toEqual(edits);
  });
});
