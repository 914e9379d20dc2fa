import { type Cleaning, type Markers, seen } from './markers';
import { swapsByDistance } from './swaps-by-distance';

export interface CleanMarkers {
  readonly markers: Markers;
  readonly done: readonly Cleaning[];
}

/** A step beyond this many times a marker's usual surprise is a jump, and beyond this in any case, metres. */
const JUMP = 4;
const LEAST_JUMP = 0.012;
/** How near to another's course a jump has to end, as a share of its length. */
const ONTO = 0.4;
/** Gaps longer than this, seconds, say nothing about where a marker would be. */
const LONGEST_GUESS_S = 0.05;
/** How much of its speed a marker is expected to keep over a gap of some frames. */
const KEEPS = 0.85;

/**
 * Finds tracks that exchange their markers, and puts them right; places that no movement explains are taken out. A swap is two
 * tracks that jump at once, each onto the other's course; of two of which one is unseen just then, the other one does.
 */
export function cleanMarkers(given: Markers): CleanMarkers {
  const { labels, frameCount: n, fps } = given;
  const m = labels.length;
  const places = given.places.slice();
  const markers: Markers = { ...given, places };
  const done: Cleaning[] = [];
  dropSpikes(markers, done);
  const usual = surprises(markers);
  // where a marker was seen last, and how fast it moved then, a frame
  const last = new Int32Array(m).fill(-1);
  const speed = new Float64Array(3 * m);
  const at = (f: number, i: number): number => 3 * (f * m + i);
  // which of the file's tracks carries a marker now
  const column = labels.map((_, i) => i);
  const expected = new Float64Array(3 * m);
  const longest = LONGEST_GUESS_S * fps;
  for (let f = 0; f < n; f++) {
    for (let i = 0; i < m; i++) {
      if (last[i]! < 0) continue;
      const gap = f - last[i]!;
      const way = (1 - KEEPS ** gap) / (1 - KEEPS);
      for (let k = 0; k < 3; k++) expected[3 * i + k] = places[at(last[i]!, i) + k]! + way * speed[3 * i + k]!;
    }
    const known = (i: number): boolean => last[i]! >= 0 && f - last[i]! <= longest;
    const off = (i: number, j: number): number => {
      const o = at(f, i);
      return Math.hypot(
        places[o]! - expected[3 * j]!,
        places[o + 1]! - expected[3 * j + 1]!,
        places[o + 2]! - expected[3 * j + 2]!,
      );
    };
    // how far off a guess may be after a gap: it grows with it
    const slack = (i: number): number => usual[i]! * (f - last[i]!);
    const jumped: number[] = [];
    for (let i = 0; i < m; i++)
      if (known(i) && seen(markers, f, i) && off(i, i) > Math.max(LEAST_JUMP, JUMP * slack(i))) jumped.push(i);
    const taken = new Set<number>();
    for (const i of jumped) {
      if (taken.has(i)) continue;
      let best = -1;
      let least = ONTO * off(i, i);
      for (let j = 0; j < m; j++) {
        if (j === i || taken.has(j) || !known(j)) continue;
        const unseen = !seen(markers, f, j);
        if (!unseen && !jumped.includes(j)) continue;
        if (!unseen && off(j, i) > ONTO * off(j, j)) continue;
        const d = off(i, j) + (unseen ? 0.5 * slack(j) : 0);
        // of a track that is unseen only its course tells: that has to be met closely
        if (unseen && off(i, j) > Math.max(LEAST_JUMP, 2 * slack(j))) continue;
        if (d < least) {
          least = d;
          best = j;
        }
      }
      if (best < 0) continue;
      taken.add(i).add(best);
      done.push({ what: 'swap', frame: f, markers: [column[i]!, column[best]!] });
      [column[i], column[best]] = [column[best]!, column[i]!];
      for (let g = f; g < n; g++)
        for (let k = 0; k < 3; k++) {
          const [a, b] = [at(g, i) + k, at(g, best) + k];
          [places[a], places[b]] = [places[b]!, places[a]!];
        }
    }
    for (let i = 0; i < m; i++) {
      if (!seen(markers, f, i)) continue;
      const gap = last[i]! < 0 ? 0 : f - last[i]!;
      for (let k = 0; k < 3; k++)
        speed[3 * i + k] = gap > 0 && gap < 4 ? (places[at(f, i) + k]! - places[at(last[i]!, i) + k]!) / gap : 0;
      last[i] = f;
    }
  }
  swapsByDistance(markers, done);
  return { markers, done };
}

/** How far a marker usually is from where its speed leads it within a frame, metres: the median over the take. */
function surprises(markers: Markers): Float64Array {
  const { labels, frameCount: n, places } = markers;
  const m = labels.length;
  return Float64Array.from(labels, (_, i) => {
    const all: number[] = [];
    const step = Math.max(1, Math.floor(n / 1500));
    for (let f = 2; f < n; f += step) {
      if (!seen(markers, f, i) || !seen(markers, f - 1, i) || !seen(markers, f - 2, i)) continue;
      let sum = 0;
      for (let k = 0; k < 3; k++) {
        const o = 3 * (f * m + i) + k;
        sum += (places[o]! - 2 * places[o - 3 * m]! + places[o - 6 * m]!) ** 2;
      }
      all.push(Math.sqrt(sum));
    }
    all.sort((a, b) => a - b);
    return Math.max(1e-4, all[all.length >> 1] ?? 0.002);
  });
}

/** Takes out places that lie off the straight way between the frames around them by far more than is usual. */
function dropSpikes(markers: Markers, done: Cleaning[]): void {
  const { labels, frameCount: n, places } = markers;
  const m = labels.length;
  const usual = surprises(markers);
  for (let i = 0; i < m; i++)
    for (let f = 1; f + 1 < n; f++) {
      if (!seen(markers, f, i) || !seen(markers, f - 1, i) || !seen(markers, f + 1, i)) continue;
      let [off, step] = [0, 0];
      for (let k = 0; k < 3; k++) {
        const o = 3 * (f * m + i) + k;
        off += (places[o]! - 0.5 * (places[o - 3 * m]! + places[o + 3 * m]!)) ** 2;
        step += (places[o + 3 * m]! - places[o - 3 * m]!) ** 2;
      }
      // a swap jumps, too, but does not come back at once
      if (Math.sqrt(off) < Math.max(0.03, 15 * usual[i]!) || Math.sqrt(off) < Math.sqrt(step)) continue;
      done.push({ what: 'spike', frame: f, markers: [i] });
      places.fill(Number.NaN, 3 * (f * m + i), 3 * (f * m + i) + 3);
    }
}
