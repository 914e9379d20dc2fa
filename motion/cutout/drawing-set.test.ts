import { assertMotion } from '../motion/motion';
import { flatSkeleton } from '../rig/flat';
import { paperFigure, paperTraits } from '../test/paper';
import { cutoutFromSvg } from './assemble';
import { drawingSet, drawingsOf } from './drawing-set';
import { mergeDrawings } from './merge';
import { CutoutShow } from './show';

const made = (seed: number) => {
  const svg = paperFigure(paperTraits(seed, { language: 'plain', facing: 'front' })).svg;
  const figure = cutoutFromSvg(new TextEncoder().encode(svg));
  // a second and a third drawing for the hands
  const more = (part: string): string[] => (/^hand/.test(part) ? ['fist', 'flat'] : []);
  return {
    rig: {
      ...figure.rig,
      parts: figure.rig.parts.map((p) => ({ ...p, drawings: [...p.drawings, ...more(p.name)] })),
    },
    art: {
      ...figure.art,
      drawings: figure.art.drawings.flatMap((d) => [
        d,
        ...more(d.part).map((label) => ({ ...d, label, svg: `<g data-n="${seed}${label}">${d.svg}</g>` })),
      ]),
    },
  };
};

describe('a set of drawings', () => {
  const own = made(4);
  const set = drawingSet(own.rig, ['hand L', 'hand R', 'head']);

  test('leafs through every drawing of its parts, and nothing moves', () => {
    assertMotion(flatSkeleton(own.rig), set);
    const show = new CutoutShow(own.rig, own.art, set);
    const hands = Array.from({ length: set.frameCount }, (_, f) =>
      show.at(f / set.fps).flatMap((s) => (s.drawing.part === 'hand L' ? [s.drawing.label] : [])),
    );
    expect(hands.flat()).toEqual(own.rig.parts.find((p) => p.name === 'hand L')!.drawings);
    for (const { matrix } of show.at(1)) expect(matrix[0]).toBeCloseTo(1, 6);
  });

  test('brings its drawings and no others to another figure', () => {
    const other = made(5);
    const { rig, report } = mergeDrawings(other, drawingsOf(own, drawingSet(own.rig, ['hand L'])));
    expect(new Set(report.drawings.map((d) => d.from.part))).toEqual(new Set(['hand L']));
    const count = (parts: typeof rig.parts, name: string): number =>
      parts.find((p) => p.name === name)!.drawings.length;
    expect(count(rig.parts, 'hand L')).toBe(
      count(other.rig.parts, 'hand L') + report.drawings.filter((d) => d.how !== 'same').length,
    );
    expect(count(rig.parts, 'hand R')).toBe(count(other.rig.parts, 'hand R'));
  });

  test('needs parts that are there', () => {
    expect(() => drawingSet(own.rig, [])).toThrow(/needs a part/);
    expect(() => drawingSet(own.rig, ['tail'])).toThrow(/no part “tail”/);
  });
});
