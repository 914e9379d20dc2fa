import { Accessor, type Animation, Document, type Node, type Scene, WebIO } from '@gltf-transform/core';
import { composeMat, invertMat } from '../math/mat4';
import { basisQuat, normalizeQuat } from '../math/quat';
import { cross3, normalize3 } from '../math/vec';
import type { Motion } from '../motion/motion';
import type { Figure } from '../rig/figure';
import { restPose, type SkeletonRig } from '../rig/rig';
import { type KeyCurves, type ReducedKeys, reduceKeys, slopeAt } from './key-reduce';

export interface GlbContent {
  readonly rig: SkeletonRig;
  /** Leave it out for joints only. */
  readonly figure?: Figure | undefined;
  /** With keys that are chosen already, or chosen here. */
  readonly clips?: readonly {
    readonly name: string;
    readonly motion: Motion;
    readonly keys?: ReducedKeys | undefined;
  }[];
  /** Leave out keys as far as no point moves by more than this, metres; every frame is a key without it. */
  readonly keyTolerance?: number | undefined;
  /** What runs between keys where some are left out: LINEAR or CUBICSPLINE; straight without it. */
  readonly keyCurves?: KeyCurves | undefined;
}

/**
 * Writes rig, figure and clips as one GLB: joints are nodes 0 … J − 1 in rig order, tracks that never leave the rest are
 * left out, at most four influences a vertex. Tips of leaf joints travel in the node's extras ("tip").
 */
export async function writeGlb(content: GlbContent): Promise<Uint8Array> {
  const { rig, figure, clips = [], keyTolerance, keyCurves } = content;
  // a buffer that nothing is in would be invalid
  const file = newFile(figure !== undefined || clips.length > 0);
  const body = putBody(file, file.scene, rig, figure);
  for (const clip of clips) {
    const animation = file.document.createAnimation(clip.name).setExtras({ fps: clip.motion.fps });
    const chosen = () =>
      keyTolerance === undefined ? undefined : reduceKeys(rig, clip.motion, keyTolerance, keyCurves);
    writeClip(file, animation, clip.motion, rig, body, clip.keys ?? chosen());
  }
  return new WebIO().writeBinary(file.document);
}

/** How a camera looks: eye and what it looks at, metres, Y up; opening from top to bottom, degrees. */
export interface SceneShot {
  readonly eye: readonly [number, number, number];
  readonly target: readonly [number, number, number];
  readonly fov: number;
}

/** Several bodies that play together. */
export interface SceneContent {
  readonly name: string;
  /** Each below a node of its name; motions begin at one moment. */
  readonly bodies: readonly {
    readonly name: string;
    readonly rig: SkeletonRig;
    readonly figure?: Figure | undefined;
    readonly motion: Motion;
  }[];
  /** Cameras by name, with where they stand at every frame of the bodies' motions. */
  readonly cameras?: readonly { readonly name: string; readonly shots: readonly SceneShot[] }[] | undefined;
  readonly fps: number;
}

/** Writes several bodies, and cameras, as one scene with one animation in which all of them move. */
export async function writeScene({ name, bodies, cameras = [], fps }: SceneContent): Promise<Uint8Array> {
  const file = newFile(bodies.length + cameras.length > 0);
  const animation = file.document.createAnimation(name).setExtras({ fps });
  for (const { name: who, rig, figure, motion } of bodies) {
    const under = file.document.createNode(who);
    file.scene.addChild(under);
    writeClip(file, animation, motion, rig, putBody(file, under, rig, figure), undefined);
  }
  for (const camera of cameras) putCamera(file, animation, camera, fps);
  return new WebIO().writeBinary(file.document);
}

interface File {
  readonly document: Document;
  readonly scene: Scene;
  readonly accessor: MakeAccessor;
}

function newFile(filled: boolean): File {
  const document = new Document();
  document.getRoot().getAsset().generator = 'Velvet Reel';
  const buffer = filled ? document.createBuffer() : null;
  const scene = document.createScene('scene');
  document.getRoot().setDefaultScene(scene);
  const accessor: MakeAccessor = (type, array) =>
    document
      .createAccessor()
      .setType(Accessor.Type[type]!)
      .setArray(array as Float32Array<ArrayBuffer>)
      .setBuffer(buffer);
  return { document, scene, accessor };
}

interface Body {
  readonly nodes: readonly Node[];
  readonly meshNodes: readonly MeshNode[];
}

function putBody(file: File, under: Scene | Node, rig: SkeletonRig, figure: Figure | undefined): Body {
  const { document } = file;
  const nodes: Node[] = rig.names.map((name, j) => {
    const node = document
      .createNode(name)
      .setTranslation([rig.restT[3 * j]!, rig.restT[3 * j + 1]!, rig.restT[3 * j + 2]!])
      .setRotation(unit([...rig.restR.subarray(4 * j, 4 * j + 4)]));
    if (!Number.isNaN(rig.tips[3 * j]!)) node.setExtras({ tip: [...rig.tips.subarray(3 * j, 3 * j + 3)] });
    return node;
  });
  rig.parents.forEach((p, j) => {
    if (p >= 0) nodes[p]!.addChild(nodes[j]!);
    else under.addChild(nodes[j]!);
  });
  return { nodes, meshNodes: figure ? writeFigure(file, nodes, rig, figure) : [] };
}

/** A camera looks along its own −Z; its opening is that of its first frame, since glTF animates no lens. */
function putCamera(
  { document, scene, accessor }: File,
  animation: Animation,
  { name, shots }: { readonly name: string; readonly shots: readonly SceneShot[] },
  fps: number,
): void {
  const first = shots[0];
  if (!first) return;
  const lens = document
    .createCamera(name)
    .setType('perspective')
    .setYFov((first.fov * Math.PI) / 180)
    .setZNear(0.05);
  const node = document.createNode(name).setCamera(lens);
  scene.addChild(node);
  const places = new Float32Array(3 * shots.length);
  const turns = new Float32Array(4 * shots.length);
  shots.forEach(({ eye, target }, f) => {
    places.set(eye, 3 * f);
    const back = eye.map((x, k) => x - target[k]!);
    normalize3(back, 0);
    // straight up or down what is up in the picture is ahead
    const upright = Math.abs(back[1]!) < 1 - 1e-6 ? [0, 1, 0] : [0, 0, -1];
    const [aside, up] = [
      [0, 0, 0],
      [0, 0, 0],
    ];
    cross3(aside, 0, upright, 0, back, 0);
    normalize3(aside, 0);
    cross3(up, 0, back, 0, aside, 0);
    basisQuat(turns, 4 * f, aside, up, back);
  });
  node.setTranslation([...first.eye]).setRotation([turns[0]!, turns[1]!, turns[2]!, turns[3]!]);
  if (shots.length < 2) return;
  const times = accessor(
    'SCALAR',
    Float32Array.from(shots, (_, f) => f / fps),
  );
  for (const [path, type, values] of [
    ['translation', 'VEC3', places],
    ['rotation', 'VEC4', turns],
  ] as const) {
    const sampler = document.createAnimationSampler().setInput(times).setOutput(accessor(type, values));
    animation
      .addSampler(sampler)
      .addChannel(document.createAnimationChannel().setTargetNode(node).setTargetPath(path).setSampler(sampler));
  }
}

function unit(q: number[]): [number, number, number, number] {
  const l = Math.hypot(...q) || 1;
  return [q[0]! / l, q[1]! / l, q[2]! / l, q[3]! / l];
}

interface MeshNode {
  node: Node;
  shapes: readonly string[];
}

type MakeAccessor = (
  type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4' | 'MAT4',
  array: Float32Array | Uint16Array | Uint32Array,
) => Accessor;

function writeFigure(
  { document, scene, accessor }: File,
  nodes: readonly Node[],
  rig: SkeletonRig,
  figure: Figure,
): MeshNode[] {
  const rest = restPose(rig);
  const inverse = new Float32Array(16 * nodes.length);
  nodes.forEach((_, j) => {
    const m = composeMat(rest.p.subarray(3 * j, 3 * j + 3), rest.r.subarray(4 * j, 4 * j + 4), [1, 1, 1]);
    inverse.set(invertMat(m)!, 16 * j);
    inverse[16 * j + 15] = 1;
  });
  const skin = document.createSkin('skin').setInverseBindMatrices(accessor('MAT4', inverse));
  for (const node of nodes) skin.addJoint(node);
  const materials = figure.materials.map((m) => {
    const material = document
      .createMaterial(m.name)
      .setBaseColorFactor([...m.color])
      .setRoughnessFactor(m.roughness)
      .setMetallicFactor(m.metallic)
      .setDoubleSided(m.doubleSided);
    const image = figure.images[m.image];
    if (image)
      material.setBaseColorTexture(
        document
          .createTexture(m.name)
          .setImage(image.bytes as Uint8Array<ArrayBuffer>)
          .setMimeType(image.mime),
      );
    return material;
  });
  return figure.meshes.map((mesh) => {
    const primitive = document
      .createPrimitive()
      .setIndices(accessor('SCALAR', mesh.positions.length / 3 > 65535 ? mesh.indices : Uint16Array.from(mesh.indices)))
      .setAttribute('POSITION', accessor('VEC3', mesh.positions))
      .setAttribute('JOINTS_0', accessor('VEC4', mesh.joints))
      .setAttribute('WEIGHTS_0', accessor('VEC4', mesh.weights))
      .setMaterial(materials[mesh.material] ?? null);
    if (mesh.normals) primitive.setAttribute('NORMAL', accessor('VEC3', mesh.normals));
    if (mesh.uvs) primitive.setAttribute('TEXCOORD_0', accessor('VEC2', mesh.uvs));
    if (mesh.colors) primitive.setAttribute('COLOR_0', accessor('VEC4', mesh.colors));
    for (const shape of mesh.shapes) {
      primitive.addTarget(
        document.createPrimitiveTarget(shape.name).setAttribute('POSITION', accessor('VEC3', shape.positions)),
      );
    }
    const shapes = mesh.shapes.map((s) => s.name);
    const made = document.createMesh(mesh.name).addPrimitive(primitive);
    if (shapes.length > 0) made.setExtras({ targetNames: shapes }).setWeights(shapes.map(() => 0));
    const node = document.createNode(mesh.name).setMesh(made).setSkin(skin);
    // a skinned mesh goes by its joints, wherever it hangs
    scene.addChild(node);
    return { node, shapes };
  });
}

function writeClip(
  { document, accessor }: File,
  animation: Animation,
  motion: Motion,
  rig: SkeletonRig,
  { nodes, meshNodes }: Body,
  keys: ReducedKeys | undefined,
): void {
  const inputs = new Map<string, Accessor>();
  const n = nodes.length;
  const every = accessor(
    'SCALAR',
    Float32Array.from({ length: motion.frameCount }, (_, f) => f / motion.fps),
  );
  let once: Accessor | undefined;
  const add = (
    node: Node,
    path: 'rotation' | 'translation' | 'weights',
    type: 'SCALAR' | 'VEC3' | 'VEC4',
    values: Float32Array,
    width: number,
    kept?: Uint32Array,
  ): void => {
    // the first track keeps every key, so that a clip that stands still keeps its length
    const still = animation.listChannels().length > 0 && motion.frameCount > 1 && isStill(values, width);
    once ??= still ? accessor('SCALAR', new Float32Array([0])) : undefined;
    const some = kept && !still && kept.length < motion.frameCount ? kept : undefined;
    const curved = some && keys?.curves === 'smooth';
    const output = still
      ? values.slice(0, width)
      : curved
        ? withTangents(values, width, some, motion.fps)
        : some
          ? pick(values, width, some)
          : values;
    const sampler = document
      .createAnimationSampler()
      .setInput(still ? once! : some ? inputOf(some) : every)
      .setOutput(accessor(type, output))
      .setInterpolation(curved ? 'CUBICSPLINE' : 'LINEAR');
    animation
      .addSampler(sampler)
      .addChannel(document.createAnimationChannel().setTargetNode(node).setTargetPath(path).setSampler(sampler));
  };
  // tracks with the same keys share one accessor
  const inputOf = (kept: Uint32Array): Accessor => {
    const key = kept.join(' ');
    const made =
      inputs.get(key) ??
      accessor(
        'SCALAR',
        Float32Array.from(kept, (f) => f / motion.fps),
      );
    inputs.set(key, made);
    return made;
  };
  let last = -1;
  for (let j = 0; j < n; j++) {
    const values = new Float32Array(4 * motion.frameCount);
    let moved = false;
    for (let f = 0; f < motion.frameCount; f++) {
      const o = 4 * (f * n + j);
      for (let k = 0; k < 4; k++) {
        const x = motion.turns[o + k]!;
        values[4 * f + k] = x;
        if (Math.abs(x - rig.restR[4 * j + k]!) > 1e-6) moved = true;
      }
      normalizeQuat(values, 4 * f);
    }
    if (moved) {
      add(nodes[j]!, 'rotation', 'VEC4', values, 4, keys?.turns[j]);
      last = j;
    }
  }
  motion.places.forEach((track, i) => {
    add(nodes[track.joint]!, 'translation', 'VEC3', track.values, 3, keys?.places[i]);
    last = track.joint;
  });
  for (const { node, shapes } of meshNodes) {
    const tracks = shapes.map((s) => motion.numbers.find((t) => t.name === s)?.values);
    if (!tracks.some(Boolean)) continue;
    const values = new Float32Array(shapes.length * motion.frameCount);
    for (let f = 0; f < motion.frameCount; f++)
      for (let k = 0; k < shapes.length; k++) values[f * shapes.length + k] = tracks[k]?.[f] ?? 0;
    add(node, 'weights', 'SCALAR', values, shapes.length, keys && keysOfShapes(motion, keys.numbers, shapes));
  }
  if (last < 0) {
    const values = new Float32Array(4 * motion.frameCount);
    const still = unit([...rig.restR.subarray(0, 4)]);
    for (let f = 0; f < motion.frameCount; f++) values.set(still, 4 * f);
    add(nodes[0]!, 'rotation', 'VEC4', values, 4);
  }
}

/** Frames that are keys of any of a mesh's shapes: a file keys all of them together. */
function keysOfShapes({ numbers }: Motion, keys: readonly Uint32Array[], shapes: readonly string[]): Uint32Array {
  const own = numbers.flatMap((t, i) => (shapes.includes(t.name) ? [...keys[i]!] : []));
  return Uint32Array.from(new Set(own)).sort();
}

function pick(values: Float32Array, width: number, frames: Uint32Array): Float32Array {
  const out = new Float32Array(width * frames.length);
  frames.forEach((f, i) => {
    out.set(values.subarray(width * f, width * (f + 1)), width * i);
  });
  return out;
}

/** In-tangent, value and out-tangent of every key, tangents a second; both are the motion's own slope there. */
function withTangents(values: Float32Array, width: number, frames: Uint32Array, fps: number): Float32Array {
  const track = { values, offset: 0, stride: width, width, frames: values.length / width };
  const out = new Float32Array(3 * width * frames.length);
  frames.forEach((f, i) => {
    for (let k = 0; k < width; k++) {
      const slope = slopeAt(track, k, f) * fps;
      const o = 3 * width * i + k;
      out[o] = slope;
      out[o + width] = values[width * f + k]!;
      out[o + 2 * width] = slope;
    }
  });
  return out;
}

function isStill(values: Float32Array, width: number): boolean {
  for (let o = width; o < values.length; o++) if (Math.abs(values[o]! - values[o % width]!) > 1e-7) return false;
  return true;
}
