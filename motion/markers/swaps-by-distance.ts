import { distance3 } from '../math/vec';
import { type Cleaning, type Markers, seen } from './markers';

/** How many other markers a marker is known by: those that keep their distance best. */
const PARTNERS = 4;
/** Frames that are judged together. */
const BLOCK = 8;
/** By how much a distance may differ, metres, and in multiples of what is usual for it. */
const DISTANCE_SLACK = 0.006;
const USUAL_SLACK = 4;

/** Share of its distances below which a track is no longer its marker, and above which it is. */
const LOST = 0.6;
const KEPT = 0.7;
/** By how much more another marker's distances have to be kept than its own. */
const CLEARLY = 0.35;
/** A swap told by distances alone lasts at least so many blocks. */
const LEAST_BLOCKS = 3;
const MOST_ROUNDS = 24;

/** What a marker is known by: its distances to some others. */
interface Known {
  readonly partners: readonly { readonly marker: number; readonly far: number; readonly slack: number }[];
}

/**
 * Finds swaps that happened while one of both was unseen: a marker that no longer keeps its distances, where another one does so
 * in its place. What a track is, is what it is most of the time.
 */
export function swapsByDistance(markers: Markers, done: Cleaning[]): void {
  const { labels, frameCount: n, places } = markers;
  const m = labels.length;
  const known = usualDistances(markers).map(knownBy);
  const blocks = Math.ceil(n / BLOCK);
  /** How well the track j keeps marker i's distances in a block: share of those that can be told, NaN where none can. */
  const fits = (i: number, j: number, block: number, but = -1): number => {
    let [good, all] = [0, 0];
    for (let f = block * BLOCK; f < Math.min(n, (block + 1) * BLOCK); f++) {
      if (!seen(markers, f, j)) continue;
      for (const { marker, far, slack } of known[i]!.partners) {
        if (marker === j || marker === but || !seen(markers, f, marker)) continue;
        all++;
        if (Math.abs(distance(places, m, f, j, marker) - far) < slack) good++;
      }
    }
    return all > 0 ? good / all : Number.NaN;
  };
  // what was decided once stays so: where two are much alike it would go to and fro
  const settled = new Set<string>();
  const pairOf = (a: number, b: number): string => `${Math.min(a, b)}/${Math.max(a, b)}`;
  for (let round = 0; round < MOST_ROUNDS; round++) {
    const bad = labels.map((_, i) => Uint8Array.from({ length: blocks }, (_, b) => (fits(i, i, b) < LOST ? 1 : 0)));
    let best: { a: number; b: number; from: number; until: number; gain: number } | undefined;
    for (let a = 0; a < m; a++) {
      if (bad[a]!.every((x) => x === 0)) continue;
      for (let b = 0; b < m; b++) {
        if (b === a || settled.has(pairOf(a, b))) continue;
        // in runs of blocks: each would be good as the other, where both can be told
        for (let start = 0; start < blocks; start++) {
          if (!bad[a]![start] || !(fits(b, a, start, b) > Math.max(KEPT, fits(a, a, start) + CLEARLY))) continue;
          let gain = 0;
          let end = start;
          // it lasts until both are themselves again
          for (let own = 0; end < blocks && own < LEAST_BLOCKS; end++) {
            const [x, y] = [fits(b, a, end, b), fits(a, b, end, a)];
            const clear = x > fits(a, a, end) + CLEARLY || y > fits(b, b, end) + CLEARLY;
            if (clear && (x > KEPT || y > KEPT) && !(x < LOST || y < LOST)) {
              if (bad[a]![end] || bad[b]![end]) gain++;
              own = 0;
            } else if (fits(a, a, end) > KEPT && fits(b, b, end) > KEPT) own++;
          }
          if (end < blocks) end -= LEAST_BLOCKS;
          if (gain >= LEAST_BLOCKS && (!best || gain > best.gain)) best = { a, b, from: start, until: end, gain };
          start = Math.max(start, end);
        }
      }
    }
    if (!best) return;
    const { a, b } = best;
    settled.add(pairOf(a, b));
    // the first and the last frame of it, one by one
    const other = (f: number): boolean | undefined => {
      const [x, y] = [fitsAt(a, b, f), fitsAt(b, a, f)];
      return x === undefined && y === undefined ? undefined : x === true || y === true;
    };
    const fitsAt = (i: number, j: number, f: number): boolean | undefined => {
      if (!seen(markers, f, j)) return undefined;
      let [own, their, all] = [0, 0, 0];
      for (const { marker, far, slack } of known[i]!.partners) {
        if (marker === j || marker === i || !seen(markers, f, marker)) continue;
        all++;
        if (Math.abs(distance(places, m, f, j, marker) - far) < slack) own++;
      }
      for (const { marker, far, slack } of known[j]!.partners)
        if (
          marker !== i &&
          marker !== j &&
          seen(markers, f, marker) &&
          Math.abs(distance(places, m, f, j, marker) - far) < slack
        )
          their++;
      return all === 0 ? undefined : own > their;
    };
    let from = best.from * BLOCK;
    for (let f = from; f > Math.max(0, from - 2 * BLOCK) && other(f - 1) !== false; f--) from = f - 1;
    while (from < n && other(from) === false) from++;
    let until = Math.min(n, best.until * BLOCK);
    while (until > from + 1 && other(until - 1) === false) until--;
    done.push({ what: 'swap', frame: from === 0 ? until : from, markers: [a, b] });
    if (from > 0 && until < n) done.push({ what: 'swap', frame: until, markers: [a, b] });
    for (let f = from; f < until; f++)
      for (let k = 0; k < 3; k++) {
        const [x, y] = [3 * (f * m + a) + k, 3 * (f * m + b) + k];
        [places[x], places[y]] = [places[y]!, places[x]!];
      }
  }
}

const distance = (places: Float32Array, m: number, f: number, i: number, j: number): number => {
  const [a, b] = [3 * (f * m + i), 3 * (f * m + j)];
  return distance3(places, a, places, b);
};

/** A distance and by how much it varies, metres. */
interface Usual {
  readonly far: number;
  readonly varies: number;
}

/** How far two markers usually are from one another, and how much that varies: median and 1.48 medians of what is off it. */
function usualDistance(markers: Markers, i: number, j: number): Usual {
  const { labels, frameCount: n, places } = markers;
  const step = Math.max(1, Math.floor(n / 400));
  const looks = new Float64Array(Math.ceil(n / step));
  let count = 0;
  for (let f = 0; f < n; f += step)
    if (seen(markers, f, i) && seen(markers, f, j)) looks[count++] = distance(places, labels.length, f, i, j);
  if (count < 5) return { far: 0, varies: Number.POSITIVE_INFINITY };
  const all = looks.subarray(0, count).sort();
  const far = all[count >> 1]!;
  const off = all.map((d) => Math.abs(d - far)).sort();
  return { far, varies: 1.48 * off[off.length >> 1]! };
}

/** How far all markers usually are from all others, by both. */
export function usualDistances(markers: Markers): Usual[][] {
  const m = markers.labels.length;
  const all = Array.from({ length: m }, () => new Array<Usual>(m).fill({ far: 0, varies: 0 }));
  for (let i = 0; i < m; i++)
    for (let j = i + 1; j < m; j++) {
      const usual = usualDistance(markers, i, j);
      all[i]![j] = usual;
      all[j]![i] = usual;
    }
  return all;
}

function knownBy(usual: readonly Usual[], i: number): Known {
  const all = usual.flatMap(({ far, varies }, marker) => (marker === i ? [] : [{ marker, far, varies }]));
  const nearest = all.sort((a, b) => a.varies - b.varies).slice(0, PARTNERS);
  return {
    partners: nearest.map(({ marker, far, varies }) => ({
      marker,
      far,
      slack: Math.max(DISTANCE_SLACK, USUAL_SLACK * varies),
    })),
  };
}
