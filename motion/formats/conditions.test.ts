import { restKind } from '../body/rest-kind';
import { standIn } from '../body/stand-in';
import { guessBodyMap } from '../bodymap/guess';
import type { Figure, FigureMesh } from '../rig/figure';
import { restPose, type SkeletonRig } from '../rig/rig';
import { engineConditions } from './conditions';

const rig = standIn('A', 1.7);

/** A figure with one vertex on every joint, and what is given of the first mesh. */
function skinned(of: SkeletonRig, more: Partial<FigureMesh> = {}): Figure {
  const n = of.names.length;
  const mesh: FigureMesh = {
    name: 'body',
    positions: new Float32Array(3 * n),
    normals: undefined,
    uvs: undefined,
    colors: undefined,
    indices: new Uint32Array(3),
    material: 0,
    shapes: [],
    joints: Uint16Array.from({ length: 4 * n }, (_, i) => (i % 4 === 0 ? i / 4 : 0)),
    weights: Float32Array.from({ length: 4 * n }, (_, i) => (i % 4 === 0 ? 1 : 0)),
    ...more,
  };
  return { meshes: [mesh], materials: [], images: [] };
}
const kindOf = (r: SkeletonRig) => restKind(restPose(r), guessBodyMap(r));
const breaches = (r: SkeletonRig, f: Figure | undefined, rest = kindOf(r)): string[] =>
  engineConditions(r, f, rest).flatMap((c) => (c.met ? [] : [c.code]));

test('a plain character meets them all, and each is told with what is here', () => {
  expect(breaches(rig, skinned(rig))).toEqual([]);
  const words = engineConditions(rig, skinned(rig), 'A').map((c) => c.words);
  expect(words).toContain('at most 4 influences a vertex: 1 at most here');
  expect(words).toContain('no face shapes to keep');
  expect(words).toContain('reference pose: A');
});

test('of a bare skeleton the skin is not judged', () => {
  expect(engineConditions(rig, undefined, 'T').map((c) => c.code)).toEqual([
    'one root',
    'joint count',
    'names',
    'reference pose',
  ]);
});

test('each breach is found and names what breaks it', () => {
  const n = rig.names.length;
  const half = skinned(rig, { weights: new Float32Array(4 * n).fill(0.2) });
  expect(breaches(rig, half)).toEqual(['weights']);
  const flat = new Float32Array(3 * n);
  const twice = skinned(rig, {
    shapes: [
      { name: 'smile', positions: flat },
      { name: 'smile', positions: flat },
    ],
  });
  expect(breaches(rig, twice)).toEqual(['shapes']);
  expect(engineConditions(rig, twice, 'A').find((c) => c.code === 'shapes')!.words).toContain('smile');
  // a control bone with a bone below it that carries nothing
  const helpers: SkeletonRig = {
    ...rig,
    names: [...rig.names, 'ctrl', 'ctrl tip', 'Ärmel'],
    parents: Int16Array.from([...rig.parents, 0, n, -1]) as never,
    restT: Float64Array.from([...rig.restT, ...new Array(9).fill(0)]) as never,
    restR: Float64Array.from([...rig.restR, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1]) as never,
  };
  expect(breaches(helpers, skinned(rig), 'A')).toEqual(['joints only', 'one root', 'names']);
  expect(engineConditions(helpers, skinned(rig), 'A').find((c) => c.code === 'names')!.words).toContain('Ärmel');
  expect(breaches(rig, skinned(rig), 'hanging')).toEqual(['reference pose']);
  const crowd: SkeletonRig = {
    ...rig,
    names: Array.from({ length: 300 }, (_, i) => `j${i}`),
    parents: Int16Array.from({ length: 300 }, (_, i) => i - 1) as never,
  };
  expect(breaches(crowd, undefined, 'T')).toEqual(['joint count']);
});
