import { BufferAttribute, type BufferGeometry, Group, Mesh, SphereGeometry, Vector3 } from 'three';
import { mergeVertices } from 'three/examples/jsm/utils/BufferGeometryUtils.js';
import { thinned } from './thin-mesh';

/** A welded ball of half a metre with a joint number and an own colour at every point. */
function ball(rows: number): BufferGeometry {
  const sphere = new SphereGeometry(0.5, 2 * rows, rows);
  sphere.deleteAttribute('uv');
  const g = mergeVertices(sphere, 1e-5);
  const n = g.getAttribute('position').count;
  const joint = Uint16Array.from({ length: 4 * n }, (_, i) => (i % 4 === 0 ? (i / 4) % 7 : 0));
  g.setAttribute('skinIndex', new BufferAttribute(joint, 4));
  return g;
}
const under = async (...geometries: BufferGeometry[]) => {
  const root = new Group();
  for (const g of geometries) root.add(new Mesh(g));
  await thinned(root);
  return geometries;
};
const at = (g: BufferGeometry, i: number) => new Vector3().fromBufferAttribute(g.getAttribute('position') as never, i);

test('a fine ball keeps its shape within a millimetre with far fewer faces', async () => {
  const fine = ball(90);
  const faces = fine.index!.count / 3;
  await under(fine);
  const left = fine.index!.count / 3;
  expect(left).toBeLessThan(0.35 * faces);
  expect(left).toBeGreaterThan(100);
  for (let t = 0; t < left; t++) {
    const middle = new Vector3();
    for (let k = 0; k < 3; k++) middle.addScaledVector(at(fine, fine.index!.getX(3 * t + k)), 1 / 3);
    expect(Math.abs(middle.length() - 0.5)).toBeLessThan(0.0016);
  }
});

test('every point that is left keeps what belongs to it', async () => {
  const before = ball(90);
  const [fine] = (await under(before.clone())) as [BufferGeometry];
  const own = new Map<string, number>();
  const key = (g: BufferGeometry, i: number) => at(g, i).toArray().join();
  for (let i = 0; i < before.getAttribute('position').count; i++)
    own.set(key(before, i), before.getAttribute('skinIndex').getX(i));
  const n = fine.getAttribute('position').count;
  expect(n).toBeLessThan(own.size / 2);
  expect(Math.max(...fine.index!.array)).toBe(n - 1);
  for (let i = 0; i < n; i++) {
    expect(own.get(key(fine, i))).toBe(fine.getAttribute('skinIndex').getX(i));
    expect(new Vector3().fromBufferAttribute(fine.getAttribute('normal') as never, i).dot(at(fine, i))).toBeCloseTo(
      0.5,
      3,
    );
  }
  expect(fine.getAttribute('skinIndex').array).toBeInstanceOf(Uint16Array);
});

test('small surfaces and those with face shapes stay whole', async () => {
  const small = ball(9);
  const face = ball(30);
  face.morphAttributes.position = [face.getAttribute('position').clone() as BufferAttribute];
  const counts = [small, face].map((g) => g.index!.count);
  await under(small, face);
  expect([small, face].map((g) => g.index!.count)).toEqual(counts);
});
