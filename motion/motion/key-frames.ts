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

/**
 * The fewest keys, nearly: from every key the next one lies as far on as all between is near enough. Fewer than keyFrames finds
 * where what runs between keys is a curve; a way that is too long now may be near enough again further on, so what is found is
 * good, not always the least.
 */
export function fewestKeyFrames(
  frames: number,
  tolerance: number,
  off: (a: number, b: number, f: number) => number,
): Uint32Array {
  const near = (a: number, b: number): boolean => {
    for (let f = a + 1; f < b; f++) if (off(a, b, f) > tolerance) return false;
    return true;
  };
  const keys = [0];
  for (let a = 0; a < frames - 1; ) {
    // near at a + step, not at a + 2 step: then halved in between
    let [good, bad] = [a + 1, Number.POSITIVE_INFINITY];
    for (let step = 2; good < frames - 1; step *= 2) {
      const b = Math.min(frames - 1, a + step);
      if (!near(a, b)) {
        bad = b;
        break;
      }
      good = b;
    }
    while (bad - good > 1 && bad !== Number.POSITIVE_INFINITY) {
      const b = (good + bad) >> 1;
      if (near(a, b)) good = b;
      else bad = b;
    }
    keys.push(good);
    a = good;
  }
  return Uint32Array.from(keys);
}
