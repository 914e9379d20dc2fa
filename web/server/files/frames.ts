import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { boxOverTime, type CutoutFigure, CutoutShow, type Motion, renderSvg } from '@velvet-reel/motion';
import { zipSync } from 'fflate';

/** Every picture fits in here, pixels. */
const WIDTH = 1920;
const HEIGHT = 1080;

/** A cut-out's motion as one transparent PNG for each frame, all of one size, in an archive. */
export async function framesAsPng(figure: CutoutFigure, motion: Motion): Promise<Uint8Array> {
  const { Resvg, initWasm } = await import('@resvg/resvg-wasm');
  await initWasm(await readFile(createRequire(import.meta.url).resolve('@resvg/resvg-wasm/index_bg.wasm'))).catch(
    (error: Error) => {
      // a thread that has drawn before
      if (!/already/i.test(error.message)) throw error;
    },
  );
  const box = boxOverTime(new CutoutShow(figure.rig, figure.art, motion));
  const wide = box[2] / box[3] > WIDTH / HEIGHT;
  const fitTo = wide ? ({ mode: 'width', value: WIDTH } as const) : ({ mode: 'height', value: HEIGHT } as const);
  const digits = String(motion.frameCount).length;
  const files: Record<string, Uint8Array> = {};
  for (let f = 0; f < motion.frameCount; f++) {
    const image = new Resvg(renderSvg(figure, { motion, seconds: f / motion.fps, box }), { fitTo }).render();
    files[`${String(f + 1).padStart(digits, '0')}.png`] = image.asPng();
    image.free();
  }
  // pictures are packed already
  return zipSync(files, { level: 0 });
}
