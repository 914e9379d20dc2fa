/** What a camera has to show. */
export interface Shown {
  /** Metres, about the point that is looked at. */
  readonly height: number;
  readonly width: number;
}

/** How far away a camera must be for everything to be in a picture. @param fovDeg upright @param ratio the picture's width by its height */
export function distanceFor({ height, width }: Shown, fovDeg: number, ratio: number): number {
  const half = Math.tan((fovDeg * Math.PI) / 360);
  // whoever stands at the side is nearer to a camera that looks from there
  return Math.max((height * 1.32) / 2 / half, (width * 1.12) / 2 / half / ratio) + width * 0.24;
}

/**
 * Where a camera goes when its picture changes shape: it shows the same from the same side, as near or far as it was made.
 * @param eye where it is against what it looks at
 */
export function reshaped(
  eye: readonly [number, number, number],
  shown: Shown,
  fovDeg: number,
  from: number,
  to: number,
): [number, number, number] {
  const by = distanceFor(shown, fovDeg, to) / distanceFor(shown, fovDeg, from);
  return [eye[0] * by, eye[1] * by, eye[2] * by];
}
