/**
 * Places of markers over time, as an optical capture system saw them. F frames, M markers.
 * places: frame-major, [frame][marker] x y z, metres, Y up; NaN where a marker was not seen.
 */
export interface Markers {
  readonly labels: readonly string[];
  readonly fps: number;
  readonly frameCount: number;
  readonly places: Float32Array;
}

/** Whether a marker was seen in a frame. */
export const seen = ({ places, labels }: Markers, frame: number, marker: number): boolean =>
  !Number.isNaN(places[3 * (frame * labels.length + marker)]!);

/** Share of frames in which a marker was seen. */
export function seenShare(markers: Markers, marker: number): number {
  let n = 0;
  for (let f = 0; f < markers.frameCount; f++) if (seen(markers, f, marker)) n++;
  return n / Math.max(1, markers.frameCount);
}

/** What was wrong with a marker's track, and what was done. */
export type Cleaning =
  | { readonly what: 'swap'; readonly frame: number; readonly markers: readonly [number, number] }
  | { readonly what: 'spike'; readonly frame: number; readonly markers: readonly [number] };
