import fc from 'fast-check';
import type { Plant } from '../analysis/plants';
import { largestError } from '../codec/error';
import { PoseReader } from '../motion/motion';
import { retarget } from '../retarget/retarget';
import { told } from '../retarget/trouble';
import { party, posedRig, wander } from '../test/bodies';
import { CURVES, curvesOf, jointCurve, pathOf } from './curves';
import {
  FITTING_DEFAULTS,
  type FittingEdits,
  fittingWords,
  NO_EDITS,
  otherEnd,
  solveOptions,
  stretchEdits,
  tidyPlants,
} from './document';
import { evaluateFitting, reportOfFitting } from './evaluate';
import { mendsFor } from './mend';

const source = party(posedRig(90));
const target = party(posedRig(45, 0.8, true));
const motion = wander(source.rig, 61, 3, 60, 0.3);
const joint = (name: string): number => target.rig.names.indexOf(name);

describe('the document of a fitting', () => {
  const plant = (part: Plant['part'], start: number, end: number, pin?: [number, number]): Plant => ({
    part,
    start,
    end,
    ...(pin ? { pin } : {}),
  });

  test.each([
    ['two that overlap become one', [plant('heelL', 2, 8), plant('heelL', 6, 12)], [plant('heelL', 2, 12)]],
    ['two that touch become one', [plant('heelL', 2, 5), plant('heelL', 6, 9)], [plant('heelL', 2, 9)]],
    [
      'heel and ball stay apart',
      [plant('ballL', 2, 8), plant('heelL', 2, 8)],
      [plant('heelL', 2, 8), plant('ballL', 2, 8)],
    ],
    ['what is beyond the end is cut', [plant('ballR', 15, 40)], [plant('ballR', 15, 19)]],
    ['one that ends before it begins is none', [plant('ballR', 9, 4)], []],
    ['a spot survives joining', [plant('heelR', 0, 4, [1, 2]), plant('heelR', 3, 9)], [plant('heelR', 0, 9, [1, 2])]],
  ])('plants are put in order: %s', (_, given, due) => {
    expect(tidyPlants(given, 20).map((p) => ({ ...p }))).toEqual(due);
  });

  test('tidied plants never overlap, whatever was given', () => {
    const any = fc.record({
      part: fc.constantFrom<Plant['part']>('heelL', 'ballL', 'heelR'),
      start: fc.integer({ min: -10, max: 60 }),
      end: fc.integer({ min: -10, max: 60 }),
    });
    fc.assert(
      fc.property(fc.array(any, { maxLength: 12 }), (given) => {
        const out = tidyPlants(given, 50);
        for (const part of ['heelL', 'ballL', 'heelR']) {
          const own = out.filter((p) => p.part === part);
          own.forEach((p, i) => {
            expect(p.start).toBeLessThanOrEqual(p.end);
            expect(p.start).toBeGreaterThanOrEqual(0);
            expect(p.end).toBeLessThan(50);
            if (i > 0) expect(p.start).toBeGreaterThan(own[i - 1]!.end + 1);
          });
        }
        expect(tidyPlants(out, 50)).toEqual(out);
      }),
    );
  });

  test('edits go along when the motion gets longer, and come back', () => {
    const edits: FittingEdits = {
      frames: 11,
      plants: [plant('heelL', 2, 5)],
      goals: [{ hand: 'L', keep: 'hips', weight: [{ frame: 10, weight: 1 }] }],
      looks: [],
      corrections: [{ handle: 'head', keys: [{ frame: 5, move: [0, 0.1, 0] }] }],
    };
    const long = stretchEdits(edits, 21);
    expect(long.plants).toEqual([plant('heelL', 4, 10)]);
    expect(long.corrections[0]!.keys[0]!.frame).toBe(10);
    expect(long.goals[0]!.weight).toEqual([{ frame: 20, weight: 1 }]);
    expect(stretchEdits(long, 11)).toEqual(edits);
  });

  test('keys that fall onto one frame become one instead of breaking the order', () => {
    const keys = [0, 1, 2, 3].map((frame) => ({ frame, move: [frame, 0, 0] as [number, number, number] }));
    const short = stretchEdits({ ...NO_EDITS, frames: 41, corrections: [{ handle: 'hips', keys }] }, 11);
    const frames = short.corrections[0]!.keys.map((k) => k.frame);
    expect(frames).toEqual([...new Set(frames)]);
    expect(frames).toEqual([...frames].sort((a, b) => a - b));
  });

  test('heel and ball are each other’s other end; hands have none', () => {
    expect(['heelL', 'ballR', 'handL'].map((p) => otherEnd(p as Plant['part']))).toEqual(['ballL', 'heelR', 'handL']);
  });

  test('says in words what differs from the defaults, and nothing otherwise', () => {
    expect(fittingWords(FITTING_DEFAULTS)).toEqual([]);
    const words = fittingWords(
      {
        ...FITTING_DEFAULTS,
        clear: false,
        lower: 0.02,
        leave: ['head', 'travel x'],
        tuning: { ...FITTING_DEFAULTS.tuning, stance: 1.15 },
      },
      { ...NO_EDITS, plants: [], corrections: [{ handle: 'hips', keys: [{ frame: 1 }] }] },
    );
    expect(words).toEqual([
      'limbs not kept apart',
      'hips 2.0 % lower',
      'without head, travel x',
      'stance × 1.15',
      'plants by hand',
      '1 correction key',
    ]);
  });

  test('words for what is left out become slots that the target has, and axes', () => {
    const { leave } = solveOptions({ ...FITTING_DEFAULTS, leave: ['head', 'fingers', 'travel y'] }, NO_EDITS, {
      slots: ['hips', 'neck1', 'head', 'index1L', 'handL'],
    });
    expect(leave).toEqual({ slots: ['neck1', 'head', 'index1L'], travel: ['y'] });
  });
});

describe('evaluating a fitting', () => {
  test('with nothing set it is the plain retarget', () => {
    const { motion: result } = evaluateFitting(source, motion, target, FITTING_DEFAULTS);
    expect(largestError(target.rig, result, retarget(source, motion, target).motion)).toBeLessThan(1e-12);
  });

  test('the same document gives the same motion twice', () => {
    const edits: FittingEdits = {
      ...NO_EDITS,
      frames: 61,
      corrections: [{ joint: 'Chest', keys: [{ frame: 20, turn: [0, 0.2, 0, 0.98] }] }],
    };
    const run = () => evaluateFitting(source, motion, target, FITTING_DEFAULTS, edits).motion.turns;
    expect(run()).toEqual(run());
  });

  test('a head that is left out keeps its rest turn; the rest of the body moves as before', () => {
    const whole = evaluateFitting(source, motion, target, FITTING_DEFAULTS).motion;
    const { motion: result } = evaluateFitting(source, motion, target, { ...FITTING_DEFAULTS, leave: ['head'] });
    const n = target.rig.names.length;
    const turn = (m: typeof result, f: number, j: number): number[] => [
      ...m.turns.subarray(4 * (f * n + j), 4 * (f * n + j) + 4),
    ];
    const rest = [...target.rig.restR.subarray(4 * joint('Head'), 4 * joint('Head') + 4)];
    for (const f of [0, 20, 60]) {
      const sign = Math.sign(turn(result, f, joint('Head')).reduce((s, x, k) => s + x * rest[k]!, 0));
      turn(result, f, joint('Head')).forEach((x, k) => expect(sign * x).toBeCloseTo(rest[k]!, 5));
      turn(result, f, joint('LeftArm')).forEach((x, k) =>
        expect(x).toBeCloseTo(turn(whole, f, joint('LeftArm'))[k]!, 4),
      );
    }
  });

  test('what is left out on purpose is no trouble of the map', () => {
    const report = (leave: ('head' | 'toes')[]) =>
      reportOfFitting(evaluateFitting(source, motion, target, { ...FITTING_DEFAULTS, leave })).troubles;
    expect(report(['head']).filter((t) => t.kind === 'unpaired')).toEqual([]);
  });

  test.each(['x', 'y', 'z'] as const)('travel along %s stays where it began, the others go on', (axis) => {
    const at = (leave: `travel ${'x' | 'y' | 'z'}`[]): number[] => {
      const { motion: m } = evaluateFitting(source, motion, target, { ...FITTING_DEFAULTS, plants: false, leave });
      const reader = new PoseReader(target.rig, m);
      const first = [...reader.at(0).p.subarray(0, 3)];
      return [...reader.at(60).p.subarray(0, 3)].map((x, k) => x - first[k]!);
    };
    const k = { x: 0, y: 1, z: 2 }[axis];
    const [held, free] = [at([`travel ${axis}`]), at([])];
    expect(held[k]!).toBeCloseTo(0, 5);
    for (const other of [0, 1, 2].filter((i) => i !== k)) expect(held[other]!).toBeCloseTo(free[other]!, 5);
  });

  test('lowered hips come down by the share of the leg that was asked', () => {
    const height = (lower: number): number => {
      const { motion: m } = evaluateFitting(source, motion, target, { ...FITTING_DEFAULTS, plants: false, lower });
      return new PoseReader(target.rig, m).at(30).p[1]!;
    };
    const leg = 0.8 * 0.92; // the body's legs, scaled
    expect(height(0) - height(0.05)).toBeGreaterThan(0.04 * leg);
    expect(height(0) - height(0.05)).toBeLessThan(0.06 * leg);
  });

  test('a look turns the face to the spot and no farther than a neck goes', () => {
    const facing = (weight: number, point: [number, number, number]): number => {
      const { motion: m } = evaluateFitting(source, motion, target, FITTING_DEFAULTS, {
        ...NO_EDITS,
        looks: [{ point, weight }],
      });
      const pose = new PoseReader(target.rig, m).at(10);
      const h = joint('Head');
      const to = point.map((x, k) => x - pose.p[3 * h + k]!);
      const straight = retarget(source, motion, target);
      const rest = straight.plan.targetAligned;
      // ahead in the aligned pose, carried by the head's turn
      const q = [0, 1, 2, 3].map((k) => pose.r[4 * h + k]!);
      const inv = [0, 1, 2, 3].map((k) => rest[4 * h + k]! * (k < 3 ? -1 : 1));
      const ahead = turnBy(q, turnBy(inv, [0, 0, 1]));
      const dot = ahead.reduce((s, x, k) => s + x * to[k]!, 0) / Math.hypot(...to);
      return (Math.acos(Math.max(-1, Math.min(1, dot))) * 180) / Math.PI;
    };
    const spot: [number, number, number] = [1.5, 1.2, 2];
    expect(facing(1, spot)).toBeLessThan(0.5);
    expect(facing(0, spot)).toBeGreaterThan(5);
    expect(facing(1, [0, 1.2, -9])).toBeGreaterThan(30);
  });
});

function turnBy(q: number[], v: number[]): number[] {
  const [x, y, z, w] = q as [number, number, number, number];
  const t = [2 * (y * v[2]! - z * v[1]!), 2 * (z * v[0]! - x * v[2]!), 2 * (x * v[1]! - y * v[0]!)];
  return [
    v[0]! + w * t[0]! + y * t[2]! - z * t[1]!,
    v[1]! + w * t[1]! + z * t[0]! - x * t[2]!,
    v[2]! + w * t[2]! + x * t[1]! - y * t[0]!,
  ];
}

describe('curves and paths', () => {
  const done = retarget(source, motion, target, { plants: false });

  test.each(CURVES)('%s has a number a frame for joint and partner', (kind) => {
    const { result, source: own, partner } = curvesOf(done.plan, done.source, done.motion, joint('LeftForeArm'), kind);
    expect(partner).toBe('LeftForeArm');
    expect(result).toHaveLength(61);
    expect(own).toHaveLength(61);
    expect([...result, ...own!].every(Number.isFinite)).toBe(true);
  });

  test('a forearm turns by the same angle on both sides of a retarget', () => {
    const both = curvesOf(done.plan, done.source, done.motion, joint('LeftForeArm'), 'speed');
    both.result.forEach((x, f) => expect(x).toBeCloseTo(both.source![f]!, 1));
  });

  test('height is the joint’s own, in centimetres', () => {
    const y = new PoseReader(target.rig, done.motion).at(40).p[3 * joint('Head') + 1]!;
    expect(jointCurve(target.rig, done.motion, joint('Head'), 'height')[40]!).toBeCloseTo(100 * y, 3);
  });

  test('a path goes through the places of its joint; a part that is not there has none', () => {
    const path = pathOf(target.rig, target.map, done.motion, 'handR')!;
    const at = new PoseReader(target.rig, done.motion).at(33).p.subarray(3 * joint('RightHand'));
    for (let k = 0; k < 3; k++) expect(path[99 + k]!).toBeCloseTo(at[k]!, 5);
    expect(pathOf(target.rig, target.map, done.motion, 'index1L')).toBeUndefined();
  });
});

describe('offers to mend', () => {
  const report = reportOfFitting(evaluateFitting(source, motion, target, FITTING_DEFAULTS));
  const offers = (
    kind: Parameters<typeof mendsFor>[0]['kind'],
    settings = FITTING_DEFAULTS,
    parts = ['footL', 'footR'],
    at = 0,
  ) =>
    mendsFor(
      told({ kind, frame: at, joint: 'LeftFoot', parts, amount: 1, unit: 'cm' }),
      report,
      settings,
      NO_EDITS,
      60,
    );

  test('every offer changes something, and none changes what it was given', () => {
    for (const kind of ['slip', 'floor', 'hover', 'reach', 'snap', 'limit', 'crossing', 'hands'] as const) {
      const given = { ...FITTING_DEFAULTS, plants: false };
      const list = offers(kind, given);
      expect([kind, list.length > 0]).toEqual([kind, true]);
      expect(new Set(list.map((m) => m.id)).size).toBe(list.length);
      for (const m of list) expect([m.settings, m.edits.plants]).not.toEqual([given, null]);
    }
    expect(FITTING_DEFAULTS.lower).toBe(0);
  });

  test('a held foot that slides can be let go earlier or held longer', () => {
    const plants: Plant[] = [{ part: 'heelL', start: 10, end: 30 }];
    const list = mendsFor(
      told({ kind: 'slip', frame: 30, joint: 'LeftFoot', parts: ['heelL'], amount: 3, unit: 'cm' }),
      { ...report, plants },
      FITTING_DEFAULTS,
      NO_EDITS,
      60,
    );
    expect(list.find((m) => m.id === 'release')!.edits.plants).toEqual([{ part: 'heelL', start: 10, end: 24 }]);
    expect(list.find((m) => m.id === 'longer')!.edits.plants).toEqual([{ part: 'heelL', start: 10, end: 36 }]);
    expect(plants).toEqual([{ part: 'heelL', start: 10, end: 30 }]);
  });

  test('limbs that run into one another are kept apart, unless they are already', () => {
    const parts = ['forearmR', 'trunk'];
    const inside = offers('crossing', { ...FITTING_DEFAULTS, clear: false }, parts);
    expect(inside[0]).toMatchObject({ id: 'clear', settings: { clear: true } });
    expect(offers('crossing', FITTING_DEFAULTS, parts).map((m) => m.id)).not.toContain('clear');
    const legs = offers('crossing', { ...FITTING_DEFAULTS, clear: false }, ['shinL', 'shinR']);
    expect(legs.map((m) => m.id)).toEqual(expect.arrayContaining(['clear', 'wide']));
    const thighs = ['thighL', 'thighR'];
    expect(offers('crossing', { ...FITTING_DEFAULTS, clear: false }, thighs).map((m) => m.id)).not.toContain('clear');
  });

  test('joints without partner are the map’s to mend: nothing is offered', () => {
    expect(offers('unpaired')).toEqual([]);
    expect(offers('still')).toEqual([]);
  });
});
