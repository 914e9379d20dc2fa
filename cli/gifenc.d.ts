declare module 'gifenc' {
  type Palette = number[][];
  interface Encoder {
    writeFrame(
      index: Uint8Array,
      width: number,
      height: number,
      options: { palette: Palette; delay: number; transparent?: boolean; transparentIndex?: number; dispose?: number },
    ): void;
    finish(): void;
    bytes(): Uint8Array;
  }
  interface Gifenc {
    GIFEncoder(): Encoder;
    quantize(
      rgba: Uint8Array | Uint8ClampedArray,
      colours: number,
      options?: { format: 'rgba4444'; oneBitAlpha: boolean },
    ): Palette;
    applyPalette(rgba: Uint8Array | Uint8ClampedArray, palette: Palette, format?: 'rgba4444'): Uint8Array;
  }
  export const GIFEncoder: Gifenc['GIFEncoder'];
  export const quantize: Gifenc['quantize'];
  export const applyPalette: Gifenc['applyPalette'];
  const all: Gifenc | undefined;
  export default all;
}
