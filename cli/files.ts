import { mkdir, readFile, stat, writeFile } from 'node:fs/promises';
import { dirname } from 'node:path';
import {
  type Figure,
  type Imported,
  importFile,
  MAX_FILE_BYTES,
  type Motion,
  MotionError,
  type Rig,
  resample,
  restMotion,
  writeBvh,
  writeGlb,
} from '../motion/index';

/** Reads and imports a file; every way in which that can fail is a MotionError. */
export async function load(path: string): Promise<Imported> {
  return importFile(await readBytes(path), path);
}

export async function readBytes(path: string): Promise<Uint8Array> {
  try {
    const info = await stat(path);
    if (info.isDirectory()) throw new MotionError('bad-argument', 'It is a folder, not a file.', { file: path });
    if (info.size > MAX_FILE_BYTES) {
      throw new MotionError(
        'too-large',
        `It has ${Math.round(info.size / 2 ** 20)} MiB; at most ${MAX_FILE_BYTES / 2 ** 20} are taken.`,
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

export type OutFormat = 'bvh' | 'glb';

export function outFormat(path: string): OutFormat | undefined {
  const ending = /\.([a-z0-9]+)$/i.exec(path)?.[1]?.toLowerCase();
  return ending === 'bvh' || ending === 'glb' ? ending : undefined;
}

export interface OutContent {
  rig: Rig;
  figure: Figure | undefined;
  clips: readonly { name: string; motion: Motion }[];
}

/** Writes what BVH can hold (one motion) or all clips as GLB; returns what was left out, in words. */
export async function save(
  path: string,
  format: OutFormat,
  content: OutContent,
  fps: number | undefined,
): Promise<string[]> {
  const clips = content.clips.map((c) => ({
    name: c.name,
    motion: fps ? resample(content.rig, c.motion, fps) : c.motion,
  }));
  if (format === 'glb') {
    await writeOut(path, await writeGlb({ rig: content.rig, figure: content.figure, clips }));
    return [];
  }
  const left: string[] = [];
  if (clips.length > 1)
    left.push(`BVH holds one motion: "${clips[0]!.name}" was written, ${clips.length - 1} were left out.`);
  if (content.figure) left.push('BVH holds no mesh: the skeleton was written.');
  if (clips[0]?.motion.scalars.length) left.push('BVH holds no face shapes: they were left out.');
  await writeOut(path, writeBvh(content.rig, clips[0]?.motion ?? restMotion(content.rig)));
  return left;
}
