/** Small helpers that write SVG by hand, in the look of the demo world's paper figures. */

export type P = readonly [x: number, y: number];

export const INK = '#2b1a26';

const n = (x: number): string => String(Math.round(x * 100) / 100);

/** A named layer. */
export const layer = (name: string, inside: string, hidden = false): string =>
  `<g inkscape:label="${name}"${hidden ? ' style="display:none"' : ''}>${inside}</g>`;

export const path = (d: string, fill: string, stroke = INK, width = 4): string =>
  `<path d="${d}" fill="${fill}" stroke="${stroke}" stroke-width="${width}" stroke-linejoin="round" stroke-linecap="round"/>`;

export const oval = (c: P, rx: number, ry: number, fill: string, width = 4): string =>
  `<ellipse cx="${n(c[0])}" cy="${n(c[1])}" rx="${n(rx)}" ry="${n(ry)}" fill="${fill}"${width > 0 ? ` stroke="${INK}" stroke-width="${width}"` : ''}/>`;

export const line = (points: readonly P[], width = 4, colour = INK): string =>
  `<path d="M${points.map(([x, y]) => `${n(x)} ${n(y)}`).join('L')}" fill="none" stroke="${colour}" stroke-width="${width}" stroke-linecap="round" stroke-linejoin="round"/>`;

/** A limb from a to b, round at both ends, with a radius at each. */
export function limb(a: P, b: P, ra: number, rb: number, fill: string, shade?: string): string {
  const length = Math.hypot(b[0] - a[0], b[1] - a[1]);
  const [ux, uy] = [(b[0] - a[0]) / length, (b[1] - a[1]) / length];
  // tangent points of the two circles
  const s = (ra - rb) / length;
  const c = Math.sqrt(1 - s * s);
  const at = (p: P, r: number, side: number): P => [
    p[0] + r * (ux * s - side * uy * c),
    p[1] + r * (uy * s + side * ux * c),
  ];
  const [p1, p2, p3, p4] = [at(a, ra, 1), at(b, rb, 1), at(b, rb, -1), at(a, ra, -1)];
  const d = `M${n(p1[0])} ${n(p1[1])}L${n(p2[0])} ${n(p2[1])}A${n(rb)} ${n(rb)} 0 0 0 ${n(p3[0])} ${n(p3[1])}L${n(p4[0])} ${n(p4[1])}A${n(ra)} ${n(ra)} 0 1 0 ${n(p1[0])} ${n(p1[1])}Z`;
  const body = path(d, fill);
  if (!shade) return body;
  // a stripe of shade along the far side
  const q1: P = [a[0] + 0.45 * ra * -uy, a[1] + 0.45 * ra * ux];
  const q2: P = [b[0] + 0.45 * rb * -uy, b[1] + 0.45 * rb * ux];
  return `${body}<path d="M${n(q1[0])} ${n(q1[1])}L${n(q2[0])} ${n(q2[1])}" stroke="${shade}" stroke-width="${n(0.55 * Math.min(ra, rb))}" stroke-linecap="round" fill="none"/>`;
}

/** A hand hanging down from the wrist, in one of six states; dx points towards the thumb. */
export function hand(state: string, wrist: P, size: number, skin: string, dx: number): string {
  const [x, y] = wrist;
  const at = (u: number, v: number): P => [x + dx * u * size, y + v * size];
  const finger = (u: number, v: number, du: number, dv: number, r = 0.13): string =>
    limb(at(u, v), at(u + du, v + dv), r * size, r * 0.85 * size, skin);
  const palm = (rx: number, ry: number, v: number): string => oval(at(0.02, v), rx * size, ry * size, skin);
  switch (state) {
    case 'fist':
      return `${palm(0.4, 0.42, 0.42)}${line([at(-0.2, 0.55), at(-0.05, 0.66)], 3)}${line([at(0.02, 0.52), at(0.14, 0.64)], 3)}${finger(0.3, 0.3, 0.02, 0.26, 0.14)}`;
    case 'point':
      return `${finger(0.05, 0.6, 0.08, 0.66)}${palm(0.36, 0.38, 0.4)}${finger(0.3, 0.3, 0.06, 0.24, 0.14)}`;
    case 'open':
      return `${finger(-0.26, 0.5, -0.24, 0.42)}${finger(-0.1, 0.62, -0.08, 0.52)}${finger(0.08, 0.62, 0.06, 0.52)}${finger(0.24, 0.55, 0.22, 0.42)}${finger(0.3, 0.3, 0.4, 0.12, 0.14)}${palm(0.36, 0.4, 0.4)}`;
    case 'grip':
      return `${palm(0.36, 0.36, 0.36)}${finger(-0.2, 0.6, 0.34, 0.1)}${finger(-0.18, 0.76, 0.3, 0.06)}${finger(0.34, 0.34, -0.1, 0.3, 0.14)}`;
    case 'flat':
      return `${limb(at(0, 0.2), at(0.02, 1.05), 0.3 * size, 0.22 * size, skin)}${finger(0.26, 0.34, 0.16, 0.3, 0.13)}`;
    default:
      return `${finger(-0.14, 0.6, 0.02, 0.36)}${finger(0.04, 0.62, 0.04, 0.38)}${palm(0.34, 0.38, 0.38)}${finger(0.28, 0.3, 0.12, 0.3, 0.13)}`;
  }
}

export const HANDS = ['relaxed', 'fist', 'point', 'open', 'grip', 'flat'] as const;
export const EYES = ['open', 'half', 'shut', 'wide'] as const;
export const MOUTHS = ['rest', 'a', 'e', 'o', 'm'] as const;

/** An eye in one of its states, looking aside by `look` of its radius. */
export function eye(state: string, c: P, r: number, lid: string, look = 0): string {
  const white = (scale: number): string =>
    `${oval(c, r * 0.92, r * scale, '#fffaf0', 3)}${oval([c[0] + look * r, c[1] + 0.05 * r], 0.42 * r, 0.42 * r * Math.min(1, scale + 0.15), '#241420', 0)}${oval([c[0] + look * r + 0.15 * r, c[1] - 0.15 * r], 0.13 * r, 0.13 * r, '#ffffff', 0)}`;
  if (state === 'shut')
    return `${oval(c, r * 0.92, r * 0.5, lid, 0)}<path d="M${n(c[0] - r)} ${n(c[1])}Q${n(c[0])} ${n(c[1] + 0.6 * r)} ${n(c[0] + r)} ${n(c[1])}" fill="none" stroke="${INK}" stroke-width="4" stroke-linecap="round"/>`;
  if (state === 'half')
    return `${white(0.9)}<path d="M${n(c[0] - r)} ${n(c[1])}A${n(r)} ${n(r)} 0 0 1 ${n(c[0] + r)} ${n(c[1])}Z" fill="${lid}" stroke="${INK}" stroke-width="3"/>`;
  return state === 'wide' ? white(1.22) : white(1);
}

export interface Page {
  readonly width: number;
  readonly height: number;
  readonly defs: string;
  readonly layers: readonly string[];
}

/** The whole file. */
export const page = ({ width, height, defs, layers }: Page): string =>
  `<?xml version="1.0" encoding="UTF-8"?>\n<svg xmlns="http://www.w3.org/2000/svg" xmlns:inkscape="http://www.inkscape.org/namespaces/inkscape" viewBox="0 0 ${width} ${height}" width="${width}" height="${height}">\n<defs>${defs}</defs>\n${layers.join('\n')}\n</svg>\n`;

export const gradient = (id: string, from: string, to: string): string =>
  `<linearGradient id="${id}" x1="0" y1="0" x2="0" y2="1"><stop offset="0" stop-color="${from}"/><stop offset="1" stop-color="${to}"/></linearGradient>`;
