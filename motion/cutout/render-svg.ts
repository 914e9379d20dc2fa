import type { Box } from '../art/mask';
import type { Motion } from '../motion/motion';
import { restMotion } from '../motion/motion';
import type { CutoutFigure } from './figure';
import { CutoutShow } from './show';

const short = (x: number): string => String(Math.round(x * 1e5) / 1e5);

/** The whole way of a figure through the picture: the box about everything drawn in any frame, in its units. */
export function boxOverTime(show: CutoutShow, step = 1): Box {
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let f = 0; f < show.motion.frameCount; f += step)
    for (const { drawing, matrix: m } of show.at(f / show.motion.fps)) {
      const [x, y, w, h] = drawing.box;
      for (const [u, v] of [
        [x, y],
        [x + w, y],
        [x, y + h],
        [x + w, y + h],
      ] as const) {
        const [px, py] = [m[0] * u + m[2] * v + m[4], m[1] * u + m[3] * v + m[5]];
        x0 = Math.min(x0, px);
        x1 = Math.max(x1, px);
        y0 = Math.min(y0, py);
        y1 = Math.max(y1, py);
      }
    }
  return [x0, y0, x1 - x0, y1 - y0];
}

/** The drawings of one moment as markup, without the file about it. */
export function svgInside(show: CutoutShow, seconds: number): string {
  return show
    .at(seconds)
    .map(({ drawing, matrix }) =>
      isIdentity(matrix)
        ? `<g>${drawing.svg}</g>`
        : `<g transform="matrix(${matrix.map(short).join(' ')})">${drawing.svg}</g>`,
    )
    .join('');
}

const isIdentity = (m: readonly number[]): boolean => [1, 0, 0, 1, 0, 0].every((x, i) => Math.abs(m[i]! - x) < 1e-5);

export const SVG_HEAD = 'xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink"';

/** A figure at a moment of a motion as an SVG file; at rest without one. */
export function renderSvg(
  figure: CutoutFigure,
  {
    motion = restMotion(figure.rig),
    seconds = 0,
    box = figure.art.box,
  }: { motion?: Motion; seconds?: number; box?: Box } = {},
): string {
  const show = new CutoutShow(figure.rig, figure.art, motion);
  return `<svg ${SVG_HEAD} viewBox="${box.map(short).join(' ')}"><defs>${figure.art.defs}</defs>${svgInside(show, seconds)}</svg>`;
}
