/** A picture as pixels: four bytes each, red green blue opacity, rows from the top. */
export interface Raster {
  readonly width: number;
  readonly height: number;
  readonly rgba: Uint8Array;
}

/** Pixels whose colours were multiplied with their opacity, as they were before; a new array. */
export function straightAlpha(pixels: Uint8Array): Uint8Array {
  const out = pixels.slice();
  for (let i = 0; i < out.length; i += 4) {
    const a = out[i + 3]!;
    if (a === 0 || a === 255) continue;
    for (let k = 0; k < 3; k++) out[i + k] = Math.min(255, Math.round((out[i + k]! * 255) / a));
  }
  return out;
}
