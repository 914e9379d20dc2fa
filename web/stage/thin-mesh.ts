import { MeshoptSimplifier } from 'meshoptimizer/simplifier';
import { BufferAttribute, type BufferGeometry, type InterleavedBufferAttribute, type Mesh, type Object3D } from 'three';

/** How far a surface may move, metres: a quarter of a point of the screen where a whole body is in sight. */
const MOST_M = 0.0008;
/** Smaller surfaces cost next to nothing: eyes, brows, buttons. */
const FEW_FACES = 400;

/**
 * Takes faces away from every mesh below a root that nobody would miss. Where the processor stands in for a graphics card, a
 * picture costs what its faces cost. Meshes with face shapes stay as they are.
 */
export async function thinned(root: Object3D): Promise<void> {
  await MeshoptSimplifier.ready;
  const meshes: Mesh[] = [];
  root.traverse((o) => {
    if ((o as Mesh).isMesh) meshes.push(o as Mesh);
  });
  for (const mesh of meshes) {
    const g = mesh.geometry;
    if (!g.index || g.index.count < 3 * FEW_FACES || g.morphAttributes.position) continue;
    thin(g);
    // the page has its turn between two of them
    await new Promise((resolve) => setTimeout(resolve));
  }
}

function thin(g: BufferGeometry): void {
  const places = read(g.getAttribute('position'));
  const faces = Uint32Array.from(g.index!.array);
  const [index] = MeshoptSimplifier.simplify(faces, places, 3, 0, MOST_M, ['ErrorAbsolute']);
  // numbers the points that are left anew, in place
  const [to, count] = MeshoptSimplifier.compactMesh(index);
  for (const [name, from] of Object.entries(g.attributes)) {
    const width = from.itemSize;
    const all = read(from);
    const left = new Float32Array(width * count);
    for (let i = 0; i < to.length; i++)
      if (to[i]! < count) left.set(all.subarray(width * i, width * (i + 1)), width * to[i]!);
    g.setAttribute(name, new BufferAttribute(name === 'skinIndex' ? Uint16Array.from(left) : left, width));
  }
  g.setIndex(new BufferAttribute(index.slice(), 1));
}

function read(from: BufferAttribute | InterleavedBufferAttribute): Float32Array {
  const { itemSize: width, count } = from;
  const out = new Float32Array(width * count);
  for (let i = 0; i < count; i++) for (let k = 0; k < width; k++) out[width * i + k] = from.getComponent(i, k);
  return out;
}
