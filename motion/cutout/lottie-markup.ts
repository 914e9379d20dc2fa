import svgpath from 'svgpath';
import type { Matrix } from '../art/matrix';
import { svgText } from '../art/svg-clean';
import { readSvg } from '../art/svg-read';
import { MotionError } from '../errors';
import type { LeftOut, LottieAsset, LottieLayer } from './lottie-layers';
import { LottieTransform, LottieValue } from './lottie-values';

/** Points of outlines and entries of groups that are read at most, and how deep groups may lie in one another. */
const MAX_POINTS = 400_000;
const MAX_DEPTH = 32;
const MAX_PICTURE = 8 * 2 ** 20;

interface Item {
  readonly ty?: unknown;
  readonly it?: unknown;
  readonly hd?: unknown;
  readonly [key: string]: unknown;
}

/** What of a group's outlines is painted how; see LottieDrawer. */
type Paint = 'fl' | 'st' | 'gf' | 'gs';
const OUTLINES = new Set(['sh', 'el', 'rc', 'sr']);
const MODIFIERS: Readonly<Record<string, string>> = {
  tm: 'outlines drawn in part',
  rp: 'repeated shapes',
  rd: 'rounded corners',
  pb: 'puckered shapes',
  op: 'offset outlines',
  zz: 'zigzag outlines',
  tw: 'twisted shapes',
};

/**
 * Layers of a Lottie file as SVG markup, as they stand at one time. What changes by itself within a layer (an outline, a
 * colour) is taken as it is then.
 */
export class LottieDrawer {
  private readonly defs = new Map<string, string>();
  private points = 0;
  private inlinedCount = 0;

  constructor(
    private readonly assets: ReadonlyMap<string, LottieAsset>,
    private readonly leftOut: LeftOut,
  ) {}

  /** Gradients and clips that the markup refers to. */
  get allDefs(): string {
    return [...this.defs.values()].join('');
  }

  /** Those that this markup refers to. */
  defsIn(svg: string): string {
    return [...svg.matchAll(/url\(#([gkm]\d+)\)/g)].map(([, id]) => this.defs.get(id!) ?? '').join('');
  }

  /** Markup in the layer's own coordinates; empty where it draws nothing. @param time of the layer's composition */
  draw(layer: LottieLayer, time: number): string {
    const inner = this.content(layer, time);
    if (inner === '') return '';
    const masked = this.masked(inner, layer, time);
    return layer.opacity < 0.999 ? `<g opacity="${fixed(layer.opacity)}">${masked}</g>` : masked;
  }

  private content({ kind, raw, name }: LottieLayer, time: number): string {
    if (kind === 'solid') {
      const [w, h] = [size(raw.sw), size(raw.sh)];
      const colour = /^#[\da-f]{6}$/i.exec(String(raw.sc))?.[0];
      return w > 0 && h > 0 && colour ? `<rect width="${w}" height="${h}" fill="${colour}"/>` : '';
    }
    if (kind === 'picture') return this.picture(String(raw.refId), name);
    const items = Array.isArray(raw.shapes) ? (raw.shapes as Item[]) : [];
    return this.group(items, time, name, 0);
  }

  /** A picture that lies in the file itself; pictures beside it cannot be fetched. */
  private picture(id: string, layer: string): string {
    const asset = this.assets.get(id);
    const [w, h] = [size(asset?.w), size(asset?.h)];
    const p = typeof asset?.p === 'string' ? asset.p : '';
    if (!(w > 0 && h > 0)) return '';
    if (p.length > MAX_PICTURE) throw new MotionError('too-large', `The picture of “${layer}” is larger than 8 MiB.`);
    if (/^data:image\/(png|jpeg|webp|gif);base64,[\w+/=\s]+$/.test(p))
      return `<image width="${w}" height="${h}" preserveAspectRatio="none" href="${p.replace(/\s+/g, '')}"/>`;
    const svg = svgIn(p);
    if (svg !== undefined) return this.inlined(svg, w, h);
    this.leftOut.add('pictures that lie beside the file, or that cannot be read', layer);
    return '';
  }

  /** A drawing within the drawing, its own names made unlike all others. */
  private inlined(svg: string, w: number, h: number): string {
    const { root } = readSvg(new TextEncoder().encode(svg));
    const mark = `s${this.inlinedCount++}-`;
    const markup = root.children
      .map(svgText)
      .join('')
      .replace(/\bid="([^"]*)"/g, (_, id) => `id="${mark}${id}"`)
      .replace(/url\((["']?)#/g, (_, quote) => `url(${quote}#${mark}`)
      .replace(/\b(xlink:href|href)="#/g, (_, key) => `${key}="#${mark}`);
    const [x = 0, y = 0, vw = w, vh = h] = (root.attributes.viewBox ?? '')
      .trim()
      .split(/[\s,]+/)
      .map(Number)
      .filter(Number.isFinite);
    const m: Matrix = [w / vw, 0, 0, h / vh, (-x * w) / vw, (-y * h) / vh];
    return `<g transform="matrix(${m.map(fixed).join(' ')})">${markup}</g>`;
  }

  /**
   * A layer within its masks. Those that add are one clip, each that intersects is one about it, and what is taken away is painted
   * black in a mask. Where outlines are told apart by difference, what an even number of them covers is empty.
   */
  private masked(inner: string, { raw, name }: LottieLayer, time: number): string {
    const masks = Array.isArray(raw.masksProperties) ? (raw.masksProperties as Record<string, unknown>[]) : [];
    const adds: string[] = [];
    const odds: string[] = [];
    const cuts: string[] = [];
    let out = inner;
    for (const mask of masks) {
      if (!mask || mask.mode === 'n') continue;
      const d = this.bezier(mask.pt, time, true);
      if (d === '') continue;
      if (moves(mask.pt)) this.leftOut.add('masks that change their outline', name);
      const inverted = mask.inv === true;
      if (mask.mode === 'a' && !inverted) adds.push(d);
      else if (mask.mode === 'f' && !inverted) odds.push(d);
      else if (mask.mode === 's' ? !inverted : inverted && mask.mode === 'a') cuts.push(d);
      else if ((mask.mode === 'i' && !inverted) || (mask.mode === 's' && inverted)) out = this.clipped(out, [d]);
      else this.leftOut.add('masks that lighten, darken or are turned inside out', name);
    }
    if (cuts.length > 0) {
      const id = `k${this.defs.size}`;
      const far = 'x="-100000" y="-100000" width="200000" height="200000"';
      this.defs.set(
        id,
        `<mask id="${id}" maskUnits="userSpaceOnUse" ${far}><rect ${far} fill="#ffffff"/>${cuts.map((d) => `<path d="${d}" fill="#000000"/>`).join('')}</mask>`,
      );
      out = `<g mask="url(#${id})">${out}</g>`;
    }
    if (adds.length > 0 || odds.length > 0) out = this.clipped(out, adds, odds.join(''));
    return out;
  }

  private clipped(inner: string, paths: readonly string[], odd = ''): string {
    const id = `m${this.defs.size}`;
    const all = paths.map((d) => `<path d="${d}"/>`).join('');
    const crossed = odd === '' ? '' : `<path d="${odd}" clip-rule="evenodd"/>`;
    this.defs.set(id, `<clipPath id="${id}">${all}${crossed}</clipPath>`);
    return `<g clip-path="url(#${id})">${inner}</g>`;
  }

  /** What a list of items paints, the hindmost first: the list begins with what lies on top. */
  private group(items: readonly Item[], time: number, layer: string, depth: number): string {
    if (depth > MAX_DEPTH) throw new MotionError('too-large', `The groups of “${layer}” lie too deep in one another.`);
    const out: string[] = [];
    for (let k = items.length - 1; k >= 0; k--) {
      const item = items[k];
      this.spend(1);
      if (!item || typeof item !== 'object' || item.hd === true) continue;
      const kind = String(item.ty);
      if (MODIFIERS[kind]) this.leftOut.add(MODIFIERS[kind], layer);
      if (kind === 'gr' && Array.isArray(item.it)) {
        const inner = this.group(item.it as Item[], time, layer, depth + 1);
        if (inner === '') continue;
        const { matrix, opacity } = this.placed(item, time, layer);
        if (opacity <= 0.001) continue;
        const move = isPlain(matrix) ? '' : ` transform="matrix(${matrix.map(fixed).join(' ')})"`;
        const fade = opacity < 0.999 ? ` opacity="${fixed(opacity)}"` : '';
        out.push(move || fade ? `<g${move}${fade}>${inner}</g>` : inner);
      } else if (kind === 'fl' || kind === 'st' || kind === 'gf' || kind === 'gs') {
        const d = this.outlines(items.slice(0, k), time, layer, depth);
        if (d !== '') out.push(`<path d="${d}"${this.paint(kind, item, time)}/>`);
      }
      for (const key of ['ks', 'c', 'p', 's', 'w', 'r'])
        if (kind !== 'tr' && moves(item[key])) this.leftOut.add('shapes and colours that change by themselves', layer);
    }
    return out.join('');
  }

  /** What a group's own transform does. */
  private placed(group: Item, time: number, layer: string): { matrix: Matrix; opacity: number } {
    const item = (group.it as Item[]).find((i) => i?.ty === 'tr');
    const transform = new LottieTransform(item);
    if (transform.values.some((v) => v.moves) || transform.opacity.moves)
      this.leftOut.add('groups that move within a layer', layer);
    return { matrix: transform.at(time), opacity: (transform.opacity.at(time)[0] ?? 100) / 100 };
  }

  /** All outlines among items, those of groups within included, as path data. */
  private outlines(items: readonly Item[], time: number, layer: string, depth: number): string {
    if (depth > MAX_DEPTH) return '';
    const out: string[] = [];
    for (const item of items) {
      this.spend(1);
      if (!item || typeof item !== 'object' || item.hd === true) continue;
      const kind = String(item.ty);
      if (OUTLINES.has(kind)) out.push(this.outline(kind, item, time));
      else if (kind === 'gr' && Array.isArray(item.it)) {
        const inner = this.outlines(item.it as Item[], time, layer, depth + 1);
        if (inner === '') continue;
        const { matrix } = this.placed(item, time, layer);
        out.push(
          isPlain(matrix)
            ? inner
            : svgpath(inner)
                .matrix([...matrix])
                .round(3)
                .toString(),
        );
      }
    }
    return out.filter(Boolean).join('');
  }

  private outline(kind: string, item: Item, time: number): string {
    if (kind === 'sh') return this.bezier(item.ks, time, item.closed === true);
    const at = (v: unknown, otherwise: readonly number[]): readonly number[] => LottieValue.read(v, otherwise).at(time);
    const [x = 0, y = 0] = at(item.p, [0, 0]);
    this.spend(8);
    if (kind === 'el') {
      const [w = 0, h = 0] = at(item.s, [0, 0]);
      const [rx, ry] = [fixed(w / 2), fixed(h / 2)];
      if (!(rx > 0 && ry > 0)) return '';
      return `M${fixed(x - rx)} ${fixed(y)}a${rx} ${ry} 0 1 0 ${2 * rx} 0a${rx} ${ry} 0 1 0 ${-2 * rx} 0Z`;
    }
    if (kind === 'rc') {
      const [w = 0, h = 0] = at(item.s, [0, 0]);
      const r = fixed(Math.max(0, Math.min(w / 2, h / 2, at(item.r, [0])[0] ?? 0)));
      const [left, top] = [fixed(x - w / 2), fixed(y - h / 2)];
      if (r === 0) return `M${left} ${top}h${fixed(w)}v${fixed(h)}h${fixed(-w)}Z`;
      const [iw, ih] = [fixed(w - 2 * r), fixed(h - 2 * r)];
      return `M${fixed(left + r)} ${top}h${iw}a${r} ${r} 0 0 1 ${r} ${r}v${ih}a${r} ${r} 0 0 1 ${-r} ${r}h${-iw}a${r} ${r} 0 0 1 ${-r} ${-r}v${-ih}a${r} ${r} 0 0 1 ${r} ${-r}Z`;
    }
    const count = Math.min(200, Math.max(2, Math.round(at(item.pt, [5])[0] ?? 5)));
    const [outer = 0, turn = 0] = [at(item.or, [0])[0], at(item.r, [0])[0]];
    const star = item.sy !== 2;
    const inner = star ? (at(item.ir, [0])[0] ?? 0) : outer;
    const corners = star ? 2 * count : count;
    this.spend(corners);
    return `M${Array.from({ length: corners }, (_, i) => {
      const r = star && i % 2 === 1 ? inner : outer;
      const a = ((turn - 90 + (360 * i) / corners) * Math.PI) / 180;
      return `${fixed(x + r * Math.cos(a))} ${fixed(y + r * Math.sin(a))}`;
    }).join('L')}Z`;
  }

  private spend(points: number): void {
    this.points += points;
    if (this.points > MAX_POINTS)
      throw new MotionError('too-large', 'The animation’s shapes are more than can be read.');
  }

  /** An outline of the format as path data: at its first keyframe after the time where it changes. */
  private bezier(json: unknown, time: number, closed: boolean): string {
    const shape = shapeAt(json, time);
    const points = (v: unknown): number[][] | undefined =>
      Array.isArray(v) &&
      v.every((p) => Array.isArray(p) && p.length >= 2 && Number.isFinite(p[0]) && Number.isFinite(p[1]))
        ? (v as number[][])
        : undefined;
    const [v, i, o] = [points(shape?.v), points(shape?.i), points(shape?.o)];
    if (!shape || !v || v.length < 1 || i?.length !== v.length || o?.length !== v.length) return '';
    this.spend(v.length);
    const round = shape.c === true || closed;
    let d = `M${fixed(v[0]![0]!)} ${fixed(v[0]![1]!)}`;
    const count = round ? v.length : v.length - 1;
    for (let k = 0; k < count; k++) {
      const [from, to] = [v[k]!, v[(k + 1) % v.length]!];
      const [out, into] = [o[k]!, i[(k + 1) % v.length]!];
      const straight = out[0] === 0 && out[1] === 0 && into[0] === 0 && into[1] === 0;
      d += straight
        ? `L${fixed(to[0]!)} ${fixed(to[1]!)}`
        : `C${[from[0]! + out[0]!, from[1]! + out[1]!, to[0]! + into[0]!, to[1]! + into[1]!, to[0]!, to[1]!].map(fixed).join(' ')}`;
    }
    return round ? `${d}Z` : d;
  }

  private paint(kind: Paint, item: Item, time: number): string {
    const at = (v: unknown, otherwise: readonly number[]): readonly number[] => LottieValue.read(v, otherwise).at(time);
    const opacity = Math.min(1, Math.max(0, (at(item.o, [100])[0] ?? 100) / 100));
    const see = (name: string): string => (opacity < 0.999 ? ` ${name}-opacity="${fixed(opacity)}"` : '');
    const filled = kind === 'fl' || kind === 'gf';
    const colour = kind === 'fl' || kind === 'st' ? colourOf(at(item.c, [0, 0, 0])) : this.gradient(item, time);
    if (filled) return ` fill="${colour}"${see('fill')}${item.r === 2 ? ' fill-rule="evenodd"' : ''}`;
    const caps = ['butt', 'butt', 'round', 'square'][Number(item.lc)] ?? 'round';
    const joins = ['miter', 'miter', 'round', 'bevel'][Number(item.lj)] ?? 'round';
    const dashes = (Array.isArray(item.d) ? (item.d as { n?: unknown; v?: unknown }[]) : [])
      .filter((d) => d?.n === 'd' || d?.n === 'g')
      .map((d) => fixed(Math.max(0, at(d.v, [0])[0] ?? 0)));
    const dashed = dashes.some((d) => d > 0) ? ` stroke-dasharray="${dashes.join(' ')}"` : '';
    return ` fill="none" stroke="${colour}" stroke-width="${fixed(Math.max(0, at(item.w, [1])[0] ?? 1))}" stroke-linecap="${caps}" stroke-linejoin="${joins}"${dashed}${see('stroke')}`;
  }

  private gradient({ g, s, e, t }: Item, time: number): string {
    const { p, k } = (g ?? {}) as { p?: unknown; k?: unknown };
    const values = LottieValue.read(k, [0, 0, 0, 0]).at(time);
    const count = Math.min(64, Math.max(1, Number.isInteger(p) ? (p as number) : Math.floor(values.length / 4)));
    const alphas = values.slice(4 * count);
    const stops = Array.from({ length: count }, (_, i) => {
      const offset = values[4 * i] ?? 0;
      const alpha = alphas.length >= 2 ? fixed(alphaAt(alphas, offset)) : 1;
      const see = alpha < 0.999 ? ` stop-opacity="${alpha}"` : '';
      return `<stop offset="${fixed(offset)}" stop-color="${colourOf(values.slice(4 * i + 1, 4 * i + 4))}"${see}/>`;
    }).join('');
    const [x1 = 0, y1 = 0] = LottieValue.read(s, [0, 0]).at(time).map(fixed);
    const [x2 = 0, y2 = 0] = LottieValue.read(e, [0, 0]).at(time).map(fixed);
    const id = `g${this.defs.size}`;
    this.defs.set(
      id,
      t === 2
        ? `<radialGradient id="${id}" gradientUnits="userSpaceOnUse" cx="${x1}" cy="${y1}" r="${fixed(Math.hypot(x2 - x1, y2 - y1))}">${stops}</radialGradient>`
        : `<linearGradient id="${id}" gradientUnits="userSpaceOnUse" x1="${x1}" y1="${y1}" x2="${x2}" y2="${y2}">${stops}</linearGradient>`,
    );
    return `url(#${id})`;
  }
}

const fixed = (x: number): number => Math.round(x * 1000) / 1000 || 0;

const size = (v: unknown): number => (typeof v === 'number' && v > 0 && v <= 1e6 ? fixed(v) : 0);

const isPlain = (m: Matrix): boolean => m.every((x, i) => Math.abs(x - (i === 0 || i === 3 ? 1 : 0)) < 1e-9);

const moves = (json: unknown): boolean => {
  const k = (json as { k?: unknown } | null | undefined)?.k;
  return Array.isArray(k) && typeof k[0] === 'object' && k[0] !== null && 't' in k[0] && k.length > 1;
};

interface RawShape {
  readonly v?: unknown;
  readonly i?: unknown;
  readonly o?: unknown;
  readonly c?: unknown;
}

/** An outline as it stands at a time; what changes is not mixed: the last keyframe's holds. */
function shapeAt(json: unknown, time: number): RawShape | undefined {
  const k = (json as { k?: unknown } | null | undefined)?.k;
  if (!Array.isArray(k)) return (k ?? undefined) as RawShape | undefined;
  const keys = k as { t?: unknown; s?: unknown; e?: unknown }[];
  const reached = keys.filter((key) => typeof key?.t === 'number' && key.t <= time && key.s !== undefined);
  const s = (reached.at(-1) ?? keys.find((key) => key?.s !== undefined))?.s;
  return (Array.isArray(s) ? s[0] : s) as RawShape | undefined;
}

/** Numbers from 0 to 1 as a colour; older files count to 255. */
function colourOf(rgb: readonly number[]): string {
  const whole = rgb.slice(0, 3).some((x) => x > 1.001);
  const part = (x = 0): string =>
    Math.min(255, Math.max(0, Math.round(whole ? x : 255 * x)))
      .toString(16)
      .padStart(2, '0');
  return `#${part(rgb[0])}${part(rgb[1])}${part(rgb[2])}`;
}

/** Opacity along a gradient: pairs of where and how much. */
function alphaAt(pairs: readonly number[], offset: number): number {
  for (let i = 0; i + 1 < pairs.length; i += 2) {
    if (pairs[i]! < offset) continue;
    if (i === 0 || pairs[i]! === offset) return pairs[i + 1]!;
    const t = (offset - pairs[i - 2]!) / (pairs[i]! - pairs[i - 2]!);
    return pairs[i - 1]! + t * (pairs[i + 1]! - pairs[i - 1]!);
  }
  return pairs[2 * Math.floor(pairs.length / 2) - 1] ?? 1;
}

/** The drawing in an address that holds one. */
function svgIn(address: string): string | undefined {
  const text = /^data:image\/svg\+xml(?:;charset=[\w-]+|;utf8)?,([\s\S]*)$/i.exec(address)?.[1];
  if (text === undefined) return undefined;
  try {
    return decodeURIComponent(text);
  } catch {
    return undefined;
  }
}
