import { type BodyMap, FINGERS, jointOf, SIDES } from '../bodymap/slots';
import { invMul64, mul64, mulInv64, normalize64, rotate64, storeNear } from '../math/fast';
import { distance3 } from '../math/vec';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import { childrenOf, type SkeletonRig, type WorldPose } from '../rig/rig';

/**
 * A joint that nothing turns but that lies where a part of the body is, in another branch of the tree: a goal that carries the
 * hand's skin, a second skeleton beside the first. It goes rigidly with that part.
 */
export interface Follower {
  readonly joint: number;
  readonly leader: number;
}

/** So near, as a share of a leg, two joints lie in one place. */
const ONE_PLACE = 0.012;

/**
 * Finds joints that follow a mapped one: at its place at rest, neither above nor below it, themselves neither mapped nor
 * carrying anything mapped but fingers; and trees of their own that carry skin and nothing mapped.
 * @param free joints that nothing else turns
 * @param skinned joints that skin hangs on; where known, what carries no skin is left alone
 */
export function findFollowers(
  rig: SkeletonRig,
  map: BodyMap,
  pose: WorldPose,
  leg: number,
  free: (joint: number) => boolean,
  skinned?: readonly number[],
): Follower[] {
  const n = rig.names.length;
  const fingers = new Set(
    SIDES.flatMap((s) => FINGERS.flatMap((f) => [1, 2, 3].map((k) => jointOf(map, `${f}${k}${s}`)))),
  );
  const leaders = [...new Set(Object.values(map.slots).map((e) => e.joint))].filter((j) => j >= 0 && !fingers.has(j));
  if (leaders.length === 0 || !(leg > 0)) return [];
  const carriesPart = new Uint8Array(n);
  const carriesSkin = new Uint8Array(n);
  for (const j of leaders) carriesPart[j] = 1;
  for (const j of skinned ?? []) carriesSkin[j] = 1;
  for (let j = n - 1; j >= 0; j--) {
    const above = rig.parents[j]!;
    if (above < 0) continue;
    if (carriesPart[j]) carriesPart[above] = 1;
    if (carriesSkin[j]) carriesSkin[above] = 1;
  }
  const out: Follower[] = [];
  const below = new Set<number>();
  const kids = childrenOf(rig);
  const take = (joint: number, leader: number): void => {
    out.push({ joint, leader });
    for (const stack = [joint]; stack.length > 0; )
      for (const c of kids[stack.pop()!]!) {
        below.add(c);
        stack.push(c);
      }
  };
  for (let j = 0; j < n; j++) {
    if (carriesPart[j] || !free(j) || fingers.has(j) || (skinned && !carriesSkin[j])) continue;
    const near = leaders
      .map((leader) => ({ leader, away: distance3(pose.p, 3 * j, pose.p, 3 * leader) }))
      .sort((a, b) => a.away - b.away || a.leader - b.leader)[0]!;
    const alone = rig.parents[j]! < 0 && skinned !== undefined;
    if (near.away > ONE_PLACE * leg && !alone) continue;
    // what hangs from its leader goes with it anyway, and so does what hangs from another follower of the same
    let carried = false;
    for (let p = rig.parents[j]!; p >= 0; p = rig.parents[p]!) {
      if (p === near.leader || out.some((f) => f.joint === p && f.leader === near.leader)) carried = true;
    }
    if (!carried) take(j, near.leader);
  }
  return out;
}

/** The motion with its followers brought to where their leaders are. Pure; unchanged where there are none. */
export function followLeaders(
  rig: SkeletonRig,
  pose: WorldPose,
  motion: Motion,
  followers: readonly Follower[],
): Motion {
  if (followers.length === 0) return motion;
  const n = rig.names.length;
  const frames = motion.frameCount;
  const rotations = motion.turns.slice();
  const order = [...followers].sort((a, b) => a.joint - b.joint);
  const own = new Set(order.map((f) => f.joint));
  const places = new Map(order.map((f) => [f.joint, new Float32Array(3 * frames)]));
  // turn and place of each follower in its leader's frame at rest
  const turns = new Float64Array(4 * order.length);
  const offsets = new Float64Array(3 * order.length);
  const v = new Float64Array(3);
  const q = new Float64Array(4);
  order.forEach(({ joint, leader }, i) => {
    invMul64(turns, 4 * i, pose.r, 4 * leader, pose.r, 4 * joint);
    for (let k = 0; k < 3; k++) v[k] = pose.p[3 * joint + k]! - pose.p[3 * leader + k]!;
    inverseInto(q, pose.r, 4 * leader);
    rotate64(offsets, 3 * i, q, 0, v, 0);
  });
  const leaders = new ChainReader(
    rig,
    motion,
    order.map((f) => f.leader),
  );
  const parents = order.map((f) => rig.parents[f.joint]!).filter((j) => j >= 0);
  const chains = new ChainReader(rig, { ...motion, turns: rotations, places: withPlaces(motion, places) }, parents);
  const world = new Float64Array(4);
  const place = new Float64Array(3);
  // a follower may hang from another: written in the order of joints, and what carries it is read anew when it has changed
  const nested = parents.some((p) => {
    for (let j = p; j >= 0; j = rig.parents[j]!) if (own.has(j)) return true;
    return false;
  });
  for (let f = 0; f < frames; f++) {
    const lead = leaders.at(f);
    let carry = parents.length > 0 ? chains.at(f) : lead;
    order.forEach(({ joint, leader }, i) => {
      mul64(world, 0, lead.r, 4 * leader, turns, 4 * i);
      rotate64(place, 0, lead.r, 4 * leader, offsets, 3 * i);
      for (let k = 0; k < 3; k++) place[k] = place[k]! + lead.p[3 * leader + k]!;
      const above = rig.parents[joint]!;
      if (above >= 0) {
        if (nested && i > 0) carry = chains.at(f);
        for (let k = 0; k < 3; k++) v[k] = place[k]! - carry.p[3 * above + k]!;
        inverseInto(q, carry.r, 4 * above);
        rotate64(place, 0, q, 0, v, 0);
        mul64(world, 0, q, 0, world, 0);
      }
      normalize64(world, 0);
      storeNear(rotations, 4 * (f * n + joint), world, 0, f > 0 ? 4 * ((f - 1) * n + joint) : -1);
      places.get(joint)!.set(place, 3 * f);
    });
  }
  return { ...motion, turns: rotations, places: withPlaces(motion, places) };
}

function withPlaces(motion: Motion, places: ReadonlyMap<number, Float32Array>): Motion['places'] {
  return [
    ...motion.places.filter((t) => !places.has(t.joint)),
    ...[...places].map(([joint, values]) => ({ joint, values })),
  ];
}

const ONE = Float64Array.of(0, 0, 0, 1);
const inverseInto = (dst: Float64Array, r: Float64Array, o: number): void => mulInv64(dst, 0, ONE, 0, r, o);
