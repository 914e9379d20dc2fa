import { jointOf } from '../bodymap/slots';
import { invMul64 } from '../math/fast';
import { ChainReader } from '../motion/chain-reader';
import type { Motion } from '../motion/motion';
import type { RetargetPlan } from '../retarget/plan';
import type { SkeletonRig } from '../rig/rig';

/** What can be drawn of a joint over time. */
export const CURVES = ['turn', 'speed', 'height', 'ahead', 'aside'] as const;
export type CurveKind = (typeof CURVES)[number];
export const CURVE_LABELS: Readonly<Record<CurveKind, { label: string; unit: string }>> = {
  turn: { label: 'turn from rest', unit: '°' },
  speed: { label: 'turning speed', unit: '°/s' },
  height: { label: 'height', unit: 'cm' },
  ahead: { label: 'place ahead', unit: 'cm' },
  aside: { label: 'place to the left', unit: 'cm' },
};

const DEG = 180 / Math.PI;

/**
 * A curve of one joint, a number a frame: the angle of its own turn away from rest and how fast that changes (degrees), or
 * its place in the world (centimetres).
 */
export function jointCurve(rig: SkeletonRig, motion: Motion, joint: number, kind: CurveKind): Float32Array {
  const frames = motion.frameCount;
  const out = new Float32Array(frames);
  const n = rig.names.length;
  if (kind === 'turn' || kind === 'speed') {
    const q = new Float64Array(4);
    const a = new Float64Array(4);
    const b = new Float64Array(4);
    for (let f = 0; f < frames; f++) {
      const o = 4 * (f * n + joint);
      const from = kind === 'turn' ? rig.restR : motion.turns;
      const at = kind === 'turn' ? 4 * joint : f > 0 ? o - 4 * n : o;
      for (let k = 0; k < 4; k++) {
        a[k] = from[at + k]!;
        b[k] = motion.turns[o + k]!;
      }
      invMul64(q, 0, a, 0, b, 0);
      const angle = 2 * Math.atan2(Math.hypot(q[0]!, q[1]!, q[2]!), Math.abs(q[3]!)) * DEG;
      out[f] = kind === 'turn' ? angle : angle * motion.fps;
    }
    if (kind === 'speed' && frames > 1) out[0] = out[1]!;
    return out;
  }
  const axis = kind === 'height' ? 1 : kind === 'ahead' ? 2 : 0;
  const reader = new ChainReader(rig, motion, [joint]);
  for (let f = 0; f < frames; f++) out[f] = reader.at(f).p[3 * joint + axis]! * 100;
  return out;
}

/** A target joint's curve, and its source partner's, where it has one. */
export function curvesOf(
  plan: RetargetPlan,
  source: Motion,
  result: Motion,
  joint: number,
  kind: CurveKind,
): { result: Float32Array; source: Float32Array | undefined; partner: string | undefined } {
  const partner = plan.a[joint]! >= 0 ? plan.a[joint]! : plan.same[joint]!;
  return {
    result: jointCurve(plan.target.rig, result, joint, kind),
    source: partner >= 0 ? jointCurve(plan.source.rig, source, partner, kind) : undefined,
    partner: plan.source.rig.names[partner],
  };
}

/** World path of a slot's joint, 3 F numbers, metres; undefined where the rig has none. For trails. */
export function pathOf(
  rig: SkeletonRig,
  map: RetargetPlan['target']['map'],
  motion: Motion,
  slot: string,
): Float32Array | undefined {
  const joint = jointOf(map, slot);
  if (joint < 0) return undefined;
  const out = new Float32Array(3 * motion.frameCount);
  const reader = new ChainReader(rig, motion, [joint]);
  for (let f = 0; f < motion.frameCount; f++) out.set(reader.at(f).p.subarray(3 * joint, 3 * joint + 3), 3 * f);
  return out;
}
