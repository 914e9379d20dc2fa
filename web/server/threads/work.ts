// Runs in a server thread: everything that takes long or reads strangers' bytes. Pure in, pure out; no database here.
import { createHash } from 'node:crypto';
import {
  animatedSvg,
  anySkeletonFromJson,
  applySpace,
  artFromJson,
  artToJson,
  assemble,
  type BodyMapJson,
  bodyMapFromJson,
  bodyMapToJson,
  type CutoutArt,
  type CutoutArtJson,
  type CutoutFigure,
  type CutoutKeys,
  type CutoutScene,
  canonicalBytes,
  cutoutFromSvg,
  describeClip,
  describePoses,
  drawingSet,
  type EngineCondition,
  engineConditions,
  evaluateFitting,
  evaluateKeys,
  extent,
  type Facts,
  type Format,
  figureExtent,
  figureFloor,
  findPictureParts,
  flatSkeleton,
  guessBodyMap,
  importFile,
  isLottie,
  type JointMarks,
  type KeyCurves,
  laidOf,
  type MarkerBody,
  type Motion,
  MotionError,
  makeStrip,
  measureBody,
  measureThickness,
  motionToJson,
  type Party,
  type PictureFile,
  PoseReader,
  packMotion,
  poseFeatures,
  putTogether,
  type ReelCamera,
  ReelEvaluator,
  type ReelMember,
  type RigJson,
  readFacts,
  readGltf,
  reportOfFitting,
  resample,
  restKind,
  restMotion,
  restPose,
  rigFromJson,
  rigIdentity,
  rigToJson,
  SCENE_JSON,
  type SkinJson,
  sceneFromJson,
  sceneFromLottie,
  sceneToJson,
  shotAt,
  skeletonFromJson,
  sketchFit,
  sketchToBytes,
  skinToJson,
  stripToBytes,
  toLottie,
  trim,
  turnedRound,
  unpackMotion,
  writeBvh,
  writeCsv,
  writeGlb,
  writeScene,
  writeUsd,
  writeVrm,
  writeVrma,
} from '@velvet-reel/motion';
import { unzipSync } from 'fflate';
import { applyChange, changeKeys } from '../../wishes/change';
import { type ExportFormat, FLAT_FORMATS } from '../../wishes/export-formats';
import { type PartyJson, partyFromJson } from '../../wishes/party';
import { onMember, type ReelSource } from '../../wishes/reel-source';
import type { ChangeWish, FitEdits, FitSettings } from '../../wishes/wishes';
import { framesAsPng, framesAsSprites } from '../files/frames';
import { isPicture } from '../files/pictures';

export interface ReadClip {
  name: string;
  packed: Uint8Array;
  /** Under which the library keeps the motion: a hash of its values, not of how they are packed. */
  address: string;
  strip: Uint8Array;
  facts: Facts;
  descriptor: Int8Array;
  /** Poses it passes through; see describePoses. */
  poses: Uint8Array;
  /** What it asks of a body; see sketchFit. */
  sketch: Uint8Array;
  /** The keys that it was made of, where it was keyed. */
  keys?: CutoutKeys | undefined;
}

export interface ReadFile {
  format: Format | 'svg' | 'scene';
  rig: RigJson;
  identity: string;
  map: BodyMapJson;
  restKind: string;
  restPose: number[] | null;
  heightM: number;
  clips: ReadClip[];
  /** Normalised GLB of the character, where the file holds a mesh. */
  figure: { glb: Uint8Array; floorM: number | null; skin: SkinJson | null; vertexCount: number } | null;
  /** Pictures of a cut-out, as JSON. */
  art?: Uint8Array | undefined;
  warnings: string[];
  /** How markers sit on the body, where it was solved from them and is not one that was known. */
  worn?: MarkerBody | undefined;
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

export interface ReadOrder {
  bytes: Uint8Array;
  name: string;
  /** The skeleton file that goes with it. */
  skeleton?: Uint8Array | undefined;
  /** Bodies that a take of markers may be of. */
  bodies?: readonly MarkerBody[] | undefined;
}

export function readFile({ bytes, name, skeleton, bodies }: ReadOrder): Promise<Outcome<ReadFile>> {
  return guarded(async () => {
    if (isSvg(bytes, name)) return readDrawing(name, () => cutoutFromSvg(bytes));
    const scene = sceneIn(name, bytes);
    if (scene) return readScene(name, scene);
    if (/\.zip$/i.test(name)) return readDrawing(name, () => assemble(findPictureParts(picturesIn(bytes))));
    const file = await importFile(bytes, name, { skeleton, bodies });
    const first = file.clips[0]?.motion;
    const pose = file.restFrom === 'first frame' && first ? new PoseReader(file.rig, first).at(0) : undefined;
    const party: Party = { rig: file.rig, map: file.map, pose };
    const clips = file.clips.map(({ name: clip, motion }) => keepable(party, clip, motion));
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
            skin: skinToJson(measureThickness(file.rig, file.figure)),
            vertexCount: file.figure.meshes.reduce((s, m) => s + m.positions.length / 3, 0),
          }
        : null,
      warnings: [...file.warnings],
      worn: file.onKnown ? undefined : file.worn,
    };
  });
}

const isSvg = (bytes: Uint8Array, name: string): boolean =>
  /\.svg$/i.test(name) ||
  /^\s*(<\?xml[^>]*>\s*)?(<!--[\s\S]*?-->\s*)*(<!DOCTYPE\s+svg|<svg[\s>])/i.test(
    new TextDecoder().decode(bytes.subarray(0, 4096)),
  );

/** A cut-out with its motion in a JSON of ours or of the Lottie format; undefined for other files. */
function sceneIn(file: string, bytes: Uint8Array): CutoutScene | undefined {
  const head = new TextDecoder().decode(bytes.subarray(0, 200));
  if (new RegExp(`^\\s*\\{\\s*"format"\\s*:\\s*"${SCENE_JSON}"`).test(head))
    return within(file, () => sceneFromJson(parsedJson(bytes)));
  if (!/\.json$/i.test(file) || !/^\s*\{/.test(head) || /"format"\s*:/.test(head)) return undefined;
  const json = within(file, () => parsedJson(bytes));
  return isLottie(json) ? within(file, () => sceneFromLottie(json)) : undefined;
}

/** A cut-out with its motion, and the keys of it where it was keyed. */
async function readScene(file: string, { name, figure, motion, keys }: CutoutScene): Promise<ReadFile> {
  const read = await readDrawing(file, () => figure);
  const party: Party = { rig: flatSkeleton(figure.rig), map: figure.map, cutout: figure.rig };
  return { ...read, format: 'scene', clips: [{ ...keepable(party, name, motion), keys }] };
}

function parsedJson(bytes: Uint8Array): unknown {
  try {
    return JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes));
  } catch (error) {
    throw new MotionError('bad-structure', `The file is no JSON: ${(error as Error).message}`);
  }
}

const MOST_PICTURES = 1000;
const MOST_PICTURE_BYTES = 512 * 2 ** 20;

/** PNG pictures of an archive, and the list beside them. Its sizes are checked before anything is unpacked. */
function picturesIn(bytes: Uint8Array): PictureFile[] {
  let [count, total] = [0, 0];
  const files = unzipSync(bytes, {
    filter: ({ name, originalSize }) => {
      if (!isPicture(name)) return false;
      total += originalSize;
      if (++count > MOST_PICTURES || total > MOST_PICTURE_BYTES)
        throw new MotionError('too-large', 'The archive holds too many pictures.');
      return true;
    },
  });
  return Object.entries(files).map(([name, content]) => ({ name, bytes: content }));
}

/** A layered drawing as a cut-out figure. */
async function readDrawing(name: string, read: () => CutoutFigure): Promise<ReadFile> {
  const { rig, map, art, guesses, notes } = within(name, read);
  const { purifiedArt } = await import('./purify');
  const guessed = guesses.filter((g) => g.state === 'guessed' && g.kind !== undefined).length;
  return {
    format: 'svg',
    rig: rigToJson(rig),
    identity: rigIdentity(rig),
    map: bodyMapToJson(map, flatSkeleton(rig)),
    restKind: 'drawn',
    restPose: null,
    heightM: heightOf(art),
    clips: [],
    figure: null,
    art: new TextEncoder().encode(JSON.stringify(artToJson(purifiedArt(art)))),
    warnings: [
      ...notes,
      ...(guessed > 0 ? [`${guessed} of ${guesses.length} parts were guessed by their shapes.`] : []),
    ],
  };
}

/** Ground to top of what is drawn, metres. */
const heightOf = ({ drawings, origin, unit }: CutoutArt): number =>
  Math.max(0.05, ...drawings.map((d) => (origin[1] - d.box[1]) * unit));

/** Errors of a reader with the file's name. */
function within<T>(file: string, read: () => T): T {
  try {
    return read();
  } catch (error) {
    if (error instanceof MotionError && error.place.file === undefined)
      throw new MotionError(error.code, error.message, { ...error.place, file });
    throw error;
  }
}

/** Turns by which a character that came in wrongly is set upright or made to face ahead. */
export const SPACE_TURNS = {
  none: [0, 0, 0, 1],
  left: [0, Math.SQRT1_2, 0, Math.SQRT1_2],
  right: [0, -Math.SQRT1_2, 0, Math.SQRT1_2],
  around: [0, 1, 0, 0],
  forwards: [Math.SQRT1_2, 0, 0, Math.SQRT1_2],
  backwards: [-Math.SQRT1_2, 0, 0, Math.SQRT1_2],
} as const satisfies Record<string, readonly [number, number, number, number]>;
export type SpaceTurn = keyof typeof SPACE_TURNS;

export interface RespaceOrder {
  rig: RigJson;
  map: BodyMapJson;
  glb: Uint8Array | null;
  scale: number;
  turn: SpaceTurn;
}

/** A character in another size or direction than it was read in: rig and mesh alike. */
export function respace(order: RespaceOrder): Promise<Outcome<ReadFile>> {
  return guarded(async () => {
    const q = SPACE_TURNS[order.turn];
    const before = skeletonFromJson(order.rig);
    const found = {
      ...before.found,
      unitScale: before.found.unitScale * order.scale,
      unitWhy: order.scale === 1 ? before.found.unitWhy : `set by hand, × ${order.scale}`,
      certainty: 'stated' as const,
    };
    const old = order.glb ? (await readGltf(order.glb)).figure : undefined;
    const { rig, figure } = applySpace(before, [], old, { turn: [...q], scale: order.scale, found, warnings: [] });
    const map = bodyMapFromJson(order.map, rig);
    const pose = restPose(rig);
    const size = figureExtent(figure) ?? extent(rig, pose, [0, 1, 0]);
    return {
      format: 'glb',
      rig: rigToJson(rig),
      identity: rigIdentity(rig),
      map: bodyMapToJson(map, rig),
      restKind: restKind(pose, map),
      restPose: null,
      heightM: size.high - size.low,
      clips: [],
      figure: figure
        ? {
            glb: await writeGlb({ rig, figure }),
            floorM: figureFloor(figure) ?? null,
            skin: skinToJson(measureThickness(rig, figure)),
            vertexCount: figure.meshes.reduce((s, m) => s + m.positions.length / 3, 0),
          }
        : null,
      warnings: [],
    };
  });
}

/** How thick a stored figure's skin is about its joints. */
export function measureSkin(glb: Uint8Array): Promise<Outcome<SkinJson | null>> {
  return guarded(async () => {
    const { rig, figure } = await readGltf(glb);
    return figure ? skinToJson(measureThickness(rig, figure)) : null;
  });
}

export interface FitOrder {
  source: PartyJson;
  packed: Uint8Array;
  target: PartyJson;
  settings: FitSettings;
  edits?: FitEdits | undefined;
}

function solveOrder(order: FitOrder): { motion: Motion; target: Party; done: ReturnType<typeof evaluateFitting> } {
  const target = partyFromJson(order.target);
  const source = partyFromJson(order.source);
  const done = evaluateFitting(source, unpackMotion(order.packed), target, order.settings, order.edits);
  return { motion: done.motion, target, done };
}

export function fitMotion(order: FitOrder): Promise<Outcome<ReadClip & { report: unknown }>> {
  return guarded(() => {
    const { motion, target, done } = solveOrder(order);
    const { lanes: _lanes, ...report } = reportOfFitting(done);
    return { ...keepable(target, '', motion), keys: done.keys, report };
  });
}

export interface BakeOrder {
  target: PartyJson;
  fps: number;
  frames: number;
  member: ReelMember;
  sources: (ReelSource & { packed: Uint8Array })[];
  /** Frames of the reel, both included. */
  start: number;
  end: number;
}

/** What a member of a reel does in some frames, as one motion. */
export function bakeReel(order: BakeOrder): Promise<Outcome<ReadClip>> {
  return guarded(() => {
    const target = partyFromJson(order.target);
    const motions = new Map(
      order.sources.map((s) => [s.laid, onMember(s, unpackMotion(s.packed), target, partyFromJson)]),
    );
    const { motion } = new ReelEvaluator(target, order.fps).evaluate(order.member, order.frames, (s) =>
      motions.get(laidOf(s)),
    );
    return keepable(target, '', trim(target.rig, motion, order.start, order.end));
  });
}

export interface SceneOrder {
  name: string;
  fps: number;
  frames: number;
  cameras: readonly ReelCamera[];
  members: {
    name: string;
    target: PartyJson;
    member: ReelMember;
    /** Normalised GLB whose mesh goes along. */
    figure: Uint8Array | null;
    sources: (ReelSource & { packed: Uint8Array })[];
  }[];
}

/** Everybody on a reel, and its cameras, as one GLB. */
export function writeReel({ name, fps, frames, cameras, members }: SceneOrder): Promise<Outcome<Uint8Array>> {
  return guarded(async () => {
    const bodies = [];
    for (const one of members) {
      const target = partyFromJson(one.target);
      const motions = new Map(
        one.sources.map((s) => [s.laid, onMember(s, unpackMotion(s.packed), target, partyFromJson)]),
      );
      const { motion } = new ReelEvaluator(target, fps).evaluate(one.member, frames, (s) => motions.get(laidOf(s)));
      const figure = one.figure ? (await readGltf(one.figure)).figure : undefined;
      bodies.push({ name: one.name, rig: target.rig, figure, motion });
    }
    const seen = cameras.flatMap(({ name: called, keys }) =>
      keys.length === 0 ? [] : [{ name: called, shots: Array.from({ length: frames }, (_, f) => shotAt(keys, f)!) }],
    );
    return writeScene({ name, bodies, cameras: seen, fps });
  });
}

/** A motion as the library keeps it: packed, with its facts and strip. */
function keepable(party: Party, name: string, motion: Motion): ReadClip {
  const body = measureBody(party.rig, party.map, party.pose, party.floor);
  // whatever is read of it is read as of a body in space
  const read = party.cutout ? turnedRound(party.cutout, motion) : motion;
  const { facts, contacts } = readFacts(party.rig, party.map, read, body, party.pose);
  const strip = makeStrip(party.rig, party.map, read, contacts.plants, contacts.floor, body, party.pose);
  const features = poseFeatures(party, read, contacts.floor, 1, body);
  const descriptor = describeClip(features);
  const poses = describePoses(features, contacts);
  const sketch = sketchToBytes(sketchFit(party, read, contacts, body));
  const address = createHash('sha256').update(canonicalBytes(motion)).digest('hex');
  const packed = packMotion(party.rig, motion);
  return { name, packed, address, strip: stripToBytes(strip), facts, descriptor, poses, sketch };
}

export interface ChangeOrder {
  source: PartyJson;
  packed: Uint8Array;
  /** The keys that the motion was made of. */
  keys?: CutoutKeys | null | undefined;
  wish: ChangeWish;
}

/** Carries out a change on a motion's own rig. */
export function changeMotion(order: ChangeOrder): Promise<Outcome<ReadClip>> {
  return guarded(() => {
    const party = partyFromJson(order.source);
    const keys = order.keys ? changeKeys(party, order.keys, order.wish) : undefined;
    if (keys && party.cutout) return { ...keepable(party, '', evaluateKeys(party.cutout, keys)), keys };
    return keepable(party, '', applyChange(party, unpackMotion(order.packed), order.wish));
  });
}

/** A set of a cut-out's drawings, as a motion that leafs through them. */
export interface DrawingSetOrder {
  source: PartyJson;
  parts: readonly string[];
}

export function makeDrawingSet({ source, parts }: DrawingSetOrder): Promise<Outcome<ReadClip>> {
  return guarded(() => {
    const party = partyFromJson(source);
    if (!party.cutout) throw new MotionError('bad-argument', 'Only a cut-out has drawings.');
    return keepable(party, '', drawingSet(party.cutout, parts));
  });
}

/** A cut-out whose joints somebody marked. */
export interface MarkOrder {
  rig: RigJson;
  art: CutoutArtJson;
  marks: JointMarks;
}

/** A cut-out put together anew, as it is kept. */
export interface MarkedFigure {
  rig: RigJson;
  art: CutoutArtJson;
  map: BodyMapJson;
}

export function markJoints({ rig: json, art: drawn, marks }: MarkOrder): Promise<Outcome<MarkedFigure>> {
  return guarded(() => {
    const given = rigFromJson(json);
    if (given.kind !== 'cutout') throw new MotionError('bad-argument', 'Only a cut-out has joints to mark.');
    const { rig, art, map } = putTogether({ rig: given, art: artFromJson(drawn) }, marks);
    return { rig: rigToJson(rig), art: artToJson(art), map: bodyMapToJson(map, flatSkeleton(rig)) };
  });
}

export interface ExportOrder {
  name: string;
  format: ExportFormat;
  fps: number | null;
  /** Keys are left out within this, metres; null keeps every frame. GLB only. */
  keyTolerance: number | null;
  keyCurves?: KeyCurves | undefined;
  rig: RigJson;
  /** Null for a character without motion. */
  packed: Uint8Array | null;
  /** The keys that the motion was made of. */
  keys?: CutoutKeys | null | undefined;
  /** Normalised GLB whose mesh goes along. */
  figure: Uint8Array | null;
  /** Fit it onto this first. */
  onto: FitOrder | null;
  /** Pictures of the cut-out that the motion is on, as JSON, and its body map. */
  art?: Uint8Array | null | undefined;
  map?: BodyMapJson | undefined;
}

/** Values of joints in one exported file: text takes some 40 bytes for each. */
const MOST_VALUES: Readonly<Record<ExportFormat, number>> = {
  glb: 12e6,
  usda: 2e6,
  vrma: 12e6,
  bvh: 4e6,
  csv: 4e6,
  json: 4e6,
  svg: 1e6,
  lottie: 1e6,
  // each frame is drawn
  png: 12_000,
  sprites: 12_000,
};

function demandSize({ format, fps }: ExportOrder, joints: number, motion: Motion | undefined): void {
  if (!motion) return;
  const frames = fps ? Math.ceil((motion.frameCount / motion.fps) * fps) : motion.frameCount;
  if (frames * joints <= MOST_VALUES[format]) return;
  throw new MotionError(
    'too-large',
    `It would have ${frames} frames of ${joints} joints, which is too much for one ${format.toUpperCase()} file. ${
      fps ? 'Choose a lower rate' : 'Choose a rate below its own'
    }${format === 'glb' ? '' : ', or GLB'}.`,
  );
}

export function exportFile(order: ExportOrder): Promise<Outcome<Uint8Array>> {
  return guarded(async () => {
    const rig = anySkeletonFromJson(order.onto?.target.rig ?? order.rig);
    const fitted = order.onto ? solveOrder(order.onto).done : undefined;
    const whole = fitted?.motion ?? (order.packed ? unpackMotion(order.packed) : undefined);
    demandSize(order, rig.names.length, whole);
    const motion = whole && order.fps ? resample(rig, whole, order.fps) : whole;
    const text = (s: string): Uint8Array => new TextEncoder().encode(s);
    const paper = paperFigure(order);
    if (paper && (order.format === 'json' || order.format === 'svg' || order.format === 'lottie'))
      return text(
        paperText(order.format, paper, motion ?? restMotion(paper.rig), {
          name: order.name,
          // at another rate its keys would stand elsewhere
          keys: motion === whole ? (fitted ? fitted.keys : (order.keys ?? undefined)) : undefined,
          plants: motion === whole ? (fitted?.swapped ?? fitted?.driven)?.plants : undefined,
        }),
      );
    if (paper && order.format === 'png') return framesAsPng(paper, motion ?? restMotion(paper.rig));
    if (paper && order.format === 'sprites') return framesAsSprites(paper, motion ?? restMotion(paper.rig), order.name);
    if (FLAT_FORMATS.includes(order.format))
      throw new MotionError('bad-argument', 'Only the motion of a cut-out can be written as a drawing.');
    const clips = motion ? [{ name: order.name, motion }] : [];
    if (order.format === 'bvh') return text(writeBvh(rig, motion ?? restMotion(rig)));
    if (order.format === 'csv') return text(writeCsv(rig, motion ?? restMotion(rig)));
    if (order.format === 'json') return text(JSON.stringify(motionToJson(rig, clips)));
    if (order.format === 'vrma') {
      const told = order.onto?.target.map ?? order.map;
      return writeVrma({ rig, clips }, told ? bodyMapFromJson(told, rig) : guessBodyMap(rig));
    }
    const figure = order.figure ? (await readGltf(order.figure)).figure : undefined;
    if (order.format === 'usda') return text(writeUsd({ rig, figure, clip: clips[0] }));
    return writeGlb({ rig, figure, clips, keyTolerance: order.keyTolerance ?? undefined, keyCurves: order.keyCurves });
  });
}

/** The cut-out that an export is of; undefined for bodies in space. */
function paperFigure(order: ExportOrder): CutoutFigure | undefined {
  const rig = rigFromJson(order.onto?.target.rig ?? order.rig);
  const map = order.onto?.target.map ?? order.map;
  if (rig.kind !== 'cutout' || !order.art || !map) return undefined;
  const art = artFromJson(JSON.parse(new TextDecoder().decode(order.art)));
  return { rig, map: bodyMapFromJson(map, flatSkeleton(rig)), art, guesses: [], notes: [] };
}

function paperText(
  format: 'json' | 'svg' | 'lottie',
  figure: CutoutFigure,
  motion: Motion,
  told: NonNullable<Parameters<typeof sceneToJson>[2]> & { name: string },
): string {
  if (format === 'svg') return animatedSvg(figure, motion);
  return JSON.stringify(
    format === 'lottie' ? toLottie(figure, motion, told).animation : sceneToJson(figure, motion, told),
  );
}

export interface CharacterOrder {
  rig: RigJson;
  /** Normalised GLB whose mesh goes along. */
  figure: Uint8Array | null;
  clips: readonly { name: string; packed: Uint8Array }[];
  keyTolerance: number | null;
  keyCurves?: KeyCurves | undefined;
  /** As VRM 1.0 instead: its name, and the map that tells its humanoid bones. No motions go along. */
  vrm?: { name: string; map: BodyMapJson } | undefined;
}

/** A character as one GLB, with motions of its own skeleton as animations in it. */
export function exportCharacter({
  rig: json,
  figure: glb,
  clips,
  keyTolerance,
  keyCurves,
  vrm,
}: CharacterOrder): Promise<Outcome<Uint8Array>> {
  return guarded(async () => {
    const figure = glb ? (await readGltf(glb)).figure : undefined;
    if (vrm) {
      const rig = anySkeletonFromJson(json);
      return writeVrm({ rig, figure }, bodyMapFromJson(vrm.map, rig), { name: vrm.name, authors: [] });
    }
    const named = clips.map(({ name, packed }) => ({ name, motion: unpackMotion(packed) }));
    return writeGlb({
      rig: anySkeletonFromJson(json),
      figure,
      clips: named,
      keyTolerance: keyTolerance ?? undefined,
      keyCurves,
    });
  });
}

/** What engines would say of a character. */
export interface ConditionsOrder {
  rig: RigJson;
  map: BodyMapJson;
  figure: Uint8Array | null;
}

export function conditions({ rig: json, map, figure: glb }: ConditionsOrder): Promise<Outcome<EngineCondition[]>> {
  return guarded(async () => {
    const rig = anySkeletonFromJson(json);
    const figure = glb ? (await readGltf(glb)).figure : undefined;
    return engineConditions(rig, figure, restKind(restPose(rig), bodyMapFromJson(map, rig)));
  });
}
