import type { Figure, FigureMesh } from '../rig/figure';
import { NORMAL_SPACE, type SkeletonRig } from '../rig/rig';

const PARTS: readonly [
  name: string,
  parent: number,
  place: readonly number[],
  from: readonly number[],
  size: readonly number[],
][] = [
  ['Body', -1, [0, 0.7, 0], [-0.22, 0, -0.1], [0.44, 0.65, 0.2]],
  ['Head', 0, [0, 0.65, 0], [-0.2, 0, -0.2], [0.4, 0.4, 0.4]],
  ['Arm_Left', 0, [0.31, 0.6, 0], [-0.08, -0.6, -0.1], [0.16, 0.65, 0.2]],
  ['Arm_Right', 0, [-0.31, 0.6, 0], [-0.08, -0.6, -0.1], [0.16, 0.65, 0.2]],
  ['Leg_Left', 0, [0.11, 0, 0], [-0.1, -0.7, -0.1], [0.2, 0.7, 0.2]],
  ['Leg_Right', 0, [-0.11, 0, 0], [-0.1, -0.7, -0.1], [0.2, 0.7, 0.2]],
];

/** A figure of six blocks with a joint each: arms and legs that swing as a whole. Its rig knows of no tips; metres. */
export function blockFigure(): { rig: SkeletonRig; figure: Figure } {
  const n = PARTS.length;
  const rig: SkeletonRig = {
    kind: 'skeleton',
    names: PARTS.map(([name]) => name),
    parents: Int16Array.from(PARTS, ([, parent]) => parent),
    restT: Float32Array.from(PARTS.flatMap(([, , place]) => [...place])),
    restR: Float32Array.from({ length: 4 * n }, (_, i) => (i % 4 === 3 ? 1 : 0)),
    tips: new Float32Array(3 * n).fill(Number.NaN),
    found: NORMAL_SPACE,
  };
  const meshes = PARTS.map(([name, parent, place, from, size], j): FigureMesh => {
    const base = parent < 0 ? place : place.map((x, k) => x + PARTS[parent]![2][k]!);
    const positions = Float32Array.from({ length: 24 }, (_, i) => {
      const k = i % 3;
      return base[k]! + from[k]! + ((Math.floor(i / 3) >> k) & 1) * size[k]!;
    });
    const indices = Uint32Array.of(
      0,
      2,
      1,
      1,
      2,
      3,
      4,
      5,
      6,
      5,
      7,
      6,
      0,
      1,
      4,
      1,
      5,
      4,
      2,
      6,
      3,
      3,
      6,
      7,
      0,
      4,
      2,
      2,
      4,
      6,
      1,
      3,
      5,
      3,
      7,
      5,
    );
    return {
      name,
      positions,
      normals: undefined,
      uvs: undefined,
      colors: undefined,
      indices,
      material: -1,
      shapes: [],
      joints: Uint16Array.from({ length: 32 }, () => j),
      weights: Float32Array.from({ length: 32 }, (_, i) => (i % 4 === 0 ? 1 : 0)),
    };
  });
  return { rig, figure: { meshes, materials: [], images: [] } };
}
