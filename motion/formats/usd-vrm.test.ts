import { standIn } from '../body/stand-in';
import { guessBodyMap } from '../bodymap/guess';
import { jointOf } from '../bodymap/slots';
import { PoseReader } from '../motion/motion';
import { restPose } from '../rig/rig';
import { rigMesh } from '../rigging/rig-mesh';
import { buildRig, wander } from '../test/bodies';
import { fleshOf } from '../test/flesh';
import { importFile } from './import';
import { writeUsd } from './usd-write';
import { writeVrm, writeVrma } from './vrm-write';

const body = fleshOf('T');
const { rig, figure } = rigMesh(body.model, body.joints);
const motion = wander(rig, 12, 3, 30);

describe('USD', () => {
  const text = writeUsd({ rig, figure, clip: { name: 'a "wander"', motion } });
  /** A value of the text by its name, read without our writer's help. */
  const value = (name: string): string => {
    const from = text.indexOf(` ${name} = [`) + name.length + 4;
    return text.slice(from, text.indexOf(']', from) + 1);
  };
  const numbersOf = (s: string): number[] => [...s.matchAll(/-?\d+(?:\.\d+)?(?:e-?\d+)?/g)].map((m) => Number(m[0]));

  test('joints are paths, each below its parent', () => {
    const paths = [...value('uniform token[] joints').matchAll(/"([^"]+)"/g)].map((m) => m[1]!);
    expect(paths).toHaveLength(rig.names.length);
    rig.names.forEach((name, j) => {
      const p = rig.parents[j]!;
      expect(paths[j]).toBe(p < 0 ? name : `${paths[p]}/${name}`);
    });
  });

  test('bind transforms are places at rest, with vectors before matrices', () => {
    const all = numbersOf(text.slice(text.indexOf('bindTransforms'), text.indexOf('restTransforms')));
    const { p } = restPose(rig);
    rig.names.forEach((_, j) => {
      for (let k = 0; k < 3; k++) expect(all[16 * j + 12 + k]).toBeCloseTo(p[3 * j + k]!, 5);
      expect(all[16 * j + 3]).toBe(0);
    });
  });

  test('every frame has a sample, turns with w first, and names are made harmless', () => {
    const samples = /quatf\[\] rotations\.timeSamples = \{([^}]*)\}/.exec(text)![1]!;
    const rows = samples.trim().split('\n');
    expect(rows).toHaveLength(12);
    const [frame, ...numbers] = numbersOf(rows[5]!);
    expect(frame).toBe(5);
    const n = rig.names.length;
    for (let j = 0; j < n; j++) {
      const o = 4 * (5 * n + j);
      expect(numbers[4 * j]).toBeCloseTo(motion.turns[o + 3]!, 5);
      expect(numbers[4 * j + 1]).toBeCloseTo(motion.turns[o]!, 5);
    }
    expect(text).toContain('displayName = "a _wander_"');
    const odd = writeUsd({
      rig: { ...buildRig(), names: buildRig().names.map((_, j) => (j < 2 ? '1 odd/name' : `j${j}`)) },
    });
    expect(odd).toContain('"_1_odd_name"');
    expect(odd).toMatch(/"_1_odd_name\/_1_odd_name_2"/);
  });

  test('the mesh is whole: a triangle is three corners, a vertex four influences', () => {
    const mesh = figure.meshes[0]!;
    expect(numbersOf(value('int[] faceVertexIndices'))).toEqual([...mesh.indices]);
    expect(numbersOf(value('float[] primvars:skel:jointWeights'))).toHaveLength(mesh.weights.length);
  });
});

describe('VRM', () => {
  const map = guessBodyMap(rig);

  test('what is written is read again with its bones as a sure map', async () => {
    const bytes = await writeVrm({ rig, figure }, map, { name: 'Clay', authors: ['Noor'] });
    const json = JSON.parse(
      new TextDecoder().decode(bytes.subarray(20, 20 + new DataView(bytes.buffer).getUint32(12, true))),
    );
    expect(json.extensions.VRMC_vrm).toMatchObject({ specVersion: '1.0', meta: { name: 'Clay', authors: ['Noor'] } });
    expect(json.extensionsUsed).toContain('VRMC_vrm');
    for (const [bone, slot] of [
      ['hips', 'hips'],
      ['leftLowerArm', 'forearmL'],
      ['rightFoot', 'footR'],
    ] as const)
      expect(json.nodes[json.extensions.VRMC_vrm.humanoid.humanBones[bone].node].name).toBe(slot);
    const file = await importFile(bytes, 'clay.vrm');
    for (const slot of ['hips', 'spine1', 'head', 'upperArmL', 'footR'])
      expect(file.map.slots[slot]).toMatchObject({ state: 'sure', why: expect.stringContaining('own table') });
    expect(file.figure?.meshes).toHaveLength(figure.meshes.length);
  });

  test('an animation keeps its motion, and its table of bones', async () => {
    const whole = standIn('T');
    const moved = wander(whole, 9, 1, 30);
    const bytes = await writeVrma({ rig: whole, clips: [{ name: 'a', motion: moved }] }, guessBodyMap(whole));
    const file = await importFile(bytes, 'a.vrma');
    const [a, b] = [new PoseReader(whole, moved).at(6), new PoseReader(file.rig, file.clips[0]!.motion).at(6)];
    const [i, j] = [whole.names.indexOf('handL'), jointOf(file.map, 'handL')];
    const hips = [0, 1, 2].map((k) => a.p[k]! - b.p[k]!);
    for (let k = 0; k < 3; k++) expect(b.p[3 * j + k]! + hips[k]!).toBeCloseTo(a.p[3 * i + k]!, 4);
  });

  test('a body that is no humanoid is refused, with what it lacks', async () => {
    const { footL: _, ...slots } = map.slots;
    await expect(writeVrm({ rig, figure }, { ...map, slots }, { name: 'x', authors: [] })).rejects.toThrow(/leftFoot/);
  });
});

test('another reader of USD finds the same skeleton, skin and motion', async () => {
  const { USDLoader } = await import('three/examples/jsm/loaders/USDLoader.js');
  const clip = { name: 'wander', motion };
  const root = new USDLoader().parse(writeUsd({ rig, figure, clip }));
  root.updateMatrixWorld(true);
  const bones = new Map<string, Float64Array>();
  let skinned = 0;
  root.traverse((o) => {
    if ((o as { isBone?: boolean }).isBone) bones.set(o.name, Float64Array.from(o.matrixWorld.elements));
    if ((o as { isSkinnedMesh?: boolean }).isSkinnedMesh) skinned++;
  });
  expect(skinned).toBe(figure.meshes.length);
  const { p } = restPose(rig);
  for (const name of ['hips', 'head', 'handL', 'toesR']) {
    const j = rig.names.indexOf(name);
    const m = bones.get(name)!;
    for (let k = 0; k < 3; k++) expect(m[12 + k]).toBeCloseTo(p[3 * j + k]!, 4);
  }
  const { animations } = root as unknown as { animations: { duration: number }[] };
  expect(animations[0]!.duration).toBeCloseTo(11 / 30, 3);
});
