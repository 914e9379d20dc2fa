/** What a film is kept as: WebM video, a moving GIF, or a ZIP of PNG pictures. */
export const FILM_FORMATS = ['webm', 'gif', 'png'] as const;
export type FilmFormat = (typeof FILM_FORMATS)[number];

export interface FilmSize {
  readonly width: number;
  readonly height: number;
  readonly fps: number;
}

/** Takes pictures one after the other and makes a file of them. */
export interface FilmSink {
  /** @param index of the picture, from 0 */
  add: (picture: HTMLCanvasElement, index: number) => Promise<void>;
  finish: () => Promise<Blob>;
  /** Lets go of what was begun. */
  cancel: () => Promise<void>;
}

/** Pictures that a ZIP may hold, in bytes before they are packed: all of them are in memory at once. */
const MOST_PNG_BYTES = 1.2e9;

/** @throws Error with a sentence where this browser cannot make such a film */
export function sinkFor(format: FilmFormat, canvas: HTMLCanvasElement, size: FilmSize): Promise<FilmSink> {
  return format === 'webm' ? webm(canvas, size) : format === 'gif' ? gif(size) : pngs();
}

async function webm(canvas: HTMLCanvasElement, { width, height, fps }: FilmSize): Promise<FilmSink> {
  const { BufferTarget, CanvasSource, getFirstEncodableVideoCodec, Output, QUALITY_HIGH, WebMOutputFormat } =
    await import('mediabunny');
  const codec = await getFirstEncodableVideoCodec(['vp9', 'vp8', 'av1'], { width, height });
  if (!codec) throw new Error(texts.thisBrowserCannotWrite);
  const target = new BufferTarget();
  const output = new Output({ format: new WebMOutputFormat(), target });
  const source = new CanvasSource(canvas, { codec, bitrate: QUALITY_HIGH });
  output.addVideoTrack(source, { frameRate: fps });
  await output.start();
  return {
    add: (_, i) => source.add(i / fps, 1 / fps),
    finish: async () => {
      await output.finalize();
      if (!target.buffer) throw new Error(texts.theVideoCouldNot);
      return new Blob([target.buffer], { type: 'video/webm' });
    },
    cancel: () => output.cancel(),
  };
}

async function gif({ fps }: FilmSize): Promise<FilmSink> {
  const { GIFEncoder, quantize, applyPalette } = await import('gifenc');
  const encoder = GIFEncoder();
  // a GIF tells time in hundredths of a second: what is rounded off is made up for by later pictures
  const delayOf = (i: number): number => 10 * (Math.round(((i + 1) * 100) / fps) - Math.round((i * 100) / fps));
  return {
    add: async (picture, i) => {
      const { width, height } = picture;
      const { data } = picture.getContext('2d')!.getImageData(0, 0, width, height);
      const palette = quantize(data, 256);
      encoder.writeFrame(applyPalette(data, palette), width, height, { palette, delay: delayOf(i) });
    },
    finish: async () => {
      encoder.finish();
      return new Blob([encoder.bytes() as Uint8Array<ArrayBuffer>], { type: 'image/gif' });
    },
    cancel: async () => undefined,
  };
}

async function pngs(): Promise<FilmSink> {
  const { zipSync } = await import('fflate');
  const files: Record<string, [Uint8Array, { level: 0 }]> = {};
  let bytes = 0;
  return {
    add: async (picture, i) => {
      const blob = await new Promise<Blob | null>((done) => picture.toBlob(done, 'image/png'));
      if (!blob) throw new Error(texts.aPictureCouldNot);
      bytes += blob.size;
      if (bytes > MOST_PNG_BYTES) throw new Error(texts.thePicturesAreToo);
      // pictures are packed already
      files[`frame-${String(i + 1).padStart(5, '0')}.png`] = [new Uint8Array(await blob.arrayBuffer()), { level: 0 }];
    },
    finish: async () => new Blob([zipSync(files) as Uint8Array<ArrayBuffer>], { type: 'application/zip' }),
    cancel: async () => undefined,
  };
}

import { encode as texts } from '../texts';
