import { type HoldTracks, holdTracks } from '../analysis/holds';
import {
  isSole,
  type Plant,
  type PlantPart,
  SOLE_PARTS,
  type SolePart,
  type SoleTracks,
  soleTracks,
} from '../analysis/plants';
import type { Motion } from '../motion/motion';
import { restPose } from '../rig/rig';
import type { RetargetPlan } from './plan';
import { standingBody } from './stand-on-ends';

/** What feet and hands do on the ground of the result. Lengths in metres. */
export interface GroundMeasure {
  readonly slipL: Float32Array;
  readonly slipR: Float32Array;
  /** Depth of the deepest sole point under its ground, F. */
  readonly depth: Float32Array;
  readonly maxNet: number;
  /** Length of all slip paths and time of all plants. */
  readonly path: number;
  readonly seconds: number;
  readonly maxDepth: { readonly value: number; readonly frame: number };
  readonly maxHover: { readonly value: number; readonly frame: number; readonly part: PlantPart };
  /** Net move of every plant by index, metres; NaN where the rig has no such part. */
  readonly moves: Float64Array;
}

/** Measures plants on the result's own forward kinematics, as a stranger would. */
export function measureGround(
  plan: RetargetPlan,
  result: Motion,
  plants: readonly Plant[],
  heights: readonly number[],
): GroundMeasure {
  const { target } = plan;
  const soles = soleTracks(target.rig, result, standingBody(plan));
  const held: HoldTracks = plants.some((p) => !isSole(p.part))
    ? holdTracks(target, result, target.body, target.pose ?? restPose(target.rig))
    : {};
  const frames = result.frameCount;
  const slipL = new Float32Array(frames);
  const slipR = new Float32Array(frames);
  const moves = new Float64Array(plants.length).fill(Number.NaN);
  let maxNet = 0;
  let path = 0;
  let seconds = 0;
  const maxHover = { value: 0, frame: 0, part: 'heelL' as PlantPart };
  plants.forEach((plant, i) => {
    const track = isSole(plant.part) ? soles[plant.part] : held[plant.part];
    if (!track) return;
    let net = 0;
    for (let f = plant.start; f <= plant.end; f++) {
      net = Math.max(net, flat(track, f, plant.start));
      if (isSole(plant.part)) {
        const above = track[3 * f + 1]! - (heights[i] ?? 0);
        if (above > maxHover.value) {
          maxHover.value = above;
          maxHover.frame = f;
          maxHover.part = plant.part;
        }
      }
    }
    moves[i] = net;
    for (let f = plant.start; f <= plant.end; f++) {
      if (f > plant.start) path += flat(track, f, f - 1);
      const lane = plant.part.endsWith('L') ? slipL : slipR;
      lane[f] = Math.max(lane[f]!, flat(track, f, plant.start) * 100);
    }
    seconds += (plant.end - plant.start) / result.fps;
    maxNet = Math.max(maxNet, net);
  });
  return { slipL, slipR, maxNet, path, seconds, maxHover, moves, ...floorDepth(soles, plants, heights, frames) };
}

function floorDepth(
  soles: SoleTracks,
  plants: readonly Plant[],
  heights: readonly number[],
  frames: number,
): Pick<GroundMeasure, 'depth' | 'maxDepth'> {
  // under the ground, or under the plant's own step
  const depth = new Float32Array(frames);
  const ground = stepHeights(plants, heights, frames);
  const maxDepth = { value: 0, frame: 0 };
  for (const part of SOLE_PARTS) {
    const track = soles[part];
    if (!track) continue;
    for (let f = 0; f < frames; f++) {
      const under = Math.max(0, (ground.get(part)?.[f] ?? 0) - track[3 * f + 1]!);
      depth[f] = Math.max(depth[f]!, under * 100);
      if (under > maxDepth.value) {
        maxDepth.value = under;
        maxDepth.frame = f;
      }
    }
  }
  return { depth, maxDepth };
}

const flat = (track: Float64Array, f: number, g: number): number =>
  Math.hypot(track[3 * f]! - track[3 * g]!, track[3 * f + 2]! - track[3 * g + 2]!);

function stepHeights(
  plants: readonly Plant[],
  heights: readonly number[],
  frames: number,
): Map<SolePart, Float32Array> {
  const out = new Map<SolePart, Float32Array>();
  plants.forEach((plant, i) => {
    if (!isSole(plant.part)) return;
    const lane = out.get(plant.part) ?? new Float32Array(frames);
    lane.fill(heights[i] ?? 0, plant.start, plant.end + 1);
    out.set(plant.part, lane);
  });
  return out;
}
