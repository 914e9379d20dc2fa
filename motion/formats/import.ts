import { type RestKind, restKind } from '../body/rest-kind';
import { withSkinTips } from '../body/skin-tips';
import { applySpace, extent, findSpace, type Normalized, standing } from '../body/space';
import { guessBodyMap } from '../bodymap/guess';
import { withTold } from '../bodymap/humanoid';
import type { BodyMap, Slot } from '../bodymap/slots';
import { stiffLimbs } from '../bodymap/stiff-limbs';
import { MotionError } from '../errors';
import { solveJoints } from '../markers/joint-places';
import type { MarkerBody } from '../markers/known-body';
import { type Solved, type SolveReport, solveWords } from '../markers/solve';
import { solveOnBody, solveTake } from '../markers/solve-on-body';
import { assertMotion, type Motion, PoseReader } from '../motion/motion';
import { skeletonsOf, takeMotion, takeSkeleton } from '../motion/skeletons';
import { type Figure, figureExtent } from '../rig/figure';
import { assertRig, restPose, type SkeletonRig, type WorldPose } from '../rig/rig';
import { readAmc } from './amc-read';
import { readAsf } from './asf-read';
import { readBvh } from './bvh-read';
import { readC3d } from './c3d';
import type { NamedMotion } from './gltf-read';
import { looksLikeJointTable, looksLikeNumbers, readJointTable, TABLE_HEAD, type TableColumns } from './joint-table';
import { motionFromJson } from './motion-json';
import { readTrc } from './trc';

export type Format = 'bvh' | 'glb' | 'gltf' | 'amc' | 'asf' | 'json' | 'c3d' | 'trc' | 'csv';

/** A file taken in: rig and motions in metres, Y up, facing +Z, with what was found on the way. */
export interface Imported {
  readonly format: Format;
  readonly rig: SkeletonRig;
  readonly map: BodyMap;
  readonly clips: readonly NamedMotion[];
  readonly figure: Figure | undefined;
  readonly restKind: RestKind;
  /** The pose taken as rest: the rig's own, or the first frame where a file's zero pose stands like no body. */
  readonly restFrom: 'rest' | 'first frame';
  readonly heightM: number;
  readonly warnings: readonly string[];
  /** How the skeleton was solved, for a file of markers. */
  readonly solved?: SolveReport | undefined;
  /** The body that its markers are on; whether it was known is `onKnown`. */
  readonly worn?: MarkerBody | undefined;
  readonly onKnown?: boolean | undefined;
}

/** Formats whose zero pose is a guess at a rest pose. */
const NO_BIND_POSE: ReadonlySet<Format> = new Set<Format>(['bvh', 'amc', 'asf', 'c3d', 'trc', 'csv']);

/** Formats that say what a unit is. */
const STATES_METRES: ReadonlySet<Format> = new Set<Format>(['glb', 'gltf', 'json', 'c3d', 'trc']);

export const MAX_FILE_BYTES = 512 * 1024 * 1024;

/**
 * Tells the format by the file's first bytes; the ending only helps the message.
 * @throws MotionError 'empty', 'too-large', or 'not-this-format' where nothing here reads such a file
 */
export function sniffFormat(bytes: Uint8Array, fileName = ''): Format {
  if (bytes.length === 0) throw new MotionError('empty', 'The file is empty.');
  if (bytes.length > MAX_FILE_BYTES)
    throw new MotionError(
      'too-large',
      `The file has ${Math.round(bytes.length / 2 ** 20)} MiB; at most ${MAX_FILE_BYTES / 2 ** 20} are accepted.`,
    );
  if (bytes[0] === 0x67 && bytes[1] === 0x6c && bytes[2] === 0x54 && bytes[3] === 0x46) return 'glb';
  const head = String.fromCharCode(...bytes.subarray(0, 256))
    .replace(/^\u00ef\u00bb\u00bf/, '')
    .trimStart();
  if (/^(#.*\n|\/\/.*\n|\s)*HIERARCHY/i.test(head)) return 'bvh';
  if (/^(#.*\n\s*)*:version/i.test(head)) return 'asf';
  if (/^(#.*\n\s*)*:(fully-specified|degrees|radians)/i.test(head) || /^#!OML/i.test(head)) return 'amc';
  if (/^PathFileType\b/.test(head)) return 'trc';
  if (bytes[1] === 0x50 && bytes[0]! >= 2 && bytes[0]! < 64) return 'c3d';
  if (head.startsWith('{') && /"format"\s*:\s*"velvet-reel-motion"/.test(head)) return 'json';
  if (head.startsWith('{')) return 'gltf';
  const table = new TextDecoder().decode(bytes.subarray(0, TABLE_HEAD));
  if (looksLikeJointTable(table)) return 'csv';
  if (looksLikeNumbers(table))
    throw new MotionError(
      'bad-structure',
      'The table holds numbers, and no headings that name joints: say which columns are which joints.',
      { line: 1 },
    );
  const ending = /\.([a-z0-9]{1,8})$/i.exec(fileName)?.[1]?.toLowerCase();
  const claims =
    ending !== undefined && /^(bvh|glb|gltf|asf|amc|json|c3d|trc|csv)$/.test(ending)
      ? ` although its name ends in .${ending}`
      : '';
  throw new MotionError(
    'not-this-format',
    `The content is neither BVH, GLB, glTF, ASF, AMC, C3D, TRC, motion JSON nor a table of joint places${claims}.`,
    { byte: 0 },
  );
}

export interface ImportOptions {
  /** The ASF skeleton that an AMC file moves. */
  readonly skeleton?: Uint8Array | undefined;
  /** Where a file holds several skeletons: which, from 1; without it all are read as one rig. */
  readonly choose?: number | undefined;
  /** Rate of an AMC file, which names none, and of a table without times. */
  readonly fps?: number | undefined;
  /** Which columns of a table hold what, where their headings do not tell. */
  readonly columns?: TableColumns | undefined;
  /** The body that a file of markers is of. */
  readonly body?: MarkerBody | undefined;
  /** Bodies that it may be of; it is solved by itself where it is of none of them. */
  readonly bodies?: readonly MarkerBody[] | undefined;
}

/**
 * Reads a BVH, GLB, glTF, ASF, AMC or motion JSON file and brings it into the common frame.
 * Throws MotionError only, with the file's name in its place.
 */
export async function importFile(bytes: Uint8Array, fileName: string, options: ImportOptions = {}): Promise<Imported> {
  try {
    // a table whose columns are told needs no headings that tell
    const format = options.columns?.joints ? 'csv' : sniffFormat(bytes, fileName);
    if (format === 'csv') {
      const { rig, motion, words } = solveJoints(readJointTable(bytes, { fps: options.fps, ...options.columns }));
      return finish(format, rig, [{ name: stem(fileName), motion }], undefined, words);
    }
    if (format === 'json') {
      const { rig, clips, map } = motionFromJson(parseJson(bytes));
      if (rig.kind !== 'skeleton')
        throw new MotionError('unsupported', 'The file holds the motion of a cut-out; a skeleton is needed here.');
      return finish(format, rig, clips, undefined, [], map);
    }
    if (format === 'asf') {
      const { rig, warnings } = readAsf(bytes);
      return finish(format, rig, [], undefined, warnings);
    }
    if (format === 'amc') {
      if (!options.skeleton)
        throw new MotionError('unsupported', 'An AMC file moves the skeleton of an ASF file: give that along with it.');
      const asf = readAsf(options.skeleton);
      return finish(
        format,
        asf.rig,
        [{ name: stem(fileName), motion: readAmc(bytes, asf, options.fps) }],
        undefined,
        asf.warnings,
      );
    }
    if (format === 'bvh') {
      const { rig, motion, warnings } = readBvh(bytes);
      const clips = motion ? [{ name: stem(fileName), motion }] : [];
      const one = chooseSkeleton(rig, clips, undefined, options.choose, warnings);
      return finish(format, one.rig, one.clips, undefined, one.warnings);
    }
    if (format === 'c3d' || format === 'trc') {
      const markers = format === 'trc' ? readTrc(bytes) : readC3d(bytes);
      const { solved, on } = options.body
        ? { solved: solveOnBody(markers, options.body), on: 0 }
        : solveTake(markers, options.bodies ?? []);
      return { ...importSolved(format, fileName, solved, on >= 0), onKnown: on >= 0 };
    }
    // its reader is the largest by far, and most files need none
    const { readGltf } = await import('./gltf-read');
    const { rig, clips, figure, told, warnings } = await readGltf(bytes);
    const one = chooseSkeleton(rig, clips, figure, options.choose, warnings);
    return finish(format, one.rig, one.clips, one.figure, one.warnings, undefined, told);
  } catch (error) {
    if (error instanceof MotionError && error.place.file === undefined) {
      throw new MotionError(error.code, error.message, { ...error.place, file: fileName });
    }
    throw error;
  }
}

/** A solved take of markers in the common frame, as importFile brings it there. */
export function importSolved(format: 'c3d' | 'trc', fileName: string, solved: Solved, onKnown: boolean): Imported {
  const { rig, motion, report, body } = solved;
  const words = [
    ...solveWords(report),
    ...(onKnown ? ['Solved on the skeleton of an earlier take with the same markers.'] : []),
  ];
  const done = finish(format, rig, [{ name: stem(fileName), motion }], undefined, words);
  return { ...done, solved: report, worn: body };
}

const stem = (fileName: string): string => fileName.replace(/^.*[\\/]/, '').replace(/\.[^.]*$/, '');

function parseJson(bytes: Uint8Array): unknown {
  try {
    return JSON.parse(new TextDecoder().decode(bytes));
  } catch {
    throw new MotionError('not-this-format', 'The content is not readable as JSON.');
  }
}

/** Several bodies in one file: the chosen one alone; a note says that there are more. */
function chooseSkeleton(
  rig: SkeletonRig,
  clips: readonly NamedMotion[],
  figure: Figure | undefined,
  choose: number | undefined,
  warnings: readonly string[],
): { rig: SkeletonRig; clips: readonly NamedMotion[]; figure: Figure | undefined; warnings: string[] } {
  const bodies = skeletonsOf(rig).filter((s) => s.joints >= 8);
  if (choose !== undefined && (choose < 1 || choose > Math.max(1, bodies.length)))
    throw new MotionError(
      'bad-argument',
      `The file holds ${bodies.length} skeletons; number ${choose} is not one of them.`,
    );
  if (bodies.length < 2) return { rig, clips, figure, warnings: [...warnings] };
  const list = bodies.map((s, i) => `${i + 1} "${s.name}"`).join(', ');
  if (choose === undefined)
    return {
      rig,
      clips,
      figure,
      warnings: [
        ...warnings,
        `The file holds ${bodies.length} skeletons (${list}); they were read as one rig. One can be chosen by its number.`,
      ],
    };
  const taken = takeSkeleton(rig, bodies[choose - 1]!.root);
  const newIndex = new Map(taken.from.map((j, i) => [j, i]));
  const meshes = (figure?.meshes ?? []).flatMap((mesh) => {
    // a mesh that hangs on other bodies' joints belongs to them
    if (mesh.joints.some((j, i) => mesh.weights[i]! > 0 && !newIndex.has(j))) return [];
    return [{ ...mesh, joints: mesh.joints.map((j) => newIndex.get(j) ?? 0) }];
  });
  return {
    rig: taken.rig,
    clips: clips.map((c) => ({ name: c.name, motion: takeMotion(taken, c.motion, rig.names.length) })),
    figure: figure && meshes.length > 0 ? { ...figure, meshes } : undefined,
    warnings: [...warnings, `Skeleton ${choose} of ${bodies.length} was taken: "${bodies[choose - 1]!.name}".`],
  };
}

function finish(
  format: Format,
  readRig: SkeletonRig,
  rawClips: readonly NamedMotion[],
  rawFigure: Figure | undefined,
  readWarnings: readonly string[],
  knownMap?: BodyMap,
  told?: ReadonlyMap<Slot, string>,
): Imported {
  const warnings = [...readWarnings];
  assertRig(readRig);
  for (const { motion } of rawClips) assertMotion(readRig, motion);
  const chosen = chooseRest(readRig, rawClips[0]?.motion, format);
  const map = knownMap ?? withTold(guessBodyMap(readRig, chosen.pose), readRig, told ?? new Map());
  const stiff = stiffLimbs(map).map((l) => l.joint);
  const rawRig = rawFigure && stiff.length > 0 ? withSkinTips(readRig, rawFigure, stiff) : readRig;
  const answer = findSpace(rawRig, map, chosen.pose, STATES_METRES.has(format));
  warnings.push(...answer.warnings, ...map.warnings);
  const done = applySpace(
    rawRig,
    rawClips.map((c) => c.motion),
    rawFigure,
    answer,
  );
  const raised = NO_BIND_POSE.has(format) ? done : raiseToFloor(done);
  const rig = NO_BIND_POSE.has(format) ? standOnFloor(done.rig, done.motions) : raised.rig;
  const pose = chosen.from === 'rest' ? restPose(rig) : new PoseReader(rig, done.motions[0]!).at(0);
  if (chosen.from !== 'rest')
    warnings.push('The zero pose of the file stands like no body; its first frame was taken as the rest pose.');
  const size = figureExtent(raised.figure) ?? extent(rig, pose, [0, 1, 0]);
  return {
    format,
    rig,
    map,
    clips: rawClips.map((c, i) => ({ name: c.name, motion: raised.motions[i]! })),
    figure: raised.figure,
    restKind: restKind(pose, map),
    restFrom: chosen.from,
    heightM: size.high - size.low,
    warnings,
  };
}

/** BVH knows no bind pose: its zero pose counts unless it stands like no body and the first frame does. */
function chooseRest(
  rig: SkeletonRig,
  motion: Motion | undefined,
  format: Format,
): { pose: WorldPose; from: 'rest' | 'first frame' } {
  const rest = restPose(rig);
  if (!NO_BIND_POSE.has(format) || !motion) return { pose: rest, from: 'rest' };
  const restUp = standing(rig, guessBodyMap(rig, rest), rest);
  if (restUp > 0.75) return { pose: rest, from: 'rest' };
  const first = new PoseReader(rig, motion).at(0);
  const firstUp = standing(rig, guessBodyMap(rig, first), first);
  return firstUp > restUp + 0.1 ? { pose: first, from: 'first frame' } : { pose: rest, from: 'rest' };
}

/** A body whose soles are farther from the ground than this share of its height was built about another origin. */
const OFF_GROUND = 0.006;

/** Some characters have their origin at the hips: rest, clips and skin are raised together so that the rest stands on y = 0. */
function raiseToFloor(given: Normalized): Normalized {
  const { rig, motions, figure } = given;
  const skin = figureExtent(figure);
  const { low, high } = skin ?? extent(rig, restPose(rig), [0, 1, 0]);
  if (!(high > low) || Math.abs(low) < OFF_GROUND * (high - low)) return given;
  const roots = [...rig.parents.keys()].filter((j) => rig.parents[j]! < 0);
  const restT = rig.restT.slice();
  for (const j of roots) restT[3 * j + 1] = restT[3 * j + 1]! - low;
  const up = (values: Float32Array): Float32Array => values.map((x, i) => (i % 3 === 1 ? x - low : x));
  return {
    rig: { ...rig, restT },
    motions: motions.map((m) => ({
      ...m,
      places: m.places.map((t) => (roots.includes(t.joint) ? { joint: t.joint, values: up(t.values) } : t)),
    })),
    figure: figure && { ...figure, meshes: figure.meshes.map((mesh) => ({ ...mesh, positions: up(mesh.positions) })) },
  };
}

/** A BVH root's place is in its channels, so its rest may be put on the floor at will; equal skeletons then stay equal. */
function standOnFloor(rig: SkeletonRig, motions: readonly Motion[]): SkeletonRig {
  const { low } = extent(rig, restPose(rig), [0, 1, 0]);
  const restT = rig.restT.slice();
  rig.parents.forEach((p, j) => {
    if (p >= 0 || motions.some((m) => !m.places.some((t) => t.joint === j))) return;
    const first = rig.parents.indexOf(-1) === j;
    restT[3 * j] = first ? 0 : restT[3 * j]! - rig.restT[0]!;
    restT[3 * j + 1] = restT[3 * j + 1]! - low;
    restT[3 * j + 2] = first ? 0 : restT[3 * j + 2]! - rig.restT[2]!;
  });
  return { ...rig, restT };
}
