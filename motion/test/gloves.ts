import { FINGERS, SIDES, type Side } from '../bodymap/slots';
import type { Mesh } from '../rig/figure';
import { type Flesh, fleshOf } from './flesh';

type V3 = readonly [number, number, number];

/** Half thickness of fingers and of the palm's bones, and the edge of a cube, on a body of height 1. */
const FINGER = 0.003;
const PALM = 0.0075;
const EDGE = 0.002;

/** How far a place is from a line between two others. */
function toLine(p: V3, a: V3, b: V3): number {
  const way = b.map((x, k) => x - a[k]!);
  const square = way.reduce((s, x) => s + x * x, 0);
  const t = Math.min(1, Math.max(0, p.reduce((s, x, k) => s + (x - a[k]!) * way[k]!, 0) / square));
  return Math.hypot(...p.map((x, k) => x - a[k]! - t * way[k]!));
}

/** A stand-in with flesh on its bones, whose hands have fingers. */
export function fingeredFlesh(heightM = 1.75): Flesh {
  const { model, joints } = fleshOf('T', heightM);
  const meshes = [
    ...model.meshes.filter((m) => !/hand/.test(m.name)),
    ...SIDES.map((side) => gloveOf(joints, side, heightM)),
  ];
  return { model: { ...model, meshes }, joints };
}

/**
 * A hand with fingers as one surface of cubes' faces, forearm's end included.
 * @param joints of a stand-in in a T @param without fingers that are folded away
 */
export function gloveOf(
  joints: Readonly<Record<string, readonly number[]>>,
  side: Side,
  heightM: number,
  without: readonly string[] = [],
): Mesh {
  const at = (slot: string): V3 => joints[slot + side] as unknown as V3;
  const wrist = at('hand');
  const lines: [V3, V3, number][] = [[at('forearm'), wrist, 1.6 * PALM]];
  for (const f of FINGERS) {
    const [a, b, c] = [1, 2, 3].map((k) => at(`${f}${k}`)) as [V3, V3, V3];
    // skin joins fingers beyond their knuckles; a thumb parts at its own
    lines.push([wrist, a.map((x, k) => x + (f === 'thumb' ? 0 : 0.35) * (b[k]! - x)) as unknown as V3, PALM]);
    if (without.includes(f)) continue;
    const tip = c.map((x, k) => x + 0.8 * (x - b[k]!)) as unknown as V3;
    lines.push([a, b, FINGER], [b, c, FINGER], [c, tip, FINGER]);
  }
  return facesOf(cubesWithin(lines, EDGE * heightM, heightM), EDGE * heightM);
}

/** The cubes, by their three numbers, whose middles are within reach of a line. */
function cubesWithin(lines: readonly [V3, V3, number][], edge: number, heightM: number): Map<string, V3> {
  const out = new Map<string, V3>();
  for (const [a, b, radius] of lines) {
    const r = radius * heightM;
    const [low, high] = [Math.min, Math.max].map((of, i) =>
      [0, 1, 2].map((k) => Math.round((of(a[k]!, b[k]!) + (i ? r : -r)) / edge)),
    ) as [number[], number[]];
    for (let x = low[0]!; x <= high[0]!; x++)
      for (let y = low[1]!; y <= high[1]!; y++)
        for (let z = low[2]!; z <= high[2]!; z++) {
          const middle = [x, y, z].map((c) => (c + 0.5) * edge) as unknown as V3;
          if (toLine(middle, a, b) < r) out.set(`${x} ${y} ${z}`, [x, y, z]);
        }
  }
  return out;
}

/** The faces between cubes that are filled and those that are not, joined at their corners. */
function facesOf(cubes: ReadonlyMap<string, V3>, edge: number): Mesh {
  const corners = new Map<string, number>();
  const positions: number[] = [];
  const corner = (cell: readonly number[]): number => {
    const key = cell.join(' ');
    const known = corners.get(key);
    if (known !== undefined) return known;
    for (let k = 0; k < 3; k++) positions.push(edge * cell[k]!);
    corners.set(key, corners.size);
    return corners.size - 1;
  };
  const indices: number[] = [];
  for (const cell of cubes.values())
    for (let k = 0; k < 3; k++)
      for (const way of [0, 1]) {
        const beside = cell.map((x, i) => (i === k ? x + (way ? 1 : -1) : x));
        if (cubes.has(beside.join(' '))) continue;
        const [u, v] = [(k + 1) % 3, (k + 2) % 3];
        const square = [
          [0, 0],
          [1, 0],
          [1, 1],
          [0, 1],
        ].map(([a, b]) => corner(cell.map((x, i) => x + (i === k ? way : i === u ? a! : i === v ? b! : 0))));
        const [p, q, r, s] = way ? square : square.reverse();
        indices.push(p!, q!, r!, p!, r!, s!);
      }
  return {
    name: 'glove',
    positions: Float32Array.from(positions),
    indices: Uint32Array.from(indices),
    normals: undefined,
    uvs: undefined,
    colors: undefined,
    material: 0,
    shapes: [],
  };
}
