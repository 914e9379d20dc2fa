import { type StandInRest, standIn } from '../body/stand-in';
import { crossOf } from '../math/vec';
import type { Mesh, Model } from '../rig/figure';
import { restPose } from '../rig/rig';

type V3 = [number, number, number];

/** Half thickness at both ends of the bones of a body of height 1. */
const FLESH: readonly (readonly [from: string, to: string | V3, a: number, b: number])[] = [
  ['hips', 'spine2', 0.075, 0.07],
  ['spine2', 'neck1', 0.07, 0.045],
  ['neck1', [0, 0.09, 0], 0.03, 0.055],
  ...(['L', 'R'] as const).flatMap((s) => {
    const out = s === 'L' ? 1 : -1;
    return [
      [`upperArm${s}`, `forearm${s}`, 0.036, 0.028],
      [`forearm${s}`, `hand${s}`, 0.028, 0.02],
      [`hand${s}`, `middle3${s}`, 0.022, 0.014],
      [`collar${s}`, `upperArm${s}`, 0.045, 0.036],
      [`thigh${s}`, `shin${s}`, 0.05, 0.036],
      [`shin${s}`, `foot${s}`, 0.036, 0.024],
      [`foot${s}`, `toes${s}`, 0.026, 0.016],
      [`toes${s}`, [0.002 * out, 0, 0.035], 0.015, 0.012],
    ] as [string, string | V3, number, number][];
  }),
];

/** A body of closed lumps that overlap, without a skeleton, and where its joints lie. */
export interface Flesh {
  readonly model: Model;
  readonly joints: Readonly<Record<string, V3>>;
}

/** A stand-in with flesh on its bones. @param round corners around each bone */
export function fleshOf(rest: StandInRest, heightM = 1.75, round = 14): Flesh {
  const rig = standIn(rest, heightM);
  const { p } = restPose(rig);
  const joints = Object.fromEntries(
    rig.names.map((n, j): [string, V3] => [n, [p[3 * j]!, p[3 * j + 1]!, p[3 * j + 2]!]]),
  );
  const meshes = FLESH.map(([from, to, a, b]): Mesh => {
    const start = joints[from]!;
    const end = typeof to === 'string' ? joints[to]! : ([0, 1, 2].map((k) => start[k]! + heightM * to[k]!) as V3);
    const shape = lump(start, end, a * heightM, b * heightM, round);
    return {
      name: `around ${from}`,
      normals: undefined,
      uvs: undefined,
      colors: undefined,
      material: 0,
      shapes: [],
      ...shape,
    };
  });
  const material = {
    name: 'plain',
    color: [1, 1, 1, 1],
    roughness: 1,
    metallic: 0,
    doubleSided: false,
    image: -1,
  } as const;
  return { model: { meshes, materials: [material], images: [] }, joints };
}

/** Meshes as an OBJ file, an object each. */
export function objOf(meshes: readonly Mesh[]): string {
  let from = 1;
  return meshes
    .flatMap(({ name, positions, indices }) => {
      const at = from;
      from += positions.length / 3;
      return [
        `o ${name}`,
        ...Array.from({ length: positions.length / 3 }, (_, v) => `v ${positions.slice(3 * v, 3 * v + 3).join(' ')}`),
        ...Array.from(
          { length: indices.length / 3 },
          (_, t) => `f ${[0, 1, 2].map((k) => at + indices[3 * t + k]!).join(' ')}`,
        ),
      ];
    })
    .join('\n');
}

/** A closed surface around a line, half a ball at either end. */
function lump(from: V3, to: V3, a: number, b: number, round: number): Pick<Mesh, 'positions' | 'indices'> {
  const way = [0, 1, 2].map((k) => to[k]! - from[k]!) as V3;
  const long = Math.hypot(...way) || 1;
  const z = way.map((x) => x / long) as V3;
  const flat: V3 = Math.abs(z[1]) < 0.9 ? [0, 1, 0] : [1, 0, 0];
  const x = crossOf(flat, z);
  const l = Math.hypot(...x);
  for (let k = 0; k < 3; k++) x[k]! /= l;
  const y = crossOf(z, x);
  const rings: [along: number, radius: number][] = [];
  const steps = 4;
  for (let i = 0; i <= steps; i++) {
    const t = (i / steps) * (Math.PI / 2);
    rings.push([-a * Math.cos(t), a * Math.sin(t)]);
  }
  for (let i = 0; i <= steps; i++) {
    const t = (i / steps) * (Math.PI / 2);
    rings.push([long + b * Math.sin(t), b * Math.cos(t)]);
  }
  const positions: number[] = [];
  for (const [along, radius] of rings)
    for (let i = 0; i < round; i++) {
      const [c, s] = [radius * Math.cos((2 * Math.PI * i) / round), radius * Math.sin((2 * Math.PI * i) / round)];
      for (let k = 0; k < 3; k++) positions.push(from[k]! + along * z[k]! + c * x[k]! + s * y[k]!);
    }
  const indices: number[] = [];
  for (let r = 0; r + 1 < rings.length; r++)
    for (let i = 0; i < round; i++) {
      const [p, q] = [r * round + i, r * round + ((i + 1) % round)];
      indices.push(p, q, p + round, q, q + round, p + round);
    }
  return { positions: Float32Array.from(positions), indices: Uint32Array.from(indices) };
}
