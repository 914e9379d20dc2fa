import { PLANT_PARTS, type Plant, type PlantPart, soleTracks } from '../analysis/plants';
import { chainOf, jointOf, type Slot } from '../bodymap/slots';
import { angleBetweenQuats, mulInvQuat, rotate3 } from '../math/quat';
import { angleBetween3 } from '../math/vec';
import { type Motion, PoseReader } from '../motion/motion';
import type { Plan } from './plan';

/** One thing that is wrong, with the place to look at. */
export interface Trouble {
  readonly kind: 'slip' | 'floor' | 'reach' | 'still' | 'unpaired';
  readonly frame: number;
  readonly joint: string;
  readonly text: string;
}

/** One measured fault over time, a number a frame, and the value from which it counts as trouble. */
export interface Lane {
  readonly name: string;
  readonly unit: string;
  readonly values: Float32Array;
  readonly limit: number;
}

export interface Report {
  readonly frames: number;
  readonly slip: {
    readonly maxCm: number;
    readonly maxPercentLeg: number;
    readonly meanPercentLegPerPlantSecond: number;
  };
  readonly floor: { readonly maxDepthCm: number };
  readonly reach: { readonly maxCm: number };
  readonly direction: { readonly meanDeg: number; readonly p95Deg: number; readonly maxDeg: number };
  readonly plants: readonly Plant[];
  readonly unmapped: { readonly source: readonly string[]; readonly target: readonly string[] };
  readonly warnings: readonly string[];
  readonly lanes: readonly Lane[];
  readonly troubles: readonly Trouble[];
}

/** Limb parts whose direction is compared; the axis is the common body's in the aligned pose. */
const DIRECTIONS: [Slot, [number, number, number]][] = ['L', 'R'].flatMap((s): [Slot, [number, number, number]][] => {
  const out: [number, number, number] = [s === 'L' ? 1 : -1, 0, 0];
  return [
    [`upperArm${s}`, out],
    [`forearm${s}`, out],
    [`hand${s}`, out],
    [`thigh${s}`, [0, -1, 0]],
    [`shin${s}`, [0, -1, 0]],
    [`foot${s}`, [0, 0, 1]],
  ];
});

/** Measures a solved fitting on its own forward kinematics, as a stranger would. */
export function measure(
  plan: Plan,
  source: Motion,
  result: Motion,
  plants: readonly Plant[],
  reach: { max: number; frame: number },
  heights: readonly number[] = [],
): Report {
  const { target } = plan;
  const leg = target.body.leg;
  const tracks = soleTracks(target.rig, result, target.body);
  const frames = result.frameCount;
  const troubles: Trouble[] = [];
  const warnings: string[] = [];

  // (1) slip, by plant
  const slipL = new Float32Array(frames);
  const slipR = new Float32Array(frames);
  let maxNet = 0;
  let path = 0;
  let seconds = 0;
  for (const plant of plants) {
    const track = tracks[plant.part];
    if (!track) continue;
    let net = 0;
    for (let f = plant.start; f <= plant.end; f++) {
      const away = flat(track, f, plant.start);
      net = Math.max(net, away);
      if (f > plant.start) path += flat(track, f, f - 1);
      const lane = plant.part.endsWith('L') ? slipL : slipR;
      lane[f] = Math.max(lane[f]!, away * 100);
    }
    seconds += (plant.end - plant.start) / result.fps;
    maxNet = Math.max(maxNet, net);
    if (net > 0.01 * leg) {
      troubles.push({
        kind: 'slip',
        frame: plant.end,
        joint: jointName(plan, plant.part),
        text: `${partLabel(plant.part)} slides ${(net * 100).toFixed(1)} cm while it should stand`,
      });
    }
  }
  // (2) floor: under the ground, or under the plant's own step
  const depth = new Float32Array(frames);
  const ground = stepHeights(plants, heights, frames);
  let maxDepth = 0;
  let deepest = 0;
  for (const part of PLANT_PARTS) {
    const track = tracks[part];
    if (!track) continue;
    for (let f = 0; f < frames; f++) {
      const under = Math.max(0, (ground.get(part)?.[f] ?? 0) - track[3 * f + 1]!);
      depth[f] = Math.max(depth[f]!, under * 100);
      if (under > maxDepth) {
        maxDepth = under;
        deepest = f;
      }
    }
  }
  if (maxDepth > 0.005 * leg)
    troubles.push({
      kind: 'floor',
      frame: deepest,
      joint: 'feet',
      text: `a sole is ${(maxDepth * 100).toFixed(1)} cm under the ground`,
    });
  if (reach.max > 0.005)
    troubles.push({
      kind: 'reach',
      frame: reach.frame,
      joint: 'feet',
      text: `a leg is ${(reach.max * 100).toFixed(1)} cm too short for its plant`,
    });

  // (3) directions
  const direction = directions(plan, source, result);
  const unmapped = findUnmapped(plan, source);
  if (unmapped.still.length > 0) {
    troubles.push({
      kind: 'still',
      frame: 0,
      joint: unmapped.still[0]!,
      text: `${listNames(unmapped.still)} ${unmapped.still.length > 1 ? 'are' : 'is'} mapped, but the source holds no motion there`,
    });
  }
  if (unmapped.moving.length > 0) {
    troubles.push({
      kind: 'unpaired',
      frame: 0,
      joint: unmapped.moving[0]!,
      text: `${listNames(unmapped.moving)} ${unmapped.moving.length > 1 ? 'move' : 'moves'} in the source and ${unmapped.moving.length > 1 ? 'have' : 'has'} no partner`,
    });
  }
  if (plan.source.body.leg === 0)
    warnings.push('The source has no legs that could be mapped; travel was taken as it is.');
  if (target.body.leg === 0) warnings.push('The target has no legs that could be mapped; no plants were held.');
  return {
    frames,
    slip: {
      maxCm: maxNet * 100,
      maxPercentLeg: leg > 0 ? (100 * maxNet) / leg : 0,
      meanPercentLegPerPlantSecond: leg > 0 && seconds > 0 ? (100 * path) / leg / seconds : 0,
    },
    floor: { maxDepthCm: maxDepth * 100 },
    reach: { maxCm: reach.max * 100 },
    direction: direction.summary,
    plants,
    unmapped: { source: unmapped.source, target: unmapped.target },
    warnings,
    lanes: [
      { name: 'sole slip L', unit: 'cm', values: slipL, limit: leg },
      { name: 'sole slip R', unit: 'cm', values: slipR, limit: leg },
      { name: 'below floor', unit: 'cm', values: depth, limit: 0.5 * leg },
      { name: 'direction', unit: '°', values: direction.lane, limit: 15 },
    ],
    troubles,
  };
}

const listNames = (names: readonly string[]): string =>
  names.length <= 3 ? names.join(', ') : `${names.slice(0, 2).join(', ')} and ${names.length - 2} more joints`;
const flat = (track: Float64Array, f: number, g: number): number =>
  Math.hypot(track[3 * f]! - track[3 * g]!, track[3 * f + 2]! - track[3 * g + 2]!);
const partLabel = (part: PlantPart): string => `${part.endsWith('L') ? 'left' : 'right'} ${part.slice(0, -1)}`;

function jointName(plan: Plan, part: PlantPart): string {
  const sole = plan.target.body.soles[part.endsWith('L') ? 'L' : 'R'];
  return plan.target.rig.names[sole?.foot ?? 0]!;
}

function stepHeights(
  plants: readonly Plant[],
  heights: readonly number[],
  frames: number,
): Map<PlantPart, Float32Array> {
  const out = new Map<PlantPart, Float32Array>();
  plants.forEach((plant, i) => {
    const lane = out.get(plant.part) ?? new Float32Array(frames);
    lane.fill(heights[i] ?? 0, plant.start, plant.end + 1);
    out.set(plant.part, lane);
  });
  return out;
}

function directions(plan: Plan, source: Motion, result: Motion): { summary: Report['direction']; lane: Float32Array } {
  const a = new PoseReader(plan.source.rig, source);
  const b = new PoseReader(plan.target.rig, result);
  const pairs = DIRECTIONS.flatMap(([slot, axis]) => {
    const s = jointOf(plan.source.map, slot);
    const t = jointOf(plan.target.map, slot);
    return s >= 0 && t >= 0 ? [{ s, t, axis }] : [];
  });
  const lane = new Float32Array(result.frameCount);
  const angles = new Float32Array(pairs.length * result.frameCount);
  const q = [0, 0, 0, 1];
  const u = [0, 0, 0];
  const v = [0, 0, 0];
  let n = 0;
  for (let f = 0; f < result.frameCount; f++) {
    const ps = a.at(f);
    const pt = b.at(f);
    for (const { s, t, axis } of pairs) {
      mulInvQuat(q, 0, ps.r, 4 * s, plan.sourceAligned, 4 * s);
      rotate3(u, 0, q, 0, axis, 0);
      mulInvQuat(q, 0, pt.r, 4 * t, plan.targetAligned, 4 * t);
      rotate3(v, 0, q, 0, axis, 0);
      const angle = (angleBetween3(u, 0, v, 0) * 180) / Math.PI;
      angles[n++] = angle;
      lane[f] = Math.max(lane[f]!, angle);
    }
  }
  let sum = 0;
  for (const x of angles) sum += x;
  angles.sort();
  return {
    summary: {
      meanDeg: n > 0 ? sum / n : 0,
      p95Deg: angles[Math.floor(0.95 * (n - 1))] ?? 0,
      maxDeg: angles[n - 1] ?? 0,
    },
    lane,
  };
}

function findUnmapped(
  plan: Plan,
  source: Motion,
): { source: string[]; target: string[]; moving: string[]; still: string[] } {
  const { rig } = plan.source;
  const n = rig.names.length;
  const moves = (motion: Motion, joints: number, j: number): boolean => {
    const step = Math.max(1, Math.floor(motion.frameCount / 60));
    for (let f = step; f < motion.frameCount; f += step) {
      if (angleBetweenQuats(motion.rotations, 4 * j, motion.rotations, 4 * (f * joints + j)) > 0.02) return true;
    }
    return false;
  };
  const used = new Set<number>();
  plan.a.forEach((s, j) => {
    if (s >= 0) used.add(s).add(plan.b[j]!);
    if (plan.same[j]! >= 0) used.add(plan.same[j]!);
  });
  // the turn of a trunk joint that the target lacks reaches the joints above it all the same
  for (const slot of ['spine', 'neck']) for (const j of chainOf(plan.source.map, slot)) used.add(j);
  const unusedSource = rig.names.map((_, j) => j).filter((j) => !used.has(j));
  const moving = unusedSource.filter((j) => moves(source, n, j)).map((j) => rig.names[j]!);
  const target = plan.target.rig.names.filter((_, j) => plan.a[j]! < 0 && plan.same[j]! < 0);
  return { source: unusedSource.map((j) => rig.names[j]!), target, moving, still: stillJoints(plan, source) };
}

/** Source joints of mapped limbs that never move while the rest of the limb does. */
function stillJoints(plan: Plan, source: Motion): string[] {
  const n = plan.source.rig.names.length;
  const still: string[] = [];
  for (const [slot] of DIRECTIONS) {
    const s = jointOf(plan.source.map, slot);
    if (s < 0 || jointOf(plan.target.map, slot) < 0 || source.frameCount < 10) continue;
    let range = 0;
    for (let f = 1; f < source.frameCount; f += Math.max(1, Math.floor(source.frameCount / 50))) {
      range = Math.max(range, angleBetweenQuats(source.rotations, 4 * s, source.rotations, 4 * (f * n + s)));
    }
    if (range < 1e-4) still.push(plan.source.rig.names[s]!);
  }
  return still;
}
