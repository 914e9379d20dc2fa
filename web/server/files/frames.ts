import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import type { Resvg as ResvgClass, ResvgRenderOptions } from '@resvg/resvg-wasm';
import {
  boxOverTime,
  type CutoutFigure,
  CutoutShow,
  type Motion,
  renderSvg,
  SpriteSheet,
  spriteFiles,
  spriteHeight,
  straightAlpha,
} from '@velvet-reel/motion';
import { strToU8, zipSync } from 'fflate';

/** Every picture fits in here, pixels. */
const WIDTH = 1920;
const HEIGHT = 1080;

/** Draws a cut-out's motion frame by frame, each picture of the whole way of the figure. */
async function drawFrames(
  figure: CutoutFigure,
  motion: Motion,
  fitFrom: (box: readonly [number, number, number, number]) => NonNullable<ResvgRenderOptions['fitTo']>,
  take: (image: ReturnType<InstanceType<typeof ResvgClass>['render']>, frame: number) => void,
): Promise<readonly [number, number, number, number]> {
  const { Resvg, initWasm } = await import('@resvg/resvg-wasm');
  await initWasm(await readFile(createRequire(import.meta.url).resolve('@resvg/resvg-wasm/index_bg.wasm'))).catch(
    (error: Error) => {
      // a thread that has drawn before
      if (!/already/i.test(error.message)) throw error;
    },
  );
  const box = boxOverTime(new CutoutShow(figure.rig, figure.art, motion));
  const fitTo = fitFrom(box);
  for (let f = 0; f < motion.frameCount; f++) {
    const image = new Resvg(renderSvg(figure, { motion, seconds: f / motion.fps, box }), { fitTo }).render();
    take(image, f);
    image.free();
  }
  return box;
}

/** A cut-out's motion as one transparent PNG for each frame, all of one size, in an archive. */
export async function framesAsPng(figure: CutoutFigure, motion: Motion): Promise<Uint8Array> {
  const digits = String(motion.frameCount).length;
  const files: Record<string, Uint8Array> = {};
  await drawFrames(
    figure,
    motion,
    ([, , w, h]) => (w / h > WIDTH / HEIGHT ? { mode: 'width', value: WIDTH } : { mode: 'height', value: HEIGHT }),
    (image, f) => {
      files[`${String(f + 1).padStart(digits, '0')}.png`] = image.asPng();
    },
  );
  // pictures are packed already
  return zipSync(files, { level: 0 });
}

/**
 * A cut-out's motion as one sheet of all its pictures, with a JSON that tells where they lie, in an archive.
 * @throws MotionError 'too-large' where they do not fit one sheet
 */
export async function framesAsSprites(figure: CutoutFigure, motion: Motion, name: string): Promise<Uint8Array> {
  const sheet = new SpriteSheet();
  const box = await drawFrames(
    figure,
    motion,
    ([, , w, h]) => ({ mode: 'height', value: spriteHeight(motion.frameCount, [w, h]) }),
    (image) => {
      sheet.add({ width: image.width, height: image.height, rgba: straightAlpha(new Uint8Array(image.pixels)) });
    },
  );
  const { picture, json } = spriteFiles(sheet, { name, fps: motion.fps, box, origin: figure.art.origin });
  const UPNG = (await import('upng-js')).default;
  const png = new Uint8Array(UPNG.encode([picture.rgba.buffer as ArrayBuffer], picture.width, picture.height, 0));
  return zipSync({ 'sheet.png': [png, { level: 0 }], 'sheet.json': strToU8(JSON.stringify(json)) });
}
