import svgpath from 'svgpath';
import { applied, IDENTITY, type Matrix, multiply, parseTransform, scaleOf } from '../art/matrix';
import { byId, readSvg, referredId, type SvgNode } from '../art/svg-read';
import { number, Styles } from '../art/svg-shapes';

// Drawings as shapes of the Lottie format: paths with fills, strokes and gradients. What the format's shapes cannot say
// (filters, masks, letters, embedded pictures) is answered with nothing, and the drawing goes out as a picture.

/** An item of a Lottie shape layer. */
export type LottieShape = Readonly<Record<string, unknown>>;

interface Paint {
  readonly fill: string;
  readonly stroke: string;
  readonly width: number;
  readonly opacity: number;
  readonly fillOpacity: number;
  readonly strokeOpacity: number;
  readonly cap: string;
  readonly join: string;
  readonly rule: string;
  readonly color: string;
}

const PLAIN: Paint = {
  fill: 'black',
  stroke: 'none',
  width: 1,
  opacity: 1,
  fillOpacity: 1,
  strokeOpacity: 1,
  cap: 'butt',
  join: 'miter',
  rule: 'nonzero',
  color: 'black',
};

class Beyond extends Error {}

/** A drawing as shapes, the uppermost first; undefined where shapes cannot say it. @param defs see CutoutArt */
export function lottieShapes(defs: string, svg: string): LottieShape[] | undefined {
  try {
    const { root } = readSvg(
      new TextEncoder().encode(
        `<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"><defs>${defs}</defs>${svg}</svg>`,
      ),
    );
    const sheets: string[] = [];
    const gather = (node: SvgNode): void => {
      if (node.tag === 'style') sheets.push(node.text);
      node.children.forEach(gather);
    };
    gather(root);
    const walk = new ShapeWalk(byId(root), new Styles(sheets));
    return root.children
      .filter((c) => c.tag !== 'defs')
      .flatMap((c) => walk.shapes(c, IDENTITY, PLAIN))
      .reverse();
  } catch (error) {
    if (error instanceof Beyond) return undefined;
    throw error;
  }
}

const fixed = (x: number): number => Math.round(x * 1000) / 1000;
const still = (k: unknown): { a: 0; k: unknown } => ({ a: 0, k });

class ShapeWalk {
  constructor(
    private readonly ids: ReadonlyMap<string, SvgNode>,
    private readonly styles: Styles,
  ) {}

  /** Shapes of an element in the order in which they are painted. */
  shapes(node: SvgNode, outer: Matrix, inherited: Paint): LottieShape[] {
    if (
      /^(defs|symbol|style|title|desc|clipPath|mask|linearGradient|radialGradient|pattern|filter|marker)$/.test(
        node.tag,
      )
    )
      return [];
    if (this.styles.hides(node)) return [];
    const of = (name: string): string | undefined => this.styles.of(node, name);
    for (const beyond of [
      'filter',
      'mask',
      'clip-path',
      'marker-end',
      'marker-start',
      'stroke-dasharray',
      'mix-blend-mode',
    ]) {
      const value = of(beyond);
      if (value !== undefined && value !== 'none' && value !== 'normal') throw new Beyond(beyond);
    }
    if (node.tag === 'image' || node.tag === 'text') throw new Beyond(node.tag);
    const opacity = number(of('opacity'), 1);
    // a see-through group is not a group of see-through pieces
    if (opacity < 1 && node.children.length > 1) throw new Beyond('opacity');
    const m = multiply(outer, parseTransform(node.attributes.transform));
    const paint: Paint = {
      fill: of('fill') ?? inherited.fill,
      stroke: of('stroke') ?? inherited.stroke,
      width: number(of('stroke-width'), inherited.width),
      opacity: inherited.opacity * opacity,
      fillOpacity: number(of('fill-opacity'), inherited.fillOpacity),
      strokeOpacity: number(of('stroke-opacity'), inherited.strokeOpacity),
      cap: of('stroke-linecap') ?? inherited.cap,
      join: of('stroke-linejoin') ?? inherited.join,
      rule: of('fill-rule') ?? inherited.rule,
      color: of('color') ?? inherited.color,
    };
    if (node.tag === 'use') {
      const target = this.ids.get(referredId(node) ?? '');
      if (!target) return [];
      const at = multiply(m, [1, 0, 0, 1, number(node.attributes.x, 0), number(node.attributes.y, 0)]);
      return this.shapes(target.tag === 'symbol' ? { ...target, tag: 'g' } : target, at, paint);
    }
    const d = outline(node);
    if (d !== undefined) {
      const one = this.painted(node, d, m, paint);
      return one ? [one] : [];
    }
    return node.children.flatMap((c) => this.shapes(c, m, paint));
  }

  private painted(node: SvgNode, d: string, m: Matrix, paint: Paint): LottieShape | undefined {
    const paths = beziers(d, m);
    if (paths.length === 0) return undefined;
    const box = boundsOf(beziers(d, IDENTITY));
    const items: LottieShape[] = paths.map((ks) => ({ ty: 'sh', ks: still(ks) }));
    const stroke = this.paintOf(paint.stroke, paint, paint.opacity * paint.strokeOpacity, box, m);
    if (stroke && paint.width > 0)
      items.push({
        ...stroke,
        ty: stroke.ty === 'gf' ? 'gs' : 'st',
        w: still(fixed(paint.width * scaleOf(m))),
        lc: { butt: 1, round: 2, square: 3 }[paint.cap] ?? 1,
        lj: { miter: 1, round: 2, bevel: 3 }[paint.join] ?? 1,
        ml: 4,
      });
    const fill = this.paintOf(paint.fill, paint, paint.opacity * paint.fillOpacity, box, m);
    if (fill && node.tag !== 'line') items.push({ ...fill, r: paint.rule === 'evenodd' ? 2 : 1 });
    if (items.length === paths.length) return undefined;
    items.push({ ty: 'tr', p: still([0, 0]), a: still([0, 0]), s: still([100, 100]), r: still(0), o: still(100) });
    return { ty: 'gr', it: items };
  }

  private paintOf(
    text: string,
    { color }: Paint,
    opacity: number,
    box: Bounds,
    m: Matrix,
  ): (LottieShape & { ty: string }) | undefined {
    const value = text.trim();
    if (value === 'none' || value === 'transparent') return undefined;
    const id = /^url\(\s*["']?#([^"')]+)/.exec(value)?.[1];
    if (id !== undefined) return this.gradient(id, opacity, box, m);
    const rgb = colorOf(value === 'currentColor' ? color : value);
    if (!rgb) throw new Beyond(value);
    return { ty: 'fl', c: still([...rgb.slice(0, 3).map(fixed), 1]), o: still(fixed(100 * opacity * rgb[3]!)) };
  }

  private gradient(id: string, opacity: number, box: Bounds, m: Matrix): LottieShape & { ty: string } {
    const node = this.ids.get(id);
    if (node?.tag !== 'linearGradient' && node?.tag !== 'radialGradient') throw new Beyond(id);
    // what a gradient does not say itself it takes from the one it refers to
    const chain: SvgNode[] = [node];
    for (
      let next = this.ids.get(referredId(node) ?? '');
      next && chain.length < 8;
      next = this.ids.get(referredId(next) ?? '')
    )
      chain.push(next);
    const of = (name: string): string | undefined => chain.map((n) => n.attributes[name]).find((v) => v !== undefined);
    const stops =
      chain.find((n) => n.children.some((c) => c.tag === 'stop'))?.children.filter((c) => c.tag === 'stop') ?? [];
    if (stops.length === 0) throw new Beyond(id);
    const own = of('gradientUnits') === 'userSpaceOnUse';
    const within: Matrix = own ? IDENTITY : [box.w, 0, 0, box.h, box.x, box.y];
    const place = multiply(m, multiply(within, parseTransform(of('gradientTransform'))));
    const share = (name: string, otherwise: number): number => {
      const value = of(name);
      if (value === undefined) return otherwise;
      return value.endsWith('%') ? Number.parseFloat(value) / 100 : number(value, otherwise);
    };
    const linear = node.tag === 'linearGradient';
    const [start, end] = linear
      ? [applied(place, share('x1', 0), share('y1', 0)), applied(place, share('x2', 1), share('y2', 0))]
      : [
          applied(place, share('cx', 0.5), share('cy', 0.5)),
          applied(place, share('cx', 0.5) + share('r', 0.5), share('cy', 0.5)),
        ];
    const colours: number[] = [];
    const alphas: number[] = [];
    let last = 0;
    for (const stop of stops) {
      const raw = stop.attributes.offset ?? '0';
      const offset = Math.max(
        last,
        Math.min(1, raw.endsWith('%') ? Number.parseFloat(raw) / 100 : Number.parseFloat(raw) || 0),
      );
      last = offset;
      const rgb = colorOf(this.styles.of(stop, 'stop-color') ?? 'black');
      if (!rgb) throw new Beyond('stop');
      colours.push(fixed(offset), ...rgb.slice(0, 3).map(fixed));
      alphas.push(fixed(offset), fixed(rgb[3]! * number(this.styles.of(stop, 'stop-opacity'), 1)));
    }
    const seeThrough = alphas.some((x, i) => i % 2 === 1 && x < 1);
    return {
      ty: 'gf',
      t: linear ? 1 : 2,
      s: still(start.map(fixed)),
      e: still(end.map(fixed)),
      o: still(fixed(100 * opacity)),
      g: { p: stops.length, k: still(seeThrough ? [...colours, ...alphas] : colours) },
    };
  }
}

interface Bounds {
  readonly x: number;
  readonly y: number;
  readonly w: number;
  readonly h: number;
}

/** Outline of a basic shape as path data. */
function outline(node: SvgNode): string | undefined {
  const a = node.attributes;
  const n = (name: string, otherwise = 0): number => number(a[name], otherwise);
  switch (node.tag) {
    case 'path':
      return a.d ?? '';
    case 'rect': {
      const [x, y, w, h] = [n('x'), n('y'), n('width'), n('height')];
      const rx = Math.min(w / 2, n('rx', n('ry')));
      const ry = Math.min(h / 2, n('ry', n('rx')));
      if (rx <= 0 || ry <= 0) return `M${x} ${y}h${w}v${h}h${-w}Z`;
      return `M${x + rx} ${y}h${w - 2 * rx}a${rx} ${ry} 0 0 1 ${rx} ${ry}v${h - 2 * ry}a${rx} ${ry} 0 0 1 ${-rx} ${ry}h${2 * rx - w}a${rx} ${ry} 0 0 1 ${-rx} ${-ry}v${2 * ry - h}a${rx} ${ry} 0 0 1 ${rx} ${-ry}Z`;
    }
    case 'circle':
    case 'ellipse': {
      const [rx, ry] = node.tag === 'circle' ? [n('r'), n('r')] : [n('rx'), n('ry')];
      return rx > 0 && ry > 0
        ? `M${n('cx') - rx} ${n('cy')}a${rx} ${ry} 0 1 0 ${2 * rx} 0a${rx} ${ry} 0 1 0 ${-2 * rx} 0Z`
        : '';
    }
    case 'line':
      return `M${n('x1')} ${n('y1')}L${n('x2')} ${n('y2')}`;
    case 'polygon':
    case 'polyline': {
      const points = (a.points ?? '').trim();
      return points === '' ? '' : `M${points}${node.tag === 'polygon' ? 'Z' : ''}`;
    }
    default:
      return undefined;
  }
}

interface Bezier {
  readonly i: number[][];
  readonly o: number[][];
  readonly v: number[][];
  c: boolean;
}

/** Path data as the format's Bézier paths, tangents told from their points. */
function beziers(d: string, m: Matrix): Bezier[] {
  const out: Bezier[] = [];
  let now: Bezier | undefined;
  const point = (x: number, y: number): number[] => applied(m, x, y).map(fixed);
  const begin = (x: number, y: number): void => {
    now = { i: [[0, 0]], o: [[0, 0]], v: [point(x, y)], c: false };
    out.push(now);
  };
  const curve = (c1: number[], c2: number[], to: number[]): void => {
    if (!now) return;
    const from = now.v.at(-1)!;
    const [p1, p2, p3] = [point(c1[0]!, c1[1]!), point(c2[0]!, c2[1]!), point(to[0]!, to[1]!)];
    now.o[now.o.length - 1] = [fixed(p1[0]! - from[0]!), fixed(p1[1]! - from[1]!)];
    now.v.push(p3);
    now.i.push([fixed(p2[0]! - p3[0]!), fixed(p2[1]! - p3[1]!)]);
    now.o.push([0, 0]);
  };
  svgpath(d)
    .abs()
    .unarc()
    .unshort()
    .iterate((segment, _i, x, y) => {
      const [command, ...v] = segment as [string, ...number[]];
      if (v.some((n) => !Number.isFinite(n))) return;
      const at = [x, y];
      if (!now && command !== 'M') begin(x, y);
      switch (command) {
        case 'M':
          begin(v[0]!, v[1]!);
          break;
        case 'L':
          curve(at, v, v);
          break;
        case 'H':
          curve(at, [v[0]!, y], [v[0]!, y]);
          break;
        case 'V':
          curve(at, [x, v[0]!], [x, v[0]!]);
          break;
        case 'C':
          curve(v.slice(0, 2), v.slice(2, 4), v.slice(4, 6));
          break;
        case 'Q': {
          const [qx, qy, ex, ey] = v as [number, number, number, number];
          curve(
            [x + (2 / 3) * (qx - x), y + (2 / 3) * (qy - y)],
            [ex + (2 / 3) * (qx - ex), ey + (2 / 3) * (qy - ey)],
            [ex, ey],
          );
          break;
        }
        case 'Z':
        case 'z':
          if (now) now.c = true;
          // what goes on without a move begins where the ring did
          now = undefined;
          break;
      }
    });
  return out.filter((b) => b.v.length > 1);
}

function boundsOf(paths: readonly Bezier[]): Bounds {
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  const take = (x: number, y: number): void => {
    x0 = Math.min(x0, x);
    x1 = Math.max(x1, x);
    y0 = Math.min(y0, y);
    y1 = Math.max(y1, y);
  };
  for (const { v, o, i, c } of paths)
    v.forEach((from, k) => {
      const next = v[k + 1] ?? (c ? v[0]! : undefined);
      if (!next) return;
      const into = i[k + 1] ?? i[0]!;
      const p = [from, [from[0]! + o[k]![0]!, from[1]! + o[k]![1]!], [next[0]! + into[0]!, next[1]! + into[1]!], next];
      for (let s = 0; s <= 12; s++) {
        const t = s / 12;
        const r = 1 - t;
        const w = [r * r * r, 3 * r * r * t, 3 * r * t * t, t * t * t];
        take(
          w.reduce((sum, wi, j) => sum + wi * p[j]![0]!, 0),
          w.reduce((sum, wi, j) => sum + wi * p[j]![1]!, 0),
        );
      }
    });
  return { x: x0, y: y0, w: Math.max(1e-9, x1 - x0), h: Math.max(1e-9, y1 - y0) };
}

const NAMED: Readonly<Record<string, string>> = {
  black: '#000000', white: '#ffffff', red: '#ff0000', green: '#008000', blue: '#0000ff', yellow: '#ffff00', gray: '#808080',
  grey: '#808080', orange: '#ffa500', brown: '#a52a2a', purple: '#800080', pink: '#ffc0cb', gold: '#ffd700', silver: '#c0c0c0',
  navy: '#000080', teal: '#008080', maroon: '#800000', olive: '#808000', lime: '#00ff00', aqua: '#00ffff', cyan: '#00ffff',
  magenta: '#ff00ff', fuchsia: '#ff00ff', beige: '#f5f5dc', tan: '#d2b48c', khaki: '#f0e68c', ivory: '#fffff0', coral: '#ff7f50',
  salmon: '#fa8072', tomato: '#ff6347', crimson: '#dc143c', indigo: '#4b0082', violet: '#ee82ee', lightgray: '#d3d3d3',
  lightgrey: '#d3d3d3', darkgray: '#a9a9a9', darkgrey: '#a9a9a9', dimgray: '#696969', skyblue: '#87ceeb', steelblue: '#4682b4',
  saddlebrown: '#8b4513', sienna: '#a0522d', chocolate: '#d2691e', peru: '#cd853f', wheat: '#f5deb3', linen: '#faf0e6',
}; // biome-ignore format: a table

/** Red, green, blue and opacity, 0 to 1. */
function colorOf(text: string): [number, number, number, number] | undefined {
  const value = (NAMED[text.toLowerCase()] ?? text).trim();
  const hex = /^#([\da-f]{3,8})$/i.exec(value)?.[1];
  if (hex) {
    const wide = hex.length <= 4 ? [...hex].map((h) => h + h).join('') : hex;
    if (wide.length !== 6 && wide.length !== 8) return undefined;
    const part = (i: number): number => Number.parseInt(wide.slice(2 * i, 2 * i + 2), 16) / 255;
    return [part(0), part(1), part(2), wide.length === 8 ? part(3) : 1];
  }
  const rgb = /^rgba?\(([^)]*)\)$/i.exec(value)?.[1];
  if (rgb) {
    const v = rgb.split(/[\s,/]+/).filter(Boolean);
    if (v.length < 3) return undefined;
    const part = (s: string): number => (s.endsWith('%') ? Number.parseFloat(s) / 100 : Number.parseFloat(s) / 255);
    const alpha = v[3] === undefined ? 1 : v[3].endsWith('%') ? Number.parseFloat(v[3]) / 100 : Number.parseFloat(v[3]);
    const all = [part(v[0]!), part(v[1]!), part(v[2]!), alpha] as [number, number, number, number];
    return all.every(Number.isFinite) ? all : undefined;
  }
  return undefined;
}
