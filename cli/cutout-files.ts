import { readdir, stat } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { join } from 'node:path';
import { unzipSync } from 'fflate';
import {
  assemble,
  boxOverTime,
  type CutoutFigure,
  type CutoutScene,
  CutoutShow,
  cutoutFromSvg,
  figureFromJson,
  findPictureParts,
  isLottie,
  type Motion,
  MotionError,
  type PictureFile,
  type Raster,
  renderSvg,
  restMotion,
  sceneFromJson,
  sceneFromLottie,
  straightAlpha,
} from '../motion/index';
import { readBytes, readJson } from './files';

const MOST_UNPACKED = 512 * 2 ** 20;
const MOST_FILES = 2000;

/** A cut-out figure from a layered SVG, a ZIP or a folder of PNG pictures, or the JSON of a scene or of a Lottie animation. */
export async function loadFigure(path: string): Promise<CutoutFigure> {
  return withFile(path, async () => {
    if ((await stat(path).catch(() => undefined))?.isDirectory()) return assemble(findPictureParts(await folder(path)));
    if (/\.json$/i.test(path)) return (await loadScene(path)).figure;
    const bytes = await readBytes(path);
    return bytes[0] === 0x50 && bytes[1] === 0x4b ? assemble(findPictureParts(unpacked(bytes))) : cutoutFromSvg(bytes);
  });
}

/** A figure with a motion, from our JSON or a Lottie animation; a figure alone stands at rest. */
export async function loadScene(path: string): Promise<CutoutScene> {
  return withFile(path, async () => {
    if (!/\.json$/i.test(path)) {
      const figure = await loadFigure(path);
      return { name: stemOf(path), figure, motion: restMotion(figure.rig), keys: undefined };
    }
    const json = (await readJson(path)) as { format?: unknown; figure?: unknown } | null;
    if (json?.format === undefined && json?.figure) {
      const figure = figureFromJson(json.figure);
      return { name: stemOf(path), figure, motion: restMotion(figure.rig), keys: undefined };
    }
    return isLottie(json) ? sceneFromLottie(json) : sceneFromJson(json);
  });
}

/** A file's name without folders and ending. */
export const stemOf = (path: string): string => path.replace(/^.*[\\/]/, '').replace(/\.[^.]*$/, '');

async function withFile<T>(file: string, read: () => Promise<T>): Promise<T> {
  try {
    return await read();
  } catch (error) {
    if (error instanceof MotionError && error.place.file === undefined)
      throw new MotionError(error.code, error.message, { ...error.place, file });
    throw error;
  }
}

async function folder(path: string): Promise<PictureFile[]> {
  const names = (await readdir(path)).filter((n) => /\.(png|json)$/i.test(n)).sort();
  if (names.length > MOST_FILES) throw new MotionError('too-large', `The folder has more than ${MOST_FILES} pictures.`);
  return Promise.all(names.map(async (name) => ({ name, bytes: await readBytes(join(path, name)) })));
}

function unpacked(bytes: Uint8Array): PictureFile[] {
  let total = 0;
  let count = 0;
  try {
    const files = unzipSync(bytes, {
      filter: ({ name, originalSize }) => {
        if (!/\.(png|json)$/i.test(name) || /(^|\/)(\.|__MACOSX\/)/.test(name)) return false;
        total += originalSize;
        if (++count > MOST_FILES || total > MOST_UNPACKED)
          throw new MotionError('too-large', 'The archive unpacks to too much.');
        return true;
      },
    });
    return Object.entries(files).map(([name, content]) => ({ name, bytes: content }));
  } catch (error) {
    if (error instanceof MotionError) throw error;
    throw new MotionError('truncated', 'The archive is broken: pack it anew.');
  }
}

/** Draws frames of a scene as pixels, one after the other, by a renderer that needs no browser. */
export async function* pixelsOf(
  figure: CutoutFigure,
  motion: Motion,
  frames: readonly number[],
  height: number,
): AsyncGenerator<Raster> {
  const { Resvg, initWasm } = await import('@resvg/resvg-wasm');
  const { readFile } = await import('node:fs/promises');
  const wasm = createRequire(import.meta.url).resolve('@resvg/resvg-wasm/index_bg.wasm');
  await initWasm(await readFile(wasm)).catch((error: Error) => {
    // a second time in one process
    if (!/already/i.test(error.message)) throw error;
  });
  const box = boxOverTime(new CutoutShow(figure.rig, figure.art, motion));
  for (const f of frames) {
    const svg = renderSvg(figure, { motion, seconds: f / motion.fps, box });
    const image = new Resvg(svg, { fitTo: { mode: 'height', value: height } }).render();
    yield { width: image.width, height: image.height, rgba: straightAlpha(new Uint8Array(image.pixels)) };
    image.free();
  }
}
