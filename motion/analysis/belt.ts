import type { Body } from '../body/body';
import { type Motion, PoseReader } from '../motion/motion';
import { moveJoint } from '../motion/move-joint';
import type { SkeletonRig } from '../rig/rig';
import { SOLE_PARTS, type SoleTracks, soleTracks } from './plants';

/** The ground under a gait performed on the spot: how fast it passes beneath the body, metres a second along x and z. */
export interface Belt {
  readonly x: number;
  readonly z: number;
}

/** Sole points this low, in legs above the ground, may stand on the belt. */
const LOW = 0.06;
/** Slowest belt, legs a second. */
const SLOWEST = 0.3;
/** Points that stand keep to the belt's speed within this share of it. */
const KEEPS = 0.4;
/** Fewest frames in which a foot stands on the belt: of both together, and of each. */
const STANDS = 0.25;
const EACH = 0.08;
/** A long motion is looked at in about so many frames. */
const ENOUGH = 800;
/** The body itself goes no further than this share of what passes beneath it. */
const STAYS = 0.3;

/**
 * Finds the belt under a walk or a run in place, such as cycles for games are: while low, the soles of both feet in turn pass
 * backwards at one speed, and the body stays where it is. Undefined for every other motion.
 * @param joint the joint that carries the travel
 * @param tracks of the soles, where they are known
 */
export function findBelt(
  rig: SkeletonRig,
  motion: Motion,
  body: Body,
  joint: number,
  tracks: SoleTracks = soleTracks(rig, motion, body),
): Belt | undefined {
  const { frameCount: frames, fps } = motion;
  const { leg } = body;
  if (frames < 6 || !(leg > 0)) return undefined;
  const step = Math.max(1, Math.floor(frames / ENOUGH));
  const low = lowPoints(tracks, fps, leg, step);
  if (low.length === 0) return undefined;
  // the speed that most low points share: from the middle one, twice narrowed
  let belt = middleOf(low);
  for (const share of [0.6, KEEPS]) {
    const speed = Math.hypot(belt.x, belt.z);
    if (speed < SLOWEST * leg) return undefined;
    const near = low.filter((p) => Math.hypot(p.x - belt.x, p.z - belt.z) < share * speed);
    if (near.length === 0) return undefined;
    belt = middleOf(near);
  }
  const speed = Math.hypot(belt.x, belt.z);
  const stands = { L: new Uint8Array(frames), R: new Uint8Array(frames) };
  for (const p of low)
    if (Math.hypot(p.x - belt.x, p.z - belt.z) < KEEPS * speed) stands[p.part.endsWith('L') ? 'L' : 'R'][p.frame] = 1;
  const share = (of: (f: number) => number): number => {
    let sum = 0;
    for (let f = 0; f < frames; f++) sum += of(f);
    return (sum * step) / frames;
  };
  if (share((f) => stands.L[f]! | stands.R[f]!) < STANDS) return undefined;
  if (
    Math.min(
      share((f) => stands.L[f]!),
      share((f) => stands.R[f]!),
    ) < EACH
  )
    return undefined;
  const reader = new PoseReader(rig, motion);
  const at = (f: number): number[] => {
    const { p } = reader.at(f);
    return [p[3 * joint]!, p[3 * joint + 2]!];
  };
  const [first, last] = [at(0), at(frames - 1)];
  const gone = Math.hypot(last[0]! - first[0]!, last[1]! - first[1]!);
  return gone < STAYS * speed * ((frames - 1) / fps) ? belt : undefined;
}

interface LowPoint extends Belt {
  readonly part: string;
  readonly frame: number;
}

/** Sole points near the ground, and how fast they pass over it. */
function lowPoints(tracks: SoleTracks, fps: number, leg: number, step: number): LowPoint[] {
  const parts = SOLE_PARTS.filter((part) => tracks[part]);
  const heights: number[] = [];
  for (const part of parts) {
    const track = tracks[part]!;
    for (let o = 1; o < track.length; o += 3 * step) heights.push(track[o]!);
  }
  heights.sort((a, b) => a - b);
  const floor = heights[Math.floor(0.1 * heights.length)] ?? 0;
  const out: LowPoint[] = [];
  for (const part of parts) {
    const track = tracks[part]!;
    for (let f = 1; f + 1 < track.length / 3; f += step) {
      if (track[3 * f + 1]! - floor > LOW * leg) continue;
      const over = (k: number): number => ((track[3 * f + 3 + k]! - track[3 * f - 3 + k]!) * fps) / 2;
      out.push({ part, frame: f, x: over(0), z: over(2) });
    }
  }
  return out;
}

function middleOf(points: readonly Belt[]): Belt {
  const middle = (values: number[]): number => values.sort((a, b) => a - b)[values.length >> 1]!;
  return { x: middle(points.map((p) => p.x)), z: middle(points.map((p) => p.z)) };
}

/** A motion moved along with a belt, or with a scale of −1 against it, as if the belt stood still. Pure. */
export function carriedBy(rig: SkeletonRig, motion: Motion, joint: number, belt: Belt, scale: number): Motion {
  return moveJoint(rig, motion, joint, (f) => {
    const way = (scale * f) / motion.fps;
    return [belt.x * way, 0, belt.z * way];
  });
}
