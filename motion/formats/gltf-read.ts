import { type Document, type Node, type Skin, WebIO } from '@gltf-transform/core';
import { humanoidNodes, humanoidSlots } from '../bodymap/humanoid';
import type { Slot } from '../bodymap/slots';
import { MotionError } from '../errors';
import { composeMat, decomposeMat, identityMat, invertMat, type Mat4, mulMat } from '../math/mat4';
import { invMulQuat, normalizeQuat, rotate3 } from '../math/quat';
import type { Motion } from '../motion/motion';
import type { Figure, Model } from '../rig/figure';
import { MAX_JOINTS, NORMAL_SPACE, type SkeletonRig } from '../rig/rig';
import { readClips } from './gltf-clips';
import { readFigure, readModel } from './gltf-figure';
import { type GltfParts, openGltf } from './gltf-guard';

export interface NamedMotion {
  readonly name: string;
  readonly motion: Motion;
}

export interface GltfFile {
  /** In the file's own units and axes, scales of nodes worked into the lengths; see normalizeSpace. */
  readonly rig: SkeletonRig;
  readonly clips: readonly NamedMotion[];
  readonly figure: Figure | undefined;
  /** Joints by name that the file's own table of humanoid bones gives to slots; empty where it has none. */
  readonly told: ReadonlyMap<Slot, string>;
  readonly warnings: readonly string[];
}

/** What the parts of the reader share. */
export interface RigNodes {
  readonly nodes: readonly Node[];
  readonly index: ReadonlyMap<Node, number>;
  readonly parents: Int16Array;
  /** World matrix of every joint at rest, scale included. */
  readonly world: readonly Mat4[];
  /** Matrix from the nearest joint above to the node's own parent: what lies between, at rest. */
  readonly between: readonly Mat4[];
  /** Uniform scale of the world above each joint. */
  readonly scaleAbove: Float64Array;
}

/**
 * Reads GLB or self-contained glTF: skeleton, clips and, where there are meshes, the figure.
 * Joints are the skins' joints, nodes between them, and moving nodes above or below; without a skin, the trees that move.
 * Throws MotionError only.
 */
export async function readGltf(bytes: Uint8Array): Promise<GltfFile> {
  return inDocument(bytes, (document, { json, missing }) => {
    const warnings: string[] = [];
    if (missing.length > 0)
      warnings.push(
        `It refers to ${missing.length === 1 ? 'a picture' : `${missing.length} pictures`} beside it (${missing.slice(0, 3).join(', ')}${missing.length > 3 ? ' …' : ''}), so it was read without. Export it as one GLB file to keep its colours.`,
      );
    const rigNodes = chooseNodes(document, warnings);
    const rig = buildRig(rigNodes, warnings);
    const clips = readClips(document, rigNodes, rig, warnings);
    const figure = readFigure(document, rigNodes, rig, warnings);
    const all = document.getRoot().listNodes();
    const told = new Map<Slot, string>();
    for (const [slot, node] of humanoidSlots(humanoidNodes(json))) {
      const joint = all[node] && rigNodes.index.get(all[node]);
      if (joint !== undefined) told.set(slot, rig.names[joint]!);
    }
    return { rig, clips, figure, told, warnings };
  });
}

/**
 * Reads the meshes of GLB or self-contained glTF without any skeleton: a body that has none yet, or a prop. They stand as in
 * the file's world at rest, in its own units and axes.
 * @throws MotionError 'no-mesh' where there is none, or what makes the file unreadable
 */
export async function readGltfModel(bytes: Uint8Array): Promise<Model> {
  return inDocument(bytes, (document) => {
    const model = readModel(document);
    if (model.meshes.length === 0) throw new MotionError('no-mesh', 'The file has no mesh.');
    return model;
  });
}

/** Opens a glTF and reads something from it; whatever goes wrong comes out as a MotionError. */
async function inDocument<T>(bytes: Uint8Array, read: (document: Document, parts: GltfParts) => T): Promise<T> {
  const parts = openGltf(bytes);
  const { json, binary } = parts;
  let document: Document;
  try {
    const io = new WebIO();
    const resources: Record<string, Uint8Array<ArrayBuffer>> = {};
    if (binary) resources['@glb.bin'] = binary.slice();
    document = await io.readJSON({ json: json as never, resources });
  } catch (error) {
    throw new MotionError('bad-structure', `The glTF could not be read: ${(error as Error).message.slice(0, 160)}`);
  }
  try {
    return read(document, parts);
  } catch (error) {
    if (error instanceof MotionError) throw error;
    throw new MotionError(
      'bad-structure',
      `The glTF does not hold together: ${(error as Error).message.slice(0, 160)}`,
    );
  }
}

const isTree = (value: unknown): value is Node => typeof value === 'object' && value !== null;

function ancestors(node: Node): Node[] {
  const out: Node[] = [];
  for (let p = node.getParentNode(); isTree(p); p = p.getParentNode()) out.push(p);
  return out;
}

function chooseNodes(document: Document, warnings: string[]): RigNodes {
  const root = document.getRoot();
  const moving = new Set<Node>();
  for (const animation of root.listAnimations()) {
    for (const channel of animation.listChannels()) {
      const node = channel.getTargetNode();
      if (node && channel.getTargetPath() !== 'weights') moving.add(node);
    }
  }
  const skinned = new Set<Node>(root.listSkins().flatMap((s: Skin) => s.listJoints()));
  const chosen = new Set<Node>();
  if (skinned.size > 0) {
    const related = new Set<Node>();
    for (const j of skinned) for (const a of ancestors(j)) related.add(a);
    for (const j of skinned) chosen.add(j);
    let strangers = 0;
    for (const m of moving) {
      if (chosen.has(m) || related.has(m) || ancestors(m).some((a) => skinned.has(a))) chosen.add(m);
      else strangers++;
    }
    if (strangers > 0) warnings.push(`${strangers} moving nodes belong to no skeleton and were left out.`);
    for (const j of [...chosen]) {
      const above = ancestors(j);
      const top = above.findLastIndex((a) => chosen.has(a));
      for (const a of above.slice(0, top + 1)) chosen.add(a);
    }
  } else {
    const tops = new Set<Node>();
    const seeds = moving.size > 0 ? [...moving] : root.listNodes().filter((n) => !n.getMesh() && !n.getCamera());
    for (const m of seeds) tops.add([m, ...ancestors(m)].filter((a) => moving.size === 0 || moving.has(a)).at(-1)!);
    for (const top of tops) {
      top.traverse((n) => {
        if (!n.getMesh() || moving.has(n)) chosen.add(n);
      });
    }
    if (moving.size === 0 && chosen.size < 2) chosen.clear();
  }
  if (chosen.size === 0)
    throw new MotionError('no-joints', 'The file holds neither a skin nor moving nodes: there is no skeleton to take.');
  if (chosen.size > MAX_JOINTS)
    throw new MotionError('too-large', `The file has ${chosen.size} joints; at most ${MAX_JOINTS} are accepted.`);

  const nodes: Node[] = [];
  const visit = (n: Node): void => {
    if (chosen.has(n)) nodes.push(n);
    for (const c of n.listChildren()) visit(c);
  };
  for (const n of root.listNodes()) if (!isTree(n.getParentNode())) visit(n);
  const index = new Map(nodes.map((n, i) => [n, i]));
  const parents = new Int16Array(nodes.length);
  const between: Mat4[] = [];
  nodes.forEach((n, i) => {
    let m = identityMat();
    let p = n.getParentNode();
    while (isTree(p) && !index.has(p)) {
      m = mulMat(composeMat(p.getTranslation(), p.getRotation(), p.getScale()), m);
      p = p.getParentNode();
    }
    parents[i] = isTree(p) ? index.get(p)! : -1;
    between.push(m);
  });
  const world: Mat4[] = [];
  nodes.forEach((n, i) => {
    const local = mulMat(between[i]!, composeMat(n.getTranslation(), n.getRotation(), n.getScale()));
    world.push(parents[i]! < 0 ? local : mulMat(world[parents[i]!]!, local));
  });
  useBindPose(document, nodes, index, parents, world, warnings);
  const scaleAbove = Float64Array.from(nodes, (_, i) => (parents[i]! < 0 ? 1 : uniformScale(world[parents[i]!]!)));
  return { nodes, index, parents, world, between, scaleAbove };
}

const uniformScale = (m: Mat4): number => {
  const { s } = decomposeMat(m);
  return Math.cbrt(s[0]! * s[1]! * s[2]!);
};

/** Where the nodes stand in another pose than the skin was bound in, the bind pose is what counts as rest. */
function useBindPose(
  document: Document,
  nodes: Node[],
  index: Map<Node, number>,
  parents: Int16Array,
  world: Mat4[],
  warnings: string[],
): void {
  const bind = new Map<number, Mat4>();
  for (const skin of document.getRoot().listSkins()) {
    const inverse = skin.getInverseBindMatrices();
    if (!inverse || inverse.getCount() < skin.listJoints().length) continue;
    skin.listJoints().forEach((node, k) => {
      const i = index.get(node)!;
      const m = invertMat(inverse.getElement(k, new Array(16).fill(0)));
      if (m && !bind.has(i)) bind.set(i, m);
    });
  }
  const anchor = [...bind.keys()].sort((a, b) => a - b)[0];
  if (anchor === undefined) return;
  const toWorld = mulMat(world[anchor]!, invertMat(bind.get(anchor)!)!);
  let worst = 0;
  const bound = new Map<number, Mat4>();
  for (const [i, m] of bind) {
    const w = mulMat(toWorld, m);
    bound.set(i, w);
    const a = decomposeMat(w).q;
    const b = decomposeMat(world[i]!).q;
    worst = Math.max(worst, 1 - Math.abs(a[0]! * b[0]! + a[1]! * b[1]! + a[2]! * b[2]! + a[3]! * b[3]!));
  }
  if (worst < 1e-4) return;
  warnings.push('The character stands in another pose than it was bound in; the bind pose was taken as its rest.');
  nodes.forEach((n, i) => {
    const p = parents[i]!;
    const w =
      bound.get(i) ??
      (p < 0 ? world[i]! : mulMat(world[p]!, composeMat(n.getTranslation(), n.getRotation(), n.getScale())));
    world[i] = w;
  });
}

function buildRig({ nodes, parents, world }: RigNodes, warnings: string[]): SkeletonRig {
  const n = nodes.length;
  const restT = new Float32Array(3 * n);
  const restR = new Float32Array(4 * n);
  const tips = new Float32Array(3 * n).fill(Number.NaN);
  const parts = world.map(decomposeMat);
  if (parts.some((p) => p.mirrored))
    warnings.push('Some joints are mirrored by a negative scale; their turns were read as if they were not.');
  if (parts.some(({ s }) => Math.max(...s) / Math.min(...s) > 1.01))
    warnings.push('Some joints are scaled unevenly; their lengths may be off.');
  const seen = new Map<string, number>();
  const names = nodes.map((node, i) => {
    const base = node.getName().trim() || `joint ${i + 1}`;
    const k = (seen.get(base) ?? 0) + 1;
    seen.set(base, k);
    return k > 1 ? `${base} ${k}` : base;
  });
  const q = [0, 0, 0, 1];
  for (let j = 0; j < n; j++) {
    const p = parents[j]!;
    const own = parts[j]!;
    if (p < 0) {
      restT.set(own.t, 3 * j);
      restR.set(own.q, 4 * j);
    } else {
      const above = parts[p]!;
      invMulQuat(q, 0, above.q, 0, own.q, 0);
      normalizeQuat(q, 0);
      restR.set(q, 4 * j);
      const d = own.t.map((x, k) => x - above.t[k]!);
      const back = [-above.q[0]!, -above.q[1]!, -above.q[2]!, above.q[3]!];
      rotate3(d, 0, back, 0, d, 0);
      restT.set(d, 3 * j);
    }
    const tip = (nodes[j]!.getExtras() as { tip?: unknown }).tip;
    const scale = Math.cbrt(own.s[0]! * own.s[1]! * own.s[2]!);
    if (Array.isArray(tip) && tip.length === 3 && tip.every((x) => typeof x === 'number' && Number.isFinite(x)))
      tips.set(
        tip.map((x: number) => x * scale),
        3 * j,
      );
  }
  // a leaf node that is no joint of the skin marks the end of the joint above it
  nodes.forEach((node, j) => {
    if (parents.includes(j) || !Number.isNaN(tips[3 * j]!)) return;
    const leaf = node.listChildren().find((c) => !c.getMesh() && c.listChildren().length === 0);
    const scale = uniformScale(world[j]!);
    if (leaf)
      tips.set(
        leaf.getTranslation().map((x) => x * scale),
        3 * j,
      );
  });
  return { kind: 'skeleton', names, parents, restT, restR, tips, found: NORMAL_SPACE };
}
