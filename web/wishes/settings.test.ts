import { MotionError, tune } from '@velvet-reel/motion';
import { party, posedRig, wander } from '../../motion/test/bodies';
import { applyChange } from './change';
import { asEdits, changeWish, fitEdits, fitSettings, settingsText } from './settings';
import { changeSteps, changeWords, keysSurvive, NO_CHANGE } from './wishes';

const rig = posedRig(90);
const side = party(rig);
const motion = wander(rig, 40, 2, 30, 0.3);

describe('a change', () => {
  test('of nothing is what nothing asked for comes to, and the motion itself', () => {
    expect(changeWish.parse({})).toEqual(NO_CHANGE);
    const same = applyChange(side, motion, NO_CHANGE);
    expect([...same.turns]).toEqual([...motion.turns]);
    expect(changeWords(NO_CHANGE)).toEqual([]);
    expect(changeWords({ ...NO_CHANGE, regions: ['head'], joints: ['LeftHand'] })).toEqual(['only head, LeftHand']);
    expect(changeWords({ ...NO_CHANGE, joints: ['a', 'b', 'c', 'd'] })).toEqual(['only 4 joints']);
    expect(changeSteps(NO_CHANGE)).toEqual([]);
  });

  test('is told in words for everything in it, in the order of doing', () => {
    const all = changeWish.parse({
      despike: true,
      fillGaps: true,
      smoothHz: 6,
      trim: { start: 4, end: 20 },
      regions: ['head', 'trunk'],
      mirror: true,
      tuning: { energy: 1.2, arms: 5, stance: 1.1, stride: 0.9, lean: -3, speed: 2 },
      floor: true,
      loop: true,
      inPlace: true,
    });
    expect(changeWords(all)).toEqual([
      'spikes out',
      'gaps filled',
      'smoothed at 6 Hz',
      'frames 5 to 21',
      'only head, trunk',
      'mirrored',
      'energy 1.2',
      'arms 5°',
      'stance × 1.1',
      'stride × 0.9',
      'lean -3°',
      'speed × 2',
      'on the floor',
      'looped',
      'in place',
    ]);
    expect(changeSteps(all).map((s) => s.op)).toEqual(expect.arrayContaining(['despike', 'trim', 'mirror', 'floor']));
    expect(changeWords({ ...NO_CHANGE, trim: { start: 7, end: 7 } })).toEqual(['pose at frame 8']);
  });

  test('a stretch has the frames it names; a pose one', () => {
    expect(applyChange(side, motion, { ...NO_CHANGE, trim: { start: 4, end: 20 } }).frameCount).toBe(17);
    expect(applyChange(side, motion, { ...NO_CHANGE, trim: { start: 39, end: 39 } }).frameCount).toBe(1);
  });

  test.each([[{ start: 20, end: 4 }], [{ start: 0, end: 40 }], [{ start: 90, end: 99 }]])(
    'a stretch that is none, %o, is refused with a sentence',
    (trim) => {
      expect(() => applyChange(side, motion, { ...NO_CHANGE, trim })).toThrow(MotionError);
    },
  );

  test('spikes and gaps go before smoothing, so that neither is smeared', () => {
    const ops = changeSteps({ ...NO_CHANGE, smoothHz: 6, despike: true, fillGaps: true }).map((s) => s.op);
    expect(ops).toEqual(['despike', 'fillGaps', 'smooth']);
  });

  test('of parts keeps those alone; the rest stands as it rests', () => {
    const arm = applyChange(side, motion, { ...NO_CHANGE, regions: ['left arm'] });
    const n = rig.names.length;
    const moved = (name: string): boolean => {
      const j = rig.names.indexOf(name);
      return Array.from({ length: 40 }, (_, f) => f).some((f) =>
        [0, 1, 2, 3].some((k) => Math.abs(arm.turns[4 * (f * n + j) + k]! - arm.turns[4 * j + k]!) > 1e-4),
      );
    };
    expect(moved('LeftForeArm')).toBe(true);
    expect(moved('RightForeArm')).toBe(false);
    expect(moved('LeftLeg')).toBe(false);
  });

  test('a held end stands still and comes last, backwards begins with the end', () => {
    const wish = { ...NO_CHANGE, reverse: true, hold: { before: 3, after: 5 } };
    expect(changeSteps(wish).map((s) => s.op)).toEqual(['reverse', 'hold']);
    const made = applyChange(side, motion, wish);
    expect(made.frameCount).toBe(motion.frameCount + 8);
    const n = 4 * rig.names.length;
    const frame = (m: typeof made, f: number): number[] => [...m.turns.subarray(n * f, n * (f + 1))].map(Math.abs);
    for (let f = 1; f <= 3; f++) expect(frame(made, f)).toEqual(frame(made, 0));
    for (let f = 1; f <= 5; f++) expect(frame(made, made.frameCount - 1 - f)).toEqual(frame(made, made.frameCount - 1));
    frame(made, 0).forEach((x, k) => expect(x).toBeCloseTo(frame(motion, motion.frameCount - 1)[k]!, 4));
    expect(changeWords(wish)).toEqual(['backwards', 'first frame held 3', 'last frame held 5']);
    expect(changeWish.safeParse({ hold: { before: -1, after: 0 } }).success).toBe(false);
  });

  test('twice mirrored is what it was', () => {
    const twice = tune(side, tune(side, motion, [{ op: 'mirror' }]), [{ op: 'mirror' }]);
    twice.turns.forEach((x, i) => expect(Math.abs(x)).toBeCloseTo(Math.abs(motion.turns[i]!), 4));
  });
});

describe('what comes from outside', () => {
  test('is held to what sliders can do, and to nothing that was not asked for', () => {
    expect(fitSettings.safeParse({ lower: 0.5 }).success).toBe(false);
    expect(fitSettings.safeParse({ tuning: { speed: 0 } }).success).toBe(false);
    expect(fitSettings.safeParse({ leave: ['head', 'tail'] }).success).toBe(false);
    expect(fitSettings.parse({ strange: 1 })).not.toHaveProperty('strange');
    expect(changeWish.safeParse({ smoothHz: -1 }).success).toBe(false);
    expect(changeWish.safeParse({ trim: { start: 0.5, end: 2 } }).success).toBe(false);
    expect(changeWish.safeParse({ regions: ['wing'] }).success).toBe(false);
  });

  test('settings in an address are JSON of some length at most, or a sentence', () => {
    expect(settingsText.parse('{"travel":"none"}')).toMatchObject({ travel: 'none', plants: true });
    for (const text of ['', '{', '[]x', '{"travel":"far"}'])
      expect(settingsText.safeParse(text).error?.issues[0]?.message).toBe('the settings are not readable');
    expect(settingsText.safeParse(`{"x":"${'y'.repeat(3000)}"}`).success).toBe(false);
  });

  const EDITS = { frames: 9, plants: null, goals: [], looks: [], corrections: [] };
  test.each([
    ['a plant of a part that there is not', { plants: [{ part: 'tail', start: 0, end: 2 }] }],
    ['a spot at the moon', { looks: [{ point: [0, 1e9, 0] }] }],
    ['a weight above one', { goals: [{ hand: 'L', keep: 'head', weight: 2 }] }],
    ['a key before the beginning', { corrections: [{ joint: 'Head', keys: [{ frame: -1 }] }] }],
    ['a joint without a name', { corrections: [{ joint: '', keys: [] }] }],
    ['a place that is no number', { looks: [{ point: [0, Number.NaN, 0] }] }],
    ['half a frame of length', { frames: 1.5 }],
  ])('edits with %s are refused', (_, change) => {
    expect(fitEdits.safeParse(EDITS).success).toBe(true);
    expect(fitEdits.safeParse({ ...EDITS, ...change }).success).toBe(false);
  });

  test('edits as the place writes them pass unchanged', () => {
    const full = {
      frames: 40,
      plants: [{ part: 'heelL', start: 1, end: 4, pin: [0.5, -0.25] }],
      goals: [{ hand: 'both', keep: 'point', point: [0, 1, 0.5], weight: [{ frame: 3, weight: 0.5 }] }],
      looks: [{ point: [0, 1.5, 3], weight: 1 }],
      corrections: [
        { handle: 'hips', keys: [{ frame: 2, move: [0, -0.1, 0], ease: 'step' }] },
        { joint: 'Head', keys: [{ frame: 2, turn: [0, 0, 0, 1] }] },
      ],
    };
    expect(asEdits(fitEdits.parse(full))).toEqual(full);
  });
});

test('keyed animation stays keys under a change that only takes a part of it', () => {
  const part = { ...NO_CHANGE, trim: { start: 2, end: 9 }, regions: ['head' as const], what: 'drawings' as const };
  expect(changeWords(part)).toEqual(['frames 3 to 10', 'only head', 'drawings alone']);
  for (const wish of [NO_CHANGE, part]) expect(keysSurvive(wish)).toBe(true);
  for (const more of [{ mirror: true }, { loop: true }, { smoothHz: 4 }, { hold: { before: 3, after: 0 } }])
    expect(keysSurvive({ ...part, ...more })).toBe(false);
});
