import { type BodyMap, jointOf } from '../bodymap/slots';
import type { Markers } from '../markers/markers';
import { rotate3 } from '../math/quat';
import { seeded } from '../math/random';
import { type Motion, PoseReader } from '../motion/motion';
import { restPose, type SkeletonRig } from '../rig/rig';

type V3 = [number, number, number];

export interface MarkerTraits {
  readonly seed: number;
  /** Standard deviation of every number, metres. */
  readonly noise: number;
  /** Share of places lost, in gaps of up to half a second. */
  readonly lost: number;
  readonly swaps: number;
  readonly names: boolean;
  /** 'sparse': two on every limb's part, three on the trunk's; 'full' where left out. */
  readonly layout?: 'full' | 'sparse' | undefined;
}

export interface MarkedBody {
  readonly markers: Markers;
  /** What was done to it: from this frame on the tracks of two markers are exchanged. */
  readonly swaps: readonly { readonly frame: number; readonly a: number; readonly b: number }[];
  /** By marker: the slot whose joint carries it. */
  readonly carriers: readonly string[];
}

/** How many markers each part carries, and where on it: along the bone, around it. */
const LAYOUT: readonly (readonly [slot: string, to: string, along: readonly number[], out: number])[] = [
  ['hips', 'spine1', [0, 0, 0.6, 0.6], 0.12],
  ['chest', 'neck1', [0.1, 0.5, 0.5, 0.9], 0.12],
  ['head', '', [0.05, 0.12, 0.12, 0.16], 0.09],
  ...(['L', 'R'] as const).flatMap((s) => [
    [`upperArm${s}`, `forearm${s}`, [0.1, 0.6, 0.95], 0.05] as const,
    [`forearm${s}`, `hand${s}`, [0.5, 0.95], 0.04] as const,
    [`hand${s}`, '', [0.05, 0.09], 0.03] as const,
    [`thigh${s}`, `shin${s}`, [0.3, 0.6, 0.95], 0.07] as const,
    [`shin${s}`, `foot${s}`, [0.4, 0.7, 0.97], 0.05] as const,
    [`foot${s}`, 'toes', [0.02, 0.14], 0.04] as const,
  ]),
];

/** Fewer markers: both ends of what a limb's part has, three on the trunk. */
const sparse = (slot: string, all: readonly number[]): readonly number[] =>
  /^(hips|chest|head)$/.test(slot) ? all.slice(0, 3) : all.length > 2 ? [all[0]!, all.at(-1)!] : all;

/** Markers on a body in motion, with what goes wrong on a stage. */
export function markersOn(rig: SkeletonRig, map: BodyMap, motion: Motion, traits: MarkerTraits): MarkedBody {
  const random = seeded(traits.seed);
  const normal = (): number => Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());
  const rest = restPose(rig);
  const spine = [...Array(8).keys()].map((i) => jointOf(map, `spine${8 - i}`)).find((j) => j >= 0)!;
  const jointAt = (slot: string): number => (slot === 'chest' ? spine : jointOf(map, slot));
  const at = (j: number): V3 => [rest.p[3 * j]!, rest.p[3 * j + 1]!, rest.p[3 * j + 2]!];
  const carriers: string[] = [];
  const labels: string[] = [];
  const offsets: V3[] = [];
  for (const [slot, to, all, out] of LAYOUT) {
    const alongs = traits.layout === 'sparse' ? sparse(slot, all) : all;
    const j = jointAt(slot);
    if (j < 0) continue;
    const target = to === 'toes' ? undefined : jointAt(to);
    const way: V3 =
      target !== undefined && target >= 0 && to !== ''
        ? ([0, 1, 2].map((k) => at(target)[k]! - at(j)[k]!) as V3)
        : /head/.test(slot)
          ? [0, 1, 0]
          : /foot/.test(slot)
            ? [0, 0, 1]
            : ([0, 1, 2].map((k) => at(j)[k]! - at(jointOf(map, slot.replace('hand', 'forearm')))[k]!) as V3);
    const long = to !== '' && to !== 'toes' ? Math.max(0.1, Math.hypot(...way)) : 1;
    // in some skeletons the joint above lies in the same place
    const l0 = Math.hypot(...way);
    const unit: V3 = l0 > 1e-6 ? (way.map((x) => x / l0) as V3) : [0, 1, 0];
    alongs.forEach((t, i) => {
      const angle = 2 * Math.PI * ((i * 0.38 + random() * 0.2) % 1);
      const flat: V3 = Math.abs(unit[1]) < 0.8 ? [0, 1, 0] : [0, 0, 1];
      const cross = (u: V3, v: V3): V3 => [
        u[1] * v[2] - u[2] * v[1],
        u[2] * v[0] - u[0] * v[2],
        u[0] * v[1] - u[1] * v[0],
      ];
      const x = cross(flat, unit);
      const l = Math.hypot(...x);
      const y = cross(unit, x.map((c) => c / l) as V3);
      const r = out * (0.85 + 0.3 * random());
      const world = [0, 1, 2].map(
        (k) => at(j)[k]! + t * long * unit[k]! + r * (Math.cos(angle) * (x[k]! / l) + Math.sin(angle) * y[k]!),
      ) as V3;
      const back = [-rest.r[4 * j]!, -rest.r[4 * j + 1]!, -rest.r[4 * j + 2]!, rest.r[4 * j + 3]!];
      const local: number[] = [0, 0, 0];
      rotate3(
        local,
        0,
        back,
        0,
        [0, 1, 2].map((k) => world[k]! - at(j)[k]!),
        0,
      );
      offsets.push(local as V3);
      carriers.push(slot);
      labels.push(traits.names ? `${slot} ${i + 1}` : `M${String(labels.length + 1).padStart(3, '0')}`);
    });
  }
  const m = labels.length;
  const places = new Float32Array(3 * m * motion.frameCount);
  const reader = new PoseReader(rig, motion);
  const p = [0, 0, 0];
  for (let f = 0; f < motion.frameCount; f++) {
    const pose = reader.at(f);
    for (let i = 0; i < m; i++) {
      const j = jointAt(carriers[i]!);
      rotate3(p, 0, pose.r, 4 * j, offsets[i]!, 0);
      for (let k = 0; k < 3; k++) places[3 * (f * m + i) + k] = p[k]! + pose.p[3 * j + k]! + traits.noise * normal();
    }
  }
  const swaps: { frame: number; a: number; b: number }[] = [];
  const times = Array.from({ length: traits.swaps }, () => 10 + Math.floor(random() * (motion.frameCount - 20)));
  for (const frame of times.sort((x, y) => x - y)) {
    const a = Math.floor(random() * m);
    const b = (a + 1 + Math.floor(random() * (m - 1))) % m;
    swaps.push({ frame, a, b });
    for (let f = frame; f < motion.frameCount; f++)
      for (let k = 0; k < 3; k++) {
        const [x, y] = [3 * (f * m + a) + k, 3 * (f * m + b) + k];
        [places[x], places[y]] = [places[y]!, places[x]!];
      }
  }
  const longest = 0.5 * motion.fps;
  for (let lost = 0; lost < traits.lost * m * motion.frameCount; ) {
    const i = Math.floor(random() * m);
    const start = Math.floor(random() * motion.frameCount);
    const count = 1 + Math.floor(random() * longest);
    for (let f = start; f < Math.min(motion.frameCount, start + count); f++) {
      places.fill(Number.NaN, 3 * (f * m + i), 3 * (f * m + i) + 3);
      lost++;
    }
  }
  return { markers: { labels, fps: motion.fps, frameCount: motion.frameCount, places }, swaps, carriers };
}
