import { paperFigure, paperTraits } from '../test/paper';
import { cutoutFromSvg } from './assemble';
import { mergeDrawings, mergeWords } from './merge';
import { renderSvg } from './render-svg';

/** A figure with a trunk, a head and a left hand that shows several drawings, each a square of some width. */
const figure = (hands: Record<string, string>, { hand = 'hand_L', at = 60, defs = '' } = {}) =>
  cutoutFromSvg(
    new TextEncoder().encode(
      `<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 120 200">${defs}
      <g id="torso"><rect x="30" y="60" width="40" height="70"/></g>
      <g id="head"><circle cx="50" cy="40" r="22"/></g>
      <g id="${hand}">${Object.entries(hands)
        .map(
          ([label, look], i) =>
            `<g id="${label}"${i > 0 ? ' display="none"' : ''}><rect x="${at}" y="70" height="12" ${look}/></g>`,
        )
        .join('')}</g></svg>`,
    ),
  );

const labels = ({ rig }: ReturnType<typeof mergeDrawings>) => rig.parts.find((p) => /hand/.test(p.name))!.drawings;

describe('drawings of two people', () => {
  const first = figure({ n1: 'width="10"', n2: 'width="12"' });

  test('under the same labels both survive, and a picture that both have is kept once', () => {
    const merged = mergeDrawings(first, figure({ n1: 'width="14"', n2: 'width="12"', n3: 'width="9"' }));
    expect(labels(merged)).toEqual(['n1', 'n2', 'n1 (2)', 'n3']);
    expect(merged.report.drawings.filter((d) => d.part === 'hand_L')).toEqual([
      { part: 'hand_L', from: { part: 'hand_L', label: 'n1' }, label: 'n1 (2)', how: 'renamed' },
      { part: 'hand_L', from: { part: 'hand_L', label: 'n2' }, label: 'n2', how: 'same' },
      { part: 'hand_L', from: { part: 'hand_L', label: 'n3' }, label: 'n3', how: 'added' },
    ]);
    const words = mergeWords(merged.report).join(' ');
    expect(words).toContain('hand_L: n1 is now n1 (2)');
    // nothing that was there is another
    expect(merged.art.drawings.slice(0, first.art.drawings.length)).toEqual(first.art.drawings);
    const again = mergeDrawings(merged, figure({ n1: 'width="14"', n9: 'width="9"' }));
    expect(again.report.drawings.filter((d) => d.part === 'hand_L').map((d) => [d.label, d.how])).toEqual([
      ['n1 (2)', 'same'],
      ['n3', 'same'],
    ]);
  });

  test('a part is known by what it is where it has another name, and its drawings move with its pivot', () => {
    const other = figure({ fist: 'width="17"', flat: 'width="7"' }, { hand: 'main_gauche', at: 90 });
    const merged = mergeDrawings(first, other);
    expect(labels(merged)).toContain('fist');
    const [hand, theirs] = [first, other].map((f) => f.rig.parts.findIndex((p) => /hand|main/.test(p.name)));
    const by = first.art.pivots[hand!]![0] - other.art.pivots[theirs!]![0];
    expect(merged.art.drawings.at(-1)!.box[0]).toBeCloseTo(90 + by, 6);
    expect(by).not.toBe(0);
  });

  test('colours and rules of one never reach the other', () => {
    const paint = (colour: string) =>
      `<defs><linearGradient id="a"><stop stop-color="${colour}"/></linearGradient></defs><style>.k{stroke:${colour}}</style>`;
    const look = 'width="20" fill="url(#a)" class="k"';
    const [red, blue] = ['#ff0000', '#0000ff'].map((c) => figure({ one: look }, { defs: paint(c) }));
    const merged = mergeDrawings(red!, blue!);
    expect(merged.report.drawings.find((d) => d.part === 'hand_L')).toMatchObject({ how: 'renamed' });
    const drawn = merged.art.drawings.at(-1)!.svg;
    const [, id] = /url\(#([^)]+)\)/.exec(drawn)!;
    const [, rule] = /class="([^"]+)"/.exec(drawn)!;
    expect(merged.art.defs).toMatch(new RegExp(`id="${id}"[^]*?#0000ff`));
    expect(merged.art.defs).toMatch(new RegExp(`\\.${rule}\\s*\\{\\s*stroke:\\s*#0000ff`));
    expect([id, rule]).not.toEqual(['a', 'k']);
    // the first figure still looks as before
    expect(renderSvg({ ...red!, ...merged })).toContain('url(#a)');
    expect(mergeDrawings(red!, red!).report.drawings.every((d) => d.how === 'same')).toBe(true);
  });

  test('of figures without a common part nothing is taken, and it is said', () => {
    const boat = cutoutFromSvg(
      new TextEncoder().encode(
        '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><g id="tail"><rect width="9" height="4"/></g><g id="skirt"><rect x="4" width="1" height="9"/></g></svg>',
      ),
    );
    const { rig, report } = mergeDrawings(first, boat);
    expect(rig.parts.map((p) => p.drawings)).toEqual(first.rig.parts.map((p) => p.drawings));
    expect(mergeWords(report).join(' ')).toMatch(/nothing to add/);
  });
});

test('near and far hands of one figure are left and right ones of another, by what they hang on', () => {
  const made = (facing: 'front' | 'right', depth: boolean) =>
    cutoutFromSvg(new TextEncoder().encode(paperFigure(paperTraits(4, { language: 'plain', facing, depth })).svg));
  const [profile, front] = [made('right', true), made('front', false)];
  const sides = profile.rig.parts.filter((p) => /hand/.test(p.name)).map((p) => p.name);
  expect(sides.some((name) => /near|far/.test(name))).toBe(true);
  const { report } = mergeDrawings(front, profile);
  for (const name of sides) {
    const pair = report.drawings.find((d) => d.from.part === name)!;
    const joint = (f: typeof front, part: string): number => f.rig.parts.find((p) => p.name === part)!.joint;
    const slot = (f: typeof front, j: number): string | undefined =>
      Object.entries(f.map.slots).find(([, e]) => e.joint === j)?.[0];
    expect(slot(front, joint(front, pair.part))).toBe(slot(profile, joint(profile, name)));
  }
  // where no map tells, near and far have no partner
  expect(mergeDrawings({ ...front, map: undefined }, { ...profile, map: undefined }).report.unpaired).toEqual(
    expect.arrayContaining(sides),
  );
});
