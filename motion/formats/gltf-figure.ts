import type { Document, Skin as GltfSkin, Material, Node, Primitive } from '@gltf-transform/core';
import { MotionError } from '../errors';
import { composeMat, identityMat, invertMat, type Mat4, mulMat, transformPoint } from '../math/mat4';
import { normalize3 } from '../math/vec';
import {
  type FaceShape,
  type Figure,
  type FigureImage,
  type FigureMaterial,
  type Mesh,
  type Model,
  type Skin,
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
  if (rig.names.length === 0) throw new MotionError('no-joints', 'The rig has no joints.');
  const { model, left } = readMeshes(document, (node) => {
    const skin = node.getSkin();
    if (skin)
      return (primitive, name) =>
        skinned(primitive, name, skin, (node) => {
          const joint = rigNodes.index.get(node)!;
          return { joint, world: rigNodes.world[joint]! };
        });
    const rigid = nearestJoint(node, rigNodes);
    return rigid && ((primitive) => hung(primitive, rigid));
  });
  if (left > 0) warnings.push(`${left} meshes hang on no joint, or are lines or points, and were left out.`);
  return model.meshes.length > 0 ? model : undefined;
}

/**
 * Reads every mesh as it stands in the file's world at rest, whatever moves it: for bodies that have no skeleton, and props.
 * Lengths and axes are the file's own. Lines and points are left out.
 * @throws MotionError 'too-large', 'bad-number' or 'bad-structure', with the mesh
 */
export function readModel(document: Document): Model {
  return readMeshes(document, (node) => {
    const skin = node.getSkin();
    // a skin's joints place its mesh, wherever the mesh itself hangs
    if (skin)
      return (primitive, name) => {
        const worldOf = (n: Node) => ({ joint: 0, world: Float64Array.from(n.getWorldMatrix()) });
        return { toRest: skinned(primitive, name, skin, worldOf).toRest };
      };
    const world = Float64Array.from(node.getWorldMatrix());
    return () => ({ toRest: () => world });
  }).model;
}

/** How the vertices of a primitive come to rest, and what moves them: nothing more, or a skin. */
type Tie<S> = S & { readonly toRest: (vertex: number) => Mat4 };

/** @param tieOf how a node's meshes are tied; undefined where they are left out */
function readMeshes<S extends object>(
  document: Document,
  tieOf: (node: Node) => ((primitive: Primitive, name: string) => Tie<S>) | undefined,
): { model: Model<Mesh & S>; left: number } {
  const meshes: (Mesh & S)[] = [];
  const materials: FigureMaterial[] = [];
  const images: FigureImage[] = [];
  const known = new Map<Material | null, number>();
  let left = 0;
  let vertices = 0;
  for (const node of document.getRoot().listNodes()) {
    const mesh = node.getMesh();
    if (!mesh) continue;
    const tie = tieOf(node);
    if (!tie) {
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
      const name = mesh.getName() || node.getName() || `mesh ${meshes.length + 1}`;
      const { toRest, ...skin } = tie(primitive, name);
      const surface = readSurface(primitive, name, known.get(material)!, toRest, Array.isArray(names) ? names : []);
      meshes.push({ ...surface, ...(skin as unknown as S) });
    }
  }
  return { model: { meshes, materials, images }, left };
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

/** The numbers of an attribute, `width` a vertex; undefined where the primitive has none that fits. */
function attribute(primitive: Primitive, name: string, semantic: string, width: number): Float32Array | undefined {
  const count = primitive.getAttribute('POSITION')!.getCount();
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
}

/** Vertices that a skin spreads over joints, the four strongest each. */
function skinned(
  primitive: Primitive,
  name: string,
  skin: GltfSkin,
  jointOf: (node: Node) => { joint: number; world: Mat4 },
): Tie<Skin> {
  const count = primitive.getAttribute('POSITION')!.getCount();
  const joints = new Uint16Array(4 * count);
  const weights = new Float32Array(4 * count);
  const sets = [0, 1].flatMap((s) => {
    const j = attribute(primitive, name, `JOINTS_${s}`, 4);
    const w = attribute(primitive, name, `WEIGHTS_${s}`, 4);
    return j && w ? [{ j, w }] : [];
  });
  const skinJoints = skin.listJoints().map(jointOf);
  const inverse = skin.getInverseBindMatrices();
  const matrices = skinJoints.map(({ world }, k) => {
    const bind =
      inverse && k < inverse.getCount()
        ? Float64Array.from(inverse.getElement(k, new Array(16).fill(0)))
        : invertMat(world)!;
    return mulMat(world, bind);
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
      four.joints.map((k, x) => (four.weights[x]! > 0 ? skinJoints[k]!.joint : 0)),
      4 * i,
    );
    weights.set(four.weights, 4 * i);
  }
  // at rest all influences of a vertex agree, so the strongest one places it
  return { joints, weights, toRest: (i) => matrices[strongest[i]!]! };
}

/** Vertices that one joint carries as they are. */
function hung(primitive: Primitive, { joint, matrix }: { joint: number; matrix: Mat4 }): Tie<Skin> {
  const count = primitive.getAttribute('POSITION')!.getCount();
  const joints = new Uint16Array(4 * count);
  const weights = new Float32Array(4 * count);
  for (let i = 0; i < count; i++) {
    joints[4 * i] = joint;
    weights[4 * i] = 1;
  }
  return { joints, weights, toRest: () => matrix };
}

function readSurface(
  primitive: Primitive,
  name: string,
  material: number,
  toRest: (vertex: number) => Mat4,
  shapeNames: unknown[],
): Mesh {
  const positions = attribute(primitive, name, 'POSITION', 3)!;
  const count = positions.length / 3;
  const normals = attribute(primitive, name, 'NORMAL', 3);
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
  return {
    name,
    positions,
    normals,
    uvs: attribute(primitive, name, 'TEXCOORD_0', 2),
    colors: attribute(primitive, name, 'COLOR_0', 4),
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
