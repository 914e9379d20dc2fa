import type { Solid } from './solid';

/** What the slices of a standing body tell, in its frame: heights from the ground, half widths from the middle. */
export interface Shape {
  /** Where the legs part; undefined for a coat down to the ground. */
  readonly crotch: number | undefined;
  /** The narrowest place below the head. */
  readonly neck: number;
  /** Two guesses how far ahead the neck's middle is: from its back, where a chin is in the way, and the slice's own middle. */
  readonly neckAhead: readonly [byBack: number, byMiddle: number];
  /** Where the arms leave the trunk. */
  readonly armpit: number;
  /** Half the width of the trunk below the armpits. */
  readonly halfTrunk: number;
}

/** Half the width of what stands in the middle at a height, from x = 0 to the first gap; 0 where nothing does. */
function halfWidths(solid: Solid): Float64Array {
  const { nx, ny, nz, cell, low, cubes } = solid;
  const out = new Float64Array(ny);
  const centre = Math.floor(-low[0] / cell);
  const any = (x: number, y: number): boolean => {
    for (let z = 0; z < nz; z++) if (cubes[x + nx * (y + ny * z)]) return true;
    return false;
  };
  for (let y = 0; y < ny; y++) {
    let [r, l] = [centre, centre];
    while (r < nx && any(r, y)) r++;
    while (l >= 0 && any(l, y)) l--;
    out[y] = r === centre ? 0 : (cell * (r - l - 1)) / 2;
  }
  return out;
}

/** How far above the hips arms leave the trunk at least. */
const LOWEST_ARMPIT = 0.12;

const median = (values: readonly number[]): number => [...values].sort((a, b) => a - b)[values.length >> 1] ?? 0;

/**
 * Reads a standing body's slices.
 * @param hips @param elbow their heights where they are known
 */
export function readShape(solid: Solid, hips?: number, elbow = Number.POSITIVE_INFINITY): Shape {
  const { nx, ny, nz, cell, low, cubes } = solid;
  const widths = halfWidths(solid);
  const heightOf = (y: number): number => low[1] + cell * (y + 0.5);
  const levelOf = (h: number): number => Math.min(ny - 1, Math.max(0, Math.floor((h - low[1]) / cell)));
  // legs: the middle is empty from the ground on, and stays filled from where they meet
  let crotch: number | undefined;
  for (let y = levelOf(hips ?? 0.6); y > levelOf(0.08); y--)
    if (widths[y] === 0) {
      crotch = heightOf(y) + cell / 2;
      break;
    }
  const base = hips ?? (crotch === undefined ? 0.53 : crotch + 0.085);
  // the trunk ends where it becomes much broader at once, by arms or shoulders
  let armpit = base + 0.27;
  const waist: number[] = [];
  for (let y = levelOf(base + 0.03); y < levelOf(0.93); y++) {
    if (heightOf(y) > base + LOWEST_ARMPIT && widths[y]! > 1.4 * Math.max(...waist)) {
      armpit = heightOf(y);
      break;
    }
    waist.push(widths[y]!);
  }
  // arms that hang down grow into the trunk little by little; beside the elbow they are still apart
  const under = Math.min(armpit, elbow + 0.03);
  const chest: number[] = [];
  for (let y = levelOf(Math.max(base, under - 0.1)); y < levelOf(under - 0.005); y++) chest.push(widths[y]!);
  const halfTrunk = median(chest.length > 0 ? chest : waist);
  // the neck: the narrowest run between the shoulders and the widest place of the head
  const from = levelOf(armpit + 0.02);
  const top = levelOf(0.985);
  let head = top;
  for (let y = levelOf(0.9); y <= top; y++) if (widths[y]! > widths[head]!) head = y;
  let narrow = head;
  for (let y = head; y >= from; y--) if (widths[y]! > 0 && widths[y]! < widths[narrow]!) narrow = y;
  const level = widths[narrow]! + 0.51 * cell;
  let [a, b] = [narrow, narrow];
  while (a > from && widths[a - 1]! > 0 && widths[a - 1]! <= level) a--;
  while (b < head && widths[b + 1]! <= level) b++;
  const y = Math.round((a + b) / 2);
  // a neck is about as deep as it is wide; a chin before it is not part of it, so its back tells where it is
  let back = Number.POSITIVE_INFINITY;
  for (let z = 0; z < nz && back === Number.POSITIVE_INFINITY; z++)
    for (let x = 0; x < nx; x++)
      if (cubes[x + nx * (y + ny * z)] && Math.abs(low[0] + cell * (x + 0.5)) <= widths[y]! / 2)
        back = low[2] + cell * z;
  const neckByBack = Number.isFinite(back) ? back + widths[y]! : 0;
  let [sum, count] = [0, 0];
  for (let z = 0; z < nz; z++)
    for (let x = 0; x < nx; x++)
      if (cubes[x + nx * (y + ny * z)] && Math.abs(low[0] + cell * (x + 0.5)) <= widths[y]! + cell) {
        sum += low[2] + cell * (z + 0.5);
        count++;
      }
  return { crotch, neck: heightOf(y), neckAhead: [neckByBack, count > 0 ? sum / count : 0], armpit, halfTrunk };
}
