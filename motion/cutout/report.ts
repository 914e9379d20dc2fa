import { slotLabel } from '../bodymap/slots';
import { PlaneReader } from '../motion/plane-pose';
import { labelAt, lengthTrack, ORDER_TRACK } from '../motion/tracks';
import type { Lane, Report } from '../retarget/report';
import { type Trouble, type TroubleFact, told } from '../retarget/trouble';
import { endOf } from '../rig/flat';
import type { Driven } from './drive';

/** A limb seen shorter than this share of its length has no direction to speak of. */
const TELLING = 0.5;
const SLIPS = 0.01;
const OFF_DEG = 12;
const GAP_M = 0.004;
/** A drawing that shows for less, seconds, is a flicker. */
const BRIEF_S = 0.08;

/** Largest distance between the points of parts and the joints that hang on them, and where. */
export interface GapMeasure {
  readonly max: number;
  readonly frame: number;
  readonly joint: number;
  readonly lane: Float32Array;
}

/** What was measured on a driven cut-out beyond what a body has. */
export interface DrivenMeasure {
  readonly report: Report;
  readonly gap: GapMeasure;
  /** Frames in which the drawing order changes, for each second. */
  readonly orderChangesPerSecond: number;
}

/** Measures a driven cut-out on its own drawings: feet, directions, gaps, drawings that flicker. */
export function measureDriven(driven: Driven): DrivenMeasure {
  const { motion, flat, plants, reach, seen } = driven;
  const { rig } = flat;
  const n = motion.frameCount;
  const reader = new PlaneReader(rig, motion);
  const lengths = new Map(motion.numbers.map((t) => [t.name, t.values]));
  const lengthOf = (joint: number, f: number): number => lengths.get(lengthTrack(rig.names[joint]!))?.[f] ?? 1;
  const gapLane = new Float32Array(n);
  const slipLane = new Float32Array(n);
  const floorLane = new Float32Array(n);
  const directionLane = new Float32Array(n);
  let gap: Omit<GapMeasure, 'lane'> = { max: 0, frame: 0, joint: -1 };
  const slip = { max: 0, frame: 0, part: '' };
  const depth = { max: 0, frame: 0 };
  const direction = { max: 0, frame: 0, joint: -1, sum: 0, count: 0, all: [] as number[] };
  let path = 0;
  let seconds = 0;
  const last = new Map<string, readonly [number, number]>();
  const bones = [...flat.bones.values()].flatMap((bone) => {
    const slot = Object.entries(flat.map.slots).find(([, e]) => e.joint === bone.joint)?.[0] ?? '';
    const pair = BONES.find(([from]) => slot.startsWith(from));
    const side = slot.at(-1)!;
    const a = pair && seen.at[`${pair[0]}${side}`];
    const b = pair && (seen.at[`${pair[1]}${side}`] ?? seen.at[`${pair[2]}${side}`]);
    const whole = pair?.[0] === 'upperArm' && flat.map.slots[`forearm${side}`]?.joint === -1;
    return a && b ? [{ bone, slot, a, b: whole ? (seen.at[`hand${side}`] ?? b) : b }] : [];
  });
  for (let f = 0; f < n; f++) {
    const frames = reader.read(f / motion.fps);
    const at = (joint: number, x: number, y: number): [number, number] => {
      const o = 6 * joint;
      return [
        frames[o]! * x + frames[o + 2]! * y + frames[o + 4]!,
        frames[o + 1]! * x + frames[o + 3]! * y + frames[o + 5]!,
      ];
    };
    // (1) gaps: a part's point for what hangs on it against where that hangs
    for (let j = 0; j < rig.names.length; j++) {
      const p = rig.parents[j]!;
      if (p < 0) continue;
      const [x, y] = [rig.restT[3 * j]!, rig.restT[3 * j + 1]!];
      const bone = flat.bones.get(p);
      const by = bone ? (lengthOf(p, f) - 1) * (x * bone.x + y * bone.y) : 0;
      const point = at(p, x + by * (bone?.x ?? 0), y + by * (bone?.y ?? 0));
      const off = Math.hypot(point[0] - frames[6 * j + 4]!, point[1] - frames[6 * j + 5]!);
      gapLane[f] = Math.max(gapLane[f]!, off);
      if (off > gap.max) gap = { max: off, frame: f, joint: j };
    }
    // (2) directions of limbs against what the eye sees
    for (const { bone, a, b } of bones) {
      const [x, y, z] = [0, 1, 2].map((k) => b[3 * f + k]! - a[3 * f + k]!) as [number, number, number];
      const share = Math.hypot(x, y) / (Math.hypot(x, y, z) || 1);
      if (share < TELLING) continue;
      const o = 6 * bone.joint;
      const [u, v] = [frames[o]! * bone.x + frames[o + 2]! * bone.y, frames[o + 1]! * bone.x + frames[o + 3]! * bone.y];
      const angle = (Math.abs(Math.atan2(u * y - v * x, u * x + v * y)) * 180) / Math.PI;
      direction.sum += angle;
      direction.count++;
      direction.all.push(angle);
      directionLane[f] = Math.max(directionLane[f]!, angle);
      if (angle > direction.max) Object.assign(direction, { max: angle, frame: f, joint: bone.joint });
    }
    // (3) feet: what stands stays, nothing is under the ground
    for (const leg of flat.legs) {
      const { joint } = leg.foot;
      const own = joint >= 0 ? joint : (leg.shin ?? leg.thigh).joint;
      const stretch = joint >= 0 ? 1 : lengthOf(own, f);
      const end = endOf(rig, own) ?? [0, 0];
      for (const [name, point] of [
        [`heel${leg.side}`, leg.foot.heel],
        [`ball${leg.side}`, leg.foot.ball],
      ] as const) {
        const local = joint >= 0 ? point : ([end[0] * stretch, end[1] * stretch] as const);
        const place = at(own, local[0], local[1]);
        const plant = plants.find((p) => p.part === name && p.start <= f && f <= p.end);
        const ground = plant?.spot[1] ?? 0;
        const under = Math.max(0, Math.min(ground, 0) - place[1]);
        floorLane[f] = Math.max(floorLane[f]!, under);
        if (under > depth.max) Object.assign(depth, { max: under, frame: f });
        if (!plant) {
          last.delete(name);
          continue;
        }
        const off = Math.hypot(place[0] - plant.spot[0], place[1] - plant.spot[1]);
        slipLane[f] = Math.max(slipLane[f]!, off);
        if (off > slip.max) Object.assign(slip, { max: off, frame: f, part: name });
        const before = last.get(name);
        if (before && f > plant.start) {
          path += Math.hypot(place[0] - before[0], place[1] - before[1]);
          seconds += 1 / motion.fps;
        }
        last.set(name, place);
      }
    }
  }
  direction.all.sort((a, b) => a - b);
  const order = motion.steps.find((s) => s.name === ORDER_TRACK);
  const changes = order ? order.values.reduce((sum, v, f) => sum + (f > 0 && v !== order.values[f - 1] ? 1 : 0), 0) : 0;
  const leg = flat.leg || 1;
  const lane = (name: string, unit: string, values: Float32Array, by: number, limit: number): Lane => ({
    name,
    unit,
    values: values.map((x) => x * by),
    limit,
  });
  const brief = flickers(driven);
  const lacking = lackingOf(driven);
  const facts: TroubleFact[] = [
    ...(slip.max > SLIPS
      ? [
          {
            kind: 'slip',
            frame: slip.frame,
            joint: '',
            parts: [slip.part],
            amount: 100 * slip.max,
            unit: 'cm',
          } as const,
        ]
      : []),
    ...(reach.max > SLIPS
      ? [
          {
            kind: 'reach',
            frame: reach.frame,
            joint: '',
            parts: ['foot'],
            amount: 100 * reach.max,
            unit: 'cm',
          } as const,
        ]
      : []),
    ...(depth.max > SLIPS
      ? [{ kind: 'floor', frame: depth.frame, joint: '', parts: [], amount: 100 * depth.max, unit: 'cm' } as const]
      : []),
    ...(gap.max > GAP_M && gap.joint >= 0
      ? [
          {
            kind: 'gap',
            frame: gap.frame,
            joint: rig.names[gap.joint]!,
            parts: [],
            names: [rig.names[gap.joint]!],
            amount: 100 * gap.max,
            unit: 'cm',
          } as const,
        ]
      : []),
    ...(direction.max > OFF_DEG && direction.joint >= 0
      ? [
          {
            kind: 'aside',
            frame: direction.frame,
            joint: rig.names[direction.joint]!,
            parts: [],
            names: [rig.names[direction.joint]!],
            amount: direction.max,
            unit: '°',
          } as const,
        ]
      : []),
    ...brief,
    ...unmappedOf(driven),
    ...(lacking.length > 0
      ? [{ kind: 'unpaired', frame: 0, joint: '', parts: [], names: lacking, amount: 0, unit: '' } as const]
      : []),
  ];
  const troubles: Trouble[] = facts.map(told);
  const report: Report = {
    frames: n,
    slip: {
      maxCm: 100 * slip.max,
      maxPercentLeg: (100 * slip.max) / leg,
      meanPercentLegPerPlantSecond: seconds > 0 ? (100 * path) / leg / seconds : 0,
    },
    floor: { maxDepthCm: 100 * depth.max },
    hover: { maxCm: 0, maxPercentLeg: 0 },
    reach: { maxCm: 100 * reach.max, handsCm: 0 },
    direction: {
      meanDeg: direction.count > 0 ? direction.sum / direction.count : 0,
      p95Deg: direction.all[Math.floor(0.95 * direction.all.length)] ?? 0,
      maxDeg: direction.max,
    },
    jitter: { ratio: 1 },
    snap: { ratio: 1, frame: 0, part: '' },
    limits: { maxDeg: 0, part: '', beyondDeg: 0 },
    crossing: { maxCm: 0 },
    hands: { apartCm: 0 },
    body: { trunkDeg: 0, apartPercent: (100 * gap.max) / leg, lacking: lacking.length },
    skin: { stretch: 1 },
    plants: plants.map(({ part, start, end }) => ({ part, start, end })),
    unmapped: { source: [], target: [] },
    warnings: driven.notes,
    lanes: [
      lane('planted foot moves', 'cm', slipLane, 100, 1),
      lane('gaps at joints', 'cm', gapLane, 100, 100 * GAP_M),
      lane('limbs off their direction', '°', directionLane, 1, OFF_DEG),
      lane('under the ground', 'cm', floorLane, 100, 1),
    ],
    troubles,
  };
  return {
    report,
    gap: { ...gap, lane: gapLane },
    orderChangesPerSecond: n > 1 ? (changes * motion.fps) / (n - 1) : 0,
  };
}

const BONES = [
  ['upperArm', 'forearm', 'hand'],
  ['forearm', 'hand', 'hand'],
  ['thigh', 'shin', 'foot'],
  ['shin', 'foot', 'foot'],
] as const;

/** Drawings and views that show too briefly to be seen. */
function flickers({ motion, flat }: Driven): TroubleFact[] {
  const least = Math.max(2, Math.round(BRIEF_S * motion.fps));
  const out: TroubleFact[] = [];
  for (const track of motion.steps) {
    if (track.name === ORDER_TRACK) continue;
    let start = 0;
    for (let f = 1; f <= track.values.length; f++) {
      if (f < track.values.length && track.values[f] === track.values[start]) continue;
      if (f - start < least && start > 0 && f < track.values.length)
        out.push({
          kind: 'brief',
          frame: start,
          joint: flat.rig.names.find((n) => track.name.endsWith(n)) ?? '',
          parts: [],
          names: [track.name, labelAt(track, start)],
          amount: f - start,
          unit: '',
        });
      start = f;
    }
  }
  return out.slice(0, 12);
}

/** Limbs of the figure that no joint of the source moves. */
function unmappedOf({ flat, seen }: Driven): TroubleFact[] {
  const still = Object.entries(flat.map.slots)
    .filter(([slot, e]) => e.joint >= 0 && /^(upperArm|thigh)/.test(slot) && !seen.at[slot])
    .map(([slot]) => slotLabel(slot));
  return still.length > 0 ? [{ kind: 'still', frame: 0, joint: '', parts: [], names: still, amount: 0, unit: '' }] : [];
}

/** Head and limbs that the performer has and no part of the figure was found for; what is empty on purpose is not missed. */
function lackingOf({ flat, seen }: Driven): string[] {
  return Object.entries(flat.map.slots)
    .filter(([slot, e]) => e.joint < 0 && e.state !== 'empty' && /^(head|upperArm|thigh)/.test(slot) && seen.at[slot])
    .map(([slot]) => slotLabel(slot));
}
