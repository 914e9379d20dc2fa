import { type Markers, seen } from './markers';

/** What was wrong with a marker's track, and what was done. */
export type Cleaning =
  | { readonly what: 'swap'; readonly frame: number; readonly markers: readonly [number, number] }
  | { readonly what: 'spike'; readonly frame: number; readonly markers: readonly [number] };

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
function swapsByDistance(markers: Markers, done: Cleaning[]): void {
  const { labels, frameCount: n, places } = markers;
  const m = labels.length;
  const known = labels.map((_, i) => knownBy(markers, i));
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
  return Math.hypot(places[a]! - places[b]!, places[a + 1]! - places[b + 1]!, places[a + 2]! - places[b + 2]!);
};

/** How far two markers usually are from one another, and how much that varies: median and 1.48 medians of what is off it. */
export function usualDistance(markers: Markers, i: number, j: number): { far: number; varies: number } {
  const { labels, frameCount: n, places } = markers;
  const all: number[] = [];
  const step = Math.max(1, Math.floor(n / 400));
  for (let f = 0; f < n; f += step)
    if (seen(markers, f, i) && seen(markers, f, j)) all.push(distance(places, labels.length, f, i, j));
  if (all.length < 5) return { far: 0, varies: Number.POSITIVE_INFINITY };
  all.sort((a, b) => a - b);
  const far = all[all.length >> 1]!;
  const off = all.map((d) => Math.abs(d - far)).sort((a, b) => a - b);
  return { far, varies: 1.48 * off[off.length >> 1]! };
}

function knownBy(markers: Markers, i: number): Known {
  const all = markers.labels.flatMap((_, marker) =>
    marker === i ? [] : [{ marker, ...usualDistance(markers, i, marker) }],
  );
  const nearest = all.sort((a, b) => a.varies - b.varies).slice(0, PARTNERS);
  return {
    partners: nearest.map(({ marker, far, varies }) => ({
      marker,
      far,
      slack: Math.max(DISTANCE_SLACK, USUAL_SLACK * varies),
    })),
  };
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
