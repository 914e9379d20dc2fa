import { invMulQuat, mulQuat, normalizeQuat, rotate3 } from '../math/quat';
import { type Motion, PoseReader } from '../motion/motion';
import { childrenOf, restPose, type SkeletonRig } from '../rig/rig';
import { buildRig } from './bodies';

// The plain body in other trees: joints of the same names are where they were in every frame, but hang from others.

export interface Case {
  readonly rig: SkeletonRig;
  readonly motion: Motion;
}

/** Joints of the new tree in its order: an old one by its name, or a new one that goes with an old one's frame. */
interface Node {
  readonly name: string;
  readonly parent: string | null;
  /** World turn and place of a joint that the old rig lacks, from the old rig's world pose; the old joint's where left out. */
  readonly world?: (at: (name: string) => { r: number[]; p: number[] }) => { r: number[]; p: number[] };
}

/** Rebuilds rig and motion in another tree with the same world poses. Every joint gets a track of places where it moves. */
function rebuild({ rig, motion }: Case, nodes: readonly Node[]): Case {
  const n = nodes.length;
  const index = new Map(nodes.map((x, j) => [x.name, j]));
  const parents = Int16Array.from(nodes, (x) => (x.parent === null ? -1 : index.get(x.parent)!));
  const locals = (pose: { r: ArrayLike<number>; p: ArrayLike<number> }): { r: Float32Array; t: Float32Array } => {
    const at = (name: string): { r: number[]; p: number[] } => {
      const j = rig.names.indexOf(name);
      return {
        r: [0, 1, 2, 3].map((k) => pose.r[4 * j + k]!),
        p: [0, 1, 2].map((k) => pose.p[3 * j + k]!),
      };
    };
    const world = nodes.map((x) => (x.world ? x.world(at) : at(x.name)));
    const r = new Float32Array(4 * n);
    const t = new Float32Array(3 * n);
    world.forEach((w, j) => {
      const above = parents[j]! < 0 ? { r: [0, 0, 0, 1], p: [0, 0, 0] } : world[parents[j]!]!;
      const q = [0, 0, 0, 1];
      invMulQuat(q, 0, above.r, 0, w.r, 0);
      normalizeQuat(q, 0);
      r.set(q, 4 * j);
      const d = w.p.map((x, k) => x - above.p[k]!);
      rotate3(d, 0, [-above.r[0]!, -above.r[1]!, -above.r[2]!, above.r[3]!], 0, d, 0);
      t.set(d, 3 * j);
    });
    return { r, t };
  };
  const rest = locals(restPose(rig));
  const turns = new Float32Array(4 * n * motion.frameCount);
  const places = nodes.map(() => new Float32Array(3 * motion.frameCount));
  const reader = new PoseReader(rig, motion);
  for (let f = 0; f < motion.frameCount; f++) {
    const { r, t } = locals(reader.at(f));
    turns.set(r, 4 * n * f);
    places.forEach((track, j) => {
      track.set(t.subarray(3 * j, 3 * j + 3), 3 * f);
    });
  }
  const tips = new Float32Array(3 * n).fill(Number.NaN);
  nodes.forEach((x, j) => {
    const old = rig.names.indexOf(x.name);
    if (old >= 0) tips.set(rig.tips.subarray(3 * old, 3 * old + 3), 3 * j);
  });
  for (let j = 0; j < n; j++)
    for (let f = 1; f < motion.frameCount; f++) {
      const [o, b] = [4 * (f * n + j), 4 * ((f - 1) * n + j)];
      let dot = 0;
      for (let k = 0; k < 4; k++) dot += turns[o + k]! * turns[b + k]!;
      if (dot < 0) for (let k = 0; k < 4; k++) turns[o + k] = -turns[o + k]!;
    }
  return {
    rig: { ...rig, names: nodes.map((x) => x.name), parents, restT: rest.t, restR: rest.r, tips },
    motion: {
      ...motion,
      turns,
      places: places.flatMap((values, joint) =>
        values.some((x, o) => Math.abs(x - rest.t[3 * joint + (o % 3)]!) > 1e-5) ? [{ joint, values }] : [],
      ),
    },
  };
}

const own = (rig: SkeletonRig): Node[] =>
  rig.names.map((name, j) => ({ name, parent: rig.parents[j]! < 0 ? null : rig.names[rig.parents[j]!]! }));
const still = (r: number[], p: number[]) => () => ({ r, p });

/** A joint on the ground above the hips, as files with root motion have. */
export const underRoot = (c: Case): Case =>
  rebuild(c, [
    { name: 'root', parent: null, world: still([0, 0, 0, 1], [0, 0, 0]) },
    ...own(c.rig).map((x) => (x.parent === null ? { ...x, parent: 'root' } : x)),
  ]);

/** An armature whose axes say Z is up, turned upright. */
export const zUpArmature = (c: Case): Case =>
  rebuild(c, [
    { name: 'Armature', parent: null, world: still([-Math.SQRT1_2, 0, 0, Math.SQRT1_2], [0, 0, 0]) },
    ...own(c.rig).map((x) => (x.parent === null ? { ...x, parent: 'Armature' } : x)),
  ]);

/** A root that goes with the hips and carries a pelvis with the legs and, beside it, the spine. */
export const legsAndSpineAreSiblings = (c: Case): Case =>
  rebuild(c, [
    { name: 'Root', parent: null, world: (at) => at('Hips') },
    ...own(c.rig).map((x) => (x.parent === null || x.name === 'Spine' ? { ...x, parent: 'Root' } : x)),
  ]);

/** Helpers of no length between hips and thighs. */
export const helperJoints = (c: Case): Case =>
  rebuild(
    c,
    own(c.rig).flatMap((x) =>
      /UpLeg$/.test(x.name)
        ? [
            { name: `${x.name}_helper`, parent: x.parent, world: (at) => ({ r: at('Hips').r, p: at(x.name).p }) },
            { ...x, parent: `${x.name}_helper` },
          ]
        : [x],
    ),
  );

/** The same with the hips standing still and no track of places at all. */
export const inPlace = ({ rig, motion }: Case): Case => ({ rig, motion: { ...motion, places: [] } });

/** A four-legged body: trunk level, hind and fore legs down, neck and head ahead. */
export function fourLegged(): SkeletonRig {
  const at = (name: string, parent: string | null, x: number, y: number, z: number) => [name, parent, x, y, z] as const;
  return buildRig([
    at('Hips', null, 0, 0.6, -0.3),
    at('Spine', 'Hips', 0, 0.62, -0.1),
    at('Chest', 'Spine', 0, 0.62, 0.2),
    at('Neck', 'Chest', 0, 0.7, 0.35),
    at('Head', 'Neck', 0, 0.82, 0.5),
    ...(['Left', 'Right'] as const).flatMap((side) => {
      const s = side === 'Left' ? 0.1 : -0.1;
      return [
        at(`${side}UpLeg`, 'Hips', s, 0.56, -0.32),
        at(`${side}Leg`, `${side}UpLeg`, s, 0.32, -0.28),
        at(`${side}Foot`, `${side}Leg`, s, 0.08, -0.34),
        at(`${side}Toe`, `${side}Foot`, s, 0.02, -0.27),
        at(`${side}Arm`, 'Chest', s, 0.54, 0.22),
        at(`${side}ForeArm`, `${side}Arm`, s, 0.3, 0.19),
        at(`${side}Hand`, `${side}ForeArm`, s, 0.06, 0.22),
      ];
    }),
  ]);
}

/**
 * The plain body walking on the spot it goes along: hips that travel and sway, legs and arms that swing against each other,
 * soles that come to the ground in turn. 60 frames a second.
 */
export function walking(frames = 120): Case {
  const rig = buildRig();
  const n = rig.names.length;
  const turns = new Float32Array(4 * n * frames);
  const values = new Float32Array(3 * frames);
  const about = (x: number, y: number, z: number, angle: number): number[] => [
    x * Math.sin(angle / 2),
    y * Math.sin(angle / 2),
    z * Math.sin(angle / 2),
    Math.cos(angle / 2),
  ];
  for (let f = 0; f < frames; f++) {
    const phase = (2 * Math.PI * f) / 60;
    turns.set(rig.restR, 4 * n * f);
    const set = (name: string, q: number[]): void => turns.set(q, 4 * (f * n + rig.names.indexOf(name)));
    set('Hips', about(0, 1, 0, 0.1 * Math.sin(phase) + 0.004 * f));
    set('Spine', about(0, 1, 0, -0.12 * Math.sin(phase)));
    set('Head', about(1, 0, 0, 0.05 * Math.sin(2 * phase)));
    for (const [side, s] of [
      ['Left', 1],
      ['Right', -1],
    ] as const) {
      const swing = s * Math.sin(phase);
      const lift = Math.max(0, s * Math.cos(phase));
      set(`${side}UpLeg`, about(1, 0, 0, -0.4 * swing - 0.3 * lift));
      set(`${side}Leg`, about(1, 0, 0, 0.15 + 0.8 * lift));
      set(`${side}Foot`, about(1, 0, 0, 0.4 * swing - 0.15 - 0.5 * lift));
      const arm = about(0, 0, 1, -s * 1.3);
      const q = [0, 0, 0, 1];
      mulQuat(q, 0, about(1, 0, 0, 0.4 * swing), 0, arm, 0);
      set(`${side}Arm`, q);
      set(`${side}ForeArm`, about(0, -s, 0, 0.3));
    }
    values.set([0.02 * Math.sin(phase), 0.93 - 0.02 * Math.cos(2 * phase), 0.012 * f], 3 * f);
  }
  return {
    rig,
    motion: { fps: 60, frameCount: frames, turns, places: [{ joint: 0, values }], numbers: [], scales: [], steps: [] },
  };
}

/** Largest distance between joints of equal names in two motions, metres. */
export function apart(a: Case, b: Case): number {
  const [x, y] = [new PoseReader(a.rig, a.motion), new PoseReader(b.rig, b.motion)];
  const pairs = a.rig.names.flatMap((name, j) => {
    const k = b.rig.names.indexOf(name);
    return k >= 0 ? [[j, k] as const] : [];
  });
  let most = Math.abs(a.motion.frameCount - b.motion.frameCount) * 10;
  for (let f = 0; f < Math.min(a.motion.frameCount, b.motion.frameCount); f++) {
    const [p, q] = [x.at(f).p, y.at(f).p];
    for (const [j, k] of pairs)
      most = Math.max(most, Math.hypot(...[0, 1, 2].map((i) => p[3 * j + i]! - q[3 * k + i]!)));
  }
  return most;
}

/** Largest change of a bone's length in a motion, metres; joints with a track of places left aside. */
export function boneChange({ rig, motion }: Case): number {
  const reader = new PoseReader(rig, motion);
  const moving = new Set(motion.places.map((t) => t.joint));
  let most = 0;
  const kids = childrenOf(rig);
  for (let f = 0; f < motion.frameCount; f += 7) {
    const { p } = reader.at(f);
    kids.forEach((list, j) => {
      for (const c of list) {
        if (moving.has(c)) continue;
        const now = Math.hypot(...[0, 1, 2].map((k) => p[3 * c + k]! - p[3 * j + k]!));
        most = Math.max(most, Math.abs(now - Math.hypot(...rig.restT.subarray(3 * c, 3 * c + 3))));
      }
    });
  }
  return most;
}
