import {
  BufferAttribute,
  BufferGeometry,
  DynamicDrawUsage,
  Matrix4,
  Mesh,
  type Object3D,
  type Skeleton,
  type SkinnedMesh,
} from 'three';

const toLocal = new Matrix4();
const bone = new Matrix4();

/**
 * A skinned mesh that is bent here instead of on the graphics side. Where the processor stands in for a graphics card, it
 * does the same sums as plain arithmetic in a fraction of the time that it needs to play the card. Stands last among the
 * children of what holds both it and its joints, so that they have moved when its turn comes.
 */
export class SoftSkinned extends Mesh {
  private readonly skeleton: Skeleton;
  private readonly bindMatrix: Matrix4;
  /** Places and directions at rest, faces in. */
  private readonly restPlaces: Float32Array;
  private readonly restNormals: Float32Array;
  private readonly places: BufferAttribute;
  private readonly normals: BufferAttribute;
  private readonly joints: Uint16Array;
  private readonly weights: Float32Array;
  /** One 3 × 4 matrix a bone: from the mesh at rest to the holder's frame. */
  private readonly now: Float32Array;
  private readonly next: Float32Array;
  private readonly faces: { places: Float32Array; normals: Float32Array | undefined }[];
  private readonly bare: { places: Float32Array; normals: Float32Array };
  private readonly shownFaces: number[];
  private fresh = true;

  constructor(from: SkinnedMesh) {
    const g = from.geometry;
    const own = new BufferGeometry();
    super(own, from.material);
    this.frustumCulled = false;
    this.name = from.name;
    this.skeleton = from.skeleton;
    this.bindMatrix = from.bindMatrix;
    const read = (attribute: BufferAttribute, width: number): Float32Array => {
      const out = new Float32Array(width * attribute.count);
      for (let i = 0; i < attribute.count; i++)
        for (let k = 0; k < width; k++) out[width * i + k] = attribute.getComponent(i, k);
      return out;
    };
    const of = (name: string): BufferAttribute => g.getAttribute(name) as BufferAttribute;
    this.restPlaces = read(of('position'), 3);
    this.restNormals = read(of('normal'), 3);
    this.bare = { places: this.restPlaces.slice(), normals: this.restNormals.slice() };
    this.joints = Uint16Array.from(read(of('skinIndex'), 4));
    this.weights = read(of('skinWeight'), 4);
    this.places = new BufferAttribute(this.restPlaces.slice(), 3);
    this.normals = new BufferAttribute(this.restNormals.slice(), 3);
    this.places.setUsage(DynamicDrawUsage);
    this.normals.setUsage(DynamicDrawUsage);
    own.setAttribute('position', this.places);
    own.setAttribute('normal', this.normals);
    for (const kept of ['uv', 'color']) if (g.getAttribute(kept)) own.setAttribute(kept, g.getAttribute(kept));
    own.setIndex(g.getIndex());
    const n = this.skeleton.bones.length;
    this.now = new Float32Array(12 * n);
    this.next = new Float32Array(12 * n);
    this.morphTargetDictionary = from.morphTargetDictionary;
    this.morphTargetInfluences = from.morphTargetInfluences;
    this.faces = (g.morphAttributes.position ?? []).map((p, i) => ({
      places: read(p as BufferAttribute, 3),
      normals: g.morphAttributes.normal?.[i] && read(g.morphAttributes.normal[i] as BufferAttribute, 3),
    }));
    this.shownFaces = this.faces.map(() => 0);
  }

  override updateMatrixWorld(force?: boolean): void {
    super.updateMatrixWorld(force);
    this.wearFaces();
    this.bend();
  }

  /** Puts face shapes into the mesh at rest where they have changed. */
  private wearFaces(): void {
    const wanted = this.morphTargetInfluences ?? [];
    if (this.faces.every((_, i) => this.shownFaces[i] === (wanted[i] ?? 0))) return;
    this.restPlaces.set(this.bare.places);
    this.restNormals.set(this.bare.normals);
    this.faces.forEach((face, i) => {
      const w = wanted[i] ?? 0;
      this.shownFaces[i] = w;
      if (w === 0) return;
      for (let k = 0; k < this.restPlaces.length; k++) this.restPlaces[k]! += w * face.places[k]!;
      if (face.normals) for (let k = 0; k < this.restNormals.length; k++) this.restNormals[k]! += w * face.normals[k]!;
    });
    this.fresh = true;
  }

  private bend(): void {
    const { bones, boneInverses } = this.skeleton;
    const { next, now } = this;
    toLocal.copy(this.matrixWorld).invert();
    let moved = this.fresh;
    for (let b = 0; b < bones.length; b++) {
      bone.multiplyMatrices(toLocal, bones[b]!.matrixWorld).multiply(boneInverses[b]!).multiply(this.bindMatrix);
      const e = bone.elements;
      for (let k = 0; k < 12; k++) {
        // rows of the matrix, one after the other
        const x = e[4 * (k & 3) + (k >> 2)]!;
        if (Math.abs(x - next[12 * b + k]!) > 1e-6) moved = true;
        next[12 * b + k] = x;
      }
    }
    if (!moved) return;
    this.fresh = false;
    now.set(next);
    bendInto(this.places.array as Float32Array, this.normals.array as Float32Array, {
      places: this.restPlaces,
      normals: this.restNormals,
      joints: this.joints,
      weights: this.weights,
      bones: now,
    });
    this.places.needsUpdate = true;
    this.normals.needsUpdate = true;
  }
}

interface AtRest {
  places: Float32Array;
  normals: Float32Array;
  joints: Uint16Array;
  weights: Float32Array;
  /** 3 × 4 matrices, row by row, one a bone. */
  bones: Float32Array;
}

/** Blends the matrices of up to four bones for each vertex and moves it, and its direction, by the blend. Written out: it runs for every vertex of every picture. */
export function bendInto(
  outPlaces: Float32Array,
  outNormals: Float32Array,
  { places, normals, joints, weights, bones: m }: AtRest,
): void {
  const count = places.length / 3;
  for (let i = 0; i < count; i++) {
    const w = 4 * i;
    let a = 12 * joints[w]!;
    let s = weights[w]!;
    let m0 = s * m[a]!;
    let m1 = s * m[a + 1]!;
    let m2 = s * m[a + 2]!;
    let m3 = s * m[a + 3]!;
    let m4 = s * m[a + 4]!;
    let m5 = s * m[a + 5]!;
    let m6 = s * m[a + 6]!;
    let m7 = s * m[a + 7]!;
    let m8 = s * m[a + 8]!;
    let m9 = s * m[a + 9]!;
    let m10 = s * m[a + 10]!;
    let m11 = s * m[a + 11]!;
    for (let k = 1; k < 4; k++) {
      s = weights[w + k]!;
      if (s === 0) continue;
      a = 12 * joints[w + k]!;
      m0 += s * m[a]!;
      m1 += s * m[a + 1]!;
      m2 += s * m[a + 2]!;
      m3 += s * m[a + 3]!;
      m4 += s * m[a + 4]!;
      m5 += s * m[a + 5]!;
      m6 += s * m[a + 6]!;
      m7 += s * m[a + 7]!;
      m8 += s * m[a + 8]!;
      m9 += s * m[a + 9]!;
      m10 += s * m[a + 10]!;
      m11 += s * m[a + 11]!;
    }
    const t = 3 * i;
    const x = places[t]!;
    const y = places[t + 1]!;
    const z = places[t + 2]!;
    outPlaces[t] = m0 * x + m1 * y + m2 * z + m3;
    outPlaces[t + 1] = m4 * x + m5 * y + m6 * z + m7;
    outPlaces[t + 2] = m8 * x + m9 * y + m10 * z + m11;
    const u = normals[t]!;
    const v = normals[t + 1]!;
    const n = normals[t + 2]!;
    outNormals[t] = m0 * u + m1 * v + m2 * n;
    outNormals[t + 1] = m4 * u + m5 * v + m6 * n;
    outNormals[t + 2] = m8 * u + m9 * v + m10 * n;
  }
}

/** Puts soft meshes in the place of every skinned one below a root; the root's own frame becomes theirs. */
export function softened(root: Object3D): void {
  const found: SkinnedMesh[] = [];
  root.traverse((o) => {
    if ((o as SkinnedMesh).isSkinnedMesh) found.push(o as SkinnedMesh);
  });
  for (const skinned of found) {
    skinned.removeFromParent();
    root.add(new SoftSkinned(skinned));
  }
}
