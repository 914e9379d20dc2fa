// Skeletons into bare meshes: the demo cast and foreign characters with their skins taken off, by nine marks and by none.
// Joints are compared with the true ones; skins by moving every vertex with both, under all demo motions.
import { buildBody } from '../demo/body-spec';
import { CAST } from '../demo/cast';
import { buildFigure } from '../demo/figure';
import { performAll } from '../demo/world';
import {
  type BodyMap,
  type Figure,
  figureExtent,
  jointOf,
  MARK_SLOTS,
  type Marks,
  type Party,
  PoseReader,
  restPose,
  retarget,
  rigMesh,
  type SkeletonRig,
} from '../motion/index';
import { mulInvQuat, rotate3 } from '../motion/math/quat';
import type { WorldPose } from '../motion/rig/rig';
import { openForeign } from './foreign-bodies';

type Row = Record<string, string | number>;

interface Body {
  readonly name: string;
  readonly rig: SkeletonRig;
  readonly map: BodyMap;
  readonly figure: Figure;
}

const bodies: Body[] = CAST.map((member) => {
  const { rig, map } = buildBody(member.spec, member.seed);
  return { name: member.name, rig, map, figure: buildFigure(rig, map, member.spec, member.look) };
});
const foreign = await openForeign();
// four legs and clouds of markers are no bodies that this is for
for (const { name, party, figure } of foreign.characters)
  if (
    figure &&
    jointOf(party.map, 'handL') >= 0 &&
    (restPose(party.rig).p[3 * jointOf(party.map, 'hips') + 1] ?? 0) > 0.6
  )
    bodies.push({ name, rig: party.rig as SkeletonRig, map: party.map, figure });

const { actor, performances } = performAll();
const FRAMES = [0.15, 0.4, 0.65, 0.9];
const EVERY = 11;

/** Joints whose places are a matter of taste along a spine: told apart, and not counted. */
const TASTE = new Set(['spine2', 'spine3']);

function joints(body: Body, marks: Marks): { row: Row; ms: number } {
  const rest = restPose(body.rig).p;
  const height = heightOf(body);
  const start = performance.now();
  const { places, fingers } = rigMesh(body.figure, marks);
  const ms = performance.now() - start;
  const all = Object.entries(places).flatMap(([slot, p]): [string, number][] => {
    const j = jointOf(body.map, slot);
    if (j < 0 || TASTE.has(slot)) return [];
    return [[slot, (100 * Math.hypot(...p.map((x, k) => x - rest[3 * j + k]!))) / height]];
  });
  const ofFinger = /^(thumb|index|middle|ring|pinky)/;
  const off = all.filter(([slot]) => !ofFinger.test(slot));
  const inHands = all.filter(([slot]) => ofFinger.test(slot)).map(([, x]) => x);
  const worst = off.reduce((a, b) => (b[1] > a[1] ? b : a));
  return {
    ms,
    row: {
      'mean %': Number((off.reduce((s, [, x]) => s + x, 0) / off.length).toFixed(2)),
      'largest %': Number(worst[1].toFixed(2)),
      at: worst[0],
      fingers: `${fingers.L} + ${fingers.R}`,
      'their joints %':
        inHands.length > 0 ? Number((inHands.reduce((s, x) => s + x, 0) / inHands.length).toFixed(2)) : '',
    },
  };
}

const heightOf = ({ figure }: Body): number => {
  const { low, high } = figureExtent(figure)!;
  return high - low;
};

/** How a pose has moved a point that stood with a joint at rest. */
function carried(pose: WorldPose, rest: WorldPose, j: number, p: ArrayLike<number>, out: number[]): void {
  const turn = [0, 0, 0, 1];
  mulInvQuat(turn, 0, pose.r, 4 * j, rest.r, 4 * j);
  const from = [0, 1, 2].map((k) => p[k]! - rest.p[3 * j + k]!);
  rotate3(out, 0, turn, 0, from, 0);
  for (let k = 0; k < 3; k++) out[k]! += pose.p[3 * j + k]!;
}

/**
 * Both skins under all motions, each vertex in heights. Ours hangs on a skeleton of our own, which takes the same motions; so
 * joints that lie elsewhere count, too.
 */
function skins(body: Body, marks: Marks): Row {
  const own = rigMesh(body.figure, marks);
  const source: Party = { rig: actor.rig, map: actor.map };
  const [theirs, ours] = [restPose(body.rig), restPose(own.rig)];
  const height = heightOf(body);
  const off: number[] = [];
  // a motion's turns from rest, joint by joint: the true skeleton's, carried over to ours by slot
  const partner = own.rig.names.map((slot) => jointOf(body.map, slot));
  for (const { motion } of performances) {
    const { motion: moved } = retarget(source, motion, { rig: body.rig, map: body.map });
    const reader = new PoseReader(body.rig, moved);
    for (const at of FRAMES) {
      const pose = reader.at(Math.floor(at * (moved.frameCount - 1)));
      const mine = followed(own.rig, ours, pose, theirs, partner);
      body.figure.meshes.forEach((mesh, m) => {
        for (let v = 0; v < mesh.positions.length / 3; v += EVERY) {
          const p = mesh.positions.subarray(3 * v, 3 * v + 3);
          const [a, b] = [skinned(pose, theirs, mesh, v, p), skinned(mine, ours, own.figure.meshes[m]!, v, p)];
          off.push((100 * Math.hypot(...a.map((x, k) => x - b[k]!))) / height);
        }
      });
    }
  }
  off.sort((x, y) => x - y);
  return {
    'skin mean %': Number((off.reduce((s, x) => s + x, 0) / off.length).toFixed(2)),
    'skin p99 %': Number(off[Math.floor(0.99 * off.length)]!.toFixed(2)),
  };
}

/** Our skeleton turned joint by joint as the true one is. */
function followed(
  rig: SkeletonRig,
  rest: WorldPose,
  pose: WorldPose,
  theirs: WorldPose,
  partner: readonly number[],
): WorldPose {
  const out: WorldPose = { p: rest.p.slice(), r: rest.r.slice() };
  rig.names.forEach((_, j) => {
    const parent = rig.parents[j]!;
    const twin = partner[j]!;
    if (twin >= 0) mulInvQuat(out.r, 4 * j, pose.r, 4 * twin, theirs.r, 4 * twin);
    else if (parent >= 0) for (let k = 0; k < 4; k++) out.r[4 * j + k] = out.r[4 * parent + k]!;
    const from = [0, 1, 2].map((k) => rest.p[3 * j + k]! - (parent >= 0 ? rest.p[3 * parent + k]! : 0));
    if (parent < 0)
      for (let k = 0; k < 3; k++) out.p[3 * j + k] = pose.p[3 * twin + k]! + from[k]! - theirs.p[3 * twin + k]!;
    else {
      rotate3(out.p, 3 * j, out.r, 4 * parent, from, 0);
      for (let k = 0; k < 3; k++) out.p[3 * j + k]! += out.p[3 * parent + k]!;
    }
  });
  return out;
}

function skinned(
  pose: WorldPose,
  rest: WorldPose,
  { joints: j, weights }: Pick<Figure['meshes'][number], 'joints' | 'weights'>,
  v: number,
  p: ArrayLike<number>,
): number[] {
  const sum = [0, 0, 0];
  const one = [0, 0, 0];
  for (let k = 0; k < 4; k++) {
    const w = weights[4 * v + k]!;
    if (w <= 0) continue;
    carried(pose, rest, j[4 * v + k]!, p, one);
    for (let i = 0; i < 3; i++) sum[i]! += w * one[i]!;
  }
  return sum;
}

const rows: Row[] = [];
for (const body of bodies) {
  const rest = restPose(body.rig).p;
  const marks: Marks = Object.fromEntries(
    MARK_SLOTS.flatMap((slot) => {
      const j = jointOf(body.map, slot);
      return j >= 0 && slot !== 'head' ? [[slot, [rest[3 * j]!, rest[3 * j + 1]!, rest[3 * j + 2]!]]] : [];
    }),
  );
  const triangles = body.figure.meshes.reduce((n, m) => n + m.indices.length / 3, 0);
  const nine = joints(body, marks);
  let none: Row = { 'mean %': 'not told', 'largest %': '', at: '' };
  try {
    none = joints(body, {}).row;
  } catch (error) {
    console.log(`${body.name} without marks: ${(error as Error).message}`);
  }
  rows.push({
    body: body.name,
    triangles,
    ms: Math.round(nine.ms),
    ...nine.row,
    'none: mean %': none['mean %']!,
    'none: largest %': none['largest %']!,
    ...skins(body, marks),
  });
}
console.table(rows);
