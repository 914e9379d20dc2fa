// The thread that gives bare meshes a skeleton: reads the file, suggests marks, makes joints and skin, and draws what it has.
import {
  type BodyFrame,
  type ClayFrame,
  type ClayView,
  clayPicture,
  intoBody,
  looseParts,
  type MarkedMesh,
  type MarkSlot,
  type MarkSource,
  type Marks,
  type Mesh,
  type Model,
  MotionError,
  markMesh,
  outOfBody,
  PoseReader,
  poseFigure,
  proofOn,
  type Quarter,
  type RiggedMesh,
  type RiggingOptions,
  readMeshFile,
  rigMesh,
  stoodUpright,
  surfacesInBody,
  turnedBy,
  writeGlb,
} from '@velvet-reel/motion';
import { expose, transfer } from 'comlink';

type Place = [number, number, number];

/** A loose part as the page shows it: the box around it, in the body's frame. */
export interface ShownPart {
  name: string;
  triangles: number;
  low: Place;
  high: Place;
}

/** A mesh as the page shows it: pictures and marks in its body's frame. */
export interface OpenedMesh {
  triangles: number;
  meshes: number;
  /** Height in the file's units. */
  height: number;
  marks: Record<MarkSlot, Place>;
  sources: Record<MarkSlot, MarkSource>;
  /** See looseParts: in its order. */
  parts: ShownPart[];
  pictures: Record<ClayView, ImageBitmap>;
}

export interface MadeSkeleton {
  glb: Uint8Array;
  /** Bones as pairs of joints, and where the joints are in every picture of the proof, in the body's frame. */
  bones: [from: number, to: number][];
  joints: Place[][];
  /** How many fingers each hand got. */
  fingers: RiggedMesh['fingers'];
  /** The body going through all that it can do, a picture after the other. */
  proof: Record<ClayView, ImageBitmap[]>;
  ms: number;
}

export type MarksInBody = Partial<Record<MarkSlot, Place>>;

let model: Model<Mesh> | undefined;
let plain = false;
/** The frame in which the page shows it. */
let shown: BodyFrame | undefined;

const PROOF_PICTURES = 36;

async function bitmap(
  view: ClayView,
  frame: ClayFrame,
  surfaces: Parameters<typeof clayPicture>[2],
): Promise<ImageBitmap> {
  return createImageBitmap(new ImageData(clayPicture(view, frame, surfaces), frame.width, frame.height));
}

/** Errors cross to the page by their message alone: it gets the whole sentence. */
async function told<T>(run: () => Promise<T>): Promise<T> {
  try {
    return await run();
  } catch (error) {
    throw error instanceof MotionError ? new Error(error.sentence()) : error;
  }
}

const thread = {
  /** Reads a file and says where its marks would go. @throws what is wrong with it, in a sentence */
  open: (bytes: Uint8Array, name: string, frames: Record<ClayView, ClayFrame>): Promise<OpenedMesh> =>
    told(async () => {
      const file = await readMeshFile(bytes, name);
      model = file.model;
      plain = file.format === 'obj' || file.format === 'stl';
      return show(model, markMesh(model), frames);
    }),

  /**
   * Turns the body as it is shown by a quarter; marks made by hand stay where they are on it.
   * @param marks those made by hand, in the frame in which they were shown
   */
  turn: (quarter: Quarter, marks: MarksInBody, frames: Record<ClayView, ClayFrame>): Promise<OpenedMesh> =>
    told(async () => {
      const frame = shown;
      if (!model || !frame) throw new Error('Open a file first.');
      return show(model, markMesh(model, inMesh(marks, frame), turnedBy(quarter, frame.turn)), frames);
    }),

  /** Makes the skeleton and shows the body moving. @param marks in the frame in which they were shown */
  rig: (marks: MarksInBody, options: RiggingOptions, frames: Record<ClayView, ClayFrame>): Promise<MadeSkeleton> =>
    told(async () => {
      const frame = shown;
      if (!model || !frame) throw new Error('Open a file first.');
      const start = performance.now();
      const rigged = rigMesh(model, inMesh(marks, frame), { ...options, turn: frame.turn });
      const kept: RiggedMesh = plain ? stoodUpright(rigged) : rigged;
      const glb = await writeGlb({ rig: kept.rig, figure: kept.figure });
      const ms = performance.now() - start;
      const { proof, joints } = await proofPictures(stoodUpright(rigged), frames);
      const bones = [...rigged.rig.parents].flatMap((parent, j): [number, number][] =>
        parent < 0 ? [] : [[parent, j]],
      );
      const made: MadeSkeleton = { glb, joints, bones, fingers: rigged.fingers, proof, ms };
      return transfer(made, [glb.buffer as ArrayBuffer, ...proof.front, ...proof.side]);
    }),
};

/** Marks in the mesh's own space. */
const inMesh = (marks: MarksInBody, frame: BodyFrame): Marks =>
  Object.fromEntries(Object.entries(marks).map(([slot, at]) => [slot, outOfBody(frame, at)]));

/** The mesh as the page shows it from now on. */
async function show(of: Model<Mesh>, marked: MarkedMesh, frames: Record<ClayView, ClayFrame>): Promise<OpenedMesh> {
  shown = marked.frame;
  const surfaces = surfacesInBody(marked.frame, of.meshes);
  const [front, side] = await Promise.all((['front', 'side'] as const).map((v) => bitmap(v, frames[v], surfaces)));
  const inBody = Object.fromEntries(
    Object.entries(marked.marks).map(([slot, at]) => [slot, intoBody(marked.frame, at)]),
  );
  const opened: OpenedMesh = {
    triangles: of.meshes.reduce((n, m) => n + m.indices.length / 3, 0),
    meshes: of.meshes.length,
    height: 1 / marked.frame.scale,
    marks: inBody as OpenedMesh['marks'],
    sources: { ...marked.sources },
    parts: shownParts(of, surfaces),
    pictures: { front: front!, side: side! },
  };
  return transfer(opened, [front!, side!]);
}

function shownParts(of: Model<Mesh>, inBody: readonly { positions: ArrayLike<number> }[]): ShownPart[] {
  return looseParts(of).map(({ name, triangles, vertices }) => {
    const low: Place = [Infinity, Infinity, Infinity];
    const high: Place = [-Infinity, -Infinity, -Infinity];
    for (const [m, own] of vertices.entries())
      for (const v of own)
        for (let k = 0; k < 3; k++) {
          const x = inBody[m]!.positions[3 * v + k]!;
          low[k] = Math.min(low[k]!, x);
          high[k] = Math.max(high[k]!, x);
        }
    return { name, triangles, low, high };
  });
}

/** The proof movement in clay, and where joints are in it. */
async function proofPictures(
  body: RiggedMesh,
  frames: Record<ClayView, ClayFrame>,
): Promise<Pick<MadeSkeleton, 'proof' | 'joints'>> {
  const { rig, figure, map } = body;
  const { motion } = proofOn({ rig, map });
  const reader = new PoseReader(rig, motion);
  const tall = Math.max(
    ...figure.meshes.map((m) => m.positions.reduce((t, v, i) => (i % 3 === 1 && v > t ? v : t), 0)),
  );
  const proof: MadeSkeleton['proof'] = { front: [], side: [] };
  const joints: Place[][] = [];
  for (let i = 0; i < PROOF_PICTURES; i++) {
    const pose = reader.at(Math.floor(((motion.frameCount - 1) * i) / (PROOF_PICTURES - 1)));
    joints.push(rig.names.map((_, j) => [0, 1, 2].map((k) => pose.p[3 * j + k]! / tall) as Place));
    const surfaces = figure.meshes.map((mesh) => ({
      indices: mesh.indices,
      positions: poseFigure(rig, mesh, pose).map((x) => x / tall),
    }));
    for (const v of ['front', 'side'] as const) proof[v].push(await bitmap(v, frames[v], surfaces));
  }
  return { proof, joints };
}

export type BareMeshThread = typeof thread;
expose(thread);
