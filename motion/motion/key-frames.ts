/**
 * The frames that have to be keys: of those between two keys the one that is farthest off becomes one, until all are near enough.
 * Method: Ramer, 1972; Douglas, Peucker, 1973.
 * @param off how far frame f is from the straight way between a and b, in the unit of the tolerance
 * @returns frames in rising order, the first and the last among them
 */
export function keyFrames(
  frames: number,
  tolerance: number,
  off: (a: number, b: number, f: number) => number,
): Uint32Array {
  const keep = new Uint8Array(frames);
  keep[0] = 1;
  keep[frames - 1] = 1;
  const stack: [number, number][] = [[0, frames - 1]];
  for (let span = stack.pop(); span; span = stack.pop()) {
    const [a, b] = span;
    let worst = tolerance;
    let at = -1;
    for (let f = a + 1; f < b; f++) {
      const d = off(a, b, f);
      if (d > worst) {
        worst = d;
        at = f;
      }
    }
    if (at < 0) continue;
    keep[at] = 1;
    stack.push([a, at], [at, b]);
  }
  return Uint32Array.from([...keep.keys()].filter((f) => keep[f]));
}
