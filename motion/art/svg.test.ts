import fc from 'fast-check';
import UPNG from 'upng-js';
import { findPictureParts } from '../cutout/picture-parts';
import { findSvgParts } from '../cutout/svg-parts';
import { MotionError } from '../errors';
import { boxOf, gridOver, lieOf, maskOf } from './mask';
import { applied, inverse, type Matrix, multiply, parseTransform } from './matrix';
import { svgText } from './svg-clean';
import { readSvg } from './svg-read';
import { Styles, shapesOf } from './svg-shapes';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);
const svg = (inside: string, head = ''): Uint8Array =>
  bytes(`<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 100 100"${head}>${inside}</svg>`);
const context = { ids: new Map(), styles: new Styles([]) };

describe('a drawing from strangers', () => {
  test.each([
    ['a script', '<script>alert(1)</script>', /script|alert/],
    ['a handler', '<path d="M0 0" onclick="alert(1)" onload="x"/>', /onclick|onload|alert/],
    ['an address that runs', '<a href="javascript:alert(1)"><path d="M0 0"/></a>', /javascript/],
    ['a picture from elsewhere', '<image href="http://evil.example/a.png" width="9" height="9"/>', /evil/],
    ['a drawing inside a picture', '<image href="data:image/svg+xml;base64,AAAA" width="9" height="9"/>', /svg\+xml/],
    ['something used from elsewhere', '<use href="http://evil.example/a.svg#x"/>', /evil/],
    ['paint from elsewhere', '<path d="M0 0" style="fill:url(http://evil.example/a)"/>', /evil/],
    ['paint spelt with numbers', '<path d="M0 0" style="fill:\\75rl(http://evil.example/a)"/>', /evil/],
    ['a style sheet that loads', '<style>@import "http://evil.example/a.css"; path{fill:red}</style>', /import|evil/],
    ['a style sheet that reaches out', '<style>path{background:url(//evil.example)}</style>', /evil/],
    [
      'a page within',
      '<foreignObject><body xmlns="http://www.w3.org/1999/xhtml"><b>x</b></body></foreignObject>',
      /foreign|body/,
    ],
    [
      'movement',
      '<path d="M0 0"><animate attributeName="href" values="javascript:1"/><set attributeName="x"/></path>',
      /animate|<set/,
    ],
    ['an element of another space', '<html:iframe src="x"/>', /iframe/],
  ])('%s is left out', (_, inside, never) => {
    const { root } = readSvg(svg(`${inside}<rect width="5" height="5"/>`));
    expect(svgText(root)).not.toMatch(never);
    expect(svgText(root)).toContain('<rect');
  });

  test('entities stand for nothing', () => {
    const bomb = `<!DOCTYPE svg [<!ENTITY a "aaaaaaaa"><!ENTITY b "&a;&a;&a;&a;"><!ENTITY x SYSTEM "file:///etc/passwd">]>`;
    const { root } = readSvg(bytes(`${bomb}<svg><title>&b;&x;</title><path d="M0 0"/></svg>`));
    expect(root.children[0]!.text).toBe('');
  });

  test('what is drawn inside itself, or stands in for too much, is refused', () => {
    const doubled = Array.from(
      { length: 30 },
      (_, i) => `<g id="a${i + 1}"><use href="#a${i}"/><use href="#a${i}"/></g>`,
    );
    const chain = Array.from({ length: 3000 }, (_, i) => `<g id="b${i}"><use href="#b${i + 1}"/></g>`);
    for (const inside of [
      '<g id="a"><use href="#a"/></g>',
      `<g id="a0"><path d="M0 0"/></g>${doubled.join('')}`,
      chain.join(''),
      '<g>'.repeat(200) + '</g>'.repeat(200),
    ])
      expect(() => readSvg(svg(inside))).toThrow(MotionError);
  });

  test('whatever is wrong is told with its line', () => {
    expect(() => readSvg(bytes('<svg>\n<g>\n</svg>'))).toThrow(expect.objectContaining({ place: { line: 3 } }));
    expect(() => readSvg(bytes('<html></html>'))).toThrow(expect.objectContaining({ code: 'not-this-format' }));
    expect(() => readSvg(new Uint8Array(0))).toThrow(expect.objectContaining({ code: 'empty' }));
  });

  test('files that are no pictures, and lists that name none, are refused', () => {
    const png = bytes('\x89PNG');
    for (const files of [
      [],
      [{ name: 'a.png', bytes: png }],
      [
        { name: 'a.png', bytes: png },
        { name: 'list.json', bytes: bytes('{"parts":[{"file":"b.png"}]}') },
      ],
      [
        { name: 'a.png', bytes: png },
        { name: 'list.json', bytes: bytes('nonsense') },
      ],
    ])
      expect(() => findPictureParts(files)).toThrow(MotionError);
  });

  test('of a PNG only what is drawn is looked into, and no chunk may claim more than the file has', () => {
    const png = new Uint8Array(UPNG.encode([new Uint8Array(64).fill(200).buffer], 4, 4, 0));
    const chunk = (kind: string, data: string, claims = data.length): Uint8Array => {
      const all = bytes(`....${kind}${data}....`);
      new DataView(all.buffer).setUint32(0, claims);
      return all;
    };
    const withChunk = (c: Uint8Array): Uint8Array => new Uint8Array([...png.slice(0, 33), ...c, ...png.slice(33)]);
    const read = (file: Uint8Array) => findPictureParts([{ name: 'head.png', bytes: file }]).parts[0]!.drawings[0]!;
    // a text that cannot be unpacked, frames that are not there: the picture is the same
    for (const c of [chunk('zTXt', 'a\0\0nonsens'), chunk('acTL', '\x7f\0\0\0\0\0\0\0')])
      expect(read(withChunk(c))).toEqual(read(png));
    for (const c of [chunk('sRGB', '.', 0x7fffffff), chunk('PLTE', 'x'.repeat(900))])
      expect(() => read(withChunk(c))).toThrow('cut off');
  });
});

describe('transforms', () => {
  const number = fc.double({ min: -50, max: 50, noNaN: true });
  test('a list applies from right to left, and can be taken back', () => {
    fc.assert(
      fc.property(number, number, number, number, (x, y, angle, k) => {
        const m = parseTransform(`translate(${x} ${y}) rotate(${angle}) scale(${1.1 + Math.abs(k)})`);
        const back = inverse(m)!;
        const [px, py] = applied(multiply(back, m), 3, 4);
        expect(px).toBeCloseTo(3, 6);
        expect(py).toBeCloseTo(4, 6);
        expect(applied(m, 0, 0)[0]).toBeCloseTo(x, 9);
      }),
    );
  });

  test.each<[string, readonly [number, number]]>([
    ['rotate(90)', [-4, 3]],
    ['rotate(90 3 4)', [3, 4]],
    ['matrix(1 0 0 1 5,6)', [8, 10]],
    ['scale(2) translate(1,1)', [8, 10]],
    ['skewX(45)', [7, 4]],
    ['skewY(45)', [3, 7]],
    ['translate(1e1)', [13, 4]],
    ['bend(3)', [3, 4]],
  ])('%s', (text, [x, y]) => {
    const at = applied(parseTransform(text), 3, 4);
    expect(at[0]).toBeCloseTo(x, 9);
    expect(at[1]).toBeCloseTo(y, 9);
  });

  test('what flattens the plane cannot be taken back', () => {
    expect(inverse([1, 2, 2, 4, 0, 0] as Matrix)).toBeUndefined();
  });
});

describe('shapes', () => {
  const only = (inside: string) => readSvg(svg(inside)).root.children[0]!;
  test.each([
    ['<rect x="10" y="20" width="30" height="40"/>', [10, 20, 30, 40]],
    ['<circle cx="50" cy="50" r="10"/>', [40, 40, 20, 20]],
    ['<path d="M10 10h20v20H10Z" stroke="red" stroke-width="4"/>', [8, 8, 24, 24]],
    ['<path d="M0 50A50 50 0 0 1 100 50"/>', [0, 0, 100, 50]],
    ['<polygon points="1,2 3,4 5,0"/>', [1, 0, 4, 4]],
    ['<g transform="translate(5 5)"><rect width="10" height="10" transform="scale(2)"/></g>', [5, 5, 20, 20]],
    ['<rect width="1in" height="10mm"/>', [0, 0, 96, 37.8]],
  ])('%s', (inside, box) => {
    boxOf(shapesOf(context, only(inside), [1, 0, 0, 1, 0, 0]))!.forEach((x, k) => expect(x).toBeCloseTo(box[k]!, 0));
  });

  test('what is hidden is not there, and what clips cuts', () => {
    const styles = new Styles(['.off{display:none} #gone{visibility:hidden}']);
    const { root } = readSvg(
      svg(
        '<defs><clipPath id="c"><rect x="0" y="0" width="5" height="100"/></clipPath></defs><g><rect class="off" width="90" height="90"/><rect id="gone" width="80" height="80"/><rect style="opacity:0" width="70" height="70"/><rect width="10" height="10" clip-path="url(#c)"/></g>',
      ),
    );
    const ids = new Map([['c', root.children[0]!.children[0]!]]);
    const shapes = shapesOf({ ids, styles }, root.children[1]!, [1, 0, 0, 1, 0, 0]);
    expect(boxOf(shapes)).toEqual([0, 0, 5, 10]);
    const grid = gridOver([0, 0, 10, 10], 20);
    expect(maskOf(grid, shapes).reduce((a, b) => a + b, 0)).toBe(10 * 20);
  });

  test('a ring within a ring is a hole', () => {
    const shapes = shapesOf(context, only('<path d="M0 0H20V20H0ZM5 5H15V15H5Z"/>'), [1, 0, 0, 1, 0, 0]);
    const grid = gridOver([0, 0, 20, 20], 20);
    expect(maskOf(grid, shapes).reduce((a, b) => a + b, 0)).toBe(300);
  });

  test('a long shape tells its axis', () => {
    const shapes = shapesOf(
      context,
      only('<rect x="10" y="45" width="80" height="10" transform="rotate(30 50 50)"/>'),
      [1, 0, 0, 1, 0, 0],
    );
    const grid = gridOver([0, 0, 100, 100], 200);
    const { axis, along, across } = lieOf(grid, maskOf(grid, shapes))!;
    expect(Math.abs((Math.atan2(axis[1], axis[0]) * 180) / Math.PI)).toBeCloseTo(30, 0);
    expect(along / across).toBeCloseTo(8, 0);
  });
});

describe('layers', () => {
  const parts = (inside: string) => findSvgParts(svg(inside)).parts;
  const box = '<rect width="9" height="9"/>';
  test('one shown among hidden ones is a choice of drawings, the shown one first', () => {
    const [mouth] = parts(
      `<g id="mouth"><g id="a" display="none">${box}</g><g id="o">${box}</g><g id="e" style="display:none">${box}</g></g>`,
    );
    expect(mouth!.drawings.map((d) => [d.label, d.shown])).toEqual([
      ['o', true],
      ['a', false],
      ['e', false],
    ]);
    expect(mouth!.drawings[1]!.svg).not.toMatch(/none/);
  });

  test('siblings that differ by a label are drawings of one part', () => {
    const found = parts(
      `<g id="mouth_A">${box}</g><g id="mouth_E" display="none">${box}</g><g id="hand_L_fist">${box}</g><g id="hand_R_fist">${box}</g>`,
    );
    expect(found.map((p) => [p.name, p.drawings.map((d) => d.label)])).toEqual([
      ['mouth', ['a', 'e']],
      ['hand_L_fist', ['fist']],
      ['hand_R_fist', ['fist']],
    ]);
  });

  test('a limb within its group takes the side from it; what stands about a part goes with it', () => {
    const [upper, lower] = parts(
      `<g id="arm_left" opacity="0.5" transform="translate(3 4)"><g id="upper">${box}</g><g id="lower">${box}</g></g>`,
    );
    expect([upper!.reading, lower!.reading]).toMatchObject([
      { kind: 'upperArm', side: 'L' },
      { kind: 'forearm', side: 'L' },
    ]);
    expect(upper!.drawings[0]!.box).toEqual([3, 4, 9, 9]);
    expect(upper!.drawings[0]!.svg).toContain('opacity="0.5"');
  });

  test('a mark called pivot is the pivot, and is not drawn', () => {
    const [arm] = parts(`<g id="forearm L">${box}<circle id="pivot" cx="4" cy="2" r="1"/></g>`);
    expect(arm!.pivot).toEqual([4, 2]);
  });
});
