import { mkdir, readdir, readFile, stat, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { zipSync } from 'fflate';
import {
  type BodyMap,
  type Figure,
  figureFloor,
  findTPose,
  guessBodyMap,
  type Imported,
  importFile,
  MAX_FILE_BYTES,
  type Motion,
  MotionError,
  measureThickness,
  motionToJson,
  type Party,
  PoseReader,
  radiiOf,
  resample,
  restMotion,
  type SkeletonRig,
  skeletonFileFor,
  skinnedJoints,
  type TableColumns,
  writeBvh,
  writeCsv,
  writeGlb,
  writeUsd,
  writeVrm,
  writeVrma,
} from '../motion/index';
import { type Options, readFps, readWhole } from './options';
import { UsageError } from './usage';

/** Reads and imports a file; every way in which that can fail is a MotionError. */
export async function load(path: string, options: Options = {}): Promise<Imported> {
  const bytes = await readBytes(path);
  const skeleton = /\.amc$/i.test(path)
    ? await readBytes(options.skeleton ?? (await siblingSkeleton(path)))
    : undefined;
  return importFile(bytes, path, {
    skeleton,
    choose: readWhole(options.choose, 'choose'),
    fps: skeleton || options.columns || /\.(csv|tsv|txt)$/i.test(path) ? readFps(options.fps) : undefined,
    columns: options.columns ? await readColumns(options.columns) : undefined,
  });
}

/** Which columns of a table hold what, as JSON. */
async function readColumns(path: string): Promise<TableColumns> {
  const at = (what: unknown): what is string | number => typeof what === 'string' || typeof what === 'number';
  let json: TableColumns;
  try {
    json = JSON.parse(new TextDecoder().decode(await readBytes(path)));
  } catch (error) {
    if (error instanceof SyntaxError) throw new UsageError(`${path} is no JSON: ${error.message}`);
    throw error;
  }
  const { joints, time, fps } = json ?? {};
  const whole =
    (joints === undefined ||
      (typeof joints === 'object' &&
        joints !== null &&
        Object.values(joints).every((c) => typeof c === 'string' || (Array.isArray(c) && c.every(at))))) &&
    (time === undefined || at(time)) &&
    (fps === undefined || (typeof fps === 'number' && fps > 0));
  if (!whole)
    throw new UsageError(`${path} is no list of columns: {"joints": {"hips": "Pelvis"}, "time": "t", "fps": 60}`);
  return json;
}

/** The ASF file beside an AMC file. */
async function siblingSkeleton(path: string): Promise<string> {
  const folder = dirname(path);
  const files = (await readdir(folder).catch(() => [])).filter((f) => /\.asf$/i.test(f));
  const chosen = skeletonFileFor(path, files);
  if (!chosen)
    throw new MotionError('unsupported', 'An AMC file moves the skeleton of an ASF file: name it with --skeleton.', {
      file: path,
    });
  return join(folder, chosen);
}

/** One side of a retarget, with the pose that --rest names as its rest. */
export function party(file: Imported, map?: BodyMap, rest?: string): Party {
  const first = file.clips[0]?.motion;
  const skin = file.figure && measureThickness(file.rig, file.figure);
  return {
    rig: file.rig,
    map: map ?? file.map,
    pose: restPoseOf(file, first, rest),
    floor: file.figure && figureFloor(file.figure),
    radii: skin && radiiOf({ rig: file.rig, map: map ?? file.map }, skin),
    skinned: skin && skinnedJoints(skin),
    edges: skin?.edges,
  };
}

function restPoseOf(file: Imported, first: Motion | undefined, rest: string | undefined): Party['pose'] {
  if (rest === undefined || rest === 'rest')
    return file.restFrom === 'first frame' && first && rest === undefined
      ? new PoseReader(file.rig, first).at(0)
      : undefined;
  if (!first) throw new MotionError('no-motion', 'It holds no motion to take a rest pose from.');
  if (rest === 't-pose') {
    const frame = findTPose(file.rig, file.map, first);
    if (frame < 0) throw new MotionError('bad-argument', 'No frame of its first three seconds stands in T.');
    return new PoseReader(file.rig, first).at(frame);
  }
  const frame = readWhole(/^frame:(.*)$/.exec(rest)?.[1] ?? 'x', 'rest frame:N, where N');
  if (frame === undefined || frame >= first.frameCount)
    throw new MotionError('bad-argument', `Frame ${frame} is not within 0 to ${first.frameCount - 1}.`);
  return new PoseReader(file.rig, first).at(frame);
}

/** The file's first motion; a MotionError that names the file where it holds none. */
export function firstClip(file: Imported, path: string): { name: string; motion: Motion } {
  const clip = file.clips[0];
  if (!clip) throw new MotionError('no-motion', 'It holds no motion.', { file: path });
  return clip;
}

export async function readBytes(path: string): Promise<Uint8Array> {
  try {
    const info = await stat(path);
    if (info.isDirectory()) throw new MotionError('bad-argument', 'It is a folder, not a file.', { file: path });
    if (info.size > MAX_FILE_BYTES) {
      throw new MotionError(
        'too-large',
        `It has ${Math.round(info.size / 2 ** 20)} MiB; at most ${MAX_FILE_BYTES / 2 ** 20} are accepted.`,
        { file: path },
      );
    }
    return new Uint8Array(await readFile(path));
  } catch (error) {
    if (error instanceof MotionError) throw error;
    throw new MotionError(
      'bad-argument',
      `It cannot be read (${(error as { code?: string }).code ?? 'unknown reason'}).`,
      { file: path },
    );
  }
}

export async function readJson(path: string): Promise<unknown> {
  const bytes = await readBytes(path);
  try {
    return JSON.parse(new TextDecoder().decode(bytes));
  } catch {
    throw new MotionError('not-this-format', 'It is not readable as JSON.', { file: path });
  }
}

export async function writeOut(path: string, content: string | Uint8Array): Promise<void> {
  try {
    await mkdir(dirname(path), { recursive: true });
    await writeFile(path, content);
  } catch (error) {
    throw new MotionError(
      'bad-argument',
      `It cannot be written (${(error as { code?: string }).code ?? 'unknown reason'}).`,
      { file: path },
    );
  }
}

export const OUT_FORMATS = ['bvh', 'glb', 'csv', 'json', 'zip', 'usda', 'vrm', 'vrma'] as const;
export type OutFormat = (typeof OUT_FORMATS)[number];

/** Format that a file name's ending asks for; a UsageError where none is known. */
export function outFormat(path: string | undefined, what: string): OutFormat {
  const ending = /\.([a-z0-9]+)$/i.exec(path ?? '')?.[1]?.toLowerCase();
  const format = OUT_FORMATS.find((f) => f === ending);
  if (!format) throw new UsageError(`${what} must end in ${OUT_FORMATS.map((f) => `.${f}`).join(', ')}`);
  return format;
}

export interface OutContent {
  rig: SkeletonRig;
  figure: Figure | undefined;
  map?: BodyMap;
  clips: readonly { name: string; motion: Motion }[];
}

/** Writes what the format can hold and returns what was left out, in words. A ZIP gets one BVH a clip. */
export async function save(path: string, format: OutFormat, content: OutContent, options: Options): Promise<string[]> {
  const fps = readFps(options.fps);
  const clips = content.clips.map((c) => ({
    name: c.name,
    motion: fps ? resample(content.rig, c.motion, fps) : c.motion,
  }));
  const first = clips[0]?.motion ?? restMotion(content.rig);
  if (format === 'glb') {
    const figure = options['no-mesh'] ? undefined : content.figure;
    const keyTolerance = options.keys === undefined ? undefined : Number(options.keys) / 1000;
    await writeOut(path, await writeGlb({ rig: content.rig, figure, clips, keyTolerance }));
    return [];
  }
  if (format === 'usda') {
    const figure = options['no-mesh'] ? undefined : content.figure;
    await writeOut(path, writeUsd({ rig: content.rig, figure, clip: clips[0] }));
    return clips.length > 1 ? [`USD holds one motion here: "${clips[0]!.name}" was written.`] : [];
  }
  if (format === 'vrm' || format === 'vrma') {
    const map = content.map ?? guessBodyMap(content.rig);
    const { rig } = content;
    if (format === 'vrma') {
      await writeOut(path, await writeVrma({ rig, clips: clips.slice(0, 1) }, map));
      return content.figure ? ['A VRM animation holds no mesh: it was left out.'] : [];
    }
    const name = path.replace(/^.*[\\/]/, '').replace(/\.[^.]*$/, '');
    await writeOut(path, await writeVrm({ rig, figure: content.figure }, map, { name, authors: [] }));
    return clips.length > 0 ? ['VRM holds no motion: write .vrma for that.'] : [];
  }
  if (format === 'json') {
    await writeOut(path, JSON.stringify(motionToJson(content.rig, clips, content.map)));
    return content.figure ? ['Motion JSON holds no mesh: it was left out.'] : [];
  }
  if (format === 'zip') {
    const names = new Set<string>();
    const files = Object.fromEntries(
      clips.map((c) => [fileName(c.name, names), new TextEncoder().encode(writeBvh(content.rig, c.motion))]),
    );
    await writeOut(path, zipSync(files));
    return content.figure ? ['BVH holds no mesh: the skeletons were written.'] : [];
  }
  const left: string[] = [];
  const label = format.toUpperCase();
  if (clips.length > 1)
    left.push(`${label} holds one motion: "${clips[0]!.name}" was written, ${clips.length - 1} were left out.`);
  if (content.figure) left.push(`${label} holds no mesh: the skeleton was written.`);
  if (format === 'bvh' && first.numbers.length) left.push('BVH holds no face shapes: they were left out.');
  await writeOut(path, format === 'csv' ? writeCsv(content.rig, first) : writeBvh(content.rig, first));
  return left;
}

/** A clip's name as a file name of its own. */
function fileName(name: string, taken: Set<string>): string {
  const stem =
    name
      .replace(/[^\p{L}\p{N} ._-]+/gu, '_')
      .replace(/^\.+/, '')
      .trim() || 'clip';
  let out = `${stem}.bvh`;
  for (let i = 2; taken.has(out.toLowerCase()); i++) out = `${stem} ${i}.bvh`;
  taken.add(out.toLowerCase());
  return out;
}
