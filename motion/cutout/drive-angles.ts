import { type BodyMap, chainOf, jointOf } from '../bodymap/slots';
import { smoothstep } from '../math/vec';
import type { CutoutRig } from '../rig/rig';
import type { FlatBody } from './flat';
import type { Seen } from './seen';

/** Angles in the picture beyond rest, radians, joint by joint (F each), and lengths of drawn bones. */
export interface WorldAngles {
  readonly angle: Float64Array[];
  /** By joint: share of its length that a bone is drawn, F numbers. */
  readonly length: Map<number, Float32Array>;
}

/** The bone of the source behind a joint of the figure, as names of seen tracks. */
function boneOfSlot(slot: string, target: BodyMap): readonly [string, string] | undefined {
  const side = slot.at(-1)!;
  const part = slot.slice(0, -1);
  switch (part) {
    case 'upperArm':
      return [slot, jointOf(target, `forearm${side}`) >= 0 ? `forearm${side}` : `hand${side}`];
    case 'forearm':
      return [slot, `hand${side}`];
    case 'hand':
      return [slot, `handEnd${side}`];
    case 'thigh':
      return [slot, jointOf(target, `shin${side}`) >= 0 ? `shin${side}` : `foot${side}`];
    case 'shin':
      return [slot, `foot${side}`];
    default:
      return undefined;
  }
}

const CALM_S = 0.12;

/**
 * How every joint is turned in the picture: limbs along the directions that are seen, trunk, head and feet by their own turns,
 * everything else with what it hangs on.
 * @param flips 1 or −1 a frame, −1 where the figure is turned over @param least shortest that a bone is drawn
 * @param leastLeg the same for legs, which have to reach from the hips to the ground whatever is seen of them
 */
export function worldAngles(
  flat: FlatBody,
  seen: Seen,
  flips: Int8Array,
  least: number,
  leastLeg: number,
): WorldAngles {
  const { rig, map } = flat;
  const frames = seen.frameCount;
  const angle = rig.names.map(() => new Float64Array(frames));
  const length = new Map<number, Float32Array>();
  const slotOf = new Map(
    Object.entries(map.slots).flatMap(([slot, e]) => (e.joint >= 0 ? [[e.joint, slot] as const] : [])),
  );
  const trunk = trunkTurn(seen);
  for (let j = 0; j < rig.names.length; j++) {
    const own = angle[j]!;
    const slot = slotOf.get(j);
    const parent = rig.parents[j]!;
    const follow = (): void => {
      if (parent >= 0) own.set(angle[parent]!);
    };
    if (slot === undefined) {
      follow();
      continue;
    }
    const bones = /^(upperArm|forearm|hand|thigh|shin)[LR]$/.test(slot) ? boneOfSlot(slot, map) : undefined;
    const [a, b] = bones ? [seen.at[bones[0]], seen.at[bones[1]]] : [];
    if (a && b) {
      const bone = flat.bones.get(j) ?? handBone(rig, j);
      const rest = Math.atan2(bone.y, bone.x);
      const hand = slot.startsWith('hand');
      const shares = directionOf(a, b, flips, rest, own, seen.fps, hand ? angle[parent] : undefined);
      if (!hand && least < 1)
        length.set(
          j,
          shares.map((r) => Math.max(/^(thigh|shin)/.test(slot) ? leastLeg : least, Math.min(1, r))),
        );
      if (hand) wrists(own, angle[parent]!, shares);
      continue;
    }
    const turn = seenTurn(slot, map, seen, trunk);
    if (!turn) follow();
    else own.set(turn);
  }
  return { angle, length };
}

/** The turn that a part other than a limb's bone has in the picture; undefined where it just goes along. */
function seenTurn(slot: string, map: BodyMap, { turned }: Seen, trunk: Float64Array): Float64Array | undefined {
  if (slot === 'hips') return chainOf(map, 'spine').length === 0 ? trunk : (turned.hips ?? trunk);
  if (slot.startsWith('spine')) return trunk;
  if (slot.startsWith('neck')) return turned.head?.map((x, f) => 0.5 * (trunk[f]! + x));
  return turned[slot];
}

const handBone = (rig: CutoutRig, joint: number): { x: number; y: number } => {
  const end = rig.parts.find((p) => p.joint === joint)?.attachments.find((a) => a.name === 'end')?.at ?? [0, -1];
  const size = Math.hypot(end[0], end[1]) || 1;
  return { x: end[0] / size, y: end[1] / size };
};

/**
 * Angle of a bone in the picture beyond its rest angle, continuous in time, and the share of its length that is seen. A bone
 * that points at the eye has no direction of its own: there it goes by the frames about.
 */
function directionOf(
  a: Float64Array,
  b: Float64Array,
  flips: Int8Array,
  rest: number,
  out: Float64Array,
  fps: number,
  near: Float64Array | undefined,
): Float32Array {
  const n = out.length;
  const u = new Float64Array(n);
  const v = new Float64Array(n);
  const share = new Float32Array(n);
  for (let f = 0; f < n; f++) {
    const [x, y, z] = [b[3 * f]! - a[3 * f]!, b[3 * f + 1]! - a[3 * f + 1]!, b[3 * f + 2]! - a[3 * f + 2]!];
    const size = Math.hypot(x, y, z) || 1;
    u[f] = (x / size) * flips[f]!;
    v[f] = y / size;
    share[f] = Math.hypot(u[f]!, v[f]!);
  }
  const w = Math.max(1, Math.round(CALM_S * fps));
  let last = 0;
  for (let f = 0; f < n; f++) {
    let [x, y] = [u[f]!, v[f]!];
    const sure = smoothstep((share[f]! - 0.12) / 0.3);
    if (sure < 1) {
      let [mx, my] = [0, 0];
      for (let g = Math.max(0, f - w); g <= Math.min(n - 1, f + w); g++) {
        const by = 1 - Math.abs(g - f) / (w + 1);
        mx += by * u[g]!;
        my += by * v[g]!;
      }
      x = sure * x + ((1 - sure) * mx) / w;
      y = sure * y + ((1 - sure) * my) / w;
    }
    const at = Math.atan2(y, x) - rest;
    const before = f > 0 ? last : (near?.[0] ?? 0);
    last = Math.hypot(x, y) > 1e-6 ? at + 2 * Math.PI * Math.round((before - at) / (2 * Math.PI)) : before;
    out[f] = last;
  }
  return share;
}

const MOST_WRIST = (70 * Math.PI) / 180;

/** A hand turns with its forearm and beyond it by what the wrist does, as far as that is seen and a wrist can. */
function wrists(hand: Float64Array, forearm: Float64Array, seen: Float32Array): void {
  for (let f = 0; f < hand.length; f++) {
    let beyond = hand[f]! - forearm[f]!;
    beyond -= 2 * Math.PI * Math.round(beyond / (2 * Math.PI));
    // bent far back is not to be told from bent far forward: ease off before
    const room = 1 - smoothstep((Math.abs(beyond) - MOST_WRIST) / (Math.PI - MOST_WRIST));
    hand[f] =
      forearm[f]! + Math.max(-MOST_WRIST, Math.min(MOST_WRIST, beyond)) * smoothstep((seen[f]! - 0.3) / 0.4) * room;
  }
}

/** How the trunk leans in the picture beyond standing upright; leaning towards the eye is not seen. */
function trunkTurn(seen: Seen): Float64Array {
  const n = seen.frameCount;
  const out = new Float64Array(n);
  const { hips, chest } = seen.at;
  const turned = seen.turned.chestTurn;
  if (!hips || !chest) return out;
  let last = 0;
  for (let f = 0; f < n; f++) {
    const [x, y, z] = [
      seen.flips[f]! * (chest[3 * f]! - hips[3 * f]!),
      chest[3 * f + 1]! - hips[3 * f + 1]!,
      chest[3 * f + 2]! - hips[3 * f + 2]!,
    ];
    const size = Math.hypot(x, y, z) || 1;
    const share = Math.hypot(x, y) / size;
    const sure = smoothstep((share - 0.2) / 0.4);
    // where it points at the eye, the chest's own upright tells how it rolls
    const roll = turned?.[f] ?? 0;
    const [px, py] = [
      (sure * x) / size + (1 - sure) * -Math.sin(roll),
      (sure * y) / size + (1 - sure) * Math.cos(roll),
    ];
    const at = Math.atan2(-px, py);
    last = at + 2 * Math.PI * Math.round((last - at) / (2 * Math.PI));
    out[f] = last;
  }
  return out;
}
