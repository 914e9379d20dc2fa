import { jointOf } from '../bodymap/slots';
import { cutoutFromSvg } from '../cutout/assemble';
import { MotionError } from '../errors';
import { angleBetweenQuats } from '../math/quat';
import { type Motion, PoseReader, restMotion } from '../motion/motion';
import { lengthTrack, ORDER_TRACK, viewTrack } from '../motion/tracks';
import { flatSkeleton } from '../rig/flat';
import { buildRig, PLAIN, party, posedRig, wander } from '../test/bodies';
import { paperFigure, paperTraits } from '../test/paper';
import { keepRegions, keptRegions, REGIONS, type Region, regionsOf } from './regions';

const rig = buildRig();
const { map } = party(rig);
const motion = wander(rig, 40, 3);
const n = rig.names.length;
const at = (name: string): number => rig.names.indexOf(name);

test('every joint belongs to one region, limbs to their side', () => {
  const own = regionsOf(rig, map);
  expect(own).toHaveLength(n);
  for (const [name, region] of [
    ['Hips', 'hips'],
    ['Chest', 'trunk'],
    ['Head', 'head'],
    ['LeftShoulder', 'left arm'],
    ['RightHand', 'right arm'],
    ['LeftToe', 'left leg'],
    ['RightUpLeg', 'right leg'],
  ] as const)
    expect([name, own[at(name)]]).toEqual([name, region]);
});

test('joints that no slot names go with the one that carries them; what hangs from nothing is among the others', () => {
  const own = buildRig([
    ['World', null, 0, 0, 0],
    ...PLAIN.map(([name, parent, x, y, z]) => [name, parent ?? 'World', x, y, z] as const),
    ['LeftGlove', 'LeftHand', 0.8, 1.4, 0],
  ]);
  const regions = regionsOf(own, party(own).map);
  expect(regions[own.names.indexOf('LeftGlove')]).toBe('left arm');
  expect(regions[own.names.indexOf('World')]).toBe('others');
});

test('an empty list keeps everything, untouched', () => {
  expect(keepRegions(rig, map, motion, [])).toBe(motion);
  expect(keptRegions(rig, map, motion, [])).toEqual({
    joints: [...rig.names.keys()],
    leftOut: [],
    leftOutScalars: [],
    leftOutDrawings: [],
  });
});

test.each(REGIONS.filter((r) => r !== 'face' && r !== 'others'))(
  '%s alone: its joints move as before, all others rest',
  (region) => {
    const own = regionsOf(rig, map);
    const kept = keepRegions(rig, map, motion, [region]);
    for (let j = 0; j < n; j++)
      for (const f of [0, 17, 39]) {
        const o = 4 * (f * n + j);
        if (own[j] === region) expect([...kept.turns.subarray(o, o + 4)]).toEqual([...motion.turns.subarray(o, o + 4)]);
        else expect(angleBetweenQuats(kept.turns, o, rig.restR, 4 * j)).toBeLessThan(1e-6);
      }
    expect(kept.places.some((t) => t.joint === at('Hips'))).toBe(region === 'hips');
    expect(kept.frameCount).toBe(motion.frameCount);
  },
);

test('without the hips the body stands where it rests', () => {
  const kept = keepRegions(rig, map, motion, ['left arm']);
  const { p } = new PoseReader(rig, kept).at(30);
  expect([...p.slice(0, 3)]).toEqual([...rig.restT.slice(0, 3)].map((x) => expect.closeTo(x, 5)));
});

test('moving joints that are left out are named, resting ones are not', () => {
  const still = keepRegions(rig, map, motion, ['left arm', 'right arm']);
  const { joints, leftOut } = keptRegions(rig, map, still, ['left arm']);
  expect(joints).toHaveLength(4);
  expect([...leftOut].sort()).toEqual(['RightArm', 'RightForeArm', 'RightHand', 'RightShoulder']);
});

test('face shapes go with the face', () => {
  const spoken = {
    ...motion,
    numbers: [
      { name: 'jawOpen', values: Float32Array.from({ length: 40 }, (_, f) => f / 40) },
      { name: 'still', values: new Float32Array(40) },
    ],
  };
  expect(keepRegions(rig, map, spoken, ['head']).numbers).toEqual([]);
  expect(keepRegions(rig, map, spoken, ['face']).numbers).toHaveLength(2);
  expect(keptRegions(rig, map, spoken, ['head']).leftOutScalars).toEqual(['jawOpen']);
  expect(keptRegions(rig, map, spoken, ['face']).leftOutScalars).toEqual([]);
});

test('a region there is none of is refused in words', () => {
  expect(() => keepRegions(rig, map, motion, ['tail' as Region])).toThrow(MotionError);
  expect(() => keepRegions(rig, map, motion, ['tail' as Region])).toThrow(/left arm/);
});

test('the same on a rig with other axes and another rest', () => {
  const odd = posedRig(40, 0.7, true);
  const own = party(odd);
  const moved = wander(odd, 10, 5);
  const kept = keepRegions(odd, own.map, moved, ['right leg']);
  const { joints } = keptRegions(odd, own.map, moved, ['right leg']);
  expect(joints.map((j) => odd.names[j])).toEqual(['RightUpLeg', 'RightLeg', 'RightFoot', 'RightToe']);
  for (let j = 0; j < n; j++)
    if (!joints.includes(j))
      expect(angleBetweenQuats(kept.turns, 4 * (5 * n + j), odd.restR, 4 * j)).toBeLessThan(1e-6);
});

test('single joints are kept besides regions, or alone; one that is not there is named', () => {
  const both = keptRegions(rig, map, motion, ['head'], ['LeftHand']);
  expect(both.joints.map((j) => rig.names[j])).toEqual(expect.arrayContaining(['Head', 'LeftHand']));
  expect(both.leftOut).toContain('LeftForeArm');
  const alone = keepRegions(rig, map, motion, [], ['LeftHand', 'Hips']);
  for (const [name, kept] of [
    ['LeftHand', true],
    ['RightHand', false],
  ] as const) {
    const o = 4 * (20 * n + at(name));
    const now = [...alone.turns.slice(o, o + 4)];
    expect([name, now]).toEqual([
      name,
      kept ? [...motion.turns.slice(o, o + 4)] : [...rig.restR.slice(4 * at(name), 4 * at(name) + 4)],
    ]);
  }
  // the place goes with the hips, the face with nothing but its region
  expect(alone.places.map((t) => rig.names[t.joint])).toEqual(['Hips']);
  expect(keepRegions(rig, map, motion, [], ['LeftHand']).places).toEqual([]);
  expect(() => keepRegions(rig, map, motion, [], ['Wing'])).toThrow(/Wing/);
});

test('how long parts are drawn goes with their joint, and is no shape of a face', () => {
  const arm = rig.names[jointOf(map, 'forearmL')]!;
  const leg = rig.names[jointOf(map, 'shinL')]!;
  const track = (name: string) => ({ name, values: Float32Array.from({ length: motion.frameCount }, (_, f) => f % 2) });
  const paper = { ...motion, numbers: [track(lengthTrack(arm)), track(lengthTrack(leg))] };
  expect(keepRegions(rig, map, paper, ['left arm']).numbers.map((t) => t.name)).toEqual([lengthTrack(arm)]);
  expect(keepRegions(rig, map, paper, ['face']).numbers).toEqual([]);
  expect(keptRegions(rig, map, paper, ['left arm']).leftOutScalars).toEqual([]);
});

describe('on a paper figure', () => {
  const figure = cutoutFromSvg(
    new TextEncoder().encode(paperFigure(paperTraits(4, { language: 'plain', facing: 'front' })).svg),
  );
  const flat = flatSkeleton(figure.rig);
  const step = (name: string, values: number[]) => ({ name, labels: ['a', 'b'], values: Uint16Array.from(values) });
  const turns = new Float32Array(8 * flat.names.length);
  for (let o = 3; o < turns.length; o += 4) turns[o] = 1;
  const arm = figure.rig.parts.find((p) => p.name === 'upper arm L')!;
  const face = figure.rig.parts.find((p) => p.joint === flat.names.indexOf('head') && p.name !== 'head')!;
  const show: Motion = {
    ...restMotion(figure.rig),
    frameCount: 2,
    turns,
    places: [],
    scales: [{ joint: arm.joint, values: Float32Array.from([1, 1, 1, 1.3, 1, 1]) }],
    steps: [
      step(arm.name, [0, 1]),
      step(face.name, [0, 1]),
      step(viewTrack('head'), [0, 1]),
      step(ORDER_TRACK, [0, 1]),
    ],
  };
  const options = { cutout: figure.rig } as const;

  test('drawings and views go with the joint that carries them, the order with the whole', () => {
    const kept = keepRegions(flat, figure.map, show, ['head'], [], options);
    expect(kept.steps.map((s) => s.name)).toEqual([face.name, viewTrack('head')]);
    expect(kept.scales).toEqual([]);
    const told = keptRegions(flat, figure.map, show, ['head'], [], options);
    expect(told.leftOutDrawings).toEqual([arm.name, ORDER_TRACK]);
    expect(told.leftOut).toEqual([flat.names[arm.joint]]);
  });

  test('drawings alone, or movement alone', () => {
    const drawings = keepRegions(flat, figure.map, show, [], [], { ...options, what: 'drawings' });
    expect([drawings.steps.length, drawings.scales.length]).toEqual([4, 0]);
    expect(keptRegions(flat, figure.map, show, [], [], { ...options, what: 'drawings' }).leftOut).toHaveLength(1);
    const movement = keepRegions(flat, figure.map, show, [], [], { ...options, what: 'movement' });
    expect([movement.steps.length, movement.scales.length]).toEqual([0, 1]);
    expect(keptRegions(flat, figure.map, show, [], [], { ...options, what: 'movement' }).leftOutDrawings).toHaveLength(
      4,
    );
    expect(keepRegions(flat, figure.map, show, [], [], options)).toBe(show);
  });
});
