import { writeGlb } from '../formats/gltf-write';
import { importFile } from '../formats/import';
import { buildRig } from '../test/bodies';
import { humanoidNodes, humanoidSlots } from './humanoid';
import { jointOf } from './slots';

const rig = buildRig(undefined, () => '');
const named = { ...rig, names: rig.names.map((_, j) => `n${j}`) };
const ORDER = ['hips', 'spine', 'chest', 'neck', 'head', 'leftShoulder', 'leftUpperArm', 'leftLowerArm', 'leftHand'];

/** A GLB with a table put into its JSON. */
async function withTable(extensions: object): Promise<Uint8Array> {
  const glb = await writeGlb({ rig: named, clips: [] });
  const view = new DataView(glb.buffer, glb.byteOffset, glb.byteLength);
  const length = view.getUint32(12, true);
  const json = JSON.parse(new TextDecoder().decode(glb.subarray(20, 20 + length)));
  const text = new TextEncoder().encode(JSON.stringify({ ...json, extensions }));
  const padded = new Uint8Array(Math.ceil(text.length / 4) * 4).fill(32);
  padded.set(text);
  const out = new Uint8Array(20 + padded.length + (glb.length - 20 - length));
  out.set(glb.subarray(0, 12));
  const head = new DataView(out.buffer);
  head.setUint32(8, out.length, true);
  head.setUint32(12, padded.length, true);
  head.setUint32(16, 0x4e4f534a, true);
  out.set(padded, 20);
  out.set(glb.subarray(20 + length), 20 + padded.length);
  return out;
}

/** Which node each joint became in the file. */
async function nodesOf(): Promise<Map<string, number>> {
  const glb = await writeGlb({ rig: named, clips: [] });
  const length = new DataView(glb.buffer, glb.byteOffset).getUint32(12, true);
  const json = JSON.parse(new TextDecoder().decode(glb.subarray(20, 20 + length))) as { nodes: { name?: string }[] };
  return new Map(json.nodes.map((n, i) => [n.name ?? '', i]));
}

test.each(['now', 'before'])(
  'a file’s own table of bones is believed, whatever joints are called (%s)',
  async (form) => {
    const nodes = await nodesOf();
    const bones = ORDER.map((bone, j) => [bone, nodes.get(`n${j}`)!] as const);
    const file = await importFile(
      await withTable(
        form === 'now'
          ? { VRMC_vrm: { humanoid: { humanBones: Object.fromEntries(bones.map(([b, node]) => [b, { node }])) } } }
          : { VRM: { humanoid: { humanBones: bones.map(([bone, node]) => ({ bone, node })) } } },
      ),
      'x.glb',
    );
    for (const [slot, j] of Object.entries({ hips: 0, spine1: 1, spine2: 2, neck1: 3, head: 4, handL: 8 })) {
      expect([slot, file.rig.names[jointOf(file.map, slot)]]).toEqual([slot, `n${j}`]);
      expect(file.map.slots[slot]!.state).toBe('sure');
    }
    // what the table leaves out is still looked for
    expect(file.rig.names[jointOf(file.map, 'shinR')]).toBe(`n${rig.parents.length - 3}`);
  },
);

test('a wrong table overrules the names: the hand is where the file says', async () => {
  const nodes = await nodesOf();
  const file = await importFile(
    await withTable({ VRMC_vrm: { humanoid: { humanBones: { leftHand: { node: nodes.get('n7') } } } } }),
    'x.glb',
  );
  expect(file.rig.names[jointOf(file.map, 'handL')]).toBe('n7');
  expect(file.map.slots.forearmL!.joint).toBe(-1);
});

test('tables that hold anything else are passed over', () => {
  for (const extensions of [undefined, 7, { VRMC_vrm: { humanoid: { humanBones: { hips: { node: -1 }, head: 3 } } } }])
    expect(humanoidNodes({ extensions } as never).size).toBe(0);
  const fingers = humanoidSlots(
    new Map([
      ['leftThumbMetacarpal', 1],
      ['leftThumbProximal', 2],
      ['leftLittleDistal', 3],
    ]),
  );
  expect([...fingers]).toEqual([
    ['thumb1L', 1],
    ['thumb2L', 2],
    ['pinky1L', 3],
  ]);
});
