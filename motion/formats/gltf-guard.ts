import { MotionError } from '../errors';

// What must hold before a glTF file may reach the reader: every index in range, no count beyond its bytes, no loops.

type Json = Record<string, unknown>;
const list = (json: Json, key: string): Json[] => {
  const v = json[key];
  if (v === undefined) return [];
  if (!Array.isArray(v) || v.some((x) => typeof x !== 'object' || x === null)) {
    throw new MotionError('bad-structure', `"${key}" is not a list of objects.`);
  }
  return v as Json[];
};
const whole = (v: unknown): v is number => typeof v === 'number' && Number.isInteger(v) && v >= 0;
const BYTES: Record<number, number> = { 5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4 };
const WIDTH: Record<string, number> = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4, MAT2: 4, MAT3: 9, MAT4: 16 };
const MAX_ELEMENTS = 30_000_000;
/** Nodes, meshes and their like: far beyond what bodies and props need, and each takes a reader time. */
const MAX_COUNT = 20_000;
const REFUSED_EXTENSIONS: Record<string, string> = {
  KHR_draco_mesh_compression: 'Its meshes are compressed (Draco). Export it without mesh compression.',
  EXT_meshopt_compression: 'Its buffers are compressed (meshopt). Export it without compression.',
};

export interface GltfParts {
  readonly json: Json;
  /** The binary chunk of a GLB; undefined for a .gltf. */
  readonly binary: Uint8Array | undefined;
  /** Pictures that lie beside the file, by what it calls them: a white one stands in for each. */
  readonly missing: readonly string[];
}

/** Splits GLB or .gltf bytes into JSON and binary and checks both. Throws MotionError only. */
export function openGltf(bytes: Uint8Array): GltfParts {
  if (bytes.length === 0) throw new MotionError('empty', 'The file is empty.');
  const isGlb = bytes.length >= 4 && bytes[0] === 0x67 && bytes[1] === 0x6c && bytes[2] === 0x54 && bytes[3] === 0x46;
  const parts = isGlb ? splitGlb(bytes) : { json: parseJson(bytes, 0), binary: undefined };
  check(parts);
  return { ...parts, missing: standInPictures(parts.json) };
}

/** A single white pixel, PNG. */
const WHITE =
  'data:image/png;base64,iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAIAAACQd1PeAAAADElEQVR42mP4//8/AAX+Av4zEpUUAAAAAElFTkSuQmCC';

/** Puts a white picture in place of each that lies beside the file: a body moves without its colours, too. @returns their names */
function standInPictures(json: Json): string[] {
  const missing: string[] = [];
  for (const image of list(json, 'images')) {
    if (typeof image.uri !== 'string' || image.uri.startsWith('data:')) continue;
    missing.push(image.uri.slice(0, 80));
    image.uri = WHITE;
    delete image.mimeType;
  }
  return missing;
}

function splitGlb(bytes: Uint8Array): Omit<GltfParts, 'missing'> {
  if (bytes.length < 20)
    throw new MotionError('truncated', 'The file ends inside the GLB header.', { byte: bytes.length });
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (view.getUint32(4, true) !== 2)
    throw new MotionError('unsupported', `It is glTF version ${view.getUint32(4, true)}; version 2 is read.`, {
      byte: 4,
    });
  const total = view.getUint32(8, true);
  if (total > bytes.length)
    throw new MotionError('truncated', `${total} bytes are declared, ${bytes.length} are there.`, {
      byte: bytes.length,
    });
  let json: Json | undefined;
  let binary: Uint8Array | undefined;
  for (let at = 12; at + 8 <= total; ) {
    const length = view.getUint32(at, true);
    const type = view.getUint32(at + 4, true);
    if (at + 8 + length > total)
      throw new MotionError('truncated', 'A chunk reaches beyond the end of the file.', { byte: at });
    const chunk = bytes.subarray(at + 8, at + 8 + length);
    if (type === 0x4e4f534a && !json) json = parseJson(chunk, at + 8);
    else if (type === 0x004e4942 && !binary) binary = chunk;
    at += 8 + length;
  }
  if (!json) throw new MotionError('bad-structure', 'The file holds no JSON chunk.', { byte: 12 });
  return { json, binary };
}

function parseJson(bytes: Uint8Array, byte: number): Json {
  try {
    const value: unknown = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes));
    if (typeof value === 'object' && value !== null && !Array.isArray(value) && 'asset' in value) return value as Json;
  } catch {
    // falls through to the sentence below
  }
  throw new MotionError('not-this-format', 'The file is neither GLB nor readable glTF JSON.', { byte });
}

function check({ json, binary }: Omit<GltfParts, 'missing'>): void {
  const required = json.extensionsRequired ?? [];
  if (!Array.isArray(required)) throw new MotionError('bad-structure', '"extensionsRequired" is not a list.');
  for (const name of required) {
    const why = REFUSED_EXTENSIONS[String(name)];
    if (why) throw new MotionError('unsupported', why);
  }
  demandCounts(json);
  const buffers = list(json, 'buffers');
  buffers.forEach((b, i) => {
    if (!whole(b.byteLength)) throw new MotionError('bad-structure', `Buffer ${i} has no length.`);
    if (b.uri === undefined) {
      if (!binary || b.byteLength > binary.length)
        throw new MotionError(
          'truncated',
          `Buffer ${i} declares ${b.byteLength} bytes, ${binary?.length ?? 0} are there.`,
        );
    } else if (typeof b.uri !== 'string' || !b.uri.startsWith('data:')) {
      throw new MotionError(
        'unsupported',
        `It refers to the file "${String(b.uri).slice(0, 80)}" beside it. Export it as one GLB file.`,
      );
    } else {
      const inside = Math.floor(((b.uri.length - b.uri.indexOf(',') - 1) * 3) / 4);
      if (inside < (b.byteLength as number) - 2)
        throw new MotionError('truncated', `Buffer ${i} declares ${b.byteLength} bytes, ${inside} are there.`);
    }
  });
  const views = list(json, 'bufferViews');
  views.forEach((v, i) => {
    const buffer = buffers[v.buffer as number];
    const offset = v.byteOffset ?? 0;
    const stride = v.byteStride ?? 4;
    if (!buffer || !whole(v.byteLength) || !whole(offset) || offset + v.byteLength > (buffer.byteLength as number)) {
      throw new MotionError('bad-structure', `Buffer view ${i} reaches beyond its buffer.`);
    }
    if (!whole(stride) || stride < 1 || stride > 252)
      throw new MotionError('bad-structure', `Buffer view ${i} has a stride outside 4 to 252.`);
  });
  const accessors = list(json, 'accessors');
  let elements = 0;
  accessors.forEach((a, i) => {
    const size = BYTES[a.componentType as number];
    const width = WIDTH[a.type as string];
    if (!size || !width || !whole(a.count))
      throw new MotionError('bad-structure', `Accessor ${i} has no valid type or count.`);
    elements += a.count * width;
    if (elements > MAX_ELEMENTS)
      throw new MotionError('too-large', `The file declares more than ${MAX_ELEMENTS} numbers.`);
    if (a.bufferView !== undefined) checkSpan(views[a.bufferView as number], a, size * width, `Accessor ${i}`);
    if (a.sparse !== undefined) checkSparse(a.sparse as Json, views, a.count, size * width, i);
  });
  checkReferences(json, accessors.length);
  checkTree(list(json, 'nodes'));
}

function checkSpan(view: Json | undefined, a: Json, size: number, what: string): void {
  const offset = a.byteOffset ?? 0;
  const stride = (view?.byteStride as number | undefined) ?? size;
  const count = a.count as number;
  if (!view || !whole(offset) || (count > 0 && offset + stride * (count - 1) + size > (view.byteLength as number))) {
    throw new MotionError('truncated', `${what} reads beyond its bytes.`);
  }
}

function checkSparse(sparse: Json, views: Json[], count: number, size: number, i: number): void {
  const indices = sparse?.indices as Json | undefined;
  const values = sparse?.values as Json | undefined;
  const bytes = BYTES[indices?.componentType as number];
  if (!whole(sparse?.count) || sparse.count > count || !indices || !values || !bytes)
    throw new MotionError('bad-structure', `Accessor ${i} has a broken sparse part.`);
  checkSpan(
    views[indices.bufferView as number],
    { ...indices, count: sparse.count },
    bytes,
    `The sparse part of accessor ${i}`,
  );
  checkSpan(
    views[values.bufferView as number],
    { ...values, count: sparse.count },
    size,
    `The sparse part of accessor ${i}`,
  );
}

function checkReferences(json: Json, accessors: number): void {
  const counts: Record<string, number> = { accessor: accessors };
  for (const key of ['nodes', 'meshes', 'skins', 'materials', 'textures', 'images', 'samplers', 'cameras'])
    counts[key] = list(json, key).length;
  const need = (v: unknown, of: string, what: string): void => {
    if (!whole(v) || v >= counts[of]!)
      throw new MotionError('bad-structure', `${what} refers to something that is not in the file.`);
  };
  const maybe = (v: unknown, of: string, what: string): void => {
    if (v !== undefined) need(v, of, what);
  };
  const each = (v: unknown, of: string, what: string): void => {
    if (v !== undefined && !Array.isArray(v)) throw new MotionError('bad-structure', `${what} is not a list.`);
    for (const x of (v as unknown[] | undefined) ?? []) need(x, of, what);
  };
  list(json, 'skins').forEach((s, i) => {
    if (!Array.isArray(s.joints) || s.joints.length === 0)
      throw new MotionError('no-joints', `Skin ${i} names no joints.`);
    each(s.joints, 'nodes', `Skin ${i}`);
    maybe(s.inverseBindMatrices, 'accessor', `Skin ${i}`);
    maybe(s.skeleton, 'nodes', `Skin ${i}`);
  });
  list(json, 'meshes').forEach((m, i) => {
    for (const p of list(m, 'primitives')) {
      const attributes = (p.attributes as Json | undefined) ?? {};
      for (const a of Object.values(attributes)) need(a, 'accessor', `Mesh ${i}`);
      maybe(p.indices, 'accessor', `Mesh ${i}`);
      maybe(p.material, 'materials', `Mesh ${i}`);
      for (const t of list(p, 'targets')) for (const a of Object.values(t)) need(a, 'accessor', `Mesh ${i}`);
    }
  });
  list(json, 'animations').forEach((a, i) => {
    const samplers = list(a, 'samplers');
    for (const s of samplers) {
      need(s.input, 'accessor', `Animation ${i}`);
      need(s.output, 'accessor', `Animation ${i}`);
    }
    for (const c of list(a, 'channels')) {
      if (!whole(c.sampler) || c.sampler >= samplers.length || typeof c.target !== 'object' || c.target === null) {
        throw new MotionError('bad-structure', `Animation ${i} has a channel without a sampler or target.`);
      }
      maybe((c.target as Json).node, 'nodes', `Animation ${i}`);
    }
  });
  list(json, 'nodes').forEach((n, i) => {
    maybe(n.mesh, 'meshes', `Node ${i}`);
    maybe(n.skin, 'skins', `Node ${i}`);
    each(n.children, 'nodes', `Node ${i}`);
    for (const [key, width] of [
      ['translation', 3],
      ['rotation', 4],
      ['scale', 3],
      ['matrix', 16],
    ] as const) {
      const v = n[key];
      if (v === undefined) continue;
      if (!Array.isArray(v) || v.length !== width || v.some((x) => typeof x !== 'number' || !Number.isFinite(x))) {
        throw new MotionError('bad-number', `The ${key} of node ${i} is not ${width} finite numbers.`);
      }
    }
  });
  list(json, 'scenes').forEach((s, i) => each(s.nodes, 'nodes', `Scene ${i}`));
}

/** Lists that are gone through one by one are bounded before anything is. */
function demandCounts(json: Json): void {
  for (const [key, what] of [
    ['nodes', 'nodes'],
    ['meshes', 'meshes'],
    ['skins', 'skins'],
    ['animations', 'animations'],
  ] as const) {
    const n = list(json, key).length;
    if (n > MAX_COUNT) throw new MotionError('too-large', `The file has ${n} ${what}; at most ${MAX_COUNT} are read.`);
  }
}

function checkTree(nodes: Json[]): void {
  const parent = new Int32Array(nodes.length).fill(-1);
  nodes.forEach((n, i) => {
    for (const c of (n.children as number[] | undefined) ?? []) {
      if (parent[c] !== -1 || c === i) throw new MotionError('bad-structure', `Node ${c} has two parents.`);
      parent[c] = i;
    }
  });
  for (let i = 0; i < nodes.length; i++) {
    let steps = 0;
    for (let j = i; j >= 0; j = parent[j]!) {
      if (++steps > nodes.length) throw new MotionError('bad-structure', 'The nodes form a circle.');
      if (steps > 2000) throw new MotionError('too-large', 'The nodes are nested more than 2000 deep.');
    }
  }
}
