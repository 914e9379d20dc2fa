import type { Document, Material, Node, Primitive, Skin } from '@gltf-transform/core';
import { MotionError } from '../errors';
import { composeMat, identityMat, invertMat, type Mat4, mulMat, transformPoint } from '../math/mat4';
import { normalize3 } from '../math/vec';
import {
  type FaceShape,
  type Figure,
  type FigureImage,
  type FigureMaterial,
  type FigureMesh,
  strongestFour,
} from '../rig/figure';
import type { SkeletonRig } from '../rig/rig';
import type { RigNodes } from './gltf-read';

const MAX_VERTICES = 3_000_000;

/**
 * Reads every mesh that a joint moves, baked into the rest pose; undefined where there is none.
 * @throws MotionError 'too-large', 'bad-number', 'bad-structure' or 'no-joints', with the mesh or joint
 */
export function readFigure(
  document: Document,
  rigNodes: RigNodes,
  rig: SkeletonRig,
  warnings: string[],
): Figure | undefined {
  const meshes: FigureMesh[] = [];
  const materials: FigureMaterial[] = [];
  const images: FigureImage[] = [];
  const known = new Map<Material | null, number>();
  let left = 0;
  let vertices = 0;
  for (const node of document.getRoot().listNodes()) {
    const mesh = node.getMesh();
    if (!mesh) continue;
    const skin = node.getSkin();
    const rigid = skin ? undefined : nearestJoint(node, rigNodes);
    if (!skin && !rigid) {
      left++;
      continue;
    }
    const names = (mesh.getExtras() as { targetNames?: unknown }).targetNames;
    for (const primitive of mesh.listPrimitives()) {
      const count = primitive.getAttribute('POSITION')?.getCount() ?? 0;
      vertices += count;
      if (vertices > MAX_VERTICES)
        throw new MotionError('too-large', `The meshes have more than ${MAX_VERTICES} vertices.`);
      if (primitive.getMode() !== 4 || count === 0) {
        left++;
        continue;
      }
      const material = primitive.getMaterial();
      if (!known.has(material)) {
        known.set(material, materials.length);
        materials.push(readMaterial(material, images));
      }
      const label = mesh.getName() || node.getName() || `mesh ${meshes.length + 1}`;
      meshes.push(
        readPrimitive(
          primitive,
          label,
          known.get(material)!,
          skin ?? undefined,
          rigid,
          rigNodes,
          rig,
          Array.isArray(names) ? names : [],
        ),
      );
    }
  }
  if (left > 0) warnings.push(`${left} meshes hang on no joint, or are lines or points, and were left out.`);
  return meshes.length > 0 ? { meshes, materials, images } : undefined;
}

function readMaterial(material: Material | null, images: FigureImage[]): FigureMaterial {
  if (!material)
    return { name: 'plain', color: [0.8, 0.8, 0.8, 1], roughness: 0.8, metallic: 0, doubleSided: false, image: -1 };
  const picture = material.getBaseColorTexture();
  const bytes = picture?.getImage();
  let image = -1;
  if (picture && bytes && /^image\/(png|jpeg|webp)$/.test(picture.getMimeType()))
    image = images.push({ mime: picture.getMimeType(), bytes }) - 1;
  return {
    name: material.getName() || 'material',
    color: material.getBaseColorFactor(),
    roughness: material.getRoughnessFactor(),
    metallic: material.getMetallicFactor(),
    doubleSided: material.getDoubleSided(),
    image,
  };
}

/** The nearest joint at or above a node, and the matrix from the node to it. */
function nearestJoint(node: Node, rigNodes: RigNodes): { joint: number; matrix: Mat4 } | undefined {
  let m = identityMat();
  for (let p: Node | null = node; p; p = p.getParentNode()) {
    const joint = rigNodes.index.get(p);
    if (joint !== undefined) return { joint, matrix: mulMat(rigNodes.world[joint]!, m) };
    m = mulMat(composeMat(p.getTranslation(), p.getRotation(), p.getScale()), m);
  }
  return undefined;
}

function readPrimitive(
  primitive: Primitive,
  name: string,
  material: number,
  skin: Skin | undefined,
  rigid: { joint: number; matrix: Mat4 } | undefined,
  rigNodes: RigNodes,
  rig: SkeletonRig,
  shapeNames: unknown[],
): FigureMesh {
  const count = primitive.getAttribute('POSITION')!.getCount();
  const read = (semantic: string, width: number): Float32Array | undefined => {
    const accessor = primitive.getAttribute(semantic);
    if (!accessor || accessor.getCount() !== count) return undefined;
    const out = new Float32Array(width * count).fill(1);
    const element = new Array<number>(accessor.getElementSize()).fill(0);
    for (let i = 0; i < count; i++) {
      accessor.getElement(i, element);
      for (let k = 0; k < Math.min(width, element.length); k++) out[width * i + k] = element[k]!;
    }
    if (out.some((x) => !Number.isFinite(x)))
      throw new MotionError('bad-number', `The mesh "${name}" holds numbers that are not finite.`);
    return out;
  };
  const positions = read('POSITION', 3)!;
  const normals = read('NORMAL', 3);
  const joints = new Uint16Array(4 * count);
  const weights = new Float32Array(4 * count);
  let toRest: (vertex: number) => Mat4;
  if (skin) {
    const sets = [0, 1].flatMap((s) => {
      const j = read(`JOINTS_${s}`, 4);
      const w = read(`WEIGHTS_${s}`, 4);
      return j && w ? [{ j, w }] : [];
    });
    const skinJoints = skin.listJoints().map((n) => rigNodes.index.get(n)!);
    const inverse = skin.getInverseBindMatrices();
    const matrices = skinJoints.map((joint, k) => {
      const bind =
        inverse && k < inverse.getCount()
          ? Float64Array.from(inverse.getElement(k, new Array(16).fill(0)))
          : invertMat(rigNodes.world[joint]!)!;
      return mulMat(rigNodes.world[joint]!, bind);
    });
    const strongest = new Int32Array(count);
    for (let i = 0; i < count; i++) {
      const ids = sets.flatMap(({ j }) => [...j.subarray(4 * i, 4 * i + 4)]);
      if (ids.some((x) => x >= skinJoints.length))
        throw new MotionError('bad-structure', `The mesh "${name}" is weighted to a joint that its skin lacks.`);
      const four = strongestFour(
        ids,
        sets.flatMap(({ w }) => [...w.subarray(4 * i, 4 * i + 4)]),
        0,
      );
      strongest[i] = four.joints[0]!;
      joints.set(
        four.joints.map((k, x) => (four.weights[x]! > 0 ? skinJoints[k]! : 0)),
        4 * i,
      );
      weights.set(four.weights, 4 * i);
    }
    // at rest all influences of a vertex agree, so the strongest one places it
    toRest = (i) => matrices[strongest[i]!]!;
  } else {
    for (let i = 0; i < count; i++) {
      joints[4 * i] = rigid!.joint;
      weights[4 * i] = 1;
    }
    toRest = () => rigid!.matrix;
  }
  const shapes: FaceShape[] = primitive.listTargets().flatMap((target, k) => {
    const accessor = target.getAttribute('POSITION');
    if (!accessor || accessor.getCount() !== count) return [];
    const out = new Float32Array(3 * count);
    const element = [0, 0, 0];
    for (let i = 0; i < count; i++) {
      accessor.getElement(i, element);
      turnOnly(out, 3 * i, toRest(i), element, 0);
    }
    const given = shapeNames[k];
    return [{ name: typeof given === 'string' ? given : `${name} ${k + 1}`, positions: out }];
  });
  for (let i = 0; i < count; i++) {
    const m = toRest(i);
    transformPoint(positions, 3 * i, m, positions, 3 * i);
    if (normals) {
      turnOnly(normals, 3 * i, m, normals, 3 * i);
      normalize3(normals, 3 * i);
    }
  }
  const indexAccessor = primitive.getIndices();
  const indices = indexAccessor
    ? Uint32Array.from(indexAccessor.getArray()!)
    : Uint32Array.from({ length: count }, (_, i) => i);
  if (indices.some((i) => i >= count))
    throw new MotionError('bad-structure', `The mesh "${name}" has a face beyond its vertices.`);
  if (rig.names.length === 0) throw new MotionError('no-joints', 'The rig has no joints.');
  return {
    name,
    positions,
    normals,
    uvs: read('TEXCOORD_0', 2),
    colors: read('COLOR_0', 4),
    joints,
    weights,
    indices,
    material,
    shapes,
  };
}

function turnOnly(dst: Float32Array, o: number, m: Mat4, v: ArrayLike<number>, vo: number): void {
  const x = v[vo]!;
  const y = v[vo + 1]!;
  const z = v[vo + 2]!;
  dst[o] = m[0]! * x + m[4]! * y + m[8]! * z;
  dst[o + 1] = m[1]! * x + m[5]! * y + m[9]! * z;
  dst[o + 2] = m[2]! * x + m[6]! * y + m[10]! * z;
}
