import { type HoldTracks, palmPoint } from '../analysis/holds';
import type { Plant } from '../analysis/plants';
import { type Capsule, capsulesByName } from '../body/capsules';
import { jointOf, SIDES } from '../bodymap/slots';
import { rotate64 } from '../math/fast';
import { distance3 } from '../math/vec';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import { restPose } from '../rig/rig';
import { swingTo, type WristGoal, weightOf } from './arms';
import { depthOf, nearest, UNSEEN } from './crossing';
import { envelope } from './envelope';
import type { RetargetPlan } from './plan';
import { PALM_CLEAR } from './trunk';

/** How far aside the spots of palms lie, x and z, metres. */
export type PalmSpots = ReadonlyMap<Plant, readonly [number, number]>;

/** Time over which a palm comes to its spot and leaves it, seconds: over longer ones elbows are pulled while hands are already on their way. */
const HAND_FADE_S = 0.1;

/** How far a resting palm may rise and sink as the source's does, metres: hands roll over their heels. */
const PALM_GIVE = 0.02;

/** Share of its length that an arm which rests on the ground uses at most, unless it is straighter already. */
const BENT = 0.975;

/**
 * Goals that keep palms where they rest on the ground, and above it on the way: each on the mean spot of its plant, at the
 * source's height scaled.
 * @param aside how much farther a spot lies than that, x and z, metres
 */
export function groundGoals(
  plan: RetargetPlan,
  moved: Motion,
  plants: readonly Plant[],
  tracks: HoldTracks,
  sourceFloor: number,
  aside: PalmSpots = NOT_ASIDE,
): WristGoal[] {
  const { rig, map, pose } = plan.target;
  const rest = pose ?? restPose(rig);
  const out: WristGoal[] = [];
  for (const side of SIDES) {
    const spans = plants.filter((p) => p.part === `hand${side}`);
    const hand = jointOf(map, `hand${side}`);
    if (hand < 0 || jointOf(map, `forearm${side}`) < 0) continue;
    if (!plants.some((p) => p.part.startsWith('hand') || p.part.startsWith('knee'))) continue;
    const palm = palmPoint(rig, { rig, map }, side, rest);
    const upper = jointOf(map, `upperArm${side}`);
    const fore = jointOf(map, `forearm${side}`);
    const reader = new ChainReader(rig, moved, [hand]);
    const at = new Float64Array(3 * moved.frameCount);
    const shoulders = new Float64Array(3 * moved.frameCount);
    const bone = (j: number): number => Math.hypot(rig.restT[3 * j]!, rig.restT[3 * j + 1]!, rig.restT[3 * j + 2]!);
    const full = bone(fore) + bone(hand);
    const offset = new Float64Array(3 * moved.frameCount);
    for (let f = 0; f < moved.frameCount; f++) {
      const { r, p } = reader.at(f);
      rotate64(offset, 3 * f, r, 4 * hand, palm, 0);
      for (let k = 0; k < 3; k++) at[3 * f + k] = p[3 * hand + k]!;
      for (let k = 0; k < 3; k++) shoulders[3 * f + k] = p[3 * upper + k]!;
    }
    const track = tracks[`hand${side}`];
    if (!track) continue;
    const fade = Math.max(1, Math.round(HAND_FADE_S * moved.fps));
    const wrist = at.slice();
    const swung = new Float64Array(3);
    for (const span of spans) {
      const { start, end, pin } = span;
      const spot = [0, 0, 0];
      let height = 0;
      for (let f = start; f <= end; f++) height += (track[3 * f + 1]! - sourceFloor) / (end - start + 1);
      const y = Math.max(PALM_CLEAR, height * plan.scale);
      for (let f = start; f <= end; f++) {
        // as the arm swings there: a hand may be anywhere on the ground, but the arm keeps its bend
        swingTo(swung, 0, shoulders, 3 * f, wrist, 3 * f, y - offset[3 * f + 1]!);
        for (let k = 0; k < 3; k++) spot[k] = spot[k]! + (swung[k]! + offset[3 * f + k]!) / (end - start + 1);
      }
      spot[1] = y;
      // an arm that is straighter already may stay so
      let reachable = BENT * full;
      for (let f = start; f <= end; f++)
        reachable = Math.max(reachable, Math.min(0.999 * full, distance3(wrist, 3 * f, shoulders, 3 * f)));
      // a spot chosen by hand stays where it was put, in reach or not
      if (pin) [spot[0], spot[2]] = pin;
      else {
        pullIn(spot, offset, shoulders, start, end, reachable);
        const more = aside.get(span);
        if (more) {
          spot[0] = spot[0]! + more[0];
          spot[2] = spot[2]! + more[1];
        }
      }
      const from = Math.max(0, start - fade);
      const to = Math.min(moved.frameCount - 1, end + fade);
      for (let f = from; f <= to; f++) {
        const g = Math.max(start, Math.min(end, f));
        const above = (track[3 * g + 1]! - sourceFloor - height) * plan.scale;
        for (let k = 0; k < 3; k++)
          at[3 * f + k] = spot[k]! + (k === 1 ? PALM_GIVE * Math.tanh(above / PALM_GIVE) : 0) - offset[3 * f + k]!;
      }
    }
    const weight = weightOf(spans, moved.frameCount, fade);
    liftFromFloor(wrist, offset, at, weight, fade);
    out.push({ side, at, weight, gives: true });
  }
  return out;
}

const NOT_ASIDE: PalmSpots = new Map();

/** A spot is never moved farther aside than this share of the leg. */
const MOST_ASIDE = 0.2;

/**
 * How far the spots of resting palms have to lie aside so that their forearms keep out of trunk and thigh as the source's do:
 * of what is lacking in any of its frames the most, in the direction that it has there, on top of what they are moved already.
 * @returns undefined where nothing is lacking
 */
export function palmsAside(
  plan: RetargetPlan,
  source: Motion,
  moved: Motion,
  plants: readonly Plant[],
  already: PalmSpots,
): PalmSpots | undefined {
  const [own, model] = [capsulesByName(plan.target), capsulesByName(plan.source)];
  const out = new Map(already);
  let any = false;
  for (const side of SIDES) {
    const fore = own.get(`forearm${side}`);
    const theirs = model.get(`forearm${side}`);
    const spans = plants.filter((p) => p.part === `hand${side}` && !p.pin);
    if (!fore || spans.length === 0) continue;
    const others = ['trunk', `thigh${side}`].flatMap((name) => {
      const other = own.get(name);
      return other ? [{ other, model: theirs && model.get(name) }] : [];
    });
    const joints = (list: readonly (Capsule | undefined)[]): number[] => list.flatMap((c) => (c ? [c.from, c.to] : []));
    const reader = new ChainReader(plan.target.rig, moved, joints([fore, ...others.map((o) => o.other)]));
    const before = new ChainReader(plan.source.rig, source, joints([theirs, ...others.map((o) => o.model)]));
    for (const span of spans) {
      let most = 0;
      const way: [number, number] = [0, 0];
      for (let f = span.start; f <= span.end; f++) {
        const { p } = reader.at(f);
        for (const { other, model: like } of others) {
          const d = nearest(gap, p, 3 * fore.from, 3 * fore.to, 3 * other.from, 3 * other.to);
          let need = fore.radius + other.radius - UNSEEN - d;
          const flat = Math.hypot(gap[0]!, gap[2]!);
          if (need <= most || flat < 1e-6) continue;
          const along = 0.5 + 0.5 * gap[3]!;
          const [x, z] = [gap[0]! / flat / along, gap[2]! / flat / along];
          if (theirs && like) need -= depthOf(theirs, like, before.at(f).p);
          if (need <= most) continue;
          most = need;
          way[0] = need * x;
          way[1] = need * z;
        }
      }
      if (most === 0) continue;
      const [x, z] = out.get(span) ?? [0, 0];
      const far = Math.hypot(x + way[0], z + way[1]);
      const by = Math.min(1, (MOST_ASIDE * plan.target.body.leg) / Math.max(far, 1e-9));
      out.set(span, [by * (x + way[0]), by * (z + way[1])]);
      any = true;
    }
  }
  return any ? out : undefined;
}
const gap = new Float64Array(4);

/** Least height of palm and wrist above the ground while a hand goes from one spot to the next, metres. */
const HAND_CLEAR = 0.015;

/** Raises goals where wrist or palm would go through the floor; the lift rises and falls over time. Changes `at`, `weight`. */
function liftFromFloor(
  wrist: Float64Array,
  offset: Float64Array,
  at: Float64Array,
  weight: Float32Array,
  fade: number,
): void {
  const frames = weight.length;
  const target = new Float64Array(3 * frames);
  const need = new Float64Array(frames);
  for (let f = 0; f < frames; f++) {
    for (let k = 0; k < 3; k++) target[3 * f + k] = (1 - weight[f]!) * wrist[3 * f + k]! + weight[f]! * at[3 * f + k]!;
    const low = Math.min(target[3 * f + 1]!, target[3 * f + 1]! + offset[3 * f + 1]!);
    if (weight[f]! < 1) need[f] = Math.max(0, HAND_CLEAR - low);
  }
  const lift = envelope(need, Math.max(1, fade >> 1));
  for (let f = 0; f < frames; f++) {
    const by = weight[f] === 1 ? 0 : Math.max(need[f]!, lift[f]! * (1 - weight[f]!));
    if (by < 1e-5) continue;
    for (let k = 0; k < 3; k++) at[3 * f + k] = target[3 * f + k]! + (k === 1 ? by : 0);
    weight[f] = 1;
  }
}

/** Moves a spot over the ground towards the shoulder until the arm reaches it, a little bent, in all of its frames. */
function pullIn(
  spot: number[],
  offset: Float64Array,
  shoulders: Float64Array,
  start: number,
  end: number,
  reachable: number,
): void {
  for (let pass = 0; pass < 4; pass++) {
    let worst = 0;
    let at = start;
    for (let f = start; f <= end; f++) {
      const d = Math.hypot(...[0, 1, 2].map((k) => spot[k]! - offset[3 * f + k]! - shoulders[3 * f + k]!));
      if (d > worst) {
        worst = d;
        at = f;
      }
    }
    if (worst <= reachable) return;
    const x = shoulders[3 * at]! - (spot[0]! - offset[3 * at]!);
    const z = shoulders[3 * at + 2]! - (spot[2]! - offset[3 * at + 2]!);
    const flat = Math.hypot(x, z);
    if (flat < 1e-4) return;
    const by = Math.min(1, (worst - reachable) / flat);
    spot[0] = spot[0]! + by * x;
    spot[2] = spot[2]! + by * z;
  }
}
