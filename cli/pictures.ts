import type { Raster } from '../motion/index';

/** What the frames of one moving PNG may take in memory. */
export const MOST_PIXEL_BYTES = 600 * 2 ** 20;

/** Pictures as one PNG, moving where there are several. */
export async function png(pictures: readonly Raster[], delays?: number[]): Promise<Uint8Array> {
  const UPNG = (await import('upng-js')).default;
  const frames = pictures.map((p) => p.rgba.slice().buffer as ArrayBuffer);
  const { width, height } = pictures[0]!;
  return new Uint8Array(delays ? UPNG.encode(frames, width, height, 0, delays) : UPNG.encode(frames, width, height, 0));
}

/** Pictures as a GIF: 256 colours each, no half-transparent edges. */
export async function gifOf(
  pictures: AsyncIterable<Raster> | Iterable<Raster>,
  delayOf: (frame: number) => number,
): Promise<Uint8Array> {
  const gif = await import('gifenc');
  const { GIFEncoder, quantize, applyPalette } = gif.default ?? gif;
  const encoder = GIFEncoder();
  let i = 0;
  for await (const { width, height, rgba } of pictures) {
    const palette = quantize(rgba, 256, { format: 'rgba4444', oneBitAlpha: true });
    const clear = palette.findIndex((c) => c[3] === 0);
    encoder.writeFrame(applyPalette(rgba, palette, 'rgba4444'), width, height, {
      palette,
      delay: delayOf(i++),
      ...(clear >= 0 ? { transparent: true, transparentIndex: clear, dispose: 2 } : {}),
    });
  }
  encoder.finish();
  return encoder.bytes();
}
