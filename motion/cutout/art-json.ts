import type { Box } from '../art/mask';
import { MotionError } from '../errors';
import type { CutoutArt, CutoutDrawing } from './figure';

/** The pictures of a cut-out as they are kept and exchanged; see docs/formats. */
export interface CutoutArtJson {
  format: 'velvet-reel-art';
  box: number[];
  unit: number;
  origin: number[];
  defs: string;
  drawings: { part: string; label: string; svg: string; box: number[] }[];
  pivots: number[][];
  restViews: Record<string, string>;
  hidden: string[];
}

const round = (x: number): number => Math.round(x * 1e6) / 1e6;

/** Pictures as plain JSON. */
export const artToJson = (art: CutoutArt): CutoutArtJson => ({
  format: 'velvet-reel-art',
  box: art.box.map(round),
  unit: art.unit,
  origin: art.origin.map(round),
  defs: art.defs,
  drawings: art.drawings.map(({ part, label, svg, box }) => ({ part, label, svg, box: box.map(round) })),
  pivots: art.pivots.map((p) => p.map(round)),
  restViews: { ...art.restViews },
  hidden: [...art.hidden],
});

const numbers = (v: unknown, count: number): v is number[] =>
  Array.isArray(v) && v.length === count && v.every((x) => typeof x === 'number' && Number.isFinite(x));

/**
 * Reads artToJson's form. The markup in it is taken as it stands: it has to be cleaned before it is kept.
 * @throws MotionError 'bad-structure' for anything that is not whole
 */
export function artFromJson(json: unknown): CutoutArt {
  const { format, box, unit, origin, defs, drawings, pivots, restViews, hidden } = (json ??
    {}) as Partial<CutoutArtJson>;
  const wrong = (what: string): MotionError =>
    new MotionError('bad-structure', `The pictures of a cut-out need ${what}.`);
  if (format !== 'velvet-reel-art') throw wrong('the format "velvet-reel-art"');
  if (!numbers(box, 4) || !numbers(origin, 2)) throw wrong('a box of four numbers and an origin of two');
  if (typeof unit !== 'number' || !(unit > 0) || !Number.isFinite(unit)) throw wrong('a unit above 0');
  if (typeof defs !== 'string') throw wrong('text as "defs"');
  if (!Array.isArray(pivots) || !pivots.every((p) => numbers(p, 2))) throw wrong('pivots of two numbers each');
  if (!Array.isArray(drawings)) throw wrong('a list of drawings');
  return {
    box: box as unknown as Box,
    unit,
    origin: [origin[0]!, origin[1]!],
    defs,
    pivots: pivots.map((p): [number, number] => [p[0]!, p[1]!]),
    drawings: drawings.map((d): CutoutDrawing => {
      if (typeof d?.part !== 'string' || typeof d.label !== 'string' || typeof d.svg !== 'string' || !numbers(d.box, 4))
        throw wrong('drawings with a part, a label, markup and a box');
      return { part: d.part, label: d.label, svg: d.svg, box: d.box as unknown as Box };
    }),
    hidden: Array.isArray(hidden) ? hidden.filter((h) => typeof h === 'string') : [],
    restViews: Object.fromEntries(
      Object.entries(restViews ?? {}).filter((e): e is [string, string] => typeof e[1] === 'string'),
    ),
  };
}
