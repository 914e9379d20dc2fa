import { applied, type Matrix } from '../art/matrix';
import { guessBodyMap } from '../bodymap/guess';
import { jointOf } from '../bodymap/slots';
import { easeAt } from '../motion/curve';
import { ORDER_TRACK } from '../motion/tracks';
import { paperFigure, paperTraits } from '../test/paper';
import { walking } from '../test/variants';
import { cutoutFromSvg } from './assemble';
import { driveCutout } from './drive';
import { keyedAt } from './keys';
import { toLottie } from './lottie';
import { sceneFromLottie } from './lottie-scene';
import { boxOverTime } from './render-svg';
import { CutoutShow } from './show';

type Json = Record<string, unknown>;
const still = (k: unknown): Json => ({ a: 0, k });
const BEND = { o: { x: [0.4], y: [0] }, i: { x: [0.3], y: [1] } };
const keyed = (list: readonly (readonly [t: number, ...s: number[]])[], how: Json = BEND): Json => ({
  a: 1,
  k: list.map(([t, ...s]) => ({ t, s, ...how })),
});
/** A filled rectangle that hangs from the layer's own origin. */
const box = (w: number, h: number, colour = [0.2, 0.4, 0.6]): Json[] => [
  {
    ty: 'gr',
    it: [
      { ty: 'rc', p: still([0, h / 2]), s: still([w, h]), r: still(0) },
      { ty: 'fl', c: still(colour), o: still(100) },
      { ty: 'tr', p: still([0, 0]), a: still([0, 0]), s: still([100, 100]), r: still(0), o: still(100) },
    ],
  },
];
const layer = (ind: number, nm: string, parent: number | undefined, ks: Json, more: Json = {}): Json => ({
  ty: 4,
  ind,
  nm,
  ...(parent === undefined ? {} : { parent }),
  ip: 0,
  op: 60,
  st: 0,
  ks,
  shapes: box(30, 80),
  ...more,
});
const animation = (layers: Json[], more: Json = {}): Json => ({
  v: '5.9.0',
  nm: 'wave',
  fr: 30,
  ip: 0,
  op: 60,
  w: 400,
  h: 600,
  assets: [],
  layers,
  ...more,
});

/** A puppet whose layers hang on one another; the trunk bobs, the left arm waves. */
const puppet = (more: { arm?: Json; layers?: Json[] } = {}): Json[] => [
  layer(4, 'hand L', 3, { p: still([0, 80]) }, { shapes: box(30, 30) }),
  layer(3, 'forearm L', 2, {
    p: still([0, 80]),
    r: keyed([
      [0, 0],
      [20, -70],
      [40, 30],
      [59, 0],
    ]),
  }),
  layer(2, 'upper arm L', 1, {
    p: still([60, 10]),
    r: keyed([
      [0, 0],
      [30, -120],
      [59, 0],
    ]),
    ...more.arm,
  }),
  ...(more.layers ?? []),
  layer(5, 'head', 1, { p: still([0, -90]) }, { shapes: box(70, 90) }),
  layer(6, 'thigh L', 1, { p: still([25, 150]) }, { shapes: box(40, 100) }),
  layer(7, 'thigh R', 1, { p: still([-25, 150]) }, { shapes: box(40, 100) }),
  layer(8, 'shin L', 6, { p: still([0, 100]) }, { shapes: box(36, 100) }),
  layer(9, 'shin R', 7, { p: still([0, 100]) }, { shapes: box(36, 100) }),
  layer(
    1,
    'torso',
    undefined,
    {
      p: keyed([
        [0, 200, 200],
        [30, 220, 190],
        [59, 200, 200],
      ]),
    },
    { shapes: box(120, 160) },
  ),
];

const cornersOf = ([x, y, w, h]: readonly [number, number, number, number]): [number, number][] => [
  [x, y],
  [x + w, y],
  [x, y + h],
  [x + w, y + h],
];

describe('an animation of the Lottie format as a scene', () => {
  test('what was written out comes back: drawings, order and places in every frame', () => {
    const walk = walking();
    const own = cutoutFromSvg(
      new TextEncoder().encode(paperFigure(paperTraits(4, { facing: 'right', language: 'plain', depth: false })).svg),
    );
    const { motion } = driveCutout({ rig: walk.rig, map: guessBodyMap(walk.rig) }, walk.motion, own);
    const { animation: written } = toLottie(own, motion);
    const read = sceneFromLottie(JSON.parse(JSON.stringify(written)));
    expect(read.motion.frameCount).toBe(motion.frameCount);
    expect(read.motion.fps).toBe(motion.fps);
    const before = new CutoutShow(own.rig, own.art, motion);
    const [left, top] = boxOverTime(before);
    const after = new CutoutShow(read.figure.rig, read.figure.art, read.motion);
    let worst = 0;
    for (let f = 0; f < motion.frameCount; f++) {
      const name = (show: CutoutShow, s: { part: number; drawing: { label: string } }): string =>
        `${show.rig.parts[s.part]!.name}: ${s.drawing.label}`;
      const was = before.at(f / motion.fps);
      const is = after.at(f / motion.fps).filter((s) => s.drawing.label !== 'nothing');
      expect(is.map((s) => name(after, s))).toEqual(was.map((s) => name(before, s)));
      was.forEach((s, i) => {
        const kept = /^<g transform="matrix\(([^)]*)\)">/.exec(is[i]!.drawing.svg)![1]!;
        const laid = kept.split(' ').map(Number) as unknown as Matrix;
        for (const [x, y] of cornersOf(s.drawing.box)) {
          const [p, q] = [applied(s.matrix, x, y), applied(is[i]!.matrix, ...applied(laid, x, y))];
          worst = Math.max(worst, Math.hypot(p[0] - left - q[0], p[1] - top - q[1]));
        }
      });
    }
    expect(worst).toBeLessThan(0.5);
    // limbs that the drive drew shorter are so still, by a number and not by size
    expect(read.keys!.tracks.some((t) => t.channel === 'length')).toBe(true);
    for (const slot of ['head', 'upperArmL', 'forearmR', 'thighL', 'shinR'])
      expect(jointOf(read.figure.map, slot)).toBeGreaterThan(0);
  });

  test('keys stay keys, with their easing, where joints hang as the layers do', () => {
    const { keys, figure, notes } = sceneFromLottie(animation(puppet()));
    const joint = figure.rig.names[jointOf(figure.map, 'upperArmL')]!;
    const arm = keys!.tracks.find((t) => t.joint === joint && t.channel === 'turn')!;
    // the format turns clockwise, a rig the other way round
    expect(arm.keys.map((k) => k.frame)).toEqual([0, 30, 59]);
    expect(arm.keys[1]!.value[0]!).toBeCloseTo((120 * Math.PI) / 180, 6);
    expect(arm.keys[0]!.ease).toEqual([0.4, 0, 0.3, 1]);
    expect(keyedAt(arm, 12)![0]!).toBeCloseTo((easeAt([0.4, 0, 0.3, 1], 12 / 30) * 120 * Math.PI) / 180, 6);
    const hips = keys!.tracks.find((t) => t.channel === 'place')!;
    expect(hips.keys).toHaveLength(3);
    expect((hips.keys[1]!.value[0]! - hips.keys[0]!.value[0]!) / figure.art.unit).toBeCloseTo(20, 3);
    expect(keys!.tracks).toHaveLength(3);
    expect(notes.filter((n) => n.startsWith('Left out'))).toEqual([]);
  });

  test('a hand goes where its layer goes, through arms, an empty layer and a composition in a composition', () => {
    const inner = [
      layer(1, 'lantern', 2, { p: still([0, 10]), r: still(15) }, { shapes: box(20, 24) }),
      {
        ty: 3,
        ind: 2,
        nm: 'hook',
        ip: 0,
        op: 60,
        st: 0,
        ks: {
          p: keyed([
            [10, 0, 0],
            [20, 0, 40],
          ]),
          o: still(0),
        },
      },
    ];
    const carrier = {
      ty: 0,
      ind: 20,
      nm: 'lamp',
      parent: 4,
      refId: 'lamp',
      ip: 0,
      op: 60,
      st: 5,
      sr: 2,
      ks: { p: still([0, 30]) },
    };
    const { figure, motion } = sceneFromLottie(
      animation([carrier, ...puppet()], { assets: [{ id: 'lamp', layers: inner }] }),
    );
    const show = new CutoutShow(figure.rig, figure.art, motion);
    const part = figure.rig.parts.findIndex((p) => p.name === 'lantern');
    const drawing = figure.art.drawings.find((d) => d.part === 'lantern')!;
    const laid = /matrix\(([^)]*)\)/.exec(drawing.svg)![1]!.split(' ').map(Number) as unknown as Matrix;
    const RAD = Math.PI / 180;
    const bend = (from: number, to: number, x: number): number =>
      from + (to - from) * easeAt([0.4, 0, 0.3, 1], Math.min(1, Math.max(0, x)));
    for (const f of [0, 17, 29, 33, 45, 59]) {
      // worked out from the outermost to the innermost, by hand
      const up = f < 30;
      const hipsX = up ? bend(200, 220, f / 30) : bend(220, 200, (f - 30) / 29);
      const hipsY = up ? bend(200, 190, f / 30) : bend(190, 200, (f - 30) / 29);
      const arm = up ? bend(0, -120, f / 30) : bend(-120, 0, (f - 30) / 29);
      const fore = f < 20 ? bend(0, -70, f / 20) : f < 40 ? bend(-70, 30, (f - 20) / 20) : bend(30, 0, (f - 40) / 19);
      const inside = (f - 5) / 2;
      const drop = bend(0, 40, (inside - 10) / 10);
      const along = (at: [number, number], degrees: number, by: number): [number, number] => [
        at[0] - by * Math.sin(degrees * RAD),
        at[1] + by * Math.cos(degrees * RAD),
      ];
      const elbow = along([hipsX + 60, hipsY + 10], arm, 80);
      const wanted = along(elbow, arm + fore, 80 + 30 + drop + 10);
      show.at(f / motion.fps);
      const got = applied(show.matrixOf(part), ...applied(laid, 0, 0));
      expect(Math.hypot(got[0] - wanted[0], got[1] - wanted[1])).toBeLessThan(0.15);
    }
  });

  test('places on a curved way, numbers apart, and sizes', () => {
    const way = {
      a: 1,
      k: [
        { t: 0, s: [200, 200, 0], ...BEND, to: [0, -100, 0], ti: [0, -100, 0] },
        { t: 59, s: [300, 200, 0] },
      ],
    };
    const layers = puppet();
    layers[layers.length - 1] = layer(1, 'torso', undefined, { p: way }, { shapes: box(120, 160) });
    const { figure, motion } = sceneFromLottie(animation(layers));
    const show = new CutoutShow(figure.rig, figure.art, motion);
    const torso = figure.rig.parts.findIndex((p) => p.name === 'torso');
    const placed = (f: number): [number, number] => {
      show.at(f / motion.fps);
      const m = show.matrixOf(torso);
      return [m[4], m[5]];
    };
    const [x, y] = placed(30);
    const from = placed(0);
    // the curve is alike on both sides, and by its middle the ease has come 72 of 100 parts of the way
    expect(x - from[0]).toBeGreaterThan(60);
    expect(y - from[1]).toBeLessThan(-40);
    expect(y - from[1]).toBeGreaterThan(-75);
    const apart = puppet({
      arm: {
        s: keyed([
          [0, 100, 100],
          [30, 100, 150],
          [59, 100, 100],
        ]),
      },
    });
    apart[apart.length - 1] = layer(
      1,
      'torso',
      undefined,
      {
        p: {
          s: true,
          x: keyed([
            [0, 200],
            [59, 260],
          ]),
          y: still(200),
        },
      },
      { shapes: box(120, 160) },
    );
    const read = sceneFromLottie(animation(apart));
    const arm = read.figure.rig.names[jointOf(read.figure.map, 'upperArmL')]!;
    const larger = read.keys!.tracks.find((t) => t.joint === arm && t.channel === 'scale')!;
    expect(larger.keys.map((k) => k.frame)).toEqual([0, 30, 59]);
    expect(larger.keys[1]!.value[1]!).toBeCloseTo(1.5, 4);
    expect(larger.keys[1]!.value[0]!).toBeCloseTo(1, 4);
    expect(
      read.keys!.tracks.find((t) => t.channel === 'place')!.keys.at(-1)!.value[0]! / read.figure.art.unit,
    ).toBeCloseTo(
      60 + read.keys!.tracks.find((t) => t.channel === 'place')!.keys[0]!.value[0]! / read.figure.art.unit,
      2,
    );
  });

  test('layers that are there in turn are drawings of one part, and what lies before what may change', () => {
    const turns = [
      layer(30, 'mouth: open', 5, { p: still([0, 60]) }, { ip: 0, op: 20, shapes: box(20, 12) }),
      layer(31, 'mouth: shut', 5, { p: still([0, 60]) }, { ip: 20, op: 40, shapes: box(20, 4) }),
      layer(32, 'mouth: open', 5, { p: still([0, 60]) }, { ip: 40, op: 50, shapes: box(20, 12) }),
    ];
    const layers = puppet({ layers: turns });
    const { figure, keys } = sceneFromLottie(animation(layers));
    const mouth = figure.rig.parts.find((p) => p.name === 'mouth')!;
    expect(mouth.drawings).toEqual(['open', 'shut', 'nothing']);
    expect(keys!.steps.find((s) => s.name === 'mouth')!.keys).toEqual([
      { frame: 0, label: 'open' },
      { frame: 20, label: 'shut' },
      { frame: 40, label: 'open' },
      { frame: 50, label: 'nothing' },
    ]);
    // the arm goes behind the trunk for the second half
    const [hand, forearm, arm, ...rest] = puppet() as [Json, Json, Json, ...Json[]];
    const early = { ...arm, op: 30 };
    const late = { ...arm, ind: 40, ip: 30 };
    const crossed = sceneFromLottie(animation([hand, forearm, early, ...rest, late]));
    expect(crossed.figure.rig.parts.filter((p) => /^upper arm/.test(p.name))).toHaveLength(1);
    const order = crossed.keys!.steps.find((s) => s.name === ORDER_TRACK)!;
    expect(order.keys.map((k) => k.frame)).toEqual([0, 30]);
    const [torso, upper] = ['torso', 'upper arm L'].map((n) => crossed.figure.rig.parts.findIndex((p) => p.name === n));
    const place = (i: number, part: number): number => order.keys[i]!.label.split(' ').indexOf(String(part));
    expect(place(0, upper!)).toBeGreaterThan(place(0, torso!));
    expect(place(1, upper!)).toBeLessThan(place(1, torso!));
  });

  test('masks, gradients, strokes, stars and solids are drawn; what cannot be kept is named with its layer', () => {
    const path = (w: number): Json => ({
      i: [
        [0, 0],
        [0, 0],
        [0, 0],
      ],
      o: [
        [0, 0],
        [5, 5],
        [0, 0],
      ],
      v: [
        [0, 0],
        [w, 0],
        [0, w],
      ],
      c: true,
    });
    const shapes = [
      { ty: 'sh', ks: still(path(50)) },
      { ty: 'sr', sy: 1, pt: still(5), p: still([0, 0]), or: still(30), ir: still(12), r: still(0) },
      { ty: 'st', c: still([1, 0, 0]), o: still(50), w: still(3), lc: 2, lj: 2, d: [{ n: 'd', v: still(4) }] },
      {
        ty: 'gf',
        t: 1,
        s: still([0, 0]),
        e: still([50, 0]),
        o: still(100),
        r: 2,
        g: { p: 2, k: still([0, 1, 0, 0, 1, 0, 0, 1, 0, 1, 1, 0.5]) },
      },
      { ty: 'tm', s: still(0), e: still(50) },
    ];
    const hat = layer(
      30,
      'hat',
      5,
      {
        p: still([0, -20]),
        o: keyed([
          [0, 100],
          [30, 40],
          [59, 100],
        ]),
      },
      {
        shapes,
        masksProperties: [{ mode: 'a', inv: false, pt: still(path(60)) }],
        tt: 1,
      },
    );
    const solid = {
      ty: 1,
      ind: 31,
      nm: 'floor',
      ip: 0,
      op: 60,
      sw: 400,
      sh: 40,
      sc: '#335577',
      ks: { p: still([0, 560]) },
    };
    const words = { ty: 5, ind: 32, nm: 'caption', ip: 0, op: 60, ks: {} };
    const { figure, notes } = sceneFromLottie(animation([hat, words, ...puppet(), solid]));
    const svg = figure.art.drawings.find((d) => d.part === 'hat')!.svg;
    for (const bit of [
      'stroke-dasharray="4"',
      'stroke-linecap="round"',
      'fill-rule="evenodd"',
      'url(#g',
      'clip-path="url(#m',
    ])
      expect(svg).toContain(bit);
    expect(figure.art.defs).toContain('stop-opacity="0.5"');
    expect(figure.art.drawings.find((d) => d.part === 'floor')!.svg).toContain('fill="#335577"');
    const told = notes.join(' ');
    for (const what of [
      'letters (“caption”)',
      'outlines drawn in part (“hat”)',
      'fading',
      'cut out by the layer above',
    ])
      expect(told).toContain(what);
  });

  test('pictures in the file are kept, nothing is fetched, and no script comes through', () => {
    const drawing =
      '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 10 10"><script>alert(1)</script><rect id="a" width="10" height="10" onclick="alert(2)" fill="red"/></svg>';
    const assets = [
      { id: 'png', w: 40, h: 40, e: 1, u: '', p: 'data:image/png;base64,iVBORw0KGgo=' },
      { id: 'svg', w: 40, h: 40, e: 1, u: '', p: `data:image/svg+xml,${encodeURIComponent(drawing)}` },
      { id: 'far', w: 40, h: 40, e: 0, u: 'https://example.org/', p: 'a.png' },
      { id: 'bad', w: 40, h: 40, e: 1, u: '', p: 'javascript:alert(3)' },
    ];
    const pictures = assets.map(({ id }, i) => ({
      ty: 2,
      ind: 50 + i,
      nm: id,
      parent: 5,
      refId: id,
      ip: 0,
      op: 60,
      ks: {},
    }));
    const { figure, notes } = sceneFromLottie(animation([...pictures, ...puppet()], { assets }));
    const all = figure.art.drawings.map((d) => d.svg).join('');
    expect(all).toContain('href="data:image/png;base64,');
    expect(all).toContain('fill="red"');
    for (const bad of ['script', 'alert', 'onclick', 'https:', 'javascript:']) expect(all).not.toContain(bad);
    expect(notes.join(' ')).toContain('pictures that lie beside the file, or that cannot be read (“bad”, “far”)');
  });

  test.each<[string, string, () => unknown]>([
    ['no animation', 'not-this-format', () => ({ layers: [] })],
    ['no rate', 'bad-number', () => animation(puppet(), { fr: 0 })],
    ['too long', 'too-large', () => animation(puppet(), { op: 1e6 })],
    ['a layer on itself', 'bad-structure', () => animation([layer(1, 'a', 2, {}), layer(2, 'b', 1, {})])],
    [
      'too many layers',
      'too-large',
      () => animation(Array.from({ length: 500 }, (_, i) => layer(i, `l${i}`, undefined, {}))),
    ],
    [
      'a key without a time',
      'bad-number',
      () => animation(puppet({ arm: { r: { a: 1, k: [{ s: [1] }, { t: 3, s: [2] }] } } })),
    ],
    ['nothing drawn', 'no-mesh', () => animation([{ ty: 3, ind: 1, nm: 'empty', ip: 0, op: 60, ks: {} }])],
    [
      'a composition in itself',
      'too-large',
      () =>
        animation([{ ty: 0, ind: 1, refId: 'a', ip: 0, op: 60, ks: {} }], {
          assets: [{ id: 'a', layers: [{ ty: 0, ind: 1, refId: 'a', ip: 0, op: 60, ks: {} }] }],
        }),
    ],
  ])('refused: %s', (_, code, json) => {
    expect(() => sceneFromLottie(json())).toThrow(expect.objectContaining({ code }));
  });
});
