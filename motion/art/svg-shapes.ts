import svgpath from 'svgpath';
import { applied, type Matrix, multiply, parseTransform, scaleOf } from './matrix';
import { referredId, type SvgNode } from './svg-read';

/** An outline that is filled or stroked: closed rings of points x y, in the picture's units. */
export interface Shape {
  readonly rings: readonly Float64Array[];
  /** How far paint reaches beyond the rings, in the picture's units: half the stroke. */
  readonly reach: number;
  /** Rings outside which nothing shows; several stand within one another. */
  readonly clips: readonly (readonly Float64Array[])[];
  /** A painted picture instead of outlines: 1 where it is painted, row after row. */
  readonly pixels?:
    | {
        readonly alpha: Uint8Array;
        readonly columns: number;
        readonly rows: number;
        readonly box: readonly [x: number, y: number, width: number, height: number];
      }
    | undefined;
}

/** What a file's style sheet says about visibility and paint, read for the few properties that matter here. */
export class Styles {
  private readonly rules: { readonly selector: string; readonly declarations: Map<string, string> }[] = [];

  constructor(sheets: readonly string[]) {
    for (const sheet of sheets)
      for (const [, selectors, body] of sheet.matchAll(/([^{}]+)\{([^{}]*)\}/g)) {
        const declarations = declarationsOf(body!);
        for (const selector of selectors!.split(',')) this.rules.push({ selector: selector.trim(), declarations });
      }
  }

  /** A property of an element: its style attribute, the style sheet, or the attribute of that name; not inherited. */
  of(node: SvgNode, property: string): string | undefined {
    const own = declarationsOf(node.attributes.style ?? '').get(property);
    if (own !== undefined) return own;
    const classes = (node.attributes.class ?? '').split(/\s+/);
    let told: string | undefined;
    for (const { selector, declarations } of this.rules) {
      const matches =
        selector === node.tag ||
        (selector.startsWith('.') && classes.includes(selector.slice(1))) ||
        (selector.startsWith('#') && selector.slice(1) === node.attributes.id);
      if (matches) told = declarations.get(property) ?? told;
    }
    return told ?? node.attributes[property];
  }

  /** Whether an element is drawn at all, by what stands on itself. */
  hides(node: SvgNode): boolean {
    if (this.of(node, 'display') === 'none') return true;
    const visibility = this.of(node, 'visibility');
    if (visibility === 'hidden' || visibility === 'collapse') return true;
    const opacity = this.of(node, 'opacity');
    return opacity !== undefined && Number.parseFloat(opacity) === 0;
  }
}

const declarationsOf = (css: string): Map<string, string> =>
  new Map(
    css.split(';').flatMap((d) => {
      const colon = d.indexOf(':');
      return colon < 0
        ? []
        : [
            [
              d.slice(0, colon).trim(),
              d
                .slice(colon + 1)
                .replace('!important', '')
                .trim(),
            ] as const,
          ];
    }),
  );

/** What walking a drawing needs to know of the whole file. */
export interface ShapeContext {
  readonly ids: ReadonlyMap<string, SvgNode>;
  readonly styles: Styles;
}

const MAX_POINTS = 400_000;
const NOT_DRAWN = new Set([
  'defs',
  'symbol',
  'clipPath',
  'mask',
  'pattern',
  'filter',
  'marker',
  'style',
  'title',
  'desc',
]);

/**
 * Outlines of everything an element draws, in the picture's coordinates. Curves become lines of about a hundredth of their
 * length; hidden elements are left out unless asked for.
 * @param outer takes the element's parent to the picture @param hiddenToo draws the element itself though it is hidden
 */
export function shapesOf(context: ShapeContext, node: SvgNode, outer: Matrix, hiddenToo = false): Shape[] {
  const out: Shape[] = [];
  let points = 0;
  const walk = (
    el: SvgNode,
    m: Matrix,
    inherited: { fill: string; stroke: string; width: number },
    clips: Shape['clips'],
    top: boolean,
  ): void => {
    if (NOT_DRAWN.has(el.tag) && !(top && el.tag === 'symbol')) return;
    if (context.styles.hides(el) && !(top && hiddenToo)) return;
    const own = multiply(m, parseTransform(el.attributes.transform));
    const paint = {
      fill: context.styles.of(el, 'fill') ?? inherited.fill,
      stroke: context.styles.of(el, 'stroke') ?? inherited.stroke,
      width: number(context.styles.of(el, 'stroke-width'), inherited.width),
    };
    const clipId = /^url\(\s*["']?#([^"')]+)/.exec(context.styles.of(el, 'clip-path') ?? '')?.[1];
    const clip = clipId === undefined ? undefined : context.ids.get(clipId);
    const inside = clip?.tag === 'clipPath' ? [...clips, clip.children.flatMap((c) => ringsOf(c, own))] : clips;
    if (el.tag === 'use') {
      const id = referredId(el);
      const target = id === undefined ? undefined : context.ids.get(id);
      if (target && points < MAX_POINTS)
        walk(
          target,
          multiply(own, [1, 0, 0, 1, number(el.attributes.x, 0), number(el.attributes.y, 0)]),
          paint,
          inside,
          target.tag === 'symbol',
        );
      return;
    }
    if (points < MAX_POINTS) {
      const rings = ringsOf(el, own);
      if (rings.length > 0 && (paint.fill !== 'none' || paint.stroke !== 'none' || el.tag === 'image')) {
        for (const ring of rings) points += ring.length / 2;
        const stroked = paint.stroke !== 'none' ? (paint.width / 2) * scaleOf(own) : 0;
        out.push({ rings, reach: stroked, clips: inside });
      }
    }
    for (const child of el.children) walk(child, own, paint, inside, false);
  };
  walk(node, outer, { fill: 'black', stroke: 'none', width: 1 }, [], true);
  return out;
}

/** A length; units other than the picture's own are turned into it at 96 to the inch. */
export function number(text: string | undefined, otherwise: number): number {
  if (text === undefined) return otherwise;
  const value = Number.parseFloat(text);
  if (!Number.isFinite(value)) return otherwise;
  const unit = /[a-z%]+$/i.exec(text.trim())?.[0]?.toLowerCase();
  const factor = { mm: 96 / 25.4, cm: 96 / 2.54, in: 96, pt: 4 / 3, pc: 16 }[unit ?? ''];
  return value * (factor ?? 1);
}

/** Rings of one element without its children. */
function ringsOf(el: SvgNode, m: Matrix): Float64Array[] {
  const a = el.attributes;
  const box = (x: number, y: number, w: number, h: number): Float64Array[] =>
    w > 0 && h > 0 ? [ringFrom([x, y, x + w, y, x + w, y + h, x, y + h], m)] : [];
  switch (el.tag) {
    case 'rect':
    case 'image':
      return box(number(a.x, 0), number(a.y, 0), number(a.width, 0), number(a.height, 0));
    case 'circle':
      return round(number(a.cx, 0), number(a.cy, 0), number(a.r, 0), number(a.r, 0), m);
    case 'ellipse':
      return round(number(a.cx, 0), number(a.cy, 0), number(a.rx, 0), number(a.ry, 0), m);
    case 'line':
      return [ringFrom([number(a.x1, 0), number(a.y1, 0), number(a.x2, 0), number(a.y2, 0)], m)];
    case 'polygon':
    case 'polyline': {
      const values = (a.points?.match(/[-+]?(?:\d+\.?\d*|\.\d+)(?:e[-+]?\d+)?/gi) ?? []).map(Number);
      return values.length >= 4 ? [ringFrom(values.slice(0, values.length & ~1), m)] : [];
    }
    case 'path':
      return pathRings(a.d ?? '', m);
    case 'text': {
      // letters are not measured here: about as wide as they are high and a half
      const size = number(a['font-size'], 16);
      const letters = (el.text + el.children.map((c) => c.text).join('')).trim().length;
      return box(number(a.x, 0), number(a.y, 0) - 0.8 * size, 0.55 * size * letters, size);
    }
    default:
      return [];
  }
}

function ringFrom(values: readonly number[], m: Matrix): Float64Array {
  const ring = new Float64Array(values.length);
  for (let i = 0; i + 1 < values.length; i += 2) ring.set(applied(m, values[i]!, values[i + 1]!), i);
  return ring;
}

function round(cx: number, cy: number, rx: number, ry: number, m: Matrix): Float64Array[] {
  if (!(rx > 0) || !(ry > 0)) return [];
  const values: number[] = [];
  for (let i = 0; i < 32; i++) {
    const t = (i * Math.PI) / 16;
    values.push(cx + rx * Math.cos(t), cy + ry * Math.sin(t));
  }
  return [ringFrom(values, m)];
}

const CURVE_STEPS = 10;

function pathRings(d: string, m: Matrix): Float64Array[] {
  const rings: Float64Array[] = [];
  let ring: number[] = [];
  const end = (): void => {
    if (ring.length >= 4) rings.push(ringFrom(ring, m));
    ring = [];
  };
  const path = svgpath(d);
  if ((path as unknown as { err?: string }).err && d.length > 2_000_000) return [];
  let [sx, sy] = [0, 0];
  path
    .abs()
    .unarc()
    .unshort()
    .iterate((segment, _i, x, y) => {
      const [command, ...v] = segment as [string, ...number[]];
      if (v.some((n) => !Number.isFinite(n))) return;
      switch (command) {
        case 'M':
          end();
          [sx, sy] = [v[0]!, v[1]!];
          ring.push(sx, sy);
          break;
        case 'L':
          ring.push(v[0]!, v[1]!);
          break;
        case 'H':
          ring.push(v[0]!, y);
          break;
        case 'V':
          ring.push(x, v[0]!);
          break;
        case 'C':
          for (let i = 1; i <= CURVE_STEPS; i++) {
            const t = i / CURVE_STEPS;
            const r = 1 - t;
            const [p, q, s, u] = [r * r * r, 3 * r * r * t, 3 * r * t * t, t * t * t];
            ring.push(p * x + q * v[0]! + s * v[2]! + u * v[4]!, p * y + q * v[1]! + s * v[3]! + u * v[5]!);
          }
          break;
        case 'Q':
          for (let i = 1; i <= CURVE_STEPS; i++) {
            const t = i / CURVE_STEPS;
            const r = 1 - t;
            ring.push(r * r * x + 2 * r * t * v[0]! + t * t * v[2]!, r * r * y + 2 * r * t * v[1]! + t * t * v[3]!);
          }
          break;
        case 'Z':
        case 'z':
          ring.push(sx, sy);
          break;
      }
    });
  end();
  return rings;
}
