import { jointOf, SIDES } from '../bodymap/slots';
import { seeded } from '../math/random';
import { paperFigure, paperTraits } from '../test/paper';
import { cutoutFromSvg } from './assemble';
import { type CutoutFigure, inWorld, partMatrix } from './figure';
import { type JointMarks, MARKED_JOINTS, putTogether } from './marked-joints';

const bytes = (svg: string): Uint8Array => new TextEncoder().encode(svg);
const drawing = (parts: Readonly<Record<string, string>>): CutoutFigure =>
  cutoutFromSvg(
    bytes(
      `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 200 300">${Object.entries(parts)
        .map(([name, d]) => `<g id="${name}"><path d="${d}" fill="none" stroke="#333" stroke-width="14"/></g>`)
        .join('')}</svg>`,
    ),
  );
/** Which part a slot's joint carries first. */
const partOf = ({ rig, map }: CutoutFigure, slot: string): number =>
  rig.parts.findIndex((p) => p.joint === jointOf(map, slot));
const marksOf = (pivots: JointMarks): JointMarks =>
  Object.fromEntries(Object.entries(pivots).filter(([slot]) => (MARKED_JOINTS as readonly string[]).includes(slot)));

describe('a figure whose layers say nothing', () => {
  test.each(['front', 'right', 'left'] as const)(
    'drawn %s is put together by marks that are a little off',
    (facing) => {
      const random = seeded(7);
      let [right, all] = [0, 0];
      for (let seed = 1; seed <= 12; seed++) {
        const traits = paperTraits(seed, { facing, hat: false, depth: false });
        const named = cutoutFromSvg(bytes(paperFigure({ ...traits, language: 'plain' }).svg));
        const { svg, pivots } = paperFigure({ ...traits, language: 'none' });
        const marks = marksOf(pivots);
        const heights = Object.values(marks).map(([, y]) => y);
        const tall = Math.max(...heights) - Math.min(...heights);
        const off = Object.fromEntries(
          Object.entries(marks).map(([slot, [x, y]]) => [
            slot,
            [x + 0.012 * tall * (2 * random() - 1), y + 0.012 * tall * (2 * random() - 1)] as const,
          ]),
        );
        const made = putTogether(cutoutFromSvg(bytes(svg)), off);
        for (const slot of Object.keys(marks)) {
          if (jointOf(named.map, slot) < 0) continue;
          all++;
          if (partOf(made, slot) === partOf(named, slot)) right++;
        }
      }
      expect(all).toBeGreaterThan(120);
      expect(right / all).toBeGreaterThan(0.97);
    },
  );

  test('joints lie where they were marked, are sure, and no drawing moves', () => {
    const { svg, pivots } = paperFigure(paperTraits(3, { language: 'none', facing: 'front' }));
    const before = cutoutFromSvg(bytes(svg));
    const marks = marksOf(pivots);
    const { rig, map, art } = putTogether(before, marks);
    const places: [number, number][] = [];
    rig.parents.forEach((p, j) => {
      const [x, y] = p < 0 ? [0, 0] : places[p]!;
      places.push([x + rig.restT[3 * j]!, y + rig.restT[3 * j + 1]!]);
    });
    for (const slot of ['hips', 'shinL', 'forearmR', 'footL']) {
      const [x, y] = inWorld(art, marks[slot]!);
      expect(Math.hypot(places[jointOf(map, slot)]![0] - x, places[jointOf(map, slot)]![1] - y)).toBeLessThan(1e-5);
      expect(map.slots[slot]).toMatchObject({ state: 'sure', why: 'by the joints that were marked' });
    }
    expect(art.unit).toBe(before.art.unit);
    expect(art.drawings.map((d) => d.svg)).toEqual(before.art.drawings.map((d) => d.svg));
    const frames = places.flatMap(([x, y]) => [1, 0, 0, 1, x, y]);
    rig.parts.forEach((part, i) => {
      const [a, b, c, d, e, f] = partMatrix(art, art.pivots[i]!, part.joint, frames);
      expect([a, b, c, d]).toEqual([1, 0, 0, 1].map((x) => expect.closeTo(x, 9)));
      expect(Math.hypot(e, f) * art.unit).toBeLessThan(1e-4);
    });
  });
});

describe('limbs in one piece', () => {
  // a person of five strokes, arms bent at the elbow
  const figure = drawing({
    one: 'M100 60L100 150',
    two: 'M100 60L100 20',
    three: 'M100 70L150 100L180 70',
    four: 'M100 70L50 100L20 130',
    five: 'M100 150L130 280',
    six: 'M100 150L70 280',
  });
  const marks: JointMarks = {
    hips: [100, 150],
    head: [100, 56],
    upperArmL: [104, 72],
    handL: [176, 74],
    forearmL: [150, 100],
    upperArmR: [96, 72],
    thighL: [102, 152],
    footL: [129, 276],
    thighR: [98, 152],
    footR: [71, 276],
  };

  test('are told by shoulder and wrist, with an elbow or without', () => {
    const made = putTogether(figure, marks);
    const named = (slot: string): string | undefined => made.rig.parts[partOf(made, slot)]?.name;
    expect(['hips', 'head', 'upperArmL', 'thighL', 'thighR'].map(named)).toEqual([
      'one',
      'two',
      'three',
      'five',
      'six',
    ]);
    expect(SIDES.map((s) => jointOf(made.map, `forearm${s}`))).toEqual([-1, -1]);
    // its bone ends at the wrist that was marked
    const arm = made.rig.parts[partOf(made, 'upperArmL')]!;
    const [x, y] = arm.attachments.find((a) => a.name === 'end')!.at;
    expect([x / made.art.unit, y / made.art.unit]).toEqual([expect.closeTo(72, 2), expect.closeTo(-2, 2)]);
  });

  test('a trunk in two pieces that are named keeps its waist', () => {
    const made = putTogether(
      drawing({
        pelvis: 'M100 120L100 150',
        chest: 'M100 60L100 124',
        two: 'M100 60L100 20',
        five: 'M100 150L130 280',
      }),
      { hips: [101, 149], head: [100, 56], thighL: [102, 152], footL: [129, 276] },
    );
    const named = (slot: string): string | undefined => made.rig.parts[partOf(made, slot)]?.name;
    expect(['hips', 'spine1', 'head', 'thighL'].map(named)).toEqual(['pelvis', 'chest', 'two', 'five']);
    expect(made.art.pivots[partOf(made, 'hips')]).toEqual([101, 149]);
  });

  test('a mark is taken back by leaving it out, and what lies along nothing goes with what it lies on', () => {
    const { upperArmL, forearmL, handL, ...rest } = marks;
    const made = putTogether(figure, rest);
    expect(jointOf(made.map, 'upperArmL')).toBe(-1);
    const loose = made.rig.parts.find((p) => p.name === 'three')!;
    expect(made.rig.names[loose.joint]).toBe('hips');
  });

  test('marks that cannot be are refused with a sentence', () => {
    const { hips, ...rest } = marks;
    expect(() => putTogether(figure, rest)).toThrow('Mark the hips');
    expect(() => putTogether(figure, { ...marks, wing: [1, 1] })).toThrow('"wing" is no joint');
    expect(() => putTogether(figure, { hips: [190, 10], head: [195, 2] })).toThrow('No part of the drawing');
  });
});
