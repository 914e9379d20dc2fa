import { composeMat } from '../math/mat4';
import type { Motion } from '../motion/motion';
import type { Figure } from '../rig/figure';
import { restPose, type SkeletonRig } from '../rig/rig';

export interface UsdContent {
  readonly rig: SkeletonRig;
  /** Leave it out for joints only. */
  readonly figure?: Figure | undefined;
  readonly clip?: { readonly name: string; readonly motion: Motion } | undefined;
}

const number = (x: number): string => String(Math.round(x * 1e7) / 1e7);
const tuple = (values: ArrayLike<number>, o: number, count: number): string =>
  `(${Array.from({ length: count }, (_, k) => number(values[o + k]!)).join(', ')})`;
const list = <T>(items: Iterable<T>, write: (item: T) => string): string => `[${[...items].map(write).join(', ')}]`;
const range = (n: number): number[] => Array.from({ length: n }, (_, i) => i);
const quoted = (text: string): string => `"${text.replace(/["\\\n\r]/g, '_')}"`;

/** A name that a path may hold: letters, digits and underscores, beginning with none of the digits; each one once. */
function pathNames(names: readonly string[]): string[] {
  const used = new Set<string>();
  return names.map((name) => {
    const plain = name.replace(/[^A-Za-z0-9_]/g, '_').replace(/^(?=\d|$)/, '_');
    let own = plain;
    for (let n = 2; used.has(own); n++) own = `${plain}_${n}`;
    used.add(own);
    return own;
  });
}

/** A matrix as the format has it: rows, for vectors that stand before it, which is ours turned about. */
const matrix = (m: ArrayLike<number>): string =>
  `( ${range(4)
    .map((r) => tuple(m, 4 * r, 4))
    .join(', ')} )`;

/**
 * Writes USD as text: a skeleton (UsdSkel), its mesh with at most four influences, and one motion of every frame. Metres, Y up.
 * Source: the public schema of UsdSkel (OpenUSD).
 */
export function writeUsd({ rig, figure, clip }: UsdContent): string {
  const own = pathNames(rig.names);
  const paths: string[] = [];
  rig.names.forEach((_, j) => {
    const p = rig.parents[j]!;
    paths.push(p < 0 ? own[j]! : `${paths[p]}/${own[j]}`);
  });
  const joints = list(paths, (p) => `"${p}"`);
  const rest = restPose(rig);
  const one = [1, 1, 1];
  const bind = range(paths.length).map((j) =>
    matrix(composeMat(rest.p.subarray(3 * j, 3 * j + 3), rest.r.subarray(4 * j, 4 * j + 4), one)),
  );
  const local = range(paths.length).map((j) =>
    matrix(composeMat(rig.restT.subarray(3 * j, 3 * j + 3), rig.restR.subarray(4 * j, 4 * j + 4), one)),
  );
  const { motion } = clip ?? {};
  const times = motion
    ? `\n    startTimeCode = 0\n    endTimeCode = ${motion.frameCount - 1}\n    timeCodesPerSecond = ${number(motion.fps)}\n    framesPerSecond = ${number(motion.fps)}`
    : '';
  const meshes = (figure?.meshes ?? []).map((mesh, i) => {
    const vertices = mesh.positions.length / 3;
    const material = figure!.materials[mesh.material];
    return `
    def Mesh "mesh_${i + 1}" (
        prepend apiSchemas = ["SkelBindingAPI"]
        displayName = ${quoted(mesh.name)}
    )
    {
        uniform token subdivisionScheme = "none"
        uniform bool doubleSided = ${material?.doubleSided ? 1 : 0}
        int[] faceVertexCounts = ${list(range(mesh.indices.length / 3), () => '3')}
        int[] faceVertexIndices = ${list(mesh.indices, String)}
        point3f[] points = ${list(range(vertices), (v) => tuple(mesh.positions, 3 * v, 3))}${
          mesh.normals
            ? `\n        normal3f[] normals = ${list(range(vertices), (v) => tuple(mesh.normals!, 3 * v, 3))} (\n            interpolation = "vertex"\n        )`
            : ''
        }
        color3f[] primvars:displayColor = [${tuple(material?.color ?? [0.7, 0.7, 0.7], 0, 3)}]
        int[] primvars:skel:jointIndices = ${list(mesh.joints, String)} (
            elementSize = 4
            interpolation = "vertex"
        )
        float[] primvars:skel:jointWeights = ${list(mesh.weights, number)} (
            elementSize = 4
            interpolation = "vertex"
        )
        matrix4d primvars:skel:geomBindTransform = ( (1, 0, 0, 0), (0, 1, 0, 0), (0, 0, 1, 0), (0, 0, 0, 1) )
        rel skel:skeleton = </Body/Skeleton>
    }
`;
  });
  return `#usda 1.0
(
    defaultPrim = "Body"
    metersPerUnit = 1
    upAxis = "Y"${times}
)

def SkelRoot "Body" (
    prepend apiSchemas = ["SkelBindingAPI"]
)
{
    def Skeleton "Skeleton" (
        prepend apiSchemas = ["SkelBindingAPI"]
    )
    {
        uniform token[] joints = ${joints}
        uniform matrix4d[] bindTransforms = [${bind.join(', ')}]
        uniform matrix4d[] restTransforms = [${local.join(', ')}]${motion ? '\n        rel skel:animationSource = </Body/Motion>' : ''}
    }
${meshes.join('')}${motion ? animation(rig, motion, joints, clip!.name) : ''}}
`;
}

function animation(rig: SkeletonRig, motion: Motion, joints: string, name: string): string {
  const n = rig.names.length;
  const frames = range(motion.frameCount);
  const places = new Map(motion.places.map((t) => [t.joint, t.values]));
  const translation = (f: number, j: number): string => {
    const track = places.get(j);
    return track ? tuple(track, 3 * f, 3) : tuple(rig.restT, 3 * j, 3);
  };
  const turn = (f: number, j: number): string => {
    const o = 4 * (f * n + j);
    const [x, y, z, w] = motion.turns.subarray(o, o + 4);
    return `(${[w!, x!, y!, z!].map(number).join(', ')})`;
  };
  const moving = motion.places.length > 0;
  return `
    def SkelAnimation "Motion" (
        displayName = ${quoted(name)}
    )
    {
        uniform token[] joints = ${joints}
        float3[] translations${moving ? '.timeSamples' : ''} = ${
          moving
            ? `{\n${frames.map((f) => `            ${f}: ${list(range(n), (j) => translation(f, j))},`).join('\n')}\n        }`
            : list(range(n), (j) => translation(0, j))
        }
        quatf[] rotations.timeSamples = {
${frames.map((f) => `            ${f}: ${list(range(n), (j) => turn(f, j))},`).join('\n')}
        }
        half3[] scales = ${list(range(n), () => '(1, 1, 1)')}
    }
`;
}
