// Runs in a server thread: everything that takes long or reads strangers' bytes. Pure in, pure out; no database here.
import {
  type BodyMapJson,
  bodyMapToJson,
  type Facts,
  type Format,
  figureFloor,
  importFile,
  type Motion,
  MotionError,
  makeStrip,
  measureBody,
  type Party,
  PoseReader,
  packMotion,
  type RigJson,
  readFacts,
  readGltf,
  reportOf,
  resample,
  restMotion,
  restPose,
  retarget,
  rigFromJson,
  rigIdentity,
  rigToJson,
  stripToBytes,
  type Travel,
  unpackMotion,
  writeBvh,
  writeGlb,
} from '@velvet-reel/motion';
import { type PartyJson, partyFromJson } from './party';

export interface ReadClip {
  name: string;
  packed: Uint8Array;
  strip: Uint8Array;
  facts: Facts;
}

export interface ReadFile {
  format: Format;
  rig: RigJson;
  identity: string;
  map: BodyMapJson;
  restKind: string;
  restPose: number[] | null;
  heightM: number;
  clips: ReadClip[];
  /** Normalised GLB of the character, where the file holds a mesh. */
  figure: { glb: Uint8Array; floorM: number | null; vertexCount: number } | null;
  warnings: string[];
}

/** Errors cross threads as data. */
export type Outcome<T> = { ok: T } | { refused: { code: string; message: string } };

async function guarded<T>(run: () => Promise<T> | T): Promise<Outcome<T>> {
  try {
    return { ok: await run() };
  } catch (error) {
    if (error instanceof MotionError) return { refused: { code: error.code, message: error.sentence() } };
    throw error;
  }
}

export function readFile({ bytes, name }: { bytes: Uint8Array; name: string }): Promise<Outcome<ReadFile>> {
  return guarded(async () => {
    const file = await importFile(bytes, name);
    const first = file.clips[0]?.motion;
    const pose = file.restFrom === 'first frame' && first ? new PoseReader(file.rig, first).at(0) : undefined;
    const body = measureBody(file.rig, file.map, pose ?? restPose(file.rig));
    const clips = file.clips.map(({ name: clip, motion }): ReadClip => {
      const { facts, contacts } = readFacts(file.rig, file.map, motion, body);
      const strip = makeStrip(file.rig, file.map, motion, contacts.plants, contacts.floor, body, pose);
      return { name: clip, packed: packMotion(file.rig, motion), strip: stripToBytes(strip), facts };
    });
    return {
      format: file.format,
      rig: rigToJson(file.rig),
      identity: rigIdentity(file.rig),
      map: bodyMapToJson(file.map, file.rig),
      restKind: file.restKind,
      restPose: pose ? [...pose.r, ...pose.p] : null,
      heightM: file.heightM,
      clips,
      figure: file.figure
        ? {
            glb: await writeGlb({ rig: file.rig, figure: file.figure }),
            floorM: figureFloor(file.figure) ?? null,
            vertexCount: file.figure.meshes.reduce((s, m) => s + m.positions.length / 3, 0),
          }
        : null,
      warnings: [...file.warnings],
    };
  });
}

export interface FitOrder {
  source: PartyJson;
  packed: Uint8Array;
  target: PartyJson;
  plants: boolean;
  travel: Travel;
}

function solveOrder(order: FitOrder): { motion: Motion; target: Party; done: ReturnType<typeof retarget> } {
  const source = unpackMotion(order.packed);
  const target = partyFromJson(order.target);
  const done = retarget(partyFromJson(order.source), source, target, { plants: order.plants, travel: order.travel });
  return { motion: done.motion, target, done };
}

export function fitMotion(order: FitOrder): Promise<Outcome<ReadClip & { report: unknown }>> {
  return guarded(() => {
    const { motion, target, done } = solveOrder(order);
    const body = measureBody(target.rig, target.map, target.pose, target.floor);
    const { facts, contacts } = readFacts(target.rig, target.map, motion, body);
    const strip = makeStrip(target.rig, target.map, motion, contacts.plants, contacts.floor, body, target.pose);
    const { lanes: _lanes, plan: _plan, ...report } = { ...reportOf(done), plan: undefined };
    return { name: '', packed: packMotion(target.rig, motion), strip: stripToBytes(strip), facts, report };
  });
}

export interface ExportOrder {
  name: string;
  format: 'bvh' | 'glb';
  fps: number | null;
  rig: RigJson;
  /** Null for a character without motion. */
  packed: Uint8Array | null;
  /** Normalised GLB whose mesh goes along. */
  figure: Uint8Array | null;
  /** Fit it onto this first. */
  onto: FitOrder | null;
}

export function exportFile(order: ExportOrder): Promise<Outcome<Uint8Array>> {
  return guarded(async () => {
    const rig = rigFromJson(order.onto?.target.rig ?? order.rig);
    const whole = order.onto ? solveOrder(order.onto).motion : order.packed ? unpackMotion(order.packed) : undefined;
    const motion = whole && order.fps ? resample(rig, whole, order.fps) : whole;
    if (order.format === 'bvh') return new TextEncoder().encode(writeBvh(rig, motion ?? restMotion(rig)));
    const figure = order.figure ? (await readGltf(order.figure)).figure : undefined;
    return writeGlb({ rig, figure, clips: motion ? [{ name: order.name, motion }] : [] });
  });
}
