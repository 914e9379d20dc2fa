/**
 * Slow course of a track: three running means over ±w frames, nearly a Gaussian.
 * @param values `width` numbers a frame at offset + frame · stride
 * @param round the last frame is the first again: the track goes on around the seam (by the difference, for what travels)
 * @returns width · F numbers
 */
export function slowCourse(
  values: Float32Array,
  offset: number,
  stride: number,
  width: number,
  frames: number,
  w: number,
  round: boolean,
): Float64Array {
  let now = new Float64Array(width * frames);
  for (let f = 0; f < frames; f++)
    for (let k = 0; k < width; k++) now[width * f + k] = values[offset + f * stride + k]!;
  const period = frames - 1;
  for (let pass = 0; pass < 3; pass++) {
    const next = new Float64Array(width * frames);
    for (let k = 0; k < width; k++) {
      const lap = round ? now[width * period + k]! - now[k]! : 0;
      const at = (i: number): number => {
        if (!round) {
          // mirrored through the end point, so that a steady rise stays one
          if (i < 0) return 2 * now[k]! - now[width * Math.min(-i, frames - 1) + k]!;
          if (i >= frames)
            return 2 * now[width * (frames - 1) + k]! - now[width * Math.max(0, 2 * (frames - 1) - i) + k]!;
          return now[width * i + k]!;
        }
        const laps = Math.floor(i / period);
        return now[width * (i - laps * period) + k]! + laps * lap;
      };
      let sum = 0;
      for (let i = -w; i <= w; i++) sum += at(i);
      for (let f = 0; f < frames; f++) {
        next[width * f + k] = sum / (2 * w + 1);
        sum += at(f + w + 1) - at(f - w);
      }
    }
    now = next;
  }
  return now;
}
