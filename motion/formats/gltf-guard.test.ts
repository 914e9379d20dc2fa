import { MotionError } from '../errors';
import { openGltf } from './gltf-guard';

type Json = Record<string, unknown>;
const bytesOf = (json: unknown): Uint8Array => new TextEncoder().encode(JSON.stringify(json));
const asset = { version: '2.0' };

/** A GLB of these chunks; `declared` overrules the length in its header. */
function glb(chunks: [type: number, data: Uint8Array][], declared?: number, version = 2): Uint8Array {
  const total = 12 + chunks.reduce((s, [, d]) => s + 8 + d.length, 0);
  const out = new Uint8Array(total);
  const view = new DataView(out.buffer);
  view.setUint32(0, 0x46546c67, true);
  view.setUint32(4, version, true);
  view.setUint32(8, declared ?? total, true);
  let at = 12;
  for (const [type, data] of chunks) {
    view.setUint32(at, data.length, true);
    view.setUint32(at + 4, type, true);
    out.set(data, at + 8);
    at += 8 + data.length;
  }
  return out;
}
const JSON_CHUNK = 0x4e4f534a;
const BINARY_CHUNK = 0x004e4942;

/** What is whole: one triangle's places, a skin of two nodes, an animation of one. */
const whole = (): Json => ({
  asset,
  buffers: [{ byteLength: 64 }],
  bufferViews: [{ buffer: 0, byteOffset: 0, byteLength: 64 }],
  accessors: [
    { bufferView: 0, componentType: 5126, type: 'VEC3', count: 3 },
    { bufferView: 0, byteOffset: 36, componentType: 5126, type: 'SCALAR', count: 2 },
  ],
  meshes: [{ primitives: [{ attributes: { POSITION: 0 } }] }],
  skins: [{ joints: [0, 1] }],
  nodes: [
    { children: [1], translation: [0, 1, 0] },
    { mesh: 0, skin: 0 },
  ],
  animations: [{ samplers: [{ input: 1, output: 0 }], channels: [{ sampler: 0, target: { node: 1 } }] }],
  scenes: [{ nodes: [0] }],
});
const packed = (json: unknown): Uint8Array =>
  glb([
    [JSON_CHUNK, bytesOf(json)],
    [BINARY_CHUNK, new Uint8Array(64)],
  ]);
const codeOf = (bytes: Uint8Array): string => {
  try {
    openGltf(bytes);
    return 'read';
  } catch (error) {
    if (error instanceof MotionError) return error.code;
    throw error;
  }
};

test('a whole file passes with its parts', () => {
  const { json, binary } = openGltf(packed(whole()));
  expect(json).toEqual(whole());
  expect(binary).toHaveLength(64);
});

describe('the shell', () => {
  test.each<[string, Uint8Array, string]>([
    ['nothing', new Uint8Array(0), 'empty'],
    ['a header cut off', glb([]), 'truncated'],
    ['version 1', glb([[JSON_CHUNK, bytesOf({ asset })]], undefined, 1), 'unsupported'],
    ['more bytes declared than there are', glb([[JSON_CHUNK, bytesOf({ asset })]], 5000), 'truncated'],
    ['no JSON', glb([[BINARY_CHUNK, new Uint8Array(16)]]), 'bad-structure'],
    ['JSON that is none', glb([[JSON_CHUNK, new TextEncoder().encode('{"asset":')]]), 'not-this-format'],
    ['bytes that are no text', Uint8Array.of(0xff, 0xfe, 0xfd), 'not-this-format'],
    ['JSON of something else', bytesOf({ hello: 1 }), 'not-this-format'],
    ['a list', bytesOf([asset]), 'not-this-format'],
  ])('%s', (_, bytes, code) => {
    expect(codeOf(bytes)).toBe(code);
  });

  test('a chunk that reaches beyond the end is named by its place', () => {
    const bytes = glb([[JSON_CHUNK, bytesOf({ asset, extras: 'x'.repeat(40) })]]);
    new DataView(bytes.buffer).setUint32(12, 4000, true);
    expect(() => openGltf(bytes)).toThrow(expect.objectContaining({ code: 'truncated', place: { byte: 12 } }));
  });
});

const changed = (change: (json: Json) => void): Uint8Array => {
  const json = whole();
  change(json);
  return packed(json);
};
const first = (json: Json, key: string): Json => (json[key] as Json[])[0]!;

describe('what is inside', () => {
  test.each<[string, string, (json: Json) => void]>([
    ['a list that is none', 'bad-structure', (j) => (j.nodes = 7)],
    ['a list of numbers', 'bad-structure', (j) => (j.skins = [1, 2])],
    ['required extensions that are no list', 'bad-structure', (j) => (j.extensionsRequired = 5)],
    ['packed meshes', 'unsupported', (j) => (j.extensionsRequired = ['KHR_draco_mesh_compression'])],
    ['packed buffers', 'unsupported', (j) => (j.extensionsRequired = ['EXT_meshopt_compression'])],
    ['a buffer without length', 'bad-structure', (j) => (first(j, 'buffers').byteLength = -1)],
    ['a buffer larger than the file', 'truncated', (j) => (first(j, 'buffers').byteLength = 1e9)],
    ['a buffer beside the file', 'unsupported', (j) => (first(j, 'buffers').uri = '../../etc/passwd')],
    ['a buffer on the net', 'unsupported', (j) => (first(j, 'buffers').uri = 'http://127.0.0.1/x.bin')],
    ['too little in a data address', 'truncated', (j) => (first(j, 'buffers').uri = 'data:;base64,AAAA')],
    ['a view of no buffer', 'bad-structure', (j) => (first(j, 'bufferViews').buffer = 3)],
    ['a view beyond its buffer', 'bad-structure', (j) => (first(j, 'bufferViews').byteOffset = 8)],
    ['a stride of a page', 'bad-structure', (j) => (first(j, 'bufferViews').byteStride = 4096)],
    ['numbers of no known kind', 'bad-structure', (j) => (first(j, 'accessors').componentType = 5130)],
    ['half a number of elements', 'bad-structure', (j) => (first(j, 'accessors').count = 1.5)],
    ['elements beyond their bytes', 'truncated', (j) => (first(j, 'accessors').count = 6)],
    [
      'more numbers than memory holds',
      'too-large',
      (j) => (j.accessors = [{ componentType: 5126, type: 'MAT4', count: 4e9 }]),
    ],
    ['a sparse part of nothing', 'bad-structure', (j) => (first(j, 'accessors').sparse = null)],
    [
      'a sparse part with more than the whole',
      'bad-structure',
      (j) => (first(j, 'accessors').sparse = { count: 4, indices: { bufferView: 0, componentType: 5123 }, values: {} }),
    ],
    [
      'a sparse part beyond its bytes',
      'truncated',
      (j) =>
        (first(j, 'accessors').sparse = {
          count: 3,
          indices: { bufferView: 0, byteOffset: 60, componentType: 5123 },
          values: { bufferView: 0 },
        }),
    ],
    ['a skin without joints', 'no-joints', (j) => (first(j, 'skins').joints = [])],
    ['a skin of joints that are not there', 'bad-structure', (j) => (first(j, 'skins').joints = [0, 9])],
    ['a mesh of numbers that are not there', 'bad-structure', (j) => (j.accessors = [])],
    [
      'an animation that reads nothing',
      'bad-structure',
      (j) => (first(j, 'animations').samplers = [{ input: 1, output: 8 }]),
    ],
    ['a channel without a sampler', 'bad-structure', (j) => (first(j, 'animations').samplers = [])],
    [
      'a channel to nowhere',
      'bad-structure',
      (j) => (first(j, 'animations').channels = [{ sampler: 0, target: null }]),
    ],
    ['children that are no list', 'bad-structure', (j) => (first(j, 'nodes').children = 1)],
    ['a child that is not there', 'bad-structure', (j) => (first(j, 'nodes').children = [2])],
    ['a place of two numbers', 'bad-number', (j) => (first(j, 'nodes').translation = [0, 1])],
    ['a turn of words', 'bad-number', (j) => (first(j, 'nodes').rotation = [0, 0, 0, '1'])],
    ['a scene of nothing', 'bad-structure', (j) => (j.scenes = [{ nodes: [5] }])],
  ])('%s is refused', (_, code, change) => {
    expect(codeOf(changed(change))).toBe(code);
  });
});

describe('the tree', () => {
  const of = (nodes: Json[]): string => codeOf(bytesOf({ asset, nodes }));
  test('a node of two parents, its own child and a circle are refused', () => {
    expect(of([{ children: [2] }, { children: [2] }, {}])).toBe('bad-structure');
    expect(of([{ children: [0] }])).toBe('bad-structure');
    expect(of([{ children: [1] }, { children: [2] }, { children: [0] }])).toBe('bad-structure');
  });
  test('more nodes than any body has are refused before anything is done with them', () => {
    const flat = (n: number): Json[] => Array.from({ length: n }, () => ({}));
    expect(of(flat(20_000))).not.toBe('too-large');
    expect(of(flat(20_001))).toBe('too-large');
  });

  test('two thousand deep is read, more is not', () => {
    const chain = (n: number): Json[] => Array.from({ length: n }, (_, i) => (i + 1 < n ? { children: [i + 1] } : {}));
    expect(of(chain(2000))).toBe('read');
    expect(of(chain(2001))).toBe('too-large');
  });
});
