import type { Plant } from '../analysis/plants';
import { mul64, mulInv64, norm, normalize64, rotate64, slerp64 } from '../math/fast';
import { arcQuat, dotQuat } from '../math/quat';
import { smoothstep } from '../math/vec';
import { atHeight, clearances, groundUnder, keepAbove, tiltOut } from './foot-ground';
import { type FootTrack, flatTurn, headingOf } from './foot-track';

export interface FootPlan {
  /** 3 F: where the ankle shall be. */
  readonly goal: Float64Array;
  /** 1 where the foot is held in that frame. */
  readonly held: Uint8Array;
  /** F: how far what is not held is above where it may go down to, metres: a free foot's lowest point, else heel or ball; 0 where both are held. */
  readonly clear: Float64Array;
  /** F: the point a foot stands on alone: 1 heel, 2 ball, 0 neither or both. */
  readonly pivot: Uint8Array;
  /** F: height of the ground under the foot, metres. */
  readonly ground: Float64Array;
}

interface PlantSpan {
  start: number;
  end: number;
  pin?: readonly [number, number] | undefined;
}

interface Spot extends PlantSpan {
  point: 'heel' | 'ball';
  anchor: [number, number, number];
}

const RELEASE_S = 0.16;

/** A foot's stands alone: what is held and where; how it gets from one to the next is not told yet. */
export interface FootStands {
  /** 3 F: where the ankle shall be; as transferred where the foot is free. */
  readonly goal: Float64Array;
  readonly held: Uint8Array;
  readonly heelAt: Uint8Array;
  readonly ballAt: Uint8Array;
  /** F: height of the ground under the foot, metres. */
  readonly ground: Float64Array;
}

/**
 * Decides where one foot stands: held points stay on their spot, the sole lies flat while heel and ball are both held.
 * After Kovar, Schreiner, Gleicher, Footskate cleanup for motion capture editing, 2002; heel and ball apart.
 * Changes track.turn and track.toeTurn in place.
 * @param heights height of each plant above the ground for the target, metres, by index of plant
 */
export function standFoot(
  track: FootTrack,
  plants: readonly Plant[],
  heights: readonly number[],
  fps: number,
): FootStands {
  const frames = track.ankle.length / 3;
  const heels = spansOf(plants, `heel${track.side}`);
  const balls = spansOf(plants, `ball${track.side}`);
  const flats = overlaps(heels, balls);
  const heightAt = (part: string, f: number): number => {
    const i = plants.findIndex((p) => p.part === part && p.start <= f && p.end >= f);
    return i < 0 ? 0 : heights[i]!;
  };
  layFlat(track, flats, fps, (f) => [heightAt(`heel${track.side}`, f), heightAt(`ball${track.side}`, f)]);

  const heelAt = marks(heels, frames);
  const ballAt = marks(balls, frames);
  const groups = contactGroups(heelAt, ballAt, frames);
  const goal = Float64Array.from(track.ankle);
  const held = new Uint8Array(frames);
  for (const group of groups) {
    for (const spot of spotsOf(track, group, heels, balls, flats, heightAt)) {
      const other = spot.point === 'heel' ? 'ball' : 'heel';
      const middle = flats.find((x) => x.start <= spot.end && x.end >= spot.start);
      const beside = middle ? heightAt(other + track.side, middle.start) : spot.anchor[1];
      holdSpot(track, spot, Math.min(0, beside - spot.anchor[1]), goal, held);
    }
  }
  return { goal, held, heelAt, ballAt, ground: groundUnder(groups, plants, heights, track.side, frames) };
}

/** How a foot gets from one stand to the next: the correction fades from one to the other, so that the swing keeps its shape. */
export function swingFoot(track: FootTrack, { goal, held, heelAt, ballAt, ground }: FootStands, fps: number): FootPlan {
  for (let f = 0; f < held.length; f++)
    if (!held[f]) for (let k = 0; k < 3; k++) goal[3 * f + k] = track.ankle[3 * f + k]!;
  settle(track, goal, held, fps);
  fade(track.ankle, goal, held, fps);
  tiltOut(track, goal, held, ground, fps);
  keepAbove(track, goal, held, ground, fps);
  const pivot = heelAt.map((on, f) => (on === ballAt[f] ? 0 : on ? 1 : 2));
  return { goal, held, clear: clearances(track, goal, pivot, held, ground), pivot, ground };
}

/** Where a foot stands and how it gets there; see standFoot and swingFoot. */
export function planFoot(
  track: FootTrack,
  plants: readonly Plant[],
  heights: readonly number[],
  fps: number,
): FootPlan {
  return swingFoot(track, standFoot(track, plants, heights, fps), fps);
}

const spansOf = (plants: readonly Plant[], part: string): PlantSpan[] =>
  plants.filter((p) => p.part === part).map(({ start, end, pin }) => ({ start, end, pin }));

function overlaps(a: PlantSpan[], b: PlantSpan[]): PlantSpan[] {
  const out: PlantSpan[] = [];
  for (const x of a) {
    for (const y of b) {
      const start = Math.max(x.start, y.start);
      const end = Math.min(x.end, y.end);
      if (start <= end) out.push({ start, end });
    }
  }
  return out.sort((x, y) => x.start - y.start);
}

function marks(spans: PlantSpan[], frames: number): Uint8Array {
  const out = new Uint8Array(frames);
  for (const s of spans) out.fill(1, s.start, s.end + 1);
  return out;
}

/** Runs of frames in which heel or ball is held. */
function contactGroups(heel: Uint8Array, ball: Uint8Array, frames: number): PlantSpan[] {
  const groups: PlantSpan[] = [];
  for (let f = 0; f < frames; f++) {
    if (!heel[f] && !ball[f]) continue;
    const start = f;
    while (f + 1 < frames && (heel[f + 1] || ball[f + 1])) f++;
    groups.push({ start, end: f });
  }
  return groups;
}

/** Turns the foot flat where heel and ball are both held, and fades the correction out on either side. */
function layFlat(track: FootTrack, flats: PlantSpan[], fps: number, heightsAt: (f: number) => [number, number]): void {
  if (flats.length === 0) return;
  const frames = track.turn.length / 4;
  const release = Math.max(1, Math.round(RELEASE_S * fps));
  const targets = flats.map(({ start, end }) => {
    let x = 0;
    let z = 0;
    for (let f = start; f <= end; f++) {
      const h = headingOf(track.turn, 4 * f, track.flat);
      x += Math.sin(h);
      z += Math.cos(h);
    }
    const [heel, ball] = heightsAt(start);
    const length = norm(
      track.sole.ball[0]! - track.sole.heel[0]!,
      track.sole.ball[1]! - track.sole.heel[1]!,
      track.sole.ball[2]! - track.sole.heel[2]!,
    );
    const rise = Math.asin(Math.max(-0.9, Math.min(0.9, (ball - heel) / Math.max(length, 1e-6))));
    const q = Float64Array.of(0, 0, 0, 1);
    flatTurn(q, 0, track.flat, Math.atan2(x, z), rise);
    return q;
  });
  const before = track.turn.slice();
  const toeBefore = track.toeTurn.slice();
  const c = Float64Array.of(0, 0, 0, 1);
  const c2 = Float64Array.of(0, 0, 0, 1);
  const q = Float64Array.of(0, 0, 0, 1);
  const one = Float64Array.of(0, 0, 0, 1);
  // index of the first flat that has not ended before f
  let i = 0;
  for (let f = 0; f < frames; f++) {
    while (i < flats.length && flats[i]!.end < f) i++;
    const here = i < flats.length && flats[i]!.start <= f ? i : -1;
    if (here >= 0) {
      mulInv64(c, 0, targets[here]!, 0, before, 4 * f);
    } else {
      // the correction at the end of the flat before and at the start of the flat after, each fading
      const prev = flats[i - 1];
      const next = flats[i];
      c[0] = c[1] = c[2] = 0;
      c[3] = 1;
      if (prev && f - prev.end < release) {
        const gap = next ? Math.min(release, next.start - prev.end) : release;
        mulInv64(c2, 0, targets[i - 1]!, 0, before, 4 * prev.end);
        slerp64(c, 0, one, 0, c2, 0, 1 - smoothstep((f - prev.end) / gap));
      }
      if (next && next.start - f < release) {
        const gap = prev ? Math.min(release, next.start - prev.end) : release;
        mulInv64(c2, 0, targets[i]!, 0, before, 4 * next.start);
        slerp64(q, 0, one, 0, c2, 0, 1 - smoothstep((next.start - f) / gap));
        mul64(c, 0, q, 0, c, 0);
      }
      normalize64(c, 0);
    }
    mul64(track.turn, 4 * f, c, 0, before, 4 * f);
    normalize64(track.turn, 4 * f);
    if (dotQuat(track.turn, 4 * f, before, 4 * f) < 0)
      for (let k = 0; k < 4; k++) track.turn[4 * f + k] = -track.turn[4 * f + k]!;
    // toes follow the foot's correction
    if (toeBefore.length > 0) {
      mul64(track.toeTurn, 4 * f, c, 0, toeBefore, 4 * f);
      normalize64(track.toeTurn, 4 * f);
    }
  }
}

const point = new Float64Array(3);

function pointAt(track: FootTrack, ankle: Float64Array, f: number, local: Float64Array): Float64Array {
  rotate64(point, 0, track.turn, 4 * f, local, 0);
  for (let k = 0; k < 3; k++) point[k] = point[k]! + ankle[3 * f + k]!;
  return point;
}

/** The spots of one contact: heel, ball, or both; where one hands over to the other, the second follows from the first. */
function spotsOf(
  track: FootTrack,
  group: PlantSpan,
  heels: PlantSpan[],
  balls: PlantSpan[],
  flats: PlantSpan[],
  heightAt: (part: string, f: number) => number,
): Spot[] {
  const inside = (spans: PlantSpan[]): PlantSpan[] => spans.filter((s) => s.end >= group.start && s.start <= group.end);
  const spots: Spot[] = [
    ...inside(heels).map((s): Spot => ({ ...s, point: 'heel', anchor: mean(track, s, track.sole.heel) })),
    ...inside(balls).map((s): Spot => ({ ...s, point: 'ball', anchor: mean(track, s, track.sole.ball) })),
  ].sort((a, b) => a.start - b.start || (a.point === 'heel' ? -1 : 1));
  for (const s of spots) {
    s.anchor[1] = heightAt(s.point + track.side, s.start);
    if (s.pin) [s.anchor[0], s.anchor[2]] = s.pin;
  }
  // the longest spot of the contact stays where it is, pinned ones before all; the others are set relative to it along the chain of overlaps
  const settled = new Set<Spot>();
  const queue = [...spots].sort(
    (a, b) => Number(Boolean(b.pin)) - Number(Boolean(a.pin)) || b.end - b.start - (a.end - a.start),
  );
  for (const first of queue) {
    if (settled.has(first)) continue;
    settled.add(first);
    const wave = [first];
    for (let s = wave.pop(); s; s = wave.pop()) {
      for (const other of spots) {
        if (settled.has(other) || other.pin || other.point === s.point) continue;
        const start = Math.max(s.start, other.start);
        const end = Math.min(s.end, other.end);
        const touching = end >= start - 1;
        if (!touching) continue;
        const f =
          end >= start
            ? (flats.find((x) => x.start <= end && x.end >= start)?.start ?? start)
            : Math.min(s.end, other.end);
        const own = s.point === 'heel' ? track.sole.heel : track.sole.ball;
        const its = other.point === 'heel' ? track.sole.heel : track.sole.ball;
        rotate64(
          point,
          0,
          track.turn,
          4 * Math.max(group.start, Math.min(group.end, f)),
          its.map((x, k) => x - own[k]!),
          0,
        );
        other.anchor[0] = s.anchor[0] + point[0]!;
        other.anchor[2] = s.anchor[2] + point[2]!;
        settled.add(other);
        wave.push(other);
      }
    }
  }
  return spots;
}

function mean(track: FootTrack, span: PlantSpan, local: Float64Array): [number, number, number] {
  const sum: [number, number, number] = [0, 0, 0];
  for (let f = span.start; f <= span.end; f++) {
    const p = pointAt(track, track.ankle, f, local);
    for (let k = 0; k < 3; k++) sum[k] = sum[k]! + p[k]! / (span.end - span.start + 1);
  }
  return sum;
}

/**
 * Puts the ankle so that the spot's point stands on its anchor; tilts the foot where the other end would sink in.
 * @param drop how much lower than this point the other end may lie: 0 on level ground, below 0 down a slope
 */
function holdSpot(track: FootTrack, spot: Spot, drop: number, goal: Float64Array, held: Uint8Array): void {
  const own = spot.point === 'heel' ? track.sole.heel : track.sole.ball;
  const other = spot.point === 'heel' ? track.sole.ball : track.sole.heel;
  const arm = other.map((x, k) => x - own[k]!);
  const v = new Float64Array(3);
  const lift = Float64Array.of(0, 0, 0, 1);
  for (let f = spot.start; f <= spot.end; f++) {
    // while both are held the sole lies flat on the heel's spot and the ball follows
    if (held[f] && spot.point === 'ball') continue;
    rotate64(v, 0, track.turn, 4 * f, arm, 0);
    if (v[1]! < drop - 1e-9) {
      arcQuat(lift, 0, v, 0, atHeight(v, drop), 0);
      mul64(track.turn, 4 * f, lift, 0, track.turn, 4 * f);
      normalize64(track.turn, 4 * f);
      if (track.toeTurn.length > 0 && spot.point === 'heel') {
        mul64(track.toeTurn, 4 * f, lift, 0, track.toeTurn, 4 * f);
        normalize64(track.toeTurn, 4 * f);
      }
    }
    rotate64(v, 0, track.turn, 4 * f, own, 0);
    for (let k = 0; k < 3; k++) goal[3 * f + k] = spot.anchor[k]! - v[k]!;
    held[f] = 1;
  }
}

/** How far above its spot a foot may still be as it comes down or leaves, as a share of its sole's length (some 2 mm). */
const SETTLE = 0.0095;
const SETTLE_S = 0.1;

/**
 * Lets a foot come to rest as the source's does: in the first and last frames of a contact what little height the foot still
 * has above where it rests is kept, instead of stopping it dead.
 */
function settle(track: FootTrack, goal: Float64Array, held: Uint8Array, fps: number): void {
  const { sole } = track;
  const length = Math.hypot(...[0, 1, 2].map((k) => sole.ball[k]! - sole.heel[k]!));
  const most = SETTLE * length;
  const reach = Math.max(2, Math.round(SETTLE_S * fps));
  const frames = held.length;
  for (let f = 0; f < frames; f++) {
    if (!held[f]) continue;
    const start = f;
    while (f + 1 < frames && held[f + 1]) f++;
    for (const [edge, by, open] of [
      [start, 1, start > 0],
      [f, -1, f + 1 < frames],
    ] as const) {
      const inner = edge + by * Math.min(reach, f - start);
      if (!open || inner === edge) continue;
      // height above where it will be, less the way the held foot itself goes by rolling
      const rest = track.ankle[3 * inner + 1]! - goal[3 * inner + 1]!;
      for (let g = edge; g !== inner; g += by) {
        const above = track.ankle[3 * g + 1]! - goal[3 * g + 1]! - rest;
        if (above <= 0) break;
        const x = Math.abs(g - edge) / reach;
        goal[3 * g + 1] = goal[3 * g + 1]! + Math.min(above, most) * (1 - x * x);
      }
    }
  }
}

/** Between held frames the displacement runs smoothly from its value and slope at one end to those at the other. */
function fade(from: Float64Array, goal: Float64Array, held: Uint8Array, fps: number): void {
  const frames = held.length;
  const d = (f: number, k: number): number => goal[3 * f + k]! - from[3 * f + k]!;
  let prev = -1;
  const first = held.indexOf(1);
  if (first < 0) return;
  for (let f = 0; f < first; f++) for (let k = 0; k < 3; k++) goal[3 * f + k] = from[3 * f + k]! + d(first, k);
  for (let f = first; f <= frames; f++) {
    if (f < frames && !held[f]) continue;
    if (prev >= 0 && f - prev > 1) fillGap(from, goal, held, prev, f, fps, d);
    prev = f;
  }
}

function fillGap(
  from: Float64Array,
  goal: Float64Array,
  held: Uint8Array,
  a: number,
  b: number,
  fps: number,
  d: (f: number, k: number) => number,
): void {
  const frames = held.length;
  const span = b - a;
  const release = Math.min(span, Math.max(2, RELEASE_S * fps));
  for (let k = 0; k < 3; k++) {
    const d0 = d(a, k);
    const m0 = a > 0 && held[a - 1] ? d(a, k) - d(a - 1, k) : 0;
    const d1 = b < frames ? d(b, k) : d0;
    const m1 = b + 1 < frames && held[b + 1] ? d(b + 1, k) - d(b, k) : 0;
    for (let f = a + 1; f < Math.min(b, frames); f++) {
      const x = f - a;
      const y = b - f;
      const mix = smoothstep(x / span);
      const out = x < release ? m0 * x * (1 - x / release) ** 2 : 0;
      const back = b < frames && y < release ? -m1 * y * (1 - y / release) ** 2 : 0;
      goal[3 * f + k] = from[3 * f + k]! + (1 - mix) * d0 + mix * d1 + out + back;
    }
  }
}
