import { MotionError } from '../errors';
import type { SkeletonRig } from '../rig/rig';
import { buildRig, PLAIN, posedRig, withOddAxes } from '../test/bodies';
import { guessBodyMap } from './guess';
import { bodyMapFromJson, bodyMapToJson } from './json';
import { readNames, tokensOf } from './names';
import { countStates, jointOf, mirrorSlot, slotLabel, unusedJoints, withSlot } from './slots';

const EXPECTED: Record<string, string> = {
  hips: 'Hips',
  spine1: 'Spine',
  spine2: 'Chest',
  neck1: 'Neck',
  head: 'Head',
  collarL: 'LeftShoulder',
  upperArmL: 'LeftArm',
  forearmL: 'LeftForeArm',
  handL: 'LeftHand',
  collarR: 'RightShoulder',
  upperArmR: 'RightArm',
  forearmR: 'RightForeArm',
  handR: 'RightHand',
  thighL: 'LeftUpLeg',
  shinL: 'LeftLeg',
  footL: 'LeftFoot',
  toesL: 'LeftToe',
  thighR: 'RightUpLeg',
  shinR: 'RightLeg',
  footR: 'RightFoot',
  toesR: 'RightToe',
};

/** Slots whose joint is not the true one. */
function wrong(rig: SkeletonRig, original: readonly string[] = PLAIN.map(([name]) => name)): string[] {
  const map = guessBodyMap(rig);
  return Object.entries(EXPECTED).flatMap(([slot, name]) =>
    jointOf(map, slot) === original.indexOf(name) ? [] : [`${slot}: ${rig.names[jointOf(map, slot)] ?? 'none'}`],
  );
}

describe('body map', () => {
  test('plain names: everything found and sure', () => {
    expect(wrong(buildRig())).toEqual([]);
    expect(countStates(guessBodyMap(buildRig()))).toMatchObject({ guessed: 0, missing: 0 });
  });

  test.each<[string, (name: string) => string]>([
    ['a name space', (n) => `hero:${n}`],
    ['a common prefix', (n) => `Bob01_${n}`],
    [
      'underscores and short sides',
      (n) =>
        n
          .replace(/^Left(.*)$/, '$1_l')
          .replace(/^Right(.*)$/, '$1_r')
          .toLowerCase(),
    ],
    [
      'dots and capitals',
      (n) =>
        n
          .replace(/^Left(.*)$/, '$1.L')
          .replace(/^Right(.*)$/, '$1.R')
          .toUpperCase(),
    ],
    ['side letter in front', (n) => n.replace(/^Left/, 'l').replace(/^Right/, 'r')],
    [
      'thigh, shin, ankle, ball',
      (n) =>
        n
          .replace('UpLeg', 'Thigh')
          .replace(/(Left|Right)Leg/, '$1Shin')
          .replace('Foot', 'Ankle')
          .replace('Toe', 'Ball'),
    ],
    [
      'hip, knee; collar, shoulder, elbow, wrist',
      (n) =>
        n
          .replace(/(Left|Right)Shoulder/, '$1Collar')
          .replace(/(Left|Right)Arm/, '$1Shoulder')
          .replace('ForeArm', 'Elbow')
          .replace(/(Left|Right)Hand/, '$1Wrist')
          .replace('UpLeg', 'Hip')
          .replace(/(Left|Right)Leg/, '$1Knee'),
    ],
    [
      'leg for thigh and arm for upper arm',
      (n) =>
        n
          .replace('UpLeg', 'XLeg')
          .replace(/(Left|Right)Leg$/, '$1Knee')
          .replace('XLeg', 'Leg')
          .replace('ForeArm', 'Elbow'),
    ],
  ])('%s', (_, rename) => {
    expect(wrong(buildRig(PLAIN, rename))).toEqual([]);
  });

  test('no names at all: found by structure, and nothing called sure but the root', () => {
    let i = 0;
    const rig = buildRig(PLAIN, () => `b${i++}`);
    expect(wrong(rig)).toEqual([]);
    const sure = Object.entries(guessBodyMap(rig).slots).filter(([, s]) => s.state === 'sure');
    expect(sure.map(([slot]) => slot)).toEqual(['hips']);
  });

  test('names in a tongue nobody taught it', () => {
    const words = [
      'kalca',
      'bel',
      'gogus',
      'boyun',
      'kafa',
      ...['sol', 'sag'].flatMap((s) => [`${s}kop`, `${s}kol`, `${s}dirsek`, `${s}el`]),
      ...['sol', 'sag'].flatMap((s) => [`${s}but`, `${s}diz`, `${s}ayak`, `${s}parmak`]),
    ];
    let i = 0;
    expect(wrong(buildRig(PLAIN, () => words[i++]!))).toEqual([]);
  });

  test.each([
    ['A pose', posedRig(45)],
    ['hanging arms', posedRig(8)],
    ['odd axes', withOddAxes(posedRig(70))],
  ])('%s', (_, rig) => {
    expect(wrong(rig)).toEqual([]);
  });

  test('a helper of no length between hips and thigh is left aside', () => {
    const spec = PLAIN.flatMap((row) =>
      row[0] === 'LeftUpLeg' || row[0] === 'RightUpLeg'
        ? [
            [row[0].replace('UpLeg', 'HipJoint'), 'Hips', 0, 0.95, 0] as const,
            [row[0], row[0].replace('UpLeg', 'HipJoint'), row[2], row[3], row[4]] as const,
          ]
        : [row],
    );
    const rig = buildRig(spec);
    const map = guessBodyMap(rig);
    expect(rig.names[jointOf(map, 'thighL')]).toBe('LeftUpLeg');
    expect(rig.names[jointOf(map, 'shinR')]).toBe('RightLeg');
    expect(unusedJoints(map, rig.names.length).map((j) => rig.names[j])).toEqual(['LeftHipJoint', 'RightHipJoint']);
  });

  test('a rig that is no body is not called one', () => {
    const chain = buildRig([
      ['a', null, 0, 0, 0],
      ['b', 'a', 0, 1, 0],
      ['c', 'b', 0, 2, 0],
    ]);
    const map = guessBodyMap(chain);
    expect(Object.values(map.slots).some((s) => s.state === 'sure')).toBe(false);
    expect(map.warnings[0]).toMatch(/No pair of legs/);
  });

  test('every slot says why', () => {
    for (const entry of Object.values(guessBodyMap(buildRig()).slots)) expect(entry.why.length).toBeGreaterThan(5);
  });
});

describe('editing and keeping a map', () => {
  const rig = buildRig();
  test('a joint serves one slot only', () => {
    const map = withSlot(guessBodyMap(rig), 'head', rig.names.indexOf('Neck'));
    expect(rig.names[jointOf(map, 'head')]).toBe('Neck');
    expect(map.slots.neck1).toMatchObject({ joint: -1, state: 'missing' });
  });

  test('empty on purpose is not missing', () => {
    expect(withSlot(guessBodyMap(rig), 'toesL', -1).slots.toesL).toMatchObject({ joint: -1, state: 'empty' });
  });

  test('goes through JSON unharmed', () => {
    const map = guessBodyMap(rig);
    const json = bodyMapToJson(map, rig);
    expect(bodyMapFromJson(JSON.parse(JSON.stringify(json)), rig).slots).toEqual(map.slots);
    expect(json.unused).toEqual([]);
  });

  test.each([
    ['a joint the rig lacks', { slots: { hips: { joint: 'Nobody' } } }, /does not have/],
    ['a joint given twice', { slots: { hips: { joint: 'Hips' }, head: { joint: 'Hips' } } }, /both/],
    ['an unknown slot', { slots: { elbow: { joint: 'Hips' } } }, /not a slot/],
    ['no slots', { maps: [] }, /slots/],
    ['nothing', null, /slots/],
  ])('refuses %s', (_, json, words) => {
    expect(() => bodyMapFromJson(json, rig)).toThrow(words);
    expect(() => bodyMapFromJson(json, rig)).toThrow(MotionError);
  });

  test('labels and partners', () => {
    expect(slotLabel('upperArmTwist1L')).toBe('upper arm twist 1 L');
    expect(slotLabel('spine2')).toBe('spine 2');
    expect(mirrorSlot('thighL')).toBe('thighR');
    expect(mirrorSlot('head')).toBe('head');
  });
});

describe('reading names', () => {
  test('words fall apart at case, digits and marks', () => {
    expect(tokensOf('LHipJoint_01')).toEqual(['l', 'hip', 'joint', '01']);
    expect(tokensOf('upper_arm.L')).toEqual(['upper', 'arm', 'l']);
  });

  test('forearm is no upper arm, and a finger is no hand', () => {
    const [fore, finger] = readNames(['LeftForeArm', 'LeftHandIndex1']);
    expect([...fore!.parts.keys()]).toEqual(['forearm']);
    expect(finger!.parts.has('index')).toBe(true);
    expect(finger!.parts.has('hand')).toBe(false);
  });
});
