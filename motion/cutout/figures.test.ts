import { jointOf } from '../bodymap/slots';
import { restMotion } from '../motion/motion';
import { asSkeleton, facingOf } from '../rig/flat';
import { rigFromJson, rigIdentity, rigToJson } from '../rig/rig-json';
import { LANGUAGES, type PaperFigure, paperFigure, paperTraits } from '../test/paper';
import { cutoutFromSvg } from './assemble';
import { isLabel, readPartName } from './part-names';
import { CutoutShow } from './show';

const made = (figure: PaperFigure) => cutoutFromSvg(new TextEncoder().encode(figure.svg));

/** Slots that are right, wrong, and wrong while sure: a part is known by where its pivot lies. */
function weigh(figure: PaperFigure): { right: number; wrong: string[]; sureWrong: string[]; off: number } {
  const { rig, map, art } = made(figure);
  let right = 0;
  let off = 0;
  const wrong: string[] = [];
  const sureWrong: string[] = [];
  const height = 640 * figure.traits.scale;
  for (const [slot, at] of Object.entries(figure.pivots)) {
    const joint = jointOf(map, slot);
    const i = rig.parts.findIndex((p) => p.joint === joint && p.attachments.some((a) => a.name === 'end'));
    const pivot = i >= 0 ? art.pivots[i]! : ([Number.NaN, Number.NaN] as const);
    const far = Math.hypot(pivot[0] - at[0], pivot[1] - at[1]) / height;
    if (far < (slot === 'hips' || slot === 'head' ? 0.09 : 0.05)) {
      right++;
      off = Math.max(off, far);
      continue;
    }
    wrong.push(slot);
    if (map.slots[slot]?.state === 'sure') sureWrong.push(slot);
  }
  return { right, wrong, sureWrong, off };
}

describe('figures that nobody prepared', () => {
  const figures = Array.from({ length: 40 }, (_, seed) => paperFigure(paperTraits(seed + 1)));

  test('at least 95 of 100 slots are right, and none is wrong while sure', () => {
    let right = 0;
    let all = 0;
    const sure: string[] = [];
    for (const figure of figures) {
      const { right: own, sureWrong } = weigh(figure);
      right += own;
      all += Object.keys(figure.pivots).length;
      sure.push(...sureWrong.map((slot) => `${JSON.stringify(figure.traits)}: ${slot}`));
    }
    expect(sure).toEqual([]);
    expect(right / all).toBeGreaterThanOrEqual(0.95);
  });

  test.each(Object.keys(LANGUAGES).filter((l) => l !== 'none'))('names in %s are understood', (language) => {
    for (const facing of ['front', 'right'] as const)
      expect(weigh(paperFigure(paperTraits(5, { language, facing, depth: false }))).wrong).toEqual([]);
  });

  test.each(['front', 'right', 'left'] as const)('drawn %s is seen to be so', (facing) => {
    for (let seed = 0; seed < 12; seed++)
      expect(facingOf(made(paperFigure(paperTraits(seed, { facing, language: 'plain' }))).rig)).toBe(facing);
  });

  test('layers without names are told by their shapes, and only guessed', () => {
    const { map } = made(paperFigure(paperTraits(3, { language: 'none', facing: 'front', armDegrees: 40 })));
    for (const slot of ['hips', 'head', 'upperArmL', 'upperArmR', 'thighL', 'thighR', 'shinL', 'footR'])
      expect(map.slots[slot]).toMatchObject({ state: 'guessed', joint: expect.any(Number) });
    expect(jointOf(map, 'head')).toBeGreaterThan(0);
  });

  test('in profile, where limbs lie over one another, they are told all the same, standing or in a stride', () => {
    let right = 0;
    let all = 0;
    for (let seed = 1; seed <= 36; seed++) {
      const facing = seed % 2 === 0 ? 'left' : 'right';
      const figure = paperFigure(paperTraits(seed, { language: 'none', facing, strideDegrees: 5 * (seed % 6) }));
      const { right: own, sureWrong } = weigh(figure);
      expect(sureWrong).toEqual([]);
      right += own;
      all += Object.keys(figure.pivots).length;
    }
    expect(right / all).toBeGreaterThanOrEqual(0.95);
  });

  test.each([
    [12, 'a hand that meets a thigh'],
    [16, 'both legs in one place'],
    [28, 'an upper arm before the other one'],
  ])('figure %i, %s: each limb keeps to its own pieces', (seed) => {
    const figure = paperFigure(paperTraits(seed, { language: 'none', facing: 'left' }));
    const { right, wrong } = weigh(figure);
    expect(wrong).toEqual([]);
    expect(right).toBe(Object.keys(figure.pivots).length);
  });

  test('what tells which way it faces is said once', () => {
    const { notes } = made(paperFigure(paperTraits(12, { language: 'none', facing: 'left' })));
    expect(notes.join(' ')).toMatch(/Drawn facing left/);
    expect(notes.join(' ').match(/the nose points that way/g)).toHaveLength(1);
  });

  test('every drawing is at rest where it was drawn', () => {
    for (const figure of figures.slice(0, 10)) {
      const { rig, art } = made(figure);
      for (const { matrix } of new CutoutShow(rig, art, restMotion(rig)).at(0))
        [1, 0, 0, 1, 0, 0].forEach((x, k) => expect(matrix[k]!).toBeCloseTo(x, 3));
    }
  });

  test('a joint of a child lies on the point of its parent', () => {
    const { rig } = made(figures[0]!);
    rig.parents.forEach((p, j) => {
      const part = rig.parts.find((x) => x.joint === p && x.attachments.some((a) => a.name === rig.names[j]));
      if (p < 0 || !part) return;
      const { at } = part.attachments.find((a) => a.name === rig.names[j])!;
      expect(at[0]).toBeCloseTo(rig.restT[3 * j]!, 5);
      expect(at[1]).toBeCloseTo(rig.restT[3 * j + 1]!, 5);
    });
  });

  test('two figures with the same joints and other drawings are two', () => {
    const { rig } = made(figures[0]!);
    const other = { ...rig, parts: rig.parts.map((p, i) => (i === 0 ? { ...p, drawings: ['other'] } : p)) };
    expect(rigIdentity(other)).not.toBe(rigIdentity(rig));
    expect(rigToJson(rigFromJson(JSON.parse(JSON.stringify(rigToJson(rig)))))).toEqual(rigToJson(rig));
    expect(asSkeleton(rig).kind).toBe('skeleton');
  });
});

describe('names of parts', () => {
  test.each([
    ['Arm_upper_L', 'upperArm', 'L'],
    ['bras_droit', 'arm', 'R'],
    ['hand-left', 'hand', 'L'],
    ['LeftForearm', 'forearm', 'L'],
    ['Oberschenkel_x20_rechts_1_', 'thigh', 'R'],
    ['右足', 'foot', 'R'],
    ['head', 'head', undefined],
    ['overhead lamp cable', undefined, undefined],
    ['armour', undefined, undefined],
    ['legend', undefined, undefined],
    ['Group 12', undefined, undefined],
  ])('%s', (name, kind, side) => {
    const reading = readPartName(name);
    if (kind === undefined) expect(['head', 'arm', 'leg', 'upperArm', 'thigh']).not.toContain(reading.kind);
    else expect(reading.kind).toBe(kind);
    expect(reading.side).toBe(side);
  });

  test('a view is no side, and a limb in front is the nearer one', () => {
    expect(readPartName('head side')).toMatchObject({ kind: 'head', view: 'side', side: undefined });
    expect(readPartName('Kopf 3/4')).toMatchObject({ kind: 'head', view: 'quarter' });
    expect(readPartName('leg_front')).toMatchObject({ kind: 'leg', depth: 'near', view: undefined });
    expect(readPartName('mouth_smile')).toMatchObject({ kind: 'mouth', label: 'smile' });
  });

  test('labels are told from names', () => {
    expect(['open', 'shut', 'A', 'mbp', '3'].every(isLabel)).toBe(true);
    expect(['torso', 'left hand', 'shadow of the ship'].some(isLabel)).toBe(false);
  });
});
