import { zipSync } from 'fflate';
import { type Filmed, type FilmFrame, filmOf, MotionError, type Raster } from '../../motion/index';
import { firstClip, load, writeOut } from '../files';
import { type Options, readNumber, readWord } from '../options';
import { gifOf, MOST_PIXEL_BYTES, png } from '../pictures';
import { UsageError } from '../usage';

const USUAL_HEIGHT = 360;
const USUAL_FPS = 24;

/** velvet-reel film A [B...] --out FILE: a review film without a browser, original and result side by side. */
export async function filmCommand(files: string[], options: Options, print: (text: string) => void): Promise<void> {
  const kind = /\.(zip|gif|apng|png)$/i.exec(options.out ?? '')?.[1]?.toLowerCase();
  if (!kind) throw new UsageError('film needs --out FILE.zip, .gif, .apng or .png');
  const cast: Filmed[] = [];
  for (const file of files) {
    const body = await load(file, { ...options, fps: undefined } as Options);
    cast.push({ rig: body.rig, motion: firstClip(body, file).motion, figure: body.figure });
  }
  const fps = readNumber(options.fps, 'fps', 1, 120) ?? USUAL_FPS;
  const view = options.view === undefined ? 'front' : readWord(options.view, 'view', ['front', 'side'], 'front');
  const height = Math.round(readNumber(options.height, 'height', 16, 2160) ?? USUAL_HEIGHT);
  const film = filmOf(cast, { view: view as 'front' | 'side', height, fps });
  const delayOf = (i: number): number => Math.round(((i + 1) * 1000) / fps) - Math.round((i * 1000) / fps);
  let frames = 0;
  let size = [0, 0];
  const counted = function* (): Generator<Raster> {
    for (const frame of film) {
      frames++;
      size = [frame.width, frame.height];
      yield pixels(frame);
    }
  };
  if (kind === 'gif') {
    await writeOut(options.out!, await gifOf(counted(), delayOf));
  } else if (kind === 'zip') {
    const pictures: Record<string, Uint8Array> = {};
    for (const frame of counted()) pictures[`frame-${String(frames).padStart(5, '0')}.png`] = await png([frame]);
    // pictures are packed already
    await writeOut(options.out!, zipSync(pictures, { level: 0 }));
  } else {
    const kept: Raster[] = [];
    for (const frame of counted()) {
      kept.push(frame);
      if (kind === 'png') break;
      if (kept.length * frame.rgba.length > MOST_PIXEL_BYTES)
        throw new MotionError('too-large', 'The film has too many frames for one APNG: choose a smaller --height.', {
          file: options.out!,
        });
    }
    await writeOut(
      options.out!,
      kind === 'png'
        ? await png(kept)
        : await png(
            kept,
            kept.map((_, i) => delayOf(i)),
          ),
    );
  }
  const answer = { out: options.out, frames, fps, width: size[0], height: size[1], view };
  if (options.json) return print(JSON.stringify(answer, null, 2));
  print(`${options.out} written: ${frames} frames of ${size[0]} × ${size[1]} points, ${fps} a second`);
}

const pixels = ({ width, height, rgba }: FilmFrame): Raster => ({
  width,
  height,
  rgba: new Uint8Array(rgba.buffer),
});
