import type { Skin } from '../rig/figure';
import type { FingeredHand } from './fingers';
import { toLine, writeStrongest } from './skin-weights';
import type { Surface } from './solid';

type V3 = readonly [number, number, number];

/** Rounds of relaxation at most, and the change at which it has settled. */
const ROUNDS = 120;
const SETTLED = 1e-3;

interface Bone {
  readonly joint: number;
  readonly from: V3;
  readonly to: V3;
}

/**
 * Hands what a hand moves over to its fingers, in place: heat flows over the hand's surface from the bones nearest to each
 * point, where a finger's own skin counts for that finger alone. So fingers that touch do not move each other.
 * Source: Baran and Popović 2007 (Automatic rigging and animation of 3D characters), its heat equation.
 * @param skins of the surfaces, whose weights are shared out @param surfaces in the hand's space
 * @param jointOf the rig's joint of a slot, such as hand or index1
 */
export function shareHand(
  skins: readonly Skin[],
  surfaces: readonly Surface[],
  hand: FingeredHand,
  wrist: V3,
  jointOf: (part: string) => number,
): void {
  const { graph, fingers, piece } = hand;
  const palm = jointOf('hand');
  const bones: Bone[] = [];
  const ofFinger = fingers.map(({ name, joints, tip }) => {
    bones.push({ joint: palm, from: wrist, to: joints[0] });
    const own = joints.map((from, k): Bone => ({ joint: jointOf(`${name}${k + 1}`), from, to: joints[k + 1] ?? tip }));
    bones.push(...own);
    return own;
  });
  // in the palm a finger's first bone alone has a say
  const inPalm = bones.filter((b) => b.joint === palm || ofFinger.some((own) => own[0] === b));
  const allowed = new Map<number, readonly Bone[]>();
  fingers.forEach((f, i) => {
    for (const p of f.points) allowed.set(p, ofFinger[i]!);
  });
  const joints = [...new Set(bones.map((b) => b.joint))];
  const heat = heatOver(graph, piece, joints, (p) => allowed.get(p) ?? inPalm);
  const near = nearestOf(graph.points, piece);
  const member = new Set(piece);
  for (const [m, { joints: told, weights }] of skins.entries()) {
    const { positions } = surfaces[m]!;
    for (let v = 0; v < positions.length / 3; v++) {
      const own = graph.pointOf[m]![v]!;
      // a finger's skin is the hand's altogether, whatever lies near it
      const inFinger = allowed.has(own);
      const at = [0, 1, 2, 3].findIndex((k) => told[4 * v + k] === palm && weights[4 * v + k]! > 0);
      if (own < 0 || (at < 0 && !inFinger)) continue;
      // nails and gloves go with the skin that they lie on
      const point = member.has(own) ? own : near([positions[3 * v]!, positions[3 * v + 1]!, positions[3 * v + 2]!]);
      const share = inFinger ? 1 : weights[4 * v + at]!;
      const shares = joints.map((joint, b) => [joint, share * heat[b]![point]!] as const);
      const others = [0, 1, 2, 3].flatMap((k) =>
        k === at || inFinger ? [] : [[told[4 * v + k]!, weights[4 * v + k]!] as const],
      );
      writeStrongest(told, weights, 4 * v, [...shares, ...others.filter(([, w]) => w > 0)]);
    }
  }
}

/** By joint: its share of every point; they sum to 1. */
function heatOver(
  { points, first, next }: FingeredHand['graph'],
  piece: readonly number[],
  joints: readonly number[],
  bonesAt: (point: number) => readonly Bone[],
): Float64Array[] {
  const n = points.length / 3;
  const label = new Int32Array(n).fill(-1);
  const hold = new Float64Array(n);
  for (const i of piece) {
    const at = [points[3 * i]!, points[3 * i + 1]!, points[3 * i + 2]!];
    let least = Number.POSITIVE_INFINITY;
    for (const bone of bonesAt(i)) {
      const d = toLine(at, bone.from, bone.to);
      if (d >= least) continue;
      least = d;
      label[i] = joints.indexOf(bone.joint);
    }
    // a bone's heat is lost into skin that lies farther from it; told in edges, so that fine and coarse meshes are alike
    let edges = 0;
    for (let e = first[i]!; e < first[i + 1]!; e++)
      edges += Math.hypot(...at.map((x, k) => x - points[3 * next[e]! + k]!)) / (first[i + 1]! - first[i]!);
    hold[i] = (first[i + 1]! - first[i]!) * (edges / Math.max(least, 1e-9)) ** 2;
  }
  return joints.map((_, b) => {
    const w = new Float64Array(n);
    for (const i of piece) w[i] = label[i] === b ? 1 : 0;
    for (let round = 0; round < ROUNDS; round++) {
      let change = 0;
      for (const i of piece) {
        let sum = label[i] === b ? hold[i]! : 0;
        for (let e = first[i]!; e < first[i + 1]!; e++) sum += w[next[e]!]!;
        const to = sum / (hold[i]! + first[i + 1]! - first[i]!);
        if (!Number.isFinite(to)) continue;
        change = Math.max(change, Math.abs(to - w[i]!));
        w[i] = to;
      }
      if (change < SETTLED) break;
    }
    return w;
  });
}

function nearestOf(points: Float64Array, piece: readonly number[]): (at: readonly number[]) => number {
  return (at) => {
    let [best, least] = [piece[0]!, Number.POSITIVE_INFINITY];
    for (const i of piece) {
      const d =
        (points[3 * i]! - at[0]!) ** 2 + (points[3 * i + 1]! - at[1]!) ** 2 + (points[3 * i + 2]! - at[2]!) ** 2;
      if (d < least) [best, least] = [i, d];
    }
    return best;
  };
}
