import type { Handle } from '../layer/correct';
import type { Motion } from '../motion/motion';
import { PlaneReader } from '../motion/plane-pose';
import { reachFlat } from '../motion/reach-flat';
import { limbsOf } from './correct-flat';
import type { FlatParty } from './drive';
import type { FlatPlant } from './drive-legs';
import { type FlatBody, pointOn } from './flat';
import { type CutoutKeys, evaluateKeys, type Stand } from './keys';

/**
 * While one foot carries the figure, another may stand as well: on a figure of other proportions it would slide. Its leg is bent
 * so that it stays, at the keys that the leg has; no key is added.
 * @param plan which foot stands when @param plants those that carry the figure, with their spots
 */
export function steadySecondFeet(
  party: FlatParty,
  flat: FlatBody,
  keys: CutoutKeys,
  plan: readonly Stand[],
  plants: readonly FlatPlant[],
): CutoutKeys {
  const { rig, map } = party;
  const ranges = plan.flatMap((stand) => besides(stand, plants, keys.frameCount));
  if (ranges.length === 0) return keys;
  const motion = evaluateKeys(rig, keys);
  const sides = [...new Set(ranges.map((r) => r.side))];
  const limbs = limbsOf(
    rig,
    map,
    sides.map((side): Handle => `foot${side}`),
  );
  const goals = limbs.map(({ handle, chain }) =>
    goalsOf(
      flat,
      motion,
      chain[2],
      ranges.filter((r) => handle.endsWith(r.side)),
      plants,
    ),
  );
  const bent = reachFlat(rig, motion, limbs, goals);
  const n = rig.names.length;
  const angle = (m: Motion, joint: number, f: number): number =>
    2 * Math.atan2(m.turns[4 * (f * n + joint) + 2]!, m.turns[4 * (f * n + joint) + 3]!);
  const tracks = keys.tracks.map((track) => {
    const joint = rig.names.indexOf(track.joint);
    const limb = limbs.find((l) => l.chain.includes(joint));
    if (track.channel !== 'turn' || !limb) return track;
    const moved = track.keys.map((key) => {
      const f = Math.round(key.frame);
      if (!ranges.some((r) => limb.handle.endsWith(r.side) && r.start <= f && f <= r.end)) return key;
      const by = angle(bent, joint, f) - angle(motion, joint, f);
      return { ...key, value: [key.value[0]! + by - 2 * Math.PI * Math.round(by / (2 * Math.PI))] };
    });
    return { ...track, keys: moved };
  });
  return { ...keys, tracks };
}

/** The parts of a stand in which another foot carries the figure. */
function besides({ side, start, end }: Stand, plants: readonly FlatPlant[], frames: number): Stand[] {
  const out: Stand[] = [];
  for (let f = Math.max(0, start); f <= Math.min(end, frames - 1); f++) {
    if (plants.some((p) => p.part === `ball${side}` && p.start <= f && f <= p.end)) continue;
    const last = out.at(-1);
    if (last && last.end === f - 1) out[out.length - 1] = { side, start: last.start, end: f };
    else out.push({ side, start: f, end: f });
  }
  return out;
}

/** Where the ankle is to be, 2 F numbers, metres: where it is, but for stands, in which the sole stays on its spot. */
function goalsOf(
  flat: FlatBody,
  motion: Motion,
  ankle: number,
  ranges: readonly Stand[],
  plants: readonly FlatPlant[],
): Float64Array {
  const reader = new PlaneReader(flat.rig, motion);
  const goal = new Float64Array(2 * motion.frameCount);
  let spot: readonly [number, number] | undefined;
  for (let f = 0; f < motion.frameCount; f++) {
    const frames = reader.read(f / motion.fps);
    goal.set(frames.subarray(6 * ankle + 4, 6 * ankle + 6), 2 * f);
    const range = ranges.find((r) => r.start <= f && f <= r.end);
    const foot = range && flat.legs.find((l) => l.side === range.side)?.foot;
    if (!range || !foot || foot.joint !== ankle) continue;
    const [heel, ball] = [pointOn(frames, ankle, foot.heel), pointOn(frames, ankle, foot.ball)];
    const low = Math.min(heel[1], ball[1]);
    // it stands where it carries the figure before or after, else where it came down
    const carried = plants.find(
      (p) => p.part === `ball${range.side}` && (p.start === range.end + 1 || p.end === range.start - 1),
    );
    if (carried) spot = carried.spot;
    else if (f === range.start) spot = [ball[0], Math.abs(low) < NEAR_GROUND * flat.leg ? 0 : low];
    goal[2 * f] = goal[2 * f]! + spot![0] - ball[0];
    goal[2 * f + 1] = goal[2 * f + 1]! + spot![1] - low;
  }
  return goal;
}

/** A sole within this share of the leg from the ground stands on it. */
const NEAR_GROUND = 0.05;
