import { cutoutFromSvg } from '../index';
import { paperFigure, paperTraits } from '../test/paper';
import type { CutoutArt } from './figure';
import { paintedIn } from './painted';
import { readinessOfCutout } from './readiness';

const drawing = (svg: string, box: [number, number, number, number]) => ({ part: 'a', label: '1', svg, box });

describe('where a drawing is painted', () => {
  const slanted = drawing('<path d="M0 0L100 100L90 100L0 10Z"/>', [0, 0, 100, 100]);
  test('outlines tell, not the box about them', () => {
    const painted = paintedIn({ defs: '' }, 2);
    expect(painted(slanted, 50, 52)).toBe(true);
    expect(painted(slanted, 80, 20)).toBe(false);
    expect(painted(slanted, 200, 200)).toBe(false);
  });

  test('paint near enough counts, strokes and clipping too', () => {
    const stroke = drawing('<path d="M0 50L100 50" fill="none" stroke="black" stroke-width="20"/>', [0, 40, 100, 20]);
    expect(paintedIn({ defs: '' }, 1)(stroke, 50, 58)).toBe(true);
    expect(paintedIn({ defs: '' }, 1)(stroke, 50, 63)).toBe(false);
    expect(paintedIn({ defs: '' }, 6)(stroke, 50, 63)).toBe(true);
    const defs = '<clipPath id="c"><rect x="0" y="0" width="30" height="100"/></clipPath>';
    const clipped = drawing('<g clip-path="url(#c)"><rect width="100" height="100"/></g>', [0, 0, 100, 100]);
    expect(paintedIn({ defs }, 1)(clipped, 20, 50)).toBe(true);
    expect(paintedIn({ defs }, 1)(clipped, 60, 50)).toBe(false);
  });

  test('markup that cannot be read counts as painted', () => {
    expect(paintedIn({ defs: '' }, 1)(drawing('<g', [0, 0, 10, 10]), 5, 5)).toBe(true);
  });
});

test('a limb whose drawing stops short of its joint is told, though its box reaches there', () => {
  const { rig, map, art } = cutoutFromSvg(
    new TextEncoder().encode(paperFigure(paperTraits(3, { language: 'plain', facing: 'front' })).svg),
  );
  const bare = (told: CutoutArt): string =>
    readinessOfCutout(rig, map, told)
      .filter((r) => /under/.test(r.text))
      .map((r) => r.why)
      .join();
  expect(bare(art)).toBe('');
  const i = rig.parts.findIndex((p) => p.name === 'forearm L');
  const [x, y] = art.pivots[i]!;
  const h = art.box[3];
  // a corner of it lies at the joint's height and another one below the joint
  const svg = `<path d="M${x + 0.1 * h} ${y}L${x + 0.12 * h} ${y}L${x + 0.02 * h} ${y + 0.2 * h}L${x} ${y + 0.2 * h}Z"/>`;
  const drawings = art.drawings.map((d) =>
    d.part === 'forearm L' ? { ...d, svg, box: [x, y, 0.12 * h, 0.2 * h] as const } : d,
  );
  expect(bare({ ...art, drawings })).toMatch(/^forearm L: a gap will open/);
});
