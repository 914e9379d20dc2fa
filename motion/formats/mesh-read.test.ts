import { MotionError } from '../errors';
import { readMeshFile, readObj, readStl, sniffMesh } from './mesh-read';

const text = (s: string): Uint8Array => new TextEncoder().encode(s);
const OBJ = `# a square and a triangle
o square
v 0 0 0
v 1 0 0
v 1 1 0
v 0 1 0
vt 0 0
vt 1 0.25
f 1/1 2/2 3/2 4/1
g tri
f -4//  -3// -2//
`;

function binaryStl(triangles: readonly number[][]): Uint8Array {
  const bytes = new Uint8Array(84 + 50 * triangles.length);
  const view = new DataView(bytes.buffer);
  view.setUint32(80, triangles.length, true);
  triangles.forEach((p, t) => {
    p.forEach((x, k) => {
      view.setFloat32(84 + 50 * t + 12 + 4 * k, x, true);
    });
  });
  return bytes;
}

test('OBJ: polygons become triangles, corners count from either end, groups are meshes', () => {
  const { meshes } = readObj(text(OBJ));
  expect(meshes.map((m) => [m.name, m.indices.length / 3])).toEqual([
    ['square', 2],
    ['tri', 1],
  ]);
  expect([...meshes[0]!.uvs!.slice(0, 4)]).toEqual([0, 1, 1, 0.75]);
  expect([...meshes[1]!.normals!.slice(0, 3)]).toEqual([0, 0, 1]);
  expect(meshes[1]!.uvs).toBeUndefined();
});

test('STL: corners in one place are one vertex, in binary and as text alike', () => {
  const square = [
    [0, 0, 0, 1, 0, 0, 1, 1, 0],
    [0, 0, 0, 1, 1, 0, 0, 1, 0],
  ];
  const lines = square.map(
    (p) =>
      `facet normal 0 0 1\nouter loop\n${[0, 3, 6].map((o) => `vertex ${p.slice(o, o + 3).join(' ')}`).join('\n')}\nendloop\nendfacet`,
  );
  for (const bytes of [binaryStl(square), text(`solid a\n${lines.join('\n')}\nendsolid a`)]) {
    const [mesh] = readStl(bytes).meshes;
    expect(mesh!.positions.length / 3).toBe(4);
    expect(mesh!.indices.length / 3).toBe(2);
  }
});

test('what a file is, is told by its content before its name', () => {
  expect(sniffMesh(binaryStl([[0, 0, 0, 1, 0, 0, 1, 1, 0]]), 'a.obj')).toBe('stl');
  expect(sniffMesh(text(OBJ), 'a')).toBe('obj');
  expect(() => sniffMesh(text('hello there'), 'a.txt')).toThrow(MotionError);
});

test.each([
  ['a number that is none', 'v 0 0 x\n', 'bad-number', 1],
  ['a corner that is not there', 'v 0 0 0\nf 1 2 3\n', 'bad-structure', 2],
  ['no faces', 'v 0 0 0\n', 'no-mesh', undefined],
])('OBJ with %s is refused in a sentence', async (_, body, code, line) => {
  await expect(readMeshFile(text(`o a\n${body}`), 'bad.obj')).rejects.toMatchObject({
    code,
    place: { file: 'bad.obj', ...(line === undefined ? {} : { line: line + 1 }) },
  });
});
