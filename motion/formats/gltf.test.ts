import { Document, WebIO } from '@gltf-transform/core';
import { validateBytes } from 'gltf-validator';
import { largestError } from '../codec/error';
import { MotionError } from '../errors';
import { angleBetweenQuats, axisAngleQuat } from '../math/quat';
import type { Motion } from '../motion/motion';
import { type Figure, weightDeviation } from '../rig/figure';
import { restPose } from '../rig/rig';
import { blockFigure } from '../test/block-figure';
import { posedRig, wander } from '../test/bodies';
import { readGltf, readGltfModel } from './gltf-read';
import { writeGlb, writeScene } from './gltf-write';
import { importFile } from './import';
import { KEY_CURVES } from './key-reduce';

const rig = posedRig(45, 1, true);

/** A GLB whose JSON was changed. */
function withJson(good: Uint8Array, change: (json: Record<string, never>) => void): Uint8Array {
  const view = new DataView(good.buffer, good.byteOffset);
  const length = view.getUint32(12, true);
  const json = JSON.parse(new TextDecoder().decode(good.subarray(20, 20 + length))) as Record<string, never>;
  change(json);
  let text = JSON.stringify(json);
  while (new TextEncoder().encode(text).length % 4) text += ' ';
  const body = new TextEncoder().encode(text);
  const rest = good.subarray(20 + length);
  const out = new Uint8Array(20 + body.length + rest.length);
  out.set(good.subarray(0, 20));
  out.set(body, 20);
  out.set(rest, 20 + body.length);
  new DataView(out.buffer).setUint32(8, out.length, true);
  new DataView(out.buffer).setUint32(12, body.length, true);
  return out;
}

/** A triangle at every joint, and a face shape on the mesh. */
function figureOf(count = rig.names.length): Figure {
  const rest = restPose(rig);
  const positions = new Float32Array(9 * count);
  const joints = new Uint16Array(12 * count);
  const weights = new Float32Array(12 * count);
  for (let j = 0; j < count; j++) {
    for (let v = 0; v < 3; v++) {
      for (let k = 0; k < 3; k++) positions[9 * j + 3 * v + k] = rest.p[3 * j + k]! + (v === k ? 0.03 : 0);
      joints[12 * j + 4 * v] = j;
      weights[12 * j + 4 * v] = 1;
    }
  }
  const normals = new Float32Array(9 * count).map((_, i) => (i % 3 === 1 ? 1 : 0));
  return {
    meshes: [
      {
        name: 'body',
        positions,
        normals,
        uvs: undefined,
        colors: undefined,
        joints,
        weights,
        indices: Uint32Array.from({ length: 3 * count }, (_, i) => i),
        material: 0,
        shapes: [{ name: 'smile', positions: new Float32Array(9 * count).fill(0.01) }],
      },
    ],
    materials: [
      { name: 'cloth', color: [0.5, 0.2, 0.1, 1], roughness: 0.8, metallic: 0, doubleSided: false, image: -1 },
    ],
    images: [],
  };
}

async function verdict(bytes: Uint8Array): Promise<string[]> {
  const report = await validateBytes(bytes);
  return report.issues.messages.filter((m) => m.severity <= 1).map((m) => `${m.code} ${m.pointer ?? ''} ${m.message}`);
}

test.each(KEY_CURVES)('face shapes keep few keys in a file as joints do, %s between them', async (keyCurves) => {
  const motion = {
    ...wander(rig, 60),
    numbers: [{ name: 'smile', values: Float32Array.from({ length: 60 }, (_, f) => Math.max(0, f - 30) / 30) }],
  };
  const bytes = await writeGlb({
    rig,
    figure: figureOf(),
    clips: [{ name: 'a', motion }],
    keyTolerance: 0.002,
    keyCurves,
  });
  expect(await verdict(bytes)).toEqual([]);
  const channels = (await new WebIO().readBinary(bytes)).getRoot().listAnimations()[0]!.listChannels();
  const weights = channels.find((c) => c.getTargetPath() === 'weights')!;
  expect(weights.getSampler()!.getInput()!.getCount()).toBeLessThan(10);
  const back = (await readGltf(bytes)).clips[0]!.motion.numbers.find((t) => t.name === 'smile')!;
  back.values.forEach((x, f) => {
    expect(Math.abs(x - motion.numbers[0]!.values[f]!)).toBeLessThan(0.01);
  });
});

test('a scene of two skinned bodies and a camera is valid', async () => {
  const body = { rig, figure: figureOf() };
  const shots = [0, 1, 2].map((f) => ({ eye: [f, 1, 3] as const, target: [0, 1, 0] as const, fov: 30 }));
  const bytes = await writeScene({
    name: 'Fog bell',
    bodies: [
      { name: 'Ines', ...body, motion: wander(rig, 3, 1, 30) },
      { name: 'Pip', ...body, motion: wander(rig, 3, 2, 30) },
    ],
    cameras: [{ name: 'quay', shots }],
    fps: 30,
  });
  expect(await verdict(bytes)).toEqual([]);
});

describe('writing GLB', () => {
  const motion = {
    ...wander(rig, 30),
    numbers: [{ name: 'smile', values: Float32Array.from({ length: 30 }, (_, f) => f / 30) }],
  };
  test.each([
    ['joints, mesh and motion', { rig, figure: figureOf(), clips: [{ name: 'wander', motion }] }],
    ['joints and motion', { rig, clips: [{ name: 'wander', motion: wander(rig, 30) }] }],
    ['a character at rest', { rig, figure: figureOf() }],
    ['a bare skeleton', { rig }],
    [
      'two clips',
      {
        rig,
        figure: figureOf(),
        clips: [
          { name: 'a', motion },
          { name: 'b', motion: wander(rig, 5, 3) },
        ],
      },
    ],
    ['a pose', { rig, figure: figureOf(), clips: [{ name: 'pose', motion: wander(rig, 1) }] }],
  ])('the Khronos validator finds nothing in %s', async (_, content) => {
    expect(await verdict(await writeGlb(content))).toEqual([]);
  });

  test('reads back equal: rig, mesh, motion, face shapes', async () => {
    const back = await readGltf(await writeGlb({ rig, figure: figureOf(), clips: [{ name: 'wander', motion }] }));
    expect(back.rig.names).toEqual(rig.names);
    expect([...back.rig.parents]).toEqual([...rig.parents]);
    back.rig.restT.forEach((x, i) => {
      expect(x).toBeCloseTo(rig.restT[i]!, 5);
    });
    expect(back.clips[0]!.name).toBe('wander');
    expect(back.clips[0]!.motion.fps).toBe(60);
    expect(largestError(rig, motion, back.clips[0]!.motion)).toBeLessThan(1e-5);
    expect(back.clips[0]!.motion.numbers[0]!.name).toBe('smile');
    expect(back.clips[0]!.motion.numbers[0]!.values[15]).toBeCloseTo(0.5, 5);
    back.figure!.meshes[0]!.positions.forEach((x, i) => {
      expect(x).toBeCloseTo(figureOf().meshes[0]!.positions[i]!, 5);
    });
    expect(weightDeviation(back.figure!)).toBeLessThan(1e-6);
    expect(back.figure!.meshes[0]!.shapes[0]!.name).toBe('smile');
  });

  test('a clip in which nothing moves keeps its length', async () => {
    const still: Motion = {
      fps: 30,
      frameCount: 31,
      turns: Float32Array.from({ length: 31 * rig.restR.length }, (_, i) => rig.restR[i % rig.restR.length]!),
      places: [],
      numbers: [],
      scales: [],
      steps: [],
    };
    const back = await readGltf(await writeGlb({ rig, clips: [{ name: 'still', motion: still }] }));
    expect(back.clips[0]!.motion.frameCount).toBe(31);
  });
});

/** Builds glTF by hand, with all that other writers do differently. */
async function handMade(
  change: (parts: {
    document: Document;
    hip: ReturnType<Document['createNode']>;
    knee: ReturnType<Document['createNode']>;
    armature: ReturnType<Document['createNode']>;
    buffer: ReturnType<Document['createBuffer']>;
  }) => void,
): Promise<Uint8Array> {
  const document = new Document();
  const buffer = document.createBuffer();
  const knee = document.createNode('knee').setTranslation([0, -40, 0]);
  const hip = document.createNode('hip').setTranslation([0, 90, 0]).addChild(knee);
  const armature = document.createNode('armature').setScale([0.01, 0.01, 0.01]).addChild(hip);
  document.createScene().addChild(armature);
  change({ document, hip, knee, armature, buffer });
  return new WebIO().writeBinary(document);
}

function addTurn(
  document: Document,
  node: ReturnType<Document['createNode']>,
  times: number[],
  values: number[],
  interpolation: 'LINEAR' | 'STEP' | 'CUBICSPLINE',
  path: 'rotation' | 'translation' = 'rotation',
): void {
  const buffer = document.getRoot().listBuffers()[0]!;
  const input = document.createAccessor().setType('SCALAR').setArray(new Float32Array(times)).setBuffer(buffer);
  const output = document
    .createAccessor()
    .setType(path === 'rotation' ? 'VEC4' : 'VEC3')
    .setArray(new Float32Array(values))
    .setBuffer(buffer);
  const sampler = document.createAnimationSampler().setInput(input).setOutput(output).setInterpolation(interpolation);
  const animation = document.getRoot().listAnimations()[0] ?? document.createAnimation('clip');
  animation
    .addSampler(sampler)
    .addChannel(document.createAnimationChannel().setTargetNode(node).setTargetPath(path).setSampler(sampler));
}

describe('reading glTF', () => {
  const quarter = [0, 0, Math.SQRT1_2, Math.SQRT1_2];
  test.each([
    ['LINEAR', [0, 0, 0, 1, ...quarter], 45],
    ['STEP', [0, 0, 0, 1, ...quarter], 0],
    ['CUBICSPLINE', [0, 0, 0, 0, 0, 0, 0, 1, 0, 0, 0, 0, 0, 0, 0, 0, ...quarter, 0, 0, 0, 0], 45],
  ] as const)('%s keys, halfway', async (interpolation, values, degrees) => {
    const bytes = await handMade(({ document, knee }) => addTurn(document, knee, [0, 1], [...values], interpolation));
    const { rig: read, clips } = await readGltf(bytes);
    const { motion } = clips[0]!;
    const middle = Math.round(motion.frameCount / 2 - 0.5);
    const joint = read.names.indexOf('knee');
    const q = [0, 0, 0, 1];
    axisAngleQuat(
      q,
      0,
      0,
      0,
      1,
      ((degrees * Math.PI) / 180) * (interpolation === 'STEP' ? 1 : (middle / motion.fps) * 2),
    );
    expect(
      (angleBetweenQuats(motion.turns, 4 * (middle * read.names.length + joint), q, 0) * 180) / Math.PI,
    ).toBeLessThan(interpolation === 'CUBICSPLINE' ? 1.5 : 0.01);
  });

  test('scales of nodes above become lengths', async () => {
    const bytes = await handMade(({ document, hip, knee }) => {
      addTurn(document, knee, [0, 1], [0, 0, 0, 1, ...quarter], 'LINEAR');
      addTurn(document, hip, [0, 1], [0, 90, 0, 100, 90, 0], 'LINEAR', 'translation');
    });
    const { rig: read, clips } = await readGltf(bytes);
    expect(read.names).toEqual(['hip', 'knee']);
    expect(read.restT[1]).toBeCloseTo(0.9, 6);
    expect(read.restT[4]).toBeCloseTo(-0.4, 6);
    const track = clips[0]!.motion.places[0]!.values;
    expect(track.at(-3)).toBeCloseTo(1, 5);
    expect(track.at(-2)).toBeCloseTo(0.9, 5);
  });

  test('weights are normalised, cut to four, and stray ones named', async () => {
    const bytes = await handMade(({ document, hip, knee, buffer }) => {
      const vec = (type: 'VEC3' | 'VEC4', array: Float32Array<ArrayBuffer> | Uint8Array<ArrayBuffer>) =>
        document.createAccessor().setType(type).setArray(array).setBuffer(buffer);
      const primitive = document
        .createPrimitive()
        .setAttribute('POSITION', vec('VEC3', new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0])))
        .setAttribute('JOINTS_0', vec('VEC4', new Uint8Array([0, 1, 0, 0, 1, 0, 0, 0, 0, 0, 0, 0])))
        .setAttribute('WEIGHTS_0', vec('VEC4', new Float32Array([0.5, 0.1, 0, 0, 3, 1, 0, 0, 0, 0, 0, 0])));
      const skin = document.createSkin().addJoint(hip).addJoint(knee);
      const node = document.createNode('mesh').setMesh(document.createMesh('m').addPrimitive(primitive)).setSkin(skin);
      document.getRoot().listScenes()[0]!.addChild(node);
    });
    const { figure } = await readGltf(bytes);
    const { weights, joints } = figure!.meshes[0]!;
    expect(weightDeviation(figure!)).toBeLessThan(1e-6);
    expect(weights[4]).toBeCloseTo(0.75, 6);
    expect(joints[4]).toBe(1);
    expect(weights[8]).toBe(1);
  });

  test.each<[string, (good: Uint8Array) => Uint8Array, string]>([
    ['a cut file', (b) => b.slice(0, b.length - 200), 'truncated'],
    ['a cut header', (b) => b.slice(0, 15), 'truncated'],
    ['an old version', (b) => b.map((x, i) => (i === 4 ? 1 : x)), 'unsupported'],
    ['garbage in the JSON', (b) => b.map((x, i) => (i === 24 ? 0 : x)), 'not-this-format'],
    ['nothing', () => new Uint8Array(0), 'empty'],
  ])('refuses %s', async (_, spoil, code) => {
    const good = await writeGlb({ rig, clips: [{ name: 'wander', motion: wander(rig, 10) }] });
    await expect(readGltf(spoil(good))).rejects.toMatchObject({ name: 'MotionError', code });
  });

  test.each<[string, (json: Record<string, never>) => void, string]>([
    ['a view beyond its buffer', (j) => Object.assign(j.bufferViews![0]!, { byteLength: 1e9 }), 'bad-structure'],
    ['an accessor beyond its view', (j) => Object.assign(j.accessors![0]!, { count: 1e6 }), 'truncated'],
    ['nodes in a circle', (j) => Object.assign(j.nodes!, [{ children: [1] }, { children: [0] }]), 'bad-structure'],
    ['a node with two parents', (j) => Object.assign(j.nodes![0]!, { children: [1, 1] }), 'bad-structure'],
    [
      'an animation of a node that is not there',
      (j) =>
        Object.assign((j.animations as unknown as object[])[0]!, {
          channels: [{ sampler: 0, target: { node: 999, path: 'rotation' } }],
        }),
      'bad-structure',
    ],
    ['a file beside it', (j) => Object.assign(j.buffers![0]!, { uri: '../../etc/passwd' }), 'unsupported'],
  ])('refuses %s', async (_, spoil, code) => {
    const good = await writeGlb({ rig, clips: [{ name: 'wander', motion: wander(rig, 10) }] });
    await expect(readGltf(withJson(good, spoil))).rejects.toMatchObject({ name: 'MotionError', code });
  });

  test('a picture that lies beside the file is done without, and told', async () => {
    const { rig: block, figure } = blockFigure();
    const good = await writeGlb({ rig: block, figure });
    const file = withJson(good, (j) =>
      Object.assign(j, {
        images: [{ uri: 'coat of Ines.png', mimeType: 'image/png' }],
        textures: [{ source: 0 }],
        materials: [{ pbrMetallicRoughness: { baseColorTexture: { index: 0 } } }],
      }),
    );
    const { figure: read, warnings } = await readGltf(file);
    expect(read!.meshes).toHaveLength(6);
    expect(warnings.join(' ')).toMatch(/a picture beside it \(coat of Ines\.png\)/);
  });

  test('a file that is not what its ending says is told by its content', async () => {
    await expect(importFile(new TextEncoder().encode('<svg/>'), 'walk.glb')).rejects.toThrow(
      /although its name ends in .glb/,
    );
    await expect(importFile(new Uint8Array(0), 'walk.bvh')).rejects.toBeInstanceOf(MotionError);
  });

  describe('meshes without a skeleton', () => {
    /** A box-like scrap under a node that is moved, turned and scaled. */
    const prop = async (mode: 4 | 1 = 4): Promise<Uint8Array> => {
      const document = new Document();
      const buffer = document.createBuffer();
      const primitive = document
        .createPrimitive()
        .setMode(mode)
        .setAttribute(
          'POSITION',
          document
            .createAccessor()
            .setType('VEC3')
            .setArray(Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0))
            .setBuffer(buffer),
        );
      const mesh = document.createMesh('bell').addPrimitive(primitive);
      const holder = document.createNode('holder').setTranslation([0, 2, 0]).setScale([2, 2, 2]);
      const half = Math.SQRT1_2;
      holder.addChild(document.createNode('inner').setRotation([0, 0, half, half]).setMesh(mesh));
      document.createScene().addChild(holder);
      return new WebIO().writeBinary(document);
    };

    test('stand where the file shows them', async () => {
      const { meshes, materials } = await readGltfModel(await prop());
      expect(meshes.map((m) => m.name)).toEqual(['bell']);
      expect(materials).toHaveLength(1);
      expect([...meshes[0]!.positions].map((x) => Number(x.toFixed(5)) + 0)).toEqual([0, 2, 0, 0, 4, 0, -2, 2, 0]);
      expect('joints' in meshes[0]!).toBe(false);
    });

    test('a character’s mesh is the same with its skeleton and without', async () => {
      const bytes = await writeGlb({ rig, figure: figureOf(), clips: [] });
      const { figure } = await readGltf(bytes);
      const { meshes } = await readGltfModel(bytes);
      expect(meshes[0]!.positions.length).toBe(figure!.meshes[0]!.positions.length);
      meshes[0]!.positions.forEach((x, i) => {
        expect(x).toBeCloseTo(figure!.meshes[0]!.positions[i]!, 5);
      });
    });

    test('lines alone are no mesh', async () => {
      await expect(readGltfModel(await prop(1))).rejects.toThrow('has no mesh');
    });
  });
});
