import { MotionError } from '../errors';
import { crossOf } from '../math/vec';
import type { FigureMaterial, Mesh, Model } from '../rig/figure';

/** Files that hold surfaces without a skeleton. */
export type MeshFormat = 'glb' | 'gltf' | 'obj' | 'stl';

const MAX_VERTICES = 3_000_000;
const PLAIN: FigureMaterial = {
  name: 'plain',
  color: [0.72, 0.68, 0.62, 1],
  roughness: 0.85,
  metallic: 0,
  doubleSided: true,
  image: -1,
};

/** What a file of surfaces is, by its content first. @throws MotionError 'not-this-format' */
export function sniffMesh(bytes: Uint8Array, fileName: string): MeshFormat {
  const head = new TextDecoder().decode(bytes.subarray(0, 400));
  if (head.startsWith('glTF')) return 'glb';
  if (/^\s*\{/.test(head) && /\.gltf$/i.test(fileName)) return 'gltf';
  if (/\.stl$/i.test(fileName) || isBinaryStl(bytes)) return 'stl';
  if (/\.obj$/i.test(fileName) || /^\s*(#|mtllib\s|o\s|g\s|v\s+-?\d)/m.test(head)) return 'obj';
  throw new MotionError('not-this-format', 'The file holds no surface that can be read: give a GLB, glTF, OBJ or STL.');
}

/**
 * Reads the surfaces of a GLB, glTF, OBJ or STL file as they stand, in the file's own units and axes.
 * @throws MotionError 'not-this-format', 'bad-number', 'bad-structure', 'no-mesh', 'too-large' or what a glTF refuses, with the file's name
 */
export async function readMeshFile(bytes: Uint8Array, fileName: string): Promise<{ format: MeshFormat; model: Model }> {
  try {
    const format = sniffMesh(bytes, fileName);
    if (format === 'obj') return { format, model: readObj(bytes) };
    if (format === 'stl') return { format, model: readStl(bytes) };
    const { readGltfModel } = await import('./gltf-read');
    return { format, model: await readGltfModel(bytes) };
  } catch (error) {
    if (error instanceof MotionError && error.place.file === undefined)
      throw new MotionError(error.code, error.message, { ...error.place, file: fileName });
    throw error;
  }
}

/**
 * Reads Wavefront OBJ: places, texture coordinates and normals of its faces, an object or group a mesh. Polygons are cut into
 * fans; materials, curves and smoothing groups are passed over.
 * @throws MotionError 'bad-number' or 'bad-structure' with the line, 'too-large', 'no-mesh'
 */
export function readObj(bytes: Uint8Array): Model {
  const places: number[] = [];
  const textures: number[] = [];
  const normals: number[] = [];
  const builders = new Map<string, MeshBuilder>();
  let name = 'mesh';
  let line = 0;
  const wrong = (code: 'bad-number' | 'bad-structure', what: string): MotionError =>
    new MotionError(code, what, { line });
  const numbers = (words: readonly string[], count: number, into: number[]): void => {
    for (let k = 1; k <= count; k++) {
      const x = Number(words[k]);
      if (words[k] === undefined || !Number.isFinite(x))
        throw wrong('bad-number', `"${words[0]}" needs ${count} numbers.`);
      into.push(x);
    }
    if (places.length > 3 * MAX_VERTICES)
      throw new MotionError('too-large', `The file has more than ${MAX_VERTICES} vertices.`);
  };
  /** A corner's place in a list: from 1, or counted back from the end. */
  const index = (word: string | undefined, count: number): number => {
    if (word === undefined || word === '') return -1;
    const i = Number(word);
    const at = i < 0 ? count + i : i - 1;
    if (!Number.isInteger(i) || at < 0 || at >= count)
      throw wrong('bad-structure', 'A face names a corner that is not there.');
    return at;
  };
  for (const text of new TextDecoder().decode(bytes).split('\n')) {
    line++;
    const words = text.trim().split(/\s+/);
    switch (words[0]) {
      case 'v':
        numbers(words, 3, places);
        break;
      case 'vt':
        numbers(words, 2, textures);
        break;
      case 'vn':
        numbers(words, 3, normals);
        break;
      case 'o':
      case 'g':
        name = words.slice(1).join(' ').slice(0, 200) || 'mesh';
        break;
      case 'f': {
        const builder = builders.get(name) ?? new MeshBuilder(name);
        builders.set(name, builder);
        const corners = words.slice(1).map((word) => {
          const [v, t, n] = word.split('/');
          const at = index(v, places.length / 3);
          if (at < 0) throw wrong('bad-structure', 'A face has a corner without a place.');
          return builder.corner(
            places.slice(3 * at, 3 * at + 3),
            pick(textures, index(t, textures.length / 2), 2),
            pick(normals, index(n, normals.length / 3), 3),
          );
        });
        for (let k = 2; k < corners.length; k++) builder.face(corners[0]!, corners[k - 1]!, corners[k]!);
        break;
      }
    }
  }
  return modelOf([...builders.values()]);
}

const pick = (list: readonly number[], at: number, width: number): number[] | undefined =>
  at < 0 ? undefined : list.slice(width * at, width * (at + 1));

const isBinaryStl = (bytes: Uint8Array): boolean =>
  bytes.length >= 84 &&
  84 + 50 * new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength).getUint32(80, true) === bytes.length;

/**
 * Reads STL, binary or as text; corners in one place become one vertex.
 * @throws MotionError 'not-this-format', 'bad-number', 'too-large', 'no-mesh'
 */
export function readStl(bytes: Uint8Array): Model {
  const builder = new MeshBuilder('mesh');
  const triangle = (p: readonly number[]): void => {
    if (!p.every(Number.isFinite)) throw new MotionError('bad-number', 'A triangle has a corner that is no number.');
    const [a, b, c] = [0, 3, 6].map((o) => builder.corner(p.slice(o, o + 3)));
    builder.face(a!, b!, c!);
  };
  if (isBinaryStl(bytes)) {
    const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    for (let o = 84; o + 50 <= bytes.length; o += 50)
      triangle(Array.from({ length: 9 }, (_, k) => view.getFloat32(o + 12 + 4 * k, true)));
  } else {
    const text = new TextDecoder().decode(bytes);
    if (!/^\s*solid\b/.test(text)) throw new MotionError('not-this-format', 'The file is no STL, or it is cut off.');
    let corners: number[] = [];
    for (const m of text.matchAll(/\bvertex\s+(\S+)\s+(\S+)\s+(\S+)/g)) {
      corners.push(Number(m[1]), Number(m[2]), Number(m[3]));
      if (corners.length < 9) continue;
      triangle(corners);
      corners = [];
    }
  }
  return modelOf([builder]);
}

function modelOf(builders: readonly MeshBuilder[]): Model {
  const meshes = builders.filter((b) => b.count > 0).map((b) => b.mesh());
  if (meshes.length === 0) throw new MotionError('no-mesh', 'The file has no faces.');
  return { meshes, materials: [PLAIN], images: [] };
}

/** Gathers corners that are alike into vertices. */
class MeshBuilder {
  private readonly known = new Map<string, number>();
  private readonly positions: number[] = [];
  private readonly uvs: number[] = [];
  private readonly normals: number[] = [];
  private readonly indices: number[] = [];
  private textured = true;
  private lit = true;

  constructor(private readonly name: string) {}

  get count(): number {
    return this.indices.length;
  }

  corner(place: readonly number[], uv?: readonly number[], normal?: readonly number[]): number {
    const key = [place, uv, normal].join('/');
    const before = this.known.get(key);
    if (before !== undefined) return before;
    const at = this.positions.length / 3;
    if (at >= MAX_VERTICES) throw new MotionError('too-large', `The file has more than ${MAX_VERTICES} vertices.`);
    this.known.set(key, at);
    this.positions.push(...place);
    // a picture's rows run downwards in glTF and upwards here
    this.uvs.push(uv?.[0] ?? 0, uv ? 1 - uv[1]! : 0);
    this.normals.push(...(normal ?? [0, 0, 0]));
    if (!uv) this.textured = false;
    if (!normal) this.lit = false;
    return at;
  }

  face(a: number, b: number, c: number): void {
    if (a !== b && b !== c && c !== a) this.indices.push(a, b, c);
  }

  mesh(): Mesh {
    const positions = Float32Array.from(this.positions);
    const indices = Uint32Array.from(this.indices);
    return {
      name: this.name,
      positions,
      normals: this.lit ? unitNormals(this.normals) : smoothNormals(positions, indices),
      uvs: this.textured ? Float32Array.from(this.uvs) : undefined,
      colors: undefined,
      indices,
      material: 0,
      shapes: [],
    };
  }
}

function unitNormals(values: readonly number[]): Float32Array {
  const out = Float32Array.from(values);
  for (let i = 0; i < out.length; i += 3) {
    const long = Math.hypot(out[i]!, out[i + 1]!, out[i + 2]!);
    if (long > 1e-12) for (let k = 0; k < 3; k++) out[i + k]! /= long;
    else out[i + 1] = 1;
  }
  return out;
}

/** Normals of vertices from the faces around them, each by its area. */
export function smoothNormals(p: Float32Array, indices: Uint32Array): Float32Array {
  const out = new Array<number>(p.length).fill(0);
  for (let t = 0; t < indices.length; t += 3) {
    const [a, b, c] = [3 * indices[t]!, 3 * indices[t + 1]!, 3 * indices[t + 2]!];
    const u = [0, 1, 2].map((k) => p[b + k]! - p[a + k]!);
    const v = [0, 1, 2].map((k) => p[c + k]! - p[a + k]!);
    const n = crossOf(u, v);
    for (const i of [a, b, c]) for (let k = 0; k < 3; k++) out[i + k]! += n[k]!;
  }
  return unitNormals(out);
}
