import type { Figure } from './figure';
import { restPose, type SkeletonRig, tipOf } from './rig';
import { type SkinEdges, sampleEdges } from './skin-edges';

/** How thick a character's skin is about its joints, metres, a number a joint; 0 where no skin tells. */
export interface Thickness {
  /** Middle distance of a joint's own skin from its bone, between its ends. */
  readonly around: Float32Array;
  /** How far the skin about a joint reaches forwards (+Z at rest) from the joint: a knee rests on this. */
  readonly ahead: Float32Array;
  /** A sample of its edges; undefined where it was measured before this was. */
  readonly edges?: SkinEdges | undefined;
  /** Share of the skin that hangs on each joint; undefined where it was measured before this was. */
  readonly held?: Float32Array | undefined;
}

/** Joints that hold less of the skin than this hold none worth speaking of. */
const HELD = 0.0004;

/** Joints that skin hangs on; undefined where that was not measured. */
export const skinnedJoints = ({ held }: Thickness): number[] | undefined =>
  held && [...held.keys()].filter((j) => held[j]! > HELD);

/** Fewest skin points from which a thickness is told. */
const ENOUGH = 8;
/** Skin within this share of its bone's length above and below a joint counts as about it. */
const ABOUT = 0.15;

/** Measures a skin around the bones of its rig, in the rest pose. Needs no body map. */
export function measureThickness(rig: SkeletonRig, figure: Figure): Thickness {
  const n = rig.names.length;
  const pose = restPose(rig);
  const ends = endsOfBones(rig);
  const away: number[][] = Array.from({ length: n }, () => []);
  const front: number[][] = Array.from({ length: n }, () => []);
  const at = (j: number): number[] => [0, 1, 2].map((k) => pose.p[3 * j + k]!);
  const bones = ends.map((end, j) => {
    const to = end >= 0 ? at(end) : tipOf(rig, pose, j);
    const along = to?.map((x, k) => x - pose.p[3 * j + k]!);
    return { from: at(j), along, length2: along ? along.reduce((s, x) => s + x * x, 0) : 0 };
  });
  const held = new Float32Array(n);
  let vertices = 0;
  for (const { weights, joints } of figure.meshes) {
    vertices += weights.length / 4;
    for (let i = 0; i < weights.length; i++) held[joints[i]!] = held[joints[i]!]! + weights[i]!;
  }
  const d = [0, 0, 0];
  /** Share of the way along a joint's bone at which a point of the skin lies; leaves the way from the joint in d. */
  const share = (j: number, p: Float32Array, v: number): number => {
    const { from, along, length2 } = bones[j]!;
    for (let k = 0; k < 3; k++) d[k] = p[3 * v + k]! - from[k]!;
    return along && length2 > 1e-8 ? d.reduce((s, x, k) => s + x * along[k]!, 0) / length2 : Number.NaN;
  };
  for (const mesh of figure.meshes) {
    for (let v = 0; v < mesh.positions.length / 3; v++) {
      let best = 0;
      for (let i = 1; i < 4; i++) if (mesh.weights[4 * v + i]! > mesh.weights[4 * v + best]!) best = i;
      const j = mesh.joints[4 * v + best]!;
      const t = share(j, mesh.positions, v);
      const { along } = bones[j]!;
      if (along && t >= ABOUT && t <= 1 - ABOUT) away[j]!.push(Math.hypot(...d.map((x, k) => x - t * along[k]!)));
      if (t < ABOUT) front[j]!.push(d[2]!);
      // skin above a joint hangs from what carries it
      const next = ends[j]!;
      if (next < 0 || !(t > 1 - ABOUT)) continue;
      share(next, mesh.positions, v);
      front[next]!.push(d[2]!);
    }
  }
  return {
    around: Float32Array.from(away, (all) => (all.length < ENOUGH ? 0 : all.sort((a, b) => a - b)[all.length >> 1]!)),
    ahead: Float32Array.from(front, (all) => (all.length < ENOUGH ? 0 : all.reduce((most, x) => Math.max(most, x), 0))),
    edges: sampleEdges(figure),
    held: held.map((x) => x / Math.max(1, vertices)),
  };
}

/** Thickness as files and the wire hold it: metres to a tenth of a millimetre. */
export interface SkinJson {
  readonly around: number[];
  readonly ahead: number[];
  readonly edges?: { places: number[]; joints: number[]; weights: number[] } | undefined;
  readonly held?: number[] | undefined;
}

const short = (values: Float32Array): number[] => Array.from(values, (x) => Math.round(x * 1e4) / 1e4);
/** What was measured on a skin, as plain JSON, rounded to a tenth of a millimetre. */
export const skinToJson = (skin: Thickness): SkinJson => ({
  around: short(skin.around),
  ahead: short(skin.ahead),
  edges: skin.edges && {
    places: short(skin.edges.places),
    joints: [...skin.edges.joints],
    weights: Array.from(skin.edges.weights, (x) => Math.round(x * 1000) / 1000),
  },
  held: skin.held && short(skin.held),
});
/** What skinToJson wrote, in typed arrays again. */
export const skinFromJson = (json: SkinJson): Thickness => ({
  around: Float32Array.from(json.around),
  ahead: Float32Array.from(json.ahead),
  edges: json.edges && {
    places: Float32Array.from(json.edges.places),
    joints: Uint16Array.from(json.edges.joints),
    weights: Float32Array.from(json.edges.weights),
  },
  held: json.held && Float32Array.from(json.held),
});

/** The joint at which each joint's bone ends: of its children the one that carries most; −1 for none. */
function endsOfBones(rig: SkeletonRig): number[] {
  const n = rig.names.length;
  const carried = new Array<number>(n).fill(1);
  for (let j = n - 1; j >= 0; j--) if (rig.parents[j]! >= 0) carried[rig.parents[j]!]! += carried[j]!;
  const ends = new Array<number>(n).fill(-1);
  for (let j = 0; j < n; j++) {
    const above = rig.parents[j]!;
    if (above >= 0 && (ends[above]! < 0 || carried[j]! > carried[ends[above]!]!)) ends[above] = j;
  }
  return ends;
}
