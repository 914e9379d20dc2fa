import type { Box } from '../art/mask';
import type { Motion } from '../motion/motion';
import type { CutoutDrawing, CutoutFigure } from './figure';
import { boxOverTime, SVG_HEAD } from './render-svg';
import { CutoutShow } from './show';

const short = (x: number): string => String(Math.round(x * 1e4) / 1e4);

/** A motion as one SVG file that plays by itself: every drawing once, every frame a group that shows for its time. */
export function animatedSvg(figure: CutoutFigure, motion: Motion, box?: Box): string {
  const show = new CutoutShow(figure.rig, figure.art, motion);
  const frame = box ?? boxOverTime(show);
  const ids = new Map<CutoutDrawing, string>();
  const n = motion.frameCount;
  const seconds = n / motion.fps;
  const groups = Array.from({ length: n }, (_, f) => {
    const uses = show
      .at(f / motion.fps)
      .map(({ drawing, matrix }) => {
        const id = ids.get(drawing) ?? `drawing${ids.size}`;
        ids.set(drawing, id);
        return `<use xlink:href="#${id}" href="#${id}" transform="matrix(${matrix.map(short).join(' ')})"/>`;
      })
      .join('');
    if (n === 1) return `<g>${uses}</g>`;
    const [from, to] = [short(f / n), short((f + 1) / n)];
    const times =
      f === 0
        ? `values="inline;none" keyTimes="0;${to}"`
        : f === n - 1
          ? `values="none;inline" keyTimes="0;${from}"`
          : `values="none;inline;none" keyTimes="0;${from};${to}"`;
    return `<g display="${f === 0 ? 'inline' : 'none'}"><animate attributeName="display" calcMode="discrete" ${times} dur="${short(seconds)}s" repeatCount="indefinite"/>${uses}</g>`;
  });
  const drawings = [...ids].map(([d, id]) => `<g id="${id}">${d.svg}</g>`).join('');
  return `<svg ${SVG_HEAD} viewBox="${frame.map(short).join(' ')}"><defs>${figure.art.defs}${drawings}</defs>${groups.join('')}</svg>`;
}
