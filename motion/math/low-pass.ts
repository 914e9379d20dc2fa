/**
 * Second-order Butterworth, forwards and backwards, over a track extended at both ends by its point reflection. The cut-off
 * is raised so that the two runs together damp by 3 dB at the frequency asked for.
 */
export function lowPass(
  cutoffHz: number,
  fps: number,
): (values: Float32Array, offset: number, stride: number, frames: number) => void {
  const raised = Math.min(cutoffHz / (Math.SQRT2 - 1) ** 0.25, 0.499 * fps);
  const c = 1 / Math.tan((Math.PI * raised) / fps);
  const norm = 1 / (1 + Math.SQRT2 * c + c * c);
  const [b0, a1, a2] = [norm, 2 * (1 - c * c) * norm, (1 - Math.SQRT2 * c + c * c) * norm];
  const margin = Math.max(4, Math.round((3 * fps) / cutoffHz));
  return (values, offset, stride, frames) => {
    if (frames < 3) return;
    const pad = Math.min(margin, frames - 1);
    const x = new Float64Array(frames + 2 * pad);
    const at = (f: number): number => values[offset + f * stride]!;
    for (let i = 0; i < x.length; i++) {
      const f = i - pad;
      x[i] = f < 0 ? 2 * at(0) - at(-f) : f >= frames ? 2 * at(frames - 1) - at(2 * (frames - 1) - f) : at(f);
    }
    for (const step of [1, -1]) {
      const first = step > 0 ? 0 : x.length - 1;
      let [x1, x2, y1, y2] = [x[first]!, x[first]!, x[first]!, x[first]!];
      for (let i = first; i >= 0 && i < x.length; i += step) {
        const now = x[i]!;
        const y = b0 * (now + 2 * x1 + x2) - a1 * y1 - a2 * y2;
        x2 = x1;
        x1 = now;
        y2 = y1;
        y1 = y;
        x[i] = y;
      }
    }
    for (let f = 0; f < frames; f++) values[offset + f * stride] = x[f + pad]!;
  };
}
