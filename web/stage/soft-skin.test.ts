import { seeded } from '@velvet-reel/motion';
import {
  Bone,
  BufferAttribute,
  CylinderGeometry,
  Group,
  Matrix4,
  MeshBasicMaterial,
  Skeleton,
  SkinnedMesh,
  Vector3,
} from 'three';
import { SoftSkinned, softened } from './soft-skin';

/** A tube on three bones, each vertex held by up to four weights, with a face shape that bulges it. */
function tube(seed: number): { root: Group; skinned: SkinnedMesh; bones: Bone[] } {
  const random = seeded(seed);
  const geometry = new CylinderGeometry(0.2, 0.3, 2, 7, 6);
  const n = geometry.getAttribute('position').count;
  const index = new Uint8Array(4 * n);
  const weight = new Float32Array(4 * n);
  for (let i = 0; i < n; i++) {
    const w = Array.from({ length: 4 }, () => (random() < 0.4 ? 0 : random()));
    w[0]! += 0.1;
    const sum = w.reduce((a, b) => a + b, 0);
    for (let k = 0; k < 4; k++) {
      index[4 * i + k] = Math.floor(3 * random());
      weight[4 * i + k] = w[k]! / sum;
    }
  }
  geometry.setAttribute('skinIndex', new BufferAttribute(index, 4));
  geometry.setAttribute('skinWeight', new BufferAttribute(weight, 4));
  const bulge = Float32Array.from({ length: 3 * n }, () => 0.1 * (random() - 0.5));
  geometry.morphAttributes.position = [new BufferAttribute(bulge, 3)];
  geometry.morphTargetsRelative = true;
  const bones = [0, 1, 2].map((i) => {
    const b = new Bone();
    b.position.y = i === 0 ? -1 : 1;
    return b;
  });
  bones[0]!.add(bones[1]!);
  bones[1]!.add(bones[2]!);
  const root = new Group();
  root.position.set(3, 1, -2);
  root.rotation.y = 0.7;
  root.add(bones[0]!);
  const skinned = new SkinnedMesh(geometry, new MeshBasicMaterial());
  skinned.morphTargetDictionary = { bulge: 0 };
  skinned.morphTargetInfluences = [0];
  root.add(skinned);
  root.updateMatrixWorld(true);
  skinned.bind(new Skeleton(bones));
  return { root, skinned, bones };
}
const pose = (bones: Bone[], t: number): void =>
  bones.forEach((b, i) => b.rotation.set(0.4 * Math.sin(t + i), 0.3 * Math.cos(2 * t), 0.5 * Math.sin(t - i)));
/** World places of all vertices as the package itself would have them. */
function expected({ root, skinned }: ReturnType<typeof tube>): Vector3[] {
  root.updateMatrixWorld(true);
  skinned.skeleton.update();
  return Array.from({ length: skinned.geometry.getAttribute('position').count }, (_, i) =>
    skinned.getVertexPosition(i, new Vector3()).applyMatrix4(skinned.matrixWorld),
  );
}
function softPlaces(root: Group): Vector3[] {
  root.updateMatrixWorld(true);
  const soft = root.children.at(-1) as SoftSkinned;
  expect(soft).toBeInstanceOf(SoftSkinned);
  const p = soft.geometry.getAttribute('position');
  return Array.from({ length: p.count }, (_, i) =>
    new Vector3().fromBufferAttribute(p as BufferAttribute, i).applyMatrix4(soft.matrixWorld),
  );
}
const furthest = (a: Vector3[], b: Vector3[]): number => Math.max(...a.map((v, i) => v.distanceTo(b[i]!)));

test('a soft mesh stands where a skinned one would, in every pose, wherever its holder stands', () => {
  for (let seed = 1; seed <= 5; seed++) {
    const [hard, soft] = [tube(seed), tube(seed)];
    softened(soft.root);
    for (const t of [0, 0.6, 1.7, 3.1]) {
      for (const x of [hard, soft]) {
        pose(x.bones, t);
        x.root.position.x = 3 + t;
      }
      expect(furthest(softPlaces(soft.root), expected(hard))).toBeLessThan(1e-5);
    }
  }
});

test('face shapes are worn before the bending, and taken off without a trace', () => {
  const [hard, soft] = [tube(7), tube(7)];
  softened(soft.root);
  const face = soft.root.children.at(-1) as SoftSkinned;
  const before = softPlaces(soft.root);
  for (const w of [1, 0.35]) {
    for (const x of [hard, soft]) pose(x.bones, 1);
    hard.skinned.morphTargetInfluences![0] = w;
    face.morphTargetInfluences![0] = w;
    expect(furthest(softPlaces(soft.root), expected(hard))).toBeLessThan(1e-5);
  }
  face.morphTargetInfluences![0] = 0;
  pose(soft.bones, 0);
  for (const b of soft.bones) b.rotation.set(0, 0, 0);
  expect(furthest(softPlaces(soft.root), before)).toBeLessThan(1e-5);
});

test('directions turn with the bones', () => {
  const { root, bones } = tube(3);
  softened(root);
  for (const b of bones) b.rotation.set(0, 0, 0);
  bones[0]!.rotation.z = Math.PI / 2;
  root.updateMatrixWorld(true);
  const soft = root.children.at(-1) as SoftSkinned;
  const rest = new CylinderGeometry(0.2, 0.3, 2, 7, 6).getAttribute('normal');
  const now = soft.geometry.getAttribute('normal');
  const turn = new Matrix4().makeRotationZ(Math.PI / 2);
  for (let i = 0; i < now.count; i++) {
    const wanted = new Vector3().fromBufferAttribute(rest as BufferAttribute, i).transformDirection(turn);
    expect(
      new Vector3()
        .fromBufferAttribute(now as BufferAttribute, i)
        .normalize()
        .distanceTo(wanted),
    ).toBeLessThan(1e-5);
  }
});

test('nothing is sent to the graphics side while nothing moves against the holder', () => {
  const { root, bones } = tube(4);
  softened(root);
  root.updateMatrixWorld(true);
  const places = (root.children.at(-1) as SoftSkinned).geometry.getAttribute('position') as BufferAttribute;
  const version = places.version;
  root.position.x += 5;
  root.updateMatrixWorld(true);
  expect(places.version).toBe(version);
  bones[1]!.rotation.x += 0.1;
  root.updateMatrixWorld(true);
  expect(places.version).toBe(version + 1);
});
