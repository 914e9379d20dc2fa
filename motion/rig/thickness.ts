import { dot3, length3, set3, sub3 } from '../math/vec';
import type { Figure } from './figure';
import { restPose, type SkeletonRig, tipOf } from './rig';
import { type SkinEdges, sampleEdges } from './skin-edges';

/** How thick a character's skin is about its joints, metres, a number a joint; 0 where no skin tells. */
export interface Thickness {
  /** Middle distance of a joint's own skin from its bone, between its ends; cloth that hangs from it counts for little. */
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

/** A sleeve hangs to one side: skin counts no further out than this many times where it lies close to the bone. */
const HANGS = 1.6;
/** Sides of a bone that are looked at one by one. */
const SECTORS = 8;
/** Faces between two legs lie above this share of the bones where there are trousers; as many below it make a skirt. */
const LOW = 0.55;
const SKIRT = 3;

/** Measures a skin around the bones of its rig, in the rest pose. Needs no body map. */
export function measureThickness(rig: SkeletonRig, figure: Figure): Thickness {
  const n = rig.names.length;
  const pose = restPose(rig);
  const ends = endsOfBones(rig);
  const away: Around[] = Array.from({ length: n }, () => ({
    all: [],
    sides: Array.from({ length: SECTORS }, () => []),
  }));
  const front: number[][] = Array.from({ length: n }, () => []);
  const at = (j: number): number[] => [0, 1, 2].map((k) => pose.p[3 * j + k]!);
  const bones = ends.map((end, j) => {
    const to = end >= 0 ? at(end) : tipOf(rig, pose, j);
    const along = to?.map((x, k) => x - pose.p[3 * j + k]!);
    return {
      from: at(j),
      along,
      length2: along ? along.reduce((s, x) => s + x * x, 0) : 0,
      across: along && across(along),
    };
  });
  const held = new Float32Array(n);
  let vertices = 0;
  for (const { weights, joints } of figure.meshes) {
    vertices += weights.length / 4;
    for (let i = 0; i < weights.length; i++) held[joints[i]!] = held[joints[i]!]! + weights[i]!;
  }
  const d = [0, 0, 0];
  const out = [0, 0, 0];
  /** Share of the way along a joint's bone at which a point of the skin lies; leaves the way from the joint in d. */
  const share = (j: number, p: Float32Array, v: number): number => {
    const { from, along, length2 } = bones[j]!;
    sub3(d, 0, p, 3 * v, from, 0);
    return along && length2 > 1e-8 ? dot3(d, 0, along, 0) / length2 : Number.NaN;
  };
  const shared = new Float32Array(n);
  /** Bones that may be the two sides of one body: about as long, and neither carries the other. */
  const alike = (a: number, b: number): boolean =>
    Math.abs(bones[a]!.length2 - bones[b]!.length2) < 0.2 * bones[a]!.length2 &&
    !isAbove(rig, a, b) &&
    !isAbove(rig, b, a);
  for (const mesh of figure.meshes) {
    const [of, down] = [new Int32Array(mesh.positions.length / 3), new Float32Array(mesh.positions.length / 3)];
    for (let v = 0; v < mesh.positions.length / 3; v++) {
      let best = 0;
      for (let i = 1; i < 4; i++) if (mesh.weights[4 * v + i]! > mesh.weights[4 * v + best]!) best = i;
      const j = mesh.joints[4 * v + best]!;
      const t = share(j, mesh.positions, v);
      const { along } = bones[j]!;
      of[v] = j;
      down[v] = t;
      if (along && t >= ABOUT && t <= 1 - ABOUT) {
        set3(out, 0, d[0]! - t * along[0]!, d[1]! - t * along[1]!, d[2]! - t * along[2]!);
        const [x, y] = bones[j]!.across!;
        const angle = Math.atan2(dot3(y, 0, out, 0), dot3(x, 0, out, 0));
        const side = Math.floor((angle / (2 * Math.PI) + 0.5) * SECTORS) % SECTORS;
        const far = length3(out, 0);
        away[j]!.all.push(far);
        away[j]!.sides[side]!.push(far);
      }
      if (t < ABOUT) front[j]!.push(d[2]!);
      // skin above a joint hangs from what carries it
      const next = ends[j]!;
      if (next < 0 || !(t > 1 - ABOUT)) continue;
      share(next, mesh.positions, v);
      front[next]!.push(d[2]!);
    }
    countShared(mesh.indices, of, down, alike, shared);
  }
  const skirt = shared.map((faces) => (faces >= SKIRT ? 1 : 0));
  return {
    around: Float32Array.from(away, (skin, j) => (skin.all.length < ENOUGH || skirt[j] ? 0 : radius(skin))),
    ahead: Float32Array.from(front, (all, j) =>
      all.length < ENOUGH || skirt[j] ? 0 : all.reduce((most, x) => Math.max(most, x), 0),
    ),
    edges: sampleEdges(figure),
    held: held.map((x) => x / Math.max(1, vertices)),
  };
}

/** Distances of the skin from a bone: all of them, and by the side on which they lie. */
interface Around {
  readonly all: number[];
  readonly sides: readonly number[][];
}

const middle = (values: number[]): number => values.sort((a, b) => a - b)[values.length >> 1]!;

function radius({ all, sides }: Around): number {
  const near = sides
    .filter((side) => side.length > 0)
    .map(middle)
    .sort((a, b) => a - b);
  return Math.min(middle(all), HANGS * near[(near.length - 1) >> 2]!);
}

/** Two unit vectors across a bone and across each other. */
function across(along: readonly number[]): [number[], number[]] {
  const length = Math.hypot(...along) || 1;
  const u = along.map((x) => x / length);
  const least = u.reduce((best, x, k) => (Math.abs(x) < Math.abs(u[best]!) ? k : best), 0);
  const v = u.map((x, k) => (k === least ? 1 : 0) - x * u[least]!);
  const size = Math.hypot(...v) || 1;
  const a = v.map((x) => x / size);
  return [a, [u[1]! * a[2]! - u[2]! * a[1]!, u[2]! * a[0]! - u[0]! * a[2]!, u[0]! * a[1]! - u[1]! * a[0]!]];
}

/** Whether a joint carries another. */
function isAbove({ parents }: SkeletonRig, above: number, j: number): boolean {
  for (let i = j; i >= 0; i = parents[i]!) if (i === above) return true;
  return false;
}

/** Counts, by joint, the faces that join its skin with that of a bone alike far from where both begin. */
function countShared(
  indices: Uint32Array,
  of: Int32Array,
  down: Float32Array,
  alike: (a: number, b: number) => boolean,
  shared: Float32Array,
): void {
  for (let i = 0; i + 2 < indices.length; i += 3) {
    const [u, v, w] = [indices[i]!, indices[i + 1]!, indices[i + 2]!];
    if (!((down[u]! + down[v]! + down[w]!) / 3 > LOW)) continue;
    for (const [x, y] of [
      [u, v],
      [v, w],
      [w, u],
    ] as const) {
      const [a, b] = [of[x]!, of[y]!];
      if (a === b || !alike(a, b)) continue;
      shared[a] = shared[a]! + 1;
      shared[b] = shared[b]! + 1;
      break;
    }
  }
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
