import { crossOf } from '../math/vec';
// Plain pictures of a surface, seen straight from one side, without a graphics card.

export type ClayView = 'front' | 'side';

/** A surface in a body's frame: heights from 0 to 1, x to its left, z ahead. */
export interface ClaySurface {
  readonly positions: ArrayLike<number>;
  readonly indices: ArrayLike<number>;
}

/** What part of the body's frame a picture shows, and how large: a height of 1 is `scale` points. */
export interface ClayFrame {
  readonly width: number;
  readonly height: number;
  readonly scale: number;
  /** How much of the frame lies below the ground, in heights; a little where left out. */
  readonly below?: number | undefined;
}

const CLAY_BELOW = 0.04;

/** Where a point of the body's frame lies in a picture. From the front the body's left is on the right. */
export function inPicture(
  view: ClayView,
  { width, height, scale, below = CLAY_BELOW }: ClayFrame,
  p: ArrayLike<number>,
): [number, number] {
  const across = view === 'front' ? p[0]! : p[2]!;
  return [width / 2 + scale * across, height - scale * (p[1]! + below)];
}

/** The point of the body's frame under a place in a picture; what the view does not show stays as in `p`. */
export function fromPicture(
  view: ClayView,
  { width, height, scale, below = CLAY_BELOW }: ClayFrame,
  [x, y]: readonly [number, number],
  p: readonly [number, number, number],
): [number, number, number] {
  const across = (x - width / 2) / scale;
  const up = (height - y) / scale - below;
  return view === 'front' ? [across, up, p[2]] : [p[0], up, across];
}

/** Light from above and before. */
const LIGHT = [0.35, 0.55, 0.76];

/** Red, green, blue and opacity of every point, row by row. */
export function clayPicture(
  view: ClayView,
  frame: ClayFrame,
  surfaces: readonly ClaySurface[],
): Uint8ClampedArray<ArrayBuffer> {
  const { width, height } = frame;
  const out = new Uint8ClampedArray(4 * width * height);
  const depth = new Float32Array(width * height).fill(Number.NEGATIVE_INFINITY);
  for (const { positions: p, indices } of surfaces)
    for (let t = 0; t + 2 < indices.length; t += 3) {
      const c = [indices[t]!, indices[t + 1]!, indices[t + 2]!].map((i) => {
        const v = [p[3 * i]!, p[3 * i + 1]!, p[3 * i + 2]!];
        const [x, y] = inPicture(view, frame, v);
        // nearer is more: ahead from the front, the body's left from the side
        return { v, x, y, near: view === 'front' ? v[2]! : -v[0]! };
      }) as [Corner, Corner, Corner];
      fill(c, view, width, height, depth, out);
    }
  return out;
}

interface Corner {
  readonly v: number[];
  readonly x: number;
  readonly y: number;
  readonly near: number;
}

function fill(
  [a, b, c]: [Corner, Corner, Corner],
  view: ClayView,
  width: number,
  height: number,
  depth: Float32Array,
  out: Uint8ClampedArray,
): void {
  const area = (b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x);
  if (Math.abs(area) < 1e-9) return;
  const u = [0, 1, 2].map((k) => b.v[k]! - a.v[k]!);
  const w = [0, 1, 2].map((k) => c.v[k]! - a.v[k]!);
  const n = crossOf(u, w);
  const long = Math.hypot(...n) || 1;
  // both sides of a surface are lit, since files turn them as they like
  const towards = view === 'front' ? n[2]! : -n[0]!;
  const flip = towards < 0 ? -1 : 1;
  const light = view === 'front' ? LIGHT : [-LIGHT[2]!, LIGHT[1]!, LIGHT[0]!];
  const lit = Math.max(0, (flip * (n[0]! * light[0]! + n[1]! * light[1]! + n[2]! * light[2]!)) / long);
  const shade = 0.35 + 0.65 * lit;
  const [x0, x1] = [
    Math.max(0, Math.ceil(Math.min(a.x, b.x, c.x))),
    Math.min(width - 1, Math.floor(Math.max(a.x, b.x, c.x))),
  ];
  const [y0, y1] = [
    Math.max(0, Math.ceil(Math.min(a.y, b.y, c.y))),
    Math.min(height - 1, Math.floor(Math.max(a.y, b.y, c.y))),
  ];
  for (let y = y0; y <= y1; y++)
    for (let x = x0; x <= x1; x++) {
      const wa = ((b.x - x) * (c.y - y) - (b.y - y) * (c.x - x)) / area;
      const wb = ((c.x - x) * (a.y - y) - (c.y - y) * (a.x - x)) / area;
      const wc = 1 - wa - wb;
      if (wa < -1e-6 || wb < -1e-6 || wc < -1e-6) continue;
      const near = wa * a.near + wb * b.near + wc * c.near;
      const i = y * width + x;
      if (near <= depth[i]!) continue;
      depth[i] = near;
      out[4 * i] = 205 * shade;
      out[4 * i + 1] = 190 * shade;
      out[4 * i + 2] = 172 * shade;
      out[4 * i + 3] = 255;
    }
}
