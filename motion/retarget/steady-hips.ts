import { jointOf } from '../bodymap/slots';
import { load4, mul64, normalize64, storeLocal, storeNear } from '../math/fast';
import { lowPass } from '../math/low-pass';
import type { Motion } from '../motion/motion';
import { childrenOf } from '../rig/rig';
import type { RetargetPlan } from './plan';

/** Above this a hip's place holds noise only; below this rate of frames noise is too coarse to tell. */
const HIP_CUTOFF_HZ = 10;
const FAST_FPS = 48;

/**
 * Takes the jitter out of the hips' place and turn; what hangs from them keeps its turn in the world. On a foot that stands
 * still every jitter of the hips is one of the knee, and the straighter the leg the larger: where a capture's feet jittered
 * along with its hips, a held foot no longer does.
 */
export function steadyHips(plan: RetargetPlan, motion: Motion): Motion {
  if (motion.fps < FAST_FPS || motion.frameCount < 8) return motion;
  const filter = lowPass(HIP_CUTOFF_HZ, motion.fps);
  return {
    ...motion,
    turns: steadyTurn(plan, motion, filter),
    places: motion.places.map((t) => {
      if (t.joint !== plan.carrier) return t;
      const values = t.values.slice();
      for (let k = 0; k < 3; k++) filter(values, k, 3, motion.frameCount);
      return { joint: t.joint, values };
    }),
  };
}

/**
 * The turns with the jitter out of the hips' own. Mapped joints below keep their turn in the world; helpers between, which
 * swing with a capture's glitches, go with the hips.
 */
function steadyTurn(plan: RetargetPlan, motion: Motion, filter: ReturnType<typeof lowPass>): Float32Array {
  const { rig, map } = plan.target;
  const { parents } = rig;
  const hips = jointOf(map, 'hips');
  if (hips < 0) return motion.turns;
  const n = parents.length;
  const frames = motion.frameCount;
  const turns = new Float32Array(4 * frames);
  const own = new Float64Array(4);
  for (let f = 0; f < frames; f++) {
    const o = 4 * (f * n + hips);
    // neighbours in one half of the sphere, so that they can be averaged
    load4(own, 0, motion.turns, o);
    storeNear(turns, 4 * f, own, 0, 4 * f - 4);
  }
  for (let k = 0; k < 4; k++) filter(turns, k, 4, frames);
  const below = nextMapped(plan, hips);
  const rotations = motion.turns.slice();
  const steady = new Float64Array(4);
  const before = new Float64Array(4);
  const after = new Float64Array(4);
  const local = new Float64Array(4);
  for (let f = 0; f < frames; f++) {
    const o = 4 * (f * n + hips);
    load4(steady, 0, turns, 4 * f);
    load4(own, 0, motion.turns, o);
    normalize64(steady, 0);
    storeNear(rotations, o, steady, 0, f > 0 ? o - 4 * n : -1);
    for (const { joint, between } of below) {
      const c = 4 * (f * n + joint);
      for (let k = 0; k < 4; k++) {
        before[k] = own[k]!;
        after[k] = steady[k]!;
      }
      for (const j of between) {
        const b = 4 * (f * n + j);
        load4(local, 0, motion.turns, b);
        mul64(before, 0, before, 0, local, 0);
        load4(local, 0, rig.restR, 4 * j);
        mul64(after, 0, after, 0, local, 0);
        storeNear(rotations, b, local, 0, f > 0 ? b - 4 * n : -1);
      }
      load4(local, 0, motion.turns, c);
      mul64(before, 0, before, 0, local, 0);
      storeLocal(rotations, c, after, 0, before, 0, f > 0 ? c - 4 * n : -1);
    }
  }
  return rotations;
}

/** Joints below one that slots name, or that end a branch without any, each with the helpers between, from above. */
function nextMapped(plan: RetargetPlan, from: number): { joint: number; between: number[] }[] {
  const { rig, map } = plan.target;
  const mapped = new Set(Object.values(map.slots).map((e) => e.joint));
  const carries = new Uint8Array(rig.names.length);
  for (let j = rig.names.length - 1; j >= 0; j--)
    if ((carries[j] || mapped.has(j)) && rig.parents[j]! >= 0) carries[rig.parents[j]!] = 1;
  const kids = childrenOf(rig);
  const walk = (joint: number, between: number[]): { joint: number; between: number[] }[] =>
    mapped.has(joint) || !carries[joint]
      ? [{ joint, between }]
      : kids[joint]!.flatMap((c) => walk(c, [...between, joint]));
  return kids[from]!.flatMap((c) => walk(c, []));
}
