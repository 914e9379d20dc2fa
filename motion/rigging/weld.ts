import { boundsOf, type Surface } from './solid';

/** Vertices nearer than this are one, in lengths of the box around the surfaces. */
export const CELLS = 2 ** 17;

/** Vertices at the same place as one. */
export interface Welded {
  /** By surface and vertex: the number of its place. */
  readonly welded: readonly Uint32Array[];
  readonly count: number;
  /** How far two vertices of one place may be apart, in the surfaces' units. */
  readonly cell: number;
}

/** Gives vertices at the same place one number, so that seams of pictures and of materials do not part what belongs together. */
export function weld(surfaces: readonly Surface[]): Welded {
  const [x0, y0, z0, x1, y1, z1] = boundsOf(surfaces);
  const low = [x0, y0, z0];
  const cell = Math.max(x1 - x0, y1 - y0, z1 - z0) / (CELLS - 1) || 1;
  const numbers = new Map<number, number>();
  const welded = surfaces.map(({ positions }) => {
    const out = new Uint32Array(positions.length / 3);
    for (let v = 0; v < out.length; v++) {
      const [x, y, z] = [0, 1, 2].map((k) => Math.round((positions[3 * v + k]! - low[k]!) / cell));
      const place = x! + CELLS * (y! + CELLS * z!);
      let number = numbers.get(place);
      if (number === undefined) {
        number = numbers.size;
        numbers.set(place, number);
      }
      out[v] = number;
    }
    return out;
  });
  return { welded, count: numbers.size, cell };
}
